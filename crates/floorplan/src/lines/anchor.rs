//! A place told in a line: from the room it was told from where that can be, else from one it touches.

use busy_hen_home::{LengthUnit, LevelId, Side};
use busy_hen_units::Metres;

use super::fittings::meeting;
use super::lengths::write_length;
use super::line::{Align, Anchor, Part, RoomLine};
use super::place::{Pending, Placed, overlap, place, rects, same_name};
use super::words::side_word;
use super::wrong::Wrong;
use crate::shapes::Rect;

/// Places that differ by less are one, m.
pub(super) const SAME: f64 = 0.002;

/// Whether a room's place is told, directly or not, from another's.
fn hangs_on(all: &[Pending<'_>], index: usize, on: usize) -> bool {
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

pub(super) fn anchor_of(all: &[Pending<'_>], index: usize) -> Option<usize> {
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
pub(super) fn anchor_anew(line: &mut RoomLine, all: &[Pending<'_>], own: Option<usize>, level: LevelId, wanted: &Rect) {
    line.gap = Metres::default();
    line.align = Align::Start;
    line.offset = (Metres::default(), Metres::default());
    let of_level = all.iter().enumerate().filter(|(_, other)| other.level.id == level);
    let free = of_level.filter(|(index, _)| own.is_none_or(|own| !hangs_on(all, *index, own)));
    let touching = free.filter_map(|(index, other)| {
        let (side, _, shared) = meeting(&[other.rect?], &[*wanted])?;
        Some((index, side, shared))
    });
    let best = touching.max_by(|a, b| {
        let length = |one: &(usize, Side, crate::shapes::Stretch)| one.2.to - one.2.from;
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

pub(super) fn size_text(size: (Metres, Metres), unit: LengthUnit) -> String {
    format!("{} x {}", write_length(size.0, unit), write_length(size.1, unit))
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
