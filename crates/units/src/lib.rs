//! Quantities of the job, one newtype a unit, so that a metre is never taken for a decibel.
//!
//! Only operators that mean something exist: a level in dBm plus a gain in dB is a level; two levels differ by decibels;
//! powers add as milliwatts. Any number is a legal quantity: ranges are checked by the function or type that needs them.
//! This crate must never hold a formula of the job; those live in the crates above it.
//!
//! ```
//! use busy_hen_units::{Db, Dbm};
//! assert_eq!(Dbm::new(-60.0) + Db::new(3.0), Dbm::new(-57.0));
//! assert_eq!(Dbm::new(-60.0) - Dbm::new(-70.0), Db::new(10.0));
//! ```
//!
//! Levels do not add:
//!
//! ```compile_fail
//! use busy_hen_units::Dbm;
//! let _ = Dbm::new(-60.0) + Dbm::new(-60.0);
//! ```

pub mod typed;
pub mod words;

use std::fmt;
use std::ops::{Add, AddAssign, Mul, Neg, Sub};

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

macro_rules! quantity {
    ($(#[$doc:meta])* $name:ident, $symbol:literal) => {
        $(#[$doc])*
        #[derive(Debug, Clone, Copy, PartialEq, PartialOrd, Default, Serialize, Deserialize, ToSchema)]
        #[serde(transparent)]
        pub struct $name(f64);

        impl $name {
            /// The quantity of this size.
            #[must_use]
            pub const fn new(value: f64) -> Self {
                Self(value)
            }

            /// The bare number, in the unit the type is named for.
            #[must_use]
            pub const fn get(self) -> f64 {
                self.0
            }

            /// The smaller of the two.
            #[must_use]
            pub fn min(self, other: Self) -> Self {
                Self(self.0.min(other.0))
            }

            /// The larger of the two.
            #[must_use]
            pub fn max(self, other: Self) -> Self {
                Self(self.0.max(other.0))
            }

            /// Whether the number is neither infinite nor NaN.
            #[must_use]
            pub fn is_finite(self) -> bool {
                self.0.is_finite()
            }
        }

        impl fmt::Display for $name {
            fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
                match f.precision() {
                    Some(digits) => write!(f, "{:.*} {}", digits, self.0, $symbol),
                    None => write!(f, "{} {}", self.0, $symbol),
                }
            }
        }
    };
}

macro_rules! additive {
    ($name:ident) => {
        impl Add for $name {
            type Output = Self;
            fn add(self, other: Self) -> Self {
                Self(self.0 + other.0)
            }
        }
        impl AddAssign for $name {
            fn add_assign(&mut self, other: Self) {
                self.0 += other.0;
            }
        }
        impl Sub for $name {
            type Output = Self;
            fn sub(self, other: Self) -> Self {
                Self(self.0 - other.0)
            }
        }
        impl Mul<f64> for $name {
            type Output = Self;
            fn mul(self, factor: f64) -> Self {
                Self(self.0 * factor)
            }
        }
        impl std::iter::Sum for $name {
            fn sum<I: Iterator<Item = Self>>(items: I) -> Self {
                items.fold(Self(0.0), Add::add)
            }
        }
    };
}

quantity!(
    /// A power level relative to one milliwatt, dBm.
    Dbm,
    "dBm"
);
quantity!(
    /// A ratio of powers, dB; a loss is positive.
    Db,
    "dB"
);
quantity!(
    /// An electrical power, W.
    Watts,
    "W"
);
quantity!(
    /// A voltage, V.
    Volts,
    "V"
);
quantity!(
    /// A power, mW.
    Milliwatts,
    "mW"
);
quantity!(
    /// A frequency or a bandwidth, MHz.
    Megahertz,
    "MHz"
);
quantity!(
    /// A length, m.
    Metres,
    "m"
);
quantity!(
    /// An area, m².
    SquareMetres,
    "m²"
);
quantity!(
    /// A data rate, Mb/s: a million bits (not bytes) a second.
    MbitPerSec,
    "Mb/s"
);
quantity!(
    /// A span of time, ms.
    Millis,
    "ms"
);
quantity!(
    /// A span of time, µs.
    Micros,
    "µs"
);
quantity!(
    /// An angle, degrees.
    Degrees,
    "°"
);

additive!(Db);
additive!(Milliwatts);
additive!(Megahertz);
additive!(Metres);
additive!(SquareMetres);
additive!(MbitPerSec);
additive!(Millis);
additive!(Micros);
additive!(Degrees);
additive!(Watts);

impl Add<Db> for Dbm {
    type Output = Self;
    fn add(self, gain: Db) -> Self {
        Self(self.0 + gain.0)
    }
}

impl Sub<Db> for Dbm {
    type Output = Self;
    fn sub(self, loss: Db) -> Self {
        Self(self.0 - loss.0)
    }
}

impl Sub for Dbm {
    type Output = Db;
    fn sub(self, other: Self) -> Db {
        Db(self.0 - other.0)
    }
}

impl Neg for Db {
    type Output = Self;
    fn neg(self) -> Self {
        Self(-self.0)
    }
}

impl Db {
    /// The ratio of powers this many decibels stand for: 10^(dB/10).
    #[must_use]
    pub fn ratio(self) -> f64 {
        10f64.powf(self.0 / 10.0)
    }

    /// The decibels of a ratio of powers: 10 log10(ratio). A ratio of 0 gives -inf.
    #[must_use]
    pub fn of_ratio(ratio: f64) -> Self {
        Self(10.0 * ratio.log10())
    }
}

impl From<Dbm> for Milliwatts {
    fn from(level: Dbm) -> Self {
        Self(10f64.powf(level.0 / 10.0))
    }
}

impl From<Milliwatts> for Dbm {
    fn from(power: Milliwatts) -> Self {
        Self(10.0 * power.0.log10())
    }
}

impl Metres {
    /// Metres in one international foot, exact by definition (international yard and pound agreement, 1959).
    pub const PER_FOOT: f64 = 0.3048;

    /// The length of so many feet.
    #[must_use]
    pub fn from_feet(feet: f64) -> Self {
        Self(feet * Self::PER_FOOT)
    }

    /// The length in feet.
    #[must_use]
    pub fn feet(self) -> f64 {
        self.0 / Self::PER_FOOT
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn equal_powers_add_to_three_decibels_more() {
        let level = Dbm::new(-60.0);
        let sum: Dbm = (Milliwatts::from(level) + Milliwatts::from(level)).into();
        assert!((sum.get() - -56.99).abs() < 0.01);
    }

    #[test]
    fn a_foot_is_0_3048_m() {
        assert!((Metres::from_feet(10.0).get() - 3.048).abs() < 1e-12);
        assert!((Metres::new(3.048).feet() - 10.0).abs() < 1e-12);
    }

    #[test]
    fn ratios_round_trip() {
        assert!((Db::of_ratio(Db::new(-7.5).ratio()).get() - -7.5).abs() < 1e-12);
    }

    #[test]
    fn a_quantity_is_a_bare_number_in_json() {
        let text = serde_json::to_string(&Metres::new(4.2)).unwrap();
        assert_eq!(text, "4.2");
        assert_eq!(serde_json::from_str::<Metres>("4.2").unwrap(), Metres::new(4.2));
        assert!(serde_json::from_str::<Metres>("\"4.2\"").is_err());
    }

    #[test]
    fn a_quantity_that_is_no_number_becomes_null_so_absence_must_be_an_option() {
        assert_eq!(serde_json::to_string(&Dbm::new(f64::NEG_INFINITY)).unwrap(), "null");
    }

    #[test]
    fn quantities_show_their_symbol() {
        assert_eq!(format!("{:.1}", Dbm::new(-61.25)), "-61.2 dBm");
        assert_eq!(format!("{:.0}", MbitPerSec::new(941.5)), "942 Mb/s");
    }
}
