//! Loss with distance.

use busy_hen_units::{Db, Megahertz, Metres};

/// Within this distance of an aerial the loss is taken at it, m.
pub const NEAREST: f64 = 0.5;
/// What people, furniture and fittings between walls take, dB a metre indoors (fitted; the linear terms that have been published
/// for homes are 0.2 to 0.6 dB a metre with their light walls, from memory).
const CLUTTER_INDOORS: f64 = 0.2;

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
pub fn clutter_loss(distance: Metres, outdoors: f64) -> Db {
    Db::new(distance.get() * CLUTTER_INDOORS * (1.0 - outdoors.clamp(0.0, 1.0)))
}
