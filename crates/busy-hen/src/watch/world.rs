//! What a watch looks at: the home it stands in, or a stand-in whose days go by quickly.

use std::net::{IpAddr, ToSocketAddrs};
use std::time::Duration;

use busy_hen_home::{ShortTransfer, Watched};
use busy_hen_probe::{Place, ping, short_transfer};
use busy_hen_standins::long_watch::Days;
use busy_hen_units::Millis;
use jiff::{SignedDuration, Timestamp};
use tokio::time::timeout;

/// Longest wait for an answer to a knock.
const PATIENCE: Duration = Duration::from_secs(2);
/// Longest that a short transfer takes.
const TRANSFER: Duration = Duration::from_secs(20);
/// What the machine knows of hardware addresses near it, where it tells (Linux).
const NEAR: &str = "/proc/net/arp";

/// What a watch looks at.
pub enum World {
    /// The home around this machine.
    Here {
        /// Where short transfers come from; none when there are to be none.
        transfers: Option<Place>,
    },
    /// A stand-in, at this moment of its days.
    StandIn {
        /// Its days.
        days: Days,
        /// The moment.
        now: Timestamp,
    },
}

impl World {
    /// The moment it is.
    pub fn now(&self) -> Timestamp {
        match self {
            Self::Here { .. } => Timestamp::now(),
            Self::StandIn { now, .. } => *now,
        }
    }

    /// Waits until a moment.
    pub async fn wait(&mut self, until: Timestamp) {
        match self {
            Self::Here { .. } => {
                let left = until.duration_since(Timestamp::now());
                tokio::time::sleep(Duration::try_from(left).unwrap_or_default()).await;
            }
            Self::StandIn { now, .. } => {
                *now = until;
                tokio::task::yield_now().await;
            }
        }
    }

    /// Pings at every address at once.
    pub async fn ping(&self, targets: &[Watched]) -> Vec<Option<Millis>> {
        match self {
            Self::Here { .. } => {
                let knocks = targets.iter().map(|own| {
                    let address = own.address.clone();
                    tokio::spawn(async move { ping(address, PATIENCE).await })
                });
                let mut answers = Vec::new();
                for own in knocks.collect::<Vec<_>>() {
                    answers.push(own.await.ok().flatten());
                }
                answers
            }
            Self::StandIn { days, now } => days.ping(*now),
        }
    }

    /// Whether there is anything to transfer from.
    pub fn transfers(&self) -> bool {
        !matches!(self, Self::Here { transfers: None })
    }

    /// A short transfer; none when it could not begin.
    pub async fn transfer(&self, bytes: u64) -> Option<ShortTransfer> {
        let at = self.now();
        match self {
            Self::Here { transfers } => {
                // A far side that never gives it its turn must not keep the knocks waiting.
                let short = timeout(TRANSFER * 2, short_transfer(transfers.as_ref()?, bytes, TRANSFER));
                let short = short.await.ok()?.ok()?;
                Some(ShortTransfer { at, bytes: short.bytes, took_ms: short.took, whole: short.whole })
            }
            Self::StandIn { days, .. } => Some(days.transfer(at, bytes)),
        }
    }

    /// The hardware address that answers at each address, where the machine knows it.
    pub fn answerers(&self, targets: &[Watched]) -> Vec<Option<String>> {
        let near = match self {
            Self::Here { .. } => std::fs::read_to_string(NEAR).unwrap_or_default(),
            Self::StandIn { .. } => String::new(),
        };
        let of = |target: &Watched| {
            let ip = target.address.to_socket_addrs().ok()?.next()?.ip();
            hardware(&near, ip)
        };
        if near.is_empty() { vec![None; targets.len()] } else { targets.iter().map(of).collect() }
    }
}

/// The hardware address of a machine near this one: a table of IP address, type, flags and hardware address a line.
fn hardware(near: &str, ip: IpAddr) -> Option<String> {
    let line = near.lines().skip(1).find(|line| line.split_whitespace().next() == Some(ip.to_string().as_str()))?;
    let hardware = line.split_whitespace().nth(3)?;
    (hardware != "00:00:00:00:00:00").then(|| hardware.to_owned())
}

/// A stand-in goes on a few minutes after it was last known to watch, as a machine does that was off.
pub fn stand_in(days: Days, first: Timestamp, until: Option<Timestamp>) -> World {
    World::StandIn { days, now: until.map_or(first, |until| until + SignedDuration::from_mins(7)) }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn who_answers_is_read_from_the_machines_own_table() {
        let near = "IP address       HW type     Flags       HW address            Mask     Device\n\
                    192.0.2.1        0x1         0x2         02:00:5e:00:53:01     *        eth0\n\
                    192.0.2.2        0x1         0x0         00:00:00:00:00:00     *        eth0\n";
        let of = |text: &str| hardware(near, text.parse().expect("an address"));
        assert_eq!(of("192.0.2.1").as_deref(), Some("02:00:5e:00:53:01"));
        assert_eq!((of("192.0.2.2"), of("192.0.2.12")), (None, None));
    }
}
