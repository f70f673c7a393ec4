//! The room ledger: what each room needs, gets by prediction, and got by measurement; worst first.

use std::collections::HashMap;

use busy_hen_floorplan::PlanRoom;
use busy_hen_home::{LevelId, RoomId, Situation, SpotId};
use busy_hen_units::{MbitPerSec, Millis};
use serde::Serialize;
use utoipa::ToSchema;

use super::unknowns::Undrawn;
use super::{Model, Prediction};
use crate::conditions::Conditions;
use crate::needs::{Need, ServiceStep, Shortfall, Verdict, step, verdict};
use crate::summary::{self, Summary};

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
    /// Whether the device asked about goes by cable and none stands here to plug it into: nothing is predicted.
    pub no_port: bool,
    /// The prediction judged; none without a need, or a port where one is needed.
    pub predicted_verdict: Option<Verdict>,
    /// Link that limits there, in words.
    pub limited_by: Option<String>,
    /// Doors that nobody drew and that decide what arrives there.
    pub undrawn: Option<Undrawn>,
    /// What was measured at the worst of its spots that were, under one set of conditions.
    pub measured: Option<Summary>,
    /// What of the need that measurement meets least; none without either.
    pub measured_least_met: Option<Shortfall>,
    /// The spot of that measurement, which may be another than the one predicted worst.
    pub measured_spot_id: Option<SpotId>,
    /// Whether the product made that measurement up.
    pub made_up: bool,
    /// Its conditions, where they are not those that the prediction is for.
    pub measured_under: Option<String>,
    /// The measurement judged; none without a need or a measurement.
    pub measured_verdict: Option<Verdict>,
    /// What works there as measured; none without a measurement.
    pub measured_step: Option<ServiceStep>,
    /// Whether the need is met as far as is known: by what was measured where anything was, else by prediction.
    pub judged: Option<Judged>,
}

/// A verdict with what it goes by.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Judged {
    /// Whether the need is met.
    pub verdict: Verdict,
    /// Whether it was measured; else it is predicted. What the product made up is no measurement.
    pub measured: bool,
}

impl LedgerRow {
    /// What was measured, and not made up, where it is short of the room's need.
    #[must_use]
    pub fn measured_short(&self) -> Option<MbitPerSec> {
        let short = self.measured_verdict == Some(Verdict::NotMet) && !self.made_up;
        self.measured.filter(|_| short).map(|own| MbitPerSec::new(own.down_mbps.median))
    }
}

/// What was measured of a setup, under one set of conditions.
#[derive(Debug, Clone, Default)]
pub struct Measured {
    /// Figures by spot.
    pub by_spot: HashMap<SpotId, Summary>,
    /// The conditions they were taken under; none when nothing was measured.
    pub conditions: Option<Conditions>,
    /// The conditions that are asked for.
    pub asked: Option<Conditions>,
}

impl Measured {
    /// The conditions in words, where they are not those asked for.
    fn other_conditions(&self) -> Option<String> {
        let (own, asked) = (self.conditions.as_ref()?, self.asked.as_ref()?);
        (!own.alike(asked)).then(|| own.in_words())
    }
}

impl Model<'_> {
    /// The ledger of all rooms that have a place, worst first.
    ///
    /// A room is as good as its worst spot: the one with the lowest predicted, or measured, download.
    #[must_use]
    pub fn ledger(&self, measured: &Measured) -> Vec<LedgerRow> {
        let mut rows: Vec<LedgerRow> = self.wanted(&self.plan.rooms).map(|room| self.row(room, measured)).collect();
        rows.sort_by(|a, b| badness(a).total_cmp(&badness(b)).then_with(|| a.name.cmp(&b.name)));
        rows
    }

    pub(super) fn row(&self, room: &PlanRoom, measured: &Measured) -> LedgerRow {
        let spots = || self.home.house.spots.iter().filter(|spot| spot.room_id == room.id);
        let worst = spots()
            .filter_map(|spot| self.plan.spot(spot).map(|(_, at)| (spot.id, at)))
            .map(|(id, at)| (Some(id), at, self.at(at, Some(room.id))))
            .min_by(|a, b| a.2.down.middle.get().total_cmp(&b.2.down.middle.get()));
        let (spot_id, at, predicted) = worst.unwrap_or_else(|| {
            let at = self.plan.middle_of(room);
            (None, at, self.at(at, Some(room.id)))
        });
        let ids: Vec<SpotId> = spots().map(|spot| spot.id).collect();
        let found = summary::worst(&ids, &measured.by_spot);
        let summary = found.map(|(_, summary)| summary);
        let need = self.need(room.id);
        let chain = self.chain(at, Some(room.id));
        let no_port = self.evaluator.plugged_in && predicted.plugged_into.is_none();
        let made_up = found.is_some() && measured.conditions.as_ref().is_some_and(|own| own.made_up);
        let predicted_verdict = need
            .filter(|_| !no_port)
            .map(|need| verdict::predicted(&need, &predicted.down, &predicted.up, predicted.felt_ms));
        let situation = measured.conditions.as_ref().map_or(self.question.situation, |own| own.under.situation);
        let measured_verdict = need.zip(summary).map(|(need, own)| verdict::measured(&need, &own, situation));
        let by = |measured: bool| move |verdict: Verdict| Judged { verdict, measured };
        LedgerRow {
            measured_least_met: need.zip(summary).map(|(need, own)| {
                let felt = own.felt_ms(situation).map_or(Millis::new(0.0), |own| Millis::new(own.median));
                let rate = MbitPerSec::new;
                need.least_met(rate(own.down_mbps.median), rate(own.up_mbps.median), felt)
            }),
            no_port,
            room_id: room.id,
            name: room.name.clone(),
            level_id: self.plan.levels[room.level].id,
            outdoors: room.outdoors,
            spot_id,
            judged: measured_verdict.filter(|_| !made_up).map(by(true)).or(predicted_verdict.map(by(false))),
            predicted_verdict,
            measured_verdict,
            measured_step: summary.map(|own| step_of(&own, situation, predicted.felt_ms)),
            need,
            predicted,
            undrawn: self.undrawn(at, room.id),
            limited_by: chain.and_then(|chain| chain.limiting.map(|index| chain.links[index].label.clone())),
            measured: summary,
            measured_spot_id: found.map(|(spot, _)| spot),
            made_up,
            measured_under: measured.other_conditions().filter(|_| found.is_some()),
        }
    }
}

/// What works where this was measured; a delay that nobody took is taken as predicted.
fn step_of(summary: &Summary, situation: Situation, predicted: Millis) -> ServiceStep {
    let latency = summary.felt_ms(situation).map_or(predicted, |own| Millis::new(own.median));
    ServiceStep::of_score(step::score(
        MbitPerSec::new(summary.down_mbps.median),
        MbitPerSec::new(summary.up_mbps.median),
        latency,
    ))
}

/// Lower is worse: rooms with a need by how much of it they get (measured when there is a measurement), then the others.
fn badness(row: &LedgerRow) -> f64 {
    let (down, up) = row.measured.map_or((row.predicted.down.middle.get(), row.predicted.up.middle.get()), |summary| {
        (summary.down_mbps.median, summary.up_mbps.median)
    });
    match &row.need {
        _ if row.no_port && row.measured.is_none() => 1e12,
        Some(need) => (down / need.down_mbps.get()).min(up / need.up_mbps.get()),
        None => 1e9 + down,
    }
}
