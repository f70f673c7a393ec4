//! The house as geometry: what can be asked of it once it is built.

use std::hash::{DefaultHasher, Hash, Hasher};

use busy_hen_catalogue::Material;
use busy_hen_home::{LevelId, OpeningKind, PerBand, Position, RoomId, Spot};
use busy_hen_units::Metres;

use super::lines::LineFault;
use super::lines::fittings::FittedSocket;
use super::parts::{Floor, Guess, PlanLevel, PlanRoom, There, Upright, Wall};
use super::shapes::{Point, Rect};
use super::surfaces::Surfaces;

/// The whole house as geometry.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// Levels from the lowest up.
    pub levels: Vec<PlanLevel>,
    /// Rooms and areas that have a place.
    pub rooms: Vec<PlanRoom>,
    /// Walls, open sides left out.
    pub walls: Vec<Wall>,
    /// Floors between levels.
    pub floors: Vec<Floor>,
    /// What covers the highest rooms.
    pub roof: &'static Material,
    /// What another home lies under by; none where the lowest rooms stand on the ground.
    pub underneath: Option<&'static Material>,
    /// What else stands in the way.
    pub uprights: Vec<Upright>,
    /// Sockets and where the line enters, each with its room's place in the list.
    pub sockets: Vec<FittedSocket>,
    /// The insides of rooms, piece by piece.
    pub surfaces: Surfaces,
    /// What is wrong with typed lines.
    pub faults: Vec<LineFault>,
    /// What typed lines may mean otherwise.
    pub doubts: Vec<LineFault>,
}

/// Height above the floor at which people hold a phone, m.
pub const HAND_HEIGHT: f64 = 1.2;

/// Things nearer than this to one another, m, can't be told apart on a drawing.
const TOGETHER: f64 = 0.3;
/// Steps in which a free place is looked for, m.
const APART: f64 = 0.6;

impl Plan {
    /// A plan of known parts, with nothing assumed: for houses that come as geometry.
    #[must_use]
    pub fn of_parts(
        levels: Vec<PlanLevel>,
        rooms: Vec<PlanRoom>,
        walls: Vec<Wall>,
        floors: Vec<Floor>,
        roof: &'static Material,
    ) -> Self {
        let surfaces = Surfaces::new(&levels, &rooms, &walls, &floors);
        Self {
            levels,
            rooms,
            walls,
            floors,
            roof,
            underneath: None,
            uprights: Vec::new(),
            sockets: Vec::new(),
            surfaces,
            faults: Vec::new(),
            doubts: Vec::new(),
        }
    }

