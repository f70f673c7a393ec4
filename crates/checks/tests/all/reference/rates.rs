//! PHY rates against the rate tables of IEEE 802.11 (clauses 19.5, 21.5, 27.5, 36.5).

use busy_hen_catalogue::phy::Standard;
use busy_hen_catalogue::phy::rate::phy_rate;
use busy_hen_home::Generation::{self, Ac, Ax, Be, N};
use busy_hen_testkit::checks::{Check, all, check};
use busy_hen_units::{Megahertz, Micros};
use serde::Deserialize;

fn rate(generation: Generation, width: f64, streams: u8, mcs: u8, guard: f64) -> f64 {
    phy_rate(generation, Megahertz::new(width), streams, mcs, Micros::new(guard)).unwrap().get()
}

/// Generation and width of a name such as `VHT80`.
fn named(word: &str) -> (Generation, f64) {
    let digits = word.find(|c: char| c.is_ascii_digit()).unwrap();
    let generation = match &word[..digits] {
        "HT" => N,
        "VHT" => Ac,
        "HE" => Ax,
        "EHT" => Be,
        other => panic!("generation {other}"),
    };
    (generation, word[digits..].parse().unwrap())
}

/// Inputs read as in "HE80 2SS MCS11 GI 0.8 us".
#[test]
fn rates_of_the_tables() {
    let rates: Vec<Check> = all().into_iter().filter(|check| check.quantity == "PHY rate").collect();
    assert!(rates.len() >= 40, "{}", rates.len());
    for check in rates {
        let words: Vec<&str> = check.inputs.split(' ').collect();
        let (generation, width) = named(words[0]);
        let number = |word: &str| word.trim_matches(|c: char| c.is_ascii_alphabetic()).parse().unwrap();
        check.assert(rate(generation, width, number(words[1]), number(words[2]), words[4].parse().unwrap()));
    }
}

#[test]
fn combinations_the_standard_leaves_out() {
    let exists = |streams, width, mcs| f64::from(u8::from(Ac.allows(Megahertz::new(width), streams, mcs)));
    check(37).assert(exists(1, 20.0, 9));
    check(38).assert(exists(3, 20.0, 9));
    check(39).assert(exists(3, 80.0, 6));
}

#[derive(Deserialize)]
struct Row {
    r#gen: String,
    bw_mhz: f64,
    nss: u8,
    mcs: u8,
    gi_us: f64,
    phy_mbps: f64,
    valid: u8,
}

/// Every line of the standard's tables for 1 to 4 streams, as tabulated in `mcs.csv`.
#[test]
fn the_whole_table() {
    let mut lines = 0;
    for row in csv::Reader::from_reader(include_str!("../../../../testkit/data/mcs.csv").as_bytes()).deserialize() {
        let row: Row = row.unwrap();
        let (generation, _) = named(&format!("{}{}", row.r#gen, row.bw_mhz));
        let got = phy_rate(generation, Megahertz::new(row.bw_mhz), row.nss, row.mcs, Micros::new(row.gi_us));
        assert_eq!(got.is_some(), row.valid == 1, "{} {} MHz {} ss MCS {}", row.r#gen, row.bw_mhz, row.nss, row.mcs);
        if let Some(rate) = got {
            assert!((rate.get() - row.phy_mbps).abs() <= 0.051, "{rate} is not {}", row.phy_mbps);
        }
        lines += 1;
    }
    assert!(lines > 1000, "{lines} lines");
}
