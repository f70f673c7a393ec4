//! Giving rooms their identity when the typed lines change: a room keeps its needs, spots and readings while its line moves, grows
//! or is renamed, and while nobody has said what became of it.

use std::collections::HashSet;

use busy_hen_home::{
    Around, BuildingPart, Home, House, LengthUnit, Level, LevelId, MaterialKey, Room, RoomId, Spot, SpotId,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::adopt::adopt;
use super::lines::line::{Of, read};
use super::lines::{Typed, draw, same_name};

/// The parts of a house that an installer edits; rooms and what is in them follow from the lines.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HouseEdit {
    /// Levels from the lowest up, with their typed lines.
    pub levels: Vec<Level>,
    /// What outer walls are made of where nothing else is said.
    pub outer_wall: MaterialKey,
    /// What inner walls are made of where nothing else is said.
    pub inner_wall: MaterialKey,
    /// What windows are glazed with where nothing else is said.
    pub windows: MaterialKey,
    /// Where one tests; rooms without any get one in their middle.
    pub spots: Vec<Spot>,
    /// What lies over and under it, and whether its levels are joined by stairs.
    #[serde(default)]
    pub around: Around,
    /// Rooms that a line now names otherwise, as the installer has said.
    #[serde(default)]
    pub now_called: Vec<NowCalled>,
    /// Rooms without a line that are let go with what was noted of them.
    #[serde(default)]
    pub let_go: Vec<RoomId>,
}

/// A room, and what its line calls it now.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NowCalled {
    /// The room.
    pub room_id: RoomId,
    /// The name in its line.
    pub name: String,
}

impl From<&Home> for HouseEdit {
    /// What of a house can be edited: all but the rooms, which follow.
    fn from(home: &Home) -> Self {
        let mut house = home.house.clone();
        adopt(&mut house, home.units);
        let House { levels, outer_wall, inner_wall, windows, spots, around, .. } = house;
        Self { levels, outer_wall, inner_wall, windows, spots, around, now_called: Vec::new(), let_go: Vec::new() }
    }
}

/// Puts an edited house into the home.
///
/// A room is the same as before when its name is, or when its line is the one of a room whose name no line has any more (it was renamed).
/// A room that no line names stays while any line is wrong, and while it holds something: a need, a spot of its own, or readings
/// (`holds`); it goes when it is let go. New identities come from `new_room` and `new_spot`, which get the room's name.
pub fn settle(
    home: &mut Home,
    edit: HouseEdit,
    holds: &HashSet<SpotId>,
    new_room: impl Fn(&str) -> RoomId,
    new_spot: impl Fn(&str) -> SpotId,
) {
    adopt(&mut home.house, home.units);
    let typed = draw(&edit.levels, home.units);
    let known = std::mem::take(&mut home.house.rooms);
    let same = identities(&known, &home.house.levels, &edit, &typed, home.units);
    let mut rooms: Vec<Room> = Vec::new();
    for (placed, same) in typed.rooms.iter().zip(&same) {
        rooms.push(Room {
            id: same.unwrap_or_else(|| new_room(&placed.name)),
            name: placed.name.clone(),
            level_id: placed.level_id,
        });
    }
    let is_held = |room: &Room| {
        let mut own = edit.spots.iter().filter(|spot| spot.room_id == room.id);
        home.brief.uses.iter().any(|one| one.room_id == room.id)
            || own.clone().count() > 1
            || own.any(|spot| !spot.name.is_empty() || holds.contains(&spot.id))
    };
    let level_there = |room: &&Room| edit.levels.iter().any(|level| level.id == room.level_id);
    let stays = |room: &&Room| !typed.faults.is_empty() || is_held(room);
    let kept: Vec<Room> = known
        .iter()
        .filter(|room| rooms.iter().all(|own| own.id != room.id && !same_name(&own.name, &room.name)))
        .filter(level_there)
        .filter(|room| !edit.let_go.contains(&room.id))
        .filter(stays)
        .cloned()
        .collect();
    rooms.extend(kept);
    let there = |id: RoomId| rooms.iter().any(|room| room.id == id);
    let mut spots: Vec<Spot> = edit.spots.into_iter().filter(|spot| there(spot.room_id)).collect();
    for room in &rooms {
        if spots.iter().all(|spot| spot.room_id != room.id) {
            let id = new_spot(&room.name);
            spots.push(Spot { id, room_id: room.id, name: String::new(), east_part: 0.5, south_part: 0.5 });
        }
    }
    home.brief.uses.retain(|one| there(one.room_id));
    let known = |part: &BuildingPart| match part {
        BuildingPart::Wall(wall) => there(wall.room_id) && wall.beyond.is_none_or(there),
        BuildingPart::FloorUnder(level) => edit.levels.iter().any(|own| own.id == *level),
    };
    // What homes of before kept in lists and no line could take yet, its room's line being wrong, stays there.
    let level_stays = |id: LevelId| edit.levels.iter().any(|own| own.id == id);
    let mut of_before = std::mem::take(&mut home.house);
    let mut corrections = std::mem::take(&mut of_before.corrections);
    corrections.retain(|one| known(&one.of));
    home.house = House {
        outer_wall: edit.outer_wall,
        inner_wall: edit.inner_wall,
        windows: edit.windows,
        walls: of_before.walls.into_iter().filter(|own| there(own.room_id)).collect(),
        openings: of_before.openings.into_iter().filter(|own| there(own.room_id)).collect(),
        stairwells: of_before.stairwells.into_iter().filter(|own| there(own.room_id)).collect(),
        obstacles: of_before.obstacles.into_iter().filter(|own| level_stays(own.level_id)).collect(),
        spots,
        corrections,
        around: edit.around,
        rooms,
        levels: edit.levels,
    };
}

