//! Films, calls, walks, marks and rushes: what their samples come to.

use busy_hen_home::raw::{FilmPart, Interruption, Passed, RawCall, RawFilm, RawWalk, RoundTrip};
use busy_hen_home::{
    Band, CableClass, Firmware, KitStatus, Mark, Outcome, Purpose, Round, Run, SetupId, Situation, SpotId, Uplink, Via,
};
use busy_hen_job::rounds::confirm::to_confirm;
use busy_hen_job::rounds::order::{WalkingOrder, walking_order, way_length};
use busy_hen_predict::needs::{Need, Verdict};
use busy_hen_survey::measuring::{Spoiled, call, film, walk};
use busy_hen_survey::readings::marks::{against_status, best, drop_out, rows};
use busy_hen_survey::readings::rush::rushes;
use busy_hen_survey::readings::words::{holds, in_words};
use busy_hen_testkit::runs;
use busy_hen_units::{Dbm, MbitPerSec, Metres, Millis};
use proptest::prelude::*;
use uuid::Uuid;

/// A film whose parts of two seconds arrive when this says, each asked for when the one before had arrived.
fn film_of(arrived: &[f64], sought: Option<usize>) -> RawFilm {
    let mut asked = 0.0;
    let parts = arrived.iter().map(|at| {
        let part = FilmPart { asked_ms: Millis::new(asked), arrived_ms: Millis::new(*at) };
        asked = *at;
        part
    });
    RawFilm {
        rate_mbps: MbitPerSec::new(25.0),
        part_ms: Millis::new(2000.0),
        parts: parts.collect(),
        sought,
        interruptions: Vec::new(),
    }
}

#[test]
fn a_film_whose_parts_come_in_time_plays_without_a_stop() {
    // Each part arrives half a second before it is due.
    let arrived: Vec<f64> = (0..30).map(|index| 800.0 + f64::from(index) * 1500.0).collect();
    let check = film(&film_of(&arrived, None)).unwrap();
    assert_eq!((check.started_ms, check.stalls, check.watched_ms), (Millis::new(800.0), 0, Millis::new(60_000.0)));
    assert_eq!(holds(&Outcome::Film { check }), Some(true));
    assert_eq!(
        in_words(&Outcome::Film { check }).unwrap(),
        "film at 25 Mb/s: picture after 0.8 s; played 60.0 s without a stop"
    );
}

#[test]
fn a_late_part_stops_the_picture_for_as_long_as_it_is_late() {
    // The picture comes at 1.0 s, so the second part is due at 3.0 s and the third two seconds after the second has come.
    let mut arrived = vec![1000.0, 4200.0, 7000.0];
    arrived.extend((1..=14).map(|index| 7000.0 + f64::from(index) * 100.0));
    let check = film(&film_of(&arrived, None)).unwrap();
    assert_eq!((check.stalls, check.stalled_ms), (2, Millis::new(1200.0 + 800.0)));
    assert_eq!(holds(&Outcome::Film { check }), Some(false));
    assert!(in_words(&Outcome::Film { check }).unwrap().ends_with("stood still 2 times, 2.0 s of 34.0 s"));
}

#[test]
fn a_seek_throws_away_what_was_there_and_is_timed_by_itself() {
    let arrived: Vec<f64> = (0..20).map(|index| 700.0 * (f64::from(index) + 1.0)).collect();
    let check = film(&film_of(&arrived, Some(5))).unwrap();
    assert_eq!((check.sought_ms, check.stalls), (Some(Millis::new(700.0)), 0));
    assert_eq!(film(&film_of(&arrived, Some(20))), Err(Spoiled::Nonsense));
    assert_eq!(film(&film_of(&arrived[..5], None)), Err(Spoiled::CutShort), "ten seconds say nothing");
    let slow = film(&film_of(&[9000.0, 18_000.0, 27_000.0, 36_000.0], None)).unwrap();
    assert_eq!((slow.stalls, slow.watched_ms), (3, Millis::new(8000.0)), "a film that hardly moves says much");
    let hidden = RawFilm { interruptions: vec![Interruption::Hidden], ..film_of(&arrived, None) };
    assert_eq!(film(&hidden), Err(Spoiled::Hidden));
}

