//! Runs: taken in, listed, corrected, struck.

use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, get, post, put};
use busy_hen_home::{
    Band, CarriedBy, Correction, DeviceId, Fault, Faults, Home, KitStatus, Mark, Outcome, Round, RoundId, Run, RunId,
    Source, SpotId, local_day,
};
use busy_hen_job::check::{Ceiling, CeilingBy, check_new_run, check_run, over_ceiling};
use busy_hen_store::RoundRecord;
use busy_hen_units::{Dbm, MbitPerSec, Megahertz};
use jiff::Timestamp;
use serde::Deserialize;
use utoipa::{IntoParams, ToSchema};

use super::view::spot_name;
use crate::body::{Body, EditorHeader, Sender};
use crate::error::ApiError;
use crate::problems::{Reading, Storing};
use crate::state::AppState;

/// Most runs that are taken in one request.
const RUNS_AT_ONCE: usize = 1000;

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
    /// The mark, in rounds that go by marks.
    #[serde(default)]
    pub mark: Option<Mark>,
    /// What the kit itself showed of its uplink.
    #[serde(default)]
    pub kit_status: Option<KitStatus>,
    /// What was noted with it.
    #[serde(default)]
    pub note: Option<String>,
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

/// Runs of a round, page by page from the newest, each page in the order they were taken.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), RunsAsk),
    responses((status = OK, description = "The runs.", body = Vec<Run>), Reading))]
#[get("/rounds/{round}/runs")]
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

/// Takes runs in, all or none; a run that is there already is kept as it was.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), EditorHeader), request_body = NewRuns,
    responses((status = CREATED, description = "The runs as they are kept.", body = Vec<Run>), Storing))]
#[post("/rounds/{round}/runs")]
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
        if let Err(found) = check_new_run(&record.tested.home, &record.round, run) {
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
    let kept = state.store.add_runs(*round, &runs, &[], Some((&what, &sender.0, now))).await?;
    Ok(HttpResponse::Created().json(kept))
}

/// A reading above its ceiling is a fault of the reading, or of what is on record: whoever typed it is asked.
pub(crate) fn ask_about_ceiling(home: &Home, record: &RoundRecord, run: &Run) -> Result<(), ApiError> {
    let plan = home.brief.plan_of(run.under(&record.round).kind, local_day(run.at));
    let Some(Ceiling { most, read, by }) = over_ceiling(&record.tested.home, &record.round, run, plan) else {
        return Ok(());
    };
    let asks = match by {
        CeilingBy::Device => "Is a digit too many, or was it a link rate, or another device?",
        CeilingBy::Plan | CeilingBy::Port => {
            "Did another network carry it, was it a local test, or has the plan changed?"
        }
    };
    Err(ApiError::OverCeiling(format!("{read:.0} is more than {}, {most:.0}. {asks}", by.in_words())))
}

/// A run with its round and the plan in force on its day.
fn taken(new: NewRun, home: &Home, round: &Round, now: Timestamp) -> Run {
    let at = new.at.unwrap_or(now);
    let day = local_day(at);
    let id = new.id.unwrap_or_else(RunId::random);
    Run {
        carried_by: new.carried_by,
        serving: new.serving,
        band: new.band,
        channel: new.channel,
        width_mhz: new.width_mhz,
        signal_dbm: new.signal_dbm,
        link_rate_mbps: new.link_rate_mbps,
        plan_id: home.brief.plan_of(round.kind, day).map(|plan| plan.id),
        trace_mbps: new.trace_mbps,
        mark: new.mark,
        kit_status: new.kit_status,
        note: new.note.map(|note| note.trim().to_owned()).filter(|note| !note.is_empty()),
        ..Run::new(id, round.id, new.spot_id, at, new.source, new.outcome)
    }
}

/// Marks a run as not counting, or as counting again.
#[utoipa::path(tag = "rounds", params(("run" = RunId, Path), EditorHeader), request_body = VoidAsk,
    responses((status = OK, description = "The run as it now is.", body = Run), Storing))]
#[post("/runs/{run}/void")]
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
#[put("/runs/{run}")]
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
