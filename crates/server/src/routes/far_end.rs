//! The far end of internet tests: noted and tried at the bench.

use actix_web::web::Data;
use actix_web::{HttpResponse, delete, get, post, put};
use busy_hen_home::Faults;
use busy_hen_units::Millis;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::body::Body;
use crate::error::ApiError;
use crate::far_end::FarEnd;
use crate::problems::{Acting, Computing, Reading, Storing};
use crate::state::AppState;

/// The far end that is noted, without its token.
#[derive(Debug, Serialize, ToSchema)]
pub struct FarEndView {
    /// Its address; none where none is noted.
    pub url: Option<String>,
}

/// A far end.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FarEndAsk {
    /// Its address with its token behind a `#`, as the far end shows it.
    pub address: String,
}

/// What a far end said when it was tried.
#[derive(Debug, Serialize, ToSchema)]
pub struct FarEndTried {
    /// Its address.
    pub url: String,
    /// The address that it sees this home's line by; none when it did not answer.
    pub sees: Option<String>,
    /// How long its answer took; none when it did not answer.
    pub took_ms: Option<Millis>,
    /// Why it did not answer, and what to do.
    pub problem: Option<String>,
}

fn read(asked: Body<FarEndAsk>) -> Result<FarEnd, ApiError> {
    let FarEndAsk { address } = asked.into_inner();
    address.trim().parse().map_err(|message: String| Faults::one("/address", message).into())
}

async fn tried(far_end: &FarEnd) -> FarEndTried {
    let url = far_end.url.clone();
    match far_end.try_now().await {
        Ok((seen, took)) => FarEndTried { url, sees: Some(seen.to_string()), took_ms: Some(took), problem: None },
        Err(unseen) => FarEndTried { url, sees: None, took_ms: None, problem: Some(unseen.to_string()) },
    }
}

/// The far end that is noted.
#[utoipa::path(tag = "far end", responses((status = OK, description = "The far end.", body = FarEndView), Reading))]
#[get("/far-end")]
pub async fn look_at_far_end(state: Data<AppState>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(FarEndView { url: state.far_end().map(|own| own.url) }))
}

/// Tries a far end; nothing is noted.
#[utoipa::path(tag = "far end", request_body = FarEndAsk,
    responses((status = OK, description = "What it said.", body = FarEndTried), Computing))]
#[post("/far-end/try")]
pub async fn try_far_end(asked: Body<FarEndAsk>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(tried(&read(asked)?).await))
}

/// Notes a far end, whether it answers now or not, and says what it said.
#[utoipa::path(tag = "far end", request_body = FarEndAsk,
    responses((status = OK, description = "It is noted; what it said.", body = FarEndTried), Storing))]
#[put("/far-end")]
pub async fn note_far_end(state: Data<AppState>, asked: Body<FarEndAsk>) -> Result<HttpResponse, ApiError> {
    let far_end = read(asked)?;
    state.store.note_far_end(Some((&far_end.url, &far_end.token))).await?;
    state.set_far_end(Some(far_end.clone()));
    Ok(HttpResponse::Ok().json(tried(&far_end).await))
}

/// Forgets the far end; internet tests of phones then stay within the home.
#[utoipa::path(tag = "far end", responses((status = NO_CONTENT, description = "It is forgotten."), Acting))]
#[delete("/far-end")]
pub async fn forget_far_end(state: Data<AppState>) -> Result<HttpResponse, ApiError> {
    state.store.note_far_end(None).await?;
    state.set_far_end(None);
    Ok(HttpResponse::NoContent().finish())
}
