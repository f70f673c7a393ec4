//! PHY rates by the standard's formula.

use busy_hen_home::Generation;
use busy_hen_units::{MbitPerSec, Megahertz, Micros};

/// Modulation and coding scheme, 0 to 13, counted per stream.
pub type Mcs = u8;

/// Bits a subcarrier carries, by MCS (BPSK 1, QPSK 2 ... 4096-QAM 12).
const BITS: [f64; 14] = [1.0, 2.0, 2.0, 4.0, 4.0, 6.0, 6.0, 6.0, 8.0, 8.0, 10.0, 10.0, 12.0, 12.0];
/// Coding rate, by MCS.
const CODING: [f64; 14] = [
    1.0 / 2.0,
    1.0 / 2.0,
    3.0 / 4.0,
    1.0 / 2.0,
    3.0 / 4.0,
    2.0 / 3.0,
    3.0 / 4.0,
    5.0 / 6.0,
    3.0 / 4.0,
    5.0 / 6.0,
    3.0 / 4.0,
    5.0 / 6.0,
    3.0 / 4.0,
    5.0 / 6.0,
];

/// What the standard says of each generation.
pub trait Standard: Copy {
    /// Highest MCS (IEEE 802.11 clauses 19, 21, 27 and 36).
    fn highest_mcs(self) -> Mcs;
    /// Guard interval the model takes: the short one of n and ac, the shortest of ax and be.
    fn usual_guard(self) -> Micros;
    /// Length of a symbol without its guard interval.
    fn symbol(self) -> Micros;
    /// Data subcarriers at this width; none where the generation has no such width.
    fn data_subcarriers(self, width: Megahertz) -> Option<f64>;
    /// Whether the standard has this combination; ac leaves some out where coded bits do not divide.
    fn allows(self, width: Megahertz, streams: u8, mcs: Mcs) -> bool;
}

impl Standard for Generation {
    fn highest_mcs(self) -> Mcs {
        match self {
            Self::N => 7,
            Self::Ac => 9,
            Self::Ax => 11,
            Self::Be => 13,
        }
    }

    fn usual_guard(self) -> Micros {
        Micros::new(if self <= Self::Ac { 0.4 } else { 0.8 })
    }

    fn symbol(self) -> Micros {
        Micros::new(if self <= Self::Ac { 3.2 } else { 12.8 })
    }

    fn data_subcarriers(self, width: Megahertz) -> Option<f64> {
        let width = width.get().round() as u32;
        let (narrow, wide): (&[f64], _) = match self {
            Self::N => (&[52.0, 108.0], None),
            Self::Ac => (&[52.0, 108.0, 234.0, 468.0], None),
            Self::Ax => (&[234.0, 468.0, 980.0, 1960.0], None),
            Self::Be => (&[234.0, 468.0, 980.0, 1960.0], Some(3920.0)),
        };
        match width {
            20 => narrow.first().copied(),
            40 => narrow.get(1).copied(),
            80 => narrow.get(2).copied(),
            160 => narrow.get(3).copied(),
            320 => wide,
            _ => None,
        }
    }

    fn allows(self, width: Megahertz, streams: u8, mcs: Mcs) -> bool {
        if mcs > self.highest_mcs() || streams == 0 || self.data_subcarriers(width).is_none() {
            return false;
        }
        if self != Self::Ac {
            return true;
        }
        match (width.get().round() as u32, mcs) {
            (20, 9) => matches!(streams, 3 | 6),
            (80, 6) => !matches!(streams, 3 | 7),
            (80, 9) => streams != 6,
            (160, 9) => streams != 3,
            _ => true,
        }
    }
}

/// Rate on the air: data subcarriers x bits x coding x streams / (symbol + guard); none where the standard has no such rate.
///
/// # Source
/// IEEE 802.11 clauses 19.5, 21.5, 27.5 and 36.5 (tables of rate-dependent parameters).
#[must_use]
pub fn phy_rate(generation: Generation, width: Megahertz, streams: u8, mcs: Mcs, guard: Micros) -> Option<MbitPerSec> {
    if !generation.allows(width, streams, mcs) {
        return None;
    }
    let subcarriers = generation.data_subcarriers(width)?;
    let bits = subcarriers * BITS[usize::from(mcs)] * CODING[usize::from(mcs)] * f64::from(streams);
    Some(MbitPerSec::new(bits / (generation.symbol() + guard).get()))
}
