//! Radio rules against the open database that Debian packages (wireless-regdb), and 47 CFR 15.407.

use busy_hen_catalogue::spectrum::channels::{WIDTHS, primaries};
use busy_hen_catalogue::spectrum::{Region, block, region, regions};
use busy_hen_home::Band;
use busy_hen_testkit::checks::check;
use busy_hen_testkit::regulatory::{Rule, database};
use busy_hen_units::Megahertz;

#[test]
fn powers_of_the_open_database() {
    for (id, code, from) in [
        (124, "US", 5150.0),
        (125, "US", 5730.0),
        (126, "US", 5925.0),
        (127, "GB", 5925.0),
        (128, "DE", 5945.0),
        (129, "DE", 2400.0),
        (130, "JP", 5490.0),
        (131, "AU", 5730.0),
        (132, "CA", 5470.0),
    ] {
        let region = region::find(code).unwrap();
        check(id).assert(region.database_power(Megahertz::new(from)).unwrap().get());
    }
}

#[test]
fn indoor_power_at_6_ghz_in_the_united_states_grows_with_width() {
    let limit = |primary, width| {
        let block = block(Band::Ghz6, primary, Megahertz::new(width)).unwrap();
        region::find("US").unwrap().eirp_limit(&block).unwrap().get()
    };
    check(122).assert(limit(1, 80.0));
    check(123).assert(limit(1, 320.0));
}

/// Whether the database's own rules allow a block: all of it inside one rule that allows its width, or inside adjoining rules that
/// are marked to be joined.
fn allowed(rules: &[Rule], low: f64, high: f64) -> bool {
    let width = high - low;
    let whole = |rule: &Rule| rule.low <= low && high <= rule.high && width <= rule.max_width;
    if rules.iter().any(|rule| !rule.no_ofdm && whole(rule)) {
        return true;
    }
    let mut reach = low;
    loop {
        let next = rules.iter().find(|rule| rule.auto_bw && rule.low <= reach && reach < rule.high);
        match next {
            Some(rule) if rule.high >= high => return true,
            Some(rule) => reach = rule.high,
            None => return false,
        }
    }
}

/// Every block of every width in every country: what the database on this machine says, against what the product says.
fn disagreements(region: &Region, rules: &[Rule]) -> Vec<String> {
    let mut list = Vec::new();
    for band in [Band::Ghz2_4, Band::Ghz5, Band::Ghz6] {
        for width in WIDTHS {
            for primary in primaries(band) {
                let Some(block) = block(band, primary, width) else { continue };
                let (low, high) = (block.low().get(), block.high().get());
                let name = format!("{} {band} {primary} at {width}", region.code);
                if allowed(rules, low, high) != region.allows(&block) {
                    list.push(format!("{name}: allowed"));
                }
                let mut touching = rules.iter().filter(|rule| !rule.no_ofdm && rule.low < high && low < rule.high);
                if touching.clone().any(|rule| rule.dfs) != region.needs_dfs(&block) {
                    list.push(format!("{name}: radar"));
                }
                if touching.any(|rule| rule.no_outdoor) != region.is_indoor_only(&block) {
                    list.push(format!("{name}: indoors"));
                }
            }
        }
    }
    list
}

#[test]
fn every_channel_of_every_country_is_as_the_database_has_it() {
    assert!(regions().len() >= 11);
    let database = database();
    println!("database of {} bytes, the one our table was made from: {}", database.length, database.is_recorded);
    let mut changed = Vec::new();
    for region in regions() {
        let rules = database.rules(region.code);
        assert!(!rules.is_empty(), "{} is not in the database", region.code);
        let found = disagreements(region, &rules);
        for line in &found {
            println!("{line}");
        }
        if !found.is_empty() {
            changed.push(format!("{}: {} disagreements", region.code, found.len()));
        }
    }
    // Another edition of the database may follow a change of law in some countries; ours is then due, but not wrong about the rest.
    let few = if database.is_recorded { 0 } else { 4 };
    assert!(changed.len() <= few, "{changed:?}");
}

#[test]
fn powers_of_every_rule_are_those_of_the_database() {
    let database = database();
    if !database.is_recorded {
        println!("another edition than the table was made from: powers not compared");
        return;
    }
    let mut compared = 0;
    for region in regions() {
        for rule in database.rules(region.code).iter().filter(|rule| !rule.no_ofdm) {
            let own = region.database_power(Megahertz::new(rule.low)).unwrap();
            assert!((own.get() - rule.power_dbm).abs() < 0.001, "{} from {}", region.code, rule.low);
            compared += 1;
        }
    }
    assert!(compared >= 60, "{compared}");
}
