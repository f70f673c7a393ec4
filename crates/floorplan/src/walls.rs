//! Walls that follow from rooms lying side by side.

use busy_hen_catalogue::Material;
use busy_hen_home::{PerBand, RoomId, Side, WallKey};

use super::parts::{PlanRoom, Wall};

/// Frequency at which two choices for one wall are weighed: index of 5.5 GHz in the table.
const WEIGHED_AT: usize = 1;

/// What a side was said to be: its material, and the thickness of its main layer when that was said too.
type Choice = (&'static Material, Option<f64>);

/// All walls of all levels; `choice` is asked for a room, a part of it, a side and a place along it.
///
/// Where two rooms touch there is one wall; where a room touches an outdoor area or nothing there is an outer wall; outdoor areas
/// have none. When both rooms name a material for the wall between them, the heavier counts.
pub fn walls(
    rooms: &[PlanRoom],
    levels: usize,
    choice: impl Fn(RoomId, usize, Side, f64) -> Option<Choice>,
    inner: &'static Material,
    outer: &'static Material,
) -> Vec<Wall> {
    let mut list = Vec::new();
    for level in 0..levels {
        for north_south in [true, false] {
            let edges = edges(rooms, level, north_south);
            let mut lines: Vec<f64> = edges.iter().map(|edge| edge.at).collect();
            lines.sort_by(f64::total_cmp);
            lines.dedup_by(|a, b| (*a - *b).abs() < 1e-6);
            for at in lines {
                let here: Vec<&Edge> = edges.iter().filter(|edge| (edge.at - at).abs() < 1e-6).collect();
                for wall in along_line(&here, level, north_south, at, &choice, inner, outer) {
                    append(&mut list, wall);
                }
            }
        }
    }
    number_stretches(&mut list);
    list
}

/// One side of a room: `before` when the room lies west or north of the line.
struct Edge<'a> {
    room: &'a PlanRoom,
    part: usize,
    before: bool,
    at: f64,
    from: f64,
    to: f64,
}

fn edges(rooms: &[PlanRoom], level: usize, north_south: bool) -> Vec<Edge<'_>> {
    let mut list = Vec::new();
    for room in rooms.iter().filter(|room| room.level == level) {
        for (part, rect) in room.rects().enumerate() {
            let (low, high, from, to) = if north_south {
                (rect.x, rect.east(), rect.y, rect.south())
            } else {
                (rect.y, rect.south(), rect.x, rect.east())
            };
            list.push(Edge { room, part, before: false, at: low, from, to });
            list.push(Edge { room, part, before: true, at: high, from, to });
        }
    }
    list
}

fn along_line(
    edges: &[&Edge<'_>],
    level: usize,
    north_south: bool,
    at: f64,
    choice: &impl Fn(RoomId, usize, Side, f64) -> Option<Choice>,
    inner: &'static Material,
    outer: &'static Material,
) -> Vec<Wall> {
    let mut stops: Vec<f64> = edges.iter().flat_map(|edge| [edge.from, edge.to]).collect();
    stops.sort_by(f64::total_cmp);
    stops.dedup_by(|a, b| (*a - *b).abs() < 1e-6);
    let (before_side, after_side) = if north_south { (Side::East, Side::West) } else { (Side::South, Side::North) };
    stops
        .windows(2)
        .filter_map(|pair| {
            let middle = (pair[0] + pair[1]) / 2.0;
            // Something may be built in a garden: what is indoors goes first.
            let room = |before: bool| {
                let here = |edge: &&&Edge<'_>| edge.before == before && edge.from < middle && middle < edge.to;
                edges.iter().filter(here).find(|edge| !edge.room.outdoors).map(|edge| (edge.room, edge.part))
            };
            let (before, after) = (room(true), room(false));
            if before.is_some_and(|(room, _)| after.is_some_and(|(other, _)| room.id == other.id)) {
                return None;
            }
            let envelope = before.is_some() != after.is_some();
            let chosen = [
                before.map(|(room, part)| choice(room.id, part, before_side, middle)),
                after.map(|(room, part)| choice(room.id, part, after_side, middle)),
            ];
            let (material, thickness) = match (before, after) {
                (None, None) => return None,
                _ => chosen
                    .into_iter()
                    .flatten()
                    .flatten()
                    .max_by(|a, b| a.0.loss_db[WEIGHED_AT].total_cmp(&b.0.loss_db[WEIGHED_AT]))
                    .unwrap_or((if envelope { outer } else { inner }, None)),
            };
            // Of two rooms the one before the line gives the wall its name.
            let ((room, part), side, beyond) = match (before, after) {
                (Some(room), after) => (room, before_side, after),
                (None, after) => (after?, after_side, None),
            };
            let part = u8::try_from(part).unwrap_or(u8::MAX);
            let key = WallKey { room_id: room.id, part, side, beyond: beyond.map(|(room, _)| room.id), stretch: 0 };
            (!material.is_open()).then_some(Wall {
                level,
                north_south,
                at,
                from: pair[0],
                to: pair[1],
                material,
                thickness,
                envelope,
                openings: Vec::new(),
                more: PerBand::default(),
                key,
            })
        })
        .collect()
}

/// Counts the stretches of one side with one room beyond, in the order they lie in.
fn number_stretches(list: &mut [Wall]) {
    for index in 1..list.len() {
        let key = list[index].key;
        let before = list[..index].iter().filter(|wall| WallKey { stretch: 0, ..wall.key } == key).count();
        if key.stretch == 0 && before > 0 {
            list[index].key.stretch = u8::try_from(before).unwrap_or(u8::MAX);
        }
    }
}

/// Adds a wall, joined to the one before when it only carries that on.
fn append(list: &mut Vec<Wall>, wall: Wall) {
    if let Some(last) = list.last_mut() {
        let carries_on = last.level == wall.level
            && last.north_south == wall.north_south
            && (last.at - wall.at).abs() < 1e-6
            && (last.to - wall.from).abs() < 1e-6;
        let alike = last.key == wall.key
            && last.material.key == wall.material.key
            && last.envelope == wall.envelope
            && last.thickness.map(f64::to_bits) == wall.thickness.map(f64::to_bits);
        if carries_on && alike {
            last.to = wall.to;
            return;
        }
    }
    list.push(wall);
}
