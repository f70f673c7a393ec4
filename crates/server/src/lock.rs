//! The lock of a bench that other machines reach: without its pass phrase nothing is read or changed. Phones get in by their tokens,
//! to what is theirs.

use std::net::IpAddr;
use std::time::{Duration, Instant};

use actix_web::cookie::{Cookie, SameSite};
use argon2::{Argon2, PasswordHasher, PasswordVerifier};

use crate::error::ApiError;
use crate::interfaces::interfaces;
use crate::tokens::{Granted, fresh};
use crate::tries::{Heard, Hearing, Origin, Tries};

/// Name of the cookie that a page is let in by.
const COOKIE: &str = "busy-hen-session";
/// How long a page stays in without asking again.
const STAYS: Duration = Duration::from_secs(12 * 3600);
/// Pages that are in at most; then the oldest goes.
const PAGES_MOST: usize = 200;

/// Pages that are in, and what was tried in vain.
#[derive(Debug)]
pub struct Lock {
    pages: Granted,
    tries: Tries,
    hearing: Hearing,
    /// The token of the program's own stand-ins.
    own: String,
}

impl Default for Lock {
    fn default() -> Self {
        Self {
            pages: Granted::new(STAYS, PAGES_MOST),
            tries: Tries::default(),
            hearing: Hearing::default(),
            own: fresh(),
        }
    }
}

impl Lock {
    /// A lock that also opens to this token of the program itself.
    #[must_use]
    pub fn with_own(own: String) -> Self {
        Self { own, ..Self::default() }
    }

    /// Lets a page in: its cookie, which goes over encrypted links alone where the page came by one.
    pub fn enter(&self, encrypted: bool) -> Cookie<'static> {
        Cookie::build(COOKIE, self.pages.grant())
            .path("/")
            .http_only(true)
            .same_site(SameSite::Strict)
            .secure(encrypted)
            .finish()
    }

    /// Puts out whoever holds this cookie.
    pub fn leave(&self, token: &str) {
        self.pages.take(token);
    }

    /// Puts out everybody.
    pub fn empty(&self) {
        self.pages.take_all();
    }

    /// Whether whoever holds this cookie is in.
    pub fn is_in(&self, token: &str) -> bool {
        token == self.own || self.pages.holds(token)
    }

    /// Begins to read a pass phrase from a peer.
    ///
    /// # Errors
    /// [`ApiError::Busy`] while as many are read from there as may be.
    pub fn hear(&self, from: Origin) -> Result<Heard, ApiError> {
        let told = || ApiError::Busy("Too many pass phrases are being sent at once; try again in a moment.".into());
        self.hearing.begin(from).ok_or_else(told)
    }

    /// Begins a try from a peer.
    ///
    /// # Errors
    /// [`ApiError::TooManyTries`] while the wait after wrong ones from there is not over.
    pub fn try_now(&self, from: Origin) -> Result<(), ApiError> {
        self.tries.begin(from, Instant::now()).map_err(|left| ApiError::TooManyTries(left.as_secs_f64().ceil() as u64))
    }

    /// The try was right.
    pub fn was_right(&self, from: Origin) {
        self.tries.was_right(from);
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
    fn a_page_that_left_is_out() {
        let lock = Lock::default();
        let cookie = lock.enter(false);
        assert!(lock.is_in(cookie.value()) && lock.is_in(&lock.own) && !lock.is_in("guessed"));
        lock.leave(cookie.value());
        assert!(!lock.is_in(cookie.value()));
    }
}
