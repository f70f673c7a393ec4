//! A knock: whether an address takes a connection, and how soon. Nothing is sent to it.

use std::time::{Duration, Instant};

use busy_hen_units::Millis;
use tokio::net::{TcpStream, ToSocketAddrs};
use tokio::time::timeout;

/// Pings once: how long until the connection was taken, none when it was not within this time.
pub async fn ping(address: impl ToSocketAddrs, patience: Duration) -> Option<Millis> {
    let begun = Instant::now();
    match timeout(patience, TcpStream::connect(address)).await {
        Ok(Ok(_)) => Some(Millis::new(begun.elapsed().as_secs_f64() * 1000.0)),
        _ => None,
    }
}
