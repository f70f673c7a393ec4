//! Rectangles, stretches and places: plain shapes, below everything else of the house.

use busy_hen_home::Side;
use busy_hen_units::{Metres, SquareMetres};

/// A rectangle in plan, metres: x east, y south, of its north-west corner.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Rect {
    /// West side.
    pub x: f64,
    /// North side.
    pub y: f64,
    /// East-west size.
    pub width: f64,
    /// North-south size.
    pub depth: f64,
}

/// A stretch along a line that runs along one axis.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Stretch {
    /// Whether it runs north-south (at a fixed x) or east-west (at a fixed y).
    pub north_south: bool,
    /// The fixed coordinate.
    pub at: f64,
    /// Where it begins along the other axis.
    pub from: f64,
    /// Where it ends along the other axis.
    pub to: f64,
}

impl Stretch {
    /// Its middle, along the axis it runs on.
    #[must_use]
    pub fn middle(&self) -> f64 {
        f64::midpoint(self.from, self.to)
    }
}

impl Rect {
    /// A rectangle snapped to millimetres, so that walls that should meet do.
    #[must_use]
    pub fn new(x: f64, y: f64, width: f64, depth: f64) -> Self {
        let snap = |value: f64| (value * 1000.0).round() / 1000.0;
        let (x, y) = (snap(x), snap(y));
        Self { x, y, width: snap(width), depth: snap(depth) }
    }

    /// East side.
    #[must_use]
    pub fn east(&self) -> f64 {
        self.x + self.width
    }

    /// South side.
    #[must_use]
    pub fn south(&self) -> f64 {
        self.y + self.depth
    }

    /// Whether the place lies inside or on its edge.
    #[must_use]
    pub fn contains(&self, x: f64, y: f64) -> bool {
        self.x <= x && x <= self.east() && self.y <= y && y <= self.south()
    }

    /// Width and depth of what the two share; none when they don't.
    #[must_use]
    pub fn overlap(&self, other: &Self) -> Option<(f64, f64)> {
        let width = self.east().min(other.east()) - self.x.max(other.x);
        let depth = self.south().min(other.south()) - self.y.max(other.y);
        (width > 0.0 && depth > 0.0).then_some((width, depth))
    }

    /// Smallest rectangle around both.
    #[must_use]
    pub fn around(&self, other: &Self) -> Self {
        let (x, y) = (self.x.min(other.x), self.y.min(other.y));
        Self::new(x, y, self.east().max(other.east()) - x, self.south().max(other.south()) - y)
    }

    /// Where a side lies.
    #[must_use]
    pub fn side(&self, side: Side) -> Stretch {
        let (north_south, at) = match side {
            Side::West => (true, self.x),
            Side::East => (true, self.east()),
            Side::North => (false, self.y),
            Side::South => (false, self.south()),
        };
        let (from, to) = if north_south { (self.y, self.south()) } else { (self.x, self.east()) };
        Stretch { north_south, at, from, to }
    }

    /// Its area.
    #[must_use]
    pub fn area(&self) -> SquareMetres {
        SquareMetres::new(self.width * self.depth)
    }
}

/// A place in space, metres: x east, y south, z up from the lowest floor.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Point {
    /// East.
    pub x: f64,
    /// South.
    pub y: f64,
    /// Up.
    pub z: f64,
}

impl Point {
    /// Straight distance.
    #[must_use]
    pub fn distance(&self, other: &Self) -> Metres {
        let (dx, dy, dz) = (self.x - other.x, self.y - other.y, self.z - other.z);
        Metres::new((dx * dx + dy * dy + dz * dz).sqrt())
    }
}
