//! Runs and what came of them.

use busy_hen_units::{Dbm, MbitPerSec, Megahertz, Metres, Millis};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use crate::band::Band;
use crate::id::{DeviceId, PlanId, RoundId, RunId, SpotId};
use crate::round::{Round, Under};

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
    /// Where it was taken more exactly than the spot says, in rounds that go by marks.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mark: Option<Mark>,
    /// What was noted with it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub note: Option<String>,
    /// What the kit itself showed of its uplink, by light or words.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub kit_status: Option<KitStatus>,
    /// Runs that were begun together carry the same.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub together: Option<Uuid>,
}

/// A place of a run within a round that goes by marks: an outlet, a place of a node, a distance, a mark on a route.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Mark {
    /// What it is called; empty on a range walk.
    #[serde(default)]
    pub name: String,
    /// How far from the house, on a range walk.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub distance_m: Option<Metres>,
    /// Whether it was taken on the way back.
    #[serde(default)]
    pub returning: bool,
    /// Whether it was taken beside the node that is carried, and not in the weak room.
    #[serde(default)]
    pub beside_node: bool,
}

/// What a kit shows of its uplink.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum KitStatus {
    /// Good.
    Good,
    /// Fair.
    Fair,
    /// Poor.
    Poor,
    /// None at all.
    Lost,
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
    /// A run over the home's Wi-Fi of which no more is known than this.
    #[must_use]
    pub fn new(id: RunId, round_id: RoundId, spot_id: SpotId, at: Timestamp, source: Source, outcome: Outcome) -> Self {
        Self {
            id,
            round_id,
            spot_id,
            at,
            source,
            outcome,
            carried_by: CarriedBy::HomeWifi,
            serving: None,
            band: None,
            channel: None,
            width_mhz: None,
            signal_dbm: None,
            link_rate_mbps: None,
            plan_id: None,
            trace_mbps: Vec::new(),
            void: None,
            corrected: Vec::new(),
            under: None,
            mark: None,
            note: None,
            kit_status: None,
            together: None,
        }
    }

    /// Whether the run says something of the network under test.
    #[must_use]
    pub fn counts(&self) -> bool {
        self.void.is_none() && matches!(self.carried_by, CarriedBy::HomeWifi | CarriedBy::Cable)
    }

    /// Whether it is a test of speed at a spot of a room, as rooms are judged by.
    #[must_use]
    pub fn is_of_room(&self) -> bool {
        let speed = matches!(self.outcome, Outcome::Measured { .. } | Outcome::NoConnection);
        speed && self.mark.is_none() && self.together.is_none() && self.carried_by != CarriedBy::Cable
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
    /// Only looked up: what the run says of signal and link rate, without a test of speed.
    Heard,
    /// A film was played, or the stand-in for one: data at its rate.
    Film {
        /// How it did.
        check: FilmCheck,
    },
    /// A call was held, or the stand-in for one: data at its rate in both directions.
    Call {
        /// How it did.
        check: CallCheck,
    },
    /// Delay was watched while walking.
    Walked {
        /// How it did.
        check: WalkCheck,
    },
    /// The spot was passed over; the note says why.
    Skipped,
}

/// How a film did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FilmCheck {
    /// Rate of its data.
    pub rate_mbps: MbitPerSec,
    /// From the press to the first picture.
    pub started_ms: Millis,
    /// From a seek to the picture; none when none was tried.
    pub sought_ms: Option<Millis>,
    /// How often the picture stood still afterwards.
    pub stalls: u32,
    /// How long it stood still in all.
    pub stalled_ms: Millis,
    /// How long it was watched.
    pub watched_ms: Millis,
}

/// How a call did.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CallCheck {
    /// Rate of its data, each way.
    pub rate_mbps: MbitPerSec,
    /// Median round trip.
    pub delay_ms: Millis,
    /// How often it was broken.
    pub gaps: u32,
    /// The longest of these.
    pub longest_gap_ms: Millis,
    /// How long it was held.
    pub held_ms: Millis,
}

/// How a walk did.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WalkCheck {
    /// Median round trip.
    pub delay_ms: Millis,
    /// How long it took.
    pub walked_ms: Millis,
    /// The gaps, in order.
    pub gaps: Vec<Gap>,
}

/// A gap in a walk.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Gap {
    /// When, from the start.
    pub at_ms: Millis,
    /// How long.
    pub lasted_ms: Millis,
    /// The spot that had been passed last.
    pub after: SpotId,
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
    /// A cable.
    Cable,
}
