//! What is done on the drawing, written into the lines: what the installer typed stays, comments and order kept, but for the piece that
//! says what was changed.

use busy_hen_home::{LengthUnit, Level, LevelId, MaterialKey, Side};
use busy_hen_units::Metres;
use serde::{Deserialize, Serialize};
use thiserror::Error;
use utoipa::ToSchema;

use super::draw::{Pending, Placed, draw, overlap, place, placed, rects, same_name};
use super::fittings::{FittedOpening, Source, meeting};
use super::lengths::write_length;
use super::line::{Align, Anchor, Of, Part, RoomLine, read};
use super::thing::{Named, Place, Thing, What};
use super::words::{material_word, side_word};
use super::write::at_clause;
use super::wrong::Wrong;
use crate::geometry::shapes::Rect;

/// What is dragged goes to whole steps of this, m: 5 cm, or 2 inches in a home of feet.
const STEP: (f64, f64) = (0.05, 2.0 * 0.0254);
/// What is dragged nearer than this to another room's side goes to it, m.
const CATCHES: f64 = 0.15;
/// Shortest side that a drag leaves, m.
const SHORTEST: f64 = 0.3;
/// Places that differ by less are one, m.
const SAME: f64 = 0.002;
/// A line of things longer than this is carried on in another, characters.
const LONG_LINE: usize = 90;

/// Something done on the drawing.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "what", rename_all = "snake_case")]
pub enum Change {
    /// A room is moved; rooms that are placed from it go along.
    MoveRoom {
        /// Its name.
        room: String,
        /// East.
        east_m: Metres,
        /// South.
        south_m: Metres,
    },
    /// A side of a room is moved, with all rooms on both sides of that wall; everything else stays.
    MoveSide {
        /// Its name.
        room: String,
        /// Which part of it, counted from 0.
        part: usize,
        /// The side.
        side: Side,
        /// How far east or south.
        by_m: Metres,
    },
    /// A part of a room gets another size; its north-west corner stays.
    SetSize {
        /// Its name.
        room: String,
        /// Which part of it, counted from 0.
        part: usize,
        /// The size in the words of a line, as in "14' x 10'".
        size: String,
    },
    /// A door, window, stairs, socket or other thing is moved: along its wall, or about its room.
    MoveThing {
        /// The level whose text says it.
        level_id: LevelId,
        /// Line of that text, counted from 0.
        line: usize,
        /// First character of it.
        from: usize,
        /// East.
        east_m: Metres,
        /// South.
        south_m: Metres,
    },
    /// A thing is taken out.
    RemoveThing {
        /// The level whose text says it.
        level_id: LevelId,
        /// Line of that text, counted from 0.
        line: usize,
        /// First character of it.
        from: usize,
    },
    /// A room is drawn.
    AddRoom {
        /// Its level.
        level_id: LevelId,
        /// West side.
        x_m: Metres,
        /// North side.
        y_m: Metres,
        /// East-west size.
        width_m: Metres,
        /// North-south size.
        depth_m: Metres,
        /// Whether it is an outdoor area.
        outdoors: bool,
    },
    /// Something is put into a room, in the words of a line.
    AddThing {
        /// The room's name.
        room: String,
        /// What, as in "door north".
        words: String,
    },
    /// A side of a room is made of something else, or as the rest of the house.
    SetWall {
        /// The room's name.
        room: String,
        /// The side.
        side: Side,
        /// What it is made of; none to say nothing of it.
        material: Option<MaterialKey>,
        /// How thick, where that is not usual.
        thickness_m: Option<Metres>,
    },
    /// The rooms of a level are drawn once more on another, each over its like.
    CopyLevel {
        /// The level that is copied.
        of: LevelId,
        /// The level that they come to.
        to: LevelId,
    },
    /// A room gets another name, also where other lines name it.
    Rename {
        /// Its name.
        room: String,
        /// Its new name.
        to: String,
    },
}

/// Why something can't be done on the drawing, in one sentence.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("{0}")]
pub struct CanNot(pub String);

/// A piece of a line that takes the place of another.
struct Edit {
    level_id: LevelId,
    line: usize,
    from: usize,
    to: usize,
    with: String,
}

