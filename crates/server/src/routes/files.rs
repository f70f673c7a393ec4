//! Home files: a home with all that was measured in it, out and in.

use actix_web::http::header;
use actix_web::web::{Bytes, Data, Path};
use actix_web::{HttpResponse, get, post};
use busy_hen_formats::{HomeFile, RoundRecord, SIZE_LIMIT};
use busy_hen_home::{Faults, HomeId, Round, RoundId, Run, RunId};

use super::homes::view;
use super::predict::compute;
use crate::error::{ApiError, Problem};
use crate::state::AppState;
use crate::views::HomeView;

/// The home as a file, with its rounds and runs.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = OK, body = HomeFile), (status = NOT_FOUND, body = Problem)))]
#[get("/api/homes/{home}/file")]
pub async fn export_home(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let (home, rounds) = state.store.export(*home).await?;
    let name: String =
        home.name.chars().map(|c| if c.is_ascii_alphanumeric() { c.to_ascii_lowercase() } else { '-' }).collect();
    let rounds = rounds.into_iter().map(|(round, runs)| RoundRecord { round, runs }).collect();
    let text = HomeFile::new(home, rounds).to_text().map_err(|error| ApiError::Internal(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header((
            header::CONTENT_DISPOSITION,
            format!("attachment; filename=\"{}.json\"", name.trim_matches('-')),
        ))
        .body(text))
}

/// Takes a home file in as a new home; a home that came in before is left as it is.
#[utoipa::path(tag = "homes", request_body = HomeFile,
    responses((status = CREATED, body = HomeView), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/home-files")]
pub async fn import_home(
    state: Data<AppState>,
    body: Result<Bytes, actix_web::Error>,
) -> Result<HttpResponse, ApiError> {
    let too_large =
        || Faults::one("", format!("The file is larger than {} MB; it can't be a home file.", SIZE_LIMIT >> 20));
    let body = body.map_err(|_| too_large())?;
    let file = compute(move || Ok(HomeFile::read(&body)?)).await?;
    let rounds: Vec<(Round, Vec<Run>)> = file.rounds.into_iter().map(renumbered).collect();
    let stored = state.store.import(HomeId::random(), &file.home, &rounds, state.now()).await?;
    Ok(HttpResponse::Created().json(view(&state, stored).await?.into_inner()))
}

/// A round and its runs with new identities, so that a file can come in twice.
fn renumbered(record: RoundRecord) -> (Round, Vec<Run>) {
    let id = RoundId::random();
    let runs = record.runs.into_iter().map(|run| Run { id: RunId::random(), round_id: id, ..run });
    (Round { id, ..record.round }, runs.collect())
}
