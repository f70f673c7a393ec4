//! How far it is from one place on earth to another, for walks away from a house.

use busy_hen_units::{Degrees, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Mean radius of the earth, m (IUGG, Moritz 2000, "Geodetic Reference System 1980").
const EARTH_M: f64 = 6_371_008.8;

/// A place as a phone tells it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OnEarth {
    /// North of the equator.
    #[schema(minimum = -90.0, maximum = 90.0)]
    pub latitude: Degrees,
    /// East of Greenwich.
    #[schema(minimum = -180.0, maximum = 180.0)]
    pub longitude: Degrees,
}

impl OnEarth {
    /// Whether there is such a place.
    #[must_use]
    pub fn is_sound(&self) -> bool {
        (-90.0..=90.0).contains(&self.latitude.get()) && (-180.0..=180.0).contains(&self.longitude.get())
    }

    /// The way to another place along the ground.
    ///
    /// # Source
    /// Haversine formula (Sinnott 1984, "Virtues of the haversine", Sky and Telescope 68).
    #[must_use]
    pub fn to(&self, other: &Self) -> Metres {
        let [here, there] =
            [self, other].map(|own| (own.latitude.get().to_radians(), own.longitude.get().to_radians()));
        let half = |a: f64, b: f64| ((b - a) / 2.0).sin().powi(2);
        let chord = half(here.0, there.0) + here.0.cos() * there.0.cos() * half(here.1, there.1);
        Metres::new(2.0 * EARTH_M * chord.clamp(0.0, 1.0).sqrt().asin())
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn place(latitude: f64, longitude: f64) -> OnEarth {
        OnEarth { latitude: Degrees::new(latitude), longitude: Degrees::new(longitude) }
    }

    #[test]
    fn a_degree_is_as_long_as_the_radius_says() {
        // A sixtieth of a degree of latitude is a nautical mile, 1852 m, within a thousandth on the mean sphere.
        let mile = place(51.0, 4.0).to(&place(51.0 + 1.0 / 60.0, 4.0)).get();
        assert!((mile / 1852.0 - 1.0).abs() < 0.001, "{mile}");
        let degree = std::f64::consts::PI * EARTH_M / 180.0;
        assert!((place(0.0, 10.0).to(&place(0.0, 11.0)).get() - degree).abs() < 1e-6 * degree);
        assert!(
            (place(60.0, 10.0).to(&place(60.0, 11.0)).get() / degree - 0.5).abs() < 1e-4,
            "half as wide at 60 degrees"
        );
        assert!(place(52.0, 5.0).to(&place(52.0, 5.0)).get().abs() < 1e-9);
        assert!(!place(91.0, 0.0).is_sound() && !place(f64::NAN, 0.0).is_sound());
    }
}
