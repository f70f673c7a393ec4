//! From raw samples to figures: what a known link gives, and what spoils a test.

use busy_hen_home::Outcome;
use busy_hen_home::raw::{Arrived, Interruption, RawTest, RawTransfer, RoundTrip};
use busy_hen_survey::measuring::{SlowLeg, Spoiled, figures, jitter, slow_leg};
use busy_hen_testkit::raw::test_of;
use busy_hen_units::Millis;
use proptest::prelude::*;

#[test]
fn the_settled_rate_counts_and_the_ramp_does_not() {
    for (down, up) in [(5.0, 1.0), (90.0, 18.0), (900.0, 300.0)] {
        let got = figures(&test_of(down, up)).unwrap();
        assert!((got.down.rate_mbps.get() / down - 1.0).abs() < 0.01, "{down}: {:?}", got.down.rate_mbps);
        assert!((got.up.rate_mbps.get() / up - 1.0).abs() < 0.01, "{up}: {:?}", got.up.rate_mbps);
        assert!((400.0..=1000.0).contains(&got.down.after_ms.get()), "{:?}", got.down.after_ms);
        assert!(got.down.trace_mbps.len() <= 60 && got.down.trace_mbps[0].get() < down / 2.0);
    }
}

#[test]
fn delays_are_medians_and_the_worse_direction_is_kept() {
    let got = figures(&test_of(90.0, 18.0)).unwrap();
    let Outcome::Measured { idle_ms, loaded_ms, jitter_ms, loss_percent, .. } = got.outcome() else { panic!() };
    assert_eq!(
        (idle_ms, loaded_ms, jitter_ms),
        (Some(Millis::new(12.0)), Some(Millis::new(90.0)), Some(Millis::new(0.0)))
    );
    assert_eq!(loss_percent, None, "a connection that sends again shows no loss");
    assert_eq!(got.down.loaded_ms, Some(Millis::new(48.0)), "what was taken during the ramp is left out");
}

#[test]
fn the_slow_leg_is_the_line_only_where_more_arrives_within_the_home() {
    let of = |within: f64, beyond: f64| {
        slow_leg(&figures(&test_of(within, 20.0)).unwrap(), &figures(&test_of(beyond, 20.0)).unwrap())
    };
    assert_eq!(of(400.0, 90.0), SlowLeg::Line);
    assert_eq!(of(90.0, 88.0), SlowLeg::Home, "the line could give more");
    assert_eq!(of(90.0, 95.0), SlowLeg::Home);
}

#[test]
fn jitter_is_that_of_rfc_3550() {
    // Each change is 8 ms: J after n changes is 8 (1 - (15/16)^n), by the recursion of RFC 3550, 6.4.1.
    let trips: Vec<f64> = (0..41).map(|index| if index % 2 == 0 { 10.0 } else { 18.0 }).collect();
    let wanted = 8.0 * (1.0 - (15.0_f64 / 16.0).powi(40));
    assert!((jitter(&trips).get() - wanted).abs() < 1e-9);
    assert!(jitter(&[]).get().abs() < 1e-12);
}

#[test]
fn what_came_between_is_told_by_its_name() {
    let spoil = |change: &dyn Fn(&mut RawTest)| {
        let mut test = test_of(90.0, 18.0);
        change(&mut test);
        figures(&test).unwrap_err()
    };
    assert_eq!(spoil(&|test| test.interruptions.push(Interruption::Hidden)), Spoiled::Hidden);
    assert_eq!(spoil(&|test| test.interruptions.push(Interruption::Broken)), Spoiled::Broken);
    assert_eq!(spoil(&|test| test.wall_ms = Millis::new(3_611_000.0)), Spoiled::ClockJump);
    assert_eq!(spoil(&|test| test.wall_ms = Millis::new(f64::NAN)), Spoiled::Nonsense);
    assert_eq!(spoil(&|test| test.idle.truncate(29)), Spoiled::TooFewExchanges);
    assert_eq!(spoil(&|test| test.up.arrived.truncate(20)), Spoiled::CutShort);
    assert_eq!(spoil(&|test| test.down.arrived.clear()), Spoiled::CutShort);
    let asleep = |test: &mut RawTest| {
        let awake = |at: Millis| !(1500.0..5200.0).contains(&at.get());
        test.down.arrived.retain(|count| awake(count.at_ms));
        test.down.loaded.retain(|trip| awake(trip.at_ms));
    };
    assert_eq!(spoil(&asleep), Spoiled::Stalled);
    assert_eq!(spoil(&|test| test.down.arrived[30].bytes = 0), Spoiled::Nonsense, "counts don't fall");
    assert_eq!(spoil(&|test| test.idle[3].took_ms = Millis::new(-1.0)), Spoiled::Nonsense);
    assert_eq!(spoil(&|test| test.idle[3].took_ms = Millis::new(f64::NAN)), Spoiled::Nonsense);
}

#[test]
fn a_slow_link_that_only_answers_now_and_then_is_no_sleeping_device() {
    let mut test = test_of(2.0, 0.5);
    // Bytes come in lumps four seconds apart, but the exchanges go on.
    test.down.arrived.retain(|count| count.at_ms.get() < 1000.0 || count.at_ms.get() > 5000.0);
    assert!(figures(&test).is_ok());
}

fn any_millis() -> impl Strategy<Value = Millis> {
    prop_oneof![(-10.0..20_000.0_f64), Just(f64::NAN), Just(f64::INFINITY), Just(1e308)].prop_map(Millis::new)
}

proptest! {
    #[test]
    fn no_samples_break_it(
        counts in prop::collection::vec((any_millis(), any::<u64>()), 0..40),
        trips in prop::collection::vec((any_millis(), any_millis()), 0..40),
        clocks in (any_millis(), any_millis()),
    ) {
        let transfer = RawTransfer {
            arrived: counts.iter().map(|(at_ms, bytes)| Arrived { at_ms: *at_ms, bytes: *bytes }).collect(),
            loaded: trips.iter().map(|(at_ms, took_ms)| RoundTrip { at_ms: *at_ms, took_ms: *took_ms, far_ms: *at_ms }).collect(),
        };
        let test = RawTest {
            idle: transfer.loaded.clone(),
            down: transfer.clone(),
            up: transfer,
            steady_ms: clocks.0,
            wall_ms: clocks.1,
            interruptions: Vec::new(),
        };
        if let Ok(got) = figures(&test) {
            prop_assert!(got.down.rate_mbps.get() >= 0.0 && got.down.rate_mbps.get().is_finite());
        }
    }
}
