//! The lock of a bench that other machines reach: without its pass phrase nothing is read or changed. Phones get in by their tokens,
//! to what is theirs.

use std::net::IpAddr;
use std::sync::{Mutex, PoisonError};
use std::time::{Duration, Instant};

use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::cookie::{Cookie, SameSite};
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::middleware::Next;
use actix_web::web::Data;
use argon2::{Argon2, PasswordHasher, PasswordVerifier};

use crate::AppState;
use crate::error::ApiError;
use crate::interfaces::interfaces;
use crate::tokens::{Granted, fresh};

/// Name of the cookie that a page is let in by.
const COOKIE: &str = "busy-hen-session";
/// How long a page stays in without asking again.
const STAYS: Duration = Duration::from_secs(12 * 3600);
/// Pages that are in at most; then the oldest goes.
const PAGES_MOST: usize = 200;
/// Wrong tries that cost nothing.
const FREE_TRIES: u32 = 4;
/// Longest wait after a wrong try.
const WAIT_MOST: Duration = Duration::from_secs(300);

/// Pages that are in, and what was tried in vain.
#[derive(Debug)]
pub struct Lock {
    /// Whether its cookie goes over encrypted links alone.
    pub secure: bool,
    pages: Granted,
    tries: Mutex<Tries>,
    /// The token of the program's own stand-ins.
    own: String,
}

#[derive(Debug, Default)]
struct Tries {
    wrong: u32,
    until: Option<Instant>,
}

impl Default for Lock {
    fn default() -> Self {
        Self { secure: false, pages: Granted::new(STAYS, PAGES_MOST), tries: Mutex::default(), own: fresh() }
    }
}

impl Lock {
    /// A lock that also opens to this token of the program itself.
    #[must_use]
    pub fn with_own(own: String) -> Self {
        Self { own, ..Self::default() }
    }

    /// Lets a page in: its cookie.
    pub fn enter(&self) -> Cookie<'static> {
        Cookie::build(COOKIE, self.pages.grant())
            .path("/")
            .http_only(true)
            .same_site(SameSite::Strict)
            .secure(self.secure)
            .finish()
    }

    /// Puts out whoever holds this cookie.
    pub fn leave(&self, token: &str) {
        self.pages.take(token);
    }

    /// Whether whoever holds this cookie is in.
    fn is_in(&self, token: &str) -> bool {
        token == self.own || self.pages.holds(token)
    }

    /// Begins a try: counted as wrong until it is known to be right, so that tries at once don't go uncounted.
    ///
    /// # Errors
    /// [`ApiError::TooManyTries`] while the wait after wrong ones is not over.
    pub fn try_now(&self) -> Result<(), ApiError> {
        let mut tries = self.tries.lock().unwrap_or_else(PoisonError::into_inner);
        let now = Instant::now();
        if let Some(left) = tries.until.and_then(|until| until.checked_duration_since(now)) {
            return Err(ApiError::TooManyTries(left.as_secs() + 1));
        }
        tries.wrong += 1;
        if tries.wrong > FREE_TRIES {
            let wait = Duration::from_secs(1 << (tries.wrong - FREE_TRIES).min(16)).min(WAIT_MOST);
            tries.until = Some(now + wait);
        }
        Ok(())
    }

    /// The try was right.
    pub fn was_right(&self) {
        *self.tries.lock().unwrap_or_else(PoisonError::into_inner) = Tries::default();
    }
}

/// The hash of a pass phrase, with its salt (PHC string).
///
/// # Source
/// Argon2id with the parameters of RFC 9106 as its crate proposes them.
///
/// # Errors
/// When the machine gives no randomness.
pub fn hash(pass_phrase: &str) -> Result<String, ApiError> {
    Argon2::default()
        .hash_password(pass_phrase.as_bytes())
        .map(|hash| hash.to_string())
        .map_err(|error| ApiError::Internal(error.to_string()))
}

/// Whether a pass phrase is the one of this hash.
#[must_use]
pub fn is_right(pass_phrase: &str, hash: &str) -> bool {
    Argon2::default().verify_password(pass_phrase.as_bytes(), hash).is_ok()
}

/// Whether a request comes from the machine itself.
#[must_use]
pub fn from_here(peer: Option<IpAddr>) -> bool {
    peer.map(|peer| peer.to_canonical())
        .is_some_and(|peer| peer.is_loopback() || interfaces(true).iter().any(|own| own.address == peer))
}

/// What is open without the pass phrase: the lock itself, what phones may by their tokens, and the pages, which hold nothing.
fn is_open(path: &str) -> bool {
    let under = |prefix: &str| path == prefix || path.strip_prefix(prefix).is_some_and(|rest| rest.starts_with('/'));
    !path.starts_with("/api") || under("/api/lock") || under("/api/phone")
}

/// Whether a request may pass the lock of a server.
#[must_use]
pub fn passes(state: &AppState, path: &str, cookie: Option<&str>) -> bool {
    !state.names.open_to_network || is_open(path) || cookie.is_some_and(|token| state.lock.is_in(token))
}

/// The cookie that a request carries.
#[must_use]
pub fn cookie_of(request: &actix_web::HttpRequest) -> Option<String> {
    request.cookie(COOKIE).map(|cookie| cookie.value().to_owned())
}

/// A cookie that takes the one of the page away.
#[must_use]
pub fn gone() -> Cookie<'static> {
    let mut cookie = Cookie::build(COOKIE, "").path("/").finish();
    cookie.make_removal();
    cookie
}

/// How the stand-ins of the program say that they belong to it.
#[must_use]
pub fn own_cookie(own: &str) -> String {
    format!("{COOKIE}={own}")
}

/// Lets a request pass when the bench is not locked, or was opened for it.
pub async fn only_unlocked(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let cookie = cookie_of(request.request());
    let open =
        request.app_data::<Data<AppState>>().is_some_and(|state| passes(state, request.path(), cookie.as_deref()));
    if open { next.call(request).await } else { Err(ApiError::Locked.into()) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn only_the_right_pass_phrase_is_right_and_the_same_one_is_hashed_anew_each_time() {
        let one = hash("clay, glaze and kiln").expect("a hash");
        assert!(one.starts_with("$argon2id$") && one != hash("clay, glaze and kiln").expect("a hash"));
        assert!(is_right("clay, glaze and kiln", &one) && !is_right("Clay, glaze and kiln", &one));
        assert!(!is_right("", &one) && !is_right("x", "no hash"));
    }

    #[test]
    fn wrong_tries_cost_more_and_more_time_and_a_right_one_forgives_them() {
        let lock = Lock::default();
        for _ in 0..=FREE_TRIES {
            lock.try_now().expect("free");
        }
        assert!(matches!(lock.try_now(), Err(ApiError::TooManyTries(1..=3))));
        lock.was_right();
        lock.try_now().expect("forgiven");
    }

    #[test]
    fn what_merely_begins_like_something_open_is_not() {
        assert!(is_open("/phone") && is_open("/api/phone/runs") && is_open("/api/lock") && is_open("/measure/down"));
        for path in ["/api/phones", "/api/homes", "/api/lockers", "/api", "/api/"] {
            assert!(!is_open(path), "{path}");
        }
    }

    #[test]
    fn a_page_that_left_is_out() {
        let lock = Lock::default();
        let cookie = lock.enter();
        assert!(lock.is_in(cookie.value()) && lock.is_in(&lock.own) && !lock.is_in("guessed"));
        lock.leave(cookie.value());
        assert!(!lock.is_in(cookie.value()));
    }
}
