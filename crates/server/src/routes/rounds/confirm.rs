//! What was seen to have taken effect after a round had begun.

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, put};
use busy_hen_home::{Faults, Round, RoundId};
use serde::Deserialize;
use utoipa::ToSchema;

use crate::body::Body;
use crate::error::ApiError;
use crate::problems::Storing;
use crate::state::AppState;

/// One of the changes that a round keeps as seen or not.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct SeenAsk {
    /// The change, in the words that the round has of it.
    pub what: String,
    /// Whether it is seen now.
    pub seen: bool,
}

/// Keeps that a change is seen to have taken effect now, or takes that back; what was seen as the round began stays.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)), request_body = SeenAsk,
    responses((status = OK, description = "The round as it now is.", body = Round), Storing))]
#[put("/rounds/{round}/confirmed")]
pub async fn see_effect(
    state: Data<AppState>,
    round: Path<RoundId>,
    ask: Body<SeenAsk>,
) -> Result<HttpResponse, ApiError> {
    let SeenAsk { what, seen } = ask.into_inner();
    let now = state.now();
    let change = |round: &mut Round| -> Result<(), ApiError> {
        let own = round.confirmed.iter_mut().find(|own| own.what == what);
        let own = own.ok_or_else(|| Faults::one("/what", "This round keeps no such change; load it anew."))?;
        if own.seen_later.is_some() || !own.seen {
            own.seen = seen;
            own.seen_later = seen.then_some(now);
        }
        Ok(())
    };
    Ok(HttpResponse::Ok().json(state.store.change_round(*round, change).await?))
}