/// Writes a change into the lines of the levels; `snap` lets it catch on other rooms and whole steps.
///
/// # Errors
/// [`CanNot`] when the change makes no sense: nothing of that name, no room for it.
pub fn rewrite(levels: &[Level], unit: LengthUnit, change: &Change, snap: bool) -> Result<Vec<Level>, CanNot> {
    let all = placed(levels, unit);
    let finite = |value: &Metres| value.get().is_finite() && value.get().abs() < 1000.0;
    let mut levels = levels.to_vec();
    match change {
        Change::MoveRoom { room, east_m, south_m } if finite(east_m) && finite(south_m) => {
            let index = find(&all, room)?;
            let rect = rect_of(&all, index)?;
            let wanted = Rect::new(rect.x + east_m.get(), rect.y + south_m.get(), rect.width, rect.depth);
            let wanted = if snap { snapped(&wanted, &rect, &all, index, unit) } else { wanted };
            let line = placed_at(&all, index, &wanted);
            if line != all[index].line {
                apply(&mut levels, vec![place_edit(&all[index], &line, unit)]);
            }
        }
        Change::MoveSide { room, part, side, by_m } if finite(by_m) => {
            let index = find(&all, room)?;
            let edits = move_side(&all, index, (*part, *side, by_m.get()), unit, snap)?;
            apply(&mut levels, edits);
        }
        Change::SetSize { room, part, size } => {
            let index = find(&all, room)?;
            let line = &all[index].line;
            let span = match part.checked_sub(1) {
                None => line.size_span,
                Some(added) => {
                    line.parts.get(added).ok_or_else(|| CanNot("This room has no such part.".into()))?.size_span
                }
            };
            let size = size.trim();
            let is_size = |wrong: Wrong| CanNot(wrong.message);
            let as_line = read(&format!("Room {size}"), unit).map_err(is_size)?;
            if !matches!(as_line.map(|line| line.of), Some(Of::Room(room)) if room.name.name == "Room" && room.parts.is_empty() && room.anchor.is_none())
            {
                return Err(CanNot("Write width x depth, and nothing else.".into()));
            }
            apply(&mut levels, vec![edit_of(&all[index], span, size.to_owned())]);
        }
        Change::MoveThing { level_id, line, from, east_m, south_m } if finite(east_m) && finite(south_m) => {
            let edit = move_thing(&levels, unit, (*level_id, *line, *from), (east_m.get(), south_m.get()), snap)?;
            apply(&mut levels, vec![edit]);
        }
        Change::RemoveThing { level_id, line, from } => {
            let (thing, text) = thing_at(&levels, unit, (*level_id, *line, *from))?;
            remove_thing(&mut levels, *level_id, *line, &thing, &text);
        }
        Change::AddRoom { level_id, x_m, y_m, width_m, depth_m, outdoors }
            if [x_m, y_m, width_m, depth_m].into_iter().all(finite) =>
        {
            let rect = Rect::new(x_m.get(), y_m.get(), width_m.get(), depth_m.get());
            let rect = if snap { snapped_whole(&rect, &all, *level_id, unit) } else { rect };
            add_room(&mut levels, &all, *level_id, &rect, *outdoors, unit)?;
        }
        Change::AddThing { room, words } => {
            let index = find(&all, room)?;
            let words = words.replace(['\n', ';', '#'], " ");
            add_thing(&mut levels, &all[index], words.trim());
        }
        Change::SetWall { room, side, material, thickness_m } => {
            let index = find(&all, room)?;
            set_wall(&mut levels, &all[index], unit, *side, material.as_ref().map(|key| (key, *thickness_m)))?;
        }
        Change::CopyLevel { of, to } => copy_level(&mut levels, &all, *of, *to, unit)?,
        Change::Rename { room, to } => {
            find(&all, room)?;
            let to = to.split_whitespace().collect::<Vec<_>>().join(" ");
            let edits = renamed(&levels, unit, room, &to);
            apply(&mut levels, edits);
        }
        _ => return Err(CanNot("This lies too far away.".into())),
    }
    Ok(levels)
}

