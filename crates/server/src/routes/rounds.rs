//! Rounds of tests: begin, fill by hand or by the stand-in phone, judge.

use actix_web::http::header;
use actix_web::web::{Data, Json, Path};
use actix_web::{HttpResponse, delete, get, post};
use busy_hen_engine::catalogue::clients;
use busy_hen_engine::check::{check_round, check_run};
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::needs::{Need, Verdict, verdict};
use busy_hen_engine::predict::{Model, Prediction, Question};
use busy_hen_engine::readings::compare::change_percent;
use busy_hen_engine::readings::{Summary, summarise};
use busy_hen_formats::{Line, readings_csv as to_csv};
use busy_hen_home::{
    Band, CarriedBy, DeviceId, Doors, Fault, Faults, Home, HomeId, Outcome, RoomId, Round, RoundId, Run, RunId,
    SetupId, Situation, Source, SpotId, TestKind,
};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::predict::compute;
use crate::error::{ApiError, Problem};
use crate::state::{AppState, local_day};
use crate::walks::WalkOrder;

/// Most runs that are taken in one request.
const RUNS_AT_ONCE: usize = 1000;

/// A new round.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewRound {
    /// The setup that is tested.
    pub setup_id: SetupId,
    /// Key of the test device.
    pub client: String,
    /// The band it is held to; none when it chooses.
    pub band: Option<Band>,
    /// How far the test reaches.
    pub kind: TestKind,
    /// How the doors stand.
    pub doors: Doors,
    /// Whether others use the network meanwhile.
    pub situation: Situation,
    /// How many runs each spot is to get.
    pub runs_per_spot: u32,
    /// Spots in walking order; all spots of the house when empty.
    #[serde(default)]
    pub spots: Vec<SpotId>,
}

/// A run as it is sent in.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewRun {
    /// Its id, made by the sender so that sending twice keeps it once; made here when left out.
    pub id: Option<RunId>,
    /// Where it was taken.
    pub spot_id: SpotId,
    /// When it was taken; now when left out.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub at: Option<Timestamp>,
    /// Who or what took it.
    pub source: Source,
    /// What came of it.
    pub outcome: Outcome,
    /// What carried it.
    pub carried_by: CarriedBy,
    /// The device that served.
    pub serving: Option<DeviceId>,
    /// The band it was on.
    pub band: Option<Band>,
    /// The channel it was on.
    pub channel: Option<u16>,
    /// The width of that channel.
    pub width_mhz: Option<Megahertz>,
    /// Signal at the spot.
    pub signal_dbm: Option<Dbm>,
    /// Negotiated link rate.
    pub link_rate_mbps: Option<MbitPerSec>,
    /// Down over the length of the run.
    #[serde(default)]
    pub trace_mbps: Vec<MbitPerSec>,
}

/// Runs sent in together.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewRuns {
    /// The runs: all are kept or none.
    pub runs: Vec<NewRun>,
}

/// Why a run does not count.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct VoidAsk {
    /// The reason; none to let it count again.
    pub reason: Option<String>,
}

/// A walk of the stand-in phone.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WalkAsk {
    /// Seed of its hidden truth: the same seed is the same house on every walk.
    pub seed: u64,
}

/// A round with all that was measured in it.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundView {
    /// The round.
    pub round: Round,
    /// The home it belongs to.
    pub home_id: HomeId,
    /// Name of the test device.
    pub client_name: String,
    /// Spots in walking order.
    pub spots: Vec<SpotRow>,
    /// Whether the stand-in phone is walking it.
    pub walking: bool,
    /// What stopped the stand-in phone, when something did.
    pub walk_error: Option<String>,
}

/// A spot of a round.
#[derive(Debug, Serialize, ToSchema)]
pub struct SpotRow {
    /// The spot.
    pub spot_id: SpotId,
    /// Its room.
    pub room_id: RoomId,
    /// Room, and spot where the room has several.
    pub name: String,
    /// What the room needs.
    pub need: Option<Need>,
    /// Runs in the order they were taken.
    pub runs: Vec<Run>,
    /// What they come to.
    pub summary: Option<Summary>,
    /// Judged against the need.
    pub verdict: Option<Verdict>,
    /// What was predicted for the round's conditions; none when the room has no place in the drawing.
    pub predicted: Option<Prediction>,
    /// Median down against the predicted middle, percent.
    pub gap_percent: Option<f64>,
}

