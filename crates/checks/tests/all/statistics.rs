//! Statistics of setups set against each other: against general-purpose libraries, and in simulated comparisons.

use busy_hen_predict::summary::quantile;
use busy_hen_survey::readings::interval::median_interval;
use busy_hen_survey::readings::rank_test::{Strata, rank_test};
use busy_hen_survey::readings::ratio::{Call, LEVEL, Reading, RestsOn, by_turns, holm, ratio, together};
use proptest::prelude::*;
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;
use serde::Deserialize;

/// Made by `scripts/statistics.py` with numpy 2.3.5, scipy 1.16.3 and statsmodels 0.14.5.
const FIXTURES: &str = include_str!("../../../testkit/data/statistics.json");

#[derive(Deserialize)]
struct Fixtures {
    quantiles: Vec<Quantiles>,
    rank_tests: Vec<RankTest>,
    holm: Vec<Adjusted>,
    turns: Vec<Turns>,
}

#[derive(Deserialize)]
struct Quantiles {
    values: Vec<f64>,
    parts: Vec<f64>,
    quantiles: Vec<f64>,
}

#[derive(Deserialize)]
struct RankTest {
    strata: Vec<(Vec<f64>, Vec<f64>)>,
    p: f64,
}

#[derive(Deserialize)]
struct Adjusted {
    raw: Vec<f64>,
    adjusted: Vec<f64>,
}

#[derive(Deserialize)]
struct Turns {
    pairs: Vec<(f64, f64)>,
    p: f64,
}

fn fixtures() -> Fixtures {
    serde_json::from_str(FIXTURES).unwrap()
}

#[test]
fn quantiles_are_those_of_numpy() {
    for case in fixtures().quantiles {
        let mut sorted = case.values;
        sorted.sort_by(f64::total_cmp);
        for (part, expected) in case.parts.iter().zip(case.quantiles) {
            assert!((quantile(&sorted, *part).unwrap() - expected).abs() < 1e-9);
        }
    }
}

#[test]
fn rank_tests_are_those_of_scipy_with_ties_and_over_strata() {
    let cases = fixtures().rank_tests;
    assert!(cases.len() >= 12);
    for RankTest { strata, p } in cases {
        let own = Strata::new(&strata).probability();
        assert!((own - p).abs() < 1e-9, "{own} {p}");
        if let [(a, b)] = &strata[..] {
            assert!((rank_test(a, b).unwrap() - p).abs() < 1e-9);
        }
    }
}

#[test]
fn adjusted_probabilities_are_those_of_statsmodels_and_trials_by_turns_those_of_scipy() {
    for case in fixtures().holm {
        let own = holm(&case.raw);
        assert!(own.iter().zip(&case.adjusted).all(|(a, b)| (a - b).abs() < 1e-9), "{own:?}");
    }
    for case in fixtures().turns {
        let own = by_turns(&case.pairs).unwrap().p.unwrap();
        assert!((own - case.p).abs() < 1e-9, "{own} {}", case.p);
    }
}

/// A normal value, by the sum of twelve (Irwin-Hall): near enough within three deviations.
fn normal(rng: &mut ChaCha8Rng) -> f64 {
    (0..12).map(|_| rng.random::<f64>()).sum::<f64>() - 6.0
}

fn runs(rng: &mut ChaCha8Rng, visit: usize, count: usize, middle: f64, spread: f64) -> Vec<Reading> {
    (0..count).map(|_| Reading { visit, value: middle * (spread * normal(rng)).exp() }).collect()
}

#[test]
fn intervals_hold_what_they_say_at_three_five_and_ten_runs() {
    let mut rng = ChaCha8Rng::seed_from_u64(4);
    for count in [3, 5, 10] {
        let (mut of_median, mut of_ratio) = (0, 0);
        let tries = 4000;
        for _ in 0..tries {
            let a = runs(&mut rng, 0, count, 100.0, 0.12);
            let b = runs(&mut rng, 0, count, 130.0, 0.12);
            let values: Vec<f64> = a.iter().map(|own| own.value).collect();
            let (low, high) = median_interval(&values).unwrap();
            of_median += usize::from(low <= 100.0 && 100.0 <= high);
            let (low, high) = ratio(&a, &b).unwrap().interval.unwrap();
            of_ratio += usize::from(low <= 1.3 && 1.3 <= high);
        }
        let part = |held: usize| held as f64 / f64::from(tries);
        println!(
            "{count} runs: the median in {:.1} %, the ratio in {:.1} %",
            100.0 * part(of_median),
            100.0 * part(of_ratio)
        );
        assert!((0.93..=0.97).contains(&part(of_median)), "{count}: {}", part(of_median));
        assert!((0.93..=0.97).contains(&part(of_ratio)), "{count}: {}", part(of_ratio));
    }
}

/// Part of simulated comparisons of two equal setups over 12 rooms that are called different: by the home as a whole, and by any room.
fn called_different(visits: impl Fn(&mut ChaCha8Rng) -> (Vec<(usize, f64)>, Vec<(usize, f64)>)) -> (f64, f64) {
    let mut rng = ChaCha8Rng::seed_from_u64(9);
    let (mut whole, mut any) = (0, 0);
    for _ in 0..1000 {
        let (first, second) = visits(&mut rng);
        let rooms: Vec<(Vec<Reading>, Vec<Reading>)> = (0..12)
            .map(|_| {
                let mut side = |visits: &[(usize, f64)]| -> Vec<Reading> {
                    visits
                        .iter()
                        .flat_map(|(visit, moved)| runs(&mut rng, *visit, 5, 100.0 * moved.exp(), 0.08))
                        .collect()
                };
                (side(&first), side(&second))
            })
            .collect();
        whole += usize::from(together(&rooms).unwrap().call(together(&rooms).unwrap().p, 1) == Call::Beyond);
        let each: Vec<_> = rooms.iter().map(|(a, b)| ratio(a, b).unwrap()).collect();
        let adjusted = holm(&each.iter().map(|own| own.p.unwrap()).collect::<Vec<_>>());
        any += usize::from(each.iter().zip(adjusted).any(|(own, p)| own.call(Some(p), 12) == Call::Beyond));
    }
    (whole as f64 / 1000.0, any as f64 / 1000.0)
}

