//! Setups side by side: changes by room, and the warnings when columns are not like for like.

use busy_hen_engine::readings::compare::{Column, Comparison, compare};
use busy_hen_home::{Band, Doors, PlanId, RoomId, Round, Run, SetupId, SpotId, TestKind};
use busy_hen_testkit::runs::{round, run};

fn column(rounds: &[(Round, Vec<Run>)]) -> Column<'_> {
    Column {
        rounds: rounds.iter().map(|(round, runs)| (round, runs.iter().collect())).collect(),
        other_kind_only: false,
    }
}

fn measured(name: &str, downs: &[f64], change: impl FnOnce(&mut Round)) -> Vec<(Round, Vec<Run>)> {
    let mut round = round(name, SetupId::named(name), vec![SpotId::named("Study")]);
    change(&mut round);
    let runs = downs.iter().map(|down| run(&round, SpotId::named("Study"), *down)).collect();
    vec![(round, runs)]
}

fn side_by_side(a: &[(Round, Vec<Run>)], b: &[(Round, Vec<Run>)]) -> Comparison {
    let rooms = [RoomId::named("Study"), RoomId::named("Hall")];
    let belongs = |run: &Run| (run.spot_id == SpotId::named("Study")).then(|| RoomId::named("Study"));
    compare(&rooms, belongs, ("A", &column(a)), ("B", &column(b)), TestKind::Internet)
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
fn a_single_run_and_a_missing_kind_are_told() {
    let got = side_by_side(&measured("A", &[1.0, 2.0, 3.0], |_| {}), &measured("B", &[9.0], |_| {}));
    assert!(got.warnings[0].contains("B has a spot with only one run"));
    let local_only = Column { other_kind_only: true, ..Column::default() };
    let a = measured("A", &[1.0, 2.0, 3.0], |_| {});
    let got = compare(&[], |_| None, ("A", &column(&a)), ("B", &local_only), TestKind::Internet);
    assert!(got.warnings[0].contains("B has local tests only"));
}