/// Exchanges every 40 ms that take 20 ms, but none is answered within these spans, ms.
fn trips(until: f64, silent: &[(f64, f64)]) -> Vec<RoundTrip> {
    (0..)
        .map(|index| f64::from(index) * 40.0)
        .take_while(|at| *at < until)
        .map(|at| {
            let answered = at + 20.0;
            let answered = silent.iter().find(|own| (own.0..own.1).contains(&answered)).map_or(answered, |own| own.1);
            RoundTrip { at_ms: Millis::new(at), took_ms: Millis::new(answered - at), far_ms: Millis::new(at) }
        })
        .collect()
}

#[test]
fn a_call_is_broken_where_nothing_is_answered_for_long() {
    let of = |silent: &[(f64, f64)]| {
        let raw = RawCall {
            rate_mbps: MbitPerSec::new(4.0),
            trips: trips(20_000.0, silent),
            held_ms: Millis::new(20_000.0),
            interruptions: Vec::new(),
        };
        call(&raw).unwrap()
    };
    let good = of(&[(3000.0, 3200.0)]);
    assert_eq!((good.gaps, good.delay_ms, holds(&Outcome::Call { check: good })), (0, Millis::new(20.0), Some(true)));
    let bad = of(&[(3000.0, 4000.0), (9000.0, 11_500.0)]);
    assert_eq!((bad.gaps, holds(&Outcome::Call { check: bad })), (2, Some(false)));
    assert!((bad.longest_gap_ms.get() - 2520.0).abs() <= 20.0, "{:?}", bad.longest_gap_ms);
    assert!(in_words(&Outcome::Call { check: bad }).unwrap().contains("broken 2 times, the longest for 2.5 s"));
}

#[test]
fn a_walk_tells_its_gaps_and_where_they_were_and_a_lost_connection_is_one() {
    let (hall, landing) = (SpotId::named("Hall"), SpotId::named("Landing"));
    let raw = RawWalk {
        trips: trips(25_000.0, &[(12_000.0, 13_000.0)]),
        passed: vec![
            Passed { spot_id: hall, at_ms: Millis::new(0.0) },
            Passed { spot_id: landing, at_ms: Millis::new(10_000.0) },
        ],
        walked_ms: Millis::new(30_000.0),
        interruptions: vec![Interruption::Broken],
    };
    let check = walk(&raw).unwrap();
    let gaps: Vec<(SpotId, f64)> =
        check.gaps.iter().map(|gap| (gap.after, (gap.lasted_ms.get() / 100.0).round() / 10.0)).collect();
    assert_eq!(gaps, [(landing, 1.0), (landing, 5.0)], "the second goes to the end");
    assert_eq!(walk(&RawWalk { passed: Vec::new(), ..raw.clone() }), Err(Spoiled::Nonsense));
    assert_eq!(walk(&RawWalk { interruptions: vec![Interruption::Stopped], ..raw }), Err(Spoiled::Stopped));
}

proptest! {
    #[test]
    fn no_samples_of_a_check_break_it(
        spans in prop::collection::vec((prop_oneof![(-10.0..90_000.0_f64), Just(f64::NAN), Just(1e308)], 0.0..9000.0_f64), 0..60),
        sought in prop::option::of(0..80_usize),
        length in prop_oneof![(0.0..90_000.0_f64), Just(f64::INFINITY)],
    ) {
        let parts = spans.iter().map(|(at, took)| FilmPart { asked_ms: Millis::new(*at), arrived_ms: Millis::new(at + took) });
        let raw = RawFilm { parts: parts.collect(), ..film_of(&[], sought) };
        if let Ok(check) = film(&raw) {
            prop_assert!(check.stalled_ms.get().is_finite() && check.started_ms.get() >= 0.0);
        }
        let trip = |(at, took): &(f64, f64)| RoundTrip { at_ms: Millis::new(*at), took_ms: Millis::new(*took), far_ms: Millis::new(0.0) };
        let raw = RawCall { rate_mbps: MbitPerSec::new(4.0), trips: spans.iter().map(trip).collect(), held_ms: Millis::new(length), interruptions: Vec::new() };
        if let Ok(check) = call(&raw) {
            prop_assert!(check.longest_gap_ms.get() <= 3.6e6);
        }
    }
}

