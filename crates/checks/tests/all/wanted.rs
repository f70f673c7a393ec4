//! Whoever has gone is computed for no longer: every long computation of a large home ends soon once it is stopped, and what it leaves behind for others is
//! sound.

use std::collections::HashSet;
use std::time::Instant;

use busy_hen_catalogue::clients;
use busy_hen_demo::canal_terrace;
use busy_hen_floorplan::{HouseEdit, Plan, settle};
use busy_hen_home::{
    Device, DeviceId, Doors, Home, Level, LevelId, Position, RoomId, Setup, Situation, SpotId, TestKind, Uplink, Via,
};
use busy_hen_job::dead_zones::{Problem, remedies};
use busy_hen_job::drills::outages;
use busy_hen_job::findings::findings;
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::progress::Watch;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::Metres;
use jiff::civil::date;

/// A house of so many levels, rooms on each, six in a row, and devices.
fn large(levels: usize, rooms: usize, devices: usize) -> Home {
    let mut home = canal_terrace();
    let level = home.house.levels[0].clone();
    let line = |number: usize, room: usize| match (room, room % 6) {
        (0, _) => format!("R{number} 0 3 x 3\n"),
        (_, 0) => format!("R{number} {room} 3 x 3 south of R{number} {}\n", room - 6),
        _ => format!("R{number} {room} 3 x 3 east of R{number} {}\n", room - 1),
    };
    let count = levels;
    let levels = (0..count).map(|number| Level {
        id: LevelId::random(),
        name: format!("Level {number}"),
        lines: (0..rooms).map(|room| line(number, room)).collect(),
        ..level.clone()
    });
    let edit = HouseEdit { levels: levels.collect(), spots: Vec::new(), ..HouseEdit::from(&home) };
    home.brief.uses.clear();
    home.brief.devices.clear();
    home.brief.complaints.clear();
    settle(&mut home, edit, &HashSet::new(), RoomId::named, SpotId::named);
    let (router, node) = (home.setups[1].devices[0].clone(), home.setups[1].devices[1].clone());
    let at = |number: usize| Position {
        level_id: home.house.levels[number % count].id,
        x_m: Metres::new((number % 6) as f64 * 3.0 + 1.0),
        y_m: Metres::new((number % 5) as f64 * 3.0 + 1.2),
        ..node.at
    };
    let mut placed = vec![Device { at: at(0), ..router }];
    for number in 1..devices {
        let uplink = Some(Uplink::new(placed[number / 2].id, Via::BestRadio));
        placed.push(Device { id: DeviceId::random(), at: at(number), uplink, ..node.clone() });
    }
    home.setups = vec![Setup { devices: placed, ..home.setups[1].clone() }];
    home
}

/// Stops a computation when it has been at it for a tenth of what all of it takes, and holds that it then ends before half of that.
fn ends_soon(what: &str, compute: impl Fn(&Knowledge) -> usize + Sync) {
    let began = Instant::now();
    let whole = compute(&Knowledge::default());
    let takes = began.elapsed();
    let watch = Watch::default();
    let kept = Knowledge::default().wanted_by(&watch);
    let began = Instant::now();
    let (part, ended) = std::thread::scope(|scope| {
        let stopped = watch.clone();
        let stop = scope.spawn(move || {
            // Not a wait for luck: whenever it is, what is under way must end.
            std::thread::sleep(takes / 10);
            stopped.stop();
        });
        let part = compute(&kept);
        let ended = began.elapsed();
        stop.join().unwrap();
        (part, ended)
    });
    assert!(part <= whole, "{what}: {part} of {whole}");
    assert!(ended < takes / 2, "{what} went on for {ended:?} of {takes:?}");
    // What it kept for others is whole: they get what they would have got without it.
    assert_eq!(compute(&kept.wanted_by(&Watch::default())), whole, "{what}");
}

fn question() -> Question {
    Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    }
}

#[test]
fn findings_and_drills_and_hand_overs_end_when_nobody_waits_for_them() {
    let home = large(4, 30, 8);
    let plan = Plan::new(&home.house, home.units);
    let setup = &home.setups[0];
    ends_soon("findings", |kept| findings(&home, setup, &plan, question(), kept).len());
    ends_soon("outages", |kept| outages(&home, setup, (&plan, &question(), kept)).len());
    ends_soon("hand-over", |kept| Model::new(&home, setup, &plan, question(), kept).hand_overs().len());
}

#[test]
fn remedies_and_the_ledger_end_when_nobody_waits_for_them() {
    let home = large(2, 12, 4);
    let plan = Plan::new(&home.house, home.units);
    let setup = &home.setups[0];
    let room = plan.rooms.last().unwrap();
    let (at, room) = (plan.middle_of(room), room.id);
    let ailing = || Problem { home: &home, setup, plan: &plan, question: question(), at, room, measured: None };
    ends_soon("remedies", |kept| remedies(ailing(), kept).len());
    ends_soon("ledger", |kept| Model::new(&home, setup, &plan, question(), kept).ledger(&Measured::default()).len());
    let stopped = Watch::default();
    stopped.stop();
    let none = findings(&home, setup, &plan, question(), &Knowledge::default().wanted_by(&stopped));
    assert!(none.is_empty(), "stopped before it began");
}
