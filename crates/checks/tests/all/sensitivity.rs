//! What a path leans on, against the law itself with a part of the house changed a little.

use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{BuildingPart, Doors, Home, LossCorrection, Opening, OpeningKind, PerBand, RoomId, Side, WallKey};
use busy_hen_radio::propagation::{PartOfHouse, Radiosity, Sight};
use busy_hen_testkit::homes::any_home;
use busy_hen_units::{Db, Megahertz, Metres};
use proptest::prelude::*;

const MHZ: Megahertz = Megahertz::new(5500.0);
const STEP: f64 = 0.01;

fn loss(home: &Home, a: Point, b: Point) -> f64 {
    let plan = Plan::new(&home.house, home.units);
    let waves = Radiosity::new(&plan, MHZ, Doors::AsLeft);
    let (from, to) = (plan.surfaces.view(&a), plan.surfaces.view(&b));
    waves.loss(&Sight::between(&plan, a, b), &waves.diffuse_field(&from), &to, Db::new(0.0)).get()
}

/// The terrace with the doors of front and back room drawn to the hall: no door between the two.
fn drawn() -> Home {
    let mut home = busy_hen_demo::canal_terrace();
    for room in ["Front room", "Back room"] {
        home.house.openings.push(Opening {
            room_id: RoomId::named(room),
            side: Side::East,
            kind: OpeningKind::Door,
            material: "door".into(),
            open: true,
            along_part: 0.5,
            width_m: Metres::new(0.8),
        });
    }
    home
}

fn sensitivities(home: &Home, a: Point, b: Point) -> Vec<busy_hen_radio::propagation::Sensitivity> {
    let plan = Plan::new(&home.house, home.units);
    let waves = Radiosity::new(&plan, MHZ, Doors::AsLeft);
    let (from, to) = (plan.surfaces.view(&a), plan.surfaces.view(&b));
    waves.sensitivities(&Sight::between(&plan, a, b), &from, &waves.diffuse_field(&from), &to, Db::new(0.0))
}

fn corrected(home: &Home, of: BuildingPart, more: f64) -> Home {
    let mut home = home.clone();
    home.house.corrections.push(LossCorrection { of, more_db: PerBand { ghz_5: Db::new(more), ..PerBand::default() } });
    home
}

fn wall(room: &str, side: Side, beyond: Option<&str>) -> BuildingPart {
    let (room_id, beyond) = (RoomId::named(room), beyond.map(RoomId::named));
    BuildingPart::Wall(WallKey { room_id, part: 0, side, beyond, stretch: 0 })
}

#[test]
fn one_wall_between_two_rooms_is_what_the_path_between_them_leans_on() {
    let home = drawn();
    let plan = Plan::new(&home.house, home.units);
    let (a, b) = (plan.in_hand(0, 1.5, 3.0), plan.in_hand(0, 1.5, 6.0));
    let first = sensitivities(&home, a, b)[0];
    let PartOfHouse::Wall(key) = first.on else { panic!("{first:?}") };
    let names =
        [plan.room(key.room_id), key.beyond.and_then(|id| plan.room(id))].map(|room| room.unwrap().name.clone());
    assert_eq!(names, ["Front room", "Back room"]);
    assert!(first.db_per_db > 0.3 && first.db_per_db <= 1.0, "{first:?}");
}

#[test]
fn a_correction_holds_in_its_band_alone_and_the_wall_keeps_it_through_edits() {
    let home = drawn();
    let plan = Plan::new(&home.house, home.units);
    let (a, b) = (plan.in_hand(0, 1.5, 3.0), plan.in_hand(0, 1.5, 6.0));
    let part = wall("Front room", Side::South, Some("Back room"));
    let mut changed = corrected(&home, part, 20.0);
    let more = loss(&changed, a, b) - loss(&home, a, b);
    assert!(more > 3.0, "{more}");
    let at = |home: &Home, mhz: f64| {
        let plan = Plan::new(&home.house, home.units);
        let waves = Radiosity::new(&plan, Megahertz::new(mhz), Doors::AsLeft);
        let view = |p: &Point| plan.surfaces.view(p);
        waves.loss(&Sight::between(&plan, a, b), &waves.diffuse_field(&view(&a)), &view(&b), Db::new(0.0)).get()
    };
    assert!((at(&changed, 2437.0) - at(&home, 2437.0)).abs() < 1e-9, "nothing was said of 2.4 GHz");
    changed
        .house
        .rooms
        .iter_mut()
        .filter(|room| room.name == "Front room")
        .for_each(|room| room.name = "Parlour".into());
    for level in &mut changed.house.levels {
        level.lines = level.lines.replace("Front room", "Parlour").replace("3.4 x 4.0", "3.4 x 4.3");
    }
    let plan = Plan::new(&changed.house, changed.units);
    assert!(plan.walls.iter().any(|wall| BuildingPart::Wall(wall.key) == part && wall.more.ghz_5.get() > 19.0));
}

#[test]
fn every_wall_has_a_name_of_its_own() {
    for number in 0..60 {
        let plan = {
            let home = any_home(number);
            Plan::new(&home.house, home.units)
        };
        let mut keys: Vec<WallKey> = plan.walls.iter().map(|wall| wall.key).collect();
        keys.sort();
        let count = keys.len();
        keys.dedup();
        assert_eq!(keys.len(), count, "home {number}");
    }
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 48, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn leaning_is_the_derivative_of_the_loss(number: u64, a in (0.0..1.0, 0.05..0.95, 0.05..0.95), b in (0.0..1.0, 0.05..0.95, 0.05..0.95)) {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        let place = |(level, x, y): (f64, f64, f64)| {
            let level = ((level * plan.levels.len() as f64) as usize).min(plan.levels.len() - 1);
            let bounds = plan.bounds(level)?;
            Some(plan.in_hand(level, bounds.x + x * bounds.width, bounds.y + y * bounds.depth))
        };
        let (Some(a), Some(b)) = (place(a), place(b)) else { return Ok(()) };
        let base = loss(&home, a, b);
        for lean in sensitivities(&home, a, b).into_iter().take(4) {
            let part = match lean.on {
                PartOfHouse::Wall(key) => BuildingPart::Wall(key),
                PartOfHouse::FloorUnder(level) => BuildingPart::FloorUnder(level),
                PartOfHouse::Opening { .. } => continue,
            };
            let felt = (loss(&corrected(&home, part, STEP), a, b) - base) / STEP;
            // What a wall throws back changes too where it lets nearly all through; that is not counted.
            prop_assert!((felt - lean.db_per_db).abs() < 0.05 + 0.05 * felt.abs(), "{lean:?}: {felt}");
        }
    }
}
