//! Rounds, runs and their conditions: what was measured, and all that makes it comparable.

use busy_hen_units::{Dbm, MbitPerSec, Megahertz, Millis};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::Home;
use crate::id::{DeviceId, PlanId, RoundId, RunId, SetupId, SpotId};
use crate::setup::Band;

/// One walk of tests through the spots of a home, all under the same conditions.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Round {
    /// Identifies the round.
    pub id: RoundId,
    /// The setup that is tested.
    pub setup_id: SetupId,
    /// When the round was begun.
    #[schema(value_type = String, format = DateTime)]
    pub begun: Timestamp,
    /// Key of the test device in the catalogue of clients.
    pub client: String,
    /// The band the device is held to; none when it chooses by itself.
    pub band: Option<Band>,
    /// How far the test reaches.
    pub kind: TestKind,
    /// How the doors stand.
    pub doors: Doors,
    /// Whether others use the network meanwhile.
    pub situation: Situation,
    /// How many runs each spot is to get.
    pub runs_per_spot: u32,
    /// The spots in walking order.
    pub spots: Vec<SpotId>,
}

/// The conditions of a test: all that must be alike in readings before they are set against each other.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Under {
    /// How far the test reached.
    pub kind: TestKind,
    /// Key of the test device in the catalogue of clients.
    pub client: String,
    /// The band it was held to; none when it chose by itself.
    pub band: Option<Band>,
    /// How the doors stood.
    pub doors: Doors,
    /// Whether others used the network meanwhile.
    pub situation: Situation,
}

impl Round {
    /// The conditions of the round, which hold for each run that does not say otherwise.
    #[must_use]
    pub fn under(&self) -> Under {
        Under {
            kind: self.kind,
            client: self.client.clone(),
            band: self.band,
            doors: self.doors,
            situation: self.situation,
        }
    }
}

/// How far a test reaches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TestKind {
    /// To a machine wired to the router: shows what the kit can do.
    Local,
    /// To a far end beyond the line: capped by the plan.
    Internet,
}

/// How the doors stand during a round.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Doors {
    /// As people leave them.
    #[default]
    AsLeft,
    /// All open.
    Open,
    /// All shut.
    Shut,
}

/// Whether the rest of the family uses the network.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Situation {
    /// Nothing else is busy.
    #[default]
    Alone,
    /// The family's overlapping activities run, sharing plan and airtime.
    BusyEvening,
}

/// One execution of a test at a spot, with the figures kept of it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Run {
    /// Identifies the run; made by whoever took it, so that sending it twice keeps it once.
    pub id: RunId,
    /// The round it belongs to.
    pub round_id: RoundId,
    /// Where it was taken.
    pub spot_id: SpotId,
    /// When it was taken.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Who or what took it.
    pub source: Source,
    /// What came of it.
    pub outcome: Outcome,
    /// What carried it.
    pub carried_by: CarriedBy,
    /// The device that served; none when not known.
    pub serving: Option<DeviceId>,
    /// The band it was on; none when not known.
    pub band: Option<Band>,
    /// The primary channel it was on; none when not known.
    #[schema(maximum = 65535)]
    pub channel: Option<u16>,
    /// The width of that channel; none when not known.
    pub width_mhz: Option<Megahertz>,
    /// Signal heard at the spot; none when not known.
    pub signal_dbm: Option<Dbm>,
    /// Negotiated link rate: an explanation, never a speed.
    pub link_rate_mbps: Option<MbitPerSec>,
    /// The plan in force on that day; set by the server from the brief.
    pub plan_id: Option<PlanId>,
    /// Down over the length of the run, at even steps; empty when typed in.
    pub trace_mbps: Vec<MbitPerSec>,
    /// Why the run does not count, when it was taken back.
    pub void: Option<String>,
    /// What a typed run said before it was corrected, oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub corrected: Vec<Correction>,
    /// The conditions it was taken under, when they were not those of the round.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub under: Option<Under>,
}

/// What a typed run said before it was corrected.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Correction {
    /// When it was corrected.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// The outcome as it stood before.
    pub was: Outcome,
}

impl Run {
    /// Whether the run says something of the network under test.
    #[must_use]
    pub fn counts(&self) -> bool {
        self.void.is_none() && self.carried_by == CarriedBy::HomeWifi
    }

    /// The conditions it was taken under.
    #[must_use]
    pub fn under(&self, round: &Round) -> Under {
        self.under.clone().unwrap_or_else(|| round.under())
    }

    /// Whether the product made it up, so that it never stands in one comparison with a measurement.
    #[must_use]
    pub fn is_made_up(&self) -> bool {
        self.source == Source::Walker
    }
}

/// What a round was taken in: the readings' meaning, which no later edit of the home changes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AsTested {
    /// When this was kept: as the round began, or later for a round from before this was kept at all.
    #[schema(value_type = String, format = DateTime)]
    pub kept_at: Timestamp,
    /// Version of the law that forecast; none where nothing was forecast.
    pub law: Option<String>,
    /// The home as it stood, with the tested setup alone.
    pub home: Home,
    /// What was predicted for its spots that day.
    pub forecasts: Vec<Forecast>,
}

/// What was predicted for one spot as a round began.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Forecast {
    /// The spot.
    pub spot_id: SpotId,
    /// Download.
    pub down: Range,
    /// Upload.
    pub up: Range,
    /// Round trip without load of its own.
    pub latency_ms: Millis,
    /// The device that would serve; none where nothing holds.
    pub served_by: Option<DeviceId>,
    /// The band it would be on.
    pub band: Option<Band>,
    /// The signal there.
    pub signal_dbm: Option<Dbm>,
}

/// A likely range: 10 %, 50 % and 90 % of places like this one.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Range {
    /// The poor end (10 %), Mb/s.
    pub poor: MbitPerSec,
    /// The middle (50 %), Mb/s.
    pub middle: MbitPerSec,
    /// The good end (90 %), Mb/s.
    pub good: MbitPerSec,
}

/// Who or what took a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Source {
    /// Typed in by hand.
    Typed,
    /// A phone measured it with the test of the application.
    Phone,
    /// The simulated walker that ships with the product: made-up, never a real measurement.
    Walker,
}

/// What came of a run.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Outcome {
    /// The test ran to its end.
    Measured {
        /// Download.
        down_mbps: MbitPerSec,
        /// Upload.
        up_mbps: MbitPerSec,
        /// Round trip with nothing else going on; none when not taken.
        idle_ms: Option<Millis>,
        /// Round trip while the test loads the link; none when not taken.
        loaded_ms: Option<Millis>,
        /// Mean change from one round trip to the next; none when not taken.
        jitter_ms: Option<Millis>,
        /// Packets lost, percent; none when not taken.
        loss_percent: Option<f64>,
    },
    /// No connection could be had here: a reading too.
    NoConnection,
}

/// What carried a run.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CarriedBy {
    /// The home's own Wi-Fi.
    HomeWifi,
    /// The mobile network: the phone slipped.
    MobileData,
    /// Some other Wi-Fi.
    OtherWifi,
}
