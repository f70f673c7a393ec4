//! What became of the drills of one failure: each part in its middle with its spread, and whether it went as was predicted.

use busy_hen_home::{Drill, Setup, Sight};
use busy_hen_predict::summary::Figures;
use busy_hen_units::words::capitalised;
use serde::Serialize;
use utoipa::ToSchema;

use super::outage::Outage;
use super::phase::{Phase, took};
use super::usual::{Usual, usual};
use crate::kit_record::{KitRecord, Recovery, recovery_of};

/// A part over all drills of one failure.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Timed {
    /// The part.
    pub part: Phase,
    /// Middle and middle half, s.
    pub took_s: Figures,
    /// Drills that it was marked in.
    pub drills: usize,
}

/// Drills of one failure.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Drilled {
    /// What is predicted.
    pub predicted: Outage,
    /// What is usual.
    pub usual: Vec<Usual>,
    /// What the drills took.
    pub timed: Vec<Timed>,
    /// What they took with the same kit in other homes.
    pub elsewhere: Vec<Recovery>,
    /// The drills, newest first.
    pub drills: Vec<Drill>,
    /// What they say, in sentences: slow or quick, as predicted or not, what broke.
    pub told: Vec<String>,
}

/// The drills of one failure with what they say; others among them count for nothing.
#[must_use]
pub fn drilled(setup: &Setup, predicted: Outage, drills: &[Drill], elsewhere: &[KitRecord]) -> Drilled {
    let failure = predicted.failure;
    let mut own: Vec<Drill> = drills.iter().filter(|own| own.failure == failure).cloned().collect();
    own.sort_by_key(|drill| std::cmp::Reverse(drill.begun));
    let timed: Vec<Timed> = Phase::ALL
        .into_iter()
        .filter_map(|part| {
            let list: Vec<f64> = own.iter().filter_map(|drill| took(drill, part)).collect();
            let drills = list.len();
            Some(Timed { part, took_s: Figures::of(list)?, drills })
        })
        .collect();
    let usual = usual(failure, predicted.takes_over);
    let mut told: Vec<String> = Vec::new();
    for own in &timed {
        let Some(usual) = usual.iter().find(|usual| usual.part == own.part) else { continue };
        let middle = own.took_s.median;
        let how = if middle > usual.to_s {
            "slower than usual"
        } else if middle < usual.from_s {
            "quicker than usual"
        } else {
            continue;
        };
        let range = format!("{:.0} to {:.0} s", usual.from_s, usual.to_s);
        told.push(format!("{}: {middle:.1} s, {how} ({range}).", capitalised(own.part.name())));
    }
    told.extend(own.first().into_iter().flat_map(|drill| went(setup, drill, &predicted)));
    let broke = own.iter().flat_map(|drill| &drill.marks).filter(|own| own.seen == Sight::SessionBroke).count();
    if broke > 0 {
        let calls = if broke == 1 {
            "A call or download broke".to_owned()
        } else {
            format!("{broke} calls or downloads broke")
        };
        told.push(format!("{calls}."));
    }
    let stopped = own.iter().filter(|drill| drill.stopped).count();
    if stopped > 0 {
        told.push(format!("{stopped} broken off before all was back."));
    }
    let elsewhere = recovery_of(elsewhere, setup, failure);
    Drilled { predicted, usual, timed, elsewhere, drills: own, told }
}

/// Whether nodes went the way that was predicted, as far as somebody looked.
fn went(setup: &Setup, drill: &Drill, predicted: &Outage) -> Vec<String> {
    let name = |id| setup.device(id).map_or("a device", |own| own.name.as_str());
    let ways = drill.marks.iter().filter_map(|own| match own.seen {
        Sight::Rejoined { device, to } => Some((device, to)),
        _ => None,
    });
    ways.map(|(device, to)| match predicted.rejoined.iter().find(|own| own.device_id == device) {
        Some(own) if own.to == to => format!("{} went by {}, as predicted.", name(device), name(to)),
        Some(own) => format!("{} went by {}, not by {} as predicted.", name(device), name(to), name(own.to)),
        None => format!("{} went by {}; it was predicted to stay as it is.", name(device), name(to)),
    })
    .collect()
}