fn marked(purpose: Purpose) -> Round {
    Round { purpose, ..runs::round("r", SetupId::named("A"), vec![SpotId::named("s")]) }
}

fn at(round: &Round, mark: Mark, down: f64) -> Run {
    let run = runs::run(round, SpotId::named("s"), down);
    let outcome = if down > 0.0 { run.outcome.clone() } else { Outcome::NoConnection };
    Run { mark: Some(mark), outcome, ..run }
}

fn named(name: &str) -> Mark {
    Mark { name: name.into(), ..Mark::default() }
}

const NEED: Need =
    Need { down_mbps: MbitPerSec::new(30.0), up_mbps: MbitPerSec::new(1.0), latency_ms: Millis::new(100.0) };

#[test]
fn a_range_walk_drops_out_between_two_marks_and_comes_back_nearer() {
    let round = marked(Purpose::RangeWalk);
    let mark = |far: f64, returning| Mark { distance_m: Some(Metres::new(far)), returning, ..Mark::default() };
    let list: Vec<Run> = [(10.0, 90.0), (20.0, 40.0), (30.0, 0.0), (30.0, 2.0), (30.0, 0.0), (40.0, 0.0)]
        .into_iter()
        .map(|(far, down)| at(&round, mark(far, false), down))
        .chain([(30.0, 0.0), (20.0, 0.0), (10.0, 80.0)].map(|(far, down)| at(&round, mark(far, true), down)))
        .collect();
    let rows = rows(&list, None);
    let marks: Vec<f64> = rows.iter().map(|row| row.mark.distance_m.unwrap().get()).collect();
    assert_eq!(marks, [10.0, 20.0, 30.0, 40.0, 30.0, 20.0, 10.0], "out and back, as walked");
    let got = drop_out(&rows);
    assert_eq!(
        (got.held_m, got.lost_m, got.back_m),
        (Some(Metres::new(20.0)), Some(Metres::new(30.0)), Some(Metres::new(10.0)))
    );
    assert_eq!(drop_out(&rows[..2]).lost_m, None, "not walked to its end");
}

#[test]
fn the_best_place_is_where_the_weak_room_gets_most_not_where_the_node_hears_best() {
    let round = marked(Purpose::PlacementTrial);
    let beside = |name: &str| Mark { beside_node: true, ..named(name) };
    let list = [
        at(&round, beside("stairs"), 300.0),
        at(&round, named("stairs"), 20.0),
        at(&round, beside("landing"), 150.0),
        at(&round, named("landing"), 80.0),
        at(&round, beside("attic"), 30.0),
        at(&round, named("attic"), 28.0),
    ];
    let rows = rows(&list, Some((&NEED, Situation::Alone)));
    assert_eq!(best(&rows).unwrap().name, "landing");
    assert_eq!(best(&rows[..1]), None, "nothing was tested in the weak room");
}

#[test]
fn a_status_that_the_test_speaks_against_is_told() {
    let round = marked(Purpose::OutletTrial);
    let with = |status, down| Run { kit_status: Some(status), ..at(&round, named("by the sink"), down) };
    let of = |run| against_status(&rows(&[run], Some((&NEED, Situation::Alone)))[0], false);
    assert!(of(with(KitStatus::Good, 12.0)).unwrap().contains("12 Mb/s arrive, less than is needed"));
    assert!(of(with(KitStatus::Poor, 60.0)).is_some());
    assert_eq!(of(with(KitStatus::Good, 60.0)), None);
    assert_eq!(of(at(&round, named("by the sink"), 60.0)), None);
    let weak = rows(&[with(KitStatus::Good, 12.0)], Some((&NEED, Situation::Alone)));
    assert_eq!(against_status(&weak[0], true), None, "the weak room has a hop more");
    assert_eq!(rows(&[with(KitStatus::Good, 12.0)], Some((&NEED, Situation::Alone)))[0].verdict, Some(Verdict::NotMet));
}

