//! Raw samples as a known link would give them.

use busy_hen_home::raw::{Arrived, RawTest, RawTransfer, RoundTrip};
use busy_hen_units::Millis;

/// A transfer of so many Mb/s that begins slowly, as a new connection does, counted every so often, with this delay meanwhile.
fn transfer(begun: f64, mbps: f64, every_ms: f64, loaded_ms: f64) -> RawTransfer {
    let length = 5000.0;
    let bytes = |ms: f64| {
        // Half a second of even rise, then the full rate.
        let grown = if ms < 500.0 { ms * ms / 1000.0 } else { ms - 250.0 };
        (grown * mbps * 125.0) as u64
    };
    let counts = (0..).map(|index| f64::from(index) * every_ms).take_while(|ms| *ms <= length);
    let pings = (0..).map(|index| f64::from(index) * 100.0).take_while(|ms| *ms <= length);
    RawTransfer {
        arrived: counts.map(|ms| Arrived { at_ms: Millis::new(begun + ms), bytes: bytes(ms) }).collect(),
        loaded: pings
            .map(|ms| RoundTrip {
                at_ms: Millis::new(begun + ms),
                took_ms: Millis::new(if ms < 500.0 { 5.0 } else { loaded_ms }),
                far_ms: Millis::new(begun + ms + FAR_AHEAD),
            })
            .collect(),
    }
}

/// How far the clock of the far side is ahead.
const FAR_AHEAD: f64 = 40_000.0;

/// A sound test of a link of these rates, Mb/s: 12 ms idle, 48 ms under a download and 90 ms under an upload.
#[must_use]
pub fn test_of(down: f64, up: f64) -> RawTest {
    let idle = (0..40).map(|index| f64::from(index) * 20.0).map(|ms| RoundTrip {
        at_ms: Millis::new(ms),
        took_ms: Millis::new(12.0),
        far_ms: Millis::new(ms + 6.0 + FAR_AHEAD),
    });
    RawTest {
        idle: idle.collect(),
        down: transfer(900.0, down, 35.0, 48.0),
        up: by_the_far_clock(transfer(6000.0, up, 50.0, 90.0)),
        steady_ms: Millis::new(11_000.0),
        wall_ms: Millis::new(11_010.0),
        interruptions: Vec::new(),
    }
}

fn by_the_far_clock(mut transfer: RawTransfer) -> RawTransfer {
    transfer.arrived.iter_mut().for_each(|count| count.at_ms += Millis::new(FAR_AHEAD));
    transfer
}
