//! Rounds of tests: begin, fill by hand or by the stand-in phone, judge.

use std::collections::HashMap;

use actix_web::http::header;
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, delete, get, post, put};
use busy_hen_engine::catalogue::clients;
use busy_hen_engine::changes::since_tested;
use busy_hen_engine::check::{Ceiling, check_round, check_run, over_ceiling};
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::needs::{Need, Verdict, room_need, verdict};
use busy_hen_engine::predict::Prediction;
use busy_hen_engine::predict::forecast::{as_tested, forecasts};
use busy_hen_engine::propagation::LAW;
use busy_hen_engine::readings::compare::change_percent;
use busy_hen_engine::readings::conditions::beside;
use busy_hen_engine::readings::{Summary, summarise};
use busy_hen_engine::watch::Watch;
use busy_hen_formats::{Line, readings_csv as to_csv};
use busy_hen_home::{
    AsTested, Band, CarriedBy, Correction, DeviceId, Doors, Fault, Faults, Forecast, Home, HomeId, Outcome, RoomId,
    Round, RoundId, Run, RunId, SetupId, Situation, Source, SpotId, TestKind, Under, local_day,
};
use busy_hen_store::{RoundRecord, StoreError};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::files::attachment;
use crate::body::{Body, EditorHeader, Sender};
use crate::error::ApiError;
use crate::problems::{Acting, Reading, Storing};
use crate::state::AppState;
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
    #[schema(maximum = 65535)]
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
    /// Whether they are kept though one is over what plan and ports let through.
    #[serde(default)]
    pub over_ceiling_confirmed: bool,
}

/// A run as it should have been typed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RunEdit {
    /// What came of it; what stood there before is kept.
    pub outcome: Outcome,
    /// Whether it is kept though it is over what plan and ports let through.
    #[serde(default)]
    pub over_ceiling_confirmed: bool,
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

/// A round with all that was measured in it. Everything told of it comes from the home as it was taken in it.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundView {
    /// The round.
    pub round: Round,
    /// The home it belongs to.
    pub home_id: HomeId,
    /// What it was taken in.
    pub tested: AsTested,
    /// Version of the law that predicts today.
    pub law_now: String,
    /// What has changed since that bears on its readings, as told of the past.
    pub changed_since: Vec<String>,
    /// Whether the stand-in phone made up any of its runs.
    pub made_up: bool,
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
    /// Whether the house still has it.
    pub there: bool,
    /// What the room needed.
    pub need: Option<Need>,
    /// How many runs there are under the conditions of the round.
    pub run_count: usize,
    /// How many there are under any.
    pub run_total: usize,
    /// The newest runs in the order they were taken, at most thirty; the rest by the runs of the round.
    pub runs: Vec<Run>,
    /// What those come to that were taken under the conditions of the round.
    pub summary: Option<Summary>,
    /// What those come to that were taken under other conditions, alike ones together.
    pub otherwise: Vec<Otherwise>,
    /// Judged against the need of that day.
    pub verdict: Option<Verdict>,
    /// What was predicted as the round began; none in rounds from before that was kept.
    pub forecast: Option<Forecast>,
    /// What today's law predicts for the home as it stood then; none when the room had no place in the drawing.
    pub predicted: Option<Prediction>,
    /// Whether the two are more than half a percent apart.
    pub differs: bool,
    /// Median down against what was predicted that day, or else by today's law, percent.
    pub gap_percent: Option<f64>,
}

/// Runs of a spot that were taken under other conditions than the round's.
#[derive(Debug, Serialize, ToSchema)]
pub struct Otherwise {
    /// What was otherwise, in words.
    pub words: String,
    /// The conditions.
    pub under: Under,
    /// What the runs come to.
    pub summary: Summary,
}

/// Which runs of a round.
#[derive(Debug, Deserialize, IntoParams)]
pub struct RunsAsk {
    /// At this spot only.
    pub spot: Option<SpotId>,
    /// Taken before this run.
    pub before: Option<RunId>,
    /// At most so many, 1 to 500.
    #[param(minimum = 1, maximum = 500)]
    pub most: Option<u32>,
}

