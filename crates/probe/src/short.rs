//! A short transfer: so many bytes from a bench or a far end, and how long they took. It shows how a day goes, and is no test.

use std::time::{Duration, Instant};

use busy_hen_units::Millis;
use uuid::Uuid;

use crate::line::Line;
use crate::{Place, ProbeError};

/// What a short transfer came to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Short {
    /// Bytes that arrived.
    pub bytes: u64,
    /// How long they took.
    pub took: Millis,
    /// Whether all arrived.
    pub whole: bool,
}

/// Fetches so many bytes, for at most so long. It waits for its turn as a test does, so that neither spoils the other.
///
/// # Errors
/// [`ProbeError`] when it could not begin.
pub async fn short_transfer(place: &Place, bytes: u64, most: Duration) -> Result<Short, ProbeError> {
    place.check()?;
    let client = reqwest::Client::builder().no_proxy().build()?;
    let test = Uuid::new_v4();
    let told = |error| ProbeError::Line(place.origin.clone(), error);
    let line = Line::open(&place.at("line", test), Instant::now()).await.map_err(told)?;
    let begun = Instant::now();
    let mut arrived = 0;
    let fetch = async {
        let address = format!("{}&bytes={bytes}", place.at("down", test));
        let Ok(mut answer) = client.get(address).send().await else { return };
        while let Ok(Some(part)) = answer.chunk().await {
            arrived += part.len() as u64;
        }
    };
    let _ = tokio::time::timeout(most, fetch).await;
    let took = Millis::new(begun.elapsed().as_secs_f64() * 1000.0);
    line.close().await;
    Ok(Short { bytes: arrived, took, whole: arrived == bytes })
}
