//! Channel numbers against IEEE 802.11 annex E.

use busy_hen_engine::spectrum::block;
use busy_hen_engine::spectrum::channels::{centre, centre_channels};
use busy_hen_home::Band;
use busy_hen_testkit::checks::check;
use busy_hen_units::Megahertz;

#[test]
fn centre_frequencies() {
    for (id, band, channel) in [
        (1, Band::Ghz2_4, 1),
        (2, Band::Ghz2_4, 13),
        (3, Band::Ghz2_4, 14),
        (4, Band::Ghz5, 36),
        (5, Band::Ghz5, 144),
        (6, Band::Ghz5, 165),
        (7, Band::Ghz6, 1),
        (8, Band::Ghz6, 233),
        (9, Band::Ghz6, 2),
        (10, Band::Ghz6, 31),
    ] {
        check(id).assert(centre(band, channel).get());
    }
}

#[test]
fn how_many_channels_6_ghz_has() {
    for (id, width) in [(12, 40.0), (13, 80.0), (14, 160.0), (15, 320.0)] {
        check(id).assert(centre_channels(Band::Ghz6, Megahertz::new(width)).len() as f64);
    }
    let narrow = centre_channels(Band::Ghz6, Megahertz::new(20.0));
    check(11).assert(narrow.iter().filter(|channel| **channel != 2).count() as f64);
}

#[test]
fn which_block_holds_a_primary() {
    let centre_of = |primary, width| block(Band::Ghz5, primary, Megahertz::new(width)).unwrap().centre_channel;
    check(16).assert(f64::from(centre_of(44, 80.0)));
    check(17).assert(f64::from(centre_of(108, 160.0)));
}
