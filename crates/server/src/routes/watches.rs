//! Long watches: their logs in and out, what they show; and notes on devices by hand.

use std::time::Duration;

use actix_web::http::{StatusCode, header};
use actix_web::web::{Data, Path, Payload};
use actix_web::{HttpRequest, HttpResponse, delete, get, post};
use busy_hen_formats::{read_watch_log, watch_log_line};
use busy_hen_home::{DeviceNote, HomeId, NoteId, WATCH_LOG_LIMIT, WatchId, WatchSummary};
use busy_hen_job::long_watch::{WatchCommand, WatchReport, watch_command, watch_report};
use jiff::tz::TimeZone;
use serde::Serialize;
use utoipa::ToSchema;

use super::files::attachment;
use crate::body::{Body, read};
use crate::error::ApiError;
use crate::problems::{Acting, Reading, Storing};
use crate::state::AppState;

/// Longest that a log may take to arrive.
const PATIENCE: Duration = Duration::from_secs(120);

/// Watches of a home, and what was noted of its devices.
#[derive(Debug, Serialize, ToSchema)]
pub struct Watches {
    /// First begun first.
    pub watches: Vec<WatchSummary>,
    /// In the order of time.
    pub notes: Vec<DeviceNote>,
    /// How to leave one behind, by setup.
    pub commands: Vec<WatchCommand>,
}

/// Watches of a home, and what was noted of its devices.
#[utoipa::path(tag = "watches", params(("home" = HomeId, Path)),
    responses((status = OK, description = "Watches and notes.", body = Watches), Reading))]
#[get("/homes/{home}/watches")]
pub async fn list_watches(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let readings = state.readings(*home).await?;
    let stored = state.store.home(*home).await?;
    let (watches, notes) = (readings.watches.clone(), readings.device_notes.clone());
    let commands = stored.home.setups.iter().map(watch_command).collect();
    Ok(HttpResponse::Ok().json(Watches { watches, notes, commands }))
}

/// Takes in the log of a watch, as `busy-hen watch` writes it; a longer one of the same watch goes on with what is there.
#[utoipa::path(tag = "watches", params(("home" = HomeId, Path)), request_body(content = String, content_type = "application/jsonl"),
    responses((status = CREATED, description = "It is kept.", body = WatchSummary), Storing))]
#[post("/homes/{home}/watches")]
pub async fn bring_watch(
    state: Data<AppState>,
    home: Path<HomeId>,
    request: HttpRequest,
    body: Payload,
) -> Result<HttpResponse, ApiError> {
    let bytes = read(&request, &mut body.into_inner(), WATCH_LOG_LIMIT, PATIENCE).await?;
    let log = state.places.compute_of(*home, move |_| Ok(read_watch_log(&bytes)?)).await?;
    let kept = state.store.keep_watch(*home, log).await?;
    Ok(HttpResponse::Created().json(kept.summary()))
}

/// What a watch saw, told by the days and hours of this machine.
#[utoipa::path(tag = "watches", params(("home" = HomeId, Path), ("watch" = WatchId, Path)),
    responses((status = OK, description = "Days, and what they show.", body = WatchReport), Reading))]
#[get("/homes/{home}/watches/{watch}")]
pub async fn open_watch(state: Data<AppState>, ids: Path<(HomeId, WatchId)>) -> Result<HttpResponse, ApiError> {
    let log = state.store.watch(ids.0, ids.1).await?;
    let told = state.places.compute_of(ids.0, move |watch| Ok(watch_report(&log, &TimeZone::system(), watch))).await?;
    Ok(HttpResponse::Ok().json(told))
}

/// The log of a watch.
#[utoipa::path(tag = "watches", params(("home" = HomeId, Path), ("watch" = WatchId, Path)),
    responses((status = OK, description = "The log, a JSON object a line.", body = String, content_type = "application/jsonl"), Reading))]
#[get("/homes/{home}/watches/{watch}/log")]
pub async fn watch_log(state: Data<AppState>, ids: Path<(HomeId, WatchId)>) -> Result<HttpResponse, ApiError> {
    let log = state.store.watch(ids.0, ids.1).await?;
    let lines = log.lines().map(|line| watch_log_line(&line)).collect::<Result<String, _>>()?;
    Ok(HttpResponse::Ok()
        .content_type("application/jsonl")
        .insert_header((header::CONTENT_DISPOSITION, attachment("busy-hen-watch", "jsonl")?))
        .body(lines))
}

/// Takes a watch away for good.
#[utoipa::path(tag = "watches", params(("home" = HomeId, Path), ("watch" = WatchId, Path)),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/homes/{home}/watches/{watch}")]
pub async fn remove_watch(state: Data<AppState>, ids: Path<(HomeId, WatchId)>) -> Result<HttpResponse, ApiError> {
    state.store.remove_watch(ids.0, ids.1).await?;
    Ok(HttpResponse::new(StatusCode::NO_CONTENT))
}

/// Keeps a note on a device; sent twice, it is kept once.
#[utoipa::path(tag = "watches", params(("home" = HomeId, Path)), request_body = DeviceNote,
    responses((status = CREATED, description = "It is kept.", body = DeviceNote), Storing))]
#[post("/homes/{home}/device-notes")]
pub async fn add_device_note(
    state: Data<AppState>,
    home: Path<HomeId>,
    note: Body<DeviceNote>,
) -> Result<HttpResponse, ApiError> {
    let note = note.into_inner();
    note.check()?;
    state.store.add_device_note(*home, &note).await?;
    Ok(HttpResponse::Created().json(note))
}

/// Takes a note away for good.
#[utoipa::path(tag = "watches", params(("note" = NoteId, Path)),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/device-notes/{note}")]
pub async fn remove_device_note(state: Data<AppState>, note: Path<NoteId>) -> Result<HttpResponse, ApiError> {
    state.store.remove_device_note(*note).await?;
    Ok(HttpResponse::new(StatusCode::NO_CONTENT))
}