/// A line of a room: its level and number, the room's name, and what stands behind the name.
struct RoomLine {
    level_id: LevelId,
    line: usize,
    name: String,
    rest: String,
}

fn room_lines(levels: &[Level], unit: LengthUnit) -> Vec<RoomLine> {
    let lines = levels.iter().flat_map(|level| level.lines.lines().enumerate().map(move |line| (level.id, line)));
    lines
        .filter_map(|(level_id, (line, text))| match read(text, unit).ok()??.of {
            Of::Room(room) => {
                let rest = text.chars().skip(room.name.to).collect::<String>().trim().to_owned();
                Some(RoomLine { level_id, line, name: room.name.name, rest })
            }
            _ => None,
        })
        .collect()
}

/// For each placed room, the known one that it is.
fn identities(
    known: &[Room],
    before: &[Level],
    edit: &HouseEdit,
    typed: &Typed,
    unit: LengthUnit,
) -> Vec<Option<RoomId>> {
    let by_word = |name: &str| edit.now_called.iter().find(|one| same_name(&one.name, name)).map(|one| one.room_id);
    let by_name = |name: &str| known.iter().find(|room| same_name(&room.name, name)).map(|room| room.id);
    let mut found: Vec<Option<RoomId>> = typed
        .rooms
        .iter()
        .map(|placed| {
            let said = by_word(&placed.name).filter(|id| known.iter().any(|room| room.id == *id));
            said.or_else(|| by_name(&placed.name))
        })
        .collect();
    let said: Vec<RoomId> = edit.now_called.iter().map(|one| one.room_id).collect();
    // What was said goes before what a name says.
    for (own, placed) in found.iter_mut().zip(&typed.rooms) {
        if by_word(&placed.name).is_none() && own.is_some_and(|id| said.contains(&id)) {
            *own = None;
        }
    }
    let old = room_lines(before, unit);
    let now = room_lines(&edit.levels, unit);
    let is_named = |name: &str| now.iter().any(|line| same_name(&line.name, name));
    let free = |found: &[Option<RoomId>]| -> Vec<&Room> {
        known.iter().filter(|room| !is_named(&room.name) && !found.contains(&Some(room.id))).collect()
    };
    let line_of = |room: &Room| old.iter().find(|line| same_name(&line.name, &room.name));
    for index in 0..found.len() {
        if found[index].is_some() {
            continue;
        }
        let placed = &typed.rooms[index];
        let Some(own) = now.iter().find(|line| line.level_id == placed.level_id && line.line == placed.line) else {
            continue;
        };
        let candidates = free(&found);
        let was = |room: &&&Room| line_of(room).is_some_and(|line| line.level_id == own.level_id);
        let alike: Vec<&&Room> = candidates
            .iter()
            .filter(was)
            .filter(|room| line_of(room).is_some_and(|line| line.rest == own.rest))
            .collect();
        let came_from = line_before(before, &edit.levels, placed.level_id, placed.line);
        let on_it = candidates.iter().filter(was).find(|room| line_of(room).map(|line| line.line) == came_from);
        // A room whose line was wrong for a moment, and nothing else there that it could be.
        let astray: Vec<&&Room> =
            candidates.iter().filter(|room| room.level_id == placed.level_id && line_of(room).is_none()).collect();
        let was_wrong = came_from.is_some_and(|line| {
            let stands = |own: &&RoomLine| own.level_id == placed.level_id && own.line == line;
            old.iter().find(stands).is_none_or(|own| {
                !known.iter().any(|room| {
                    same_name(&room.name, &own.name) && line_of(room).is_some_and(|first| first.line == line)
                })
            })
        });
        found[index] = match (&alike[..], on_it, &astray[..]) {
            ([one], _, _) => Some(one.id),
            (_, Some(room), _) => Some(room.id),
            (_, _, [one]) if was_wrong => Some(one.id),
            _ => None,
        };
    }
    found
}

