//! The house as geometry: levels in height, rooms as rectangles, walls and floors between them.

use std::hash::{DefaultHasher, Hash, Hasher};

use busy_hen_home::{House, LengthUnit, LevelId, ObstacleKind, OpeningKind, Position, RoomId, Side, Spot, WallChoice};
use busy_hen_units::{Db, Metres, SquareMetres};

use super::openings::{assumed_doors, assumed_stairs, assumed_windows, drawn_openings, drawn_stairs};
use super::surfaces::Surfaces;
use super::typed::{LineFault, draw, same_name};
use super::walls::walls;
use crate::catalogue::{Material, materials};

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
    /// Where it lies.
    pub rect: Rect,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
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
    /// What it costs more than its material says.
    pub more: Db,
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
    /// What it costs more than its material says.
    pub more: Db,
}

/// A hole in a floor.
#[derive(Debug, Clone, PartialEq)]
pub struct Hole {
    /// Where it lies.
    pub rect: Rect,
    /// Whether nobody has drawn it.
    pub assumed: bool,
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
    /// Depth of a hedge.
    pub depth: Metres,
}

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
    /// What else stands in the way.
    pub uprights: Vec<Upright>,
    /// The insides of rooms, piece by piece.
    pub surfaces: Surfaces,
    /// What is wrong with typed lines.
    pub faults: Vec<LineFault>,
}

/// What covers the highest rooms where nobody says: boards and tiles.
const ROOF: &str = "ceiling";

/// Height above the floor at which people hold a phone, m.
pub const HAND_HEIGHT: f64 = 1.2;

impl Plan {
    /// Builds the geometry of a house; rooms whose lines are wrong are left out and told in `faults`.
    ///
    /// A material that the catalogue does not hold is taken as the plainest wall; `check` refuses it before that.
    #[must_use]
    pub fn new(house: &House, unit: LengthUnit) -> Self {
        let typed = draw(&house.levels, unit);
        let mut z = 0.0;
        let mut levels = Vec::new();
        let mut floors = Vec::new();
        for (index, level) in house.levels.iter().enumerate() {
            if index > 0 {
                let material = material(&level.floor.0);
                floors.push(Floor { z, material, above: index, holes: Vec::new(), more: Db::new(0.0) });
            }
            let height = level.height_m.get();
            levels.push(PlanLevel { id: level.id, name: level.name.clone(), z, height });
            z += height;
        }
        let rooms: Vec<PlanRoom> = typed
            .rooms
            .into_iter()
            .filter_map(|placed| {
                let level = house.levels.iter().position(|level| level.id == placed.level_id)?;
                let id = house
                    .rooms
                    .iter()
                    .find(|room| same_name(&room.name, &placed.name))
                    .map_or_else(|| RoomId::named(&placed.name.to_lowercase()), |room| room.id);
                Some(PlanRoom {
                    id,
                    name: placed.name,
                    level,
                    line: placed.line,
                    rect: placed.rect,
                    outdoors: placed.outdoors,
                })
            })
            .collect();
        let choice = |room: RoomId, side| {
            house.walls.iter().find(|WallChoice { room_id, side: own, .. }| *room_id == room && *own == side)
        };
        let mut walls = walls(
            &rooms,
            levels.len(),
            |room, side| {
                choice(room, side).map(|choice| (material(&choice.material.0), choice.thickness_m.map(Metres::get)))
            },
            material(&house.inner_wall.0),
            material(&house.outer_wall.0),
        );
        drawn_openings(&mut walls, &rooms, &house.openings);
        assumed_doors(&mut walls, &rooms);
        let said = |room, side| choice(room, side).is_some();
        assumed_windows(&mut walls, &rooms, said, material(&house.windows.0));
        drawn_stairs(&mut floors, &rooms, &house.stairwells);
        assumed_stairs(&mut floors, &rooms);
        let uprights = house
            .obstacles
            .iter()
            .filter_map(|one| {
                let foot = levels.iter().find(|level| level.id == one.level_id)?.z;
                Some(Upright {
                    kind: one.kind,
                    from: (one.from_x_m.get(), one.from_y_m.get()),
                    to: (one.to_x_m.get(), one.to_y_m.get()),
                    foot,
                    top: foot + one.height_m.get(),
                    depth: one.depth_m,
                })
            })
            .collect();
        Self { uprights, faults: typed.faults, ..Self::of_parts(levels, rooms, walls, floors, material(ROOF)) }
    }

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
        Self { levels, rooms, walls, floors, roof, uprights: Vec::new(), surfaces, faults: Vec::new() }
    }

    /// A number that two plans share only when waves go through them alike (but for accidents of hashing).
    #[must_use]
    pub fn fingerprint(&self) -> u64 {
        let mut hasher = DefaultHasher::new();
        let mut put = |values: &[f64]| values.iter().for_each(|value| value.to_bits().hash(&mut hasher));
        for level in &self.levels {
            put(&[level.z]);
            put(&[level.height]);
        }
        for room in &self.rooms {
            put(&[room.rect.x, room.rect.y, room.rect.width, room.rect.depth]);
            put(&[if room.outdoors { -1.0 } else { room.level as f64 }]);
        }
        for wall in &self.walls {
            put(&[wall.at, wall.from, wall.to, wall.more.get(), wall.thickness.unwrap_or(0.0)]);
            put(&wall.material.loss_db);
            put(&[f64::from(u8::from(wall.north_south)) + 2.0 * wall.level as f64]);
            for opening in &wall.openings {
                put(&[opening.from, opening.to, opening.low, opening.high]);
                put(&opening.material.loss_db);
                put(&[f64::from(u8::from(opening.assumed)) + 2.0 * f64::from(opening.stands as u8)]);
                put(&[f64::from(opening.kind as u8)]);
            }
        }
        for floor in &self.floors {
            put(&[floor.z, floor.more.get()]);
            put(&floor.material.loss_db);
            for hole in &floor.holes {
                put(&[hole.rect.x, hole.rect.y, hole.rect.width, hole.rect.depth]);
                put(&[f64::from(u8::from(hole.assumed))]);
            }
        }
        for one in &self.uprights {
            put(&[one.from.0, one.from.1, one.to.0, one.to.1, one.foot, one.top, one.depth.get()]);
            put(&[f64::from(one.kind as u8)]);
        }
        hasher.finish()
    }

    /// Index of the level whose storey holds this height; the lowest or highest when it lies outside of all.
    #[must_use]
    pub fn level_at(&self, z: f64) -> usize {
        self.levels.iter().rposition(|level| level.z <= z).unwrap_or(0)
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
        let here = |index: &usize| self.rooms[*index].level == level && self.rooms[*index].rect.contains(x, y);
        (0..self.rooms.len()).filter(here).min_by_key(|index| self.rooms[*index].outdoors)
    }

    /// A recorded position as a place in space; none when its level is not in the house.
    #[must_use]
    pub fn place(&self, position: &Position) -> Option<Point> {
        let level = &self.levels[self.level_index(position.level_id)?];
        Some(Point { x: position.x_m.get(), y: position.y_m.get(), z: level.z + position.height_m.get() })
    }

    /// A place at hand height on a level.
    #[must_use]
    pub fn in_hand(&self, level: usize, x: f64, y: f64) -> Point {
        Point { x, y, z: self.levels.get(level).map_or(0.0, |level| level.z) + HAND_HEIGHT }
    }

    /// Where a spot lies, with the index of its level; none when its room has no place.
    #[must_use]
    pub fn spot(&self, spot: &Spot) -> Option<(usize, Point)> {
        let room = self.room(spot.room_id)?;
        let x = room.rect.x + spot.east_part * room.rect.width;
        let y = room.rect.y + spot.south_part * room.rect.depth;
        Some((room.level, self.in_hand(room.level, x, y)))
    }

    /// Smallest rectangle around the rooms of a level; none when it has none.
    #[must_use]
    pub fn bounds(&self, level: usize) -> Option<Rect> {
        self.rooms.iter().filter(|room| room.level == level).map(|room| room.rect).reduce(|a, b| {
            let (x, y) = (a.x.min(b.x), a.y.min(b.y));
            Rect::new(x, y, a.east().max(b.east()) - x, a.south().max(b.south()) - y)
        })
    }
}

