//! The far side of tests: which are under way, whose turn it is, and what was seen of each.

use std::collections::{BTreeSet, HashMap};
use std::future::Future;
use std::net::IpAddr;
use std::pin::Pin;
use std::sync::atomic::{AtomicU64, Ordering};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use actix_web::http::StatusCode;
use actix_web::{HttpRequest, HttpResponse, ResponseError};
use serde::Deserialize;
use thiserror::Error;
use uuid::Uuid;

use crate::guests::{Bounds, Guest};
use crate::turns::Turns;

/// How long a test is remembered after it began: until its samples can have been sent.
pub(crate) const REMEMBERED: Duration = Duration::from_secs(3600);

/// How long the first waits for others who are to begin with it.
pub(crate) const GATHERS: Duration = Duration::from_secs(10);

/// Tests that are remembered at most ...
pub(crate) const TESTS_MOST: usize = 10_000;

/// ... and of one code, and of one machine: beyond that its own oldest is forgotten. Thirty phones of one code test for an hour with fewer.
pub(crate) const TESTS_EACH: usize = 2000;

/// Longest that the head of a request may take to arrive.
pub const HEAD_PATIENCE: Duration = Duration::from_secs(10);

/// Who says which tokens may test.
pub trait Tokens: Send + Sync {
    /// Whether a test may begin with this token.
    fn may_test<'a>(&'a self, token: &'a str) -> Pin<Box<dyn Future<Output = bool> + Send + 'a>>;
}

/// The far side, shared by all its addresses.
pub struct FarSide {
    pub(crate) tokens: Box<dyn Tokens>,
    pub(crate) tests: Mutex<HashMap<Uuid, Arc<Seen>>>,
    pub(crate) turns: Arc<Turns>,
    pub(crate) lines: Arc<Bounds>,
    pub(crate) transfers: Arc<Bounds>,
    pub(crate) gathering: Mutex<Option<Gathering>>,
}

/// Devices that are to begin together, and when.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Gathering {
    pub(crate) id: Uuid,
    pub(crate) begins: Instant,
}

/// What is asked by whom alone.
#[derive(Debug, Deserialize)]
pub(crate) struct AskedBy {
    pub(crate) token: String,
}

/// How a line stands to others.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Turn {
    /// Alone: it waits until no other tests.
    #[default]
    Alone,
    /// Beside others: of several that are to test at once, and of exchanges alone, which spoil nobody's test.
    Beside,
    /// No test but the wait for others, with whom it is told to begin.
    Gather,
}

/// What was seen of a test.
#[derive(Debug)]
pub(crate) struct Seen {
    pub(crate) began: Instant,
    pub(crate) guest: Guest,
    pub(crate) received: AtomicU64,
    pub(crate) addresses: Mutex<BTreeSet<IpAddr>>,
}

/// What each address takes.
#[derive(Debug, Deserialize)]
pub(crate) struct Asked {
    pub(crate) token: String,
    pub(crate) test: Uuid,
    /// Bytes to send; only of downloads.
    #[serde(default)]
    pub(crate) bytes: u64,
    /// How it stands to others; only of lines.
    #[serde(default)]
    pub(crate) turn: Turn,
}

/// Why nothing is measured.
#[derive(Debug, Error)]
pub(crate) enum Refused {
    #[error("This code is not known here or has ended; scan a new one at the bench.")]
    Token,
    #[error("There is no such test; open its line first.")]
    NoTest,
    #[error("This address is a WebSocket.")]
    NoSocket,
    #[error("This phone, or another by its code, tests as often as it may already; end that first.")]
    TooMany,
    #[error("What was sent stopped coming.")]
    Stalled,
}

impl ResponseError for Refused {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::Token => StatusCode::UNAUTHORIZED,
            Self::NoTest => StatusCode::NOT_FOUND,
            Self::NoSocket => StatusCode::BAD_REQUEST,
            Self::TooMany => StatusCode::TOO_MANY_REQUESTS,
            Self::Stalled => StatusCode::REQUEST_TIMEOUT,
        }
    }

    fn error_response(&self) -> HttpResponse {
        HttpResponse::build(self.status_code()).content_type("text/plain; charset=utf-8").body(self.to_string())
    }
}

impl FarSide {
    /// A far side that these tokens may use.
    #[must_use]
    pub fn new(tokens: Box<dyn Tokens>) -> Self {
        Self {
            tokens,
            tests: Mutex::default(),
            turns: Arc::default(),
            lines: Bounds::of_lines(),
            transfers: Bounds::of_transfers(),
            gathering: Mutex::default(),
        }
    }

    /// Addresses from which the parts of a test came; none when no such test is remembered.
    #[must_use]
    pub fn addresses(&self, test: Uuid) -> Option<Vec<IpAddr>> {
        let tests = self.tests.lock().unwrap_or_else(PoisonError::into_inner);
        let seen = tests.get(&test)?;
        Some(seen.addresses.lock().unwrap_or_else(PoisonError::into_inner).iter().copied().collect())
    }

