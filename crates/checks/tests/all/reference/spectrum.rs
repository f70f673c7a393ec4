//! Channel numbers against IEEE 802.11 annex E.

use busy_hen_catalogue::spectrum::block;
use busy_hen_catalogue::spectrum::channels::{centre, centre_channels};
use busy_hen_home::Band;
use busy_hen_testkit::checks::{Check, all, check};
use busy_hen_units::Megahertz;

fn band(word: &str) -> Band {
    match word {
        "2.4" => Band::Ghz2_4,
        "5" => Band::Ghz5,
        "6" => Band::Ghz6,
        other => panic!("band {other}"),
    }
}

/// Inputs read as in "band 5 GHz, channel 36".
#[test]
fn centre_frequencies() {
    let checks: Vec<Check> = all().into_iter().filter(|check| check.quantity == "centre frequency").collect();
    assert!(checks.len() >= 20, "{}", checks.len());
    for check in checks {
        let words: Vec<&str> = check.inputs.split([' ', ',']).collect();
        check.assert(centre(band(words[1]), words[5].parse().unwrap()).get());
    }
}

/// Inputs read as in "band 5 GHz, primary 36, 80 MHz".
#[test]
fn centres_of_blocks() {
    let checks: Vec<Check> = all().into_iter().filter(|check| check.quantity == "centre of the block").collect();
    assert!(checks.len() >= 8, "{}", checks.len());
    for check in checks {
        let words: Vec<&str> = check.inputs.split([' ', ',']).filter(|word| !word.is_empty()).collect();
        let width = Megahertz::new(words[5].parse().unwrap());
        check.assert(block(band(words[1]), words[4].parse().unwrap(), width).unwrap().centre.get());
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