/// The line that a line was before an edit of one piece of a level's text; none for one that is new.
fn line_before(before: &[Level], after: &[Level], level: LevelId, line: usize) -> Option<usize> {
    let lines = |levels: &[Level]| -> Option<Vec<String>> {
        Some(levels.iter().find(|own| own.id == level)?.lines.lines().map(str::to_owned).collect())
    };
    let (before, after) = (lines(before)?, lines(after)?);
    let front = before.iter().zip(&after).take_while(|(a, b)| a == b).count();
    let most = before.len().min(after.len()) - front;
    let back = before.iter().rev().zip(after.iter().rev()).take(most).take_while(|(a, b)| a == b).count();
    if line < front {
        Some(line)
    } else if line >= after.len() - back {
        Some(line + before.len() - after.len())
    } else if before.len() == after.len() {
        Some(line)
    } else {
        None
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::{Activity, LengthUnit, LevelId, RoomUse, UseId};
    use busy_hen_units::Metres;

    fn typed(home: &mut Home, lines: &str) {
        let levels = vec![Level {
            id: LevelId::named("ground"),
            name: "Ground".into(),
            height_m: Metres::new(2.5),
            floor: "timber_floor".into(),
            lines: lines.into(),
            tracing: None,
        }];
        let edit = HouseEdit { levels, ..HouseEdit::from(&*home) };
        settle(home, edit, &HashSet::new(), |_| RoomId::random(), |_| SpotId::random());
    }

    fn id(home: &Home, name: &str) -> Option<RoomId> {
        home.house.rooms.iter().find(|room| room.name == name).map(|room| room.id)
    }

    fn home() -> Home {
        let mut home = Home::new("x", "GB", LengthUnit::Metre);
        typed(&mut home, "Hall 2 x 4\nBed 3 x 3 east of Hall");
        home.brief.uses.push(RoomUse {
            id: UseId::random(),
            room_id: id(&home, "Bed").unwrap(),
            activity: Activity::Call,
            people: 1,
            who: String::new(),
            hours: None,
        });
        home
    }

    #[test]
    fn every_room_gets_an_identity_and_a_spot() {
        let home = home();
        assert_eq!(home.house.rooms.len(), 2);
        assert_eq!(home.house.spots.len(), 2);
    }

    #[test]
    fn a_room_stays_itself_when_it_moves_grows_or_is_renamed() {
        let mut home = home();
        let bed = id(&home, "Bed");
        typed(&mut home, "Hall 2 x 4\nStore 1 x 1 west of Hall\nbed 4 x 3 south of Hall");
        assert_eq!(id(&home, "bed"), bed);
        typed(&mut home, "Hall 2 x 4\nStore 1 x 1 west of Hall\nNursery 4 x 3 south of Hall");
        assert_eq!(id(&home, "Nursery"), bed, "renamed on its line");
        assert_eq!(home.brief.uses.len(), 1);
    }

    #[test]
    fn a_half_typed_line_loses_nothing_and_what_holds_something_stays_until_it_is_let_go() {
        let mut home = home();
        let bed = id(&home, "Bed");
        typed(&mut home, "Hall 2 x 4\nBed 3 x");
        assert_eq!(id(&home, "Bed"), bed);
        assert_eq!(home.brief.uses.len(), 1);
        typed(&mut home, "Hall 2 x 4\nBed 3 x 3 east of Hall");
        assert_eq!(id(&home, "Bed"), bed);
        typed(&mut home, "Hall 2 x 4");
        assert_eq!(id(&home, "Bed"), bed, "it has a need");
        let edit = HouseEdit { let_go: vec![bed.unwrap()], ..HouseEdit::from(&home) };
        settle(&mut home, edit, &HashSet::new(), |_| RoomId::random(), |_| SpotId::random());
        assert_eq!(id(&home, "Bed"), None);
        assert!(home.brief.uses.is_empty());
        assert_eq!(home.house.spots.len(), 1);
        typed(&mut home, "Den 2 x 4");
        typed(&mut home, "# nothing");
        assert!(home.house.rooms.is_empty(), "what holds nothing goes with its line");
    }

    #[test]
    fn what_is_said_of_a_name_decides() {
        let mut home = home();
        let bed = id(&home, "Bed").unwrap();
        typed(&mut home, "Hall 2 x 4\n\nStore 1 x 1 west of Hall\nNursery 4 x 3 south of Hall");
        assert_eq!(id(&home, "Bed"), Some(bed), "two new lines may be either of them");
        let now_called = vec![NowCalled { room_id: bed, name: "Nursery".into() }];
        let edit = HouseEdit { now_called, ..HouseEdit::from(&home) };
        settle(&mut home, edit, &HashSet::new(), |_| RoomId::random(), |_| SpotId::random());
        assert_eq!(id(&home, "Nursery"), Some(bed));
        assert_eq!(home.house.rooms.len(), 3);
    }

    #[test]
    fn a_name_that_another_room_has_for_a_moment_loses_nothing() {
        let mut home = home();
        let bed = id(&home, "Bed");
        for name in ["B", "Hal", "Hall", "Hallw", "Hallway bed"] {
            typed(&mut home, &format!("Hall 2 x 4\n{name} 3 x 3 east of Hall"));
        }
        assert_eq!(id(&home, "Hallway bed"), bed);
    }

    #[test]
    fn what_an_older_home_kept_in_lists_is_written_into_lines_or_waits_for_its_line() {
        let mut home = home();
        let door = |home: &Home, room: &str| busy_hen_home::Opening {
            room_id: id(home, room).unwrap(),
            side: busy_hen_home::Side::South,
            kind: busy_hen_home::OpeningKind::Door,
            material: "door".into(),
            open: true,
            along_part: 0.5,
            width_m: Metres::new(0.8),
        };
        home.house.openings = vec![door(&home, "Hall"), door(&home, "Bed")];
        home.house.levels[0].lines = "Hall 2 x 4\nBed 3 x".into();
        typed(&mut home, "Hall 2 x 4\nBed 3 x");
        assert_eq!(home.house.openings.len(), 1, "that of the wrong line waits");
        home.house.levels[0].lines = "Hall 2 x 4\nBed 3 x 3 east of Hall".into();
        let adopted = HouseEdit::from(&home);
        assert!(
            adopted.levels[0].lines.ends_with("- door south at 1.1 0.8 wide timber open"),
            "{}",
            adopted.levels[0].lines
        );
    }
}
