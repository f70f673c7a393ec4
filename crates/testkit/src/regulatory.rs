//! The open regulatory database as Debian's package `wireless-regdb` installs it; decoded for the tests, never kept.

use std::fmt::Write as _;

use sha2::{Digest, Sha256};

/// Where the package puts it.
const PATH: &str = "/lib/firmware/regulatory.db-debian";
/// The edition that `crates/catalogue/data/regions.csv` was made from: 2026.05.30.
const RECORDED: &str = "2fb33ca0074db573e05ef7dd50bb45b63c0ff98b7e852e1105ebad536fae8e6b";
/// First bytes of the format, and its version.
const HEAD: [u8; 8] = [0x52, 0x47, 0x44, 0x42, 0, 0, 0, 20];

/// The database.
pub struct Database {
    data: Vec<u8>,
    /// Its length, bytes.
    pub length: usize,
    /// Whether it is the edition that the product's table was made from.
    pub is_recorded: bool,
}

/// One rule of a country, frequencies in MHz.
#[derive(Debug, Clone, PartialEq)]
pub struct Rule {
    /// Lower edge.
    pub low: f64,
    /// Upper edge.
    pub high: f64,
    /// Widest channel.
    pub max_width: f64,
    /// Power.
    pub power_dbm: f64,
    /// Not for OFDM.
    pub no_ofdm: bool,
    /// Not outdoors.
    pub no_outdoor: bool,
    /// Shared with radar.
    pub dfs: bool,
    /// May be joined with adjoining rules.
    pub auto_bw: bool,
}

/// The database on this machine.
///
/// # Panics
/// When the package is not installed; `cargo xtask test` installs it.
#[must_use]
pub fn database() -> Database {
    let data = std::fs::read(PATH)
        .unwrap_or_else(|error| panic!("{PATH}: {error}; `cargo xtask test` installs Debian's wireless-regdb"));
    assert_eq!(data[..8], HEAD, "{PATH} is no regulatory database");
    let digest = Sha256::digest(&data).iter().fold(String::new(), |mut text, byte| {
        let _ = write!(text, "{byte:02x}");
        text
    });
    Database { length: data.len(), is_recorded: digest == RECORDED, data }
}

impl Database {
    fn number(&self, at: usize, bytes: usize) -> usize {
        self.data[at..at + bytes].iter().fold(0, |sum, byte| sum << 8 | usize::from(*byte))
    }

    /// Rules of a country in the bands of Wi-Fi at home; none when it is not in the database.
    #[must_use]
    pub fn rules(&self, country: &str) -> Vec<Rule> {
        let mut entry = 8;
        while self.number(entry + 2, 2) != 0 && self.data[entry..entry + 2] != *country.as_bytes() {
            entry += 4;
        }
        let collection = 4 * self.number(entry + 2, 2);
        if collection == 0 {
            return Vec::new();
        }
        let first = collection + self.number(collection, 1).next_multiple_of(2);
        (0..self.number(collection + 1, 1))
            .map(|index| self.rule(4 * self.number(first + 2 * index, 2)))
            .filter(|rule| rule.low > 2300.0 && rule.low < 7200.0)
            .collect()
    }

    fn rule(&self, at: usize) -> Rule {
        let flags = self.number(at + 1, 1);
        let megahertz = |offset| self.number(at + offset, 4) as f64 / 1000.0;
        Rule {
            low: megahertz(4),
            high: megahertz(8),
            max_width: megahertz(12),
            power_dbm: self.number(at + 2, 2) as f64 / 100.0,
            no_ofdm: flags & 1 != 0,
            no_outdoor: flags & 2 != 0,
            dfs: flags & 4 != 0,
            auto_bw: flags & 16 != 0,
        }
    }
}
