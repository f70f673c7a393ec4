//! Laws that hold in every home, tried on homes of any shape.

use std::collections::HashMap;

use busy_hen_catalogue::{MaterialUse, clients, materials};
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{Doors, Home, Obstacle, ObstacleId, ObstacleKind, Side, Situation, TestKind, WallChoice};
use busy_hen_job::findings::findings;
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::Radiosity;
use busy_hen_radio::propagation::published::ComparedModel;
use busy_hen_testkit::homes::any_home;
use busy_hen_units::{Degrees, Megahertz, Metres};
use jiff::civil::date;
use proptest::prelude::*;

const FREQUENCIES: [f64; 3] = [2437.0, 5500.0, 6200.0];

fn question(busy: bool) -> Question {
    Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: if busy { Situation::BusyEvening } else { Situation::Alone },
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    }
}

/// Parts of the home's reach, so that places lie in all homes of any shape.
fn place() -> impl Strategy<Value = (f64, f64, f64)> {
    (0.0..1.0, -0.1..1.1, -0.1..1.1)
}

/// Level and coordinates in this house that parts of its reach name.
fn coordinates(plan: &Plan, (level, x, y): (f64, f64, f64)) -> (usize, f64, f64) {
    let (mut west, mut east, mut north, mut south) = (0.0f64, 1.0f64, 0.0f64, 1.0f64);
    for room in &plan.rooms {
        west = west.min(room.rect.x);
        east = east.max(room.rect.x + room.rect.width);
        north = north.min(room.rect.y);
        south = south.max(room.rect.y + room.rect.depth);
    }
    let level = ((level * plan.levels.len() as f64) as usize).min(plan.levels.len() - 1);
    (level, west + x * (east - west), north + y * (south - north))
}

fn at(plan: &Plan, parts: (f64, f64, f64)) -> Point {
    let (level, x, y) = coordinates(plan, parts);
    plan.in_hand(level, x, y)
}

fn loss(home: &Home, doors: Doors, mhz: f64, a: (f64, f64, f64), b: (f64, f64, f64)) -> f64 {
    let plan = Plan::new(&home.house, home.units);
    let waves = Radiosity::new(&plan, Megahertz::new(mhz), doors);
    ComparedModel::Radiosity.loss(&plan, &waves, at(&plan, a), at(&plan, b)).get()
}

/// Whether two places lie in one room, or both in none.
fn together(home: &Home, a: (f64, f64, f64), b: (f64, f64, f64)) -> bool {
    let plan = Plan::new(&home.house, home.units);
    let room = |parts| {
        let (level, x, y) = coordinates(&plan, parts);
        plan.room_index_at(level, x, y)
    };
    room(a) == room(b)
}

