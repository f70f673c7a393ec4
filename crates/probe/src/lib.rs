//! The near side of a test for machines without a browser: records the same samples as the phone's page does, and computes nothing.

mod line;
mod ping;
mod short;

use std::net::IpAddr;
use std::str::FromStr;
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, Instant, SystemTime};

use busy_hen_home::raw::{Arrived, Interruption, RawTest};
use busy_hen_units::Millis;
use thiserror::Error;
use tokio::task::JoinSet;
use uuid::Uuid;

use line::{Line, Part};
pub use ping::ping;
pub use short::{Short, short_transfer};

/// Exchanges before the transfers.
const IDLE_EXCHANGES: usize = 40;
/// Pause between two of them.
const IDLE_PAUSE: Duration = Duration::from_millis(20);
/// Length of each transfer, its ramp included.
const TRANSFER: Duration = Duration::from_secs(6);
/// Streams at once.
const STREAMS: usize = 4;
/// Pause between two counts and exchanges under load.
const COUNT: Duration = Duration::from_millis(50);
/// Longest wait for an exchange that is on its way.
const PATIENCE: Duration = Duration::from_secs(6);
/// Longest wait for the far end to say what it sees.
const SEEN_PATIENCE: Duration = Duration::from_secs(3);
/// One request of a download, bytes: more than a transfer gets through.
const DOWN_BYTES: u64 = 1 << 31;
/// Smallest and largest request of an upload, bytes.
const UP_BYTES: (usize, usize) = (1 << 16, 1 << 24);

/// Where a test goes: a bench or a far end, and the token it asks for.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Place {
    /// Its address, such as `http://192.168.1.5:8080`.
    pub origin: String,
    /// The token.
    pub token: String,
}

/// What kept a test from being made at all; what spoils one is told by its samples.
#[derive(Debug, Error)]
pub enum ProbeError {
    /// Not an address with a token.
    #[error("{0} is no address with its token behind a #, as a bench or a far end shows it")]
    Address(String),
    /// The link to the far side is encrypted.
    #[error(
        "{0} is an encrypted address, which this test does not speak; open it in a browser of this machine and test there"
    )]
    Encrypted(String),
    /// The far side could not be reached, or refused.
    #[error("{0} can't be tested to: {1}")]
    Line(String, String),
    /// No HTTP client could be made.
    #[error(transparent)]
    Http(#[from] reqwest::Error),
}

impl FromStr for Place {
    type Err = ProbeError;

    fn from_str(text: &str) -> Result<Self, ProbeError> {
        let wrong = || ProbeError::Address(text.to_owned());
        let (address, token) = text.split_once('#').ok_or_else(wrong)?;
        let origin = address.strip_suffix("/phone").unwrap_or(address).trim_end_matches('/');
        if !origin.starts_with("http") || token.is_empty() {
            return Err(wrong());
        }
        Ok(Self { origin: origin.to_owned(), token: token.to_owned() })
    }
}

impl Place {
    /// Whether this test speaks to it.
    ///
    /// # Errors
    /// [`ProbeError::Encrypted`]
    pub fn check(&self) -> Result<(), ProbeError> {
        let encrypted = self.origin.starts_with("https");
        if encrypted { Err(ProbeError::Encrypted(self.origin.clone())) } else { Ok(()) }
    }

    fn at(&self, what: &str, test: Uuid) -> String {
        format!("{}/measure/{what}?token={}&test={test}", self.origin, self.token)
    }
}

/// Runs a test and gives back its samples, also when something came between.
///
/// # Errors
/// [`ProbeError`] when it could not begin.
pub async fn measure(place: &Place, test: Uuid) -> Result<RawTest, ProbeError> {
    place.check()?;
    let client = reqwest::Client::builder().no_proxy().build()?;
    let (began, wall) = (Instant::now(), SystemTime::now());
    let mut line = Line::open(&place.at("line", test), began)
        .await
        .map_err(|error| ProbeError::Line(place.origin.clone(), error))?;
    let mut raw = RawTest::default();
    for _ in 0..IDLE_EXCHANGES {
        if !line.exchange_and_wait(Part::Idle, PATIENCE).await {
            raw.interruptions.push(Interruption::Broken);
            break;
        }
        tokio::time::sleep(IDLE_PAUSE).await;
    }
    if raw.interruptions.is_empty() {
        let received = Arc::new(AtomicU64::new(0));
        let mut streams = JoinSet::new();
        for _ in 0..STREAMS {
            let (client, received) = (client.clone(), Arc::clone(&received));
            let address = format!("{}&bytes={DOWN_BYTES}", place.at("down", test));
            streams.spawn(async move {
                loop {
                    download(&client, &address, &received).await;
                    tokio::time::sleep(Duration::from_millis(200)).await;
                }
            });
        }
        raw.down.arrived = counted(&mut line, Part::Down, began, || received.load(Ordering::Relaxed)).await;
        streams.shutdown().await;
        line.exchange_and_wait(Part::Down, PATIENCE).await;
    }
    if raw.interruptions.is_empty() {
        let mut streams = JoinSet::new();
        for _ in 0..STREAMS {
            let (client, address) = (client.clone(), place.at("up", test));
            streams.spawn(async move { upload(&client, &address).await });
        }
        counted(&mut line, Part::Up, began, || 0).await;
        streams.shutdown().await;
        line.exchange_and_wait(Part::Up, PATIENCE).await;
    }
    let seen = line.close().await;
    if seen.broken && raw.interruptions.is_empty() {
        raw.interruptions.push(Interruption::Broken);
    }
    raw.idle = seen.idle;
    raw.down.loaded = seen.down;
    raw.up.loaded = seen.up;
    raw.up.arrived = seen.received;
    raw.steady_ms = millis(began.elapsed());
    raw.wall_ms = millis(wall.elapsed().unwrap_or_default());
    Ok(raw)
}