    /// The ways that it may be: both where what nobody drew tells them apart.
    #[must_use]
    pub fn guesses(&self) -> &'static [Guess] {
        let openings = self.walls.iter().flat_map(|wall| &wall.openings).map(|own| own.there);
        let holes = self.floors.iter().flat_map(|floor| &floor.holes).map(|own| own.there);
        let told_apart = openings.chain(holes).any(|there| there != There::Always);
        if told_apart || self.materials().any(|own| own.either.is_some()) {
            &[Guess::ByHall, Guess::RoomToRoom]
        } else {
            &[Guess::ByHall]
        }
    }

    /// What its walls, their openings and its floors are made of.
    pub fn materials(&self) -> impl Iterator<Item = &'static Material> + '_ {
        let walls = self.walls.iter().flat_map(|wall| {
            std::iter::once(wall.material).chain(wall.openings.iter().map(|opening| opening.material))
        });
        walls.chain(self.floors.iter().map(|floor| floor.material))
    }

    /// Whether a place lies in a room.
    #[must_use]
    pub fn holds(&self, room: &PlanRoom, at: &Point) -> bool {
        let level = &self.levels[room.level];
        level.z <= at.z && at.z < level.z + level.height && room.contains(at.x, at.y)
    }

    /// Whether nobody has said where the stairs of a floor are, so that they may be in two places.
    #[must_use]
    pub fn has_undrawn_stairs(&self) -> bool {
        self.floors.iter().flat_map(|floor| &floor.holes).any(|hole| hole.there != There::Always)
    }

    /// Whether it is not known where a room's doors, or its windows, are.
    #[must_use]
    pub fn is_undrawn(&self, room: &PlanRoom, kind: OpeningKind) -> bool {
        let beside = |wall: &&Wall| wall.level == room.level && room.rects().any(|rect| wall.is_beside(rect));
        !room.outdoors
            && self
                .walls
                .iter()
                .filter(beside)
                .flat_map(|wall| &wall.openings)
                .any(|own| own.kind == kind && own.there != There::Always)
    }

    /// A number that two plans share only when waves go through them alike (but for accidents of hashing).
    #[must_use]
    pub fn fingerprint(&self) -> u64 {
        let of_text = |text: &str| {
            let mut hasher = DefaultHasher::new();
            text.hash(&mut hasher);
            f64::from_bits(hasher.finish())
        };
        let bands = |more: &PerBand| [more.ghz_2_4.get(), more.ghz_5.get(), more.ghz_6.get()];
        let mut hasher = DefaultHasher::new();
        let mut put = |values: &[f64]| values.iter().for_each(|value| value.to_bits().hash(&mut hasher));
        for level in &self.levels {
            put(&[level.z]);
            put(&[level.height]);
        }
        for room in &self.rooms {
            room.rects().for_each(|rect| put(&[rect.x, rect.y, rect.width, rect.depth]));
            put(&[if room.outdoors { -1.0 } else { room.level as f64 }]);
        }
        for wall in &self.walls {
            put(&[wall.at, wall.from, wall.to, wall.thickness.unwrap_or(0.0)]);
            put(&bands(&wall.more));
            put(&wall.material.loss_db);
            // Of walls of a given thickness the slab of the material counts, not only its table value.
            put(&[of_text(&wall.material.key), wall.material.reflects_part]);
            put(&[f64::from(u8::from(wall.north_south)) + 2.0 * wall.level as f64]);
            for opening in &wall.openings {
                put(&[opening.from, opening.to, opening.low, opening.high]);
                put(&opening.material.loss_db);
                put(&bands(&opening.more));
                put(&[f64::from(u8::from(opening.assumed)) + 2.0 * f64::from(opening.stands as u8)]);
                put(&[f64::from(opening.kind as u8)]);
                put(&[match opening.there {
                    There::Always => 0.0,
                    There::In(Guess::ByHall) => 1.0,
                    There::In(Guess::RoomToRoom) => 2.0,
                }]);
            }
        }
        for floor in &self.floors {
            put(&[floor.z]);
            put(&bands(&floor.more));
            put(&floor.material.loss_db);
            put(&[floor.material.reflects_part]);
            for hole in &floor.holes {
                put(&[hole.rect.x, hole.rect.y, hole.rect.width, hole.rect.depth]);
                put(&[f64::from(u8::from(hole.assumed))]);
            }
        }
        for lid in [Some(self.roof), self.underneath].into_iter().flatten() {
            put(&lid.loss_db);
            put(&[lid.reflects_part]);
        }
        for one in &self.uprights {
            put(&[one.from.0, one.from.1, one.to.0, one.to.1, one.foot, one.top, one.depth.get()]);
            put(&[f64::from(one.kind as u8)]);
        }
        hasher.finish()
    }

    /// Index of a level.
    #[must_use]
    pub fn level_index(&self, id: LevelId) -> Option<usize> {
        self.levels.iter().position(|level| level.id == id)
    }

    /// The room with this id.
    #[must_use]
    pub fn room(&self, id: RoomId) -> Option<&PlanRoom> {
        self.rooms.iter().find(|room| room.id == id)
    }

    /// The room at a place of a level; indoors goes before outdoors where they touch.
    #[must_use]
    pub fn room_at(&self, level: usize, x: f64, y: f64) -> Option<&PlanRoom> {
        self.room_index_at(level, x, y).map(|index| &self.rooms[index])
    }

    /// Index of that room.
    #[must_use]
    pub fn room_index_at(&self, level: usize, x: f64, y: f64) -> Option<usize> {
        let here = |index: &usize| self.rooms[*index].level == level && self.rooms[*index].contains(x, y);
        (0..self.rooms.len()).filter(here).min_by_key(|index| self.rooms[*index].outdoors)
    }

    /// A recorded position as a place in space; none when its level is not in the house.
    #[must_use]
    pub fn place(&self, position: &Position) -> Option<Point> {
        let level = &self.levels[self.level_index(position.level_id)?];
        Some(Point { x: position.x_m.get(), y: position.y_m.get(), z: level.z + position.height_m.get() })
    }

    /// The room that something stands in; none outside of all rooms.
    #[must_use]
    pub fn room_of(&self, position: &Position) -> Option<&PlanRoom> {
        self.room_at(self.level_index(position.level_id)?, position.x_m.get(), position.y_m.get())
    }

    /// A place at hand height on a level.
    #[must_use]
    pub fn in_hand(&self, level: usize, x: f64, y: f64) -> Point {
        Point { x, y, z: self.levels.get(level).map_or(0.0, |level| level.z) + HAND_HEIGHT }
    }

    /// The middle of a room at hand height.
    #[must_use]
    pub fn middle_of(&self, room: &PlanRoom) -> Point {
        self.in_hand(room.level, room.rect.x + room.rect.width / 2.0, room.rect.y + room.rect.depth / 2.0)
    }

    /// Where a thing wished for at a place can stand without standing on another: there, or the nearest free place beside it in the
    /// same room; there all the same when the room is full.
    #[must_use]
    pub fn free_place(&self, wished: Position, taken: &[Position]) -> Position {
        let free = |at: &Position| {
            taken
                .iter()
                .filter(|other| other.level_id == at.level_id)
                .all(|other| (other.x_m.get() - at.x_m.get()).hypot(other.y_m.get() - at.y_m.get()) >= TOGETHER)
        };
        let room = |at: &Position| {
            self.level_index(at.level_id).and_then(|level| self.room_index_at(level, at.x_m.get(), at.y_m.get()))
        };
        let beside = (1..=5).flat_map(|ring| {
            [(1, 0), (0, 1), (-1, 0), (0, -1), (1, 1), (-1, 1), (-1, -1), (1, -1)].map(|(east, south)| Position {
                x_m: Metres::new(wished.x_m.get() + f64::from(east * ring) * APART),
                y_m: Metres::new(wished.y_m.get() + f64::from(south * ring) * APART),
                ..wished
            })
        });
        std::iter::once(wished).chain(beside.filter(|at| room(at) == room(&wished))).find(free).unwrap_or(wished)
    }

    /// Where a spot lies, with the index of its level; none when its room has no place. One that would lie in the notch of a room of
    /// several parts goes to the nearest of them.
    #[must_use]
    pub fn spot(&self, spot: &Spot) -> Option<(usize, Point)> {
        let room = self.room(spot.room_id)?;
        let bounds = room.bounds();
        let (x, y) = (bounds.x + spot.east_part * bounds.width, bounds.y + spot.south_part * bounds.depth);
        let into = |rect: &Rect| (x.clamp(rect.x, rect.east()), y.clamp(rect.y, rect.south()));
        let off = |at: &(f64, f64)| (at.0 - x).hypot(at.1 - y);
        let (x, y) = room.rects().map(into).min_by(|a, b| off(a).total_cmp(&off(b)))?;
        Some((room.level, self.in_hand(room.level, x, y)))
    }

    /// Smallest rectangle around the rooms of a level; none when it has none.
    #[must_use]
    pub fn bounds(&self, level: usize) -> Option<Rect> {
        self.rooms.iter().filter(|room| room.level == level).map(PlanRoom::bounds).reduce(|a, b| a.around(&b))
    }
}
