//! What is dragged catches on other rooms' sides, else goes by whole steps.

use busy_hen_home::{LengthUnit, LevelId};

use crate::lines::place::{Pending, rects};
use crate::shapes::Rect;

/// What is dragged goes to whole steps of this, m: 5 cm, or 2 inches in a home of feet.
pub(super) const STEP: (f64, f64) = (0.05, 2.0 * 0.0254);

/// What is dragged nearer than this to another room's side goes to it, m.
pub(super) const CATCHES: f64 = 0.15;

pub(super) fn step(unit: LengthUnit) -> f64 {
    if unit == LengthUnit::Foot { STEP.1 } else { STEP.0 }
}

/// The nearest to a value of these lines, when one is near enough to catch it.
pub(super) fn caught(value: f64, lines: impl Iterator<Item = f64>) -> Option<f64> {
    lines.filter(|line| (line - value).abs() < CATCHES).min_by(|a, b| (a - value).abs().total_cmp(&(b - value).abs()))
}

/// Sides of the other rooms that one of a level may catch on: those of its own level first, then those below.
pub(super) fn side_lines<'a>(
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
pub(super) fn snapped(wanted: &Rect, was: &Rect, all: &[Pending<'_>], index: usize, unit: LengthUnit) -> Rect {
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
pub(super) fn snapped_whole(rect: &Rect, all: &[Pending<'_>], level: LevelId, unit: LengthUnit) -> Rect {
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

pub(super) fn round(value: f64) -> f64 {
    (value * 1000.0).round() / 1000.0
}
