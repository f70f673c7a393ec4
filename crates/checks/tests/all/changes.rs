//! What differs between two states of a home, in words: the names of steps to undo, and what has changed since a round was taken.

use busy_hen_floorplan::lines::restate::restate;
use busy_hen_home::{Home, LengthUnit};
use busy_hen_job::changes::{since_tested, step_name};
use busy_hen_units::{Megahertz, Metres};

fn changed(change: impl FnOnce(&mut Home)) -> (String, Vec<String>) {
    let before = busy_hen_demo::canal_terrace();
    let mut after = before.clone();
    change(&mut after);
    let setup = before.setups[1].id;
    let tested = Home { setups: vec![before.setups[1].clone()], ..before.clone() };
    (step_name(&before, &after), since_tested(&tested, setup, &after))
}

#[test]
fn a_step_is_named_by_what_it_did() {
    let (step, since) = changed(|home| home.setups[1].devices[1].at.x_m += Metres::new(2.1));
    assert_eq!(step, "move Landing node");
    assert_eq!(since, ["Landing node moved 2.1 m"]);
    let (step, since) = changed(|home| home.brief.complaint.push('!'));
    assert_eq!((step.as_str(), since.len()), ("edit of the complaint", 0), "bears on no reading");
    let (step, _) = changed(|home| {
        home.brief.complaint.push('!');
        home.setups[1].name.push('!');
    });
    assert_eq!(step, "edit of the complaint and 1 more");
}

#[test]
fn what_bears_on_readings_is_told_and_what_happens_in_other_setups_is_not() {
    let (_, since) = changed(|home| home.setups[0].devices[0].radios[0].on = false);
    assert!(since.is_empty(), "setup A was not the one tested");
    let (_, since) = changed(|home| home.setups[1].devices[0].radios[1].channel = 100);
    assert_eq!(since, ["5 GHz of Router went from channel 36 to 100"]);
    let (_, since) = changed(|home| home.setups[1].devices[0].radios[1].width_mhz = Megahertz::new(40.0));
    assert!(since[0].contains("to 40 MHz wide"), "{since:?}");
    let (_, since) = changed(|home| home.house.levels[0].lines.push_str("\nShed 2 x 2 west of Garden"));
    assert_eq!(since, ["the rooms of Ground changed"]);
    let (_, since) = changed(|home| {
        home.setups.remove(1);
    });
    assert_eq!(since, ["the setup was deleted"]);
}

#[test]
fn what_a_setup_keeps_for_people_bears_on_no_reading_and_still_has_a_name() {
    type Edit = fn(&mut Home);
    let edits: [(Edit, &str); 6] = [
        (|home| home.setups[1].why.push('!'), "why setup B is tried"),
        (|home| home.setups[1].archived = true, "put away setup B"),
        (|home| home.setups.reverse(), "order of the setups"),
        (|home| home.in_force = Some(home.setups[1].id), "setup in force"),
        (|home| home.setups[1].devices[0].there_already = true, "who has Router"),
        (
            |home| home.setups[1].devices[1].uplink.iter_mut().for_each(|up| up.port = Some(2)),
            "way of the cable to Landing node",
        ),
    ];
    for (edit, name) in edits {
        let (step, since) = changed(edit);
        assert_eq!((step.as_str(), since.len()), (name, 0));
    }
    let (_, since) = changed(|home| home.setups[1].devices[0].radios[1].turned_down_db = busy_hen_units::Db::new(6.0));
    assert_eq!(since, ["5 GHz of Router was turned down by 6 dB instead of 0 dB"]);
}

#[test]
fn lengths_are_told_in_the_homes_unit() {
    let (_, since) = changed(|home| {
        let lines = home.house.levels.iter_mut().map(|level| &mut level.lines);
        lines.for_each(|lines| *lines = restate(lines, LengthUnit::Metre));
        home.units = LengthUnit::Foot;
        home.setups[1].devices[1].at.x_m += Metres::new(3.048);
        home.setups[1].devices[0].at.x_m += Metres::new(0.1);
    });
    assert_eq!(since, ["Router moved 0.3 ft", "Landing node moved 10 ft"]);
}
