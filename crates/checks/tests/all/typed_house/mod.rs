//! A house as it is typed: lines to rooms and what is in them, and what is done on the drawing back to lines.
#![allow(missing_docs)]

mod dragged;
mod lengths;

use busy_hen_floorplan::lines::grammar::GRAMMAR;
use busy_hen_floorplan::lines::lengths::{read_length, say_length, write_length};
use busy_hen_floorplan::lines::line::{Of, read};
use busy_hen_floorplan::lines::restate::restate;
use busy_hen_floorplan::lines::rewrite::{Change, rewrite};
use busy_hen_floorplan::lines::whole::{read_house, write_house};
use busy_hen_floorplan::lines::words::material_called;
use busy_hen_floorplan::missing::{Action, missing};
use busy_hen_floorplan::starts::{LOOKS, STARTS};
use busy_hen_floorplan::{Plan, Typed, draw};
use busy_hen_home::{House, LengthUnit, Level, LevelId, Side};
use busy_hen_units::Metres;
use proptest::prelude::*;

pub(crate) const M: LengthUnit = LengthUnit::Metre;

pub(crate) const FT: LengthUnit = LengthUnit::Foot;

pub(crate) fn m(metres: f64) -> Metres {
    Metres::new(metres)
}

pub(crate) fn level(name: &str, lines: &str) -> Level {
    Level {
        id: LevelId::named(name),
        name: name.into(),
        height_m: Metres::new(2.6),
        floor: "timber_floor".into(),
        lines: lines.into(),
        tracing: None,
    }
}

pub(crate) fn typed(lines: &str) -> Typed {
    draw(&[level("g", lines)], M)
}

pub(crate) fn rects(typed: &Typed, name: &str) -> Vec<(f64, f64, f64, f64)> {
    let room =
        typed.rooms.iter().find(|room| room.name == name).unwrap_or_else(|| panic!("{name}: {:?}", typed.faults));
    room.rects.iter().map(|rect| (rect.x, rect.y, rect.width, rect.depth)).collect()
}

pub(crate) fn faults(lines: &str) -> Vec<String> {
    typed(lines).faults.into_iter().map(|fault| fault.wrong.message).collect()
}

/// The lines as the fix of this number of the first fault leaves them.
pub(crate) fn fixed(lines: &str, unit: LengthUnit, number: usize) -> String {
    let fault = draw(&[level("g", lines)], unit).faults.into_iter().next().expect("a fault");
    let fix = &fault.wrong.fixes[number];
    let mut list: Vec<String> = lines.split('\n').map(str::to_owned).collect();
    let chars: Vec<char> = list[fault.line].chars().collect();
    list[fault.line] =
        chars[..fix.from].iter().copied().chain(fix.with.chars()).chain(chars[fix.to..].iter().copied()).collect();
    list.join("\n")
}

pub(crate) fn done(lines: &str, change: &Change) -> String {
    let levels = rewrite(&[level("g", lines)], M, change, false).expect("it can be done");
    levels[0].lines.clone()
}

#[test]
fn an_outdoor_area_over_a_room_is_told_and_the_room_cut_out_of_it() {
    let lines = "Kitchen 4 x 3\nPottery 3 x 3 12 south of Kitchen\nGarden 5 x 16 south of Kitchen outdoors";
    for unit in [M, FT] {
        let lines = if unit == M {
            lines.to_owned()
        } else {
            lines
                .replace(" 12 ", " 39' ")
                .replace("5 x 16", "16' x 52'")
                .replace("4 x 3", "13' x 10'")
                .replace("3 x 3", "10' x 10'")
        };
        let typed = draw(&[level("g", &lines)], unit);
        assert!(typed.faults.is_empty(), "{:?}", typed.faults);
        let [doubt] = &typed.doubts[..] else { panic!("{:?}", typed.doubts) };
        assert!(doubt.wrong.message.starts_with("Garden lies over Pottery by "), "{}", doubt.wrong.message);
        let fix = &doubt.wrong.fixes[0];
        let mut list: Vec<String> = lines.split('\n').map(str::to_owned).collect();
        let chars: Vec<char> = list[doubt.line].chars().collect();
        list[doubt.line] =
            chars[..fix.from].iter().copied().chain(fix.with.chars()).chain(chars[fix.to..].iter().copied()).collect();
        let after = draw(&[level("g", &list.join("\n"))], unit);
        assert!(
            after.faults.is_empty() && after.doubts.is_empty(),
            "{}: {:?} {:?}",
            list[doubt.line],
            after.faults,
            after.doubts
        );
        let area = |typed: &Typed| rects(typed, "Garden").iter().map(|own| own.2 * own.3).sum::<f64>();
        let pottery: f64 = rects(&typed, "Pottery").iter().map(|own| own.2 * own.3).sum();
        assert!((area(&typed) - area(&after) - pottery).abs() < 0.2, "{}", list[doubt.line]);
    }
}

