//! Rooms: a side moved with all that stands at it, one drawn, copied to another level, renamed.

use busy_hen_home::{LengthUnit, Level, LevelId, Side};
use busy_hen_units::Metres;

use super::edit::{CanNot, Edit, append_line, edit_of, place_edit};
use super::snap::{caught, round, side_lines, step};
use crate::lines::anchor::{SAME, anchor_anew, anchor_of, placed_at, size_text, write_part};
use crate::lines::lengths::write_length;
use crate::lines::line::{Align, Anchor, Of, RoomLine, read};
use crate::lines::place::{Pending, place, rects, same_name};
use crate::lines::thing::Named;
use crate::lines::words::side_word;
use crate::shapes::Rect;

/// Shortest side that a drag leaves, m.
pub(super) const SHORTEST: f64 = 0.3;

pub(super) fn find(all: &[Pending<'_>], name: &str) -> Result<usize, CanNot> {
    all.iter()
        .position(|room| same_name(&room.line.name.name, name))
        .ok_or_else(|| CanNot(format!("There is no line of a room called {name}.")))
}

pub(super) fn rect_of(all: &[Pending<'_>], index: usize) -> Result<Rect, CanNot> {
    let told = || CanNot(format!("{} has no place yet; mend its line first.", all[index].line.name.name));
    all[index].rect.ok_or_else(told)
}

/// A side of a room moved, with all that stands at that wall; other rooms keep their places.
pub(super) fn move_side(
    all: &[Pending<'_>],
    index: usize,
    (part, side, by): (usize, Side, f64),
    unit: LengthUnit,
    snap: bool,
) -> Result<Vec<Edit>, CanNot> {
    let level = all[index].level.id;
    rect_of(all, index)?;
    let parts = |room: &Pending<'_>| room.rect.map(|rect| rects(&room.line, rect)).unwrap_or_default();
    let own = *parts(&all[index]).get(part).ok_or_else(|| CanNot("This room has no such part.".into()))?;
    let line_at = own.side(side);
    let target = line_at.at + by;
    let by = if snap {
        let whole = (by / step(unit)).round() * step(unit);
        let lines = side_lines(all, level, None, line_at.north_south).filter(|line| (line - line_at.at).abs() > SAME);
        caught(target, lines).map_or(whole, |line| line - line_at.at)
    } else {
        by
    };
    // All sides on this wall, from one to the next across it.
    let mut moving: Vec<(usize, usize, Side)> = vec![(index, part, side)];
    let mut next = 0;
    while next < moving.len() {
        let (at, of, own_side) = moving[next];
        next += 1;
        if all[at].line.outdoors {
            continue;
        }
        let own = parts(&all[at])[of].side(own_side);
        for (other, room) in all.iter().enumerate() {
            if other == at || room.level.id != level || room.line.outdoors {
                continue;
            }
            for (number, rect) in parts(room).iter().enumerate() {
                let facing = opposite(own_side);
                let line = rect.side(facing);
                let meet = (line.at - own.at).abs() < SAME && line.from.max(own.from) + 0.05 < line.to.min(own.to);
                if meet && !moving.contains(&(other, number, facing)) {
                    moving.push((other, number, facing));
                }
            }
        }
    }
    let mut lines: Vec<RoomLine> = all.iter().map(|room| room.line.clone()).collect();
    let mut wanted: Vec<Option<Rect>> = all.iter().map(|room| room.rect).collect();
    for (at, of, side) in &moving {
        let before = parts(&all[*at]);
        let mut rect = before[*of];
        match side {
            Side::East => rect.width += by,
            Side::South => rect.depth += by,
            Side::West => (rect.x, rect.width) = (rect.x + by, rect.width - by),
            Side::North => (rect.y, rect.depth) = (rect.y + by, rect.depth - by),
        }
        if rect.width < SHORTEST || rect.depth < SHORTEST {
            return Err(CanNot(format!("{} would be too narrow.", all[*at].line.name.name)));
        }
        let rect = Rect::new(rect.x, rect.y, rect.width, rect.depth);
        let size = (Metres::new(rect.width), Metres::new(rect.depth));
        match of.checked_sub(1) {
            None => (lines[*at].size, wanted[*at]) = (size, Some(rect)),
            Some(added) => lines[*at].parts[added].size = size,
        }
        hold_parts(&mut lines[*at], wanted[*at].unwrap_or(rect), &before, (*of, rect))?;
    }
    // Whatever was told from what has moved is told so that it stays.
    let mut now: Vec<Pending<'_>> =
        all.iter().zip(&lines).map(|(room, line)| Pending { line: line.clone(), rect: None, ..*room }).collect();
    for index in 0..now.len() {
        settle_one(&mut now, index, &wanted, 0);
    }
    let mut edits = Vec::new();
    for (room, new) in all.iter().zip(&now) {
        if room.line.size != new.line.size {
            edits.push(edit_of(room, room.line.size_span, size_text(new.line.size, unit)));
        }
        for (was, part) in room.line.parts.iter().zip(&new.line.parts) {
            if was.size != part.size {
                edits.push(edit_of(room, was.size_span, size_text(part.size, unit)));
            }
            if was.align != part.align || was.offset != part.offset {
                let shift = part.offset.get().abs() >= SAME;
                let offset = if shift { format!(" offset {}", write_length(part.offset, unit)) } else { String::new() };
                edits.push(edit_of(room, was.place_span, format!(" {}{offset}", side_word(part.side))));
            }
        }
        if room.line.write_place(unit) != new.line.write_place(unit) {
            edits.push(place_edit(room, &new.line, unit));
        }
    }
    Ok(edits)
}

/// Places a room after those it is told from, and tells its place anew where it would have moved.
pub(super) fn settle_one(now: &mut [Pending<'_>], index: usize, wanted: &[Option<Rect>], depth: usize) {
    if now[index].rect.is_some() || depth > now.len() {
        return;
    }
    if let Some(on) = anchor_of(now, index).filter(|on| *on != index) {
        settle_one(now, on, wanted, depth + 1);
    }
    let Some(target) = wanted[index] else { return };
    now[index].line = placed_at(now, index, &target);
    now[index].rect = place(&now[index], now);
}

/// Keeps the parts of a room where they were when its first part, or one of them, changed: each is shifted, and one that is added to the
/// moved side gives way.
pub(super) fn hold_parts(
    line: &mut RoomLine,
    first: Rect,
    before: &[Rect],
    (of, rect): (usize, Rect),
) -> Result<(), CanNot> {
    let name = line.name.name.clone();
    for (number, part) in line.parts.iter_mut().enumerate() {
        let mut was = if number + 1 == of { rect } else { before[number + 1] };
        // Its seam lies at the first part's side.
        let seam = first.side(part.side).at;
        match part.side {
            Side::South => (was.depth, was.y) = (was.south() - seam, seam),
            Side::East => (was.width, was.x) = (was.east() - seam, seam),
            Side::North => was.depth = seam - was.y,
            Side::West => was.width = seam - was.x,
        }
        if was.width < SHORTEST || was.depth < SHORTEST {
            return Err(CanNot(format!("A part of {name} would be too narrow.")));
        }
        part.size = (Metres::new(round(was.width)), Metres::new(round(was.depth)));
        let along = if matches!(part.side, Side::North | Side::South) {
            (was.x - first.x, was.east() - first.east(), first.width - was.width)
        } else {
            (was.y - first.y, was.south() - first.south(), first.depth - was.depth)
        };
        let held = match part.align {
            Align::Start => along.0,
            Align::End => along.1,
            Align::Centre => along.0 - along.2 / 2.0,
        } - part.offset.get();
        if held.abs() > SAME {
            part.align = Align::Start;
            part.offset = Metres::new(if along.0.abs() < SAME { 0.0 } else { round(along.0) });
        }
    }
    Ok(())
}

/// The side that faces this one.
#[must_use]
pub fn opposite(side: Side) -> Side {
    match side {
        Side::North => Side::South,
        Side::East => Side::West,
        Side::South => Side::North,
        Side::West => Side::East,
    }
}

pub(super) fn add_room(
    levels: &mut [Level],
    all: &[Pending<'_>],
    level_id: LevelId,
    rect: &Rect,
    outdoors: bool,
    unit: LengthUnit,
) -> Result<(), CanNot> {
    if rect.width < SHORTEST || rect.depth < SHORTEST {
        return Err(CanNot("This is too small for a room; drag from one corner to the opposite one.".into()));
    }
    let base = if outdoors { "Area" } else { "Room" };
    let name = (1..)
        .map(|n| if n == 1 { base.to_owned() } else { format!("{base} {n}") })
        .find(|name| all.iter().all(|room| !same_name(&room.line.name.name, name)))
        .unwrap_or_default();
    let mut line = RoomLine {
        name: Named { name: name.clone(), from: 0, to: 0 },
        size: (Metres::new(rect.width), Metres::new(rect.depth)),
        size_span: (0, 0),
        width_as_typed: (0.0, false),
        parts: Vec::new(),
        anchor: None,
        gap: Metres::default(),
        align: Align::Start,
        offset: (Metres::default(), Metres::default()),
        outdoors,
        place_span: (0, 0),
        doubt: None,
    };
    anchor_anew(&mut line, all, None, level_id, rect);
    let text = format!("{name} {} {}", size_text(line.size, unit), line.write_place(unit));
    let level =
        levels.iter_mut().find(|level| level.id == level_id).ok_or_else(|| CanNot("This level is gone.".into()))?;
    append_line(level, text.trim_end());
    Ok(())
}

pub(super) fn copy_level(
    levels: &mut [Level],
    all: &[Pending<'_>],
    of: LevelId,
    to: LevelId,
    unit: LengthUnit,
) -> Result<(), CanNot> {
    let gone = || CanNot("This level is gone.".into());
    let above = levels.iter().position(|level| level.id == to).ok_or_else(gone)?
        > levels.iter().position(|level| level.id == of).ok_or_else(gone)?;
    let level = levels.iter_mut().find(|level| level.id == to).ok_or_else(gone)?;
    for room in all.iter().filter(|room| room.level.id == of && !room.line.outdoors && room.rect.is_some()) {
        let name = format!("{} {}", level.name, room.line.name.name);
        if all.iter().any(|own| same_name(&own.line.name.name, &name)) {
            continue;
        }
        let parts: String = room.line.parts.iter().map(|part| format!(" + {}", write_part(part, unit))).collect();
        let where_it_is = if above { "above" } else { "below" };
        let line = format!("{name} {}{parts} {where_it_is} {}", size_text(room.line.size, unit), room.line.name.name);
        append_line(level, &line);
    }
    Ok(())
}

pub(super) fn renamed(levels: &[Level], unit: LengthUnit, from: &str, to: &str) -> Vec<Edit> {
    let mut edits = Vec::new();
    for level in levels {
        for (index, text) in level.lines.split('\n').enumerate() {
            let Ok(Some(line)) = read(text, unit) else { continue };
            let mut names: Vec<&Named> = Vec::new();
            match &line.of {
                Of::Room(room) => {
                    names.push(&room.name);
                    if let Some(Anchor::Beside(_, named) | Anchor::Above(named) | Anchor::Below(named)) = &room.anchor {
                        names.push(named);
                    }
                }
                Of::Named(named) => names.push(named),
                Of::Above => {}
            }
            names.extend(line.things.iter().filter_map(|thing| thing.place.beyond.as_ref()));
            edits.extend(names.into_iter().filter(|named| same_name(&named.name, from)).map(|named| Edit {
                level_id: level.id,
                line: index,
                from: named.from,
                to: named.to,
                with: to.to_owned(),
            }));
        }
    }
    edits
}
