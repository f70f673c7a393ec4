//! The room ledger: what each room needs, gets by prediction, and got by measurement; worst first.

use std::collections::HashMap;

use busy_hen_home::{LevelId, RoomId, SpotId};
use serde::Serialize;
use utoipa::ToSchema;

use super::{Model, Prediction};
use crate::geometry::PlanRoom;
use crate::needs::{Need, Verdict, verdict};
use crate::readings::Summary;

/// One room of the ledger.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct LedgerRow {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// Its level.
    pub level_id: LevelId,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
    /// The spot that the row speaks of: the room's worst.
    pub spot_id: Option<SpotId>,
    /// What the room needs.
    pub need: Option<Need>,
    /// What it gets by prediction at its worst spot.
    pub predicted: Prediction,
    /// The prediction judged; none without a need.
    pub predicted_verdict: Option<Verdict>,
    /// Link that limits there, in words.
    pub limited_by: Option<String>,
    /// What was measured at its worst spot.
    pub measured: Option<Summary>,
    /// The measurement judged; none without a need or a measurement.
    pub measured_verdict: Option<Verdict>,
}

impl Model<'_> {
    /// The ledger of all rooms that have a place, worst first.
    ///
    /// A room is as good as its worst spot: the one with the lowest predicted, or measured, download.
    #[must_use]
    pub fn ledger(&self, measured: &HashMap<SpotId, Summary>) -> Vec<LedgerRow> {
        let mut rows: Vec<LedgerRow> = self.plan.rooms.iter().map(|room| self.row(room, measured)).collect();
        rows.sort_by(|a, b| badness(a).total_cmp(&badness(b)).then_with(|| a.name.cmp(&b.name)));
        rows
    }

    fn row(&self, room: &PlanRoom, measured: &HashMap<SpotId, Summary>) -> LedgerRow {
        let spots = || self.home.house.spots.iter().filter(|spot| spot.room_id == room.id);
        let worst = spots()
            .filter_map(|spot| self.plan.spot(spot).map(|(_, at)| (spot.id, at)))
            .map(|(id, at)| (Some(id), at, self.at(at, Some(room.id))))
            .min_by(|a, b| a.2.down.middle.get().total_cmp(&b.2.down.middle.get()));
        let (spot_id, at, predicted) = worst.unwrap_or_else(|| {
            let rect = &room.rect;
            let at = self.plan.in_hand(room.level, rect.x + rect.width / 2.0, rect.y + rect.depth / 2.0);
            (None, at, self.at(at, Some(room.id)))
        });
        let measured = spots()
            .filter_map(|spot| measured.get(&spot.id))
            .min_by(|a, b| a.down_mbps.median.total_cmp(&b.down_mbps.median))
            .copied();
        let need = self.need(room.id);
        let chain = self.chain(at, Some(room.id));
        LedgerRow {
            room_id: room.id,
            name: room.name.clone(),
            level_id: self.plan.levels[room.level].id,
            outdoors: room.outdoors,
            spot_id,
            predicted_verdict: need.map(|need| verdict::predicted(&need, &predicted)),
            measured_verdict: need.zip(measured).map(|(need, summary)| verdict::measured(&need, &summary)),
            need,
            predicted,
            limited_by: chain.and_then(|chain| chain.limiting.map(|index| chain.links[index].label.clone())),
            measured,
        }
    }
}

/// Lower is worse: rooms with a need by how much of it they get (measured when there is a measurement), then the others.
fn badness(row: &LedgerRow) -> f64 {
    let (down, up) = row.measured.map_or((row.predicted.down.middle.get(), row.predicted.up.middle.get()), |summary| {
        (summary.down_mbps.median, summary.up_mbps.median)
    });
    match &row.need {
        Some(need) => (down / need.down_mbps.get()).min(up / need.up_mbps.get()),
        None => 1e9 + down,
    }
}
