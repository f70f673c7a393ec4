//! Rounds and their conditions: what was tested, and all that makes its readings comparable.

use busy_hen_units::{Dbm, MbitPerSec, Millis};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::Home;
use crate::band::Band;
use crate::id::{DeviceId, RoundId, SetupId, SpotId};
use crate::kit::Generation;
use crate::test_kind::TestKind;

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
    /// What it is for.
    #[serde(default)]
    pub purpose: Purpose,
    /// What is on record of the network as it began; none in rounds from before that was kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub on_record: Option<OnRecord>,
    /// What had been changed before it began, each seen to have taken effect or not.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub confirmed: Vec<Confirmation>,
    /// The trial by turns that it is one side of; rounds of two setups that are run by turns at one spot carry the same.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub trial: Option<Uuid>,
}

/// What a round is for.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Purpose {
    /// A walk through the rooms.
    #[default]
    Rooms,
    /// The same with the kit as found.
    Baseline,
    /// The same after something was changed.
    After,
    /// By cable at the router, and at the box of the line: the most that anything else can reach.
    WiredCeiling,
    /// Away from the house until it drops.
    RangeWalk,
    /// Power line, outlet by outlet.
    OutletTrial,
    /// A node carried from place to place: what it hears there, and what the weak room gets of it.
    PlacementTrial,
    /// Several phones that begin together.
    FamilyRush,
    /// Whether a film starts, seeks and holds, and a call holds.
    ApplicationCheck,
    /// Delay without a break while walking: gaps, and where.
    HandOverWalk,
    /// Signal or link rate at marks along a route that can be walked again; no speed test.
    RouteWalk,
}

impl Purpose {
    /// Whether its runs are told apart by marks rather than by the spots of the rooms alone.
    #[must_use]
    pub fn is_marked(self) -> bool {
        matches!(
            self,
            Self::WiredCeiling | Self::RangeWalk | Self::OutletTrial | Self::PlacementTrial | Self::RouteWalk
        )
    }

    /// Whether it is held to choose the mark that serves best.
    #[must_use]
    pub fn is_trial(self) -> bool {
        matches!(self, Self::OutletTrial | Self::PlacementTrial)
    }
}

/// What is on record of the network as a round began, beside the home itself.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OnRecord {
    /// The machine that serves the local test.
    pub machine: Option<TestMachine>,
    /// Address of the far end of internet tests.
    pub far_end: Option<String>,
    /// Where that stands, or whose it is, as typed.
    #[serde(default)]
    pub far_end_place: String,
    /// The generation that each radio on air was run in.
    #[serde(default)]
    pub radios: Vec<RadioOnRecord>,
    /// Where the kit reports who serves whom; none where it does not, or nobody said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kit_report: Option<String>,
}

/// The machine that serves the local test: no test to it is faster than its own port.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TestMachine {
    /// Name of its interface.
    pub interface: String,
    /// Whether a cable joins it to the router; none when that can't be told.
    pub wired: Option<bool>,
    /// What its port negotiated; none when that can't be told.
    pub port_mbps: Option<MbitPerSec>,
}

/// A radio as it was run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RadioOnRecord {
    /// The device.
    pub device_id: DeviceId,
    /// Its band.
    pub band: Band,
    /// The generation it was run in.
    pub generation: Generation,
}

/// Something that had been changed, and whether it was seen to have taken effect.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Confirmation {
    /// What was to be seen, in words.
    pub what: String,
    /// Whether it was.
    pub seen: bool,
    /// When it was seen, where that was after the round had begun.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub seen_later: Option<Timestamp>,
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
    /// What tested, when it was not the test of the application.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tool: Option<String>,
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
            tool: None,
        }
    }
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
