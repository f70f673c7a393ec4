//! Aerials: how much more or less than a built-in one they give in a direction.

use busy_hen_home::Aerial;
use busy_hen_units::{Db, Degrees};

use busy_hen_floorplan::Point;

/// Mean gain that the catalogue already counts for a device's own aerials, dBi.
pub const COUNTED: Db = Db::new(2.0);
/// Part of the power that indoor scatter spreads evenly whatever the pattern (engineering estimate): it fills the nulls.
const SPREAD_EVENLY: f64 = 0.2;
/// Most that a sector's pattern takes away behind and beside, dB (3GPP TR 38.901, Table 7.3-1).
const SECTOR_FLOOR: f64 = 30.0;

/// Exponent of an upright rod's pattern `|cos el|^n` with this gain over all directions: solves `10^(G/10) = 2 / I(n + 1)`, with
/// `I(m)` the integral of `cos^m` over elevation.
///
/// # Source
/// Textbook directivity of a pattern of revolution; a half-wave dipole's 2.15 dBi gives n = 2.70.
#[must_use]
pub fn rod_exponent(gain: Db) -> f64 {
    let wanted = 2.0 / gain.ratio();
    let (mut low, mut high) = (0.0f64, 1000.0f64);
    for _ in 0..80 {
        let middle = f64::midpoint(low, high);
        if cosine_integral(middle + 1.0) > wanted {
            low = middle;
        } else {
            high = middle;
        }
    }
    f64::midpoint(low, high)
}

/// `sqrt(pi) Gamma((m+1)/2) / Gamma(m/2 + 1)`.
fn cosine_integral(m: f64) -> f64 {
    std::f64::consts::PI.sqrt() * (libm::lgamma(f64::midpoint(m, 1.0)) - libm::lgamma(m / 2.0 + 1.0)).exp()
}

/// Width between the half-power points of a rod's pattern in elevation: `2 acos(0.5^(1/n))`.
#[must_use]
pub fn rod_width(gain: Db) -> Degrees {
    Degrees::new(2.0 * 0.5f64.powf(1.0 / rod_exponent(gain)).acos().to_degrees())
}

/// Gain of an upright rod at this elevation, nulls filled by indoor scatter.
#[must_use]
pub fn rod_gain(gain: Db, elevation: Degrees) -> Db {
    filled(gain.ratio() * elevation.get().to_radians().cos().abs().powf(rod_exponent(gain)))
}

fn filled(pattern: f64) -> Db {
    Db::of_ratio((1.0 - SPREAD_EVENLY) * pattern + SPREAD_EVENLY)
}

/// Fall of a sector's pattern this far off its axis, across and up or down; negative or zero.
///
/// # Source
/// 3GPP TR 38.901, Table 7.3-1.
#[must_use]
pub fn sector_fall(across: Degrees, up: Degrees, width: Degrees, height: Degrees) -> Db {
    let part = |off: Degrees, whole: Degrees| (12.0 * (off.get() / whole.get()).powi(2)).min(SECTOR_FLOOR);
    Db::new(-(part(across, width) + part(up, height)).min(SECTOR_FLOOR))
}

/// Gain in the direction it is meant for, dBi.
#[must_use]
pub fn peak_gain(aerial: &Aerial) -> Db {
    match aerial {
        Aerial::BuiltIn => COUNTED,
        Aerial::Rods { gain_dbi, .. } | Aerial::Sector { gain_dbi, .. } => *gain_dbi,
    }
}

/// An aerial that has been worked out, ready to be asked for many directions.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pattern {
    aerial: Aerial,
    exponent: f64,
}

impl Pattern {
    /// The pattern of an aerial.
    #[must_use]
    pub fn new(aerial: &Aerial) -> Self {
        let exponent = if let Aerial::Rods { gain_dbi, .. } = aerial { rod_exponent(*gain_dbi) } else { 0.0 };
        Self { aerial: *aerial, exponent }
    }