fn material(key: &str) -> &'static Material {
    materials::find(key).unwrap_or(&materials::all()[0])
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_home::{Level, LevelId, Room, Side};

    fn house() -> House {
        let level = |name: &str, lines: &str| Level {
            id: LevelId::named(name),
            name: name.into(),
            height_m: Metres::new(2.5),
            floor: "timber_floor".into(),
            lines: lines.into(),
        };
        let room = |name: &str, level: &str| Room {
            id: RoomId::named(name),
            name: name.into(),
            level_id: LevelId::named(level),
        };
        House {
            levels: vec![
                level("ground", "Hall 2 x 4\nKitchen 4 x 3 east of Hall\nYard 4 x 6 south of Kitchen outdoors"),
                level("upper", "Landing 2 x 4 above Hall"),
            ],
            rooms: vec![
                room("Hall", "ground"),
                room("Kitchen", "ground"),
                room("Yard", "ground"),
                room("Landing", "upper"),
            ],
            outer_wall: "cavity".into(),
            inner_wall: "plasterboard".into(),
            walls: vec![WallChoice {
                room_id: RoomId::named("Kitchen"),
                side: Side::West,
                material: "brick105".into(),
                thickness_m: None,
            }],
            ..House::default()
        }
    }

    fn at(plan: &Plan, north_south: bool, fixed: f64, along: f64) -> Vec<&Wall> {
        plan.walls
            .iter()
            .filter(|w| w.level == 0 && w.north_south == north_south && (w.at - fixed).abs() < 1e-9)
            .filter(|w| w.from < along && along < w.to)
            .collect()
    }

    #[test]
    fn rooms_that_touch_share_one_wall_and_its_chosen_material() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        let shared = at(&plan, true, 2.0, 1.5);
        assert_eq!(shared.len(), 1);
        assert_eq!((shared[0].material.key.as_str(), shared[0].envelope), ("brick105", false));
    }

    #[test]
    fn a_side_towards_an_outdoor_area_is_an_outer_wall_and_areas_have_none_of_their_own() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        assert_eq!(at(&plan, false, 3.0, 4.0)[0].material.key, "cavity");
        assert!(at(&plan, false, 3.0, 4.0)[0].envelope);
        assert!(at(&plan, true, 6.0, 5.0).is_empty(), "the yard's own east edge");
        assert!(at(&plan, true, 2.0, 3.5)[0].envelope, "the hall's end beside the yard");
    }

    #[test]
    fn an_open_side_is_no_wall() {
        let mut house = house();
        house.walls[0].material = "open".into();
        assert!(at(&Plan::new(&house, LengthUnit::Metre), true, 2.0, 1.5).is_empty());
    }

    #[test]
    fn levels_stack_and_floors_lie_between() {
        let plan = Plan::new(&house(), LengthUnit::Metre);
        assert!((plan.levels[1].z - 2.5).abs() < 1e-12);
        assert_eq!(plan.floors.len(), 1);
        assert_eq!(plan.room_at(0, 4.0, 3.0).map(|r| r.name.as_str()), Some("Kitchen"), "indoors goes first");
        assert!((plan.in_hand(1, 1.0, 1.0).z - 3.7).abs() < 1e-12);
    }
}