#[test]
fn rooms_lie_where_their_lines_say() {
    let typed = draw(
        &[
            level(
                "ground",
                "Hall 2 x 5\nKitchen 4 x 3 east of Hall\nLounge 4 x 2 east of Hall flush south\n\
                 Porch 1 x 1 north of Hall centred\nStore 1 x 2 west of Hall offset 0.5\nGarage 3 x 5 9 east of Hall",
            ),
            level("upper", "Landing 2 x 5 above Hall\nAttic 3 x 3 above Kitchen offset 0.5, 0.25"),
        ],
        M,
    );
    assert_eq!(typed.faults, []);
    assert_eq!(rects(&typed, "Kitchen"), [(2.0, 0.0, 4.0, 3.0)]);
    assert_eq!(rects(&typed, "Lounge"), [(2.0, 3.0, 4.0, 2.0)]);
    assert_eq!(rects(&typed, "Porch"), [(0.5, -1.0, 1.0, 1.0)]);
    assert_eq!(rects(&typed, "Store"), [(-1.0, 0.5, 1.0, 2.0)]);
    assert_eq!(rects(&typed, "Attic"), [(2.5, 0.25, 3.0, 3.0)]);
    assert_eq!(rects(&typed, "Garage"), [(11.0, 0.0, 3.0, 5.0)], "a building of its own, nine metres off");
}

#[test]
fn a_room_of_several_parts_is_one_room_without_a_wall_between() {
    let house = |lines: &str| House { levels: vec![level("g", lines)], ..House::default() };
    let lines = "Hall 6' x 14'\nKitchen 14' x 10' + 8' x 9' south + bay 6' x 2' north centred east of Hall";
    let typed = draw(&[level("g", lines)], FT);
    assert_eq!(typed.faults, []);
    let feet = |(x, y, w, d): (f64, f64, f64, f64)| [x, y, w, d].map(|m| (m / 0.3048 * 100.0).round() / 100.0);
    let parts: Vec<[f64; 4]> = rects(&typed, "Kitchen").into_iter().map(feet).collect();
    assert_eq!(parts, [[6.0, 0.0, 14.0, 10.0], [6.0, 10.0, 8.0, 9.0], [10.0, -2.0, 6.0, 2.0]]);
    let plan = Plan::new(&house(lines), FT);
    let kitchen = &plan.rooms[1];
    assert!((kitchen.area().get() - (140.0 + 72.0 + 12.0) * 0.3048 * 0.3048).abs() < 0.01);
    let (x, y) = (10.0 * 0.3048, 10.0 * 0.3048);
    let at_the_seam =
        plan.walls.iter().any(|wall| !wall.north_south && (wall.at - y).abs() < 0.01 && wall.from < x && x < wall.to);
    assert!(!at_the_seam, "no wall where the parts meet");
    assert!(
        plan.walls.iter().any(|wall| !wall.north_south && (wall.at - y).abs() < 0.01 && wall.from > 4.2),
        "but beside it"
    );
    assert_eq!(plan.room_at(0, 8.0 * 0.3048, 15.0 * 0.3048).map(|room| room.name.as_str()), Some("Kitchen"));
    assert_eq!(
        plan.room_at(0, 18.0 * 0.3048, 15.0 * 0.3048).map(|room| room.name.as_str()),
        None,
        "the notch is outdoors"
    );
}

