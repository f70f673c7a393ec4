//! Lines read and rooms placed: each from the room that its line names.

use busy_hen_home::{LengthUnit, Level, LevelId, ROOMS_LIMIT, Side};
use serde::Serialize;
use utoipa::ToSchema;

use super::line::{Align, Anchor, Line, Of, RoomLine, read};
use super::thing::{Named, Thing};
use super::wrong::Wrong;
use crate::shapes::Rect;

/// Two rooms of one level may overlap by this much before it is called a fault, m: paces are not that exact.
const OVERLAP_TOLERANCE: f64 = 0.02;

/// A room that its line places.
#[derive(Debug, Clone, PartialEq)]
pub struct Placed {
    /// The level.
    pub level_id: LevelId,
    /// Line of the level's text, counted from 0.
    pub line: usize,
    /// Name as typed.
    pub name: String,
    /// Where its parts lie, the first first.
    pub rects: Vec<Rect>,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// What is wrong with a typed line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct LineFault {
    /// The level.
    pub level_id: LevelId,
    /// Line of the level's text, counted from 0.
    pub line: usize,
    /// Characters at fault and what to do.
    #[serde(flatten)]
    pub wrong: Wrong,
}

/// A line of a room, and where the room lies once that is known.
pub(crate) struct Pending<'a> {
    pub level: &'a Level,
    pub line_index: usize,
    pub first_of_level: bool,
    pub line: RoomLine,
    /// Characters of the line, its comment left out.
    pub length: usize,
    pub rect: Option<Rect>,
}

/// Things of a line, by the room that they are in.
pub(super) struct OfRoom {
    pub level_id: LevelId,
    pub line: usize,
    pub name: String,
    pub things: Vec<Thing>,
}

/// Reads all lines: rooms to place, and what is in them.
pub(super) fn read_all<'a>(
    levels: &'a [Level],
    unit: LengthUnit,
    faults: &mut Vec<LineFault>,
) -> (Vec<Pending<'a>>, Vec<OfRoom>) {
    let mut pending: Vec<Pending<'a>> = Vec::new();
    let mut of_rooms: Vec<OfRoom> = Vec::new();
    for level in levels {
        // What stands under a line that is wrong waits with it.
        let (mut above, mut waits): (Option<String>, bool) = (None, false);
        for (line_index, text) in level.lines.lines().enumerate() {
            let fault = |wrong| LineFault { level_id: level.id, line: line_index, wrong };
            let length = text.chars().take_while(|c| *c != '#').count();
            let Line { of, things, wrongs } = match read(text, unit) {
                Ok(None) => continue,
                Err(wrong) => {
                    faults.push(fault(wrong));
                    waits = true;
                    continue;
                }
                Ok(Some(line)) => line,
            };
            faults.extend(wrongs.into_iter().map(fault));
            let name = match of {
                Of::Above if waits => continue,
                Of::Above => match &above {
                    Some(name) => name.clone(),
                    None => {
                        let told = "Above this stands no room that it could belong to.";
                        faults.push(fault(Wrong::new(0, length, told)));
                        continue;
                    }
                },
                Of::Named(named) => named.name,
                Of::Room(line) => {
                    let name = line.name.name.clone();
                    if pending.iter().any(|room| same_name(&room.line.name.name, &name)) {
                        let told = format!("There is already a room called {name}; give this one another name.");
                        let wrong = Wrong::new(line.name.from, line.name.to, told);
                        let free = (2..)
                            .map(|n| format!("{name} {n}"))
                            .find(|free| pending.iter().all(|room| !same_name(&room.line.name.name, free)));
                        faults.push(fault(wrong.or(&free.unwrap_or_default())));
                        waits = true;
                        continue;
                    }
                    if pending.len() >= ROOMS_LIMIT {
                        let told = format!("A home has at most {ROOMS_LIMIT} rooms here; remove some lines.");
                        faults.push(fault(Wrong::new(0, length, told)));
                        continue;
                    }
                    let first_of_level = pending.iter().all(|room| room.level.id != level.id);
                    pending.push(Pending { level, line_index, first_of_level, line: *line, length, rect: None });
                    name
                }
            };
            (above, waits) = (Some(name.clone()), false);
            if !things.is_empty() {
                of_rooms.push(OfRoom { level_id: level.id, line: line_index, name, things });
            }
        }
    }
    (pending, of_rooms)
}

