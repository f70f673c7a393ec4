//! What is told of setups side by side.

use busy_hen_home::{Decision, RoomId, RoundId, SetupId, SpotId};
use serde::Serialize;
use utoipa::ToSchema;

use busy_hen_predict::needs::{Need, Verdict};
use busy_hen_survey::readings::compare::{Against, Cell, Unlike};
use busy_hen_survey::readings::findings::ReadingFinding;
use busy_hen_survey::readings::verdict::Choice;
use busy_hen_survey::readings::walks::Walks;

/// Setups side by side.
#[derive(Debug, Serialize, ToSchema)]
pub struct SideBySide {
    /// A column a setup.
    pub columns: Vec<ComparedSetup>,
    /// A row a spot, worst of the reference first.
    pub rows: Vec<ComparedSpot>,
    /// Why the columns are not like for like; empty when they are.
    pub unlike: Vec<Unlike>,
    /// What the readings show that is to be looked at.
    pub findings: Vec<ReadingFinding>,
    /// Runs that each spot needs for a difference of a fifth to show.
    pub runs_for_a_fifth: Option<u32>,
    /// Which setup to keep.
    pub choice: Choice,
    /// What the installer decided, where somebody did.
    pub decision: Option<Decision>,
    /// Trials by turns between the setups, newest first.
    pub trials: Vec<Trial>,
    /// Range walks and route walks of the setups, laid over one another.
    pub walks: Vec<Walks>,
}

/// A trial by turns.
#[derive(Debug, Serialize, ToSchema)]
pub struct Trial {
    /// The spot.
    pub spot_id: SpotId,
    /// What the place is called.
    pub place: String,
    /// Round of the first setup, and of the second.
    pub round_ids: [RoundId; 2],
    /// Letters of the two.
    pub letters: [String; 2],
    /// How many pairs are wanted.
    pub wanted: u32,
    /// Pairs so far: what the first reached and what the second, Mb/s down.
    #[schema(value_type = Vec<Vec<f64>>)]
    pub pairs: Vec<(f64, f64)>,
    /// Which of the two is to be run now, 0 or 1; none when all is run.
    #[schema(maximum = 1)]
    pub turn: Option<u8>,
    /// The second against the first, each pair in itself; none before the first pair.
    pub against: Option<Against>,
}

/// A setup, or one of its rounds.
#[derive(Debug, Serialize, ToSchema)]
pub struct ComparedSetup {
    /// The setup.
    pub setup_id: SetupId,
    /// The round, where the column is of one alone.
    pub round_id: Option<RoundId>,
    /// When that was begun.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub begun: Option<jiff::Timestamp>,
    /// Its letter.
    pub letter: String,
    /// Its name.
    pub name: String,
    /// Conditions of its readings, in words; none without readings.
    pub conditions: Option<String>,
    /// Whether the product made them up.
    pub made_up: bool,
    /// All spots together against the reference.
    pub whole: Option<Against>,
    /// How many needs it meets.
    pub score: Score,
    /// What it costs to buy; none where a price is missing.
    pub price: Option<f64>,
}

/// How many rooms' needs a setup meets.
#[derive(Debug, Default, Clone, Serialize, ToSchema)]
pub struct Score {
    /// Rooms that need something.
    pub rooms_with_need: usize,
    /// Of these, met or likely by prediction.
    pub predicted_met: usize,
    /// Of these, measured.
    pub measured: usize,
    /// Of these, met or just met by measurement.
    pub measured_met: usize,
}

/// One spot in all setups.
#[derive(Debug, Serialize, ToSchema)]
pub struct ComparedSpot {
    /// The spot.
    pub spot_id: SpotId,
    /// Its room.
    pub room_id: RoomId,
    /// Name of the room.
    pub name: String,
    /// Name of the spot, where the room has several.
    pub spot_name: String,
    /// What the room needs.
    pub need: Option<Need>,
    /// A cell a column.
    pub cells: Vec<ComparedCell>,
}

/// One spot in one setup.
#[derive(Debug, Serialize, ToSchema)]
pub struct ComparedCell {
    /// What was measured.
    #[serde(flatten)]
    pub cell: Cell,
    /// The measurement judged by the room's need.
    pub verdict: Option<Verdict>,
    /// What part of the most that can come through arrived in the middle: of the plan or the router's port.
    pub share_of_ceiling: Option<f64>,
    /// What is predicted of the same figure: poor end, middle and good end.
    pub predicted: [f64; 3],
    /// The prediction judged.
    pub predicted_verdict: Option<Verdict>,
}
