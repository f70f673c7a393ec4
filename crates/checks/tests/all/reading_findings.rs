//! Rules over readings, each where it holds and where it does not; and the choice that follows from all.

use busy_hen_home::{CarriedBy, Outcome, RoomId, Run, SetupId, SpotId, TestKind};
use busy_hen_predict::summary::summarise;
use busy_hen_survey::readings::compare::{Against, Measure};
use busy_hen_survey::readings::findings::{Evidence, ReadingRule, SpotReadings, reading_findings};
use busy_hen_survey::readings::ratio::{Reading, ratio};
use busy_hen_survey::readings::verdict::{Candidate, Choice, Weights, choose};
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::MbitPerSec;

fn runs(downs: &[f64], up: f64) -> Vec<Run> {
    let round = round("r", SetupId::named("A"), Vec::new());
    let one = |down: &f64| {
        let mut own = run(&round, SpotId::named("desk"), *down);
        if let Outcome::Measured { up_mbps, .. } = &mut own.outcome {
            *up_mbps = MbitPerSec::new(up);
        }
        own
    };
    downs.iter().map(one).collect()
}

fn spot<'a>(setup: &str, place: &str, runs: &'a [Run], predicted: f64) -> SpotReadings<'a> {
    SpotReadings {
        spot: SpotId::named(place),
        room: RoomId::named(place),
        place: place.into(),
        setup: setup.into(),
        summary: summarise(runs).unwrap(),
        runs: runs.iter().collect(),
        predicted: (predicted * 0.7, predicted, predicted * 1.3),
        ceiling: Some((100.0, 20.0)),
        hangs_on: Some("the wall between Study and Hall".into()),
    }
}

fn found(evidence: &Evidence<'_>, rule: ReadingRule) -> bool {
    reading_findings(evidence).iter().any(|own| own.rule == rule && !own.what.is_empty() && !own.next.is_empty())
}

fn evidence(spots: Vec<SpotReadings<'_>>) -> Evidence<'_> {
    Evidence { kind: Some(TestKind::Internet), plan_down: Some(100.0), spots, ..Evidence::default() }
}

#[test]
fn speeds_above_the_ceiling_and_swapped_ones_are_found() {
    let told = |own: &[Run]| reading_findings(&evidence(vec![spot("A", "Study", own, 90.0)]))[0].what.clone();
    assert_eq!(
        told(&runs(&[120.0; 5], 10.0)),
        "A in Study reads 120 Mb/s, more than the 100 Mb/s that can come through."
    );
    let (fast, slow) = (runs(&[120.0; 5], 10.0), runs(&[90.0; 5], 10.0));
    assert!(found(&evidence(vec![spot("A", "Study", &fast, 90.0)]), ReadingRule::AboveCeiling));
    assert!(!found(&evidence(vec![spot("A", "Study", &slow, 90.0)]), ReadingRule::AboveCeiling));
    let (swapped, few) = (runs(&[10.0; 5], 90.0), runs(&[10.0; 5], 15.0));
    let next = |own: &[Run]| {
        let all = reading_findings(&evidence(vec![spot("A", "Study", own, 90.0)]));
        all.into_iter().find(|own| own.rule == ReadingRule::MoreUpThanDown).map(|own| own.next)
    };
    assert!(next(&swapped).unwrap().contains("swapped"), "more than the line lets through is a fault");
    assert!(next(&few).unwrap().starts_with("Can it be?"), "else it is a question");
    assert!(next(&slow).is_none());
}

#[test]
fn each_setup_is_held_to_what_can_come_through_it() {
    let fast = runs(&[700.0; 5], 10.0);
    let of = |ceiling: f64| SpotReadings { ceiling: Some((ceiling, ceiling)), ..spot("B", "Study", &fast, 700.0) };
    assert!(!found(&evidence(vec![of(940.0)]), ReadingRule::AboveCeiling), "its port is a gigabit one");
    assert!(found(&evidence(vec![of(94.0)]), ReadingRule::AboveCeiling));
}

#[test]
fn a_cable_below_radio_or_far_under_the_plan_is_found() {
    let own = runs(&[90.0; 5], 10.0);
    let with = |wired: f64| Evidence { wired_down: Some(wired), ..evidence(vec![spot("A", "Study", &own, 90.0)]) };
    assert!(found(&with(70.0), ReadingRule::CableBelowRadio) && found(&with(70.0), ReadingRule::WiredUnderPlan));
    assert!(!found(&with(95.0), ReadingRule::CableBelowRadio) && !found(&with(95.0), ReadingRule::WiredUnderPlan));
    let local = Evidence { kind: Some(TestKind::Local), ..with(70.0) };
    assert!(!found(&local, ReadingRule::WiredUnderPlan), "a local test says nothing of the line");
}

#[test]
fn the_same_number_everywhere_is_a_ceiling() {
    let (a, b, c) = (runs(&[95.0; 5], 10.0), runs(&[96.0; 5], 10.0), runs(&[60.0; 5], 10.0));
    let both = |other| evidence(vec![spot("A", "Study", &a, 90.0), spot("B", "Study", other, 90.0)]);
    assert!(found(&both(&b), ReadingRule::SameEverywhere));
    let same = |own: &Evidence<'_>| {
        reading_findings(own).into_iter().find(|own| own.rule == ReadingRule::SameEverywhere).unwrap()
    };
    let told = same(&both(&b));
    assert!(told.what.starts_with("A and B read 96 Mb/s"), "only what was measured is named: {}", told.what);
    assert!(told.next.contains("local tests"));
    let local = same(&Evidence { kind: Some(TestKind::Local), ..both(&b) });
    assert!(!local.next.contains("local tests"), "they were local: {}", local.next);
    assert!(!found(&both(&c), ReadingRule::SameEverywhere));
    let low = [runs(&[30.0; 5], 10.0), runs(&[30.0; 5], 10.0)];
    let far = evidence(vec![spot("A", "Study", &low[0], 30.0), spot("B", "Study", &low[1], 30.0)]);
    assert!(!found(&far, ReadingRule::SameEverywhere), "far under the ceiling it is chance");
}

