//! What each country allows: legal blocks, radar rules, power.

use std::sync::OnceLock;

use busy_hen_home::Band;
use busy_hen_units::typed::Style;
use busy_hen_units::{Dbm, Megahertz};
use serde::Deserialize;

use super::channels::Block;

/// Gain of the aerial that comes on top of a conducted limit, dBi (47 CFR 15.247(b)(4), 15.407(a): up to 6 dBi).
const CONDUCTED_AERIAL_DBI: f64 = 6.0;

/// Countries that the table of limits holds, with their names and how they write numbers (Unicode CLDR 48, number symbols of each
/// country's likely language).
const NAMES: &[(&str, &str, Style)] = &[
    ("GB", "United Kingdom", Style::POINT),
    ("US", "United States", Style::POINT),
    ("CA", "Canada", Style::POINT),
    ("DE", "Germany", Style::COMMA),
    ("FR", "France", Style::SPACED),
    ("AU", "Australia", Style::POINT),
    ("NZ", "New Zealand", Style::POINT),
    ("JP", "Japan", Style::POINT),
    ("IN", "India", Style::IN_TWOS),
    ("BR", "Brazil", Style::COMMA),
    ("ZA", "South Africa", Style::POINT),
];

/// Countries of the table under the European rules.
const EUROPEAN_UNION: &[&str] = &["DE", "FR"];

/// Radio rules of one country.
#[derive(Debug, Clone)]
pub struct Region {
    /// ISO 3166 code.
    pub code: &'static str,
    /// Name for people.
    pub name: &'static str,
    /// How numbers are written there.
    pub numbers: Style,
    allowed: Vec<Rule>,
    limits: Vec<Rule>,
}

#[derive(Debug, Clone)]
struct Rule {
    low: f64,
    high: f64,
    max_width: f64,
    power_dbm: f64,
    psd_dbm_per_mhz: Option<f64>,
    dfs: bool,
    indoor_only: bool,
    /// Whether the database lets nobody send there first, as an access point does.
    no_initiate: bool,
    auto_bw: bool,
}

#[derive(Deserialize)]
struct Row {
    region: String,
    f_lo_mhz: f64,
    f_hi_mhz: f64,
    max_bw_mhz: f64,
    max_power_dbm: f64,
    power_kind: String,
    psd_dbm_per_mhz: String,
    dfs: u8,
    indoor_only: u8,
    no_initiate: u8,
    auto_bw: u8,
    note: String,
}

/// Countries with known rules, in the order they are offered.
///
/// # Source
/// `data/regions.csv`: which blocks are legal comes from Debian's `wireless-regdb` 2026.05.30 (decoded by
/// `scripts/regions_from_database.py`); power limits for access
/// points come from 47 CFR 15.247 and 15.407, EN 300 328, EN 301 893, EN 303 687 and the UK interface requirement (from
/// memory) where the table has them, else from the same database.
pub fn regions() -> &'static [Region] {
    static TABLE: OnceLock<Vec<Region>> = OnceLock::new();
    TABLE.get_or_init(|| {
        let rows: Vec<Row> = csv::Reader::from_reader(include_str!("../../data/regions.csv").as_bytes())
            .deserialize()
            .collect::<Result<_, _>>()
            .expect("the table is part of the program and read by a test");
        NAMES.iter().map(|(code, name, numbers)| region((code, name), *numbers, &rows)).collect()
    })
}

fn region((code, name): (&'static str, &'static str), numbers: Style, rows: &[Row]) -> Region {
    let of = |key: &str, database: bool| -> Vec<Rule> {
        rows.iter()
            .filter(|row| row.region == key && (row.power_kind == "database") == database)
            .filter(|row| !row.note.starts_with("OFDM not allowed"))
            .filter(|row| !row.power_kind.contains("very low power") && !row.power_kind.contains("standard power"))
            .map(rule)
            .collect()
    };
    let mut limits = of(code, false);
    if EUROPEAN_UNION.contains(&code) {
        limits.extend(of("EU", false));
    }
    Region { code, name, numbers, allowed: of(code, true), limits }
}

fn rule(row: &Row) -> Rule {
    let aerial = if row.power_kind.starts_with("conducted") { CONDUCTED_AERIAL_DBI } else { 0.0 };
    Rule {
        low: row.f_lo_mhz,
        high: row.f_hi_mhz,
        max_width: row.max_bw_mhz,
        power_dbm: row.max_power_dbm + aerial,
        psd_dbm_per_mhz: row.psd_dbm_per_mhz.parse::<f64>().ok().map(|psd| psd + aerial),
        dfs: row.dfs == 1,
        indoor_only: row.indoor_only == 1,
        no_initiate: row.no_initiate == 1,
        auto_bw: row.auto_bw == 1,
    }
}

/// The country with this ISO 3166 code.
#[must_use]
pub fn find(code: &str) -> Option<&'static Region> {
    regions().iter().find(|region| region.code == code)
}

