//! What a page heard during a drill, as marks.

use busy_hen_home::raw::{Arrived, CameFrom, PingHeard, RawListening, RawStream, RoundTrip};
use busy_hen_home::{DeviceId, Drill, DrillId, DrillMark, Failure, Setup, Sight};
use busy_hen_job::drills::{Phase, listened, took};
use busy_hen_units::Millis;

fn setup() -> Setup {
    busy_hen_demo::canal_terrace().setups[1].clone()
}

/// Exchanges every 50 ms for 40 s; those sent in a silence are answered at its end, or never.
fn stream(silent: &[(f64, f64)], answered_late: bool) -> RawStream {
    let mut raw = RawStream { until_ms: Millis::new(40_000.0), ..RawStream::default() };
    for number in 0..800 {
        let at = f64::from(number) * 50.0;
        let within = silent.iter().find(|(from, until)| *from <= at && at < *until);
        match within {
            Some(_) if !answered_late => raw.lost.push(Millis::new(at)),
            _ => {
                let took = within.map_or(8.0, |(_, until)| until - at + 8.0);
                let (at_ms, took_ms) = (Millis::new(at), Millis::new(took));
                raw.trips.push(RoundTrip { at_ms, took_ms, far_ms: at_ms });
            }
        }
    }
    raw
}

fn heard(raw: &RawListening, failure: Failure, second_line: bool) -> Vec<(Sight, u32)> {
    listened(&[], raw, failure, &setup(), second_line).iter().map(|own| (own.seen, own.after_ms)).collect()
}

fn beyond(raw: RawStream) -> RawListening {
    RawListening { beyond: Some(raw), ..RawListening::default() }
}

#[test]
fn a_dead_line_is_noticed_is_back_and_breaks_the_call_after_ten_seconds() {
    for late in [true, false] {
        let raw = beyond(stream(&[(5000.0, 20_000.0)], late));
        let got = heard(&raw, Failure::Line, false);
        let expected = [
            (Sight::LossNoticed, 5000),
            (Sight::SessionBroke, 15_000),
            (Sight::FirstLife, 20_008),
            (Sight::AllBack, 20_008),
        ];
        assert_eq!(got, expected, "answered late: {late}");
    }
}

#[test]
fn a_call_that_never_connected_times_nothing_and_a_press_goes_before_what_the_bench_saw() {
    let mut raw = stream(&[(0.0, 40_000.0)], false);
    assert!(raw.trips.is_empty() && !raw.lost.is_empty());
    assert_eq!(heard(&beyond(raw.clone()), Failure::Line, false), [], "its silence is no loss");
    raw.trips = stream(&[], true).trips;
    raw.lost = vec![Millis::new(0.0)];
    let home = busy_hen_demo::canal_terrace();
    let mark = |after_ms, by_probe| DrillMark { seen: Sight::LossNoticed, after_ms, by_probe };
    let drill = |marks| Drill {
        id: DrillId::named("d"),
        setup_id: home.setups[1].id,
        failure: Failure::Line,
        begun: "2026-11-01T19:00:00Z".parse().unwrap(),
        stopped: false,
        marks,
        note: String::new(),
    };
    assert_eq!(took(&drill(vec![mark(0, true)]), Phase::Noticed), Some(0.0));
    assert_eq!(took(&drill(vec![mark(0, true), mark(4200, false)]), Phase::Noticed), Some(4.2));
}

#[test]
fn a_download_that_stands_still_is_given_up_unless_the_page_slept() {
    let arrived = |at: f64| Arrived { at_ms: Millis::new(at), bytes: at as u64 };
    let mut raw = stream(&[(5000.0, 12_000.0)], true);
    raw.arrived = [1000.0, 4000.0, 15_000.0, 20_000.0, 30_500.0, 39_000.0].map(arrived).to_vec();
    let broke: Vec<u32> = heard(&beyond(raw), Failure::Line, false)
        .into_iter()
        .filter_map(|(seen, at)| (seen == Sight::SessionBroke).then_some(at))
        .collect();
    assert_eq!(broke, [14_000], "the second pause is no fault of the line");
}

#[test]
fn a_short_silence_breaks_nothing_and_one_that_nobody_notices_is_none() {
    let raw = beyond(stream(&[(5000.0, 8000.0)], true));
    let kinds: Vec<Sight> = heard(&raw, Failure::Everything, false).into_iter().map(|(seen, _)| seen).collect();
    assert_eq!(kinds, [Sight::LossNoticed, Sight::FirstLife, Sight::AllBack]);
    assert_eq!(heard(&beyond(stream(&[(5000.0, 5300.0)], true)), Failure::Line, false), []);
    // A page that sleeps asks nothing: no silence.
    let mut asleep = stream(&[], true);
    asleep.trips.retain(|own| !(5000.0..20_000.0).contains(&own.at_ms.get()));
    assert_eq!(heard(&beyond(asleep), Failure::Line, false), []);
}

