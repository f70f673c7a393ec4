//! A run as a phone sends it: what was measured, seen or typed, as it was.

use busy_hen_home::raw::{RawCall, RawFilm, RawTest, RawWalk};
use busy_hen_home::{Band, DeviceId, KitStatus, Mark, RunId, SpotId, TestKind, Under};
use busy_hen_job::rounds::distance::OnEarth;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

/// A run as a phone sends it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PhoneRun {
    /// Its id, made by the phone, so that sending twice keeps it once.
    pub id: RunId,
    /// Where it was taken.
    pub spot_id: SpotId,
    /// When it was taken.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What the phone's clock shows as it sends this: a clock that is off is put right by it.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub sent_at: Option<Timestamp>,
    /// What came of it.
    pub result: PhoneResult,
    /// What goes with it.
    #[serde(default)]
    pub details: RunDetails,
}

/// What goes with a run: where exactly, under what, and what the phone or the kit showed.
#[derive(Debug, Clone, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RunDetails {
    /// The conditions, where they are not those of the round; how far the test reached is known here.
    #[serde(default)]
    pub under: Option<Under>,
    /// The mark, in rounds that go by marks.
    #[serde(default)]
    pub mark: Option<Mark>,
    /// The device that served, where the phone tells.
    #[serde(default)]
    pub serving: Option<DeviceId>,
    /// The band it was on, where the phone tells.
    #[serde(default)]
    pub band: Option<Band>,
    /// Signal at the spot, dBm, where the phone tells.
    #[serde(default)]
    pub signal_dbm: Option<Figure>,
    /// Negotiated link rate, Mb/s, where the phone tells.
    #[serde(default)]
    pub link_rate_mbps: Option<Figure>,
    /// How far from the house it was, as it was typed.
    #[serde(default)]
    pub far: Option<Far>,
    /// What the kit itself showed of its uplink.
    #[serde(default)]
    pub kit_status: Option<KitStatus>,
    /// What was noted.
    #[serde(default)]
    pub note: Option<String>,
    /// Where the walk began and where the phone is, from which the distance of the mark is worked out; neither is kept.
    #[serde(default)]
    pub walked: Option<WalkedTo>,
    /// By which name it went together with others that began at the same moment.
    #[serde(default)]
    pub together: Option<Uuid>,
}

/// From where to where a phone was carried.
#[derive(Debug, Clone, Copy, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WalkedTo {
    /// At the house.
    pub from: OnEarth,
    /// Where it is now.
    pub to: OnEarth,
}

/// What came of a run on a phone.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum PhoneResult {
    /// A test to the machine that serves the page.
    Tested {
        /// The id under which the test had its line.
        test: Uuid,
        /// Its samples.
        raw: Box<RawTest>,
        /// The same beyond the line, right after it.
        #[serde(default)]
        beyond: Option<Box<Beyond>>,
    },
    /// A film was played.
    Film {
        /// How far it came from.
        reach: TestKind,
        /// Its samples.
        raw: RawFilm,
    },
    /// A call was held.
    Call {
        /// How far it went.
        reach: TestKind,
        /// Its samples.
        raw: RawCall,
    },
    /// A walk with exchanges all the way.
    Walked {
        /// Its samples.
        raw: RawWalk,
    },
    /// What another test showed, typed in; under which tool goes with it.
    Shown {
        /// Download, Mb/s.
        down_mbps: Figure,
        /// Upload, Mb/s.
        up_mbps: Figure,
        /// Round trip, ms, where it showed one.
        #[serde(default)]
        idle_ms: Option<Figure>,
        /// How far it reached.
        reach: TestKind,
        /// Whether it is kept though it is over what plan and ports let through.
        #[serde(default)]
        over_ceiling_confirmed: bool,
    },
    /// Signal or link rate was looked up.
    Heard {},
    /// No connection could be had here.
    NoConnection {},
    /// The spot was passed over.
    Skipped {},
}

/// A test to the far end, right after the one within the home.
#[derive(Debug, Deserialize, Serialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Beyond {
    /// Id of the run it makes.
    pub id: RunId,
    /// Its samples.
    pub raw: RawTest,
    /// The address that the far end saw the phone come from, where it was asked.
    #[serde(default)]
    pub seen_from: Option<String>,
}

/// A figure: a number, or as it was typed.
#[derive(Debug, Clone, Deserialize, Serialize, ToSchema)]
#[serde(untagged)]
pub enum Figure {
    /// A number in the unit of its field.
    Number(f64),
    /// What was typed.
    Typed(String),
}

/// A distance from the house as it was typed.
#[derive(Debug, Clone, Deserialize, Serialize, ToSchema)]
#[serde(untagged, deny_unknown_fields)]
pub enum Far {
    /// Measured.
    Measured {
        /// The length, in the home's unit where it names none.
        length: String,
    },
    /// Paced.
    Paced {
        /// How many paces.
        paces: String,
        /// The length of one, in the home's unit where it names none.
        stride: String,
    },
}
