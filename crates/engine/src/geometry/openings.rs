//! Doors, windows and stairs: those that are drawn, and those that every home has though nobody drew them.

use busy_hen_home::{Opening, OpeningKind, RoomId, Side, Stairwell};

use super::plan::{Floor, Hole, PlanRoom, Rect, Stands, Wall, WallOpening};
use crate::catalogue::{Material, materials};

/// Height of a door, m.
const DOOR_HEIGHT: f64 = 2.0;
/// Lower and upper edge of a window, m.
const WINDOW_EDGES: (f64, f64) = (0.9, 2.1);
/// Width of a door that nobody drew, m.
const DOOR_WIDTH: f64 = 0.8;
/// Two rooms share a door only along at least so much wall, m.
const DOOR_NEEDS: f64 = 0.9;
/// Part of an outer side that a window nobody drew takes, and the least side that has one, m.
const WINDOW_PART: f64 = 0.35;
const WINDOW_NEEDS: f64 = 1.2;
/// A hole for stairs that nobody drew, m.
const STAIRS: (f64, f64) = (0.9, 2.2);
/// Fills doors that nobody drew.
const DOOR: &str = "door";

const SIDES: [Side; 4] = [Side::North, Side::East, Side::South, Side::West];

/// Puts drawn openings into the walls they lie in; one whose side has no wall there is of no account.
pub fn drawn_openings(walls: &mut [Wall], rooms: &[PlanRoom], openings: &[Opening]) {
    for opening in openings {
        let Some(room) = rooms.iter().find(|room| room.id == opening.room_id) else { continue };
        let Some(material) = materials::find(&opening.material.0) else { continue };
        let (north_south, at, (from, to)) = room.rect.side(opening.side);
        let middle = from + opening.along_part * (to - from);
        let Some(wall) = wall_at(walls, room.level, north_south, at, middle) else { continue };
        let half = opening.width_m.get() / 2.0;
        let (low, high) = if opening.kind == OpeningKind::Door { (0.0, DOOR_HEIGHT) } else { WINDOW_EDGES };
        wall.openings.push(WallOpening {
            from: (middle - half).max(wall.from),
            to: (middle + half).min(wall.to),
            low,
            high,
            kind: opening.kind,
            material,
            stands: if opening.open { Stands::Open } else { Stands::Shut },
            assumed: false,
        });
    }
}

fn wall_at(walls: &mut [Wall], level: usize, north_south: bool, at: f64, along: f64) -> Option<&mut Wall> {
    walls.iter_mut().find(|wall| {
        wall.level == level
            && wall.north_south == north_south
            && (wall.at - at).abs() < 1e-6
            && wall.from <= along
            && along <= wall.to
    })
}

/// Two rooms of one level side by side: from where to where they touch, and on which line.
fn touch(a: &PlanRoom, b: &PlanRoom) -> Option<(bool, f64, (f64, f64))> {
    if a.level != b.level || a.outdoors || b.outdoors {
        return None;
    }
    SIDES.iter().find_map(|side| {
        let (north_south, at, (from, to)) = a.rect.side(*side);
        let opposite = match side {
            Side::North => Side::South,
            Side::South => Side::North,
            Side::East => Side::West,
            Side::West => Side::East,
        };
        let (_, other_at, (other_from, other_to)) = b.rect.side(opposite);
        let shared = (from.max(other_from), to.min(other_to));
        ((at - other_at).abs() < 1e-6 && shared.1 - shared.0 >= DOOR_NEEDS).then_some((north_south, at, shared))
    })
}

/// Rooms of a level that a room touches.
fn neighbours(room: &PlanRoom, rooms: &[PlanRoom]) -> usize {
    rooms.iter().filter(|other| other.id != room.id && touch(room, other).is_some()).count()
}

/// The room of a level that most others touch: its hall or landing.
fn hub(rooms: &[PlanRoom], level: usize) -> Option<&PlanRoom> {
    rooms
        .iter()
        .filter(|room| room.level == level && !room.outdoors)
        .max_by_key(|room| (neighbours(room, rooms), std::cmp::Reverse(room.line)))
}

