//! Round-trip time along a path, idle and under load.

use busy_hen_home::{AccessLine, Band};
use busy_hen_units::{MbitPerSec, Millis};

use busy_hen_catalogue::phy::Mcs;
use busy_hen_radio::airtime::Link;

/// Below this modulation a Wi-Fi link counts as weak.
const WEAK_BELOW: Mcs = 4;
/// Longest queue that senders go on filling, ms (engineering estimate).
const LONGEST_QUEUE_MS: f64 = 2000.0;
/// A sender's queue, Mbit: 1000 packets of 1514 bytes.
const WIFI_QUEUE_MBIT: f64 = 12.1;
/// Queue of an access line at the plan's rate, ms.
const LINE_QUEUE_MS: f64 = 250.0;
/// Most of the airtime that others can be reckoned to hold.
const OTHERS_LIMIT: f64 = 0.9;

/// What a managed queue adds beside two packets' time, ms: its target delay, and a Wi-Fi sender's own.
const MANAGED_MS: f64 = 5.0;
const MANAGED_WIFI_MS: f64 = 4.0;
/// Two full packets, Mbit.
const TWO_PACKETS_MBIT: f64 = 2.0 * 12_112.0 / 1e6;
/// From the median to the 95 % point of an exponential spread is so many times its mean: ln 20 - ln 2.
const P95_TO_MEAN: f64 = 2.303;

/// Round trip of a part of a path: its median, and how far its 95 % point lies above that.
///
/// # Source
/// All values of this file: engineering estimates, `docs/MODEL.md`, section 3.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Delay {
    /// The median.
    pub median: Millis,
    /// From the median to the 95 % point.
    pub spread: Millis,
}

const fn delay(median: f64, spread: f64) -> Delay {
    Delay { median: Millis::new(median), spread: Millis::new(spread) }
}

impl Delay {
    /// One part after another: medians add, spreads add as squares.
    #[must_use]
    pub fn then(self, next: Self) -> Self {
        Self { median: self.median + next.median, spread: Millis::new(self.spread.get().hypot(next.spread.get())) }
    }

    /// The same while others hold the air for this part of the time.
    fn while_others(self, others: f64) -> Self {
        let stretch = 1.0 / (1.0 - others.clamp(0.0, OTHERS_LIMIT));
        Self { median: self.median * stretch, spread: self.spread * stretch }
    }

    /// Mean change from one round trip to the next in the long run: the spread of an exponential over 2.303.
    ///
    /// # Source
    /// Steady value of RFC 3550's estimator for exponentially spread transit times.
    #[must_use]
    pub fn jitter(&self) -> Millis {
        self.spread * (1.0 / P95_TO_MEAN)
    }
}

/// A cable hop.
#[must_use]
pub fn cable_hop() -> Delay {
    delay(0.2, 0.1)
}

/// A coax pair.
#[must_use]
pub fn coax_hop() -> Delay {
    delay(4.0, 1.0)
}

/// A power-line pair between good or poor outlets.
#[must_use]
pub fn power_line_hop(good: bool) -> Delay {
    if good { delay(4.0, 8.0) } else { delay(12.0, 60.0) }
}

/// The access line.
#[must_use]
pub fn line(kind: AccessLine) -> Delay {
    match kind {
        AccessLine::Fibre => delay(3.0, 2.0),
        AccessLine::Cable => delay(12.0, 6.0),
        AccessLine::Dsl => delay(18.0, 5.0),
        AccessLine::Mobile => delay(30.0, 20.0),
        AccessLine::LowOrbit => delay(40.0, 20.0),
        AccessLine::Geostationary => delay(600.0, 30.0),
    }
}

/// A radio link to a client: longer when weak, at 2.4 GHz, and while others hold the air.
#[must_use]
pub fn air(band: Band, link: &Link, others: f64) -> Delay {
    let weak = link.mcs.is_none_or(|mcs| mcs < WEAK_BELOW);
    let idle = match band {
        Band::Ghz2_4 => delay(3.0, 12.0),
        Band::Ghz5 | Band::Ghz6 if weak => delay(4.0, 12.0),
        Band::Ghz5 | Band::Ghz6 => delay(2.0, 4.0),
    };
    idle.while_others(others)
}

