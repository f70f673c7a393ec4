//! Values of the project's own reference text: they hold the model where it is, and are no outside truth.

use busy_hen_engine::airtime::goodput::{Stream, tcp_goodput};
use busy_hen_engine::catalogue::materials;
use busy_hen_engine::phy::Generation::{Ac, Ax, Be, N};
use busy_hen_engine::phy::snr::snr_needed;
use busy_hen_engine::propagation::multi_wall::{Barrier, crossing_loss, distance_loss};
use busy_hen_home::Band;
use busy_hen_testkit::checks::check;
use busy_hen_units::{Db, Degrees, Megahertz, Metres};

const FIVE: Megahertz = Megahertz::new(5500.0);

fn through(key: &str, count: usize, angle: f64, frequency: Megahertz) -> Db {
    materials::find(key).unwrap().loss(frequency, Degrees::new(angle)) * count as f64
}

#[test]
fn default_loss() {
    check(58).assert(distance_loss(Metres::new(10.0), FIVE).get());
    check(59).assert(distance_loss(Metres::new(0.1), Megahertz::new(2437.0)).get());
    let three = crossing_loss(through("concrete150", 3, 0.0, FIVE), [Barrier::Inner; 3], FIVE);
    check(60).assert((distance_loss(Metres::new(15.0), FIVE) + three).get());
}

#[test]
fn crossing_losses() {
    let low = Megahertz::new(2437.0);
    check(61).assert(crossing_loss(through("plasterboard", 1, 0.0, low), [Barrier::Inner], low).get());
    check(62).assert(crossing_loss(through("concrete_floor", 2, 0.0, FIVE), [Barrier::Floor; 2], FIVE).get());
    check(63).assert(crossing_loss(through("cavity", 1, 0.0, FIVE), [Barrier::Envelope], FIVE).get());
    check(64).assert(crossing_loss(through("brick215", 1, 60.0, FIVE), [Barrier::Inner], FIVE).get());
}

#[test]
fn signal_needed() {
    for (id, mcs, streams, senders, receivers) in
        [(73, 4, 2, 2, 2), (74, 4, 2, 4, 2), (75, 11, 1, 1, 1), (76, 0, 1, 2, 2)]
    {
        check(id).assert(snr_needed(mcs, streams, senders, receivers).unwrap().get());
    }
}

#[test]
fn goodput() {
    for (id, band, generation, width, mcs) in [
        (80, Band::Ghz2_4, N, 20.0, 7),
        (81, Band::Ghz5, Ac, 80.0, 9),
        (82, Band::Ghz5, Ax, 80.0, 11),
        (83, Band::Ghz5, Ax, 80.0, 4),
        (84, Band::Ghz5, Ax, 160.0, 11),
        (85, Band::Ghz6, Be, 320.0, 13),
    ] {
        let stream = Stream { band, generation, width: Megahertz::new(width), streams: 2, mcs };
        check(id).assert(tcp_goodput(&stream, stream.phy_rate().unwrap()).unwrap().get());
    }
}
