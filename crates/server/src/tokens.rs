//! Tokens of phones: made here, known to the phone alone; storage keeps what tells them apart, not what they are.

use std::future::Future;
use std::pin::Pin;

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

/// Phones that are paired with a round may test until their time is over.
pub struct Paired(pub Store);

impl Tokens for Paired {
    fn may_test<'a>(&'a self, token: &'a str) -> Pin<Box<dyn Future<Output = bool> + Send + 'a>> {
        Box::pin(async move {
            let paired = self.0.paired(&digest(token)).await;
            paired.is_ok_and(|pairing| pairing.is_some_and(|pairing| Timestamp::now() <= pairing.expires_at))
        })
    }
}
