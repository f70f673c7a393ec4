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

/// How long a page may listen with the token that it was given: longer than any drill in one go.
const LISTENS: Duration = Duration::from_secs(4 * 3600);
/// Pages that may listen at most; then the oldest may not.
const PAGES_MOST: usize = 50;

/// Pages of the bench that listen during a drill. They are forgotten when the program ends; a page then asks anew.
#[derive(Debug, Default)]
pub struct Listeners(Mutex<HashMap<String, Instant>>);

impl Listeners {
    /// A token for one more.
    #[must_use]
    pub fn grant(&self) -> String {
        let token = fresh();
        let mut pages = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        pages.retain(|_, since| since.elapsed() < LISTENS);
        if pages.len() >= PAGES_MOST
            && let Some(oldest) = pages.iter().min_by_key(|(_, since)| **since).map(|(page, _)| page.clone())
        {
            pages.remove(&oldest);
        }
        pages.insert(digest(&token), Instant::now());
        token
    }

    fn may(&self, token: &str) -> bool {
        let pages = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        pages.get(&digest(token)).is_some_and(|since| since.elapsed() < LISTENS)
    }
}

/// Phones that are paired with a round may test until their time is over, and pages that listen during a drill.
pub struct Paired {
    /// Where pairings are stored.
    pub store: Store,
    /// Pages that listen.
    pub listeners: Arc<Listeners>,
}

impl Tokens for Paired {
    fn may_test<'a>(&'a self, token: &'a str) -> Pin<Box<dyn Future<Output = bool> + Send + 'a>> {
        Box::pin(async move {
            if self.listeners.may(token) {
                return true;
            }
            let paired = self.store.paired(&digest(token)).await;
            paired.is_ok_and(|pairing| pairing.is_some_and(|pairing| Timestamp::now() <= pairing.expires_at))
        })
    }
}
