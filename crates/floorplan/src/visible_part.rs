//! What is seen of a room through an opening from the other side: light that falls through a door falls on what lies in its way, not on
//! the whole room alike.

use super::cell::{Cell, seen_from};
use super::shapes::Point;
use super::surface::{Axis, NEAREST, Surface, SurfaceMaterial};

/// A surface of the room beyond an opening, as it may be seen through the opening.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct VisiblePart {
    /// The opening, by its surface on the side that one looks from.
    pub opening: usize,
    /// The surface seen.
    pub seen: usize,
    /// Its corners in turn: how far beyond the opening, and where along its two axes, m.
    corners: [(f64, f64, f64); 4],
}

/// All that may be seen through openings between rooms, opening by opening, and for each surface which of them are its own.
#[must_use]
pub fn all(cells: &[Cell], list: &[Surface]) -> (Vec<VisiblePart>, Vec<(usize, usize)>) {
    let mut glimpses = Vec::new();
    let own = list.iter().enumerate().map(|(opening, surface)| {
        let first = glimpses.len();
        if let (SurfaceMaterial::Opening(..), Some(beyond)) = (surface.stuff, surface.beyond) {
            glimpses.extend(seen_from(surface, beyond, cells, list).into_iter().map(|seen| {
                let own = &list[seen];
                let corner = |u, v| {
                    let place = own.at_place(u, v);
                    let (along, up) = on(surface, &place);
                    (surface.outward(&place).max(0.0), along, up)
                };
                let corners = [
                    corner(own.u.0, own.v.0),
                    corner(own.u.1, own.v.0),
                    corner(own.u.1, own.v.1),
                    corner(own.u.0, own.v.1),
                ];
                VisiblePart { opening, seen, corners }
            }));
        }
        (first, glimpses.len())
    });
    let own = own.collect();
    (glimpses, own)
}

/// What a place sees through an opening that fills this part of its view; `first` is the index of the first of these glimpses.
pub fn through(
    opening: &Surface,
    place: &Point,
    part: f64,
    glimpses: &[VisiblePart],
    first: usize,
    view: &mut Vec<(usize, f64)>,
) {
    let begin = view.len();
    let off = (-opening.outward(place)).max(NEAREST);
    let (along, up) = on(opening, place);
    let mut whole = 0.0;
    for (index, glimpse) in glimpses.iter().enumerate() {
        let mut outline = Outline::default();
        for (beyond, u, v) in glimpse.corners {
            let nearer = off / (off + beyond);
            outline.push((along + (u - along) * nearer, up + (v - up) * nearer));
        }
        if let Some((area, middle)) = outline.inside(opening.u, opening.v) {
            let square = off * off + (middle.0 - along).powi(2) + (middle.1 - up).powi(2);
            let fills = area * off / (square * square.sqrt());
            whole += fills;
            view.push((first + index, fills));
        }
    }
    view[begin..].iter_mut().for_each(|(_, fills)| *fills *= part / whole);
}

/// Where a place lies along the two axes of a surface.
fn on(surface: &Surface, place: &Point) -> (f64, f64) {
    match surface.axis {
        Axis::X => (place.y, place.z),
        Axis::Y => (place.x, place.z),
        Axis::Z => (place.x, place.y),
    }
}

/// A convex outline in the plane of an opening: four corners, and one more for each side that cuts it.
#[derive(Debug, Clone, Copy, Default)]
struct Outline {
    corners: [(f64, f64); 8],
    count: usize,
}

impl Outline {
    fn push(&mut self, corner: (f64, f64)) {
        if let Some(next) = self.corners.get_mut(self.count) {
            *next = corner;
            self.count += 1;
        }
    }

    fn corners(&self) -> &[(f64, f64)] {
        &self.corners[..self.count]
    }

    /// Area and middle of what of it lies in a rectangle; none where nothing does.
    fn inside(mut self, u: (f64, f64), v: (f64, f64)) -> Option<(f64, (f64, f64))> {
        let reach = |of: fn(&(f64, f64)) -> f64| {
            let start = (f64::INFINITY, f64::NEG_INFINITY);
            self.corners().iter().map(of).fold(start, |(low, high), own| (low.min(own), high.max(own)))
        };
        let (across, up) = (reach(|own| own.0), reach(|own| own.1));
        if across.1 <= u.0 || across.0 >= u.1 || up.1 <= v.0 || up.0 >= v.1 {
            return None;
        }
        if across.0 < u.0 {
            self = self.cut(|own| own.0 - u.0);
        }
        if across.1 > u.1 {
            self = self.cut(|own| u.1 - own.0);
        }
        if up.0 < v.0 {
            self = self.cut(|own| own.1 - v.0);
        }
        if up.1 > v.1 {
            self = self.cut(|own| v.1 - own.1);
        }
        let corners = self.corners();
        let (mut area, mut middle, mut last) = (0.0, (0.0, 0.0), *corners.last()?);
        for own in corners {
            area += last.0 * own.1 - own.0 * last.1;
            middle = (middle.0 + own.0, middle.1 + own.1);
            last = *own;
        }
        let (area, count) = (area.abs() / 2.0, corners.len() as f64);
        (area > f64::EPSILON).then_some((area, (middle.0 / count, middle.1 / count)))
    }

    /// The part of it where this is positive (Sutherland and Hodgman's clipping against one line).
    fn cut(self, side: impl Fn(&(f64, f64)) -> f64) -> Self {
        let mut kept = Self::default();
        let Some(mut last) = self.corners().last().map(|own| (*own, side(own))) else { return kept };
        for own in self.corners() {
            let here = side(own);
            if (here >= 0.0) != (last.1 >= 0.0) {
                let t = last.1 / (last.1 - here);
                kept.push((last.0.0 + t * (own.0 - last.0.0), last.0.1 + t * (own.1 - last.0.1)));
            }
            if here >= 0.0 {
                kept.push(*own);
            }
            last = (*own, here);
        }
        kept
    }
}
