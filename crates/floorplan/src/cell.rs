//! Rooms as what bounces on in them sees them: long ones in pieces.

use super::shapes::Rect;
use super::surface::{SAME, Surface, SurfaceMaterial};
use super::waveguide::Box;

/// A room, or a piece of a long one, within which what bounces on is taken to be mixed.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Cell {
    /// Index of the level.
    pub level: usize,
    /// Its outline.
    pub rect: Rect,
    /// Sum of the areas of its surfaces, m².
    pub area: f64,
    /// Surfaces of its whole room, from the first to just past the last.
    pub(super) room: (usize, usize),
    /// The inside of its whole room.
    pub(super) inside: Box,
}

/// Surfaces of a cell's whole room that an opening of it may see, by index: all but those in its own wall and those between its pieces.
pub(super) fn seen_from(opening: &Surface, cell: usize, cells: &[Cell], list: &[Surface]) -> Vec<usize> {
    let room = cells[cell].room;
    let goes_on =
        |own: &Surface| own.stuff == SurfaceMaterial::Open && own.beyond.is_some_and(|own| cells[own].room == room);
    let in_its_wall = |own: &Surface| own.axis == opening.axis && (own.at - opening.at).abs() < SAME;
    (room.0..room.1).filter(|index| !goes_on(&list[*index]) && !in_its_wall(&list[*index])).collect()
}
