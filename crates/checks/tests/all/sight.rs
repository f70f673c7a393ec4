//! The straight line between two places: what it crosses, how slantingly, and how much of it runs outdoors.

use busy_hen_floorplan::Plan;
use busy_hen_home::{LevelId, Obstacle, ObstacleId, ObstacleKind, Opening, OpeningKind, RoomId, Side};
use busy_hen_radio::propagation::sight::Sight;
use busy_hen_units::Metres;

fn plan() -> Plan {
    let home = busy_hen_demo::canal_terrace();
    Plan::new(&home.house, home.units)
}

fn words_in(plan: &Plan, a: (usize, f64, f64), b: (usize, f64, f64)) -> String {
    Sight::between(plan, plan.in_hand(a.0, a.1, a.2), plan.in_hand(b.0, b.1, b.2)).in_words(plan)
}

fn words(a: (usize, f64, f64), b: (usize, f64, f64)) -> String {
    words_in(&plan(), a, b)
}

#[test]
fn what_lies_between_two_places_is_told() {
    assert_eq!(words((0, 1.0, 1.0), (0, 2.0, 3.0)), "nothing in the way");
    assert_eq!(words((0, 1.0, 1.0), (0, 1.0, 6.0)), "1 inner wall");
    assert_eq!(words((0, 1.0, 8.0), (0, 1.0, 12.0)), "1 outer wall");
    assert_eq!(words((0, 1.0, 1.0), (1, 1.0, 1.5)), "1 floor");
    assert_eq!(words((0, 1.0, 1.0), (2, 1.0, 1.5)), "2 floors");
}

#[test]
fn a_line_that_leaves_an_upper_window_crosses_no_floor_over_the_garden() {
    assert_eq!(words((1, 2.0, 8.5), (0, 2.0, 20.0)), "1 outer wall");
}

#[test]
fn a_drawn_door_and_an_obstacle_are_told() {
    let mut home = busy_hen_demo::canal_terrace();
    home.house.openings.push(Opening {
        room_id: RoomId::named("Front room"),
        side: Side::South,
        kind: OpeningKind::Door,
        material: "door".into(),
        open: true,
        along_part: 0.5,
        width_m: Metres::new(0.9),
    });
    home.house.obstacles.push(Obstacle {
        id: ObstacleId::named("hedge"),
        kind: ObstacleKind::Hedge,
        level_id: LevelId::named("Ground"),
        from_x_m: Metres::new(0.0),
        from_y_m: Metres::new(15.0),
        to_x_m: Metres::new(4.8),
        to_y_m: Metres::new(15.0),
        height_m: Metres::new(2.0),
        depth_m: Metres::new(1.0),
    });
    let plan = Plan::new(&home.house, home.units);
    assert_eq!(words_in(&plan, (0, 1.7, 3.0), (0, 1.7, 5.0)), "1 opening");
    assert_eq!(words_in(&plan, (0, 0.5, 3.0), (0, 0.5, 5.0)), "1 inner wall");
    assert_eq!(words_in(&plan, (0, 2.0, 12.0), (0, 2.0, 18.0)), "1 hedge or trees");
}

#[test]
fn the_part_under_the_sky_is_told_apart() {
    let plan = plan();
    let sight = |y1, y2| Sight::between(&plan, plan.in_hand(0, 2.0, y1), plan.in_hand(0, 2.0, y2));
    assert!(sight(1.0, 3.0).outdoors.abs() < 1e-9);
    assert!((sight(12.0, 20.0).outdoors - 1.0).abs() < 1e-9);
    let kitchen_wall = 9.4;
    let half = sight(kitchen_wall - 2.0, kitchen_wall + 2.0);
    assert!((half.outdoors - 0.5).abs() < 1e-6, "{}", half.outdoors);
}

#[test]
fn a_slanting_line_meets_a_wall_at_its_angle() {
    let plan = plan();
    let slanting = Sight::between(&plan, plan.in_hand(0, 0.5, 2.0), plan.in_hand(0, 2.5, 6.0));
    let crossing = slanting.crossings[0];
    assert!((crossing.from_normal().get() - (0.5f64).atan().to_degrees()).abs() < 1e-6);
}

#[test]
fn from_a_place_to_itself_nothing_is_crossed() {
    let plan = plan();
    let here = plan.in_hand(0, 1.0, 1.0);
    assert!(Sight::between(&plan, here, here).crossings.is_empty());
}
