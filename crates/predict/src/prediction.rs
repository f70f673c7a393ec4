//! What a client gets at a place.

use busy_hen_home::{Band, DeviceId, Range};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz, Millis};
use serde::Serialize;
use utoipa::ToSchema;

use crate::needs::ServiceStep;
use crate::path::call::CallQuality;

/// What a client gets at a place; by default what it gets where no radio is heard well enough.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct Prediction {
    /// Download, Mb/s.
    pub down: Range,
    /// Upload, Mb/s.
    pub up: Range,
    /// Round trip without load of its own.
    pub latency_ms: Millis,
    /// Round trip while it loads the path, with the queues as they are managed.
    pub loaded_ms: Millis,
    /// The one of the two that a need is judged by: without load where nobody else is busy, else under load.
    pub felt_ms: Millis,
    /// Mean change from one round trip to the next.
    pub jitter_ms: Millis,
    /// How a call sounds while nothing else goes on; none where nothing serves.
    pub call: Option<CallQuality>,
    /// How a call sounds while the path is loaded; none where nothing serves.
    pub loaded_call: Option<CallQuality>,
    /// What serves it by air; none where nothing holds, and for what is plugged in.
    pub served: Option<Served>,
    /// The device whose port it is plugged into; none for what goes by air, and where no device stands in its room.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plugged_into: Option<DeviceId>,
    /// What works there.
    pub step: ServiceStep,
    /// How far up the steps, for contours.
    pub score: f64,
}

/// What serves a client at a place.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Served {
    /// The serving device.
    pub device: DeviceId,
    /// Band it is on.
    pub band: Band,
    /// Signal.
    pub signal_dbm: Dbm,
    /// Signal at the poor end of the likely range.
    pub poor_signal_dbm: Dbm,
    /// Signal at the good end.
    pub good_signal_dbm: Dbm,
    /// Usual link rate: an explanation, never a speed.
    pub link_rate_mbps: MbitPerSec,
    /// Width that serves best.
    pub width_mhz: Megahertz,
    /// Link rate at the poor end of the likely range; zero where nothing holds then.
    pub poor_link_rate_mbps: MbitPerSec,
    /// Link rate at the good end.
    pub good_link_rate_mbps: MbitPerSec,
    /// Whether it is near the end of its range, where a phone may slip to another band or to mobile data.
    pub at_its_end: bool,
}
