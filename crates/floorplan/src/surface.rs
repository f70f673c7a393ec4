//! A piece of the inside of a room: what it is, and how much of the view from a place it fills.

use super::shapes::Point;

/// Nearer than this to a surface, a place is taken to be at it, m.
pub(super) const NEAREST: f64 = 0.05;
/// Coordinates that differ by less are one, m.
pub(super) const SAME: f64 = 1e-6;

/// Axis that a surface is square to.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Axis {
    /// East-west: the surface runs north-south.
    X,
    /// North-south: the surface runs east-west.
    Y,
    /// Up: the surface is a floor or ceiling.
    Z,
}

/// What a surface is.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum SurfaceMaterial {
    /// Nothing: the side is open, the floor has a hole, or a long room goes on.
    Open,
    /// Wall of the plan, by index.
    Wall(usize),
    /// Opening of a wall, both by index.
    Opening(usize, usize),
    /// Floor of the plan, by index.
    Floor(usize),
    /// Hole of a floor that is there in one way alone, both by index.
    Hole(usize, usize),
    /// The ground under the lowest level.
    Ground,
    /// What covers the highest rooms.
    Roof,
}

/// A rectangle of the inside of a cell.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Surface {
    /// Index of the cell.
    pub cell: usize,
    /// Index of the cell beyond it; none outdoors.
    pub beyond: Option<usize>,
    /// What it is.
    pub stuff: SurfaceMaterial,
    /// Axis it is square to.
    pub axis: Axis,
    /// Where it lies on that axis.
    pub at: f64,
    /// Whether its cell lies on the lower side of it.
    pub cell_below: bool,
    /// From where to where, along the first of the other two axes.
    pub u: (f64, f64),
    /// From where to where, along the second.
    pub v: (f64, f64),
}

impl Surface {
    /// Its area, m².
    #[must_use]
    pub fn area(&self) -> f64 {
        (self.u.1 - self.u.0) * (self.v.1 - self.v.0)
    }

    /// Its middle.
    #[must_use]
    pub fn middle(&self) -> Point {
        self.at_place((self.u.0 + self.u.1) / 2.0, (self.v.0 + self.v.1) / 2.0)
    }

    /// A place on it, by the two axes that it runs along.
    pub(super) fn at_place(&self, u: f64, v: f64) -> Point {
        match self.axis {
            Axis::X => Point { x: self.at, y: u, z: v },
            Axis::Y => Point { x: u, y: self.at, z: v },
            Axis::Z => Point { x: u, y: v, z: self.at },
        }
    }

    /// How far a place is on the outer side of it, m; negative on the side of its cell.
    #[must_use]
    pub fn outward(&self, place: &Point) -> f64 {
        let along = match self.axis {
            Axis::X => place.x,
            Axis::Y => place.y,
            Axis::Z => place.z,
        } - self.at;
        if self.cell_below { along } else { -along }
    }

    /// Part of the whole view from a place that it fills, 0 to 0.5.
    ///
    /// # Source
    /// Solid angle of a rectangle: four terms `atan(u v / (h sqrt(u^2 + v^2 + h^2)))`, one a corner, over 4 pi.
    #[must_use]
    pub fn part_of_view(&self, place: &Point) -> f64 {
        let (u, v) = match self.axis {
            Axis::X => (place.y, place.z),
            Axis::Y => (place.x, place.z),
            Axis::Z => (place.x, place.y),
        };
        let h = self.outward(place).abs().max(NEAREST);
        let corner = |u: f64, v: f64| u * v / (h * (u * u + v * v + h * h).sqrt());
        // Two of the angles at a time: atan a - atan b.
        let less = |a: f64, b: f64| {
            let (over, under) = (a - b, 1.0 + a * b);
            if under > 0.0 { (over / under).atan() } else { over.atan2(under) }
        };
        let (u0, u1, v0, v1) = (self.u.0 - u, self.u.1 - u, self.v.0 - v, self.v.1 - v);
        let above = less(corner(u1, v1), corner(u0, v1));
        (above - less(corner(u1, v0), corner(u0, v0))).abs() / (4.0 * std::f64::consts::PI)
    }
}