/// Places all rooms whose anchors have a place, over and over until nothing moves.
pub(super) fn place_all(pending: &mut [Pending<'_>]) {
    loop {
        let mut moved = false;
        for index in 0..pending.len() {
            if pending[index].rect.is_none()
                && let Some(rect) = place(&pending[index], pending)
            {
                pending[index].rect = Some(rect);
                moved = true;
            }
        }
        if !moved {
            break;
        }
    }
}

/// Reads and places the rooms of all lines, whatever is wrong with others.
pub(crate) fn placed(levels: &[Level], unit: LengthUnit) -> Vec<Pending<'_>> {
    let (mut pending, _) = read_all(levels, unit, &mut Vec::new());
    place_all(&mut pending);
    pending
}

/// Whether two names mean the same room.
#[must_use]
pub fn same_name(a: &str, b: &str) -> bool {
    a.trim().to_lowercase() == b.trim().to_lowercase()
}

/// The name most like this one; none when none is near.
pub(super) fn nearest<'a>(name: &str, among: impl Iterator<Item = &'a str>) -> Option<&'a str> {
    among
        .map(|own| (strsim::jaro_winkler(&own.to_lowercase(), &name.to_lowercase()), own))
        .filter(|(likeness, _)| *likeness > 0.75)
        .max_by(|a, b| a.0.total_cmp(&b.0))
        .map(|(_, own)| own)
}

pub(super) fn find<'a, 'b>(rooms: &'a [Pending<'b>], named: &Named) -> Option<&'a Pending<'b>> {
    rooms.iter().find(|room| same_name(&room.line.name.name, &named.name))
}

pub(super) fn place(room: &Pending<'_>, all: &[Pending<'_>]) -> Option<Rect> {
    let size = (room.line.size.0.get(), room.line.size.1.get());
    let (along, south) = (room.line.offset.0.get(), room.line.offset.1.get());
    let (x, y) = match &room.line.anchor {
        None if room.first_of_level => (along, south),
        None => return None,
        Some(Anchor::At(east, south)) => (east.get(), south.get()),
        Some(Anchor::Beside(side, named)) => {
            let other = find(all, named).filter(|other| other.level.id == room.level.id)?.rect?;
            beside(&other, *side, size, room.line.align, along, room.line.gap.get())
        }
        Some(Anchor::Above(named) | Anchor::Below(named)) => {
            let other = find(all, named).filter(|other| other.level.id != room.level.id)?.rect?;
            let aligned = |start: f64, length: f64, own: f64| match room.line.align {
                Align::Start => start,
                Align::End => start + length - own,
                Align::Centre => start + (length - own) / 2.0,
            };
            (aligned(other.x, other.width, size.0) + along, aligned(other.y, other.depth, size.1) + south)
        }
    };
    Some(Rect::new(x, y, size.0, size.1))
}

/// Where something of this size lies beside a rectangle.
fn beside(other: &Rect, side: Side, size: (f64, f64), align: Align, along: f64, gap: f64) -> (f64, f64) {
    let aligned = |start: f64, length: f64, own: f64| match align {
        Align::Start => start,
        Align::End => start + length - own,
        Align::Centre => start + (length - own) / 2.0,
    };
    let (x, y) = (aligned(other.x, other.width, size.0) + along, aligned(other.y, other.depth, size.1) + along);
    match side {
        Side::North => (x, other.y - size.1 - gap),
        Side::South => (x, other.south() + gap),
        Side::West => (other.x - size.0 - gap, y),
        Side::East => (other.east() + gap, y),
    }
}

/// The parts of a room whose first part lies here.
pub(crate) fn rects(line: &RoomLine, first: Rect) -> Vec<Rect> {
    let added = line.parts.iter().map(|part| {
        let (width, depth) = (part.size.0.get(), part.size.1.get());
        let along = part.offset.get();
        let (x, y) = beside(&first, part.side, (width, depth), part.align, along, 0.0);
        Rect::new(x, y, width, depth)
    });
    std::iter::once(first).chain(added).collect()
}

/// Width and depth of what two rooms share, where that is more than paces are exact.
pub(super) fn overlap(a: &[Rect], b: &[Rect]) -> Option<(f64, f64)> {
    let pairs = a.iter().flat_map(|own| b.iter().map(move |other| (own, other)));
    pairs.filter_map(|(own, other)| own.overlap(other)).find(|(w, d)| w.min(*d) > OVERLAP_TOLERANCE)
}