/// A radio backhaul hop, on a radio of its own or one shared with clients.
#[must_use]
pub fn radio_hop(shared: bool, others: f64) -> Delay {
    if shared { delay(3.5, 10.0) } else { delay(2.0, 4.0) }.while_others(others)
}

/// What the queue before the narrowest link adds while it is full: the access line's, or a Wi-Fi sender's.
///
/// Unmanaged, it is as long as its buffer: a quarter second of the line's rate, or 1000 packets on Wi-Fi, though
/// senders give up before it takes over two seconds. Managed, it is held
/// near 5 ms.
///
/// # Source
/// Buffers: engineering estimates. Managed queues: RFC 8289 and RFC 8290.
#[must_use]
pub fn queue(line_limits: bool, managed: bool, bottleneck: MbitPerSec) -> Millis {
    let rate = bottleneck.get().max(0.1);
    if managed {
        let own = if line_limits { 0.0 } else { MANAGED_WIFI_MS };
        return Millis::new(MANAGED_MS + 1000.0 * TWO_PACKETS_MBIT / rate + own);
    }
    Millis::new(if line_limits { LINE_QUEUE_MS } else { (1000.0 * WIFI_QUEUE_MBIT / rate).min(LONGEST_QUEUE_MS) })
}

/// Time to empty a first-in-first-out buffer of this many bytes: `8 B / C`.
#[must_use]
pub fn fifo_delay(bytes: f64, rate: MbitPerSec) -> Millis {
    Millis::new(8.0 * bytes / (rate.get() * 1000.0))
}

/// Next value of the running jitter of a stream: `J += (|D| - J) / 16`.
///
/// # Source
/// RFC 3550, section 6.4.1.
#[must_use]
pub fn interarrival_jitter(jitter: Millis, change: Millis) -> Millis {
    Millis::new(jitter.get() + (change.get().abs() - jitter.get()) / 16.0)
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_units::{Dbm, Megahertz};

    fn link(mcs: Option<Mcs>) -> Link {
        let none = MbitPerSec::default();
        Link { rssi: Dbm::new(-60.0), down: none, up: none, link_rate: none, width: Megahertz::new(80.0), mcs }
    }

    #[test]
    fn a_weak_link_and_a_busy_channel_take_longer() {
        let median = |delay: Delay| delay.median.get();
        let idle = median(air(Band::Ghz5, &link(Some(9)), 0.0));
        assert!(median(air(Band::Ghz5, &link(Some(1)), 0.0)) > idle);
        assert!((median(air(Band::Ghz5, &link(Some(9)), 0.5)) - 2.0 * idle).abs() < 1e-9);
        assert!(median(air(Band::Ghz5, &link(Some(9)), 1.0)).is_finite(), "however busy the others are");
        assert!(median(radio_hop(true, 0.0)) > median(radio_hop(false, 0.0)));
    }

    /// RFC 8289's motive: a queue before a slow link is long in time. 12.1 Mbit at 24.2 Mb/s take half a second.
    #[test]
    fn a_full_queue_takes_its_size_over_the_rate() {
        assert!((queue(false, false, MbitPerSec::new(24.2)).get() - 500.0).abs() < 1e-9);
        assert!(
            (queue(true, false, MbitPerSec::new(24.2)).get() - 250.0).abs() < 1e-9,
            "the line's own queue is a quarter second"
        );
        assert!(queue(false, false, MbitPerSec::new(0.0)).is_finite());
    }

    #[test]
    fn a_managed_queue_is_short_however_slow_the_link() {
        for rate in [1.0, 10.0, 100.0] {
            let rate = MbitPerSec::new(rate);
            assert!(queue(true, true, rate).get() < 30.0);
            assert!(queue(false, true, rate) < queue(false, false, rate));
        }
    }

    #[test]
    fn spreads_add_as_squares_and_medians_plainly() {
        let sum = delay(3.0, 3.0).then(delay(4.0, 4.0));
        assert!((sum.median.get() - 7.0).abs() < 1e-12 && (sum.spread.get() - 5.0).abs() < 1e-12);
        assert!((delay(1.0, 2.303).jitter().get() - 1.0).abs() < 1e-12);
    }
}