    /// The gathering that one who comes now belongs to: the first opens it.
    pub(crate) fn gather(&self) -> Gathering {
        let mut open = self.gathering.lock().unwrap_or_else(PoisonError::into_inner);
        let now = Instant::now();
        let still_open = open.filter(|own| own.begins > now);
        *open.insert(still_open.unwrap_or_else(|| Gathering { id: Uuid::new_v4(), begins: now + GATHERS }))
    }

    /// The test that a request belongs to, when its token is good.
    pub(crate) async fn of(&self, asked: &Asked, request: &HttpRequest, begins: bool) -> Result<Arc<Seen>, Refused> {
        if !self.tokens.may_test(&asked.token).await {
            return Err(Refused::Token);
        }
        let guest = Guest::of(&asked.token, request);
        let mut tests = self.tests.lock().unwrap_or_else(PoisonError::into_inner);
        if begins {
            tests.retain(|_, seen| seen.began.elapsed() < REMEMBERED);
            if !tests.contains_key(&asked.test) {
                make_room(&mut tests, guest);
                tests.insert(asked.test, Arc::new(Seen::new(guest)));
            }
        }
        // A test belongs to the code that began it.
        let seen = tests.get(&asked.test).filter(|seen| seen.guest.code == guest.code);
        let seen = Arc::clone(seen.ok_or(Refused::NoTest)?);
        if let Some(address) = request.peer_addr() {
            seen.addresses.lock().unwrap_or_else(PoisonError::into_inner).insert(address.ip().to_canonical());
        }
        Ok(seen)
    }
}

/// Forgets the oldest test of whoever has as many as they may, and of all where there are too many.
pub(crate) fn make_room(tests: &mut HashMap<Uuid, Arc<Seen>>, guest: Guest) {
    forget_oldest(tests, TESTS_EACH, |seen| seen.guest.code == guest.code);
    forget_oldest(tests, TESTS_EACH, |seen| seen.guest.machine == guest.machine);
    forget_oldest(tests, TESTS_MOST, |_| true);
}

pub(crate) fn forget_oldest(tests: &mut HashMap<Uuid, Arc<Seen>>, most: usize, counts: impl Fn(&Seen) -> bool) {
    let own = || tests.iter().filter(|(_, seen)| counts(seen));
    let oldest = own().min_by_key(|(_, seen)| seen.began).map(|(id, _)| *id);
    if let Some(oldest) = oldest.filter(|_| own().count() >= most) {
        tests.remove(&oldest);
    }
}

impl Seen {
    fn new(guest: Guest) -> Self {
        Self { began: Instant::now(), guest, received: AtomicU64::new(0), addresses: Mutex::default() }
    }

    pub(crate) fn count(&self, bytes: usize) {
        self.received.fetch_add(bytes as u64, Ordering::Relaxed);
    }

    /// An answer: what was asked, the bytes received so far, and the clock of this side, ms.
    pub(crate) fn answer(&self, asked: &str) -> String {
        let ms = self.began.elapsed().as_secs_f64() * 1000.0;
        format!("{asked} {} {ms:.3}", self.received.load(Ordering::Relaxed))
    }
}

/// One token that may always test; an empty one opens nothing.
pub struct OneToken(pub String);

impl Tokens for OneToken {
    fn may_test<'a>(&'a self, token: &'a str) -> Pin<Box<dyn Future<Output = bool> + Send + 'a>> {
        Box::pin(std::future::ready(!token.is_empty() && token == self.0))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn guest(code: u64, machine: u8) -> Guest {
        Guest { code, machine: [10, 0, 0, machine].into() }
    }

    #[test]
    fn one_code_that_begins_tests_without_end_forgets_its_own_and_nobody_elses() {
        let mut tests = HashMap::new();
        let (other, its) = (Uuid::new_v4(), guest(2, 2));
        tests.insert(other, Arc::new(Seen::new(its)));
        let begin = |tests: &mut HashMap<Uuid, Arc<Seen>>, guest| {
            make_room(tests, guest);
            tests.insert(Uuid::new_v4(), Arc::new(Seen::new(guest)));
        };
        for _ in 0..TESTS_EACH + 50 {
            begin(&mut tests, guest(1, 1));
        }
        assert_eq!(tests.len(), TESTS_EACH + 1);
        // Other codes on the same machine share what that may have.
        begin(&mut tests, guest(3, 1));
        assert_eq!(tests.len(), TESTS_EACH + 1);
        assert!(tests.contains_key(&other));
    }

    #[test]
    fn an_empty_token_opens_nothing_also_where_it_is_the_one() {
        let asked = |one: &str, token: &str| {
            let one = OneToken(one.to_owned());
            futures_util::FutureExt::now_or_never(one.may_test(token)).expect("known at once")
        };
        assert!(asked("a word", "a word") && !asked("a word", "another") && !asked("", "") && !asked("a word", ""));
    }

    #[test]
    fn whoever_comes_while_others_gather_begins_with_them() {
        let far = FarSide::new(Box::new(OneToken("word".into())));
        let (first, second) = (far.gather(), far.gather());
        assert_eq!((first.id, first.begins), (second.id, second.begins));
        assert!(first.begins > Instant::now());
    }
}
