//! What is dragged and drawn stands in the lines.

use busy_hen_floorplan::draw;
use busy_hen_floorplan::lines::rewrite::{Change, rewrite};
use busy_hen_home::{LevelId, Side};

use super::*;

#[test]
fn a_room_dragged_says_so_in_its_line() {
    let lines = "# as paced\nHall 2 x 5 # front\nKitchen 4 x 3 east of Hall # warm\nStore 1 x 1 south of Kitchen";
    let moved = |room: &str, x: f64, y: f64| {
        let lines = done(lines, &Change::MoveRoom { room: room.into(), east_m: m(x), south_m: m(y) });
        (lines.lines().find(|line| line.starts_with(room)).unwrap().to_owned(), lines)
    };
    assert_eq!(moved("Kitchen", 0.0, 1.0).0, "Kitchen 4 x 3 east of Hall offset 1 # warm");
    assert_eq!(moved("Kitchen", 2.5, 0.0).0, "Kitchen 4 x 3 2.5 east of Hall # warm");
    assert_eq!(moved("Kitchen", -2.0, 5.0).0, "Kitchen 4 x 3 south of Hall # warm", "round the corner");
    assert_eq!(moved("Hall", 1.0, 0.5).0, "Hall 2 x 5 at 1, 0.5 # front");
    let (_, all) = moved("Kitchen", 0.0, 1.0);
    assert!(all.starts_with("# as paced\nHall 2 x 5 # front\n"));
    assert_eq!(rects(&typed(&all), "Store"), [(2.0, 4.0, 1.0, 1.0)], "what leans on it goes along");
}

#[test]
fn a_wall_dragged_moves_all_rooms_at_it_and_nothing_else() {
    let lines =
        "Hall 2 x 5\nKitchen 4 x 3 east of Hall\nDen 4 x 2 south of Kitchen\nBath 3 x 2 east of Kitchen offset 0.5";
    let after = done(lines, &Change::MoveSide { room: "Hall".into(), part: 0, side: Side::East, by_m: m(0.5) });
    let typed = typed(&after);
    assert_eq!(typed.faults, [], "{after}");
    assert_eq!(rects(&typed, "Hall"), [(0.0, 0.0, 2.5, 5.0)]);
    assert_eq!(rects(&typed, "Kitchen"), [(2.5, 0.0, 3.5, 3.0)]);
    assert_eq!(rects(&typed, "Den"), [(2.5, 3.0, 3.5, 2.0)], "it stands at the same wall");
    assert_eq!(rects(&typed, "Bath"), [(6.0, 0.5, 3.0, 2.0)], "stays");
    let outer = done(lines, &Change::MoveSide { room: "Hall".into(), part: 0, side: Side::West, by_m: m(-0.3) });
    let outer = self::typed(&outer);
    assert_eq!(rects(&outer, "Hall"), [(-0.3, 0.0, 2.3, 5.0)]);
    assert_eq!(rects(&outer, "Bath"), [(6.0, 0.5, 3.0, 2.0)]);
}

#[test]
fn a_wall_of_a_room_of_parts_moves_without_its_other_parts() {
    let lines = "Kitchen 4 x 3 + 2 x 2 south flush east\nHall 2 x 3 west of Kitchen";
    let after = done(lines, &Change::MoveSide { room: "Kitchen".into(), part: 0, side: Side::South, by_m: m(0.5) });
    assert_eq!(rects(&typed(&after), "Kitchen"), [(0.0, 0.0, 4.0, 3.5), (2.0, 3.5, 2.0, 1.5)], "{after}");
    let after = done(lines, &Change::MoveSide { room: "Kitchen".into(), part: 1, side: Side::West, by_m: m(-0.4) });
    assert_eq!(rects(&typed(&after), "Kitchen"), [(0.0, 0.0, 4.0, 3.0), (1.6, 3.0, 2.4, 2.0)], "{after}");
    let after = done(lines, &Change::MoveSide { room: "Kitchen".into(), part: 0, side: Side::West, by_m: m(0.5) });
    assert_eq!(rects(&typed(&after), "Kitchen"), [(0.5, 0.0, 3.5, 3.0), (2.0, 3.0, 2.0, 2.0)], "{after}");
    assert_eq!(rects(&typed(&after), "Hall"), [(-2.0, 0.0, 2.5, 3.0)]);
}

