//! Setups side by side: changes by room, and the warnings when columns are not like for like.
#![allow(clippy::unwrap_used)] // also in what tests share

use busy_hen_engine::readings::compare::{Column, Comparison, compare};
use busy_hen_engine::readings::conditions::{Conditions, choose, choose_pair, groups};
use busy_hen_home::{Band, Doors, PlanId, RoomId, Round, Run, SetupId, Source, SpotId, TestKind, Under};
use busy_hen_testkit::runs::{round, run};

type Rounds = Vec<(Round, Vec<Run>)>;

fn slices(rounds: &Rounds) -> impl Iterator<Item = (&Round, &[Run])> {
    rounds.iter().map(|(round, runs)| (round, runs.as_slice()))
}

fn asked() -> Conditions {
    Conditions { made_up: false, under: round("asked", SetupId::named("A"), Vec::new()).under() }
}

fn measured_at(name: &str, spots: &[(&str, &[f64])], change: impl FnOnce(&mut Round)) -> Rounds {
    let mut round = round(name, SetupId::named(name), spots.iter().map(|(spot, _)| SpotId::named(spot)).collect());
    change(&mut round);
    let runs = spots.iter().flat_map(|(spot, downs)| downs.iter().map(|down| run(&round, SpotId::named(spot), *down)));
    let runs = runs.collect();
    vec![(round, runs)]
}

fn measured(name: &str, downs: &[f64], change: impl FnOnce(&mut Round)) -> Rounds {
    measured_at(name, &[("desk", downs)], change)
}

fn side_by_side(a: &Rounds, b: &Rounds) -> Comparison {
    let rooms = [
        (RoomId::named("Study"), vec![SpotId::named("desk"), SpotId::named("sofa")]),
        (RoomId::named("Hall"), vec![SpotId::named("hall")]),
    ];
    let (first, second) = choose_pair(groups(slices(a)), groups(slices(b)), &asked());
    let column = |name: &str, group| Column { name: name.into(), group, ..Column::default() };
    compare(&rooms, &column("A", first), &column("B", second), TestKind::Internet)
}

#[test]
fn like_for_like_columns_give_the_change_of_the_medians_and_no_warning() {
    let got = side_by_side(&measured("A", &[40.0, 50.0, 60.0], |_| {}), &measured("B", &[70.0, 75.0, 90.0], |_| {}));
    assert!((got.rooms[0].change_percent.unwrap() - 50.0).abs() < 1e-9);
    assert_eq!(got.rooms[1].change_percent, None, "no one tested the hall");
    assert_eq!(got.warnings, Vec::<String>::new());
}

#[test]
fn from_nothing_there_is_no_percentage() {
    let got = side_by_side(&measured("A", &[0.0, 0.0, 0.0], |_| {}), &measured("B", &[7.0, 7.0, 7.0], |_| {}));
    assert_eq!(got.rooms[0].change_percent, None);
}

#[test]
fn only_the_same_spot_is_set_against_itself() {
    let a = measured_at("A", &[("desk", &[50.0, 50.0, 50.0]), ("sofa", &[10.0, 10.0, 10.0])], |_| {});
    let b = measured_at("B", &[("desk", &[60.0, 60.0, 60.0]), ("sofa", &[90.0, 90.0, 90.0])], |_| {});
    let got = side_by_side(&a, &b);
    assert_eq!(got.rooms[0].spot_id, Some(SpotId::named("desk")), "where B has least, not where A had");
    assert!((got.rooms[0].change_percent.unwrap() - 20.0).abs() < 1e-9);
    let elsewhere = measured_at("B", &[("sofa", &[90.0, 90.0, 90.0])], |_| {});
    let got = side_by_side(&measured("A", &[50.0, 50.0, 50.0], |_| {}), &elsewhere);
    assert_eq!((got.rooms[0].spot_id, got.rooms[0].change_percent), (None, None));
    assert!(got.rooms[0].reference.is_some() && got.rooms[0].other.is_some(), "each is still told");
}