proptest! {
    #![proptest_config(ProptestConfig { failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn every_room_of_every_home_has_sound_figures(number: u64, busy: bool) {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        for setup in &home.setups {
            let model = Model::new(&home, setup, &plan, question(busy), &kept);
            for row in model.ledger(&Measured::default()) {
                let got = row.predicted;
                for range in [got.down, got.up] {
                    prop_assert!(0.0 <= range.poor.get() && range.poor <= range.middle && range.middle <= range.good);
                    prop_assert!(range.good.is_finite());
                }
                for delay in [got.latency_ms, got.loaded_ms, got.jitter_ms] {
                    prop_assert!(delay.is_finite() && delay.get() >= 0.0, "{delay:?}");
                }
                prop_assert!(got.loaded_ms >= got.latency_ms);
                prop_assert_eq!(got.call.is_some(), got.served.is_some());
                if let (Some(idle), Some(loaded)) = (got.call, got.loaded_call) {
                    prop_assert!((1.0..=4.5).contains(&loaded.opinion) && loaded.opinion <= idle.opinion + 1e-9, "{got:?}");
                }
                prop_assert!(got.score.is_finite());
                prop_assert!(got.served.is_none_or(|served| served.signal_dbm.is_finite()));
            }
            for level in 0..plan.levels.len() {
                let light = model.coverage(level, Metres::new(1.0));
                prop_assert!(light.dead_zones.iter().all(|zone| zone.area_m2.is_finite()));
            }
        }
    }

    #[test]
    fn loss_is_the_same_both_ways(number: u64, f in 0usize..3, a in place(), b in place()) {
        let home = any_home(number);
        let (there, back) = (loss(&home, Doors::AsLeft, FREQUENCIES[f], a, b), loss(&home, Doors::AsLeft, FREQUENCIES[f], b, a));
        prop_assert!((there - back).abs() < 0.01, "{there} and {back}");
    }

    #[test]
    fn more_wall_is_never_more_signal(number: u64, f in 0usize..3, heavy in any::<prop::sample::Index>(), a in place(), b in place()) {
        let home = any_home(number);
        let mhz = Megahertz::new(FREQUENCIES[f]);
        let through = |key: &str| materials::find(key).unwrap().loss(mhz, Degrees::new(0.0));
        let now = materials::find(&home.house.inner_wall.0).unwrap();
        // What nobody said the material of has no one loss to be under.
        prop_assume!(now.either.is_none());
        let heavier: Vec<_> = materials::all()
            .iter()
            .filter(|one| one.category == MaterialUse::Wall && one.either.is_none())
            .filter(|one| through(&one.key) >= through(&now.key) && one.reflects_part <= now.reflects_part)
            .collect();
        let mut more = home.clone();
        more.house.inner_wall = heavier[heavy.index(heavier.len())].key.as_str().into();
        let (light, heavy) = (loss(&home, Doors::AsLeft, mhz.get(), a, b), loss(&more, Doors::AsLeft, mhz.get(), a, b));
        prop_assert!(heavy >= light - 1e-3, "{} for {}: {heavy} after {light}", more.house.inner_wall.0, now.key);
    }

    #[test]
    fn a_thicker_wall_is_never_more_signal(number: u64, f in 0usize..3, a in place(), b in place(), room in any::<prop::sample::Index>()) {
        let mut home = any_home(number);
        let room = home.house.rooms[room.index(home.house.rooms.len())].id;
        let wall = |cm: f64| WallChoice { room_id: room, side: Side::East, material: "brick215".into(), thickness_m: Some(Metres::new(cm / 100.0)) };
        let mut lost = Vec::new();
        for cm in [10.0, 20.0, 40.0, 80.0] {
            home.house.walls.retain(|own| (own.room_id, own.side) != (room, Side::East));
            home.house.walls.push(wall(cm));
            lost.push(loss(&home, Doors::AsLeft, FREQUENCIES[f], a, b));
        }
        prop_assert!(lost.windows(2).all(|pair| pair[1] >= pair[0] - 1e-3), "{lost:?}");
    }

    #[test]
    fn an_obstacle_is_never_more_signal(number: u64, f in 0usize..3, kind in 0usize..5, a in place(), b in place()) {
        let home = any_home(number);
        let mut more = home.clone();
        more.house.obstacles.push(Obstacle {
            id: ObstacleId::named("one more"),
            kind: ObstacleKind::ALL[kind],
            level_id: home.house.levels[0].id,
            from_x_m: Metres::new(-3.0),
            from_y_m: Metres::new(2.0),
            to_x_m: Metres::new(9.0),
            to_y_m: Metres::new(2.5),
            height_m: Metres::new(2.0),
            depth_m: Metres::new(1.0),
        });
        let (before, after) = (loss(&home, Doors::AsLeft, FREQUENCIES[f], a, b), loss(&more, Doors::AsLeft, FREQUENCIES[f], a, b));
        prop_assert!(after >= before - 1e-6, "{after} after {before}");
    }

    /// A shut door throws back part of what falls on it, so a place on its own side, or round by another door, may gain; at most it is doubled.
    #[test]
    fn shutting_doors_is_hardly_ever_more_signal_in_another_room(number: u64, f in 0usize..3, a in place(), b in place()) {
        let mut home = any_home(number);
        home.house.openings.iter_mut().for_each(|door| door.material = "door".into());
        if together(&home, a, b) {
            return Ok(());
        }
        let (open, shut) = (loss(&home, Doors::Open, FREQUENCIES[f], a, b), loss(&home, Doors::Shut, FREQUENCIES[f], a, b));
        prop_assert!(shut >= open - 3.02, "{shut} shut, {open} open");
    }

    #[test]
    fn a_wider_plan_never_lowers_a_room(number: u64, factor in 1.0f64..9.0, busy: bool) {
        let home = any_home(number);
        let mut wider = home.clone();
        for plan in &mut wider.brief.plans {
            plan.down_mbps = plan.down_mbps * factor;
            plan.up_mbps = plan.up_mbps * factor;
        }
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        for (s, setup) in home.setups.iter().enumerate() {
            let by_room = |home: &Home, s: usize| -> HashMap<_, _> {
                let model = Model::new(home, &home.setups[s], &plan, question(busy), &kept);
                model.ledger(&Measured::default()).into_iter().map(|row| (row.room_id, row.predicted.down)).collect()
            };
            let (narrow, wide) = (by_room(&home, s), by_room(&wider, s));
            for (room, range) in narrow {
                prop_assert!(wide[&room].middle.get() >= range.middle.get() - 1e-9, "{} in {}", setup.letter, plan.room(room).unwrap().name);
            }
        }
    }

    #[test]
    fn moving_a_device_and_back_gives_the_same_map(number: u64) {
        let mut home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        let light = |home: &Home, kept: &Knowledge| Model::new(home, &home.setups[0], &plan, question(false), kept).coverage(0, Metres::new(0.5));
        let before = light(&home, &kept);
        if let Some(place) = home.setups[0].devices.last().map(|device| device.at) {
            home.setups[0].devices.last_mut().unwrap().at.x_m = place.x_m + Metres::new(1.7);
            light(&home, &kept);
            home.setups[0].devices.last_mut().unwrap().at = place;
        }
        prop_assert!(light(&home, &kept) == before, "with what was kept");
        prop_assert!(light(&home, &Knowledge::default()) == before, "and anew");
    }
}

#[test]
fn a_fix_changes_something() {
    for number in [3, 12, 73] {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        for setup in &home.setups {
            for finding in findings(&home, setup, &plan, question(false), &Knowledge::default()) {
                assert_ne!(finding.mended.as_ref(), Some(setup), "{number}: {:?}", finding.fix);
            }
        }
    }
}