/// Gives every indoor room that has no way in drawn a door to the neighbour that most rooms touch.
pub fn assumed_doors(walls: &mut [Wall], rooms: &[PlanRoom]) {
    let Some(material) = materials::find(DOOR) else { return };
    let mut added: Vec<(RoomId, RoomId)> = Vec::new();
    for room in rooms.iter().filter(|room| !room.outdoors) {
        let touching: Vec<(&PlanRoom, (bool, f64, (f64, f64)))> = rooms
            .iter()
            .filter(|other| other.id != room.id)
            .filter_map(|other| touch(room, other).map(|line| (other, line)))
            .collect();
        let has_way_in = touching.iter().any(|(_, (north_south, at, shared))| {
            let middle = (shared.0 + shared.1) / 2.0;
            let in_way = walls.iter().filter(|wall| {
                wall.level == room.level && wall.north_south == *north_south && (wall.at - at).abs() < 1e-6
            });
            let mut on_line = in_way.clone();
            let open_side = !on_line.any(|wall| wall.from <= middle && middle <= wall.to);
            let drawn = in_way.flat_map(|wall| &wall.openings).any(|opening| {
                !opening.assumed
                    && opening.kind == OpeningKind::Door
                    && opening.from < shared.1
                    && shared.0 < opening.to
            });
            open_side || drawn
        });
        if has_way_in {
            continue;
        }
        let towards =
            touching.into_iter().max_by_key(|(other, _)| (neighbours(other, rooms), std::cmp::Reverse(other.line)));
        let Some((other, (north_south, at, shared))) = towards else { continue };
        if added.contains(&(other.id, room.id)) {
            continue;
        }
        added.push((room.id, other.id));
        let middle = (shared.0 + shared.1) / 2.0;
        let Some(wall) = wall_at(walls, room.level, north_south, at, middle) else { continue };
        wall.openings.push(WallOpening {
            from: middle - DOOR_WIDTH / 2.0,
            to: middle + DOOR_WIDTH / 2.0,
            low: 0.0,
            high: DOOR_HEIGHT,
            kind: OpeningKind::Door,
            material,
            stands: Stands::Either,
            assumed: true,
        });
    }
}

/// Gives every outer side that nobody said anything about a window.
pub fn assumed_windows(
    walls: &mut [Wall],
    rooms: &[PlanRoom],
    said: impl Fn(RoomId, Side) -> bool,
    glazing: &'static Material,
) {
    for room in rooms.iter().filter(|room| !room.outdoors) {
        for side in SIDES.into_iter().filter(|side| !said(room.id, *side)) {
            let (north_south, at, (from, to)) = room.rect.side(side);
            for wall in walls.iter_mut().filter(|wall| {
                wall.envelope
                    && wall.level == room.level
                    && wall.north_south == north_south
                    && (wall.at - at).abs() < 1e-6
            }) {
                let (from, to) = (from.max(wall.from), to.min(wall.to));
                let drawn =
                    wall.openings.iter().any(|opening| !opening.assumed && opening.from < to && from < opening.to);
                if to - from < WINDOW_NEEDS || drawn {
                    continue;
                }
                let (middle, half) = ((from + to) / 2.0, (to - from) * WINDOW_PART / 2.0);
                wall.openings.push(WallOpening {
                    from: middle - half,
                    to: middle + half,
                    low: WINDOW_EDGES.0,
                    high: WINDOW_EDGES.1,
                    kind: OpeningKind::Window,
                    material: glazing,
                    stands: Stands::Shut,
                    assumed: true,
                });
            }
        }
    }
}

/// Cuts drawn stairwells into the floor over their room.
pub fn drawn_stairs(floors: &mut [Floor], rooms: &[PlanRoom], stairwells: &[Stairwell]) {
    for stairwell in stairwells {
        let Some(room) = rooms.iter().find(|room| room.id == stairwell.room_id) else { continue };
        let Some(floor) = floors.iter_mut().find(|floor| floor.above == room.level + 1) else { continue };
        let (width, depth) = (stairwell.width_m.get(), stairwell.depth_m.get());
        let x = room.rect.x + stairwell.east_part * room.rect.width - width / 2.0;
        let y = room.rect.y + stairwell.south_part * room.rect.depth - depth / 2.0;
        floor.holes.push(Hole { rect: Rect::new(x, y, width, depth), assumed: false });
    }
}

/// Cuts a hole for stairs into every floor that has none, where the halls of the two levels lie over each other.
pub fn assumed_stairs(floors: &mut [Floor], rooms: &[PlanRoom]) {
    for floor in floors.iter_mut().filter(|floor| floor.holes.is_empty()) {
        let (Some(below), Some(above)) = (hub(rooms, floor.above - 1), hub(rooms, floor.above)) else { continue };
        let Some((width, depth)) = below.rect.overlap(&above.rect) else { continue };
        let (short, long) = STAIRS;
        let (w, d) = if width < depth { (short, long) } else { (long, short) };
        let (w, d) = (w.min(width), d.min(depth));
        let x = below.rect.x.max(above.rect.x) + (width - w) / 2.0;
        let y = below.rect.y.max(above.rect.y) + (depth - d) / 2.0;
        floor.holes.push(Hole { rect: Rect::new(x, y, w, d), assumed: true });
    }
}
