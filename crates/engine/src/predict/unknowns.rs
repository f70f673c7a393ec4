//! What nobody drew and yet decides: the cheapest thing to ask about a room.

use busy_hen_home::RoomId;
use busy_hen_units::MbitPerSec;
use serde::Serialize;
use utoipa::ToSchema;

use super::Model;
use crate::geometry::Point;

/// Speeds that differ by less than this factor are not worth a question.
const WORTH_ASKING: f64 = 1.5;
/// Nor those that differ by less than this.
const WORTH_MBPS: f64 = 10.0;

/// Doors that nobody drew, and what they decide.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Undrawn {
    /// The room whose doors should be drawn.
    pub room_id: RoomId,
    /// Its name.
    pub room: String,
    /// What arrives when they are where they serve least.
    pub low_mbps: MbitPerSec,
    /// What arrives when they are where they serve most.
    pub high_mbps: MbitPerSec,
}

impl Model<'_> {
    /// Whether doors that nobody drew decide what arrives at a place of a room, and whose; none when they don't, or all are drawn.
    #[must_use]
    pub fn undrawn(&self, at: Point, room: RoomId) -> Option<Undrawn> {
        let losses = self.losses(at);
        let seat = self.seat(Some(room));
        let rates: Vec<MbitPerSec> = losses.each.iter().map(|way| self.evaluator.middle(way, seat).down).collect();
        let low = rates.iter().copied().reduce(MbitPerSec::min)?;
        let high = rates.iter().copied().reduce(MbitPerSec::max)?;
        if high.get() < WORTH_ASKING * low.get() || (high - low).get() < WORTH_MBPS {
            return None;
        }
        let serving = self.evaluator.join(&losses.middle).map(|(access, _)| {
            let node = &self.network().nodes[self.evaluator.accesses[access].node];
            node.at
        });
        let with_it = serving.and_then(|at| self.plan.rooms.iter().find(|own| self.plan.holds(own, &at)));
        let asked = [self.plan.room(room), with_it].into_iter().flatten().find(|own| self.plan.is_undrawn(own));
        // Where both ends are drawn, it is a room between them.
        let between = || self.plan.rooms.iter().find(|own| self.plan.is_undrawn(own));
        let own = asked.or_else(between)?;
        Some(Undrawn { room_id: own.id, room: own.name.clone(), low_mbps: low, high_mbps: high })
    }
}
