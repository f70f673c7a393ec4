//! A grid of cells over a level.

use std::hash::{Hash, Hasher};

use busy_hen_units::Metres;
use contour::ContourBuilder;

use busy_hen_floorplan::Rect;

/// Most cells of a map; a finer grid than that is coarsened.
const CELL_LIMIT: usize = 400_000;
/// Finest grid, m.
const FINEST: f64 = 0.05;

/// A grid over a rectangle; row 0 is the northernmost.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Grid {
    x: f64,
    y: f64,
    /// Side of a cell, m.
    pub cell: f64,
    /// Cells from west to east.
    pub columns: usize,
    /// Cells from north to south.
    pub rows: usize,
}

impl Grid {
    /// A grid over these bounds, with one cell more on each side.
    #[must_use]
    pub fn new(bounds: &Rect, cell: Metres) -> Self {
        let mut cell = cell.get().max(FINEST);
        let count = |length: f64, cell: f64| ((length / cell).ceil() as usize).max(1);
        while count(bounds.width, cell) * count(bounds.depth, cell) > CELL_LIMIT {
            cell *= 2.0;
        }
        // One cell more on each side, so that contours run through the outer walls instead of rounding the corners.
        Self {
            x: bounds.x - cell,
            y: bounds.y - cell,
            cell,
            columns: count(bounds.width, cell) + 2,
            rows: count(bounds.depth, cell) + 2,
        }
    }

    /// Number of cells.
    #[must_use]
    pub fn cells(&self) -> usize {
        self.columns * self.rows
    }

    /// Middle of a cell.
    #[must_use]
    pub fn centre(&self, index: usize) -> (f64, f64) {
        let (column, row) = (index % self.columns, index / self.columns);
        (self.x + (column as f64 + 0.5) * self.cell, self.y + (row as f64 + 0.5) * self.cell)
    }

    /// What `of` gives for every cell's index and middle, row by row; `memory` is made once a row and handed from cell to cell.
    ///
    /// Rows are spread over the cores when the feature `parallel` is on; the result is the same without.
    pub fn over_cells<M, T: Send>(
        &self,
        memory: impl Fn() -> M + Sync,
        of: impl Fn(&mut M, usize, (f64, f64)) -> T + Sync,
    ) -> Vec<T> {
        let row = |row: usize| -> Vec<T> {
            let mut memory = memory();
            (row * self.columns..(row + 1) * self.columns).map(|i| of(&mut memory, i, self.centre(i))).collect()
        };
        #[cfg(feature = "parallel")]
        {
            use rayon::prelude::*;
            (0..self.rows).into_par_iter().flat_map_iter(row).collect()
        }
        #[cfg(not(feature = "parallel"))]
        (0..self.rows).flat_map(row).collect()
    }

    /// Adds the grid to a hash.
    pub fn hash_into(&self, hasher: &mut impl Hasher) {
        (self.x.to_bits(), self.y.to_bits(), self.cell.to_bits(), self.columns, self.rows).hash(hasher);
    }

    /// Contours over the grid.
    #[must_use]
    pub fn contours(&self, smooth: bool) -> ContourBuilder {
        ContourBuilder::new(self.columns, self.rows, smooth)
            .x_origin(self.x)
            .y_origin(self.y)
            .x_step(self.cell)
            .y_step(self.cell)
    }
}
