//! Phones that measure: pairing at the bench, and what a paired phone may ask and send.

mod pairing;
mod pictures;
mod runs;
mod sent;
mod typed;
mod view;

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::web::Data;
use actix_web::{Error, HttpMessage};
use busy_hen_home::{Round, TestKind, Under};
use busy_hen_store::Pairing;
use jiff::{SignedDuration, Timestamp};
use utoipa::IntoParams;

pub use pairing::{__path_list_codes, __path_pair_phone, __path_withdraw_code, list_codes, pair_phone, withdraw_code};
pub use pictures::{__path_phone_picture, phone_picture};
pub use runs::{__path_phone_run, phone_run};
pub use view::{__path_phone_view, phone_view};

use crate::error::ApiError;
use crate::network::HeardPhone;
use crate::state::AppState;
use crate::tokens::digest;

/// How long after its code has ended a phone may still send what it had saved.
const SENDS_FOR: SignedDuration = SignedDuration::from_hours(24 * 30);

/// A phone's clock that is off by no more is taken as it is: so long something may be on its way.
const CLOCK_OFF: SignedDuration = SignedDuration::from_secs(5);

/// Header with which a phone says who it is.
const PHONE: &str = "busy-hen-phone";

/// Header with which a phone says how many runs and pictures it has not sent yet.
const WAITING: &str = "busy-hen-waiting";

/// Who a phone says it is.
#[derive(Debug, Clone, IntoParams)]
#[into_params(parameter_in = Header)]
pub(super) struct PhoneHeader {
    /// The token that the phone was paired by.
    #[param(rename = "Busy-Hen-Phone")]
    #[allow(dead_code)] // for the description only
    token: String,
}

/// Lets a request pass that carries a code known here, whose pairing goes along with it; before anything else of it is read. What a code whose
/// time is over may still do is each endpoint's to say.
pub(crate) async fn only_paired(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let (Some(token), Some(state)) = (token_of(&request), request.app_data::<Data<AppState>>()) else {
        return Err(ApiError::NotPaired.into());
    };
    let code = digest(&token);
    let pairing = state.store.paired(&code).await.map_err(ApiError::from)?.ok_or(ApiError::NotPaired)?;
    if let Some(peer) = request.peer_addr() {
        let waiting = number_of(&request, WAITING);
        let phone = HeardPhone { address: peer.ip().to_canonical(), round: pairing.round, at: state.now(), waiting };
        state.network.hear(&code, phone);
    }
    request.extensions_mut().insert(pairing);
    next.call(request).await
}

fn number_of(request: &ServiceRequest, header: &str) -> Option<u32> {
    request.headers().get(header)?.to_str().ok()?.parse().ok()
}

fn token_of(request: &ServiceRequest) -> Option<String> {
    request.headers().get(PHONE)?.to_str().ok().map(str::to_owned)
}

/// Refuses what was begun after the code had ended. What was begun in time is taken later too: it waited on the phone.
fn over(pairing: &Pairing, begun: Timestamp, now: Timestamp) -> Result<(), ApiError> {
    let ended = pairing.ends_at();
    let sends_until = ended.saturating_add(SENDS_FOR).unwrap_or(Timestamp::MAX);
    if begun > ended || now > sends_until { Err(ApiError::PairingOver) } else { Ok(()) }
}

/// When something was measured by the clock of this machine, from when the phone says that it was and what its clock shows now; never later
/// than now.
fn measured_at(at: Timestamp, sent_at: Option<Timestamp>, now: Timestamp) -> Timestamp {
    let off = sent_at.map_or(SignedDuration::ZERO, |sent_at| now.duration_since(sent_at));
    let corrected = if off.abs() > CLOCK_OFF { at.saturating_add(off).unwrap_or(at) } else { at };
    corrected.min(now)
}

/// The kind of test by which a phone's spots are judged: that of the round where a far end is known, else local, since all it then
/// measures goes to the machine that serves its page. The stand-in makes a far end up too.
fn reached(state: &AppState, round: &Round, pairing: &Pairing) -> TestKind {
    if state.far_end().is_some() || pairing.stand_in { round.kind } else { TestKind::Local }
}

/// The same conditions of a test that reaches so far.
fn reaching(kind: TestKind, under: Under) -> Under {
    Under { kind, ..under }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_clock_that_is_off_is_put_right_by_what_it_shows_when_it_sends() {
        let now: Timestamp = "2026-12-01T12:00:00Z".parse().expect("a time");
        let hours = SignedDuration::from_hours;
        let minute = SignedDuration::from_mins(1);
        for off in [hours(13), hours(-13), hours(24 * 400), SignedDuration::from_secs(30)] {
            let (at, sent_at) = (now + off - minute, now + off);
            assert_eq!(measured_at(at, Some(sent_at), now), now - minute, "{off:?}");
        }
        let second = SignedDuration::from_secs(1);
        assert_eq!(measured_at(now - minute, Some(now - second), now), now - minute, "it was on its way");
        assert_eq!(measured_at(now + hours(13), None, now), now, "nothing is measured later than now");
        for wild in [Timestamp::MIN, Timestamp::MAX] {
            assert!(measured_at(wild, Some(now + hours(1)), now) <= now);
            assert!(measured_at(now, Some(wild), now) <= now);
        }
    }
}
