//! Loss with distance.

use busy_hen_units::{Db, Megahertz, Metres};

/// Within this distance of an aerial the loss is taken at it.
const NEAREST: f64 = 0.5;
/// Up to this distance a home is as clear as free space.
const BREAKPOINT: f64 = 5.0;
/// Decibels a decade beyond the breakpoint, indoors (IEEE 802.11-14/0980, residential).
const SLOPE_INDOORS: f64 = 35.0;
/// Decibels a decade outdoors: open ground with some clutter, exponent 2.3 (fitted).
const SLOPE_OUTDOORS: f64 = 23.0;

/// Free-space loss: `32.4478 + 20 log10(f in MHz) + 20 log10(d in km)`.
///
/// # Source
/// ITU-R P.525-4, equation for the basic free-space transmission loss.
#[must_use]
pub fn free_space_loss(distance: Metres, frequency: Megahertz) -> Db {
    Db::new(32.4478 + 20.0 * frequency.get().log10() + 20.0 * (distance.get() / 1000.0).log10())
}

/// Loss with distance when `outdoors` (0 to 1) is the part of the line that runs under the open sky.
///
/// Free space to 5 m, then 35 dB a decade indoors and 23 outdoors, mixed by the parts of the line, so that a garden is not
/// charged for furniture it does not have. Nearer than 0.5 m counts as 0.5 m.
///
/// # Source
/// Indoors: IEEE 802.11-14/0980 (residential path loss) without its walls. Outdoors: fitted, `docs/MODEL.md`.
#[must_use]
pub fn distance_loss(distance: Metres, frequency: Megahertz, outdoors: f64) -> Db {
    let d = distance.get().max(NEAREST);
    let slope = SLOPE_INDOORS + (SLOPE_OUTDOORS - SLOPE_INDOORS) * outdoors.clamp(0.0, 1.0);
    let near = free_space_loss(Metres::new(d.min(BREAKPOINT)), frequency);
    near + Db::new(slope * (d.max(BREAKPOINT) / BREAKPOINT).log10())
}
