//! PHY rates against the rate tables of IEEE 802.11 (clauses 19.5, 21.5, 27.5, 36.5).

use busy_hen_engine::phy::Generation::{self, Ac, Ax, Be, N};
use busy_hen_engine::phy::rate::phy_rate;
use busy_hen_testkit::checks::check;
use busy_hen_units::{Megahertz, Micros};
use serde::Deserialize;

fn rate(generation: Generation, width: f64, streams: u8, mcs: u8, guard: f64) -> f64 {
    phy_rate(generation, Megahertz::new(width), streams, mcs, Micros::new(guard)).unwrap().get()
}

#[test]
fn rates_of_the_tables() {
    for (id, generation, width, streams, mcs, guard) in [
        (18, N, 20.0, 1, 7, 0.4),
        (19, N, 20.0, 1, 7, 0.8),
        (20, N, 20.0, 2, 7, 0.4),
        (21, N, 40.0, 2, 7, 0.4),
        (22, Ac, 20.0, 1, 8, 0.4),
        (23, Ac, 80.0, 1, 9, 0.4),
        (24, Ac, 80.0, 2, 9, 0.4),
        (25, Ac, 80.0, 2, 4, 0.8),
        (26, Ac, 160.0, 2, 9, 0.4),
        (27, Ax, 20.0, 1, 0, 0.8),
        (28, Ax, 20.0, 2, 11, 0.8),
        (29, Ax, 80.0, 1, 11, 0.8),
        (30, Ax, 80.0, 2, 11, 0.8),
        (31, Ax, 80.0, 2, 11, 3.2),
        (32, Ax, 160.0, 2, 11, 0.8),
        (33, Ax, 160.0, 4, 11, 0.8),
        (34, Be, 160.0, 2, 13, 0.8),
        (35, Be, 320.0, 2, 13, 0.8),
        (36, Be, 320.0, 1, 13, 0.8),
    ] {
        check(id).assert(rate(generation, width, streams, mcs, guard));
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
    for row in csv::Reader::from_reader(include_str!("../../../testkit/data/mcs.csv").as_bytes()).deserialize() {
        let row: Row = row.unwrap();
        let generation = match row.r#gen.as_str() {
            "HT" => N,
            "VHT" => Ac,
            "HE" => Ax,
            "EHT" => Be,
            other => panic!("generation {other}"),
        };
        let got = phy_rate(generation, Megahertz::new(row.bw_mhz), row.nss, row.mcs, Micros::new(row.gi_us));
        assert_eq!(got.is_some(), row.valid == 1, "{} {} MHz {} ss MCS {}", row.r#gen, row.bw_mhz, row.nss, row.mcs);
        if let Some(rate) = got {
            assert!((rate.get() - row.phy_mbps).abs() <= 0.051, "{rate} is not {}", row.phy_mbps);
        }
        lines += 1;
    }
    assert!(lines > 1000, "{lines} lines");
}