fn find(all: &[Pending<'_>], name: &str) -> Result<usize, CanNot> {
    all.iter()
        .position(|room| same_name(&room.line.name.name, name))
        .ok_or_else(|| CanNot(format!("There is no line of a room called {name}.")))
}

fn rect_of(all: &[Pending<'_>], index: usize) -> Result<Rect, CanNot> {
    let told = || CanNot(format!("{} has no place yet; mend its line first.", all[index].line.name.name));
    all[index].rect.ok_or_else(told)
}

fn edit_of(room: &Pending<'_>, (from, to): (usize, usize), with: String) -> Edit {
    Edit { level_id: room.level.id, line: room.line_index, from, to, with }
}

pub(super) fn size_text(size: (Metres, Metres), unit: LengthUnit) -> String {
    format!("{} x {}", write_length(size.0, unit), write_length(size.1, unit))
}

fn place_edit(room: &Pending<'_>, line: &RoomLine, unit: LengthUnit) -> Edit {
    let words = line.write_place(unit);
    let with = if words.is_empty() { words } else { format!(" {words}") };
    edit_of(room, room.line.place_span, with)
}

/// Does the edits, the last of a line first, so that places stay what they are.
fn apply(levels: &mut [Level], mut edits: Vec<Edit>) {
    edits.sort_by_key(|edit| std::cmp::Reverse((edit.line, edit.from)));
    for edit in edits {
        let Some(level) = levels.iter_mut().find(|level| level.id == edit.level_id) else { continue };
        let mut lines: Vec<String> = level.lines.split('\n').map(str::to_owned).collect();
        if let Some(line) = lines.get_mut(edit.line) {
            let chars: Vec<char> = line.chars().collect();
            let (from, to) = (edit.from.min(chars.len()), edit.to.min(chars.len()));
            *line = chars[..from].iter().copied().chain(edit.with.chars()).chain(chars[to..].iter().copied()).collect();
        }
        level.lines = lines.join("\n");
    }
}

fn step(unit: LengthUnit) -> f64 {
    if unit == LengthUnit::Foot { STEP.1 } else { STEP.0 }
}

/// The nearest to a value of these lines, when one is near enough to catch it.
fn caught(value: f64, lines: impl Iterator<Item = f64>) -> Option<f64> {
    lines.filter(|line| (line - value).abs() < CATCHES).min_by(|a, b| (a - value).abs().total_cmp(&(b - value).abs()))
}

/// Sides of the other rooms that one of a level may catch on: those of its own level first, then those below.
fn side_lines<'a>(
    all: &'a [Pending<'_>],
    of: LevelId,
    but: Option<usize>,
    north_south: bool,
) -> impl Iterator<Item = f64> + 'a {
    let others = all.iter().enumerate().filter(move |(index, room)| Some(*index) != but && room.level.id == of);
    others
        .filter_map(|(_, room)| Some(rects(&room.line, room.rect?)))
        .flatten()
        .flat_map(move |rect| if north_south { [rect.x, rect.east()] } else { [rect.y, rect.south()] })
}

