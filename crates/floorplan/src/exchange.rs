//! Which pieces of the rooms on its two sides a surface exchanges power with.

use super::cell::{Cell, seen_from};
use super::shapes::Point;
use super::surface::{NEAREST, Surface, SurfaceMaterial};

/// Cells, each with its share of what a surface sees.
pub type Shares = Vec<(usize, f64)>;

/// Between samples of a surface, m, and the most of them along a side.
const SAMPLE: f64 = 0.6;
const MOST_SAMPLES: f64 = 8.0;
/// Part of what an opening sends along a long room and takes from it that goes between it and all of the room; the rest goes no farther
/// than the piece it is in. Light that grazes an opening stays by its wall, since most of what walls throw back goes as it came; fitted to
/// a traced corridor.
const FLIES_ALONG: f64 = 0.2;

/// What each surface sees on its two sides: its own cell and the one beyond, and through an opening of a long room all of its pieces, by
/// `cos cos A / (pi r^2)`.
#[must_use]
pub fn all(cells: &[Cell], list: &[Surface]) -> Vec<(Shares, Shares)> {
    let seen = |opening: &Surface, cell: usize| {
        let middle = opening.middle();
        let mut shares: Shares = Vec::new();
        for surface in seen_from(opening, cell, cells, list).into_iter().map(|index| &list[index]) {
            let form = |(point, area): (Point, f64)| {
                let r = middle.distance(&point).get().max(NEAREST);
                opening.outward(&point).abs() * surface.outward(&middle).abs() * area / r.powi(4)
            };
            let form: f64 = samples(surface).map(form).sum();
            match shares.iter_mut().find(|(own, _)| *own == surface.cell) {
                Some((_, sum)) => *sum += form,
                None => shares.push((surface.cell, form)),
            }
        }
        let whole: f64 = shares.iter().map(|(_, form)| form).sum();
        shares.iter_mut().for_each(|(_, form)| *form *= FLIES_ALONG / whole);
        if let Some((_, own)) = shares.iter_mut().find(|(own, _)| *own == cell) {
            *own += 1.0 - FLIES_ALONG;
        }
        shares
    };
    let long = |cell: usize| cells.iter().filter(|other| other.room == cells[cell].room).count() > 1;
    list.iter()
        .map(|surface| {
            let side = |cell: usize| {
                let far =
                    matches!(surface.stuff, SurfaceMaterial::Opening(..)) && surface.beyond.is_some() && long(cell);
                if far { seen(surface, cell) } else { vec![(cell, 1.0)] }
            };
            (side(surface.cell), surface.beyond.map(side).unwrap_or_default())
        })
        .collect()
}

/// Places all over a surface, no farther than so much from each other, with the area that each stands for.
fn samples(surface: &Surface) -> impl Iterator<Item = (Point, f64)> + '_ {
    let count = |(from, to): (f64, f64)| ((to - from) / SAMPLE).ceil().clamp(1.0, MOST_SAMPLES) as usize;
    let at =
        |(from, to): (f64, f64), step: usize, count: usize| from + (to - from) * (step as f64 + 0.5) / count as f64;
    let (across, up) = (count(surface.u), count(surface.v));
    let area = surface.area() / (across * up) as f64;
    (0..across * up)
        .map(move |i| (surface.at_place(at(surface.u, i % across, across), at(surface.v, i / across, up)), area))
}
