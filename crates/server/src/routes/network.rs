//! Opening the bench to the network from its own page, and closing it again.

use actix_web::http::StatusCode;
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, delete, get, put};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::lock::{long_enough, only_here, set_anew, try_to_open};
use crate::body::Body;
use crate::error::ApiError;
use crate::interfaces::Interface;
use crate::lock::from_here;
use crate::network::NetworkEvent;
use crate::problems::{Acting, Opening, Reading};
use crate::state::AppState;

/// How the bench stands in the network.
#[derive(Debug, Serialize, ToSchema)]
pub struct NetworkView {
    /// Whether other machines reach it.
    pub open: bool,
    /// Whether they do for as long as it runs.
    pub always: bool,
    /// Whether this page may open and close it: only one on the machine itself.
    pub may_change: bool,
    /// Whether a pass phrase was set.
    pub pass_phrase_is_set: bool,
    /// Whether the link is encrypted.
    pub encrypted: bool,
    /// Where other machines reach it.
    pub doors: Vec<NetworkDoor>,
    /// When it closes by itself: as the last code runs out; none while there is none, or it does not.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub closes_at: Option<Timestamp>,
    /// When it was opened and closed, newest first.
    pub events: Vec<NetworkEvent>,
    /// Phones that may hold runs which they have not sent.
    pub phones: Vec<PhoneAway>,
}

/// An address of the bench.
#[derive(Debug, Serialize, ToSchema)]
pub struct NetworkDoor {
    /// The interface.
    pub interface: Interface,
    /// The address as a browser takes it.
    pub url: String,
}

/// A phone that may hold runs which it has not sent.
#[derive(Debug, Serialize, ToSchema)]
pub struct PhoneAway {
    /// Name of the home.
    pub home: String,
    /// Letter and name of the setup of its round.
    pub setup: String,
    /// Where it was.
    pub address: String,
    /// When it was heard last.
    #[schema(value_type = String, format = DateTime)]
    pub heard_at: Timestamp,
    /// How many runs and pictures it then said it had not sent; none when it did not say.
    pub waiting: Option<u32>,
}

/// The pass phrase with which the bench is opened.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OpenAsk {
    /// Its words: the first one, or the one that was set.
    pub pass_phrase: String,
    /// Whether it is to be set in place of the one before, which nobody remembers.
    #[serde(default)]
    pub anew: bool,
}

/// How the bench stands in the network.
#[utoipa::path(tag = "network", responses((status = OK, description = "How it stands.", body = NetworkView), Reading))]
#[get("/network")]
pub async fn look_at_network(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(view(&state, &request).await?))
}

/// Opens the bench to the network, from a page on its own machine alone. The page stays in; all others are asked for the pass phrase from now on.
#[utoipa::path(tag = "network", request_body = OpenAsk,
    responses((status = OK, description = "It is open.", body = NetworkView), Opening))]
#[put("/network")]
pub async fn open_network(
    state: Data<AppState>,
    request: HttpRequest,
    asked: Body<OpenAsk>,
) -> Result<HttpResponse, ApiError> {
    only_here(&request)?;
    state.network.may_open()?;
    let OpenAsk { pass_phrase, anew } = asked.into_inner();
    let set = state.store.lock().await?;
    // While it is open, whoever knows the words of before may be in.
    if anew && state.network.is_open() {
        return Err(ApiError::Conflict("Close the bench to the network first, then set another pass phrase.".into()));
    }
    match set.filter(|_| !anew) {
        Some(hash) => try_to_open(&state, &request, pass_phrase, hash).await?,
        None => {
            long_enough(&pass_phrase)?;
            set_anew(&state, pass_phrase).await?;
        }
    }
    state.network.open(state.now())?;
    let cookie = state.lock.enter(request.app_config().secure());
    Ok(HttpResponse::build(StatusCode::OK).cookie(cookie).json(view(&state, &request).await?))
}

/// Closes the bench to the network, from a page on its own machine alone. Whoever was in is asked again when it is opened the next time.
#[utoipa::path(tag = "network", responses((status = NO_CONTENT, description = "It is closed."), Acting))]
#[delete("/network")]
pub async fn close_network(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    only_here(&request)?;
    state.network.close().await?;
    Ok(HttpResponse::NoContent().finish())
}

async fn view(state: &AppState, request: &HttpRequest) -> Result<NetworkView, ApiError> {
    let network = &state.network;
    let (open, always) = (network.is_open(), network.is_always_open());
    let port = request.app_config().local_addr().port();
    let door = |interface: Interface| NetworkDoor { url: state.address_of(&interface, port), interface };
    let mut phones = Vec::new();
    for heard in network.phones() {
        // A round that was deleted takes its codes with it.
        let Ok((_, record)) = state.store.round(heard.round).await else { continue };
        let setup = record.tested.home.setup(record.round.setup_id);
        phones.push(PhoneAway {
            home: record.tested.home.name.clone(),
            setup: setup.map(|own| format!("{} {}", own.letter, own.name)).unwrap_or_default(),
            address: heard.address.to_string(),
            heard_at: heard.at,
            waiting: heard.waiting,
        });
    }
    Ok(NetworkView {
        open,
        always,
        may_change: !always && from_here(request.peer_addr().map(|peer| peer.ip())),
        pass_phrase_is_set: state.store.lock().await?.is_some(),
        encrypted: state.encrypted,
        doors: if open { network.doors().into_iter().map(door).collect() } else { Vec::new() },
        closes_at: if open && !always { state.store.last_code_ends(state.now()).await? } else { None },
        events: network.events(),
        phones,
    })
}
