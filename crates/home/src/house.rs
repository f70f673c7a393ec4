//! The house as it was paced: typed lines a level, materials a wall, spots a room.

use busy_hen_units::{Db, Degrees, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::band::Band;
use crate::id::{LevelId, ObstacleId, PictureId, RoomId, SpotId};

/// The building and its outdoor areas.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct House {
    /// Levels from the lowest up.
    pub levels: Vec<Level>,
    /// The rooms that the typed lines name, with the identities they keep when a line changes.
    pub rooms: Vec<Room>,
    /// What outer walls are made of where nothing else is said.
    pub outer_wall: MaterialKey,
    /// What inner walls are made of where nothing else is said.
    pub inner_wall: MaterialKey,
    /// Wall sides that are made of something else.
    pub walls: Vec<WallChoice>,
    /// What windows are glazed with where none is drawn.
    #[serde(default = "plain_glazing")]
    pub windows: MaterialKey,
    /// Doors, windows and gaps in walls, where they are known.
    #[serde(default)]
    pub openings: Vec<Opening>,
    /// Holes in floors for stairs, where they are known.
    #[serde(default)]
    pub stairwells: Vec<Stairwell>,
    /// What stands in the way besides walls: outdoors, or tall metal indoors.
    #[serde(default)]
    pub obstacles: Vec<Obstacle>,
    /// Where one tests; each room has at least one.
    pub spots: Vec<Spot>,
    /// What walls and floors were found to take besides what their material says.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub corrections: Vec<LossCorrection>,
    /// What lies over and under it, and whether its levels are joined by stairs.
    #[serde(default)]
    pub around: Around,
}

/// What lies over and under a house, and whether its levels are joined by stairs.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Around {
    /// Floor of another home over the highest rooms; none where they are under the roof.
    #[serde(default)]
    pub above: Option<MaterialKey>,
    /// Floor towards another home under the lowest rooms; none where they stand on the ground.
    #[serde(default)]
    pub below: Option<MaterialKey>,
    /// Whether stairs lead from level to level where none are drawn.
    pub stairs: bool,
}

impl Default for Around {
    fn default() -> Self {
        Self { above: None, below: None, stairs: true }
    }
}

fn plain_glazing() -> MaterialKey {
    MaterialKey::from("dg")
}

impl Default for House {
    fn default() -> Self {
        Self {
            levels: Vec::new(),
            rooms: Vec::new(),
            outer_wall: MaterialKey::from("cavity"),
            inner_wall: MaterialKey::from("plasterboard"),
            walls: Vec::new(),
            windows: plain_glazing(),
            openings: Vec::new(),
            stairwells: Vec::new(),
            obstacles: Vec::new(),
            spots: Vec::new(),
            corrections: Vec::new(),
            around: Around::default(),
        }
    }
}

impl House {
    /// A house of which nobody has said yet what it is made of.
    #[must_use]
    pub fn unsaid() -> Self {
        Self {
            outer_wall: MaterialKey::from("unsaid_outer"),
            inner_wall: MaterialKey::from("unsaid_inner"),
            windows: MaterialKey::from("unsaid_glazing"),
            ..Self::default()
        }
    }

    /// The room with this id.
    #[must_use]
    pub fn room(&self, id: RoomId) -> Option<&Room> {
        self.rooms.iter().find(|room| room.id == id)
    }

    /// What a part of the building was found to take besides what its material says.
    #[must_use]
    pub fn correction(&self, part: BuildingPart) -> PerBand {
        self.corrections.iter().find(|one| one.of == part).map(|one| one.more_db).unwrap_or_default()
    }

    /// The level with this id.
    #[must_use]
    pub fn level(&self, id: LevelId) -> Option<&Level> {
        self.levels.iter().find(|level| level.id == id)
    }
}

/// Key of a wall, floor or opening in the catalogue of materials, such as `brick105`.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct MaterialKey(pub String);

impl From<&str> for MaterialKey {
    fn from(key: &str) -> Self {
        Self(key.to_owned())
    }
}

/// One storey.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Level {
    /// Identifies the level.
    pub id: LevelId,
    /// What the family calls it.
    pub name: String,
    /// Floor to floor.
    pub height_m: Metres,
    /// What the floor under this level is made of.
    pub floor: MaterialKey,
    /// One typed line a room, as the installer wrote them.
    pub lines: String,
    /// The picture of a plan that lies under the drawing.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tracing: Option<Tracing>,
}

/// A picture of a plan under the drawing of a level.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tracing {
    /// The picture.
    pub picture_id: PictureId,
    /// Where its middle lies, east of the origin.
    pub x_m: Metres,
    /// Where its middle lies, south of the origin.
    pub y_m: Metres,
    /// How wide it is in the house.
    pub width_m: Metres,
    /// How far it is turned, clockwise.
    pub turned: Degrees,
    /// How much of it shows through, 0 to 1.
    pub shows_part: f64,
}

/// A room or outdoor area that a typed line names.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Room {
    /// Identifies the room, whatever becomes of its name.
    pub id: RoomId,
    /// Its name, unique in the home.
    pub name: String,
    /// The level it lies on.
    pub level_id: LevelId,
}

/// Side of a room on the drawing, north up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Side {
    /// The upper side.
    North,
    /// The right side.
    East,
    /// The lower side.
    South,
    /// The left side.
    West,
}

