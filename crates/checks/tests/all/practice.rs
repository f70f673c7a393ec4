//! Situations from practice (common practice; layouts ours): how near the predictions come to what was read, and whether the
//! stated ranges hold it. Prints factor and coverage for every row; asserts the bars over all of them.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Doors, Home, Opening, OpeningKind, RoomId, Side, Situation, TestKind};
use busy_hen_predict::{Knowledge, Model, Prediction, Question};
use busy_hen_testkit::practice::{home, rows};
use busy_hen_units::Metres;
use jiff::civil::date;

#[test]
fn predictions_come_near_what_practice_reads_and_their_ranges_hold_it() {
    let all = rows();
    let (mut near, mut beyond, mut held) = (0, 0, 0);
    for row in &all {
        let found = row.predicted_in(&home(&row.file));
        let middle = found.down.middle.get();
        let (factor, holds) = (row.factor(&found), row.is_held_by(&found));
        near += usize::from((1.0 / 1.3..=1.3).contains(&factor));
        beyond += usize::from(!(0.5..=2.0).contains(&factor));
        held += usize::from(holds);
        println!(
            "{:28} {} {:>4.0}-{:<4.0} read, {:>4.0} ({:.0} to {:.0}) predicted, x{factor:.2}{} {}",
            row.file,
            row.setup,
            row.low,
            row.high,
            middle,
            found.down.poor.get(),
            found.down.good.get(),
            if holds { "" } else { " OUTSIDE" },
            row.what
        );
    }
    println!("{near} of {} within 1.3, {beyond} beyond 2, ranges hold {held}", all.len());
    assert!(near * 4 >= all.len() * 3, "three in four come within a factor of 1.3");
    assert!(beyond <= 1, "at most one is beyond a factor of two");
    assert!((all.len() * 7 / 10..all.len()).contains(&held), "ten to ninety per cent is not everything, and not less");
}

/// Where nobody drew a door, rooms in a row and rooms along a hall are told alike, and each range holds the other's middle.
#[test]
fn layouts_that_are_told_alike_are_predicted_alike() {
    for row in rows().iter().filter(|row| row.file.ends_with("-rooms")) {
        let of = |file: &str| row.predicted_in(&home(file));
        let (rooms, hall) = (of(&row.file), of(&row.file.replace("-rooms", "-hall")));
        for (one, other) in [(&rooms, &hall), (&hall, &rooms)] {
            let holds = one.down.poor <= other.down.middle && other.down.middle <= one.down.good;
            assert!(holds, "{} {}: {:?} does not hold {:?}", row.file, row.setup, one.down, other.down.middle);
        }
        let signal = |found: &Prediction| found.served.unwrap().signal_dbm.get();
        let off = (signal(&rooms) - signal(&hall)).abs();
        println!("{} {}: {off:.1} dB apart", row.file, row.setup);
        assert!(off <= 6.0, "{} {}: {off:.1} dB apart", row.file, row.setup);
    }
}

/// Whose doors are to be drawn at the far end of a heavy flat, and what they decide.
fn asked(home: &Home) -> Option<(String, f64, f64)> {
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let question = Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach: TestKind::Local,
        day: date(2026, 11, 1),
    };
    let model = Model::new(home, &home.setups[0], &plan, question, &kept);
    let room = plan.rooms.iter().find(|room| room.name == "P4").unwrap();
    let found = model.undrawn(plan.middle_of(room), room.id)?;
    Some((found.room, found.low_mbps.get(), found.high_mbps.get()))
}

#[test]
fn what_nobody_drew_is_asked_where_it_decides_and_not_where_it_is_drawn() {
    let mut home = home("concrete-row-of-four-hall");
    let (room, low, high) = asked(&home).expect("doors decide there");
    assert_eq!(room, "P4");
    assert!(high > 1.5 * low && high > 10.0, "{low} or {high}");
    let rooms: Vec<(RoomId, String)> = home.house.rooms.iter().map(|room| (room.id, room.name.clone())).collect();
    for (room_id, name) in rooms.into_iter().filter(|(_, name)| !name.ends_with("Hall")) {
        let side = if name.contains('P') { Side::South } else { Side::North };
        let (kind, material) = (OpeningKind::Door, "door".into());
        let width_m = Metres::new(0.8);
        home.house.openings.push(Opening { room_id, side, kind, material, open: true, along_part: 0.5, width_m });
    }
    assert_eq!(asked(&home), None);
}