#[test]
fn equal_setups_are_seldom_called_different_whatever_visits_do() {
    let moved = |rng: &mut ChaCha8Rng| 0.05 * normal(rng);
    let own = called_different(|rng| (vec![(0, moved(rng))], vec![(1, moved(rng))]));
    let same = called_different(|rng| {
        let both = moved(rng);
        (vec![(0, both)], vec![(0, both)])
    });
    let several = called_different(|rng| {
        let both = [(0, moved(rng)), (1, moved(rng))];
        (both.to_vec(), both.to_vec())
    });
    println!("called different: visits of their own {own:?}, one visit {same:?}, two visits {several:?}");
    for (whole, any) in [own, same, several] {
        assert!(whole <= 0.065 && any <= 0.065, "{whole} {any}");
    }
}

#[test]
fn a_real_difference_is_called_and_too_few_runs_are_told() {
    let list = |visit: usize, values: &[f64]| -> Vec<Reading> {
        values.iter().map(|value| Reading { visit, value: *value }).collect()
    };
    let six = ratio(&list(0, &[50.0, 52.0, 49.0, 51.0, 48.0, 53.0]), &list(0, &[80.0, 84.0, 79.0, 90.0, 85.0, 81.0]));
    let six = six.unwrap();
    assert_eq!((six.basis, six.call(six.p, 1)), (RestsOn::SameVisits, Call::Beyond));
    let (low, high) = six.interval.unwrap();
    assert!(1.4 < low && low < six.ratio && six.ratio < high && high < 1.9, "{six:?}");
    let three = ratio(&list(0, &[50.0, 52.0, 49.0]), &list(0, &[80.0, 84.0, 79.0])).unwrap();
    assert!((three.p.unwrap() - 0.1).abs() < 1e-12);
    assert_eq!(three.call(three.p, 1), Call::CantTell { more: Some(1) }, "four against four can go under 0.03");
    // Over twelve rooms five against five can't go under 0.05: 0.0079 times 12.
    let five = ratio(&list(0, &[1.0, 2.0, 3.0, 4.0, 5.0]), &list(0, &[6.0, 7.0, 8.0, 9.0, 10.0])).unwrap();
    assert_eq!(five.call(Some(12.0 * five.p.unwrap()), 12), Call::CantTell { more: Some(1) });
    let one_each = ratio(&list(0, &[50.0]), &list(1, &[80.0])).unwrap();
    assert_eq!((one_each.p, one_each.interval), (None, None));
    assert!(matches!(one_each.call(None, 1), Call::CantTell { .. }));
    assert!(ratio(&[], &list(0, &[1.0])).is_none());
}

#[test]
fn alike_runs_on_one_visit_show_nothing() {
    let list: Vec<Reading> = (0..8).map(|i| Reading { visit: 0, value: 50.0 + f64::from(i % 4) }).collect();
    let own = ratio(&list, &list).unwrap();
    assert!(own.p.unwrap() > 0.9 && own.call(own.p, 1) == Call::NotShown && (own.ratio - 1.0).abs() < 1e-9);
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn the_interval_holds_its_ratio_and_turns_over_with_the_sides(
        a in prop::collection::vec((0_usize..3, 0.0f64..200.0), 1..12), b in prop::collection::vec((0_usize..3, 0.0f64..200.0), 1..12)
    ) {
        let list = |own: &[(usize, f64)]| own.iter().map(|(visit, value)| Reading { visit: *visit, value: *value }).collect::<Vec<_>>();
        let (one, other) = (ratio(&list(&a), &list(&b)).unwrap(), ratio(&list(&b), &list(&a)).unwrap());
        prop_assert!((one.ratio * other.ratio - 1.0).abs() < 1e-6);
        prop_assert!(one.p.is_none_or(|p| (0.0..=1.0).contains(&p)));
        if let (Some((low, high)), Some(p)) = (one.interval, one.p) {
            prop_assert!(low <= high && low.is_finite() && high.is_finite());
            prop_assert!((other.p.unwrap() - p).abs() < 1e-9);
        }
    }

    #[test]
    fn adjusted_probabilities_are_never_smaller(list in prop::collection::vec(0.0f64..1.0, 1..20)) {
        prop_assert!(holm(&list).iter().zip(&list).all(|(adjusted, raw)| adjusted >= raw && *adjusted <= 1.0));
    }
}

#[test]
fn a_trial_by_turns_needs_six_pairs_to_say_anything() {
    let pairs = |count: usize| (0..count).map(|i| (50.0 + i as f64, 70.0 + 2.0 * i as f64)).collect::<Vec<_>>();
    assert!(by_turns(&pairs(5)).unwrap().p.unwrap() > LEVEL);
    let six = by_turns(&pairs(6)).unwrap();
    assert!((six.p.unwrap() - 2.0 / 64.0).abs() < 1e-12 && six.interval.is_some());
    assert!(by_turns(&[]).is_none());
}