#[test]
fn while_it_lasts_nothing_is_back_and_what_flaps_is_back_when_it_stays() {
    let lasting = beyond(stream(&[(30_000.0, 41_000.0)], false));
    assert_eq!(heard(&lasting, Failure::Line, false), [(Sight::LossNoticed, 30_000)]);
    let flapping = beyond(stream(&[(5000.0, 8000.0), (8500.0, 12_000.0)], false));
    let got = heard(&flapping, Failure::Line, false);
    assert_eq!(got.last(), Some(&(Sight::AllBack, 12_008)));
}

#[test]
fn the_second_line_takes_over_and_gives_back_where_the_far_end_sees_another_address() {
    let mut raw = stream(&[(5000.0, 9000.0), (22_000.0, 24_000.0)], false);
    // Addresses of documentation (RFC 5737).
    raw.ways = [(0, "203.0.113.9"), (9100, "198.51.100.7"), (24_100, "203.0.113.9")]
        .map(|(at_ms, address)| CameFrom { at_ms, address: address.parse().unwrap() })
        .to_vec();
    raw.broken = vec![Millis::new(9100.0)];
    let got = heard(&beyond(raw), Failure::Line, true);
    let expected = [
        (Sight::LossNoticed, 5000),
        (Sight::TookOver, 9100),
        (Sight::SessionBroke, 9100),
        (Sight::FirstChoice, 24_100),
    ];
    assert_eq!(got, expected);
}

#[test]
fn what_somebody_pressed_stays_and_heard_twice_it_is_marked_once() {
    let pressed = DrillMark { seen: Sight::LossNoticed, after_ms: 7000, by_probe: false };
    let knocked = [
        DrillMark { seen: Sight::LossNoticed, after_ms: 6000, by_probe: true },
        DrillMark { seen: Sight::AllBack, after_ms: 26_000, by_probe: true },
    ];
    let raw = beyond(stream(&[(5000.0, 20_000.0)], false));
    let marks = [&[pressed][..], &knocked].concat();
    let once = listened(&marks, &raw, Failure::Everything, &setup(), false);
    assert_eq!(listened(&once, &raw, Failure::Everything, &setup(), false), once);
    let at = |seen: Sight, by_probe: bool| {
        once.iter().find(|own| own.seen == seen && own.by_probe == by_probe).map(|own| own.after_ms)
    };
    assert_eq!(at(Sight::LossNoticed, false), Some(7000));
    assert_eq!(at(Sight::LossNoticed, true), Some(5000), "the first sighting");
    assert_eq!(at(Sight::AllBack, true), Some(26_000), "all of it: the last");
}

#[test]
fn where_another_node_carries_on_what_was_pulled_is_not_back() {
    let setup = setup();
    let node = setup.devices.iter().find(|own| own.uplink.is_some()).unwrap();
    let failure = Failure::Power { device: node.id };
    let raw = RawListening { within: Some(stream(&[(5000.0, 9000.0)], true)), ..RawListening::default() };
    let got = listened(&[], &raw, failure, &setup, false);
    let kinds: Vec<Sight> = got.iter().map(|own| own.seen).collect();
    assert_eq!(kinds, [Sight::LossNoticed, Sight::TookOver]);
}

#[test]
fn knocks_tell_when_a_device_went_and_came_and_several_are_back_with_the_last() {
    let [one, two] = ["one", "two"].map(DeviceId::named);
    let knock = |(device_id, at_ms, answers)| PingHeard { device_id, at_ms, answers };
    let of = |knocks: &[(DeviceId, u32, bool)]| {
        let knocks = knocks.iter().copied().map(knock).collect();
        heard(&RawListening { knocks, ..RawListening::default() }, Failure::AllNodes, false)
    };
    // The first answer at a device is how it stood: no mark.
    assert_eq!(of(&[(one, 100, true)]), []);
    let alone = [(one, 100, true), (one, 2000, false), (one, 9000, true)];
    assert_eq!(of(&alone), [(Sight::LossNoticed, 2000), (Sight::FirstLife, 9000)], "it answers before it serves");
    let both = [
        (one, 100, true),
        (two, 110, true),
        (one, 2000, false),
        (two, 2300, false),
        (two, 8000, true),
        (one, 9500, true),
    ];
    assert_eq!(of(&both), [(Sight::LossNoticed, 2000), (Sight::FirstLife, 8000), (Sight::AllBack, 9500)]);
    assert_eq!(of(&both[..5]), [(Sight::LossNoticed, 2000), (Sight::FirstLife, 8000)]);
}

#[test]
fn each_silence_of_a_drill_that_goes_on_for_hours_is_told_apart() {
    let mut raw = stream(&[(5000.0, 20_000.0)], false);
    let (trips, lost) = (raw.trips.clone(), raw.lost.clone());
    for hour in 1..40 {
        let later = Millis::new(f64::from(hour) * 3.6e6);
        raw.trips.extend(trips.iter().map(|own| RoundTrip { at_ms: own.at_ms + later, ..*own }));
        raw.lost.extend(lost.iter().map(|own| *own + later));
    }
    raw.until_ms = Millis::new(40.0 * 3.6e6);
    let got = heard(&beyond(raw), Failure::Line, false);
    assert_eq!(got.iter().filter(|(seen, _)| *seen == Sight::SessionBroke).count(), 40);
    assert_eq!(got.first(), Some(&(Sight::LossNoticed, 5000)));
}