#[test]
fn what_is_in_a_room_stands_behind_it_under_it_or_by_its_name() {
    let typed = typed(
        "Hall 2 x 5; door south at 0.6 0.9 wide shut\nKitchen 4 x 3 east of Hall\n- door to Hall; window east 1.6 wide coated\n\
         - north brick 0.15; chimney breast 1.2 x 0.4 south\nHall: stairs 0.9 x 2.4 north west; power socket east at 4 circuit hall\n\
         Yard 4 x 4 south of Kitchen outdoors; hedge south 1.5 high; line entry north at 1 in metal cabinet",
    );
    assert_eq!(typed.faults, []);
    let doors: Vec<_> = typed.fittings.openings.iter().map(|own| (own.wall.at, own.along, own.open)).collect();
    assert_eq!(doors[0], (5.0, (0.6, 1.5), Some(false)));
    assert!((doors[1].0 - 2.0).abs() < 1e-9);
    assert!((doors[1].1.0 - 1.1).abs() < 1e-9 && (doors[1].1.1 - 1.9).abs() < 1e-9, "in the middle of the shared wall");
    assert_eq!(typed.fittings.openings[2].material.as_ref().unwrap().0, "lowe");
    let wall = &typed.fittings.walls[0];
    assert_eq!((wall.side, wall.material.0.as_str(), wall.thickness), (Side::North, "brick105", Some(0.15)));
    assert!(typed.fittings.stairs[0].rect.y.abs() < 1e-9);
    assert_eq!(typed.fittings.sockets[0].at, (2.0, 4.0));
    assert_eq!(typed.fittings.sockets[0].socket.circuit.as_deref(), Some("hall"));
    assert_eq!(typed.fittings.solids.len(), 2);
    assert_eq!(typed.fittings.solids[1].ends, ((2.0, 7.0), (6.0, 7.0)));
}

#[test]
fn a_wrong_line_is_marked_and_the_rest_still_draws() {
    let typed =
        typed("Hall 2 x 5\nKitchen 4 x 3 east of Hal\nLounge 4 x 3 west of Hall; dor north; window west\nBath ?");
    assert_eq!(typed.rooms.iter().map(|room| room.name.as_str()).collect::<Vec<_>>(), ["Hall", "Lounge"]);
    assert_eq!(typed.faults.iter().map(|fault| fault.line).collect::<Vec<_>>(), [1, 2, 3]);
    assert!(typed.faults[0].wrong.message.contains("did you mean Hall?"));
    assert_eq!(typed.fittings.openings.len(), 1, "the window stands though the door is misspelt");
}

#[test]
fn what_can_not_be_says_why() {
    for (lines, told) in [
        ("Kitchen", "No size"),
        ("4 x 3", "No name"),
        ("Hall 2 x 2\nKitchen 4 x 3 esat of Hall", "not understood"),
        ("Hall 2 x 2\nKitchen 4 x 3 east Hall", "east of"),
        ("Kitchen 4 x 0.01", "can't be the side"),
        ("Kitchen 4 x 3 east of", "should follow"),
        ("A 2 x 2\nKitchen 4 x 3 east of A offset", "length should follow"),
        ("Kitchen 4 x 3 at 2", "Two lengths"),
        ("Kitchen 4 x 3 2.0", "left over"),
        ("Kitchen 999999 x 3", "would be a long room"),
        ("Hall 2 x 2\nBath 2 x 2", "Say where Bath lies, as in “east of Hall”"),
        ("Hall 2 x 2\nhall 3 x 3 east of Hall", "already a room"),
        ("Hall 2 x 2\nA 2 x 2 east of A", "by itself"),
        ("Hall 2 x 2\nA 2 x 2 east of B\nB 2 x 2 east of A", "no place of its own"),
        ("Hall 2 x 2\nA 2 x 2 above Hall", "same level"),
        ("Hall 2 x 2\nA 2 x 2 east of Hall\nB 2 x 2 east of Hall offset 1", "overlap A by 1.00 m"),
        ("Hall 2 x 2\n- door", "In which side"),
        ("Hall 2 x 2\n- door north at 1.8", "reaches 0.60 m past the end"),
        ("Hall 2 x 2\n- door north 3 wide", "does not go into a side of 2.00 m"),
        ("Hall 2 x 2\n- door to Den\nDen 2 x 2 5 east of Hall", "share no wall"),
        ("Hall 2 x 2\n- north britk", "No material is called"),
        ("Hall 2 x 2\n- north timber floor", "makes floors"),
        ("Hall 2 x 2\n- stairs at 1.8, 0", "outside of its room"),
        ("- door north", "no room that it could belong to"),
        ("Hall 2 x 2\nHal: door north", "no room called Hal"),
        ("Hall 2 x 2 + 1 x 1", "On which side"),
        ("Hall 2 x 2\ndoor north", "after a dash"),
        ("Hall 2 x 2 door north", "semicolon"),
    ] {
        let found = faults(lines);
        assert!(found.iter().any(|fault| fault.contains(told)), "{lines:?}: {found:?}");
    }
}

