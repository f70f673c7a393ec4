//! Values of the project's own reference text: they hold the model where it is, and are no outside truth.

use busy_hen_catalogue::materials;
use busy_hen_catalogue::phy::RadioEnd;
use busy_hen_catalogue::phy::snr::snr_needed;
use busy_hen_home::Generation::{Ac, Ax, Be, N};
use busy_hen_home::{Band, Circuit, PowerLineClass};
use busy_hen_predict::path::pairs::PowerLine;
use busy_hen_predict::path::roaming::{Leaving, Step, hand_over, threshold_for};
use busy_hen_radio::airtime::LinkTable;
use busy_hen_radio::airtime::goodput::{Stream, tcp_goodput};
use busy_hen_radio::propagation::multi_wall::{Barrier, crossing_loss, distance_loss};
use busy_hen_radio::propagation::slab::{averaged_loss, stack};
use busy_hen_testkit::checks::check;
use busy_hen_units::{Db, Dbm, Degrees, Megahertz, Metres};

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
        let width = Megahertz::new(width);
        let stream = Stream { band, generation, width, streams: 2, mcs, short_window: false };
        check(id).assert(tcp_goodput(&stream, stream.phy_rate().unwrap()).unwrap().get());
    }
    let width = Megahertz::new(80.0);
    let early = Stream { band: Band::Ghz5, generation: Ax, width, streams: 2, mcs: 11, short_window: true };
    check(86).assert(tcp_goodput(&early, early.phy_rate().unwrap()).unwrap().get());
}

#[test]
fn link_goodput_by_signal() {
    let end = |eirp, gain, body| RadioEnd {
        generation: Ax,
        streams: 2,
        max_width: Megahertz::new(80.0),
        eirp: Dbm::new(eirp),
        gain: Db::new(gain),
        body: Db::new(body),
        noise_figure: Db::new(6.0),
        short_aggregate: false,
    };
    let (router, phone) = (end(23.0, 2.0, 0.0), end(10.0, -4.0, 3.0));
    let table = LinkTable::new(Band::Ghz5, &router, &phone, Megahertz::new(80.0));
    for (id, rssi) in [(87, -50.0), (88, -65.0), (89, -80.0), (90, -90.0)] {
        check(id).assert(table.at(Db::new(23.0 - 4.0 - 3.0 - rssi)).down.get());
    }
}

#[test]
fn averaged_slab() {
    check(55).assert(averaged_loss(&stack("concrete100").unwrap(), FIVE).get());
}

#[test]
fn power_line_pairs() {
    let pair = |length, circuit, strips, noisy| PowerLine {
        class: PowerLineClass::Sold1000,
        length: Metres::new(length),
        circuit,
        strips,
        noisy,
        reported: None,
    };
    check(134).assert(pair(25.0, Circuit::Other, 0, false).goodput().get());
    check(135).assert(pair(40.0, Circuit::OtherBoard, 1, true).link_rate().get());
}

/// The example house of section 9: two nodes 14 m apart, brick at 4 and 10 m, plasterboard at 7.2 m, walked by a phone.
fn example_walk(frequency: f64, eirp: f64) -> Vec<Step> {
    let frequency = Megahertz::new(frequency);
    let loss = |from: f64, to: f64| {
        let walls: Vec<Db> = [(4.0, "brick105"), (7.2, "plasterboard"), (10.0, "brick105")]
            .into_iter()
            .filter(|(at, _)| (from < *at) != (to < *at))
            .map(|(_, key)| through(key, 1, 0.0, frequency))
            .collect();
        let barriers = vec![Barrier::Inner; walls.len()];
        distance_loss(Metres::new((from - to).abs()), frequency)
            + crossing_loss(walls.into_iter().sum(), barriers, frequency)
    };
    let heard = |from, to| Dbm::new(eirp - 4.0 - 3.0) - loss(from, to);
    (0..=140)
        .map(|i| f64::from(i) / 10.0)
        .map(|at| Step { at: Metres::new(at), serving: heard(0.0, at), candidate: heard(14.0, at) })
        .collect()
}

#[test]
fn hand_overs() {
    let by_client = Leaving::ByClient(Db::new(8.0));
    let place = |walk: &[Step], threshold| hand_over(walk, Dbm::new(threshold), by_client).map(|found| found.at.get());
    check(119).assert(place(&example_walk(5500.0, 23.0), -70.0).unwrap());
    check(120).assert(place(&example_walk(2437.0, 20.0), -60.0).unwrap());
    check(121).assert(f64::from(u8::from(place(&example_walk(2437.0, 20.0), -70.0).is_some())));
}

/// Common practice: the 2.4 GHz threshold is set about 10 dB above that of 5 GHz.
#[test]
fn common_practice_hand_over_thresholds_of_the_bands_differ_by_about_10_db() {
    let threshold = |frequency, eirp| threshold_for(&example_walk(frequency, eirp), Db::new(10.0)).unwrap();
    let apart = threshold(2437.0, 20.0) - threshold(5500.0, 23.0);
    assert!((5.0..=11.0).contains(&apart.get()), "{apart}");
}
