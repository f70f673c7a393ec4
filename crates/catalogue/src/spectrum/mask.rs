//! How much of a neighbour's power falls into our channel.

use busy_hen_units::{Db, Megahertz};

use super::channels::Block;

/// Transmit mask of a 20 MHz channel: offset from its centre in MHz, level in dBr, linear in dB between.
///
/// # Source
/// IEEE 802.11, HT spectral mask for 20 MHz (clause 19): 0 dBr to 9 MHz, -20 at 11, -28 at 20, -45 from 30 on at 2.4 GHz.
const MASK: [(f64, f64); 4] = [(9.0, 0.0), (11.0, -20.0), (20.0, -28.0), (30.0, -45.0)];
/// Width that the mask is for; wider channels have it stretched.
const MASK_WIDTH: f64 = 20.0;
/// An ideal receiver takes in this part of its width to either side.
const RECEIVER_HALF: f64 = 0.45;
/// Steps over which power is summed.
const STEPS: u32 = 720;

fn level(offset: f64) -> f64 {
    let offset = offset.abs();
    let after = MASK.iter().position(|(edge, _)| offset <= *edge);
    match after {
        Some(0) => 0.0,
        Some(i) => {
            let ((f0, l0), (f1, l1)) = (MASK[i - 1], MASK[i]);
            l0 + (l1 - l0) * (offset - f0) / (f1 - f0)
        }
        None => MASK[MASK.len() - 1].1,
    }
}

/// Power that a sender of this width, its mask stretched, puts between two offsets from its centre.
fn power(width: Megahertz, from: f64, to: f64) -> f64 {
    let step = (to - from) / f64::from(STEPS);
    (0..STEPS)
        .map(|index| from + (f64::from(index) + 0.5) * step)
        .map(|offset| 10f64.powf(level(offset * MASK_WIDTH / width.get()) / 10.0) * step)
        .sum()
}

/// Part of a neighbour's power that falls into our channel: 0 dB when all of it does.
#[must_use]
pub fn overlap(own: &Block, other: &Block) -> Db {
    if own.band != other.band {
        return Db::new(f64::NEG_INFINITY);
    }
    let apart = own.centre.get() - other.centre.get();
    let half = RECEIVER_HALF * own.width.get();
    let whole = RECEIVER_HALF * other.width.get();
    let caught = power(other.width, apart - half, apart + half);
    Db::of_ratio((caught / power(other.width, -whole, whole)).min(1.0))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spectrum::block;
    use busy_hen_home::Band;

    fn at(channel: u16, width: f64) -> Block {
        block(Band::Ghz5, channel, Megahertz::new(width)).unwrap()
    }

    #[test]
    fn a_narrow_neighbour_falls_into_a_wide_channel_whole_and_a_wide_one_in_part() {
        assert!(overlap(&at(36, 80.0), &at(40, 20.0)).get().abs() < 0.1);
        assert!((overlap(&at(40, 20.0), &at(36, 80.0)).get() + 6.0).abs() < 0.1);
        assert!(overlap(&at(36, 80.0), &at(149, 80.0)).get() < -40.0);
    }
}
