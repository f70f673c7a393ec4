//! An outdoor area that lies over a room: told, and the room cut out of it by one press.

use busy_hen_home::{LengthUnit, Side};
use busy_hen_units::Metres;

use super::anchor::{placed_at, size_text, write_part};
use super::lengths::say_length;
use super::line::{Align, Part};
use super::place::{Pending, Placed, overlap};
use super::wrong::Wrong;
use crate::shapes::Rect;

/// A strip narrower than this is not worth a part, m.
const WORTH_A_PART: f64 = 0.05;

/// What is doubtful of an outdoor area that lies over a room indoors; none where it lies over none.
pub(super) fn over_a_room(
    index: usize,
    all: &[Pending<'_>],
    (own, rooms): (&[Rect], &[Placed]),
    unit: LengthUnit,
) -> Option<Wrong> {
    let area = &all[index];
    let here = rooms.iter().filter(|room| room.level_id == area.level.id && !room.outdoors);
    let (room, (width, depth)) = here.filter_map(|room| Some((room, overlap(&room.rects, own)?))).next()?;
    let name = &area.line.name;
    let by = say_length(Metres::new(width.min(depth)), unit);
    let told = format!("{} lies over {} by {by}; what is indoors counts as indoors.", name.name, room.name);
    let wrong = Wrong::new(name.from, name.to, told);
    let ([whole], [hole]) = (own, &room.rects[..]) else { return Some(wrong) };
    let Some((first, others)) = without(whole, hole) else { return Some(wrong) };
    let parts =
        others.iter().map(|other| format!(" + {}", write_part(&beside(&first, other), unit))).collect::<String>();
    let size = (Metres::new(first.width), Metres::new(first.depth));
    let mut changed: Vec<Pending<'_>> = all.iter().map(|own| Pending { line: own.line.clone(), ..*own }).collect();
    changed[index].line.size = size;
    let place = placed_at(&changed, index, &first).write_place(unit);
    let place = if place.is_empty() { place } else { format!(" {place}") };
    let with = format!("{}{parts}{place}", size_text(size, unit));
    Some(wrong.or_at(area.line.size_span.0, area.line.place_span.1, &with))
}

/// What is left of a rectangle without what another takes of it: a strip along a whole side, and what touches that; none where it can't be
/// said so.
fn without(whole: &Rect, hole: &Rect) -> Option<(Rect, Vec<Rect>)> {
    let (west, north) = (hole.x.max(whole.x), hole.y.max(whole.y));
    let (east, south) = (hole.east().min(whole.east()), hole.south().min(whole.south()));
    let rect = |x: f64, y: f64, to_x: f64, to_y: f64| Rect::new(x, y, to_x - x, to_y - y);
    let is_part = |own: &Rect| own.width > WORTH_A_PART && own.depth > WORTH_A_PART;
    let strips = [
        rect(whole.x, whole.y, whole.east(), north),
        rect(whole.x, south, whole.east(), whole.south()),
        rect(whole.x, whole.y, west, whole.south()),
        rect(east, whole.y, whole.east(), whole.south()),
    ];
    let beside_rows = [rect(whole.x, north, west, south), rect(east, north, whole.east(), south)];
    let beside_columns = [rect(west, whole.y, east, north), rect(west, south, east, whole.south())];
    let ways = [(0, 1, beside_rows), (1, 0, beside_rows), (2, 3, beside_columns), (3, 2, beside_columns)];
    let possible =
        ways.into_iter().filter(|(first, opposite, _)| is_part(&strips[*first]) && !is_part(&strips[*opposite]));
    let area = |own: &Rect| own.width * own.depth;
    let (first, _, others) = possible.max_by(|a, b| area(&strips[a.0]).total_cmp(&area(&strips[b.0])))?;
    Some((strips[first], others.into_iter().filter(is_part).collect()))
}

/// A rectangle as a part beside the first, which it touches.
fn beside(first: &Rect, other: &Rect) -> Part {
    const TOUCHES: f64 = 1e-6;
    let (side, offset) = if (other.x - first.east()).abs() < TOUCHES {
        (Side::East, other.y - first.y)
    } else if (other.east() - first.x).abs() < TOUCHES {
        (Side::West, other.y - first.y)
    } else if (other.y - first.south()).abs() < TOUCHES {
        (Side::South, other.x - first.x)
    } else {
        (Side::North, other.x - first.x)
    };
    Part {
        size: (Metres::new(other.width), Metres::new(other.depth)),
        size_span: (0, 0),
        side,
        align: Align::Start,
        offset: Metres::new(offset),
        place_span: (0, 0),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_left_covers_all_but_the_hole() {
        let whole = Rect::new(0.0, 0.0, 5.0, 15.0);
        for hole in [
            Rect::new(1.0, 12.0, 3.0, 3.0),
            Rect::new(0.0, 10.0, 5.0, 8.0),
            Rect::new(3.0, -2.0, 4.0, 6.0),
            Rect::new(4.0, 5.0, 1.0, 2.0),
        ] {
            let (first, others) = without(&whole, &hole).unwrap_or_else(|| panic!("{hole:?}"));
            let taken = whole.overlap(&hole).map_or(0.0, |(width, depth)| width * depth);
            let left: f64 = others.iter().chain([&first]).map(|own| own.width * own.depth).sum();
            assert!((left + taken - 75.0).abs() < 1e-9, "{hole:?}: {first:?} {others:?}");
        }
        assert!(
            without(&whole, &Rect::new(1.0, 5.0, 2.0, 2.0)).is_none(),
            "a hole in the middle has no whole side beside it"
        );
    }
}