#[test]
fn things_dragged_say_so_where_they_stand() {
    let lines =
        "Hall 2 x 5; door east at 1 # to the kitchen\n- window west; stairs 0.9 x 2 north; power socket east at 2";
    let moved = |line: usize, from: usize, x: f64, y: f64| {
        let at = (LevelId::named("g"), line, from);
        let change = Change::MoveThing { level_id: at.0, line: at.1, from: at.2, east_m: m(x), south_m: m(y) };
        done(lines, &change).lines().nth(line).unwrap().to_owned()
    };
    assert_eq!(moved(0, 12, 0.3, 0.5), "Hall 2 x 5; door east at 1.5 # to the kitchen");
    assert_eq!(moved(0, 12, 0.0, 99.0), "Hall 2 x 5; door east at 4.2 # to the kitchen", "as far as the wall goes");
    assert!(moved(1, 2, 0.0, -1.0).starts_with("- window west at 0.9; stairs"));
    assert!(moved(1, 15, 0.2, 1.0).contains("stairs 0.9 x 2 north at 0.75, 1;"));
    let removed =
        |line: usize, from: usize| done(lines, &Change::RemoveThing { level_id: LevelId::named("g"), line, from });
    assert!(removed(0, 12).starts_with("Hall 2 x 5 # to the kitchen\n"));
    assert!(removed(1, 2).ends_with("\n- stairs 0.9 x 2 north; power socket east at 2"));
    assert!(removed(1, 15).ends_with("\n- window west; power socket east at 2"));
}

#[test]
fn what_is_drawn_becomes_lines() {
    let lines = "Hall 2 x 5";
    let room = Change::AddRoom {
        level_id: LevelId::named("g"),
        x_m: m(2.0),
        y_m: m(1.0),
        width_m: m(3.0),
        depth_m: m(4.0),
        outdoors: false,
    };
    assert_eq!(done(lines, &room), "Hall 2 x 5\nRoom 3 x 4 east of Hall flush south");
    assert_eq!(done("", &room), "Room 3 x 4 at 2, 1");
    let door = Change::AddThing { room: "hall".into(), words: "door east; at\n1".into() };
    assert_eq!(
        done("Hall 2 x 5 # front\nDen 2 x 2 east of Hall", &door),
        "Hall 2 x 5 # front\n- door east  at 1\nDen 2 x 2 east of Hall"
    );
    let wall = |material: Option<&str>| Change::SetWall {
        room: "Hall".into(),
        side: Side::North,
        material: material.map(Into::into),
        thickness_m: None,
    };
    let stone = done("Hall 2 x 5\n- door east", &wall(Some("stone400")));
    assert_eq!(stone, "Hall 2 x 5\n- door east; north stone");
    assert_eq!(done(&stone, &wall(Some("cavity"))), "Hall 2 x 5\n- door east; north cavity");
    assert_eq!(done(&stone, &wall(None)), "Hall 2 x 5\n- door east");
    let renamed = Change::Rename { room: "Hall".into(), to: "Lobby".into() };
    assert_eq!(
        done("Hall 2 x 5\nDen 2 x 2 east of hall\n- door to Hall\nHall: window west", &renamed),
        "Lobby 2 x 5\nDen 2 x 2 east of Lobby\n- door to Lobby\nLobby: window west"
    );
}

/// The end of a wall is reckoned twice, and rounding may put a door as wide as the wall before its start.
#[test]
fn a_door_as_wide_as_its_wall_is_refused_in_words() {
    let typed = draw(&[level("g", "R0 3 x 1\nR1 0.8 x 0.8 south of R0 offset 0.19\n- door south at 0.1")], M);
    let told: Vec<&str> = typed.faults.iter().map(|fault| fault.wrong.message.as_str()).collect();
    assert!(matches!(told[..], [only] if only.contains("past the end of the south side")), "{told:?}");
}

#[test]
fn a_level_is_copied_over_another() {
    let levels = [
        level(
            "Ground",
            "Hall 2 x 5\nKitchen 4 x 3 + 2 x 1 south flush east east of Hall\nYard 3 x 3 south of Hall outdoors",
        ),
        level("First", ""),
    ];
    let change = Change::CopyLevel { of: levels[0].id, to: levels[1].id };
    let after = rewrite(&levels, M, &change, false).unwrap();
    assert_eq!(
        after[1].lines,
        "First Hall 2 x 5 above Hall\nFirst Kitchen 4 x 3 + 2 x 1 south flush east above Kitchen"
    );
    let typed = draw(&after, M);
    assert_eq!(typed.faults, []);
    assert_eq!(rects(&typed, "First Kitchen"), rects(&typed, "Kitchen"));
}