/// A moved rectangle, caught by other rooms' sides or by whole steps of the way it went.
fn snapped(wanted: &Rect, was: &Rect, all: &[Pending<'_>], index: usize, unit: LengthUnit) -> Rect {
    let level = all[index].level.id;
    let axis = |low: f64, length: f64, was: f64, north_south: bool| {
        let lines = || side_lines(all, level, Some(index), north_south);
        let by_low = caught(low, lines());
        let by_high = caught(low + length, lines()).map(|line| line - length);
        let near = [by_low, by_high].into_iter().flatten().min_by(|a, b| (a - low).abs().total_cmp(&(b - low).abs()));
        near.unwrap_or_else(|| was + ((low - was) / step(unit)).round() * step(unit))
    };
    let x = axis(wanted.x, wanted.width, was.x, true);
    let y = axis(wanted.y, wanted.depth, was.y, false);
    Rect::new(x, y, wanted.width, wanted.depth)
}

/// A drawn rectangle with each side caught by other rooms' sides or by whole steps.
fn snapped_whole(rect: &Rect, all: &[Pending<'_>], level: LevelId, unit: LengthUnit) -> Rect {
    let side = |value: f64, north_south: bool| caught(value, side_lines(all, level, None, north_south));
    let span = |low: f64, high: f64, north_south: bool| {
        let whole = |value: f64| (value / step(unit)).round() * step(unit);
        let from = side(low, north_south).unwrap_or_else(|| whole(low));
        let to = side(high, north_south).unwrap_or_else(|| from + whole(high - from));
        (from, to - from)
    };
    let (x, width) = span(rect.x, rect.east(), true);
    let (y, depth) = span(rect.y, rect.south(), false);
    Rect::new(x, y, width, depth)
}

/// Whether a room's place is told, directly or not, from another's.
fn leans_on(all: &[Pending<'_>], index: usize, on: usize) -> bool {
    let mut at = Some(index);
    for _ in 0..=all.len() {
        match at {
            Some(here) if here == on => return true,
            Some(here) => at = anchor_of(all, here),
            None => return false,
        }
    }
    true
}

fn anchor_of(all: &[Pending<'_>], index: usize) -> Option<usize> {
    match all[index].line.anchor.as_ref()? {
        Anchor::Beside(_, named) | Anchor::Above(named) | Anchor::Below(named) => {
            all.iter().position(|other| same_name(&other.line.name.name, &named.name))
        }
        Anchor::At(..) => None,
    }
}

/// The line of a room so that its first part lies there: from the room it was told from where that can be, else from one it touches.
pub(super) fn placed_at(all: &[Pending<'_>], index: usize, wanted: &Rect) -> RoomLine {
    let room = &all[index];
    let mut line = room.line.clone();
    let now = Pending { line: line.clone(), rect: None, ..*room };
    let Some(is) = place(&now, all) else { return line };
    let (dx, dy) = (wanted.x - is.x, wanted.y - is.y);
    if dx.abs() < SAME && dy.abs() < SAME {
        return line;
    }
    let by = |metres: f64| Metres::new(metres);
    match line.anchor.clone() {
        None => line.anchor = Some(Anchor::At(by(wanted.x), by(wanted.y))),
        Some(Anchor::At(..)) => line.anchor = Some(Anchor::At(by(wanted.x), by(wanted.y))),
        Some(Anchor::Above(_) | Anchor::Below(_)) => line.offset = (line.offset.0 + by(dx), line.offset.1 + by(dy)),
        Some(Anchor::Beside(side, _)) => {
            let (out, along) = match side {
                Side::East => (dx, dy),
                Side::West => (-dx, dy),
                Side::South => (dy, dx),
                Side::North => (-dy, dx),
            };
            let gap = line.gap.get() + out;
            let other = anchor_of(all, index).and_then(|other| all[other].rect);
            let faces = other.is_none_or(|other| match side {
                Side::East | Side::West => other.y < wanted.south() && wanted.y < other.south(),
                Side::North | Side::South => other.x < wanted.east() && wanted.x < other.east(),
            });
            if gap > -SAME && faces {
                line.gap = by(if gap < SAME { 0.0 } else { gap });
                line.offset.0 += by(along);
            } else {
                anchor_anew(&mut line, all, Some(index), room.level.id, wanted);
            }
        }
    }
    let tidy = |metres: Metres| if metres.get().abs() < SAME { Metres::default() } else { metres };
    line.offset = (tidy(line.offset.0), tidy(line.offset.1));
    line
}

/// Tells a rectangle's place from a room that it touches, or from the origin.
fn anchor_anew(line: &mut RoomLine, all: &[Pending<'_>], own: Option<usize>, level: LevelId, wanted: &Rect) {
    line.gap = Metres::default();
    line.align = Align::Start;
    line.offset = (Metres::default(), Metres::default());
    let of_level = all.iter().enumerate().filter(|(_, other)| other.level.id == level);
    let free = of_level.filter(|(index, _)| own.is_none_or(|own| !leans_on(all, *index, own)));
    let touching = free.filter_map(|(index, other)| {
        let (side, _, shared) = meeting(&[other.rect?], &[*wanted])?;
        Some((index, side, shared))
    });
    let best = touching.max_by(|a, b| {
        let length = |one: &(usize, Side, crate::geometry::shapes::Stretch)| one.2.to - one.2.from;
        length(a).total_cmp(&length(b)).then(b.0.cmp(&a.0))
    });
    let Some((index, side, _)) = best else {
        line.anchor = Some(Anchor::At(Metres::new(wanted.x), Metres::new(wanted.y)));
        return;
    };
    let other = all[index].rect.unwrap_or(*wanted);
    let along_y = matches!(side, Side::East | Side::West);
    let (start, end) = if along_y {
        (wanted.y - other.y, wanted.south() - other.south())
    } else {
        (wanted.x - other.x, wanted.east() - other.east())
    };
    if start.abs() < SAME {
        line.align = Align::Start;
    } else if end.abs() < SAME {
        line.align = Align::End;
    } else {
        line.offset.0 = Metres::new(start);
    }
    let name = &all[index].line.name;
    line.anchor = Some(Anchor::Beside(side, name.clone()));
}

/// A side of a room moved, with all that stands at that wall; other rooms keep their places.
fn move_side(
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
fn settle_one(now: &mut [Pending<'_>], index: usize, wanted: &[Option<Rect>], depth: usize) {
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
fn hold_parts(line: &mut RoomLine, first: Rect, before: &[Rect], (of, rect): (usize, Rect)) -> Result<(), CanNot> {
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

fn round(value: f64) -> f64 {
    (value * 1000.0).round() / 1000.0
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

/// The thing that begins at this character of a line, with the line.
fn thing_at(
    levels: &[Level],
    unit: LengthUnit,
    (level_id, line, from): (LevelId, usize, usize),
) -> Result<(Thing, String), CanNot> {
    let gone = || CanNot("This is no longer there; the lines have changed.".into());
    let level = levels.iter().find(|level| level.id == level_id).ok_or_else(gone)?;
    let text = level.lines.split('\n').nth(line).ok_or_else(gone)?;
    let read = read(text, unit).ok().flatten().ok_or_else(gone)?;
    let thing = read.things.into_iter().find(|thing| thing.from == from).ok_or_else(gone)?;
    Ok((thing, text.to_owned()))
}

fn move_thing(
    levels: &[Level],
    unit: LengthUnit,
    at: (LevelId, usize, usize),
    (dx, dy): (f64, f64),
    snap: bool,
) -> Result<Edit, CanNot> {
    let (thing, _) = thing_at(levels, unit, at)?;
    let typed = draw(levels, unit);
    let source = Source { level_id: at.0, line: at.1, from: at.2 };
    let whole = |value: f64| if snap { (value / step(unit)).round() * step(unit) } else { value };
    let length = |metres: f64| write_length(Metres::new(round(metres)), unit);
    let clause = if let Some(own) = typed.fittings.openings.iter().find(|own| own.source == source) {
        let by = if own.wall.north_south { dy } else { dx };
        along_clause(own, by, thing.place.from, whole, unit)
    } else if let Some(own) = typed.fittings.stairs.iter().find(|own| own.source == source) {
        let room = typed.rooms[own.room].rects[thing.place.part.unwrap_or(0)];
        let x = whole(own.rect.x + dx - room.x).clamp(0.0, (room.width - own.rect.width).max(0.0));
        let y = whole(own.rect.y + dy - room.y).clamp(0.0, (room.depth - own.rect.depth).max(0.0));
        format!("at {}, {}", length(x), length(y))
    } else if let Some(own) = typed.fittings.sockets.iter().find(|own| own.source == source) {
        let room = typed.rooms[own.room].rects[thing.place.part.unwrap_or(0)];
        match own.side {
            Some(side) => {
                let wall = room.side(side);
                let along = if wall.north_south { own.at.1 + dy } else { own.at.0 + dx };
                let along = whole(along - wall.from).clamp(0.0, wall.to - wall.from);
                at_clause(Metres::new(round(along)), None, unit)
            }
            None => {
                let x = whole(own.at.0 + dx - room.x).clamp(0.0, room.width);
                let y = whole(own.at.1 + dy - room.y).clamp(0.0, room.depth);
                format!("at {}, {}", length(x), length(y))
            }
        }
    } else if let Some(own) = typed.fittings.solids.iter().find(|own| own.source == source) {
        let room = typed.rooms[own.room].rects[thing.place.part.unwrap_or(0)];
        let ends = [own.ends.0, own.ends.1].map(|(x, y)| (x - room.x + dx, y - room.y + dy));
        match &thing.what {
            // What has an outline is told by its corner, what is a line by its ends.
            What::Solid { .. } if is_outlined(&thing.place, &thing.what) => {
                let half = own.depth / 2.0;
                let (low_x, low_y) = (ends[0].0.min(ends[1].0), ends[0].1.min(ends[1].1));
                let along_x = (ends[0].1 - ends[1].1).abs() < SAME;
                let corner = if along_x { (low_x, low_y - half) } else { (low_x - half, low_y) };
                format!("at {}, {}", length(whole(corner.0)), length(whole(corner.1)))
            }
            _ => {
                let [a, b] = ends.map(|(x, y)| format!("{}, {}", length(whole(x)), length(whole(y))));
                format!("at {a} to {b}")
            }
        }
    } else {
        return Err(CanNot("This has no place in the house yet; mend its line first.".into()));
    };
    let (from, to) = thing.place.at_span;
    let with = if from == to { format!(" {clause}") } else { clause };
    Ok(Edit { level_id: at.0, line: at.1, from, to, with })
}

/// Whether a thing in the way has an outline of its own, not only ends.
fn is_outlined(place: &Place, what: &What) -> bool {
    use busy_hen_home::ObstacleKind as Kind;
    match what {
        What::Solid { kind, size, .. } => {
            place.to.is_none() && (size.is_some() || !matches!(kind, Kind::Hedge | Kind::GardenWall))
        }
        _ => false,
    }
}

fn along_clause(
    own: &FittedOpening,
    by: f64,
    from: Option<Side>,
    whole: impl Fn(f64) -> f64,
    unit: LengthUnit,
) -> String {
    let width = own.along.1 - own.along.0;
    let length = own.wall.to - own.wall.from;
    let start = (own.along.0 + by - own.wall.from).clamp(0.0, (length - width).max(0.0));
    let from_end = matches!(from, Some(Side::East | Side::South));
    let told = if from_end { length - width - start } else { start };
    let told = whole(told).clamp(0.0, (length - width).max(0.0));
    at_clause(Metres::new(round(told)), from, unit)
}

fn remove_thing(levels: &mut [Level], level_id: LevelId, line: usize, thing: &Thing, text: &str) {
    let chars: Vec<char> = text.chars().collect();
    let is_gap = |at: usize| chars.get(at).is_some_and(|c| c.is_whitespace() || *c == ';');
    let (mut from, mut to) = (thing.from, thing.to);
    while from > 0 && is_gap(from - 1) {
        from -= 1;
    }
    let only_dash = chars[..from].iter().all(|c| matches!(c, '-' | '–' | '•') || c.is_whitespace());
    let is_named = from > 0 && chars[from - 1] == ':';
    if only_dash || is_named {
        // The first of a line of things: what follows takes its place.
        from = thing.from;
        while is_gap(to) {
            to += 1;
        }
        if to >= chars.len() {
            let Some(level) = levels.iter_mut().find(|level| level.id == level_id) else { return };
            let mut lines: Vec<&str> = level.lines.split('\n').collect();
            if line < lines.len() {
                lines.remove(line);
            }
            level.lines = lines.join("\n");
            return;
        }
    }
    apply(levels, vec![Edit { level_id, line, from, to, with: String::new() }]);
}

fn add_room(
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

fn copy_level(
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

/// A part of a room as it is typed behind its plus.
pub(super) fn write_part(part: &Part, unit: LengthUnit) -> String {
    let shift = if part.offset.get().abs() < SAME {
        String::new()
    } else {
        format!(" offset {}", write_length(part.offset, unit))
    };
    let align = match part.align {
        Align::Start => "",
        Align::Centre => " centred",
        Align::End if matches!(part.side, Side::East | Side::West) => " flush south",
        Align::End => " flush east",
    };
    format!("{} {}{align}{shift}", size_text(part.size, unit), side_word(part.side))
}

fn append_line(level: &mut Level, line: &str) {
    let kept = level.lines.trim_end_matches(['\n', ' ']).len();
    level.lines.truncate(kept);
    if !level.lines.is_empty() {
        level.lines.push('\n');
    }
    level.lines.push_str(line);
}

/// Puts words into a room: on the line of things under it, or on one of its own.
pub(in crate::geometry) fn add_thing(levels: &mut [Level], room: &Pending<'_>, words: &str) {
    let Some(level) = levels.iter_mut().find(|level| level.id == room.level.id) else { return };
    let mut lines: Vec<String> = level.lines.split('\n').map(str::to_owned).collect();
    let mut last = room.line_index;
    while lines.get(last + 1).is_some_and(|line| line.trim_start().starts_with('-')) {
        last += 1;
    }
    let carries_on = last > room.line_index
        && lines[last].chars().count() + words.chars().count() < LONG_LINE
        && !lines[last].contains('#');
    if carries_on {
        let kept = lines[last].trim_end().len();
        lines[last].truncate(kept);
        lines[last].push_str(&format!("; {words}"));
    } else {
        lines.insert(last + 1, format!("- {words}"));
    }
    level.lines = lines.join("\n");
}

fn set_wall(
    levels: &mut [Level],
    room: &Pending<'_>,
    unit: LengthUnit,
    side: Side,
    made_of: Option<(&MaterialKey, Option<Metres>)>,
) -> Result<(), CanNot> {
    let words = made_of.map(|(key, thickness)| {
        let thick = thickness.map(|thick| format!(" {}", write_length(thick, unit))).unwrap_or_default();
        format!("{} {}{thick}", side_word(side), material_word(&key.0))
    });
    let says = |thing: &Thing| matches!(thing.what, What::Wall { .. }) && thing.place.sides == [side];
    let found = own_lines(levels, room, unit)
        .into_iter()
        .find_map(|(line, text, things)| things.into_iter().find(|thing| says(thing)).map(|thing| (line, text, thing)));
    match (found, words) {
        (Some((line, _, thing)), Some(words)) => {
            apply(levels, vec![Edit { level_id: room.level.id, line, from: thing.from, to: thing.to, with: words }]);
        }
        (Some((line, text, thing)), None) => remove_thing(levels, room.level.id, line, &thing, &text),
        (None, Some(words)) => add_thing(levels, room, &words),
        (None, None) => {}
    }
    Ok(())
}

/// Lines that say what is in a room: its own, those under it, and those that name it.
fn own_lines(levels: &[Level], room: &Pending<'_>, unit: LengthUnit) -> Vec<(usize, String, Vec<Thing>)> {
    let name = &room.line.name.name;
    let mut list = Vec::new();
    let Some(level) = levels.iter().find(|level| level.id == room.level.id) else { return list };
    let mut above = false;
    for (index, text) in level.lines.split('\n').enumerate() {
        let Ok(Some(line)) = read(text, unit) else { continue };
        let own = match &line.of {
            Of::Room(own) => {
                above = same_name(&own.name.name, name);
                above
            }
            Of::Above => above,
            Of::Named(named) => same_name(&named.name, name),
        };
        if own {
            list.push((index, text.to_owned(), line.things));
        }
    }
    list
}

fn renamed(levels: &[Level], unit: LengthUnit, from: &str, to: &str) -> Vec<Edit> {
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

/// A fault of overlap, with the shortest shifts that end it.
pub(super) fn beside_overlap(
    wrong: Wrong,
    room: &Pending<'_>,
    all: &[Pending<'_>],
    others: &[Placed],
    unit: LengthUnit,
) -> Wrong {
    let (Some(rect), Some(index)) =
        (room.rect, all.iter().position(|own| own.line.name == room.line.name && own.level.id == room.level.id))
    else {
        return wrong;
    };
    let own = rects(&room.line, rect);
    let disputed: Vec<&Placed> = others.iter().filter(|other| other.outdoors == room.line.outdoors).collect();
    let clears = |dx: f64, dy: f64| {
        let moved: Vec<Rect> = own.iter().map(|r| Rect::new(r.x + dx, r.y + dy, r.width, r.depth)).collect();
        disputed.iter().all(|other| overlap(&other.rects, &moved).is_none())
    };
    let mut shifts: Vec<(f64, f64)> = disputed
        .iter()
        .filter(|other| overlap(&other.rects, &own).is_some())
        .flat_map(|other| other.rects.iter())
        .flat_map(|theirs| {
            own.iter().flat_map(move |mine| {
                [
                    (theirs.east() - mine.x, 0.0),
                    (theirs.x - mine.east(), 0.0),
                    (0.0, theirs.south() - mine.y),
                    (0.0, theirs.y - mine.south()),
                ]
            })
        })
        .filter(|(dx, dy)| clears(*dx, *dy))
        .collect();
    shifts.sort_by(|a, b| (a.0.abs() + a.1.abs()).total_cmp(&(b.0.abs() + b.1.abs())));
    shifts.dedup();
    shifts.into_iter().take(2).fold(wrong, |wrong, (dx, dy)| {
        let line = placed_at(all, index, &Rect::new(rect.x + dx, rect.y + dy, rect.width, rect.depth));
        let (from, to) = room.line.place_span;
        wrong.or_at(from, to, &format!(" {}", line.write_place(unit)))
    })
}
