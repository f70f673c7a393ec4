//! What a test recorded sample by sample, before anything was computed of it.

use busy_hen_units::Millis;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// One test from a device to one place: idle first, then download, then upload. Times are of the device's steady clock, ms since the
/// test began.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawTest {
    /// Round trips with nothing else going on, in the order they were taken.
    pub idle: Vec<RoundTrip>,
    /// The download, as counted by the device that received it.
    pub down: RawTransfer,
    /// The upload, as counted by the far side that received it, by the far side's clock.
    pub up: RawTransfer,
    /// How long the test took by the device's steady clock, which nobody sets.
    pub steady_ms: Millis,
    /// How long it took by its wall clock.
    pub wall_ms: Millis,
    /// What came between, in the order it came.
    pub interruptions: Vec<Interruption>,
}

/// A transfer in one direction, with the round trips taken meanwhile.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawTransfer {
    /// How much had arrived by when, over all streams together.
    pub arrived: Vec<Arrived>,
    /// Round trips while it ran.
    pub loaded: Vec<RoundTrip>,
}

/// How much had arrived at one moment.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Arrived {
    /// When.
    pub at_ms: Millis,
    /// Bytes since the transfer began.
    pub bytes: u64,
}

/// One exchange there and back.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RoundTrip {
    /// When it was sent.
    pub at_ms: Millis,
    /// How long it took.
    pub took_ms: Millis,
    /// What the steady clock of the far side said as it answered, ms since any moment.
    pub far_ms: Millis,
}

/// Something that came between.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Interruption {
    /// The page was covered, or the screen locked.
    Hidden,
    /// Whoever held the device stopped it.
    Stopped,
    /// The connection broke while it ran.
    Broken,
}
