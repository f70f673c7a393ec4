//! Two setups room by room.

use actix_web::get;
use actix_web::web::{Data, Json, Path, Query};
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::needs::{Need, Verdict};
use busy_hen_engine::predict::ledger::LedgerRow;
use busy_hen_engine::predict::{Model, Prediction};
use busy_hen_engine::readings::Summary;
use busy_hen_engine::readings::compare::{Column, change_percent, compare as side_by_side};
use busy_hen_home::{Doors, HomeId, RoomId, Run, Setup, SetupId, Situation, TestKind};
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::predict::{Ask, compute};
use crate::error::{ApiError, Problem};
use crate::state::{AppState, Readings};

/// Which setups, by which kind of test.
#[derive(Debug, Deserialize, IntoParams)]
pub struct CompareAsk {
    /// The setup that changes are counted from.
    pub reference: SetupId,
    /// The setup set against it.
    pub other: SetupId,
    /// Kind of test.
    pub kind: TestKind,
    /// Key of the device that predictions are for.
    pub client: String,
    /// Situation that predictions are for.
    pub situation: Situation,
}

/// Two setups side by side.
#[derive(Debug, Serialize, ToSchema)]
pub struct CompareView {
    /// Rooms, worst of the other setup first.
    pub rooms: Vec<RoomPair>,
    /// Why the columns are not like for like; empty when they are.
    pub warnings: Vec<String>,
    /// How many needs each setup meets.
    pub reference_score: Score,
    /// How many needs each setup meets.
    pub other_score: Score,
}

/// How many rooms' needs a setup meets.
#[derive(Debug, Default, Serialize, ToSchema)]
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

/// One room in both setups.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoomPair {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// What it needs.
    pub need: Option<Need>,
    /// The reference.
    pub reference: RoomSide,
    /// The other.
    pub other: RoomSide,
    /// Change of the measured median download, percent.
    pub measured_change_percent: Option<f64>,
    /// Change of the predicted download, percent.
    pub predicted_change_percent: Option<f64>,
}

/// One room in one setup.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoomSide {
    /// What is predicted.
    pub predicted: Prediction,
    /// The prediction judged.
    pub predicted_verdict: Option<Verdict>,
    /// What was measured.
    pub measured: Option<Summary>,
    /// The measurement judged.
    pub measured_verdict: Option<Verdict>,
}

/// Sets two setups side by side.
#[utoipa::path(tag = "compare", params(("home" = HomeId, Path), CompareAsk),
    responses((status = OK, body = CompareView), (status = NOT_FOUND, body = Problem)))]
#[get("/api/homes/{home}/compare")]
pub async fn compare(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Query<CompareAsk>,
) -> Result<Json<CompareView>, ApiError> {
    let CompareAsk { reference, other, kind, client, situation } = asked.into_inner();
    let question = Ask { client, band: None, situation, doors: Doors::AsLeft, kind }.question(state.today())?;
    let stored = state.store.home(*home).await?.home;
    let readings = state.readings(*home).await?;
    compute(move || {
        let home = &stored;
        let find = |id| home.setup(id).ok_or(ApiError::NotFound("setup"));
        let (reference, other) = (find(reference)?, find(other)?);
        let plan = Plan::new(&home.house, home.units);
        let ledger = |setup: &Setup| {
            Model::new(home, setup, &plan, question, &state.kept).ledger(&readings.summaries(setup.id, kind))
        };
        let (reference_rows, other_rows) = (ledger(reference), ledger(other));
        let rooms: Vec<RoomId> = other_rows.iter().map(|row| row.room_id).collect();
        let belongs = |run: &Run| home.house.spots.iter().find(|spot| spot.id == run.spot_id).map(|spot| spot.room_id);
        let name = |setup: &Setup| format!("{} {}", setup.letter, setup.name);
        let measured = side_by_side(
            &rooms,
            belongs,
            (&name(reference), &column(&readings, reference.id, kind)),
            (&name(other), &column(&readings, other.id, kind)),
            kind,
        );
        let scores = (score(&reference_rows), score(&other_rows));
        let pairs = other_rows.into_iter().zip(measured.rooms).filter_map(|(row, change)| {
            let reference = reference_rows.iter().find(|own| own.room_id == row.room_id)?.clone();
            Some(RoomPair {
                room_id: row.room_id,
                name: row.name.clone(),
                need: row.need,
                predicted_change_percent: change_percent(
                    reference.predicted.down.middle.get(),
                    row.predicted.down.middle.get(),
                ),
                measured_change_percent: change.change_percent,
                reference: side(reference),
                other: side(row),
            })
        });
        Ok(Json(CompareView {
            rooms: pairs.collect(),
            warnings: measured.warnings,
            reference_score: scores.0,
            other_score: scores.1,
        }))
    })
    .await
}

fn side(row: LedgerRow) -> RoomSide {
    RoomSide {
        predicted: row.predicted,
        predicted_verdict: row.predicted_verdict,
        measured: row.measured,
        measured_verdict: row.measured_verdict,
    }
}

fn score(rows: &[LedgerRow]) -> Score {
    let mut score = Score::default();
    for row in rows.iter().filter(|row| row.need.is_some()) {
        score.rooms_with_need += 1;
        score.predicted_met += usize::from(row.predicted_verdict > Some(Verdict::NotMet));
        score.measured += usize::from(row.measured_verdict.is_some());
        score.measured_met += usize::from(row.measured_verdict > Some(Verdict::NotMet));
    }
    score
}

fn column(readings: &Readings, setup: SetupId, kind: TestKind) -> Column<'_> {
    let counting = |wanted: TestKind| {
        readings
            .rounds
            .iter()
            .filter(move |round| round.setup_id == setup && round.kind == wanted)
            .map(|round| (round, readings.of(round.id).iter().collect::<Vec<_>>()))
            .filter(|(_, runs)| runs.iter().any(|run| run.counts()))
    };
    let other = if kind == TestKind::Local { TestKind::Internet } else { TestKind::Local };
    let rounds: Vec<_> = counting(kind).collect();
    Column { other_kind_only: rounds.is_empty() && counting(other).next().is_some(), rounds }
}
