//! Thermal noise (k T0 B) and fairness of the medium (IEEE 802.11 clause 10.3).

use busy_hen_catalogue::phy::noise::thermal_noise;
use busy_hen_catalogue::spectrum::block;
use busy_hen_catalogue::spectrum::mask::overlap;
use busy_hen_home::Band;
use busy_hen_predict::path::Flow;
use busy_hen_radio::airtime::airtime_share;
use busy_hen_testkit::checks::check;
use busy_hen_units::{Db, MbitPerSec, Megahertz};

#[test]
fn thermal_noise_by_width() {
    for (id, width) in [(65, 80.0), (195, 20.0), (196, 40.0), (197, 160.0), (198, 320.0)] {
        check(id).assert(thermal_noise(Megahertz::new(width), Db::new(6.0)).get());
    }
}

/// Boltzmann's constant (SI, exact since 2019) at 290 K gives -173.98 dBm/Hz.
#[test]
fn the_noise_density_is_boltzmann_s() {
    let dbm_per_hz = 10.0 * (1.380_649e-23_f64 * 290.0 * 1000.0).log10();
    assert!((dbm_per_hz - -174.0).abs() < 0.03);
    let one_hertz = thermal_noise(Megahertz::new(1e-6), Db::new(0.0)).get();
    assert!((one_hertz - dbm_per_hz).abs() < 0.03);
}

#[test]
fn saturated_neighbours_share_evenly() {
    check(71).assert(airtime_share([1.0]));
    check(72).assert(airtime_share([1.0, 1.0]));
    check(138).assert(airtime_share([0.13, 0.13, 0.13]));
    check(139).assert(airtime_share([0.5, 0.5, 0.5]));
}

#[test]
fn hops_on_one_channel_add_their_times() {
    let over = |others: &[f64], last: f64| {
        let flow = Flow {
            cap: MbitPerSec::new(f64::INFINITY),
            shared_inverse: others.iter().map(|rate| 1.0 / rate).sum(),
            airtime: 1.0,
        };
        flow.arrives(MbitPerSec::new(last)).get()
    };
    check(91).assert(over(&[400.0], 600.0));
    check(92).assert(over(&[300.0, 300.0], 300.0));
    let plan = MbitPerSec::new(500.0);
    let shared = Flow { cap: plan, shared_inverse: 1.0 / 435.0, airtime: 1.0 };
    check(136).assert(shared.arrives(MbitPerSec::new(907.0)).get());
    let separate = Flow { cap: plan.min(MbitPerSec::new(435.0)), shared_inverse: 0.0, airtime: 1.0 };
    check(137).assert(separate.arrives(MbitPerSec::new(907.0)).get());
}

/// What an HT sender's mask puts into a 20 MHz channel so many channels away.
#[test]
fn overlap_by_separation() {
    let at = |channel| block(Band::Ghz2_4, channel, Megahertz::new(20.0)).unwrap();
    for (id, apart) in [(66, 1), (67, 2), (68, 3), (69, 4), (70, 5), (193, 6), (194, 7)] {
        check(id).assert(overlap(&at(1), &at(1 + apart)).get());
    }
}
