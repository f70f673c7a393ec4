//! Round-trip time along a path, idle and under load.

use busy_hen_home::{AccessLine, Band};
use busy_hen_units::{MbitPerSec, Millis};

use crate::phy::{Link, Mcs};

/// Below this modulation a Wi-Fi link counts as weak.
const WEAK_BELOW: Mcs = 4;
/// A sender's queue, Mbit: 1000 packets of 1514 bytes.
const WIFI_QUEUE_MBIT: f64 = 12.1;
/// Queue of an access line at the plan's rate, ms.
const LINE_QUEUE_MS: f64 = 250.0;
/// Most of the airtime that others can be reckoned to hold.
const OTHERS_LIMIT: f64 = 0.9;

/// Round trip of one wired hop.
///
/// # Source
/// Engineering estimate, `docs/MODEL.md` section 8; so are all values of this file.
#[must_use]
pub fn wired_hop() -> Millis {
    Millis::new(0.2)
}

/// Round trip over the access line.
#[must_use]
pub fn line(kind: AccessLine) -> Millis {
    Millis::new(match kind {
        AccessLine::Fibre => 3.0,
        AccessLine::Cable => 12.0,
        AccessLine::Dsl => 18.0,
        AccessLine::Mobile => 30.0,
        AccessLine::LowOrbit => 40.0,
        AccessLine::Geostationary => 600.0,
    })
}

/// Round trip over a radio link to a client: longer when weak, at 2.4 GHz, and while others hold the air.
#[must_use]
pub fn air(band: Band, link: &Link, others: f64) -> Millis {
    let weak = link.mcs.is_none_or(|mcs| mcs < WEAK_BELOW);
    let idle = match band {
        Band::Ghz2_4 => 3.0,
        Band::Ghz5 | Band::Ghz6 if weak => 4.0,
        Band::Ghz5 | Band::Ghz6 => 2.0,
    };
    Millis::new(idle / (1.0 - others.clamp(0.0, OTHERS_LIMIT)))
}

/// Round trip over a radio backhaul hop, on a radio of its own or one shared with clients.
#[must_use]
pub fn radio_hop(shared: bool, others: f64) -> Millis {
    Millis::new(if shared { 3.5 } else { 2.0 } / (1.0 - others.clamp(0.0, OTHERS_LIMIT)))
}

/// What a full, unmanaged queue before the narrowest link adds: the access line's, or a Wi-Fi sender's.
#[must_use]
pub fn queue(line_limits: bool, bottleneck: MbitPerSec) -> Millis {
    if line_limits {
        return Millis::new(LINE_QUEUE_MS);
    }
    Millis::new(1000.0 * WIFI_QUEUE_MBIT / bottleneck.get().max(0.1))
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
        let idle = air(Band::Ghz5, &link(Some(9)), 0.0);
        assert!(air(Band::Ghz5, &link(Some(1)), 0.0) > idle);
        assert!((air(Band::Ghz5, &link(Some(9)), 0.5).get() - 2.0 * idle.get()).abs() < 1e-9);
        assert!(air(Band::Ghz5, &link(Some(9)), 1.0).is_finite(), "however busy the others are");
        assert!(radio_hop(true, 0.0) > radio_hop(false, 0.0));
    }

    /// RFC 8289's motive: a queue before a slow link is long in time. 12.1 Mbit at 24.2 Mb/s take half a second.
    #[test]
    fn a_full_queue_takes_its_size_over_the_rate() {
        assert!((queue(false, MbitPerSec::new(24.2)).get() - 500.0).abs() < 1e-9);
        assert!(
            (queue(true, MbitPerSec::new(24.2)).get() - 250.0).abs() < 1e-9,
            "the line's own queue is a quarter second"
        );
        assert!(queue(false, MbitPerSec::new(0.0)).is_finite());
    }
}
