//! Giving rooms their identity when the typed lines change: a room keeps its needs, spots and readings while its line moves, grows
//! or is renamed.

use busy_hen_home::{
    Around, BuildingPart, Home, House, Level, MaterialKey, Obstacle, Opening, Room, RoomId, Spot, SpotId, Stairwell,
    WallChoice,
};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::typed::{draw, same_name};

/// The parts of a house that an installer edits; rooms follow from the lines.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HouseEdit {
    /// Levels from the lowest up, with their typed lines.
    pub levels: Vec<Level>,
    /// What outer walls are made of where nothing else is said.
    pub outer_wall: MaterialKey,
    /// What inner walls are made of where nothing else is said.
    pub inner_wall: MaterialKey,
    /// Wall sides that are made of something else.
    pub walls: Vec<WallChoice>,
    /// What windows are glazed with where none is drawn.
    pub windows: MaterialKey,
    /// Doors, windows and gaps in walls, where they are known.
    pub openings: Vec<Opening>,
    /// Holes in floors for stairs, where they are known.
    pub stairwells: Vec<Stairwell>,
    /// What stands in the way besides walls.
    pub obstacles: Vec<Obstacle>,
    /// Where one tests; rooms without any get one in their middle.
    pub spots: Vec<Spot>,
    /// What lies over and under it, and whether its levels are joined by stairs.
    #[serde(default)]
    pub around: Around,
}

impl From<House> for HouseEdit {
    /// What of a house can be edited: all but the rooms, which follow.
    fn from(house: House) -> Self {
        let House {
            levels,
            outer_wall,
            inner_wall,
            walls,
            windows,
            openings,
            stairwells,
            obstacles,
            spots,
            around,
            ..
        } = house;
        Self { levels, outer_wall, inner_wall, walls, windows, openings, stairwells, obstacles, spots, around }
    }
}

/// Puts an edited house into the home.
///
/// A room is the same as before when its name is, or when it stands on the line of one whose name no line has any more (it was
/// renamed). While any line is wrong, rooms that no line places are kept; when all are right, they go, with their needs, walls and
/// spots. New identities come from `new_room` and `new_spot`, which get the room's name.
pub fn settle(home: &mut Home, edit: HouseEdit, new_room: impl Fn(&str) -> RoomId, new_spot: impl Fn(&str) -> SpotId) {
    let before = draw(&home.house.levels, home.units);
    let typed = draw(&edit.levels, home.units);
    let known = std::mem::take(&mut home.house.rooms);
    let gone = |room: &&Room| typed.rooms.iter().all(|placed| !same_name(&placed.name, &room.name));
    let mut rooms: Vec<Room> = Vec::new();
    for placed in &typed.rooms {
        let by_name = known.iter().find(|room| same_name(&room.name, &placed.name));
        let by_line = || {
            let old = before.rooms.iter().find(|old| old.level_id == placed.level_id && old.line == placed.line)?;
            known.iter().filter(gone).find(|room| same_name(&room.name, &old.name))
        };
        let same = by_name.or_else(by_line).filter(|room| rooms.iter().all(|taken| taken.id != room.id));
        rooms.push(Room {
            id: same.map_or_else(|| new_room(&placed.name), |room| room.id),
            name: placed.name.clone(),
            level_id: placed.level_id,
        });
    }
    if !typed.faults.is_empty() {
        let level_there = |room: &&Room| edit.levels.iter().any(|level| level.id == room.level_id);
        let kept: Vec<Room> = known
            .iter()
            .filter(|room| rooms.iter().all(|own| own.id != room.id))
            .filter(level_there)
            .cloned()
            .collect();
        rooms.extend(kept);
    }
    let there = |id: RoomId| rooms.iter().any(|room| room.id == id);
    let mut spots: Vec<Spot> = edit.spots.into_iter().filter(|spot| there(spot.room_id)).collect();
    for room in &rooms {
        if spots.iter().all(|spot| spot.room_id != room.id) {
            let id = new_spot(&room.name);
            spots.push(Spot { id, room_id: room.id, name: String::new(), east_part: 0.5, south_part: 0.5 });
        }
    }
    let walls = edit.walls.into_iter().filter(|wall| there(wall.room_id)).collect();
    home.brief.uses.retain(|one| there(one.room_id));
    let level_there = |id| edit.levels.iter().any(|level| level.id == id);
    let obstacles = edit.obstacles.into_iter().filter(|one| level_there(one.level_id)).collect();
    let known = |part: &BuildingPart| match part {
        BuildingPart::Wall(wall) => there(wall.room_id) && wall.beyond.is_none_or(there),
        BuildingPart::FloorUnder(level) => level_there(*level),
    };
    let mut corrections = std::mem::take(&mut home.house.corrections);
    corrections.retain(|one| known(&one.of));
    home.house = House {
        outer_wall: edit.outer_wall,
        inner_wall: edit.inner_wall,
        windows: edit.windows,
        walls,
        openings: edit.openings.into_iter().filter(|opening| there(opening.room_id)).collect(),
        stairwells: edit.stairwells.into_iter().filter(|stairwell| there(stairwell.room_id)).collect(),
        obstacles,
        spots,
        corrections,
        around: edit.around,
        rooms,
        levels: edit.levels,
    };
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
        }];
        let edit = HouseEdit { levels, ..HouseEdit::from(home.house.clone()) };
        settle(home, edit, |_| RoomId::random(), |_| SpotId::random());
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
    fn a_half_typed_line_loses_nothing_and_a_deleted_one_takes_its_needs_along() {
        let mut home = home();
        let bed = id(&home, "Bed");
        typed(&mut home, "Hall 2 x 4\nBed 3 x");
        assert_eq!(id(&home, "Bed"), bed);
        assert_eq!(home.brief.uses.len(), 1);
        typed(&mut home, "Hall 2 x 4\nBed 3 x 3 east of Hall");
        assert_eq!(id(&home, "Bed"), bed);
        typed(&mut home, "Hall 2 x 4");
        assert_eq!(id(&home, "Bed"), None);
        assert!(home.brief.uses.is_empty());
        assert_eq!(home.house.spots.len(), 1);
    }
}