#[test]
fn a_press_mends_what_can_be_mended() {
    for (lines, fix, becomes) in [
        ("Hall 2 x 2\nKitchen 4 x 3 esat of Hall", 0, "Hall 2 x 2\nKitchen 4 x 3 east of Hall"),
        ("Hall 2 x 2\nKitchen 4 x 3 east Hall", 0, "Hall 2 x 2\nKitchen 4 x 3 east of Hall"),
        ("Hall 2 x 2\nKitchen 4 x 3 east of Hal", 0, "Hall 2 x 2\nKitchen 4 x 3 east of Hall"),
        ("Hall 2 x 2\nBath 2 x 2", 1, "Hall 2 x 2\nBath 2 x 2 south of Hall"),
        (
            "Hall 2 x 2\nA 2 x 2 east of Hall\nB 2 x 2 east of Hall offset 1",
            0,
            "Hall 2 x 2\nA 2 x 2 east of Hall\nB 2 x 2 south of A",
        ),
        ("Hall 2 x 2\n- door north at 1.8", 0, "Hall 2 x 2\n- door north at 1.2"),
        ("Hall 2 x 2\n- door", 2, "Hall 2 x 2\n- door south"),
        ("Hall 2 x 2\n- north britk", 0, "Hall 2 x 2\n- north brick"),
        ("Hall 2 x 2 door north", 0, "Hall 2 x 2 ; door north"),
        ("Hall 2 x 2 + 1 x 1", 0, "Hall 2 x 2 + 1 x 1 south"),
        ("Kitchen4.2x3.6", 0, "Kitchen 4.2x3.6"),
        ("Kitchen 4 x 3\nKitchen 2 x 2 east of Kitchen", 0, "Kitchen 4 x 3\nKitchen 2 2 x 2 east of Kitchen"),
        ("Kitchen 420 x 360", 0, "Kitchen 420 cm x 360 cm"),
        ("Bedroom 2 x 3 x 4", 0, "Bedroom 2 3 x 4"),
    ] {
        let mended = fixed(lines, M, fix);
        assert_eq!(mended, becomes);
        assert_eq!(faults(&mended), [""; 0], "{mended}");
    }
}

#[test]
fn a_number_at_the_end_of_a_name_is_asked_about_unless_others_have_one() {
    let doubts = |lines: &str| draw(&[level("g", lines)], M).doubts.len();
    assert_eq!(doubts("Bedroom 2 3 x 4"), 1);
    assert_eq!(doubts("Bedroom 2 3 x 4\nBedroom 1 3 x 4 east of Bedroom 2"), 0);
    assert_eq!(doubts("Bedroom 2 3.0 x 4"), 0);
}

#[test]
fn names_may_hold_figures_and_several_words() {
    let Ok(Some(line)) = read("Bedroom 2  3.1x4 north of 1st floor landing flush east # to the window", M) else {
        panic!()
    };
    let Of::Room(room) = line.of else { panic!() };
    assert_eq!(room.name.name, "Bedroom 2");
    assert_eq!(room.write_place(M), "north of 1st floor landing flush east");
}

#[test]
fn a_home_that_changes_its_unit_keeps_its_lengths() {
    let before = "Hall 2 x 5\nBedroom 2 3.1x4 1.5 north of Hall offset 0.5 # 3 paces\nBed 12 x 10 ft east of Hall offset 3\n\
                  - door north at 0.5 0.9 wide; network socket west at 1 called 4; north brick .15";
    let after = restate(before, M);
    assert_eq!(
        after,
        "Hall 2 m x 5 m\nBedroom 2 3.1 mx4 m 1.5 m north of Hall offset 0.5 m # 3 paces\nBed 12 x 10 ft east of Hall offset 3 m\n\
         - door north at 0.5 m 0.9 m wide; network socket west at 1 m called 4; north brick .15 m"
    );
    let drawn = |lines: &str, unit| {
        let typed = draw(&[level("g", lines)], unit);
        (typed.rooms, typed.fittings.without_sources(), typed.faults)
    };
    assert_eq!(drawn(before, M), drawn(&after, FT));
}