#[test]
fn wide_spread_link_rates_and_other_networks_are_found() {
    let (wide, narrow) = (runs(&[20.0, 40.0, 60.0, 80.0, 30.0], 10.0), runs(&[50.0, 51.0, 52.0, 50.0, 49.0], 10.0));
    assert!(found(&evidence(vec![spot("A", "Study", &wide, 50.0)]), ReadingRule::Spread));
    assert!(!found(&evidence(vec![spot("A", "Study", &narrow, 50.0)]), ReadingRule::Spread));
    let with_rate = |rate: f64| {
        let mut own = narrow.clone();
        own[0].link_rate_mbps = Some(MbitPerSec::new(rate));
        own
    };
    let (same, usual) = (with_rate(50.0), with_rate(120.0));
    assert!(found(&evidence(vec![spot("A", "Study", &same, 50.0)]), ReadingRule::LinkRateAsSpeed));
    assert!(!found(&evidence(vec![spot("A", "Study", &usual, 50.0)]), ReadingRule::LinkRateAsSpeed));
    let mut slipped = narrow.clone();
    slipped[1].carried_by = CarriedBy::MobileData;
    let taken = |list: &'static [Run]| Evidence { taken: list.iter().collect(), ..Evidence::default() };
    assert!(found(&taken(slipped.leak()), ReadingRule::WrongNetwork));
    assert!(!found(&taken(narrow.leak()), ReadingRule::WrongNetwork));
}

#[test]
fn one_room_off_names_what_it_hangs_on_and_a_poor_evening_is_told() {
    let own: Vec<Vec<Run>> = [48.0, 52.0, 47.0, 10.0].iter().map(|down| runs(&[*down; 5], 5.0)).collect();
    let places = ["Hall", "Kitchen", "Landing", "Study"];
    let with = |last: &'static [Run]| {
        let list = places.iter().zip(&own).map(|(place, own)| spot("A", place, own, 50.0));
        let mut list: Vec<SpotReadings<'_>> = list.collect();
        list[3] = spot("A", "Study", last, 50.0);
        reading_findings(&evidence(list)).into_iter().find(|own| own.rule == ReadingRule::OneRoomOff)
    };
    let odd = with(runs(&[10.0; 5], 5.0).leak()).unwrap();
    assert!(odd.what.contains("Study") && odd.next.contains("the wall between Study and Hall"), "{odd:?}");
    assert!(with(runs(&[45.0; 5], 5.0).leak()).is_none());
    let evening = |busy: f64| Evidence { evenings: vec![("Study".into(), 50.0, busy)], ..Evidence::default() };
    assert!(found(&evening(15.0), ReadingRule::EveningWorse) && !found(&evening(45.0), ReadingRule::EveningWorse));
}

fn candidate(letter: &str, met: usize) -> Candidate {
    Candidate {
        id: SetupId::named(letter),
        name: format!("{letter}, as tried"),
        letter: letter.into(),
        needs: (9, met, 9),
        spots_measured: 9,
        worst: Some(("Study".into(), 1.4)),
        price: Some(100.0),
        spread: Some(0.1),
        burden: (2, 0),
        against: None,
        predicted_ratio: 1.0,
        ratio_past_the_line: 1.0,
        made_up: false,
        retest: Vec::new(),
        full_control: false,
    }
}

fn against(reference: f64, other: f64) -> Option<Against> {
    let list = |middle: f64| -> Vec<Reading> {
        (0..8).map(|i| Reading { visit: 0, value: middle + f64::from(i % 4) / 4.0 + f64::from(i) / 100.0 }).collect()
    };
    let own = ratio(&list(reference), &list(other)).unwrap();
    Some(Against::new(own, own.p, 1, Measure::Down))
}

