//! Aerial patterns against textbook directivity and 3GPP TR 38.901.

use busy_hen_radio::propagation::aerial::{rod_exponent, rod_gain, rod_width, sector_fall};
use busy_hen_testkit::checks::check;
use busy_hen_units::{Db, Degrees};

/// Mean of a pattern of revolution over the sphere, by the midpoint rule: of a lossless aerial it is 1.
fn mean_over_sphere(pattern: impl Fn(f64) -> f64) -> f64 {
    let steps = 20_000;
    let width = std::f64::consts::PI / f64::from(steps);
    (0..steps)
        .map(|i| -std::f64::consts::FRAC_PI_2 + (f64::from(i) + 0.5) * width)
        .map(|elevation| pattern(elevation) * elevation.cos() * width / 2.0)
        .sum()
}

#[test]
fn rods() {
    for (exponent, gain) in [(98, 2.15), (100, 5.0), (102, 9.0)] {
        check(exponent).assert(rod_exponent(Db::new(gain)));
    }
    for (width, gain) in [(99, 2.15), (101, 5.0), (103, 9.0)] {
        check(width).assert(rod_width(Db::new(gain)).get());
    }
}

/// A half-wave dipole's pattern `(cos(pi/2 sin el) / cos el)^2`, integrated: its directivity is 1.643.
#[test]
fn a_half_wave_dipole() {
    let pattern = |el: f64| ((std::f64::consts::FRAC_PI_2 * el.sin()).cos() / el.cos()).powi(2);
    check(97).assert(Db::of_ratio(1.0 / mean_over_sphere(pattern)).get());
}

#[test]
fn whatever_a_rod_s_gain_it_sends_no_more_than_it_gets() {
    for gain in [2.15, 3.0, 5.0, 7.0, 9.0] {
        let whole = mean_over_sphere(|el| rod_gain(Db::new(gain), Degrees::new(el.to_degrees())).ratio());
        assert!((whole - 1.0).abs() < 0.01, "{gain} dBi: {whole}");
    }
}

#[test]
fn sectors() {
    let width = Degrees::new(65.0);
    let fall = |across: f64| sector_fall(Degrees::new(across), Degrees::new(0.0), width, width).get();
    check(104).assert(fall(32.5));
    check(191).assert(fall(65.0));
    check(192).assert(fall(180.0));
}