#[test]
fn a_wrong_line_keeps_its_lengths_too_when_the_unit_changes() {
    assert_eq!(restate("Kitchen 12 x 10 esat of Hall 2", FT), "Kitchen 12 ft x 10 ft esat of Hall 2");
    assert_eq!(restate("Bedroom 2 4.2 x", M), "Bedroom 2 4.2 m x");
}

#[test]
fn homes_to_begin_from_are_whole_and_lack_only_what_one_has_to_look_at() {
    for start in STARTS {
        for unit in [M, FT] {
            let whole = read_house(start.text(unit), unit, &[], LevelId::named).unwrap();
            let house = House { levels: whole.levels, around: whole.around, ..House::unsaid() };
            let plan = Plan::new(&house, unit);
            assert_eq!(plan.faults, [], "{}", start.name);
            assert_eq!(plan.doubts, [], "{}", start.name);
            let told: Vec<String> = missing(&house, &plan, unit).into_iter().map(|lack| lack.told).collect();
            assert_eq!(told.len(), 2, "{}: {told:?}", start.name);
            assert!(told[0].contains("made of is not said") && told[1].contains("line enters"), "{told:?}");
        }
    }
    for look in LOOKS {
        for key in [look.outer_wall, look.inner_wall, look.windows, look.floors] {
            assert!(busy_hen_catalogue::materials::find(key).is_some(), "{key}");
        }
    }
}

#[test]
fn a_house_goes_out_as_text_and_comes_in_the_same() {
    for home in [busy_hen_demo::canal_terrace(), busy_hen_demo::gasworks_flat(), busy_hen_demo::lock_house()] {
        let text = write_house(&home.house, home.units);
        let back = read_house(&text, home.units, &home.house.levels, LevelId::named).unwrap();
        let house = &home.house;
        assert_eq!(back.levels, house.levels);
        assert_eq!(
            (&back.outer_wall, &back.inner_wall, &back.windows, &back.around),
            (&house.outer_wall, &house.inner_wall, &house.windows, &house.around)
        );
        assert!(text.lines().count() < 60, "the demo home in few lines");
        // In a home of the other unit its lengths stay what they are.
        let other = if home.units == M { FT } else { M };
        let abroad = read_house(&text, other, &[], LevelId::named).unwrap();
        assert_eq!(draw(&abroad.levels, other).rooms.len(), draw(&house.levels, home.units).rooms.len());
        let (own, theirs) = (draw(&house.levels, home.units), draw(&abroad.levels, other));
        assert!(own.rooms.iter().zip(&theirs.rooms).all(|(a, b)| a.rects == b.rects));
    }
}

#[test]
fn a_text_that_is_no_house_says_in_which_line() {
    for (text, line, told) in [
        ("", 1, "No level stands here"),
        ("Hall 2 x 3", 1, "before the first level"),
        ("outer walls cheese\nlevel G", 1, "No wall is called “cheese”"),
        ("outer walls timber floor\nlevel G", 1, "No wall"),
        ("lengths in metres\nlevel ", 2, "before the first level"),
        ("level Ground, 2.6q high", 1, "is no height"),
        ("level Ground, brick", 1, "No floor is called “brick”"),
        ("level Ground\nHall 2 x 2\nlevel ground", 3, "already a level"),
    ] {
        let wrong = read_house(text, M, &[], LevelId::named).unwrap_err();
        assert!(wrong.line == line && wrong.told.contains(told), "{text:?}: {wrong}");
    }
}

