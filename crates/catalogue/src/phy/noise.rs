//! Thermal noise.

use busy_hen_units::{Db, Dbm, Megahertz};

/// Noise a receiver hears of its own: -174 dBm/Hz over the width, plus its noise figure.
///
/// # Source
/// k T0 B at 290 K: -174 dBm/Hz (ITU-R P.372, thermal noise at the reference temperature).
#[must_use]
pub fn thermal_noise(width: Megahertz, noise_figure: Db) -> Dbm {
    Dbm::new(-174.0 + 10.0 * (width.get() * 1e6).log10()) + noise_figure
}