/// Runs of a spot that a round shows without being asked for more.
const RUNS_SHOWN: usize = 30;
/// Times that a round is made anew for a home that changes meanwhile.
const TRIES: usize = 8;

/// Begins a round, in the home as it stands at this moment.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path), EditorHeader), request_body = NewRound,
    responses((status = CREATED, description = "The new round.", body = RoundView), Storing))]
#[post("/api/homes/{home}/rounds")]
pub async fn create_round(
    state: Data<AppState>,
    home: Path<HomeId>,
    sender: Sender,
    new: Body<NewRound>,
) -> Result<HttpResponse, ApiError> {
    for _ in 0..TRIES {
        let stored = state.store.home(*home).await?;
        let record = begun(&state, &stored.home, &new).await?;
        let letter = record.tested.home.setups.first().map_or("", |setup| setup.letter.as_str());
        let what = format!("begin a round in {letter}");
        match state.store.create_round(*home, stored.revision, &record, &what, (&sender.0, state.now())).await {
            // The home changed while its forecast was worked out: the round is made for it as it now is.
            Err(StoreError::Stale) => {}
            done => {
                done?;
                let view = view(&state, *home, record).await?;
                return Ok(HttpResponse::Created().json(view));
            }
        }
    }
    Err(ApiError::Conflict("The home is being changed all the time; begin the round when that has ended.".into()))
}

/// A new round in a home as it stands, with what is forecast for it.
async fn begun(state: &Data<AppState>, home: &Home, new: &NewRound) -> Result<RoundRecord, ApiError> {
    let plan = Plan::new(&home.house, home.units);
    let drawn = || home.house.spots.iter().filter(|spot| plan.spot(spot).is_some()).map(|spot| spot.id);
    let round = Round {
        id: RoundId::random(),
        setup_id: new.setup_id,
        begun: state.now(),
        client: new.client.clone(),
        band: new.band,
        kind: new.kind,
        doors: new.doors,
        situation: new.situation,
        runs_per_spot: new.runs_per_spot,
        spots: if new.spots.is_empty() { drawn().collect() } else { new.spots.clone() },
    };
    check_round(home, &round)?;
    let (home, work) = (home.clone(), state.clone());
    state
        .places
        .compute(move |_| {
            let tested = as_tested(&home, &round, (round.begun, local_day(round.begun)), &work.kept)
                .ok_or_else(|| ApiError::Internal("a checked round that can't be forecast".into()))?;
            Ok(RoundRecord { round, tested })
        })
        .await
}

/// A round with its newest runs, figures and verdicts.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = OK, description = "The round.", body = RoundView), Reading))]
#[get("/api/rounds/{round}")]
pub async fn open_round(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    let (home_id, record) = state.store.round(*round).await?;
    Ok(HttpResponse::Ok().json(view(&state, home_id, record).await?))
}

async fn view(state: &Data<AppState>, home_id: HomeId, record: RoundRecord) -> Result<RoundView, ApiError> {
    let RoundRecord { round, tested } = record;
    // Asked before the runs are read: a round that is told to be walked to its end is shown with all of them.
    let (walking, walk_error) = state.walks.state(round.id);
    let now = state.store.home(home_id).await?.home;
    let readings = state.readings(home_id).await?;
    let mut shown = HashMap::new();
    for spot in &round.spots {
        if readings.of(round.id).iter().any(|run| run.spot_id == *spot) {
            let most = u32::try_from(RUNS_SHOWN).unwrap_or(u32::MAX);
            shown.insert(*spot, state.store.runs(round.id, Some(*spot), None, most).await?);
        }
    }
    let work = state.clone();
    state
        .places
        .compute(move |_| {
            let client = clients::find(&round.client);
            let predicted = forecasts(&tested.home, &round, local_day(round.begun), &work.kept);
            let runs = readings.of(round.id);
            let spots = round.spots.iter().map(|id| SpotRow {
                there: now.house.spots.iter().any(|spot| spot.id == *id),
                ..spot_row(*id, &round, &tested, &predicted, runs, shown.remove(id).unwrap_or_default())
            });
            let spots = spots.collect();
            Ok(RoundView {
                home_id,
                law_now: LAW.to_owned(),
                changed_since: since_tested(&tested.home, round.setup_id, &now),
                made_up: runs.iter().any(|run| run.counts() && run.is_made_up()),
                client_name: client.map_or(round.client.clone(), |client| client.name.to_owned()),
                spots,
                walking,
                walk_error,
                tested,
                round,
            })
        })
        .await
}

