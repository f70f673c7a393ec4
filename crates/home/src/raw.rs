//! What a test recorded sample by sample, before anything was computed of it.

use std::net::IpAddr;

use busy_hen_units::{MbitPerSec, Millis};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::id::{DeviceId, SpotId};

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

/// A stand-in for a film: parts of it, each of the same play time, asked for one after the other as a player does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawFilm {
    /// Rate of its data.
    pub rate_mbps: MbitPerSec,
    /// Play time of one part.
    pub part_ms: Millis,
    /// The parts, in the order they were asked for; times since the press.
    pub parts: Vec<FilmPart>,
    /// Index of the first part after the seek, which throws away what was fetched ahead; none when there was no seek.
    #[schema(minimum = 0, maximum = 10_000)]
    pub sought: Option<usize>,
    /// What came between.
    pub interruptions: Vec<Interruption>,
}

/// A part of a film.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FilmPart {
    /// When it was asked for.
    pub asked_ms: Millis,
    /// When it had arrived.
    pub arrived_ms: Millis,
}

/// A stand-in for a call: exchanges at its rate in both directions, for as long as it was held.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawCall {
    /// Rate of its data, each way.
    pub rate_mbps: MbitPerSec,
    /// The exchanges.
    pub trips: Vec<RoundTrip>,
    /// How long it was held.
    pub held_ms: Millis,
    /// What came between.
    pub interruptions: Vec<Interruption>,
}

/// Exchanges without a break while walking, over one connection or, where it broke, the next.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawWalk {
    /// The exchanges.
    pub trips: Vec<RoundTrip>,
    /// The spots as they were passed, the first at the start.
    pub passed: Vec<Passed>,
    /// How long it took.
    pub walked_ms: Millis,
    /// What came between; a connection that breaks is what is looked for.
    pub interruptions: Vec<Interruption>,
}

/// A spot that was passed on a walk.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Passed {
    /// The spot.
    pub spot_id: SpotId,
    /// When.
    pub at_ms: Millis,
}

/// What was heard during a drill, ms since the drill began: a call, and a download that runs on, to the bench and beyond the line, as the
/// page held them; and what became of the bench's knocks at devices.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawListening {
    /// To the bench; none where the page stands on the bench itself.
    pub within: Option<RawStream>,
    /// To the far end; none where none is known.
    pub beyond: Option<RawStream>,
    /// Pings whose answer was another than the one before, and the first at each device.
    #[serde(default)]
    pub knocks: Vec<PingHeard>,
}

/// What became of a knock at a device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PingHeard {
    /// The device.
    pub device_id: DeviceId,
    /// When, ms.
    pub at_ms: u32,
    /// Whether it took the connection.
    pub answers: bool,
}

/// A call and a download to one place.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RawStream {
    /// Exchanges that were answered, by whichever connection.
    pub trips: Vec<RoundTrip>,
    /// When those were sent that have not been.
    pub lost: Vec<Millis>,
    /// When a connection of the call was given up: it was closed, or a new one answers and it does not.
    pub broken: Vec<Millis>,
    /// How much of the download had arrived by when.
    pub arrived: Vec<Arrived>,
    /// When a download broke.
    pub broken_downloads: Vec<Millis>,
    /// Where the far end saw the page come from, whenever a connection was made.
    pub ways: Vec<CameFrom>,
    /// Until when was listened.
    pub until_ms: Millis,
}

/// Where a page was seen to come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CameFrom {
    /// When, ms.
    pub at_ms: u32,
    /// The address.
    #[schema(value_type = String, format = "ip")]
    pub address: IpAddr,
}
