//! Opening and closing the bench, where other machines reach it.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Payload};
use actix_web::{HttpRequest, HttpResponse, delete, get, post, put};
use busy_hen_home::Faults;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::body::of_unknown;
use crate::error::ApiError;
use crate::gate::passes;
use crate::lock::{cookie_of, from_here, gone, hash, is_right};
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

/// Refuses whoever is not at the machine itself.
pub(super) fn only_here(request: &HttpRequest) -> Result<(), ApiError> {
    if from_here(request.peer_addr().map(|peer| peer.ip())) {
        return Ok(());
    }
    Err(ApiError::WrongPassPhrase("This is done on the machine of the bench itself."))
}

/// Tries a pass phrase, once the wait after wrong ones from there is over.
pub(super) async fn try_to_open(
    state: &AppState,
    request: &HttpRequest,
    pass_phrase: String,
    hash: String,
) -> Result<(), ApiError> {
    let peer = request.peer_addr().map(|peer| peer.ip());
    let from = Origin::of(peer, from_here(peer));
    state.lock.try_now(from)?;
    let right = state.places.compute(move |_| Ok(is_right(&pass_phrase, &hash))).await?;
    if !right {
        return Err(ApiError::WrongPassPhrase("This is not the pass phrase; look again, also at capitals."));
    }
    state.lock.was_right(from);
    Ok(())
}

/// Sets a pass phrase, in place of the one before where there is one.
pub(super) async fn set_anew(state: &AppState, pass_phrase: String) -> Result<(), ApiError> {
    let hash = state.places.compute(move |_| hash(&pass_phrase)).await?;
    Ok(state.store.replace_lock(&hash).await?)
}

/// The answer that lets a page in; its cookie keeps to the kind of link that it came over.
fn let_in(state: &AppState, request: &HttpRequest) -> HttpResponse {
    HttpResponse::build(StatusCode::NO_CONTENT).cookie(state.lock.enter(request.app_config().secure())).finish()
}

/// How the lock stands.
#[utoipa::path(tag = "lock", responses((status = OK, description = "How it stands.", body = LockView), Reading))]
#[get("/lock")]
pub async fn look_at_lock(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    let set = state.store.lock().await?.is_some();
    Ok(HttpResponse::Ok().json(LockView {
        locked: !passes(&state, request.peer_addr().map(|peer| peer.ip()), cookie_of(&request).as_deref()),
        set,
        may_set: !set && from_here(request.peer_addr().map(|peer| peer.ip())),
    }))
}

/// Sets the first pass phrase, from the machine itself only, and lets the page in.
#[utoipa::path(tag = "lock", request_body = PassPhrase,
    responses((status = NO_CONTENT, description = "It is set, and the page is in."), Opening))]
#[put("/lock")]
pub async fn set_lock(state: Data<AppState>, request: HttpRequest, new: Payload) -> Result<HttpResponse, ApiError> {
    only_here(&request)?;
    let PassPhrase { pass_phrase } = of_unknown(&request, new).await?;
    long_enough(&pass_phrase)?;
    let hash = state.places.compute(move |_| hash(&pass_phrase)).await?;
    if !state.store.set_lock(&hash).await? {
        return Err(ApiError::Conflict("A pass phrase is set already; open the bench with it.".into()));
    }
    Ok(let_in(&state, &request))
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
    try_to_open(&state, &request, pass_phrase, hash).await?;
    Ok(let_in(&state, &request))
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