#[test]
fn made_up_readings_never_stand_beside_measured_ones() {
    let mut b = measured("B", &[70.0, 75.0, 90.0], |_| {});
    b[0].1.iter_mut().for_each(|run| run.source = Source::Walker);
    let got = side_by_side(&measured("A", &[40.0, 50.0, 60.0], |_| {}), &b);
    assert_eq!(got.rooms[0].change_percent, None);
    assert!(got.warnings.iter().any(|told| told.contains("made up")), "{:?}", got.warnings);
    // Measured runs of the same conditions push made-up ones aside.
    b.extend(measured("B2", &[10.0, 10.0, 10.0], |_| {}));
    let chosen = choose(groups(slices(&b)), &asked()).unwrap();
    assert!(!chosen.conditions.made_up && chosen.runs.len() == 3);
}

#[test]
fn readings_under_unlike_conditions_are_not_put_into_one_figure() {
    let mut a = measured("A", &[50.0, 50.0, 50.0], |_| {});
    a.extend(measured("A2", &[5.0, 5.0, 5.0], |round| round.doors = Doors::Shut));
    let chosen = choose(groups(slices(&a)), &asked()).unwrap();
    assert!((chosen.summaries()[&SpotId::named("desk")].down_mbps.median - 50.0).abs() < 1e-9);
    let shut = Conditions { under: Under { doors: Doors::Shut, ..asked().under }, ..asked() };
    let chosen = choose(groups(slices(&a)), &shut).unwrap();
    assert!((chosen.summaries()[&SpotId::named("desk")].down_mbps.median - 5.0).abs() < 1e-9);
    // Where one setup was tested both ways and the other one way, the pair that is alike is taken.
    let got = side_by_side(&a, &measured("B", &[10.0, 10.0, 10.0], |round| round.doors = Doors::Shut));
    assert!((got.rooms[0].change_percent.unwrap() - 100.0).abs() < 1e-9, "{:?}", got.warnings);
    assert!(got.warnings.is_empty());
}

#[test]
fn different_device_band_doors_and_plan_are_told() {
    let a = measured("A", &[1.0, 2.0, 3.0], |_| {});
    let warned = |change: fn(&mut Round)| side_by_side(&a, &measured("B", &[1.0, 2.0, 3.0], change)).warnings;
    assert!(warned(|round| round.client = "laptop_ax".into())[0].contains("the test device was phone, ax"));
    assert!(warned(|round| round.band = Some(Band::Ghz5))[0].contains("any band for A and 5 GHz for B"));
    assert!(warned(|round| round.doors = Doors::Shut)[0].contains("doors"));
    let mut later = measured("B", &[1.0, 2.0, 3.0], |_| {});
    for run in &mut later[0].1 {
        run.plan_id = Some(PlanId::named("new"));
    }
    assert!(side_by_side(&a, &later).warnings[0].contains("plan in force"));
}

#[test]
fn a_single_run_a_missing_kind_and_what_changed_since_are_told() {
    let got = side_by_side(&measured("A", &[1.0, 2.0, 3.0], |_| {}), &measured("B", &[9.0], |_| {}));
    assert!(got.warnings[0].contains("B has a spot with only one run"));
    let local_only = Column { name: "B".into(), other_kind_only: true, ..Column::default() };
    let a = measured("A", &[1.0, 2.0, 3.0], |_| {});
    let column = |changed_since| Column {
        name: "A".into(),
        group: choose(groups(slices(&a)), &asked()),
        other_kind_only: false,
        changed_since,
    };
    let got = compare(&[], &column(Vec::new()), &local_only, TestKind::Internet);
    assert!(got.warnings[0].contains("B has local tests only"));
    let got = compare(&[], &column(vec!["Landing node moved 2.1 m".into()]), &Column::default(), TestKind::Internet);
    assert_eq!(got.warnings, ["A was tested before Landing node moved 2.1 m."]);
}
