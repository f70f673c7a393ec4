//! A finding of the long watch.

use serde::Serialize;
use utoipa::ToSchema;

/// Something that a watch shows.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct WatchFinding {
    /// What kind of thing.
    pub shows: WatchShows,
    /// The address, by its place in the list; none where it is about all.
    pub target: Option<usize>,
    /// What was seen.
    pub told: String,
    /// What that speaks for; empty where it speaks for nothing.
    pub because: String,
}

/// Kinds of things that a watch shows, what matters most first.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum WatchShows {
    /// It never answered.
    NeverAnswered,
    /// Drops at the same hours of many days.
    DropsAtHours,
    /// Drops as long as a restart takes.
    Restarts,
    /// Other drops.
    Drops,
    /// Pings lost here and there.
    Losses,
    /// Slower in the evening than at night.
    SlowEvenings,
    /// Other hardware answers at an address than before.
    OtherAnswers,
    /// Nothing dropped.
    AllWell,
    /// Where nobody watched.
    NotWatched,
}