impl Region {
    /// Whether a block may be used at all: all of it inside rules that allow its width; adjoining rules marked so may be joined.
    #[must_use]
    pub fn allows(&self, block: &Block) -> bool {
        let (low, high, width) = (block.low().get(), block.high().get(), block.width.get());
        if self.touching(block).any(|rule| rule.no_initiate) {
            // What the database leaves out for want of a flag of its own is allowed by the country's limits, and by one of them whole.
            return self.limits.iter().any(|r| r.low <= low && high <= r.high && width <= r.max_width);
        }
        if self.allowed.iter().any(|r| r.low <= low && high <= r.high && width <= r.max_width) {
            return true;
        }
        let mut reach = low;
        while let Some(rule) = self.allowed.iter().find(|r| r.auto_bw && r.low <= reach && reach < r.high) {
            reach = rule.high;
            if high <= reach {
                return true;
            }
        }
        false
    }

    /// Whether any of the block is shared with radar, so that the radio must listen first and leave when it hears one.
    #[must_use]
    pub fn needs_dfs(&self, block: &Block) -> bool {
        self.touching(block).any(|rule| rule.dfs)
    }

    /// Whether any of the block may be used indoors only.
    #[must_use]
    pub fn is_indoor_only(&self, block: &Block) -> bool {
        self.touching(block).any(|rule| rule.indoor_only)
    }

    fn touching<'a>(&'a self, block: &Block) -> impl Iterator<Item = &'a Rule> {
        let (low, high) = (block.low().get(), block.high().get());
        self.allowed.iter().filter(move |rule| rule.low < high && low < rule.high)
    }

    /// Highest EIRP of an indoor access point in the block: the limit or the density times the width, whichever is less.
    #[must_use]
    pub fn eirp_limit(&self, block: &Block) -> Option<Dbm> {
        let (low, high) = (block.low().get(), block.high().get());
        let touching = |rules: &'_ [Rule]| -> Option<f64> {
            rules
                .iter()
                .filter(|rule| rule.low < high && low < rule.high)
                .map(|rule| {
                    let by_density = rule.psd_dbm_per_mhz.map(|psd| psd + 10.0 * block.width.get().log10());
                    by_density.map_or(rule.power_dbm, |density| density.min(rule.power_dbm))
                })
                .reduce(f64::min)
        };
        touching(&self.limits).or_else(|| touching(&self.allowed)).map(Dbm::new)
    }

    /// Legal primary channels of a band at this width.
    #[must_use]
    pub fn legal_primaries(&self, band: Band, width: Megahertz) -> Vec<u16> {
        super::primaries(band)
            .into_iter()
            .filter(|primary| super::block(band, *primary, width).is_some_and(|block| self.allows(&block)))
            .collect()
    }

    /// Power the open database states for the rule that begins at this frequency; for checks against the database itself.
    #[must_use]
    pub fn database_power(&self, from: Megahertz) -> Option<Dbm> {
        self.allowed.iter().find(|rule| (rule.low - from.get()).abs() < 1e-6).map(|rule| Dbm::new(rule.power_dbm))
    }

    /// Seconds that a radio must listen for radar before it sends in the block; none where no radar is.
    ///
    /// # Source
    /// 60 s; 600 s in Europe for channels that touch weather radar at 5600 to 5650 MHz (EN 301 893, from memory).
    #[must_use]
    pub fn radar_wait(&self, block: &Block) -> Option<u32> {
        let european = self.code == "GB" || EUROPEAN_UNION.contains(&self.code);
        let weather = block.low().get() < 5650.0 && block.high().get() > 5600.0;
        self.needs_dfs(block).then_some(if european && weather { 600 } else { 60 })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spectrum::block;

    fn legal(code: &str, band: Band, width: f64) -> Vec<u16> {
        find(code).unwrap().legal_primaries(band, Megahertz::new(width))
    }

    #[test]
    fn channels_12_and_13_depend_on_the_country() {
        assert_eq!(legal("US", Band::Ghz2_4, 20.0), (1..=11).collect::<Vec<_>>());
        assert_eq!(legal("GB", Band::Ghz2_4, 20.0), (1..=13).collect::<Vec<_>>());
    }

    #[test]
    fn a_wide_block_may_join_adjoining_rules() {
        let block = block(Band::Ghz5, 36, Megahertz::new(160.0)).unwrap();
        assert!(find("GB").unwrap().allows(&block));
        assert!(find("GB").unwrap().needs_dfs(&block), "its upper half is shared with radar");
    }

    #[test]
    fn the_top_of_the_band_in_america_is_no_wide_block() {
        // 47 CFR 15.407(a)(3)(iii): 5850 to 5895 MHz indoors; the block of 160 MHz at 149 would join it to the band below.
        let legal = |channel: u16, width: f64| {
            block(Band::Ghz5, channel, Megahertz::new(width)).is_some_and(|own| find("US").unwrap().allows(&own))
        };
        assert!(!legal(149, 160.0) && !legal(165, 160.0));
        assert!(legal(149, 80.0) && legal(36, 160.0));
        assert!(find("US").unwrap().legal_primaries(Band::Ghz6, Megahertz::new(160.0)).contains(&37), "6 GHz stays");
    }

    #[test]
    fn the_hole_of_the_weather_radar_stays_closed_in_australia() {
        let open = legal("AU", Band::Ghz5, 20.0);
        assert!(open.contains(&116) && open.contains(&132));
        assert!(!open.contains(&120) && !open.contains(&124) && !open.contains(&128));
    }

    #[test]
    fn every_country_has_legal_channels_at_5_ghz() {
        for region in regions() {
            assert!(region.legal_primaries(Band::Ghz5, Megahertz::new(80.0)).contains(&36), "{}", region.code);
        }
    }
}
