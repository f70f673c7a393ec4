//! Pairing at the bench.

use std::net::IpAddr;

use actix_web::http::header;
use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, post};
use busy_hen_home::RoundId;
use jiff::{SignedDuration, Timestamp};
use qrcode::QrCode;
use qrcode::render::svg;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::body::Body;
use crate::error::ApiError;
use crate::interfaces::{Interface, interfaces};
use crate::problems::Storing;
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
#[post("/api/rounds/{round}/phones")]
pub async fn pair_phone(
    state: Data<AppState>,
    round: Path<RoundId>,
    request: HttpRequest,
    ask: Body<PairAsk>,
) -> Result<HttpResponse, ApiError> {
    let token = fresh();
    let now = state.now();
    let expires_at = now + PAIRED_FOR;
    state.store.pair(&digest(&token), *round, (now, expires_at), ask.stand_in).await?;
    let port = request.headers().get(header::HOST).and_then(|host| host.to_str().ok()).and_then(port_of);
    let open_to_network = state.names.open_to_network;
    let (encrypted, scheme) = (state.encrypted, if state.encrypted { "https" } else { "http" });
    let doors = interfaces(open_to_network).into_iter().map(|interface| {
        let host = match interface.address {
            IpAddr::V4(address) => address.to_string(),
            IpAddr::V6(address) => format!("[{address}]"),
        };
        let port = port.map(|port| format!(":{port}")).unwrap_or_default();
        let url = format!("{scheme}://{host}{port}/phone#{token}");
        let code = QrCode::new(&url).map_err(|error| ApiError::Internal(error.to_string()))?;
        let qr_svg = code.render::<svg::Color<'_>>().min_dimensions(220, 220).build();
        Ok(Door { interface, url, qr_svg })
    });
    let doors = doors.collect::<Result<_, ApiError>>()?;
    Ok(HttpResponse::Created().json(NewPhone { expires_at, open_to_network, encrypted, doors }))
}

fn port_of(host: &str) -> Option<u16> {
    host.rsplit_once(':').filter(|(_, port)| !port.ends_with(']')).and_then(|(_, port)| port.parse().ok())
}
