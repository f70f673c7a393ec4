//! Radio rules against Debian's wireless-regdb 2026.02.04 and 47 CFR 15.407.

use busy_hen_engine::spectrum::{block, region};
use busy_hen_home::Band;
use busy_hen_testkit::checks::check;
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