fn spot_row(
    id: SpotId,
    round: &Round,
    tested: &AsTested,
    predicted: &HashMap<SpotId, Prediction>,
    all: &[Run],
    runs: Vec<Run>,
) -> SpotRow {
    let home = &tested.home;
    let room_id = home.house.spots.iter().find(|spot| spot.id == id).map_or(RoomId(id.0), |spot| spot.room_id);
    let own = || all.iter().filter(|run| run.spot_id == id);
    let as_the_round = |run: &&Run| run.under.as_ref().is_none_or(|under| *under == round.under());
    let summary = summarise(own().filter(as_the_round));
    let need = room_need(&home.brief, room_id);
    let forecast = tested.forecasts.iter().find(|forecast| forecast.spot_id == id).cloned();
    let predicted = predicted.get(&id).cloned();
    let then = forecast.as_ref().map(|forecast| forecast.down.middle.get());
    let today = predicted.as_ref().map(|predicted| predicted.down.middle.get());
    let gap = |summary: &Summary| change_percent(then.or(today)?, summary.down_mbps.median);
    SpotRow {
        spot_id: id,
        room_id,
        name: spot_name(home, id),
        there: true,
        verdict: need.zip(summary).map(|(need, summary)| verdict::measured(&need, &summary)),
        need,
        gap_percent: summary.as_ref().and_then(gap),
        differs: then.zip(today).is_some_and(|(then, today)| (then - today).abs() > 0.005 * then.max(today)),
        run_count: own().filter(as_the_round).count(),
        run_total: own().count(),
        otherwise: otherwise(round, own().filter(|run| !as_the_round(run))),
        summary,
        forecast,
        predicted,
        runs,
    }
}

/// Runs sorted by their conditions, with what each lot comes to.
fn otherwise<'a>(round: &Round, runs: impl Iterator<Item = &'a Run>) -> Vec<Otherwise> {
    let mut lots: Vec<(&Under, Vec<&Run>)> = Vec::new();
    for run in runs {
        let Some(under) = &run.under else { continue };
        match lots.iter_mut().find(|(own, _)| *own == under) {
            Some((_, lot)) => lot.push(run),
            None => lots.push((under, vec![run])),
        }
    }
    lots.into_iter()
        .filter_map(|(under, lot)| {
            Some(Otherwise { words: beside(under, &round.under()), under: under.clone(), summary: summarise(lot)? })
        })
        .collect()
}

pub(crate) fn spot_name(home: &Home, id: SpotId) -> String {
    let Some(spot) = home.house.spots.iter().find(|spot| spot.id == id) else { return String::new() };
    let room = home.house.room(spot.room_id).map_or("", |room| room.name.as_str());
    if spot.name.is_empty() { room.to_owned() } else { format!("{room}, {}", spot.name) }
}

/// Runs of a round, page by page from the newest, each page in the order they were taken.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), RunsAsk),
    responses((status = OK, description = "The runs.", body = Vec<Run>), Reading))]
#[get("/api/rounds/{round}/runs")]
pub async fn list_runs(
    state: Data<AppState>,
    round: Path<RoundId>,
    asked: Query<RunsAsk>,
) -> Result<HttpResponse, ApiError> {
    let most = asked.most.unwrap_or(100);
    if !(1..=500).contains(&most) {
        return Err(ApiError::Query("most is 1 to 500".into()));
    }
    state.store.round(*round).await?;
    Ok(HttpResponse::Ok().json(state.store.runs(*round, asked.spot, asked.before, most).await?))
}

