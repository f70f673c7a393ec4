//! Walks of several setups laid over one another: speed over distance, or signal along a route.

use busy_hen_home::{LengthUnit, Mark, Outcome, Run, SetupId, SpotId};
use busy_hen_survey::readings::walks::{Walked, Walks, walks};
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::{Dbm, Metres};

fn at(mark: Mark, down: f64) -> Run {
    let round = round("walk", SetupId::named("A"), Vec::new());
    Run { mark: Some(mark), ..run(&round, SpotId::named("garden"), down) }
}

fn far(metres: f64, down: f64) -> Run {
    at(Mark { distance_m: Some(Metres::new(metres)), ..Mark::default() }, down)
}

fn over(a: &[Run], b: &[Run], by_distance: bool) -> Option<Walks> {
    let of = |letter, runs| Walked { setup_id: SetupId::named(letter), letter, runs };
    walks(&[of("A", a), of("B", b)], by_distance, LengthUnit::Metre)
}

#[test]
fn the_distance_where_one_overtakes_is_told() {
    let near = [far(2.0, 300.0), far(10.0, 100.0), far(20.0, 10.0)];
    let wide = [far(2.0, 200.0), far(10.0, 80.0), far(20.0, 40.0), far(30.0, 12.0)];
    let own = over(&near, &wide, true).unwrap();
    assert_eq!((own.stops.len(), own.lines.len()), (4, 2));
    assert_eq!(own.lines[0].values[3], None, "nobody went so far with A");
    // From 20 behind to 30 ahead within ten metres: after four.
    assert_eq!(own.told, ["B overtakes A at 14.0 m."]);
    assert_eq!(over(&near, &near, true).unwrap().told, Vec::<String>::new());
    assert!(over(&near, &[], true).is_none());
}

#[test]
fn routes_are_laid_over_one_another_by_their_marks() {
    let heard = |name: &str, signal: f64| Run {
        outcome: Outcome::Heard,
        signal_dbm: Some(Dbm::new(signal)),
        ..at(Mark { name: name.into(), ..Mark::default() }, 0.0)
    };
    let a = [heard("door", -50.0), heard("stairs", -60.0), heard("attic", -80.0)];
    let b = [heard("door", -58.0), heard("stairs", -62.0), heard("attic", -61.0)];
    let own = over(&a, &b, false).unwrap();
    let names: Vec<&str> = own.stops.iter().map(|stop| stop.name.as_str()).collect();
    assert_eq!(names, ["door", "stairs", "attic"]);
    assert_eq!(own.told, ["B overtakes A at stairs."]);
}
