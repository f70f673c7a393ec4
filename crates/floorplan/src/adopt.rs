//! What homes of before kept in lists, written into their lines: doors, windows, walls, stairs, what stands in the way.

use busy_hen_home::{House, LengthUnit, OpeningKind, RoomId, Side};
use busy_hen_units::Metres;

use super::lines::place::{Pending, placed, rects, same_name};
use super::lines::rewrite::add_thing;
use super::lines::thing::{Gap, Opening, Place, Thing, What};
use super::lines::write::write_thing;
use super::shapes::Rect;

/// Writes what a house keeps in lists into its lines, and empties the lists; what belongs to a room that has no place stays where it is.
pub fn adopt(house: &mut House, unit: LengthUnit) {
    let listed = (house.walls.len(), house.openings.len(), house.stairwells.len(), house.obstacles.len());
    if listed == (0, 0, 0, 0) {
        return;
    }
    let levels = house.levels.clone();
    let all = placed(&levels, unit);
    let names: Vec<(RoomId, String)> = house.rooms.iter().map(|room| (room.id, room.name.clone())).collect();
    let of_room = |id: RoomId| -> Option<(&Pending<'_>, Rect)> {
        let (_, name) = names.iter().find(|(own, _)| *own == id)?;
        let room = all.iter().find(|room| same_name(&room.line.name.name, name))?;
        Some((room, room.rect?))
    };
    let mut said: Vec<(usize, String)> = Vec::new();
    let index = |room: &Pending<'_>| {
        all.iter().position(|own| own.line.name == room.line.name && own.level.id == room.level.id)
    };
    let mut say = |room: &Pending<'_>, what: What, place: Place| {
        let words = write_thing(&Thing { from: 0, to: 0, what, place }, unit);
        if let Some(index) = index(room) {
            said.push((index, words));
        }
    };
    let at_side = |side: Side| Place { sides: vec![side], ..Place::default() };
    let millimetre = |metres: f64| Metres::new((metres * 1000.0).round() / 1000.0);
    house.walls.retain(|wall| {
        let Some((room, _)) = of_room(wall.room_id) else { return true };
        say(room, What::Wall { material: wall.material.clone(), thickness: wall.thickness_m }, at_side(wall.side));
        false
    });
    house.openings.retain(|own| {
        let Some((room, rect)) = of_room(own.room_id) else { return true };
        let line = rect.side(own.side);
        let start = own.along_part * (line.to - line.from) - own.width_m.get() / 2.0;
        let opening = Opening {
            kind: if own.kind == OpeningKind::Door { Gap::Door } else { Gap::Window },
            width: Some(own.width_m),
            top: None,
            sill: None,
            material: Some(own.material.clone()),
            open: (own.kind == OpeningKind::Door || own.open).then_some(own.open),
        };
        // One that reached past an end was cut there.
        let (start, width) = (start.max(0.0), (start + own.width_m.get()).min(line.to - line.from) - start.max(0.0));
        let opening = Opening { width: Some(millimetre(width)), ..opening };
        say(room, What::Opening(opening), Place { at: Some((millimetre(start), None)), ..at_side(own.side) });
        false
    });
    house.stairwells.retain(|own| {
        let Some((room, rect)) = of_room(own.room_id) else { return true };
        let (width, depth) = (own.width_m.get().min(rect.width), own.depth_m.get().min(rect.depth));
        let corner = |part: f64, length: f64, own: f64| (part * length - own / 2.0).min(length - own).max(0.0);
        let (x, y) = (corner(own.east_part, rect.width, width), corner(own.south_part, rect.depth, depth));
        let place = Place { at: Some((millimetre(x), Some(millimetre(y)))), ..Place::default() };
        say(room, What::Stairs { size: Some((millimetre(width), millimetre(depth))) }, place);
        false
    });
    house.obstacles.retain(|own| {
        let middle =
            (f64::midpoint(own.from_x_m.get(), own.to_x_m.get()), f64::midpoint(own.from_y_m.get(), own.to_y_m.get()));
        let of_level = || all.iter().filter(|room| room.level.id == own.level_id);
        let around = of_level().find(|room| {
            room.rect.is_some_and(|rect| rects(&room.line, rect).iter().any(|part| part.contains(middle.0, middle.1)))
        });
        let Some((room, rect)) = around.or_else(|| of_level().next()).and_then(|room| Some((room, room.rect?))) else {
            return true;
        };
        let from_corner = |x: Metres, y: Metres| (millimetre(x.get() - rect.x), millimetre(y.get() - rect.y));
        let (from, to) = (from_corner(own.from_x_m, own.from_y_m), from_corner(own.to_x_m, own.to_y_m));
        let what = What::Solid { kind: own.kind, size: None, height: Some(own.height_m), depth: Some(own.depth_m) };
        say(room, what, Place { at: Some((from.0, Some(from.1))), to: Some(to), ..Place::default() });
        false
    });
    // From the last line up, so that lines keep their numbers until their turn.
    said.reverse();
    said.sort_by_key(|(index, _)| std::cmp::Reverse(all[*index].line_index));
    let mut by_room: Vec<(usize, Vec<String>)> = Vec::new();
    for (index, words) in said {
        match by_room.last_mut() {
            Some((own, list)) if *own == index => list.insert(0, words),
            _ => by_room.push((index, vec![words])),
        }
    }
    for (index, list) in by_room {
        for words in list {
            add_thing(&mut house.levels, &all[index], &words);
        }
    }
}
