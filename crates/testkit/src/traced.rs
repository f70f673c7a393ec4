//! Ray-traced houses as the fixture keeps them: a second opinion on losses.

use std::path::{Path, PathBuf};

use busy_hen_catalogue::{Material, materials};
use busy_hen_floorplan::parts::{Floor, Hole, PlanLevel, PlanRoom, Stands, There, Wall, WallOpening};
use busy_hen_floorplan::{Plan, Point, Rect};
use busy_hen_home::{LevelId, OpeningKind, PerBand, RoomId, Side, WallKey};
use serde::Deserialize;

/// A traced house.
#[derive(Debug, Deserialize)]
pub struct TracedHouse {
    /// Its name.
    pub name: String,
    /// Floor to floor, m.
    pub storey: f64,
    /// Number of levels.
    pub levels: usize,
    /// Walls.
    pub walls: Vec<TracedWall>,
    /// Floors and ceilings.
    pub floors: Vec<TracedFloor>,
    /// Rooms.
    pub rooms: Vec<TracedRoom>,
}

/// A wall: a segment in plan from `a` to `b`, from height `z0` to `z1`, m.
#[derive(Debug, Deserialize)]
pub struct TracedWall {
    /// One end.
    pub a: [f64; 2],
    /// Other end.
    pub b: [f64; 2],
    /// Foot.
    pub z0: f64,
    /// Top.
    pub z1: f64,
    /// Material key.
    pub mat: String,
    /// Whether it closes the building.
    pub outer: bool,
    /// Doors and windows.
    #[serde(default)]
    pub openings: Vec<TracedOpening>,
}

/// A door or window, from `s0` to `s1` along its wall.
#[derive(Debug, Deserialize)]
pub struct TracedOpening {
    /// Begin along the wall.
    pub s0: f64,
    /// End along the wall.
    pub s1: f64,
    /// Lower edge.
    pub z0: f64,
    /// Upper edge.
    pub z1: f64,
    /// `door` or `window`.
    pub kind: String,
    /// `open` or `closed`.
    pub state: String,
    /// Material key when closed.
    pub mat: Option<String>,
}

/// A floor or ceiling.
#[derive(Debug, Deserialize)]
pub struct TracedFloor {
    /// Its height.
    pub z: f64,
    /// Material key.
    pub mat: String,
    /// Hole for stairs: x0, y0, x1, y1.
    pub hole: Option<[f64; 4]>,
    /// `ground`, `floor` or `top`.
    pub kind: String,
}

/// A room.
#[derive(Debug, Deserialize)]
pub struct TracedRoom {
    /// Its level.
    pub level: usize,
    /// Its name.
    pub name: String,
    /// West side.
    pub x0: f64,
    /// North side.
    pub y0: f64,
    /// East side.
    pub x1: f64,
    /// South side.
    pub y1: f64,
}

/// A traced pair of places.
#[derive(Debug, Clone, Deserialize)]
pub struct TracedPoint {
    /// House.
    pub house: String,
    /// Frequency, GHz.
    pub band_ghz: f64,
    /// Transmitter.
    pub tx_id: String,
    /// Its place.
    pub tx_x: f64,
    /// Its place.
    pub tx_y: f64,
    /// Its place.
    pub tx_z: f64,
    /// Receiver's place.
    pub rx_x: f64,
    /// Receiver's place.
    pub rx_y: f64,
    /// Receiver's place.
    pub rx_z: f64,
    /// Receiver's room, or `garden`.
    pub room: String,
    /// Traced loss, dB, walls set to the table of materials.
    pub pl_ray_matched_db: f64,
}

/// Where the traced houses lie: this fixture, or the folder that `BUSY_HEN_TRACED` names, to put other houses to the model.
#[must_use]
pub fn folder() -> PathBuf {
    std::env::var_os("BUSY_HEN_TRACED")
        .map_or_else(|| Path::new(env!("CARGO_MANIFEST_DIR")).join("data/raytrace"), PathBuf::from)
}

/// All traced houses of the folder, by name.
///
/// # Panics
/// When the fixture does not read: it is part of the tests.
#[must_use]
pub fn houses() -> Vec<TracedHouse> {
    let mut list: Vec<TracedHouse> = std::fs::read_dir(folder())
        .expect("the folder of traced houses")
        .map(|entry| entry.expect("an entry").path())
        .filter(|path| path.extension().is_some_and(|extension| extension == "json"))
        .map(|path| {
            let text = std::fs::read_to_string(&path).expect("a house");
            serde_json::from_str(&text).unwrap_or_else(|error| panic!("{}: {error}", path.display()))
        })
        .collect();
    list.sort_by(|a, b| a.name.cmp(&b.name));
    list
}