/// Begins a round.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path)), request_body = NewRound,
    responses((status = CREATED, body = RoundView), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes/{home}/rounds")]
pub async fn create_round(
    state: Data<AppState>,
    home: Path<HomeId>,
    new: Json<NewRound>,
) -> Result<HttpResponse, ApiError> {
    let stored = state.store.home(*home).await?;
    let new = new.into_inner();
    let plan = Plan::new(&stored.home.house, stored.home.units);
    let drawn = || stored.home.house.spots.iter().filter(|spot| plan.spot(spot).is_some()).map(|spot| spot.id);
    let round = Round {
        id: RoundId::random(),
        setup_id: new.setup_id,
        begun: state.now(),
        client: new.client,
        band: new.band,
        kind: new.kind,
        doors: new.doors,
        situation: new.situation,
        runs_per_spot: new.runs_per_spot,
        spots: if new.spots.is_empty() { drawn().collect() } else { new.spots },
    };
    check_round(&stored.home, &round)?;
    state.store.create_round(*home, &round).await?;
    state.forget_readings(*home).await;
    Ok(HttpResponse::Created().json(view(&state, *home, stored.home, round).await?))
}

/// A round with its runs, figures and verdicts.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = OK, body = RoundView), (status = NOT_FOUND, body = Problem)))]
#[get("/api/rounds/{round}")]
pub async fn open_round(state: Data<AppState>, round: Path<RoundId>) -> Result<Json<RoundView>, ApiError> {
    let (home_id, round) = state.store.round(*round).await?;
    let home = state.store.home(home_id).await?.home;
    Ok(Json(view(&state, home_id, home, round).await?))
}

async fn view(state: &Data<AppState>, home_id: HomeId, home: Home, round: Round) -> Result<RoundView, ApiError> {
    let runs = state.store.runs(round.id).await?;
    let (walking, walk_error) = state.walks.state(round.id);
    let client = clients::find(&round.client).ok_or(ApiError::NotFound("test device"))?;
    let day = local_day(round.begun);
    let question =
        Question { client, band: round.band, situation: round.situation, doors: round.doors, reach: round.kind, day };
    let state = state.clone();
    compute(move || {
        let setup = home.setup(round.setup_id).ok_or(ApiError::NotFound("setup"))?;
        let plan = Plan::new(&home.house, home.units);
        let model = Model::new(&home, setup, &plan, question, &state.kept);
        let spots = round.spots.iter().filter_map(|id| spot_row(*id, &home, &plan, &model, &runs)).collect();
        Ok(RoundView { home_id, client_name: client.name.to_owned(), spots, walking, walk_error, round })
    })
    .await
}

fn spot_row(id: SpotId, home: &Home, plan: &Plan, model: &Model<'_>, runs: &[Run]) -> Option<SpotRow> {
    let spot = home.house.spots.iter().find(|spot| spot.id == id)?;
    let runs: Vec<Run> = runs.iter().filter(|run| run.spot_id == id).cloned().collect();
    let summary = summarise(&runs);
    let need = model.need(spot.room_id);
    let predicted = plan.spot(spot).map(|(_, at)| model.at(at, Some(spot.room_id)));
    let gap = |summary: &Summary| change_percent(predicted.as_ref()?.down.middle.get(), summary.down_mbps.median);
    Some(SpotRow {
        spot_id: id,
        room_id: spot.room_id,
        name: spot_name(home, id),
        verdict: need.zip(summary).map(|(need, summary)| verdict::measured(&need, &summary)),
        need,
        gap_percent: summary.as_ref().and_then(gap),
        summary,
        predicted,
        runs,
    })
}

fn spot_name(home: &Home, id: SpotId) -> String {
    let Some(spot) = home.house.spots.iter().find(|spot| spot.id == id) else { return String::new() };
    let room = home.house.room(spot.room_id).map_or("", |room| room.name.as_str());
    if spot.name.is_empty() { room.to_owned() } else { format!("{room}, {}", spot.name) }
}

/// Deletes a round with its runs.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = NO_CONTENT), (status = NOT_FOUND, body = Problem)))]
#[delete("/api/rounds/{round}")]
pub async fn delete_round(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    let (home, _) = state.store.round(*round).await?;
    state.walks.stop(*round);
    state.store.delete_round(*round).await?;
    state.forget_readings(home).await;
    Ok(HttpResponse::NoContent().finish())
}

/// Takes runs in, all or none; a run that is there already is kept as it was.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)), request_body = NewRuns,
    responses((status = CREATED, body = Vec<Run>), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/rounds/{round}/runs")]
pub async fn add_runs(
    state: Data<AppState>,
    round: Path<RoundId>,
    new: Json<NewRuns>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, round) = state.store.round(*round).await?;
    let home = state.store.home(home_id).await?.home;
    let new = new.into_inner().runs;
    if new.len() > RUNS_AT_ONCE {
        return Err(Faults::one("/runs", format!("Send at most {RUNS_AT_ONCE} runs at once.")).into());
    }
    let now = state.now();
    let runs: Vec<Run> = new.into_iter().map(|run| taken(run, &home, &round, now)).collect();
    let mut faults = Vec::new();
    for (index, run) in runs.iter().enumerate() {
        if let Err(found) = check_run(&home, &round, run) {
            faults.extend(found.list().iter().map(|fault| Fault {
                pointer: format!("/runs/{index}{}", fault.pointer),
                message: fault.message.clone(),
            }));
        }
    }
    Faults::check(faults)?;
    state.store.add_runs(round.id, &runs).await?;
    state.forget_readings(home_id).await;
    Ok(HttpResponse::Created().json(runs))
}

/// A run with its round and the plan in force on its day.
fn taken(new: NewRun, home: &Home, round: &Round, now: Timestamp) -> Run {
    let at = new.at.unwrap_or(now);
    let day = local_day(at);
    Run {
        id: new.id.unwrap_or_else(RunId::random),
        round_id: round.id,
        spot_id: new.spot_id,
        at,
        source: new.source,
        outcome: new.outcome,
        carried_by: new.carried_by,
        serving: new.serving,
        band: new.band,
        channel: new.channel,
        width_mhz: new.width_mhz,
        signal_dbm: new.signal_dbm,
        link_rate_mbps: new.link_rate_mbps,
        plan_id: home.brief.plan_on(day).map(|plan| plan.id),
        trace_mbps: new.trace_mbps,
        void: None,
    }
}

/// Marks a run as not counting, or as counting again.
#[utoipa::path(tag = "rounds", params(("run" = RunId, Path)), request_body = VoidAsk,
    responses((status = OK, body = Run), (status = NOT_FOUND, body = Problem)))]