/// Deletes a round with its runs; undo brings it back.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), EditorHeader),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/api/rounds/{round}")]
pub async fn delete_round(
    state: Data<AppState>,
    round: Path<RoundId>,
    sender: Sender,
) -> Result<HttpResponse, ApiError> {
    let (home, record) = state.store.round(*round).await?;
    let runs = state.readings(home).await?.of(*round).len();
    let letter = record.tested.home.setups.first().map_or("", |setup| setup.letter.as_str());
    let what = format!("delete a round in {letter} with {runs} run{}", if runs == 1 { "" } else { "s" });
    state.walks.stop(*round);
    state.store.delete_round(*round, &what, (&sender.0, state.now())).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Takes runs in, all or none; a run that is there already is kept as it was.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), EditorHeader), request_body = NewRuns,
    responses((status = CREATED, description = "The runs as they are kept.", body = Vec<Run>), Storing))]
#[post("/api/rounds/{round}/runs")]
pub async fn add_runs(
    state: Data<AppState>,
    round: Path<RoundId>,
    sender: Sender,
    new: Body<NewRuns>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, record) = state.store.round(*round).await?;
    let home = state.store.home(home_id).await?.home;
    let NewRuns { runs: new, over_ceiling_confirmed } = new.into_inner();
    if new.len() > RUNS_AT_ONCE {
        return Err(Faults::one("/runs", format!("Send at most {RUNS_AT_ONCE} runs at once.")).into());
    }
    if let Some(index) = new.iter().position(|run| run.source == Source::Phone) {
        let message = "What a phone measured comes in from the phone, with its samples; type this run in instead.";
        return Err(Faults::one(format!("/runs/{index}/source"), message).into());
    }
    let now = state.now();
    let runs: Vec<Run> = new.into_iter().map(|run| taken(run, &home, &record.round, now)).collect();
    let mut faults = Vec::new();
    for (index, run) in runs.iter().enumerate() {
        if let Err(found) = check_run(&record.tested.home, &record.round, run) {
            faults.extend(found.list().iter().map(|fault| Fault {
                pointer: format!("/runs/{index}{}", fault.pointer),
                message: fault.message.clone(),
            }));
        }
    }
    Faults::check(faults)?;
    for run in runs.iter().filter(|run| run.source == Source::Typed && !over_ceiling_confirmed) {
        ask_about_ceiling(&home, &record, run)?;
    }
    let name = runs.first().map(|run| spot_name(&record.tested.home, run.spot_id)).unwrap_or_default();
    let what = format!("run at {name}");
    let kept = state.store.add_runs(*round, &runs, &[], &what, (&sender.0, now)).await?;
    Ok(HttpResponse::Created().json(kept))
}

/// A reading above its ceiling is a fault of the reading, or of what is on record: whoever typed it is asked.
fn ask_about_ceiling(home: &Home, record: &RoundRecord, run: &Run) -> Result<(), ApiError> {
    let plan = home.brief.plan_on(local_day(run.at));
    let Some(Ceiling { most, read, by_plan }) = over_ceiling(&record.tested.home, &record.round, run, plan) else {
        return Ok(());
    };
    let what = if by_plan { "the plan on record gives" } else { "the router’s port lets through" };
    Err(ApiError::OverCeiling(format!(
        "{read:.0} is more than {what}, {most:.0}. Did another network carry it, was it a local test, or has the plan changed?"
    )))
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
        corrected: Vec::new(),
        under: None,
    }
}

/// Marks a run as not counting, or as counting again.
#[utoipa::path(tag = "rounds", params(("run" = RunId, Path), EditorHeader), request_body = VoidAsk,
    responses((status = OK, description = "The run as it now is.", body = Run), Storing))]
