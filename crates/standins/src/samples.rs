//! Samples as a test over a link would record them.

use busy_hen_home::raw::{Arrived, RawTest, RawTransfer, RoundTrip};
use busy_hen_units::{MbitPerSec, Millis};
use rand_chacha::ChaCha8Rng;
use rand_distr::{Distribution, Exp};

use crate::other_model::normal;

/// Exchanges before the transfers.
const IDLE_EXCHANGES: usize = 40;
/// Length of a transfer, ms.
const TRANSFER_MS: f64 = 6000.0;
/// Time between two counts, ms.
const COUNT_MS: f64 = 50.0;
/// How long a new connection takes to its full rate, ms.
const RAMP_MS: f64 = 700.0;
/// How the rate wavers from count to count, as a part of it.
const WAVERS: f64 = 0.12;
/// Mean of what a round trip takes longer than the link itself, ms.
const JITTER_MS: f64 = 2.0;
/// How far the clock of the far side is ahead, ms.
const FAR_AHEAD: f64 = 90_000.0;

/// What a link gives during one run.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Link {
    /// Download.
    pub down: MbitPerSec,
    /// Upload.
    pub up: MbitPerSec,
    /// Round trip with nothing else going on.
    pub idle: Millis,
    /// Round trip under load.
    pub loaded: Millis,
}

/// A test over this link.
pub fn test_over(link: &Link, rng: &mut ChaCha8Rng) -> RawTest {
    let mut now = 0.0;
    let mut idle = Vec::new();
    for _ in 0..IDLE_EXCHANGES {
        let took = link.idle.get() + late(rng);
        idle.push(trip(now, took));
        now += took + 20.0;
    }
    let down = transfer(now, link.down, link.loaded, rng);
    now += TRANSFER_MS + link.loaded.get();
    let mut up = transfer(now, link.up, link.loaded, rng);
    // An upload is counted by its receiver.
    up.arrived.iter_mut().for_each(|count| count.at_ms += Millis::new(FAR_AHEAD));
    now += TRANSFER_MS + link.loaded.get();
    RawTest { idle, down, up, steady_ms: Millis::new(now), wall_ms: Millis::new(now), interruptions: Vec::new() }
}

fn transfer(begun: f64, rate: MbitPerSec, loaded: Millis, rng: &mut ChaCha8Rng) -> RawTransfer {
    let mut bytes = 0.0;
    let mut list = RawTransfer::default();
    let steps = (TRANSFER_MS / COUNT_MS) as usize;
    for step in 0..=steps {
        let since = step as f64 * COUNT_MS;
        list.arrived.push(Arrived { at_ms: Millis::new(begun + since), bytes: bytes as u64 });
        let grown = (since / RAMP_MS).min(1.0);
        let part = grown * (1.0 + normal(rng, WAVERS)).max(0.0);
        bytes += rate.get() * 125.0 * COUNT_MS * part;
        list.loaded.push(trip(begun + since, loaded.get() * grown.max(0.2) + late(rng)));
    }
    list
}

fn trip(at: f64, took: f64) -> RoundTrip {
    RoundTrip { at_ms: Millis::new(at), took_ms: Millis::new(took), far_ms: Millis::new(at + took / 2.0 + FAR_AHEAD) }
}

fn late(rng: &mut ChaCha8Rng) -> f64 {
    Exp::new(1.0 / JITTER_MS).map_or(JITTER_MS, |exp| exp.sample(rng))
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_survey::measuring::figures;
    use rand::SeedableRng;

    #[test]
    fn the_core_reads_the_link_from_its_samples() {
        for (down, up, idle, loaded) in [(3.0, 0.8, 40.0, 300.0), (120.0, 40.0, 6.0, 30.0), (900.0, 500.0, 3.0, 9.0)] {
            let link = Link {
                down: MbitPerSec::new(down),
                up: MbitPerSec::new(up),
                idle: Millis::new(idle),
                loaded: Millis::new(loaded),
            };
            let got = figures(&test_over(&link, &mut ChaCha8Rng::seed_from_u64(7))).unwrap();
            assert!((got.down.rate_mbps.get() / down - 1.0).abs() < 0.05, "{:?}", got.down.rate_mbps);
            assert!((got.up.rate_mbps.get() / up - 1.0).abs() < 0.05, "{:?}", got.up.rate_mbps);
            assert!((idle..idle + 4.0).contains(&got.idle_ms.get()), "{:?}", got.idle_ms);
        }
    }
}
