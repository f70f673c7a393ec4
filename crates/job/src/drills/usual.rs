//! How long each part of a drill commonly takes.
//!
//! # Source
//! Common practice, as orders of magnitude: a mesh node from cold takes minutes, a pulled backhaul cable falls over to radio within tens of
//! seconds, a returned line is used again within seconds. A second line takes over once a few checks of the first have failed, and gives back
//! once a few have held, so that a flapping line does not flap on. The figures are our own reading of that (engineering estimate): what one looks
//! for until a home's own drills say better.

use busy_hen_home::Failure;
use serde::Serialize;
use utoipa::ToSchema;

use super::phase::Phase;

/// What is usual of a part of a drill, s.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Usual {
    /// The part.
    pub part: Phase,
    /// Faster is quick.
    pub from_s: f64,
    /// Slower is slow.
    pub to_s: f64,
}

/// What is usual of the parts of a drill; with a second line that takes over by itself or not.
#[must_use]
pub fn usual(failure: Failure, takes_over: bool) -> Vec<Usual> {
    let usual = |part, from_s, to_s| Usual { part, from_s, to_s };
    match failure {
        Failure::Power { .. } | Failure::AllNodes => {
            vec![
                usual(Phase::Noticed, 1.0, 30.0),
                usual(Phase::FirstLife, 20.0, 90.0),
                usual(Phase::AllBack, 60.0, 300.0),
            ]
        }
        // How long something clings is its own affair.
        Failure::OldNetwork { .. } => Vec::new(),
        Failure::Everything => vec![usual(Phase::FirstLife, 20.0, 120.0), usual(Phase::AllBack, 120.0, 420.0)],
        Failure::Backhaul { .. } => vec![
            usual(Phase::Noticed, 1.0, 15.0),
            usual(Phase::FirstLife, 10.0, 60.0),
            usual(Phase::FirstChoice, 5.0, 60.0),
        ],
        Failure::Line if takes_over => vec![
            usual(Phase::Noticed, 1.0, 20.0),
            usual(Phase::TookOver, 5.0, 60.0),
            usual(Phase::FirstChoice, 5.0, 120.0),
        ],
        Failure::Line => {
            vec![
                usual(Phase::Noticed, 1.0, 20.0),
                usual(Phase::AllBack, 1.0, 15.0),
                usual(Phase::FirstChoice, 1.0, 15.0),
            ]
        }
    }
}
