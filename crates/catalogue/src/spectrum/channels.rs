//! Channel numbers, their centres, and the blocks that wide channels bond.

use busy_hen_home::Band;
use busy_hen_units::Megahertz;

/// Widths a channel may have.
pub const WIDTHS: [Megahertz; 5] =
    [Megahertz::new(20.0), Megahertz::new(40.0), Megahertz::new(80.0), Megahertz::new(160.0), Megahertz::new(320.0)];

/// Centre channels of 40 MHz blocks at 5 GHz (IEEE 802.11 annex E).
const FIVE_40: &[u16] = &[38, 46, 54, 62, 102, 110, 118, 126, 134, 142, 151, 159, 167, 175];
/// Centre channels of 80 MHz blocks at 5 GHz (IEEE 802.11 annex E).
const FIVE_80: &[u16] = &[42, 58, 106, 122, 138, 155, 171];
/// Centre channels of 160 MHz blocks at 5 GHz (IEEE 802.11 annex E).
const FIVE_160: &[u16] = &[50, 114, 163];
/// Centre channels of 320 MHz blocks at 6 GHz, both rasters (IEEE 802.11be annex E).
const SIX_320: &[u16] = &[31, 63, 95, 127, 159, 191];

/// Channels of 2.4 GHz that do not overlap: common practice.
pub const THREE: [u16; 3] = [1, 6, 11];

/// A piece of spectrum that a radio occupies.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Block {
    /// Its band.
    pub band: Band,
    /// Number of its centre channel.
    pub centre_channel: u16,
    /// Its centre.
    pub centre: Megahertz,
    /// Its width.
    pub width: Megahertz,
}

impl Block {
    /// Its lower edge.
    #[must_use]
    pub fn low(&self) -> Megahertz {
        self.centre - self.width * 0.5
    }

    /// Its upper edge.
    #[must_use]
    pub fn high(&self) -> Megahertz {
        self.centre + self.width * 0.5
    }

    /// Whether the two share spectrum.
    #[must_use]
    pub fn overlaps(&self, other: &Self) -> bool {
        self.low() < other.high() && other.low() < self.high()
    }
}

/// The band that a frequency lies in.
#[must_use]
pub fn band_of(frequency: Megahertz) -> Band {
    match frequency.get() {
        f if f < 3000.0 => Band::Ghz2_4,
        f if f < 5925.0 => Band::Ghz5,
        _ => Band::Ghz6,
    }
}

/// Centre of a channel number: 2407 + 5n (14: 2484), 5000 + 5n, 5950 + 5n (2: 5935) MHz.
///
/// # Source
/// IEEE 802.11 annex E; 6 GHz channel 2 is operating class 136.
#[must_use]
pub fn centre(band: Band, channel: u16) -> Megahertz {
    let n = f64::from(channel);
    Megahertz::new(match (band, channel) {
        (Band::Ghz2_4, 14) => 2484.0,
        (Band::Ghz2_4, _) => 2407.0 + 5.0 * n,
        (Band::Ghz5, _) => 5000.0 + 5.0 * n,
        (Band::Ghz6, 2) => 5935.0,
        (Band::Ghz6, _) => 5950.0 + 5.0 * n,
    })
}

/// All 20 MHz channels of a band, whatever the country.
#[must_use]
pub fn primaries(band: Band) -> Vec<u16> {
    match band {
        Band::Ghz2_4 => (1..=14).collect(),
        Band::Ghz5 => (36..=64).step_by(4).chain((100..=144).step_by(4)).chain((149..=177).step_by(4)).collect(),
        Band::Ghz6 => std::iter::once(2).chain((0..59).map(|k| 1 + 4 * k)).collect(),
    }
}

/// Centre channels of all blocks of this width.
#[must_use]
pub fn centre_channels(band: Band, width: Megahertz) -> Vec<u16> {
    let step = width.get().round() as u16;
    match (band, step) {
        (_, 20) => primaries(band),
        (Band::Ghz2_4, 40) => (3..=11).collect(),
        (Band::Ghz5, 40) => FIVE_40.to_vec(),
        (Band::Ghz5, 80) => FIVE_80.to_vec(),
        (Band::Ghz5, 160) => FIVE_160.to_vec(),
        (Band::Ghz6, 40) => (0..29).map(|k| 3 + 8 * k).collect(),
        (Band::Ghz6, 80) => (0..14).map(|k| 7 + 16 * k).collect(),
        (Band::Ghz6, 160) => (0..7).map(|k| 15 + 32 * k).collect(),
        (Band::Ghz6, 320) => SIX_320.to_vec(),
        _ => Vec::new(),
    }
}

/// The block of this width that holds this primary channel; none when there is no such block.
///
/// At 2.4 GHz a 40 MHz block lies two channels above its primary where that fits, else below. Of the two 320 MHz rasters the
/// first that holds the primary is taken.
///
/// # Source
/// IEEE 802.11 annex E: the 20 MHz members of a block have centres f_c - B/2 + 10 + 20k.
#[must_use]
pub fn block(band: Band, primary: u16, width: Megahertz) -> Option<Block> {
    if !primaries(band).contains(&primary) {
        return None;
    }
    let inside = |channel: u16| {
        if band == Band::Ghz2_4 && width.get() > 20.0 {
            channel == if primary <= 9 { primary + 2 } else { primary - 2 }
        } else {
            let offset = (centre(band, channel) - centre(band, primary)).get();
            offset.abs() <= width.get() / 2.0 - 10.0
        }
    };
    centre_channels(band, width).into_iter().find(|channel| inside(*channel)).map(|centre_channel| Block {
        band,
        centre_channel,
        centre: centre(band, centre_channel),
        width,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_wide_channel_at_2_4_ghz_leans_away_from_the_edge() {
        assert_eq!(block(Band::Ghz2_4, 1, WIDTHS[1]).unwrap().centre_channel, 3);
        assert_eq!(block(Band::Ghz2_4, 13, WIDTHS[1]).unwrap().centre_channel, 11);
    }

    #[test]
    fn there_is_no_block_where_the_standard_has_none() {
        assert!(block(Band::Ghz5, 165, WIDTHS[3]).is_some(), "165 lies in the block at 163");
        assert!(block(Band::Ghz5, 144, WIDTHS[3]).is_none());
        assert!(block(Band::Ghz2_4, 6, WIDTHS[2]).is_none());
        assert!(block(Band::Ghz5, 37, WIDTHS[0]).is_none());
        assert!(block(Band::Ghz5, 36, WIDTHS[4]).is_none());
    }

    #[test]
    fn every_primary_lies_inside_its_block() {
        for band in [Band::Ghz5, Band::Ghz6] {
            for width in WIDTHS {
                for primary in primaries(band) {
                    let Some(block) = block(band, primary, width) else { continue };
                    let centre = centre(band, primary);
                    assert!(block.low() < centre && centre < block.high(), "{band} {primary} {width}");
                }
            }
        }
    }

    #[test]
    fn neighbours_in_the_raster_do_not_overlap() {
        let at = |primary| block(Band::Ghz5, primary, WIDTHS[2]).unwrap();
        assert!(!at(36).overlaps(&at(52)));
        assert!(at(36).overlaps(&block(Band::Ghz5, 52, WIDTHS[3]).unwrap()));
    }
}
