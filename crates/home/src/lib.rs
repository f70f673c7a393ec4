//! The home file: everything one job consists of, as it is saved, sent and exported.
//!
//! A [`Home`] is brief, house and setups; the [`round`] module holds what was measured in it. The types say what is
//! *recorded*; what follows from it (walls, needs, predictions) is computed by the crates above, and this crate must never
//! compute any of it. Start reading at [`Home`].

pub mod air;
pub mod band;
pub mod brief;
pub mod day;
pub mod device_note;
pub mod drill;
pub mod fault;
pub mod fit;
pub mod house;
pub mod id;
pub mod kit;
pub mod kit_report;
pub mod long_watch;
pub mod merge;
pub mod password;
pub mod picture;
pub mod raw;
pub mod round;
pub mod run;
pub mod setup;
pub mod test_kind;
mod validate;

/// Largest home file, bytes: what goes out and what comes in.
pub const FILE_LIMIT: u64 = 256 * 1024 * 1024;

/// Largest log of a watch that is read, bytes.
pub const WATCH_LOG_LIMIT: usize = 32 * 1024 * 1024;

pub use air::Neighbour;
pub use band::Band;
pub use brief::{
    AccessLine, Activity, Brief, Complaint, FamilyDevice, Hours, Plan, PresentRouter, RoomUse, SecondLine,
    SecondLineUse, Tenure, Want,
};
pub use day::{local_day, local_hour};
pub use device_note::DeviceNote;
pub use drill::{Drill, DrillMark, Failure, Sight};
pub use fault::{Fault, Faults};
pub use fit::{Straggling, Tick, TickOutcome};
pub use house::{
    Around, BuildingPart, House, Level, LossCorrection, MaterialKey, Obstacle, ObstacleKind, Opening, OpeningKind,
    PerBand, Position, Room, Side, Spot, Stairwell, Tracing, WallChoice, WallKey,
};
pub use id::{
    ComplaintId, DeviceId, DrillId, FamilyDeviceId, HomeId, LevelId, NeighbourId, NoteId, ObstacleId, PasswordId,
    PictureId, PlanId, RoomId, RoundId, RunId, SetupId, SpotId, UseId, WatchId,
};
pub use kit::{
    BoxItem, Comes, Control, Function, Generation, Kit, KitFacts, KitRadio, MainsVolts, Mounting, Pack, ReportedUplink,
    Warmth, Weather,
};
pub use kit_report::{ReportedDevice, ReportedRadio};
pub use long_watch::{
    Answerer, HangsBy, Pings, ShortTransfer, Took, WatchDrop, WatchHead, WatchLine, WatchLog, WatchStretch,
    WatchSummary, Watched,
};
pub use merge::{BothChanged, merge};
pub use password::KeptPassword;
pub use picture::{Picture, Shows};
pub use round::{
    AsTested, Confirmation, Doors, Forecast, OnRecord, Purpose, RadioOnRecord, Range, Round, Situation, TestMachine,
    Under,
};
pub use run::{CallCheck, CarriedBy, Correction, FilmCheck, Gap, KitStatus, Mark, Outcome, Run, Source, WalkCheck};
pub use setup::{
    AddressRange, Aerial, CableClass, Circuit, Device, Enclosure, Firmware, FirmwareUpdates, KitKey, Mode,
    PowerLineClass, PutAside, RadioSetting, Setup, Steering, Uplink, Via,
};
pub use test_kind::TestKind;
pub use validate::ROOMS_LIMIT;

use busy_hen_units::Metres;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Unit in which lengths are shown and read when none is typed; metres are always what is kept.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
pub enum LengthUnit {
    /// Metres.
    #[default]
    #[serde(rename = "m")]
    Metre,
    /// Feet.
    #[serde(rename = "ft")]
    Foot,
}

impl LengthUnit {
    /// A length in this unit, for people.
    #[must_use]
    pub fn in_words(self, length: Metres) -> String {
        match self {
            Self::Metre => format!("{length:.1}"),
            Self::Foot if length.feet() < 10.0 => format!("{:.1} ft", length.feet()),
            Self::Foot => format!("{:.0} ft", length.feet()),
        }
    }
}

/// One job: the home, what its people need, how it is built, and the setups tried in it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Home {
    /// What the installer calls the job.
    pub name: String,
    /// ISO 3166 code of the country whose radio rules hold, such as `GB`.
    pub region: String,
    /// Unit in which lengths are shown.
    pub units: LengthUnit,
    /// What the family has, wants and allows.
    pub brief: Brief,
    /// The building and its outdoor areas.
    pub house: House,
    /// Neighbours' networks as they were heard.
    #[serde(default)]
    pub air: Vec<Neighbour>,
    /// Types of device that the installer described, besides those of the catalogue.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub own_kit: Vec<Kit>,
    /// The setups, in the order they are shown.
    pub setups: Vec<Setup>,
    /// The setup that is fitted, or that is to be; none while nothing is decided.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub in_force: Option<SetupId>,
    /// What the installer decided on after comparing, and why; none while nothing is decided.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub decision: Option<Decision>,
    /// Passwords that the installer wanted kept; each is encrypted under a pass phrase.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub passwords: Vec<KeptPassword>,
    /// Whether the job is put away.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub archived: bool,
    /// Whether predictions go by the tables alone, whatever was measured in the home.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub tables_alone: bool,
    /// Of a made-up home that ships as an example: where to begin with it; none for a real job.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub example: Option<String>,
}

/// Which setup is kept, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Decision {
    /// The setup.
    pub setup_id: SetupId,
    /// Why, in the installer's words.
    pub because: String,
}

impl Home {
    /// An empty home of this name in this region.
    #[must_use]
    pub fn new(name: &str, region: &str, units: LengthUnit) -> Self {
        Self {
            name: name.to_owned(),
            region: region.to_owned(),
            units,
            brief: Brief::default(),
            house: House::default(),
            air: Vec::new(),
            own_kit: Vec::new(),
            setups: Vec::new(),
            in_force: None,
            decision: None,
            passwords: Vec::new(),
            archived: false,
            tables_alone: false,
            example: None,
        }
    }

    /// The setup in force: the chosen one, else the last that is neither put away nor a trial of a series, since setups are added as they
    /// get better.
    #[must_use]
    pub fn setup_in_force(&self) -> Option<&Setup> {
        let chosen = self.in_force.and_then(|id| self.setup(id));
        chosen.or_else(|| self.setups.iter().rev().find(|setup| !setup.archived && setup.series.is_none()))
    }

    /// The setup with this id.
    #[must_use]
    pub fn setup(&self, id: SetupId) -> Option<&Setup> {
        self.setups.iter().find(|setup| setup.id == id)
    }

    /// The first free letter for a new setup: A to Z, then A1, B1 and so on.
    #[must_use]
    pub fn next_setup_letter(&self) -> String {
        (0u32..)
            .map(|round| (round, 'A'..='Z'))
            .flat_map(|(round, letters)| {
                letters.map(move |letter| if round == 0 { letter.to_string() } else { format!("{letter}{round}") })
            })
            .find(|letter| self.setups.iter().all(|setup| setup.letter != *letter))
            .unwrap_or_default()
    }
}