fn kept(choice: &Choice) -> SetupId {
    choice.keep.unwrap()
}

#[test]
fn needs_go_before_all_else_and_of_equals_the_cheaper_is_kept() {
    let fast = Candidate { against: against(50.0, 90.0), ..candidate("B", 7) };
    let able = candidate("C", 9);
    let choice = choose(&[candidate("A", 5), fast, able], Weights::default(), true);
    assert_eq!(kept(&choice), SetupId::named("C"));
    assert!(choice.measured && choice.sentences[0].contains("meets 9 of 9 needs"), "{choice:?}");
    assert!(choice.otherwise.iter().any(|told| told.contains("B") && told.contains("2 needs less")), "{choice:?}");
    let dear = Candidate { price: Some(300.0), against: against(50.0, 50.0), ..candidate("B", 9) };
    let choice =
        choose(&[dear.clone(), candidate("A", 9)], Weights { price: 1, speed: 3, steadiness: 0, ease: 0 }, true);
    assert_eq!(kept(&choice), SetupId::named("A"), "within the noise the cheaper wins: {choice:?}");
    // Beyond the noise speed counts as it is weighted, and it is said when the other would win.
    let faster = Candidate { price: Some(300.0), against: against(50.0, 90.0), ..candidate("B", 9) };
    let choice =
        choose(&[candidate("A", 9), faster.clone()], Weights { price: 0, speed: 3, steadiness: 0, ease: 0 }, true);
    assert_eq!(kept(&choice), SetupId::named("B"));
    assert!(choice.otherwise.iter().any(|told| told.contains("A") && told.contains("if price decided")), "{choice:?}");
    let choice = choose(&[candidate("A", 9), faster], Weights { price: 3, speed: 0, steadiness: 0, ease: 0 }, true);
    assert_eq!(kept(&choice), SetupId::named("A"));
}

#[test]
fn the_dearer_of_two_that_are_as_fast_is_kept_for_what_it_is_better_in_and_that_is_said() {
    let told = |spread: f64| {
        let dear =
            Candidate { price: Some(130.0), spread: Some(0.02), against: against(50.0, 50.0), ..candidate("B", 9) };
        let cheap = Candidate { spread: Some(spread), ..candidate("A", 9) };
        choose(&[cheap, dear], Weights::default(), true)
    };
    let choice = told(0.6);
    assert_eq!(kept(&choice), SetupId::named("B"));
    assert!(choice.sentences.iter().any(|own| own.contains("the steadier is kept")), "{choice:?}");
    assert!(choice.otherwise.iter().any(|own| own.contains("A") && own.contains("if price decided")), "{choice:?}");
    assert_eq!(kept(&told(0.02)), SetupId::named("A"), "as steady too, so the cheaper");
}

#[test]
fn made_up_unlike_or_too_few_readings_give_no_verdict_and_the_weak_points_are_told() {
    let own = Candidate { made_up: true, burden: (3, 2), ..candidate("B", 9) };
    let choice = choose(&[candidate("A", 5), own], Weights::default(), true);
    assert!(!choice.measured && choice.sentences[3].contains("made up") && choice.sentences[3].contains("2 holes"));
    let unlike = Candidate { against: against(50.0, 90.0), ..candidate("B", 9) };
    assert!(!choose(&[candidate("A", 5), unlike.clone()], Weights::default(), false).measured);
    assert!(choose(&[candidate("A", 5), unlike], Weights::default(), true).measured);
    let few: Vec<Reading> = (0..3).map(|i| Reading { visit: 0, value: 50.0 + f64::from(i) }).collect();
    let three = ratio(&few, &few).unwrap();
    let three = Candidate { against: Some(Against::new(three, three.p, 1, Measure::Down)), ..candidate("B", 9) };
    let choice = choose(&[candidate("A", 5), three], Weights::default(), true);
    assert!(!choice.measured && choice.sentences.iter().any(|told| told.contains("too few runs")), "{choice:?}");
    assert_eq!(choose(&[], Weights::default(), true), Choice::default());
}

#[test]
fn a_faster_line_control_and_rooms_to_test_again_are_told() {
    let best = Candidate { retest: vec!["Attic".into()], ..candidate("A", 9) };
    let other = Candidate { ratio_past_the_line: 1.6, full_control: true, price: Some(200.0), ..candidate("B", 9) };
    let choice = choose(&[best, other], Weights::default(), true);
    assert_eq!(kept(&choice), SetupId::named("A"));
    let told = choice.otherwise.join(" ");
    assert!(told.contains("with a faster line") && told.contains("every setting"), "{told}");
    assert!(choice.retest[0].contains("Attic"));
}
