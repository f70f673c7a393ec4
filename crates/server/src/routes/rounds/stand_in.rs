//! Walks of the stand-in phone.

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, post};
use busy_hen_catalogue::clients;
use busy_hen_home::RoundId;
use serde::Deserialize;
use utoipa::ToSchema;

use crate::body::Body;
use crate::error::ApiError;
use crate::problems::{Acting, Storing};
use crate::state::AppState;
use crate::walks::{Mishap, WalkOrder};

/// A walk of the stand-in phone.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WalkAsk {
    /// Seed of its hidden truth: the same seed is the same house on every walk.
    pub seed: u64,
    /// What goes wrong on the way; nothing when left out.
    #[serde(default)]
    pub mishaps: Vec<Mishap>,
}

/// Sends the simulated stand-in phone through a round. Its readings are made up.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)), request_body = WalkAsk,
    responses((status = ACCEPTED, description = "It walks."), Storing))]
#[post("/rounds/{round}/walk")]
pub async fn walk(state: Data<AppState>, round: Path<RoundId>, ask: Body<WalkAsk>) -> Result<HttpResponse, ApiError> {
    let (home, record) = state.store.round(*round).await?;
    if clients::find(&record.round.client).is_some_and(|client| client.port_mbps.is_some()) {
        return Err(ApiError::Conflict(
            "The stand-in phone goes by air and this round’s device by cable; begin a round with a phone for it."
                .into(),
        ));
    }
    state.walks.start(WalkOrder { home, round: *round, seed: ask.seed, mishaps: ask.mishaps.clone() })?;
    Ok(HttpResponse::Accepted().finish())
}

/// Calls the stand-in phone back; what it has measured stays.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = NO_CONTENT, description = "It is called back."), Acting))]
#[delete("/rounds/{round}/walk")]
pub async fn stop_walk(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    state.store.round(*round).await?;
    state.walks.stop(*round);
    Ok(HttpResponse::NoContent().finish())
}
