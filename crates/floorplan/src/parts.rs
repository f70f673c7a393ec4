//! What a house is put together from: storeys, rooms, walls with their openings, floors with their holes, things in the way.

use busy_hen_catalogue::Material;
use busy_hen_home::{LevelId, ObstacleKind, OpeningKind, PerBand, RoomId, WallKey};
use busy_hen_units::{Metres, SquareMetres};

use super::lines::fittings::Source;
use super::shapes::Rect;

/// A storey in height.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanLevel {
    /// The level.
    pub id: LevelId,
    /// Its name.
    pub name: String,
    /// Height of its floor.
    pub z: f64,
    /// From its floor to the next.
    pub height: f64,
}

/// A room as drawn.
#[derive(Debug, Clone, PartialEq)]
pub struct PlanRoom {
    /// The room.
    pub id: RoomId,
    /// Its name.
    pub name: String,
    /// Index of its level.
    pub level: usize,
    /// Line of the level's text, counted from 0.
    pub line: usize,
    /// Where it lies, or its first part.
    pub rect: Rect,
    /// Where its other parts lie; no wall parts them.
    pub more: Vec<Rect>,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

impl PlanRoom {
    /// Where its parts lie, the first first.
    pub fn rects(&self) -> impl Iterator<Item = &Rect> {
        std::iter::once(&self.rect).chain(&self.more)
    }

    /// Whether a place of its level lies in it or on its edge.
    #[must_use]
    pub fn contains(&self, x: f64, y: f64) -> bool {
        self.rects().any(|rect| rect.contains(x, y))
    }

    /// Its area.
    #[must_use]
    pub fn area(&self) -> SquareMetres {
        self.rects().map(Rect::area).sum()
    }

    /// Smallest rectangle around it.
    #[must_use]
    pub fn bounds(&self) -> Rect {
        self.more.iter().fold(self.rect, |all, rect| all.around(rect))
    }
}

/// A straight wall, along one axis, as high as its level.
#[derive(Debug, Clone, PartialEq)]
pub struct Wall {
    /// Index of its level.
    pub level: usize,
    /// Whether it runs north-south (at a fixed x) or east-west (at a fixed y).
    pub north_south: bool,
    /// The fixed coordinate.
    pub at: f64,
    /// Where it begins along the other axis.
    pub from: f64,
    /// Where it ends along the other axis.
    pub to: f64,
    /// What it is made of.
    pub material: &'static Material,
    /// Thickness of its main layer, m, when that differs from the material's usual one.
    pub thickness: Option<f64>,
    /// Whether it closes the building off from outdoors.
    pub envelope: bool,
    /// Doors, windows and gaps in it.
    pub openings: Vec<WallOpening>,
    /// What it takes besides what its material says, by band.
    pub more: PerBand,
    /// Which wall it is, whatever becomes of the rooms beside it.
    pub key: WallKey,
}

impl Wall {
    /// Whether it is, or holds, a side of a rectangle of its level.
    #[must_use]
    pub fn is_beside(&self, rect: &Rect) -> bool {
        self.is_beside_between(rect, self.from, self.to)
    }

    /// Whether a stretch of it lies along a side of a rectangle of its level.
    #[must_use]
    pub fn is_beside_between(&self, rect: &Rect, from: f64, to: f64) -> bool {
        let (at, along) = if self.north_south {
            ([rect.x, rect.east()], (rect.y, rect.south()))
        } else {
            ([rect.y, rect.south()], (rect.x, rect.east()))
        };
        at.iter().any(|own| (own - self.at).abs() < 1e-6) && from < along.1 && along.0 < to
    }
}

/// A door, window or gap in a wall.
#[derive(Debug, Clone, PartialEq)]
pub struct WallOpening {
    /// Where it begins along its wall.
    pub from: f64,
    /// Where it ends along its wall.
    pub to: f64,
    /// Its lower edge above the floor of the level.
    pub low: f64,
    /// Its upper edge above the floor of the level.
    pub high: f64,
    /// What it is.
    pub kind: OpeningKind,
    /// What fills it when it is shut.
    pub material: &'static Material,
    /// How it usually stands.
    pub stands: Stands,
    /// Whether nobody has drawn it: homes have doors and windows, wherever they are. Its place is not known, so the straight
    /// line does not go through it; the light of a room does.
    pub assumed: bool,
    /// In which of the ways that a home may be joined together it is there.
    pub there: There,
    /// What it takes besides what its material says, by band.
    pub more: PerBand,
    /// What says that it is there; none for what no line says.
    pub source: Option<Source>,
}

/// In which of the ways that a home may be something is there.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum There {
    /// In any.
    Always,
    /// In this one alone.
    In(Guess),
}

/// How a home may be where nobody drew or said it. What is predicted averages over both: named after where its doors are, and with each go
/// windows, stairs and materials of its own; which of them go together is chance.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Guess {
    /// Each room opens to the hall, where the stairs are; windows are small, and what nobody said the material of is light.
    ByHall,
    /// Each room opens to the rooms beside it, the stairs are in the largest; windows are large, and what nobody said the material of is heavy.
    RoomToRoom,
}

impl Guess {
    /// Whether what nobody said the material of is heavy in it.
    #[must_use]
    pub fn is_heavy(self) -> bool {
        self == Self::RoomToRoom
    }
}

impl There {
    /// Whether it is there in this way of joining rooms.
    #[must_use]
    pub fn is_in(self, guess: Guess) -> bool {
        matches!(self, Self::Always) || self == Self::In(guess)
    }
}

/// How an opening usually stands.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Stands {
    /// Open.
    Open,
    /// Shut.
    Shut,
    /// Open half of the time, or nobody knows.
    Either,
}

/// A floor between two levels, wherever there are rooms under or over it.
#[derive(Debug, Clone, PartialEq)]
pub struct Floor {
    /// Height at which it lies.
    pub z: f64,
    /// What it is made of.
    pub material: &'static Material,
    /// Index of the level above it.
    pub above: usize,
    /// Holes for stairs.
    pub holes: Vec<Hole>,
    /// What it takes besides what its material says, by band.
    pub more: PerBand,
}

/// A hole in a floor.
#[derive(Debug, Clone, PartialEq)]
pub struct Hole {
    /// Where it lies.
    pub rect: Rect,
    /// Whether nobody has drawn it.
    pub assumed: bool,
    /// In which of the ways that a home may be it is there.
    pub there: There,
    /// What says that it is there; none for what no line says.
    pub source: Option<Source>,
}

/// Something upright in the way besides walls.
#[derive(Debug, Clone, PartialEq)]
pub struct Upright {
    /// What it is.
    pub kind: ObstacleKind,
    /// One end, x and y.
    pub from: (f64, f64),
    /// Other end, x and y.
    pub to: (f64, f64),
    /// Height of its foot.
    pub foot: f64,
    /// Height of its top.
    pub top: f64,
    /// Depth of a hedge, or across its line.
    pub depth: Metres,
    /// What says that it is there; none for what no line says.
    pub source: Option<Source>,
}
