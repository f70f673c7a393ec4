//! Loss with distance.

use busy_hen_units::{Db, Megahertz, Metres};

/// Within this distance of an aerial the loss is taken at it, m.
pub const NEAREST: f64 = 0.5;
/// What people, furniture and fittings between walls take, dB a metre indoors, at 2.4 GHz and above 5 GHz. Linear terms that have been
/// published for buildings in use are 0.2 to 0.6 (COST 231 linear attenuation model, from memory); within that, fitted to readings of
/// practice.
const CLUTTER_INDOORS: (f64, f64) = (0.25, 0.45);
/// Between the two, MHz.
const HIGH_BANDS: f64 = 4000.0;

/// Free-space loss: `32.4478 + 20 log10(f in MHz) + 20 log10(d in km)`.
///
/// # Source
/// ITU-R P.525-4, equation for the basic free-space transmission loss.
#[must_use]
pub fn free_space_loss(distance: Metres, frequency: Megahertz) -> Db {
    Db::new(32.4478 + 20.0 * frequency.get().log10() + 20.0 * (distance.get() / 1000.0).log10())
}

/// What clutter takes over a line of which the part `outdoors` (0 to 1) runs under the open sky; there is none there.
#[must_use]
pub fn clutter_loss(distance: Metres, outdoors: f64, frequency: Megahertz) -> Db {
    let per_metre = if frequency.get() < HIGH_BANDS { CLUTTER_INDOORS.0 } else { CLUTTER_INDOORS.1 };
    Db::new(distance.get() * per_metre * (1.0 - outdoors.clamp(0.0, 1.0)))
}
