//! Pairing at the bench.

use actix_web::http::header;
use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, delete, get, post};
use busy_hen_home::RoundId;
use busy_hen_store::Code;
use jiff::{SignedDuration, Timestamp};
use qrcode::QrCode;
use qrcode::render::svg;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::body::Body;
use crate::error::ApiError;
use crate::interfaces::Interface;
use crate::problems::{Acting, Reading, Storing};
use crate::state::AppState;
use crate::tokens::{digest, fresh};

/// How long a paired phone may begin tests.
const PAIRED_FOR: SignedDuration = SignedDuration::from_hours(12);

/// Who is to be paired.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PairAsk {
    /// Whether it is the stand-in phone: all that it sends is then called made up.
    #[serde(default)]
    pub stand_in: bool,
}

/// A way for a phone to get in.
#[derive(Debug, Serialize, ToSchema)]
pub struct NewPhone {
    /// When no new test may begin any more.
    #[schema(value_type = String, format = DateTime)]
    pub expires_at: Timestamp,
    /// Whether other machines reach this one at all.
    pub open_to_network: bool,
    /// Whether the link is encrypted.
    pub encrypted: bool,
    /// The same page under each address of this machine.
    pub doors: Vec<Door>,
}

/// One address of this machine with the page for the phone.
#[derive(Debug, Serialize, ToSchema)]
pub struct Door {
    /// The interface.
    pub interface: Interface,
    /// Address of the page, with the token behind the `#`.
    pub url: String,
    /// The same as a QR code, SVG.
    pub qr_svg: String,
}

/// Makes a way for a phone to get in: a token that can test and add readings to this round, and nothing else.
#[utoipa::path(tag = "phones", params(("round" = RoundId, Path)), request_body = PairAsk,
    responses((status = CREATED, description = "The addresses to choose from.", body = NewPhone), Storing))]
#[post("/rounds/{round}/phones")]
pub async fn pair_phone(
    state: Data<AppState>,
    round: Path<RoundId>,
    request: HttpRequest,
    ask: Body<PairAsk>,
) -> Result<HttpResponse, ApiError> {
    let token = fresh();
    let now = state.now();
    if !ask.stand_in {
        state.network.code_is_made(now);
    }
    let expires_at = now + PAIRED_FOR;
    state.store.pair(&digest(&token), *round, (now, expires_at), ask.stand_in).await?;
    let port = request.headers().get(header::HOST).and_then(|host| host.to_str().ok()).and_then(port_of);
    let (open_to_network, encrypted) = (state.network.is_open(), state.encrypted);
    let port = port.unwrap_or(if encrypted { 443 } else { 80 });
    let doors = state.network.doors().into_iter().map(|interface| {
        let url = format!("{}/phone#{token}", state.address_of(&interface, port));
        let code = QrCode::new(&url).map_err(|error| ApiError::Internal(error.to_string()))?;
        let qr_svg = code.render::<svg::Color<'_>>().min_dimensions(220, 220).build();
        Ok(Door { interface, url, qr_svg })
    });
    let doors = doors.collect::<Result<_, ApiError>>()?;
    Ok(HttpResponse::Created().json(NewPhone { expires_at, open_to_network, encrypted, doors }))
}

/// A code that phones were given.
#[derive(Debug, Serialize, ToSchema)]
pub struct CodeView {
    /// By what it is withdrawn; it opens nothing.
    pub id: String,
    /// When it was made.
    #[schema(value_type = String, format = DateTime)]
    pub made_at: Timestamp,
    /// When no new test may begin by it, or since when none may.
    #[schema(value_type = String, format = DateTime)]
    pub ends_at: Timestamp,
    /// Whether tests may begin by it now.
    pub open: bool,
    /// Whether it was withdrawn.
    pub withdrawn: bool,
    /// Whether it is the stand-in phone's.
    pub stand_in: bool,
}

/// The codes that were made for a round, newest first.
#[utoipa::path(tag = "phones", params(("round" = RoundId, Path)),
    responses((status = OK, description = "The codes.", body = Vec<CodeView>), Reading))]
#[get("/rounds/{round}/phones")]
pub async fn list_codes(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    let now = state.now();
    let view = |Code { id, made_at, pairing }: Code| CodeView {
        id,
        made_at,
        ends_at: pairing.ends_at(),
        open: pairing.may_test(now),
        withdrawn: pairing.withdrawn_at.is_some(),
        stand_in: pairing.stand_in,
    };
    let codes = state.store.codes(*round).await?;
    Ok(HttpResponse::Ok().json(codes.into_iter().map(view).collect::<Vec<_>>()))
}

/// Withdraws a code: nothing new may begin by it. What was measured before is still taken.
#[utoipa::path(tag = "phones", params(("round" = RoundId, Path), ("code" = String, Path)),
    responses((status = NO_CONTENT, description = "It is withdrawn."), Acting))]
#[delete("/rounds/{round}/phones/{code}")]
pub async fn withdraw_code(state: Data<AppState>, asked: Path<(RoundId, String)>) -> Result<HttpResponse, ApiError> {
    let (round, code) = asked.into_inner();
    state.store.withdraw(round, &code, state.now()).await?;
    Ok(HttpResponse::NoContent().finish())
}

fn port_of(host: &str) -> Option<u16> {
    host.rsplit_once(':').filter(|(_, port)| !port.ends_with(']')).and_then(|(_, port)| port.parse().ok())
}