    /// What it gives from one place towards another, beyond the mean that the catalogue counts.
    ///
    /// A rod that leans sends least where it points: `sin el' = sin el cos lean + cos el sin lean cos(towards)`.
    #[must_use]
    pub fn beyond_counted(&self, from: Point, to: Point) -> Db {
        let (dx, dy, dz) = (to.x - from.x, to.y - from.y, to.z - from.z);
        let flat = dx.hypot(dy);
        let length = flat.hypot(dz).max(1e-9);
        // Clockwise from north: y grows to the south.
        let azimuth = dx.atan2(-dy).to_degrees();
        match &self.aerial {
            Aerial::BuiltIn => Db::new(0.0),
            Aerial::Rods { gain_dbi, lean, towards } => {
                let (sin_lean, cos_lean) = lean.get().to_radians().sin_cos();
                let turned = (azimuth - towards.get()).to_radians().cos();
                let sine = (dz / length * cos_lean + flat / length * sin_lean * turned).clamp(-1.0, 1.0);
                let cosine = (1.0 - sine * sine).sqrt();
                filled(gain_dbi.ratio() * cosine.powf(self.exponent)) - COUNTED
            }
            Aerial::Sector { gain_dbi, width, height, towards } => {
                let mut across = (azimuth - towards.get()).rem_euclid(360.0);
                if across > 180.0 {
                    across = 360.0 - across;
                }
                let up = Degrees::new(dz.atan2(flat).to_degrees());
                let fall = sector_fall(Degrees::new(across), up, *width, *height);
                filled((*gain_dbi + fall).ratio()) - COUNTED
            }
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn place(x: f64, y: f64, z: f64) -> Point {
        Point { x, y, z }
    }

    fn rods(gain: f64, lean: f64, towards: f64) -> Pattern {
        let [lean, towards] = [lean, towards].map(Degrees::new);
        Pattern::new(&Aerial::Rods { gain_dbi: Db::new(gain), lean, towards })
    }

    #[test]
    fn a_built_in_aerial_is_what_the_catalogue_counts() {
        let own = Pattern::new(&Aerial::BuiltIn);
        assert!(own.beyond_counted(place(0.0, 0.0, 0.0), place(1.0, 2.0, 3.0)).get().abs() < 1e-12);
    }

    #[test]
    fn an_upright_rod_of_high_gain_gives_to_its_storey_and_takes_from_the_others() {
        let (flat, high) = (place(5.0, 0.0, 0.0), place(1.0, 0.0, 5.0));
        let origin = place(0.0, 0.0, 0.0);
        let (low_gain, high_gain) = (rods(2.15, 0.0, 0.0), rods(9.0, 0.0, 0.0));
        assert!(high_gain.beyond_counted(origin, flat) > low_gain.beyond_counted(origin, flat));
        assert!(high_gain.beyond_counted(origin, high) < low_gain.beyond_counted(origin, high));
    }

    #[test]
    fn a_rod_that_lies_down_serves_above_and_starves_where_it_points() {
        let origin = place(0.0, 0.0, 0.0);
        let lying = rods(5.0, 90.0, 90.0);
        let (above, east, north) = (place(0.0, 0.0, 3.0), place(3.0, 0.0, 0.0), place(0.0, -3.0, 0.0));
        assert!(lying.beyond_counted(origin, above) > lying.beyond_counted(origin, east));
        assert!(lying.beyond_counted(origin, north) > lying.beyond_counted(origin, east));
    }

    #[test]
    fn a_sector_gives_ahead_and_takes_from_behind() {
        let panel = Pattern::new(&Aerial::Sector {
            gain_dbi: Db::new(8.0),
            width: Degrees::new(65.0),
            height: Degrees::new(65.0),
            towards: Degrees::new(180.0),
        });
        let origin = place(0.0, 0.0, 0.0);
        let (south, north) = (place(0.0, 10.0, 0.0), place(0.0, -10.0, 0.0));
        assert!(panel.beyond_counted(origin, south).get() > 5.0);
        assert!(panel.beyond_counted(origin, north).get() < -8.0);
    }
}
