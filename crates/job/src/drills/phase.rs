//! The phases of a drill, from the pull until all is as before.

use busy_hen_home::{Drill, Sight};
use serde::Serialize;
use utoipa::ToSchema;

/// A part of a drill that takes time.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Phase {
    /// From the pull until the loss was noticed.
    Noticed,
    /// Until the first sign of life: from putting it back where that was marked, else from the pull.
    FirstLife,
    /// Until all was back, from the same.
    AllBack,
    /// Until the second choice carried, from the same.
    TookOver,
    /// Until the first choice was in use again, from the same.
    FirstChoice,
}

impl Phase {
    /// All of them, in the order of time.
    pub const ALL: [Self; 5] = [Self::Noticed, Self::TookOver, Self::FirstLife, Self::AllBack, Self::FirstChoice];

    /// Its name.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Noticed => "noticed",
            Self::FirstLife => "first sign of life",
            Self::AllBack => "all back",
            Self::TookOver => "second choice carries",
            Self::FirstChoice => "first choice again",
        }
    }

    fn sight(self) -> Sight {
        match self {
            Self::Noticed => Sight::LossNoticed,
            Self::FirstLife => Sight::FirstLife,
            Self::AllBack => Sight::AllBack,
            Self::TookOver => Sight::TookOver,
            Self::FirstChoice => Sight::FirstChoice,
        }
    }
}

/// How long a part of a drill took, s; none where it was not marked.
#[must_use]
pub fn took(drill: &Drill, part: Phase) -> Option<f64> {
    // What somebody pressed goes before what the bench saw by itself.
    let first = |sight: Sight| {
        let mut seen = drill.marks.iter().filter(|own| own.seen == sight);
        seen.clone().find(|own| !own.by_probe).or_else(|| seen.next()).map(|own| own.after_ms)
    };
    let seen = first(part.sight())?;
    // A backhaul falls over, and a second line takes over, while the first is still out; then it counts from the pull.
    let from = first(Sight::PutBack).filter(|back| part != Phase::Noticed && *back <= seen).unwrap_or(0);
    Some(f64::from(seen - from) / 1000.0)
}