#[test]
fn what_a_plan_lacks_is_told_and_mended_by_a_press() {
    let levels = vec![
        level(
            "Ground",
            "Hall 2 x 5\nDen 3 x 3 0.12 east of Hall\nBath 2 x 2 south of Hall\nStore 2 x 2 south of Bath; gap north",
        ),
        Level {
            floor: "unsaid_floor".into(),
            ..level("First", "Landing 2 x 5 above Hall\nAttic 2 x 2 9 east of Landing")
        },
    ];
    let mut house = House { levels, ..House::unsaid() };
    let told = |house: &House| missing(house, &Plan::new(house, M), M);
    let find = |house: &House, words: &str| {
        told(house)
            .into_iter()
            .find(|lack| lack.told.contains(words))
            .unwrap_or_else(|| panic!("{words}: {:?}", told(house)))
    };
    assert!(find(&house, "made of is not said").told.contains("outer walls, inner walls and windows"));
    assert_eq!(find(&house, "floor under First").remedies.len(), 2);
    assert!(find(&house, "lies over nothing").told.starts_with("Attic"));
    let press = |house: &mut House, words: &str, remedy: usize| {
        let Action::Write { changes } = &find(house, words).remedies[remedy].does else { panic!() };
        for change in changes {
            house.levels = rewrite(&house.levels, M, change, false).unwrap();
        }
    };
    press(&mut house, "gap of 0.12 m", 0);
    assert!(house.levels[0].lines.contains("Den 3 x 3 east of Hall\n"), "{}", house.levels[0].lines);
    let doors = find(&house, "no door said");
    assert!(doors.told.starts_with("Hall, Den, Landing and Attic have no door"), "{}", doors.told);
    press(&mut house, "no door said", 0);
    press(&mut house, "stairs from Ground to First", 0);
    assert!(house.levels[0].lines.contains("stairs"));
    assert!(!told(&house).iter().any(|lack| lack.told.contains("stairs")));
    assert!(find(&house, "no door said").told.starts_with("Landing and Attic"), "upstairs there is nobody to open to");
    assert_eq!(draw(&house.levels, M).faults, []);
}

#[test]
fn every_word_for_a_material_is_one_of_the_catalogue() {
    for material in busy_hen_catalogue::materials::all() {
        let word = busy_hen_floorplan::lines::words::material_word(&material.key);
        assert_eq!(material_called(word), Some(material.key.as_str()), "{word}");
    }
}

prop_compose! {
    /// A level of rooms side by side, each with things in it.
    fn a_level()(
        sizes in prop::collection::vec((0.8..6.0f64, 0.8..6.0f64, 0..4usize, 0..5usize, 0.0..1.0f64), 1..7),
        parts in prop::collection::vec((0.8..3.0f64, 0.8..3.0f64, 0..4usize), 7),
    ) -> String {
        let sides = ["north", "east", "south", "west"];
        let things = ["door north at 0.1", "window east", "stairs 0.5 x 0.6", "power socket south at 0.3", "west brick"];
        let cm = |metres: f64| (metres * 100.0).round() / 100.0;
        let mut lines = Vec::new();
        for (index, (w, d, side, thing, shift)) in sizes.iter().enumerate() {
            let place = if index == 0 { String::new() } else { format!(" {} of R{}", sides[*side], index - 1) };
            let shift = if index > 0 && *shift > 0.5 { format!(" offset {}", cm(*shift)) } else { String::new() };
            let (pw, pd, ps) = parts[index];
            let part = if pw < 1.5 { format!(" + {} x {} {}", cm(pw), cm(pd), sides[ps]) } else { String::new() };
            lines.push(format!("R{index} {} x {}{part}{place}{shift} # {index}", cm(*w), cm(*d)));
            lines.push(format!("- {}", things[*thing]));
        }
        lines.join("\n")
    }
}

