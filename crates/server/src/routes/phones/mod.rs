//! Phones that measure: pairing at the bench, and what a paired phone may ask and send.

mod far_end;
mod pairing;
mod pictures;
mod runs;
mod view;

use actix_web::dev::Payload;
use actix_web::{FromRequest, HttpRequest};
use busy_hen_home::{Round, TestKind, Under};
use busy_hen_store::Pairing;
use jiff::{SignedDuration, Timestamp};
use utoipa::IntoParams;

pub use far_end::FarEnd;
pub use pairing::{__path_pair_phone, pair_phone};
pub use pictures::{__path_phone_picture, phone_picture};
pub use runs::{__path_phone_run, phone_run};
pub use view::{__path_phone_view, phone_view};

use crate::error::ApiError;
use crate::state::AppState;
use crate::tokens::digest;

/// How long after its pairing has expired a phone may still send what it had saved.
const SENDS_FOR: SignedDuration = SignedDuration::from_hours(24 * 30);

/// Header with which a phone says who it is.
const PHONE: &str = "busy-hen-phone";

/// Who a phone says it is.
#[derive(Debug, Clone, IntoParams)]
#[into_params(parameter_in = Header)]
struct PhoneHeader {
    /// The token that the phone was paired by.
    #[param(rename = "Busy-Hen-Phone")]
    #[allow(dead_code)] // for the description only
    token: String,
}

/// The token of a phone.
#[derive(Debug)]
pub struct Phone(String);

impl FromRequest for Phone {
    type Error = ApiError;
    type Future = std::future::Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let token = request.headers().get(PHONE).and_then(|value| value.to_str().ok());
        std::future::ready(token.map(|token| Self(token.to_owned())).ok_or(ApiError::NotPaired))
    }
}

impl Phone {
    async fn pairing(&self, state: &AppState) -> Result<Pairing, ApiError> {
        state.store.paired(&digest(&self.0)).await?.ok_or(ApiError::NotPaired)
    }
}

/// Refuses what was begun after the pairing had expired. What was begun in time is taken later too: it waited on the phone.
fn over(pairing: &Pairing, begun: Timestamp, now: Timestamp) -> Result<(), ApiError> {
    if begun > pairing.expires_at || now > pairing.expires_at + SENDS_FOR { Err(ApiError::PairingOver) } else { Ok(()) }
}

/// The kind of test by which a phone's spots are judged: that of the round where a far end is known, else local, since all it then
/// measures goes to the machine that serves its page. The stand-in makes a far end up too.
fn reached(state: &AppState, round: &Round, pairing: &Pairing) -> TestKind {
    if state.far_end.is_some() || pairing.stand_in { round.kind } else { TestKind::Local }
}

/// The same conditions of a test that reaches so far.
fn reaching(kind: TestKind, under: Under) -> Under {
    Under { kind, ..under }
}
