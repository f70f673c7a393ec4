//! Free-space loss against ITU-R P.525 and IEEE 802.11-14/0980.

use busy_hen_radio::propagation::free_space_loss;
use busy_hen_radio::propagation::multi_wall::distance_loss;
use busy_hen_radio::propagation::published::{floor_loss, residential_loss};
use busy_hen_testkit::checks::check;
use busy_hen_units::{Megahertz, Metres};

#[test]
fn free_space() {
    check(40).assert(free_space_loss(Metres::new(1.0), Megahertz::new(2400.0)).get());
    check(184).assert(free_space_loss(Metres::new(1000.0), Megahertz::new(1000.0)).get());
    check(185).assert(free_space_loss(Metres::new(10.0), Megahertz::new(6000.0)).get());
    check(41).assert(free_space_loss(Metres::new(100.0), Megahertz::new(5500.0)).get());
}

/// IEEE 802.11-14/0980, residential, without walls and floors: 40.05 + 20 log(f/2.4) + 20 log(min(d,5)) + 35 log(d/5).
#[test]
fn a_home_without_walls_is_the_published_residential_curve() {
    for (d, f) in [(2.0, 2437.0), (5.0, 5500.0), (10.0, 5500.0), (25.0, 6200.0)] {
        let (d, f): (f64, f64) = (d, f);
        let published =
            40.05 + 20.0 * (f / 2400.0).log10() + 20.0 * d.min(5.0).log10() + 35.0 * (d.max(5.0) / 5.0).log10();
        let got = distance_loss(Metres::new(d), Megahertz::new(f)).get();
        assert!((got - published).abs() < 0.01, "{d} m, {f} MHz: {got} is not {published}");
    }
}

#[test]
fn a_home_with_walls_and_floors_is_the_published_residential_curve() {
    check(56).assert(residential_loss(Metres::new(10.0), Megahertz::new(5500.0), 2, 1).get());
}

#[test]
fn floors_cost_less_and_less() {
    check(57).assert(floor_loss(2).get());
    check(186).assert(floor_loss(1).get());
    check(187).assert(floor_loss(3).get());
}
