//! Opening and closing the bench, where other machines reach it.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Payload};
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put};
use busy_hen_home::Faults;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::body::of_unknown;
use crate::error::ApiError;
use crate::lock::{cookie_of, from_here, gone, hash, is_right, passes};
use crate::problems::{Acting, Opening, Reading};
use crate::state::AppState;
use crate::tries::Origin;

/// Shortest pass phrase, characters.
const SHORTEST: usize = 8;
/// Longest pass phrase, characters.
const LONGEST: usize = 200;

/// How the lock stands, for whoever asks.
#[derive(Debug, Serialize, ToSchema)]
pub struct LockView {
    /// Whether a pass phrase is asked for: other machines reach the bench.
    pub locked: bool,
    /// Whether a pass phrase was set.
    pub set: bool,
    /// Whether whoever asks may set the first one: only from the machine itself.
    pub may_set: bool,
}

/// A pass phrase.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PassPhrase {
    /// Its words.
    pub pass_phrase: String,
}

/// Refuses a new pass phrase that is too short, or endless.
pub(super) fn long_enough(pass_phrase: &str) -> Result<(), ApiError> {
    if (SHORTEST..=LONGEST).contains(&pass_phrase.chars().count()) {
        return Ok(());
    }
    let message = format!("A pass phrase has {SHORTEST} to {LONGEST} characters; a few words are best.");
    Err(Faults::one("/pass_phrase", message).into())
}

/// How the lock stands.
#[utoipa::path(tag = "lock", responses((status = OK, description = "How it stands.", body = LockView), Reading))]
#[get("/lock")]
pub async fn look_at_lock(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    let set = state.store.lock().await?.is_some();
    Ok(HttpResponse::Ok().json(LockView {
        locked: !passes(&state, cookie_of(&request).as_deref()),
        set,
        may_set: !set && from_here(request.peer_addr().map(|peer| peer.ip())),
    }))
}

/// Sets the first pass phrase, from the machine itself only, and lets the page in.
#[utoipa::path(tag = "lock", request_body = PassPhrase,
    responses((status = NO_CONTENT, description = "It is set, and the page is in."), Opening))]
#[put("/lock")]
pub async fn set_lock(state: Data<AppState>, request: HttpRequest, new: Payload) -> Result<HttpResponse, ApiError> {
    if !from_here(request.peer_addr().map(|peer| peer.ip())) {
        return Err(ApiError::WrongPassPhrase("The first pass phrase is set on the machine of the bench itself."));
    }
    let PassPhrase { pass_phrase } = of_unknown(&request, new).await?;
    long_enough(&pass_phrase)?;
    let hash = state.places.compute(move |_| hash(&pass_phrase)).await?;
    if !state.store.set_lock(&hash).await? {
        return Err(ApiError::Conflict("A pass phrase is set already; open the bench with it.".into()));
    }
    Ok(HttpResponse::build(StatusCode::NO_CONTENT).cookie(state.lock.enter()).finish())
}

/// Opens the bench for this page.
#[utoipa::path(tag = "lock", request_body = PassPhrase,
    responses((status = NO_CONTENT, description = "The page is in."), Opening))]
#[post("/lock")]
pub async fn open_lock(state: Data<AppState>, request: HttpRequest, tried: Payload) -> Result<HttpResponse, ApiError> {
    let peer = request.peer_addr().map(|peer| peer.ip());
    let from = Origin::of(peer, from_here(peer));
    let _reading = state.lock.hear(from)?;
    let PassPhrase { pass_phrase } = of_unknown(&request, tried).await?;
    let Some(hash) = state.store.lock().await? else {
        return Err(ApiError::Conflict("No pass phrase is set yet; set one on the machine of the bench.".into()));
    };
    state.lock.try_now(from)?;
    let right = state.places.compute(move |_| Ok(is_right(&pass_phrase, &hash))).await?;
    if !right {
        return Err(ApiError::WrongPassPhrase("This is not the pass phrase; look again, also at capitals."));
    }
    state.lock.was_right(from);
    Ok(HttpResponse::build(StatusCode::NO_CONTENT).cookie(state.lock.enter()).finish())
}

/// Closes the bench for this page.
#[utoipa::path(tag = "lock", responses((status = NO_CONTENT, description = "The page is out."), Acting))]
#[delete("/lock")]
pub async fn close_lock(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    if let Some(token) = cookie_of(&request) {
        state.lock.leave(&token);
    }
    Ok(HttpResponse::NoContent().cookie(gone()).finish())
}