proptest! {
    #[test]
    fn no_text_makes_the_reader_panic(text in "\\PC{0,80}") {
        for unit in [M, FT] {
            let typed = draw(&[level("g", &text)], unit);
            for fault in typed.faults {
                prop_assert!(fault.wrong.from <= fault.wrong.to);
            }
        }
    }

    #[test]
    fn likely_text_never_panics_and_marks_inside_the_line(
        text in "(Hall|Bed 2|x|4|3.5|12'6\"|½| x |m|ft|east|of|above|at|offset|,|#|flush|to| |\\+|;|- |:|door|window|stairs|north|wide|brick|\\n){0,24}"
    ) {
        for unit in [M, FT] {
            for fault in draw(&[level("g", &text)], unit).faults {
                let length = text.lines().nth(fault.line).unwrap_or_default().chars().count();
                prop_assert!(fault.wrong.from <= fault.wrong.to && fault.wrong.to <= length, "{:?} {:?}", text, fault);
                for fix in &fault.wrong.fixes {
                    prop_assert!(fix.from <= fix.to && fix.to <= length, "{:?} {:?}", text, fault);
                }
            }
        }
    }

    #[test]
    fn a_length_written_is_read_as_itself(metres in -60.0..60.0f64) {
        for unit in [M, FT] {
            let metres = (metres * 1000.0).round() / 1000.0;
            let text = write_length(Metres::new(metres), unit);
            let chars: Vec<char> = text.chars().collect();
            let Some(Ok((spoken, end))) = read_length(&chars, 0) else { return Err(TestCaseError::fail(text)) };
            prop_assert_eq!(end, chars.len(), "{}", &text);
            prop_assert!((spoken.metres(unit).get() - metres).abs() < 0.0009, "{} is {}", text, metres);
            prop_assert!(!say_length(Metres::new(metres), unit).is_empty());
        }
    }

    /// What is drawn and dragged comes out of the lines again, and what nobody touched stays.
    #[test]
    fn dragging_changes_what_was_dragged_and_nothing_else(
        lines in a_level(), room in 0..7usize, side in 0..4usize, by in -0.6..0.6f64, feet in any::<bool>()
    ) {
        let unit = if feet { FT } else { M };
        let levels = [level("g", &restate(&lines, M))];
        let before = draw(&levels, unit);
        let Some(own) = before.rooms.get(room % before.rooms.len().max(1)) else { return Ok(()) };
        let sides = [Side::North, Side::East, Side::South, Side::West];
        let by = (by * 100.0).round() / 100.0;
        let change = Change::MoveSide { room: own.name.clone(), part: 0, side: sides[side], by_m: Metres::new(by) };
        if let Ok(after) = rewrite(&levels, unit, &change, false) {
            let drawn = draw(&after, unit);
            let now = drawn.rooms.iter().find(|room| room.name == own.name);
            if let Some(now) = now {
                let (was, is) = (own.rects[0].side(sides[side]), now.rects[0].side(sides[side]));
                prop_assert!((is.at - was.at - by).abs() < 0.004, "{}\n{}", levels[0].lines, after[0].lines);
            }
            prop_assert_eq!(levels[0].lines.lines().count(), after[0].lines.lines().count());
            // Comments stay.
            prop_assert_eq!(levels[0].lines.matches('#').count(), after[0].lines.matches('#').count());
            let still = Change::MoveRoom { room: own.name.clone(), east_m: m(0.0), south_m: m(0.0) };
            prop_assert_eq!(&rewrite(&after, unit, &still, false).unwrap()[0].lines, &after[0].lines);
        }
    }

    #[test]
    fn a_room_moved_lies_where_it_was_moved(lines in a_level(), room in 0..7usize, x in -3.0..3.0f64, y in -3.0..3.0f64) {
        let levels = [level("g", &lines)];
        let before = draw(&levels, M);
        let Some(own) = before.rooms.get(room % before.rooms.len().max(1)) else { return Ok(()) };
        let by = (m((x * 100.0).round() / 100.0), m((y * 100.0).round() / 100.0));
        let change = Change::MoveRoom { room: own.name.clone(), east_m: by.0, south_m: by.1 };
        let after = rewrite(&levels, M, &change, false).unwrap();
        let drawn = draw(&after, M);
        if let Some(now) = drawn.rooms.iter().find(|room| room.name == own.name) {
            let off = (now.rects[0].x - own.rects[0].x - by.0.get(), now.rects[0].y - own.rects[0].y - by.1.get());
            prop_assert!(off.0.abs() < 0.002 && off.1.abs() < 0.002, "{}\n{}", lines, after[0].lines);
        }
    }
}

#[test]
fn every_example_of_the_grammar_reads_as_it_stands() {
    for saying in GRAMMAR {
        for (unit, example) in [(M, saying.metres), (FT, saying.feet)] {
            let hall = if unit == M { "Hall 2 x 5" } else { "Hall 6'6\" x 16'" };
            let lines = if example.starts_with("Hall ") { example.to_owned() } else { format!("{hall}\n{example}") };
            let (below, above) = if example.contains("above") { (hall.to_owned(), example) } else { (lines, "") };
            // "to Hall" is said of a room beside it.
            let below = below
                .replace("\n- door to Hall", "\nDen 9' x 9' east of Hall\n- door to Hall")
                .replace("\n- north brick; wall to Hall", "\nDen 9' x 9' east of Hall\n- north brick; wall to Hall");
            let typed = draw(&[level("g", &below), level("u", above)], unit);
            assert_eq!(typed.faults, [], "{example}");
            assert_eq!(typed.doubts, [], "{example}");
        }
    }
}
