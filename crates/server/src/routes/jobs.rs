//! Long computations: how far they are, what they came to, and calling them off.

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, get};
use uuid::Uuid;

use crate::error::ApiError;
use crate::jobs::Job;
use crate::problems::{Comparing, Reading};
use crate::state::AppState;

/// How far a computation is.
#[utoipa::path(tag = "jobs", params(("job" = Uuid, Path)),
    responses((status = OK, description = "How far it is.", body = Job), Reading))]
#[get("/jobs/{job}")]
pub async fn look_at_job(state: Data<AppState>, job: Path<Uuid>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(state.jobs.look(*job)?))
}

/// What a computation came to.
#[utoipa::path(tag = "jobs", params(("job" = Uuid, Path)),
    responses((status = OK, description = "Its result, of the form its beginning names.", body = Vec<busy_hen_predict::map::GridPlace>),
              (status = CONFLICT, description = "It is not done.", body = crate::error::Problem, content_type = "application/problem+json"),
              Comparing))]
#[get("/jobs/{job}/result")]
pub async fn result_of_job(state: Data<AppState>, job: Path<Uuid>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().content_type("application/json").body(state.jobs.result(*job)?))
}

/// Calls a computation off.
#[utoipa::path(tag = "jobs", params(("job" = Uuid, Path)),
    responses((status = OK, description = "How it then stands.", body = Job), Reading))]
#[delete("/jobs/{job}")]
pub async fn call_off_job(state: Data<AppState>, job: Path<Uuid>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(state.jobs.call_off(*job)?))
}