/// All traced points of the folder.
///
/// # Panics
/// When the fixture does not read: it is part of the tests.
#[must_use]
pub fn points() -> Vec<TracedPoint> {
    csv::Reader::from_path(folder().join("points.csv"))
        .expect("the traced points")
        .deserialize()
        .collect::<Result<_, _>>()
        .expect("the traced points read")
}

fn material(key: &str) -> &'static Material {
    materials::find(key).unwrap_or_else(|| panic!("no material {key}"))
}

impl TracedHouse {
    /// The house as geometry of the product, with nothing assumed.
    ///
    /// # Panics
    /// When it is built of what the catalogue does not hold.
    #[must_use]
    pub fn plan(&self) -> Plan {
        let house = self;
        let levels: Vec<PlanLevel> = (0..house.levels)
            .map(|index| PlanLevel {
                id: LevelId::named(&index.to_string()),
                name: index.to_string(),
                z: index as f64 * house.storey,
                height: house.storey,
            })
            .collect();
        let rooms = house
            .rooms
            .iter()
            .enumerate()
            .map(|(line, room)| PlanRoom {
                id: RoomId::named(&room.name),
                name: room.name.clone(),
                level: room.level,
                line,
                rect: Rect::new(room.x0, room.y0, room.x1 - room.x0, room.y1 - room.y0),
                more: Vec::new(),
                outdoors: false,
            })
            .collect();
        let walls =
            house.walls.iter().enumerate().flat_map(|(index, wall)| {
                (0..house.levels).filter_map(move |level| piece(house, (index, wall), level))
            });
        let floors = house
            .floors
            .iter()
            .filter(|floor| floor.kind == "floor")
            .map(|floor| Floor {
                z: floor.z,
                material: material(&floor.mat),
                above: (floor.z / house.storey).round() as usize,
                holes: floor
                    .hole
                    .map(|[x0, y0, x1, y1]| Hole {
                        rect: Rect::new(x0, y0, x1 - x0, y1 - y0),
                        assumed: false,
                        there: There::Always,
                        source: None,
                    })
                    .into_iter()
                    .collect(),
                more: PerBand::default(),
            })
            .collect();
        let roof = house.floors.iter().find(|floor| floor.kind == "top").map_or("ceiling", |floor| floor.mat.as_str());
        Plan::of_parts(levels, rooms, walls.collect(), floors, material(roof))
    }
}

/// The part of a traced wall on one level; none when it is not there, or runs along neither axis.
fn piece(house: &TracedHouse, (index, wall): (usize, &TracedWall), level: usize) -> Option<Wall> {
    let (low, high) = (level as f64 * house.storey, (level + 1) as f64 * house.storey);
    if wall.z1.min(high) - wall.z0.max(low) < house.storey / 2.0 {
        return None;
    }
    let north_south = (wall.a[0] - wall.b[0]).abs() < 1e-6;
    if !north_south && (wall.a[1] - wall.b[1]).abs() > 1e-6 {
        println!("{}: a wall that runs along neither axis is left out", house.name);
        return None;
    }
    let along = usize::from(north_south);
    let (from, to) = (wall.a[along].min(wall.b[along]), wall.a[along].max(wall.b[along]));
    let place = |s: f64| if wall.a[along] <= wall.b[along] { from + s } else { to - s };
    let openings = wall
        .openings
        .iter()
        .filter(|opening| opening.z1 > low && opening.z0 < high)
        .map(|opening| WallOpening {
            from: place(opening.s0).min(place(opening.s1)),
            to: place(opening.s0).max(place(opening.s1)),
            low: (opening.z0 - low).max(0.0),
            high: (opening.z1 - low).min(house.storey),
            kind: if opening.kind == "door" { OpeningKind::Door } else { OpeningKind::Window },
            material: material(opening.mat.as_deref().unwrap_or("door")),
            stands: if opening.state == "open" { Stands::Open } else { Stands::Shut },
            assumed: false,
            there: There::Always,
            more: PerBand::default(),
            source: None,
        })
        .collect();
    Some(Wall {
        level,
        north_south,
        at: wall.a[1 - along],
        from,
        to,
        material: material(&wall.mat),
        thickness: None,
        envelope: wall.outer,
        openings,
        more: PerBand::default(),
        key: WallKey {
            room_id: RoomId::named(&format!("wall {index} of level {level}")),
            part: 0,
            side: Side::North,
            beyond: None,
            stretch: 0,
        },
    })
}

impl TracedPoint {
    /// Where it was sent from, and where it was heard.
    #[must_use]
    pub fn ends(&self) -> (Point, Point) {
        (Point { x: self.tx_x, y: self.tx_y, z: self.tx_z }, Point { x: self.rx_x, y: self.rx_y, z: self.rx_z })
    }
}