#[post("/api/runs/{run}/void")]
pub async fn void_run(state: Data<AppState>, run: Path<RunId>, ask: Json<VoidAsk>) -> Result<Json<Run>, ApiError> {
    let reason = ask.into_inner().reason.map(|reason| reason.trim().to_owned());
    if reason.as_ref().is_some_and(|reason| reason.is_empty() || reason.chars().count() > 200) {
        return Err(Faults::one("/reason", "Say in a few words why the run does not count.").into());
    }
    let run = state.store.void_run(*run, reason).await?;
    let (home, _) = state.store.round(run.round_id).await?;
    state.forget_readings(home).await;
    Ok(Json(run))
}

/// Sends the simulated stand-in phone through a round. Its readings are made up.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)), request_body = WalkAsk,
    responses((status = ACCEPTED), (status = CONFLICT, body = Problem)))]
#[post("/api/rounds/{round}/walk")]
pub async fn walk(state: Data<AppState>, round: Path<RoundId>, ask: Json<WalkAsk>) -> Result<HttpResponse, ApiError> {
    let (home, _) = state.store.round(*round).await?;
    state.walks.start(WalkOrder { home, round: *round, seed: ask.seed })?;
    Ok(HttpResponse::Accepted().finish())
}

/// Calls the stand-in phone back; what it has measured stays.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = NO_CONTENT), (status = NOT_FOUND, body = Problem)))]
#[delete("/api/rounds/{round}/walk")]
pub async fn stop_walk(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    state.store.round(*round).await?;
    state.walks.stop(*round);
    Ok(HttpResponse::NoContent().finish())
}

/// All readings of a home as CSV.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path)),
    responses((status = OK, body = String, content_type = "text/csv"), (status = NOT_FOUND, body = Problem)))]
#[get("/api/homes/{home}/readings.csv")]
pub async fn readings_csv(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let stored = state.store.home(*home).await?;
    let readings = state.readings(*home).await?;
    let home = &stored.home;
    let setups: Vec<String> = readings
        .rounds
        .iter()
        .map(|round| home.setup(round.setup_id).map(|s| format!("{} {}", s.letter, s.name)).unwrap_or_default())
        .collect();
    let mut lines = Vec::new();
    for (round, setup) in readings.rounds.iter().zip(&setups) {
        for run in readings.of(round.id) {
            let spot = home.house.spots.iter().find(|spot| spot.id == run.spot_id);
            let room = spot.and_then(|spot| home.house.room(spot.room_id));
            let serving = run.serving.and_then(|id| home.setup(round.setup_id)?.device(id));
            lines.push(Line {
                setup,
                room: room.map_or("", |room| room.name.as_str()),
                spot: spot.map_or("", |spot| spot.name.as_str()),
                serving: serving.map_or("", |device| device.name.as_str()),
                round,
                run,
            });
        }
    }
    let text = to_csv(&lines).map_err(|error| ApiError::Internal(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((header::CONTENT_DISPOSITION, "attachment; filename=\"readings.csv\""))
        .body(text))
}