/// Why a far end does not say what it sees.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum Unseen {
    /// Nothing answers there.
    #[error("Nothing answers at this address. Is the test server running, and does its network let this port through?")]
    Silent,
    /// It does not know the token.
    #[error(
        "The test server answers but refuses the token. Copy the part behind the # again, as the test server shows it."
    )]
    Refused,
    /// Its link is encrypted, which this does not speak.
    #[error("An encrypted address can’t be tried from here. Use it, then see on a phone whether it answers.")]
    Encrypted,
    /// Something else answers.
    #[error("Something answers at this address, but it is no test server of Busy Hen. Check the address and the port.")]
    Other,
}

/// The address that a far end sees this machine come from, and how long its answer took.
///
/// # Errors
/// [`Unseen`]
pub async fn look_at(place: &Place) -> Result<(IpAddr, Millis), Unseen> {
    place.check().map_err(|_| Unseen::Encrypted)?;
    let client = reqwest::Client::builder().no_proxy().timeout(SEEN_PATIENCE).build().map_err(|_| Unseen::Silent)?;
    let address = format!("{}/measure/seen?token={}", place.origin, place.token);
    let began = Instant::now();
    let answer = client.get(address).send().await.map_err(|_| Unseen::Silent)?;
    let took = millis(began.elapsed());
    if answer.status() == reqwest::StatusCode::UNAUTHORIZED {
        return Err(Unseen::Refused);
    }
    let text = answer.error_for_status().map_err(|_| Unseen::Other)?.text().await.map_err(|_| Unseen::Other)?;
    Ok((text.trim().parse().map_err(|_| Unseen::Other)?, took))
}

/// The address that a far end sees this machine come from; none when it does not say.
pub async fn seen_from(place: &Place) -> Option<IpAddr> {
    look_at(place).await.ok().map(|(seen, _)| seen)
}

fn millis(span: Duration) -> Millis {
    Millis::new(span.as_secs_f64() * 1000.0)
}

/// Exchanges and counts for the length of a transfer.
async fn counted(line: &mut Line, part: Part, began: Instant, bytes: impl Fn() -> u64) -> Vec<Arrived> {
    let count = || Arrived { at_ms: millis(began.elapsed()), bytes: bytes() };
    let mut counts = vec![count()];
    let begun = Instant::now();
    while begun.elapsed() < TRANSFER {
        if !line.exchange(part).await {
            break;
        }
        tokio::time::sleep(COUNT).await;
        counts.push(count());
    }
    counts
}

async fn download(client: &reqwest::Client, address: &str, received: &AtomicU64) {
    let Ok(mut answer) = client.get(address).send().await else { return };
    while let Ok(Some(part)) = answer.chunk().await {
        received.fetch_add(part.len() as u64, Ordering::Relaxed);
    }
}

/// Sends requests that take about half a second each, until it is stopped.
async fn upload(client: &reqwest::Client, address: &str) {
    // Random, so that nothing on the way can make it smaller.
    let noise: Vec<u8> =
        std::iter::repeat_with(Uuid::new_v4).take(UP_BYTES.0 / 16).flat_map(Uuid::into_bytes).collect();
    let mut size = UP_BYTES.0;
    loop {
        let begun = Instant::now();
        let body: Vec<u8> = noise.iter().copied().cycle().take(size).collect();
        if client.post(address).body(body).send().await.is_err() {
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
        let next = size as f64 * 0.5 / begun.elapsed().as_secs_f64().max(0.001);
        size = (next as usize).clamp(UP_BYTES.0, UP_BYTES.1);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_address_is_taken_as_a_bench_or_a_far_end_shows_it() {
        let place = Place { origin: "http://192.168.1.5:8080".into(), token: "abc".into() };
        for text in ["http://192.168.1.5:8080/phone#abc", "http://192.168.1.5:8080#abc", "http://192.168.1.5:8080/#abc"]
        {
            assert_eq!(text.parse::<Place>().ok(), Some(place.clone()), "{text}");
        }
        for text in ["http://192.168.1.5:8080/phone", "192.168.1.5#abc", "http://x#", ""] {
            assert!(text.parse::<Place>().is_err(), "{text}");
        }
    }

    #[tokio::test]
    async fn an_encrypted_address_is_refused_in_words() {
        let place = "https://127.0.0.1:9/phone#abc".parse().unwrap();
        let told = measure(&place, Uuid::nil()).await.unwrap_err().to_string();
        assert!(told.contains("browser of this machine"), "{told}");
    }
}
