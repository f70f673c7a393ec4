//! Edges, ground and foliage against ITU-R P.526 and P.833 and the two-ray model.

use busy_hen_radio::propagation::edge::knife_edge;
use busy_hen_radio::propagation::outdoors::{two_ray_breakpoint, vegetation_loss};
use busy_hen_testkit::checks::check;
use busy_hen_units::{Megahertz, Metres};

const FIVE: Megahertz = Megahertz::new(5500.0);

#[test]
fn knife_edges() {
    check(93).assert(knife_edge(0.0).get());
    check(94).assert(knife_edge(1.0).get());
}

/// ITU-R P.526, equation (30): `J = -20 log10(sqrt((1 - C - S)^2 + (C - S)^2) / 2)`, with the Fresnel integrals C and S summed here by
/// Simpson's rule. Equation (31), which the product uses, is published as close to it.
#[test]
fn the_short_form_of_an_edge_is_close_to_the_fresnel_integral() {
    let fresnel = |nu: f64| {
        let steps = 4000;
        let width = nu / f64::from(steps);
        let angle = |i: i32| std::f64::consts::FRAC_PI_2 * (f64::from(i) * width).powi(2);
        let sum = |of: fn(f64) -> f64| {
            let inner: f64 = (1..steps).map(|i| of(angle(i)) * if i % 2 == 1 { 4.0 } else { 2.0 }).sum();
            (of(angle(0)) + inner + of(angle(steps))) * width / 3.0
        };
        (sum(f64::cos), sum(f64::sin))
    };
    for nu in [-0.7, -0.3, 0.0, 0.5, 1.0, 2.0, 3.0, 5.0] {
        let (c, s) = fresnel(nu);
        let exact = -20.0 * (((1.0 - c - s).powi(2) + (c - s).powi(2)).sqrt() / 2.0).log10();
        let got = knife_edge(nu).get();
        assert!((got - exact).abs() < 0.35, "nu {nu}: {got} and {exact}");
    }
}

#[test]
fn ground_and_foliage() {
    check(95).assert(two_ray_breakpoint(Metres::new(2.0), Metres::new(1.5), FIVE).get());
    check(96).assert(vegetation_loss(Metres::new(5.0), FIVE).get());
}