#[post("/api/runs/{run}/void")]
pub async fn void_run(
    state: Data<AppState>,
    run: Path<RunId>,
    sender: Sender,
    ask: Body<VoidAsk>,
) -> Result<HttpResponse, ApiError> {
    let reason = ask.into_inner().reason.map(|reason| reason.trim().to_owned());
    if reason.as_ref().is_some_and(|reason| reason.is_empty() || reason.chars().count() > 200) {
        return Err(Faults::one("/reason", "Say in a few words why the run does not count.").into());
    }
    let what = if reason.is_some() { "strike a run" } else { "count a run again" };
    let change = |_: &RoundRecord, run: &mut Run| -> Result<(), ApiError> {
        run.void = reason;
        Ok(())
    };
    let (_, run) = state.store.change_run(*run, what, (&sender.0, state.now()), change).await?;
    Ok(HttpResponse::Ok().json(run))
}

/// Corrects a run that was typed wrong; what stood there before is kept with it.
#[utoipa::path(tag = "rounds", params(("run" = RunId, Path), EditorHeader), request_body = RunEdit,
    responses((status = OK, description = "The run as it now is.", body = Run), Storing))]
#[put("/api/runs/{run}")]
pub async fn correct_run(
    state: Data<AppState>,
    run: Path<RunId>,
    sender: Sender,
    edit: Body<RunEdit>,
) -> Result<HttpResponse, ApiError> {
    let RunEdit { outcome, over_ceiling_confirmed } = edit.into_inner();
    let home = state.store.home_of_run(*run).await?;
    let home = state.store.home(home).await?.home;
    let now = state.now();
    let change = |record: &RoundRecord, run: &mut Run| -> Result<(), ApiError> {
        if run.source != Source::Typed {
            return Err(ApiError::Conflict(
                "Only a typed run can be corrected; strike this one and run it again.".into(),
            ));
        }
        if run.outcome == outcome {
            return Ok(());
        }
        run.corrected.push(Correction { at: now, was: std::mem::replace(&mut run.outcome, outcome) });
        check_run(&record.tested.home, &record.round, run)?;
        if !over_ceiling_confirmed {
            ask_about_ceiling(&home, record, run)?;
        }
        Ok(())
    };
    let (_, run) = state.store.change_run(*run, "correct a run", (&sender.0, now), change).await?;
    Ok(HttpResponse::Ok().json(run))
}

/// Sends the simulated stand-in phone through a round. Its readings are made up.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)), request_body = WalkAsk,
    responses((status = ACCEPTED, description = "It walks."), Storing))]
#[post("/api/rounds/{round}/walk")]
pub async fn walk(state: Data<AppState>, round: Path<RoundId>, ask: Body<WalkAsk>) -> Result<HttpResponse, ApiError> {
    let (home, _) = state.store.round(*round).await?;
    state.walks.start(WalkOrder { home, round: *round, seed: ask.seed })?;
    Ok(HttpResponse::Accepted().finish())
}

/// Calls the stand-in phone back; what it has measured stays.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = NO_CONTENT, description = "It is called back."), Acting))]
#[delete("/api/rounds/{round}/walk")]
pub async fn stop_walk(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    state.store.round(*round).await?;
    state.walks.stop(*round);
    Ok(HttpResponse::NoContent().finish())
}

/// All readings of a home as CSV.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The readings, one run a line.", body = String, content_type = "text/csv; charset=utf-8"), Reading))]
#[get("/api/homes/{home}/readings.csv")]
pub async fn readings_csv(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let name = state.store.home(*home).await?.home.name;
    let readings = state.readings(*home).await?;
    let written = move |_: &Watch| {
        let setups: Vec<String> = readings
            .rounds
            .iter()
            .map(|RoundRecord { round, tested }| {
                tested.home.setup(round.setup_id).map(|s| format!("{} {}", s.letter, s.name)).unwrap_or_default()
            })
            .collect();
        let mut lines = Vec::new();
        for (RoundRecord { round, tested }, setup) in readings.rounds.iter().zip(&setups) {
            let home = &tested.home;
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
        to_csv(&lines).map_err(|error| ApiError::Internal(error.to_string()))
    };
    let text = state.places.compute(written).await?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((header::CONTENT_DISPOSITION, attachment(&name, "csv")?))
        .body(text))
}
