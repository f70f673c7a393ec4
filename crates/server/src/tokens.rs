//! Tokens of phones: made here, known to the phone alone; storage keeps what tells them apart, not what they are.

use std::collections::HashMap;
use std::future::Future;
use std::pin::Pin;
use std::sync::{Arc, Mutex, PoisonError};
use std::time::{Duration, Instant};

use busy_hen_measure::Tokens;
use busy_hen_store::Store;
use jiff::Timestamp;
use sha2::{Digest, Sha256};
use uuid::Uuid;

/// A new token: 122 random bits, more than anyone can try.
#[must_use]
pub fn fresh() -> String {
    Uuid::new_v4().simple().to_string()
}

/// What is kept of a token.
#[must_use]
pub fn digest(token: &str) -> String {
    hex(&Sha256::digest(token.as_bytes()))
}

/// Bytes as hexadecimal digits.
pub(crate) fn hex(bytes: &[u8]) -> String {
    bytes.iter().map(|byte| format!("{byte:02x}")).collect()
}

/// Tokens that are good for a while, so many at most; they are forgotten when the program ends.
#[derive(Debug)]
pub struct Granted {
    lasts: Duration,
    most: usize,
    since: Mutex<HashMap<String, Instant>>,
}

impl Granted {
    /// None yet.
    #[must_use]
    pub fn new(lasts: Duration, most: usize) -> Self {
        Self { lasts, most, since: Mutex::default() }
    }

    /// One more; where there are too many the oldest goes.
    pub fn grant(&self) -> String {
        let token = fresh();
        let mut since = self.since.lock().unwrap_or_else(PoisonError::into_inner);
        since.retain(|_, since| since.elapsed() < self.lasts);
        if since.len() >= self.most
            && let Some(oldest) = since.iter().min_by_key(|(_, since)| **since).map(|(own, _)| own.clone())
        {
            since.remove(&oldest);
        }
        since.insert(digest(&token), Instant::now());
        token
    }

    /// Whether a token is good.
    #[must_use]
    pub fn holds(&self, token: &str) -> bool {
        let since = self.since.lock().unwrap_or_else(PoisonError::into_inner);
        since.get(&digest(token)).is_some_and(|since| since.elapsed() < self.lasts)
    }

    /// Takes all tokens back.
    pub fn take_all(&self) {
        self.since.lock().unwrap_or_else(PoisonError::into_inner).clear();
    }

    /// Takes a token back.
    pub fn take(&self, token: &str) {
        self.since.lock().unwrap_or_else(PoisonError::into_inner).remove(&digest(token));
    }
}

/// Phones that are paired with a round may test until their time is over, and pages that listen during a drill.
pub struct Paired {
    /// Where pairings are stored.
    pub store: Store,
    /// Pages that listen.
    pub listeners: Arc<Granted>,
}

impl Tokens for Paired {
    fn may_test<'a>(&'a self, token: &'a str) -> Pin<Box<dyn Future<Output = bool> + Send + 'a>> {
        Box::pin(async move {
            if self.listeners.holds(token) {
                return true;
            }
            let paired = self.store.paired(&digest(token)).await;
            paired.is_ok_and(|pairing| pairing.is_some_and(|pairing| pairing.may_test(Timestamp::now())))
        })
    }
}
