//! What lets requests pass: those that call us by a name of ours, and behind the lock those of whoever is in.

use std::net::IpAddr;

use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header;
use actix_web::middleware::Next;
use actix_web::web::Data;

use crate::error::ApiError;
use crate::lock::{cookie_of, from_here};
use crate::state::AppState;

/// Lets a request pass when it calls us by a name of ours, and no browser says that a page of another origin sent it.
pub async fn own_pages_only(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let text = |name| request.headers().get(name).and_then(|value| value.to_str().ok());
    let host = text(header::HOST).or_else(|| request.uri().authority().map(|authority| authority.as_str()));
    let own = |host: &str| {
        request.app_data::<Data<AppState>>().is_some_and(|state| state.names.own(host, state.network.is_open()))
    };
    let from = text(header::ORIGIN).map(|origin| origin.split_once("://").map_or(origin, |(_, host)| host));
    if !host.is_some_and(own) || (from.is_some() && from != host) {
        return Err(ApiError::Foreign.into());
    }
    next.call(request).await
}

/// Whether whoever holds this cookie may pass the lock of a server: where no other machine reaches it, all on its own may.
#[must_use]
pub fn passes(state: &AppState, peer: Option<IpAddr>, cookie: Option<&str>) -> bool {
    if state.network.is_open() {
        return cookie.is_some_and(|token| state.lock.is_in(token));
    }
    peer.is_none() || from_here(peer)
}

/// Lets a request pass when the bench is not locked, or was opened for it. It stands inside of the routing, around all that was routed to what
/// it guards, so that lock and router can't read an address differently.
pub async fn only_unlocked(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let cookie = cookie_of(request.request());
    let peer = request.peer_addr().map(|peer| peer.ip());
    let open = request.app_data::<Data<AppState>>().is_some_and(|state| passes(state, peer, cookie.as_deref()));
    if open { next.call(request).await } else { Err(ApiError::Locked.into()) }
}
