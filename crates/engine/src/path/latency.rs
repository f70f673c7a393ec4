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
