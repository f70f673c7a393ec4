//! Layered walls against a general-purpose RF library (scikit-rf 2.2.0, `scripts/slab_losses.py`) and ITU-R P.2040.

use busy_hen_radio::propagation::slab::{
    Layer, Polarisation, Substance, slab_loss, stack, substance_named, transmission,
};
use busy_hen_testkit::checks::check;
use busy_hen_units::{Db, Degrees, Megahertz, Metres};
use serde::Deserialize;

#[derive(Deserialize)]
struct Row {
    stack: String,
    layers: String,
    ghz: f64,
    degrees: f64,
    polarisation: String,
    loss_db: f64,
}

fn substance(name: &str) -> Substance {
    substance_named(name).unwrap_or_else(|| panic!("substance {name}"))
}

/// Layers written as in "brick 105 + air 75", millimetres.
fn layers(words: &str) -> Vec<Layer> {
    words
        .split(" + ")
        .map(|layer| {
            let (name, mm) = layer.rsplit_once(' ').unwrap();
            Layer::Solid(substance(name), Metres::new(mm.parse::<f64>().unwrap() / 1000.0))
        })
        .collect()
}

#[test]
fn every_stack_frequency_angle_and_polarisation_of_the_library() {
    let mut rows = 0;
    for row in csv::Reader::from_reader(include_str!("../../../../testkit/data/slabs.csv").as_bytes()).deserialize() {
        let row: Row = row.unwrap();
        let way = if row.polarisation == "TE" { Polarisation::Te } else { Polarisation::Tm };
        let frequency = Megahertz::new(row.ghz * 1000.0);
        let through = transmission(&layers(&row.layers), frequency, Degrees::new(row.degrees), way);
        let got = -Db::of_ratio(through).get();
        assert!(
            (got - row.loss_db).abs() < 0.005,
            "{} {} GHz {}°: {got} and {}",
            row.stack,
            row.ghz,
            row.degrees,
            row.loss_db
        );
        rows += 1;
    }
    assert_eq!(rows, 216);
}

#[test]
fn single_values() {
    let loss = |words: &str, mhz: f64| slab_loss(&layers(words), Megahertz::new(mhz), Degrees::new(0.0)).get();
    check(45).assert(loss("concrete 100", 2437.0));
    check(46).assert(loss("concrete 100", 5500.0));
    check(47).assert(loss("concrete 200", 5500.0));
    check(48).assert(loss("brick 105", 5500.0));
    check(49).assert(loss("brick 215", 2437.0));
    check(50).assert(loss("glass 6", 6200.0));
    check(51).assert(loss("wood 44", 5500.0));
    check(52).assert(slab_loss(&stack("plasterboard").unwrap(), Megahertz::new(5500.0), Degrees::new(0.0)).get());
    let oblique = |way| {
        let through = transmission(&layers("concrete 100"), Megahertz::new(5500.0), Degrees::new(60.0), way);
        -Db::of_ratio(through).get()
    };
    check(53).assert(oblique(Polarisation::Te));
    check(54).assert(oblique(Polarisation::Tm));
}

#[test]
fn a_thin_film_is_what_theory_says() {
    check(42).assert(slab_loss(&[Layer::Film(6.0)], Megahertz::new(5500.0), Degrees::new(0.0)).get());
}

#[test]
fn substances_of_the_table() {
    let (low, five, six) = (Megahertz::new(2437.0), Megahertz::new(5500.0), Megahertz::new(6200.0));
    check(43).assert(substance("concrete").permittivity(five));
    check(44).assert(substance("concrete").conductivity(five));
    check(199).assert(substance("brick").conductivity(low));
    check(200).assert(substance("glass").permittivity(five));
    check(201).assert(substance("plasterboard").permittivity(six));
}
