//! Loss past an edge: over a garden wall, round the jamb of a door.

use busy_hen_units::{Db, Megahertz, Metres};

/// Below this the edge is out of the way.
const CLEAR: f64 = -0.78;
/// Nearer to an end than this, a place is taken to be so far off, m: the formula holds in the far field of the edge.
const NEAREST: f64 = 0.1;

/// Loss behind a single knife edge: `6.9 + 20 log10(sqrt((nu - 0.1)^2 + 1) + nu - 0.1)`, none below nu = -0.78.
///
/// # Source
/// ITU-R P.526-15, equation (31).
#[must_use]
pub fn knife_edge(nu: f64) -> Db {
    if nu <= CLEAR {
        return Db::new(0.0);
    }
    let shifted = nu - 0.1;
    Db::new(6.9 + 20.0 * ((shifted * shifted + 1.0).sqrt() + shifted).log10())
}

/// How far an edge reaches into a line, as the formula counts it: `nu = h sqrt(2/lambda (1/d1 + 1/d2))`, with `h` the height of
/// the edge over the line (negative when the line passes clear of it).
///
/// # Source
/// ITU-R P.526-15, equation (26).
#[must_use]
pub fn intrusion(height: Metres, before: Metres, after: Metres, frequency: Megahertz) -> f64 {
    let (d1, d2) = (before.get().max(NEAREST), after.get().max(NEAREST));
    height.get() * (2.0 / wavelength(frequency).get() * (1.0 / d1 + 1.0 / d2)).sqrt()
}

/// Wavelength in air: c / f.
#[must_use]
pub fn wavelength(frequency: Megahertz) -> Metres {
    Metres::new(299.792_458 / frequency.get())
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn far_clear_of_an_edge_nothing_is_lost() {
        assert!(knife_edge(-2.0).get().abs() < 1e-12);
        assert!(knife_edge(CLEAR + 1e-9).get().abs() < 0.1, "and the loss begins gently");
    }

    proptest! {
        #[test]
        fn deeper_in_shadow_is_never_brighter(nu in -3.0f64..30.0, more in 0.0f64..5.0) {
            prop_assert!(knife_edge(nu + more) >= knife_edge(nu));
        }
    }
}