/// One side of a room that is made of something else than the house's default.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WallChoice {
    /// The room.
    pub room_id: RoomId,
    /// Which of its sides.
    pub side: Side,
    /// What it is made of.
    pub material: MaterialKey,
    /// How thick its main layer is, when that differs from what the catalogue says.
    #[serde(default)]
    pub thickness_m: Option<Metres>,
}

/// A piece of wall, known by what it parts: it stays the same while rooms grow, move or are renamed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WallKey {
    /// The room; of two, the one to the west or north of the wall.
    pub room_id: RoomId,
    /// Part of the room, 0 while rooms have one.
    #[schema(maximum = 255)]
    pub part: u8,
    /// Which of its sides.
    pub side: Side,
    /// The room beyond; none towards an outdoor area or nothing.
    pub beyond: Option<RoomId>,
    /// Which of several stretches of that side with that room beyond, counted from west or north.
    #[schema(maximum = 255)]
    pub stretch: u8,
}

/// A part of the building that signals go through.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum BuildingPart {
    /// A piece of wall.
    Wall(WallKey),
    /// The floor under a level.
    FloorUnder(LevelId),
}

/// Decibels in each band.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PerBand {
    /// At 2.4 GHz.
    pub ghz_2_4: Db,
    /// At 5 GHz.
    pub ghz_5: Db,
    /// At 6 GHz.
    pub ghz_6: Db,
}

impl PerBand {
    /// The same in all bands.
    #[must_use]
    pub const fn all(db: Db) -> Self {
        Self { ghz_2_4: db, ghz_5: db, ghz_6: db }
    }

    /// In this band.
    #[must_use]
    pub fn of(&self, band: Band) -> Db {
        match band {
            Band::Ghz2_4 => self.ghz_2_4,
            Band::Ghz5 => self.ghz_5,
            Band::Ghz6 => self.ghz_6,
        }
    }
}

/// What a part of the building was found to take besides what its material says.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LossCorrection {
    /// The part.
    pub of: BuildingPart,
    /// More loss at normal incidence; less when negative.
    pub more_db: PerBand,
}

/// A door, window or gap in one side of a room.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Opening {
    /// The room.
    pub room_id: RoomId,
    /// Which of its sides.
    pub side: Side,
    /// What it is.
    pub kind: OpeningKind,
    /// What its leaf or pane is made of.
    pub material: MaterialKey,
    /// Whether it usually stands open.
    pub open: bool,
    /// Where its middle lies, as a part of the side from its west or north end: 0 to 1.
    pub along_part: f64,
    /// Its width.
    pub width_m: Metres,
}

/// Kind of opening in a wall.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum OpeningKind {
    /// A door: from the floor to 2.0 m.
    Door,
    /// A window: from 0.9 to 2.1 m.
    Window,
}

/// A hole in the floor above a room, through which stairs lead.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Stairwell {
    /// The room that the stairs rise from.
    pub room_id: RoomId,
    /// Middle of the hole, as a part of the room's width from its west side: 0 to 1.
    pub east_part: f64,
    /// Middle of the hole, as a part of the room's depth from its north side: 0 to 1.
    pub south_part: f64,
    /// East-west size of the hole.
    pub width_m: Metres,
    /// North-south size of the hole.
    pub depth_m: Metres,
}

/// Something long that stands in the way, upright on the floor or ground of its level.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Obstacle {
    /// Identifies the obstacle.
    pub id: ObstacleId,
    /// What it is.
    pub kind: ObstacleKind,
    /// Level that it stands on.
    pub level_id: LevelId,
    /// One end, east of the origin.
    pub from_x_m: Metres,
    /// One end, south of the origin.
    pub from_y_m: Metres,
    /// Other end, east of the origin.
    pub to_x_m: Metres,
    /// Other end, south of the origin.
    pub to_y_m: Metres,
    /// Its height.
    pub height_m: Metres,
    /// How deep a hedge or row of trees is; of no account for the other kinds.
    pub depth_m: Metres,
}

/// Kind of obstacle.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ObstacleKind {
    /// A brick garden wall.
    GardenWall,
    /// A hedge or row of trees in leaf.
    Hedge,
    /// A parked car.
    Car,
    /// Another house.
    OtherHouse,
    /// Tall metal indoors: cabinet, fridge, boiler.
    MetalCabinet,
    /// Concrete or masonry that stands by itself: column, chimney, lift shaft.
    Concrete,
}

impl ObstacleKind {
    /// All kinds, as they are offered.
    pub const ALL: [Self; 6] =
        [Self::GardenWall, Self::Hedge, Self::Car, Self::OtherHouse, Self::MetalCabinet, Self::Concrete];
}

/// A place in a room where one tests.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Spot {
    /// Identifies the spot.
    pub id: SpotId,
    /// The room it lies in.
    pub room_id: RoomId,
    /// What the installer calls it; empty for the only spot of a room.
    pub name: String,
    /// How far east of the room's west side, as a part of its width: 0 to 1.
    pub east_part: f64,
    /// How far south of the room's north side, as a part of its depth: 0 to 1.
    pub south_part: f64,
}

/// A place in the house: x to the east, y to the south, both from the origin shared by all levels; height above the level's floor.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Position {
    /// The level it stands on.
    pub level_id: LevelId,
    /// East of the origin.
    pub x_m: Metres,
    /// South of the origin.
    pub y_m: Metres,
    /// Above the floor of its level.
    pub height_m: Metres,
}
