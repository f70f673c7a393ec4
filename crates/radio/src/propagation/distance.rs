//! Loss with distance.

use busy_hen_units::{Db, Megahertz, Metres};

/// Within this distance of an aerial the loss is taken at it, m.
pub const NEAREST: f64 = 0.5;
/// What people, furniture and fittings between walls take, dB a metre indoors, at 2.4 GHz and above 5 GHz. Linear terms that have been
/// published for buildings in use are 0.2 to 0.6 (COST 231 linear attenuation model, from memory); within that, fitted to readings of
/// practice.
const CLUTTER_INDOORS: (f64, f64) = (0.3, 0.55);
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

/// What stands about outdoors unsaid (cars, fences, canopies, trees), dB a metre: a walk past such things read some 20 dB less than free
/// space over 100 to 200 m (common practice).
const CLUTTER_OUTDOORS: f64 = 0.12;
/// That is no more than this, dB: what stands about is also gone round.
const OUTDOORS_MOST: f64 = 20.0;

/// What people and furniture take over a line of which the part `outdoors` (0 to 1) runs under the open sky; there is none there.
#[must_use]
pub fn clutter_loss(distance: Metres, outdoors: f64, frequency: Megahertz) -> Db {
    let per_metre = if frequency.get() < HIGH_BANDS { CLUTTER_INDOORS.0 } else { CLUTTER_INDOORS.1 };
    Db::new(distance.get() * per_metre * (1.0 - outdoors.clamp(0.0, 1.0)))
}

/// What stands about outdoors unsaid and takes of a line that runs so far under the open sky: less by what was told of it.
#[must_use]
pub fn unsaid_loss(length: Metres, told: Db) -> Db {
    Db::new(((length.get() * CLUTTER_OUTDOORS).min(OUTDOORS_MOST) - told.get()).max(0.0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_stands_about_outdoors_counts_as_far_as_nobody_told_it_and_is_bounded() {
        let unsaid = |m: f64, told: f64| unsaid_loss(Metres::new(m), Db::new(told)).get();
        assert!((unsaid(150.0, 0.0) - 18.0).abs() < 1e-9, "some 20 dB over 100 to 200 m");
        assert!((unsaid(2000.0, 0.0) - OUTDOORS_MOST).abs() < 1e-9);
        assert!((unsaid(150.0, 8.0) - 10.0).abs() < 1e-9 && unsaid(150.0, 30.0).abs() < 1e-12);
        let indoors = |mhz: f64| clutter_loss(Metres::new(10.0), 0.0, Megahertz::new(mhz)).get();
        assert!((indoors(2437.0) - 3.0).abs() < 1e-9 && (indoors(5500.0) - 5.5).abs() < 1e-9);
    }
}