#[test]
fn signal_is_told_band_by_band() {
    let round = marked(Purpose::RouteWalk);
    let heard = |band, signal| Run {
        outcome: Outcome::Heard,
        band: Some(band),
        signal_dbm: Some(Dbm::new(signal)),
        ..at(&round, named("gate"), 1.0)
    };
    let list = [heard(Band::Ghz5, -80.0), heard(Band::Ghz2_4, -60.0), heard(Band::Ghz5, -84.0)];
    let row = &rows(&list, None)[0];
    let bands: Vec<(Option<Band>, f64)> =
        row.heard.iter().map(|own| (own.band, own.signal_dbm.unwrap().get())).collect();
    assert_eq!(bands, [(Some(Band::Ghz2_4), -60.0), (Some(Band::Ghz5), -82.0)]);
    assert!(row.summary.is_none() && row.runs == 3);
}

#[test]
fn phones_that_begin_together_are_told_by_their_shares() {
    let round = marked(Purpose::FamilyRush);
    let together =
        |down, name: u128| Run { together: Some(Uuid::from_u128(name)), ..runs::run(&round, SpotId::named("s"), down) };
    let list = [together(60.0, 1), together(20.0, 1), together(5.0, 2), runs::run(&round, SpotId::named("s"), 90.0)];
    let rushes = rushes(&list);
    let first = rushes.iter().find(|rush| rush.together == Uuid::from_u128(1)).unwrap();
    assert_eq!((rushes.len(), first.runs.len()), (2, 2));
    assert!((first.down_mbps.get() - 80.0).abs() < 1e-9);
    // Jain's index of 60 and 20: 80^2 / (2 * (3600 + 400)).
    assert!((first.fairness - 0.8).abs() < 1e-9);
}

#[test]
fn the_short_way_is_no_longer_than_the_listed_one_and_goes_everywhere() {
    let home = busy_hen_demo::canal_terrace();
    let spots: Vec<SpotId> = home.house.spots.iter().map(|spot| spot.id).collect();
    let expected = spots.iter().enumerate().map(|(index, spot)| (*spot, MbitPerSec::new(index as f64))).collect();
    let mixed: Vec<SpotId> = spots.iter().step_by(2).chain(spots.iter().skip(1).step_by(2)).copied().collect();
    let short = walking_order(&home, &mixed, WalkingOrder::ShortWay, &expected);
    assert_eq!(short[0], mixed[0], "it begins where one stands");
    let sorted = |list: &[SpotId]| {
        let mut list = list.to_vec();
        list.sort();
        list
    };
    assert_eq!(sorted(&short), sorted(&spots));
    let (before, after) = (way_length(&home, &mixed).get(), way_length(&home, &short).get());
    assert!(after < 0.8 * before, "{after} of {before} m");
    assert_eq!(walking_order(&home, &mixed, WalkingOrder::WorstFirst, &expected), spots);
    assert!(walking_order(&home, &mixed, WalkingOrder::WorstLast, &expected).iter().rev().eq(&spots));
    assert_eq!(walking_order(&home, &[], WalkingOrder::ShortWay, &expected), []);
}

#[test]
fn what_was_changed_is_to_be_seen_one_by_one() {
    let home = busy_hen_demo::canal_terrace();
    let before = home.setup(SetupId::named("B")).unwrap();
    assert_eq!(to_confirm(before, before), Vec::<String>::new());
    let mut now = before.clone();
    let (root, name) = (now.devices[0].id, now.devices[1].name.clone());
    now.devices[0].firmware = Some(Firmware { version: "3.1".into(), from: None, updates: None });
    now.devices[0].radios[0].channel = if now.devices[0].radios[0].channel == 1 { 6 } else { 1 };
    now.devices[1].uplink = Some(Uplink::new(root, Via::cable(CableClass::Cat6)));
    now.devices[1].radios[0].on = false;
    let list = to_confirm(before, &now).join("\n");
    for words in ["runs firmware 3.1", "2.4 GHz", "by cable", "is silent at"] {
        assert!(list.contains(words), "{words} in\n{list}");
    }
    let mut other = before.clone();
    other.devices[0].kit = "router_ac".into();
    other.devices[0].id = busy_hen_home::DeviceId::named("another");
    let list = to_confirm(before, &other);
    let told = |words: &str| list.iter().any(|own| own.starts_with(words));
    assert!(told("Router is on channel") && told("The old Router is silent"), "{list:?}");
    now.devices.remove(1);
    assert!(to_confirm(before, &now).iter().any(|own| own.starts_with(&format!("{name} is silent"))));
}
