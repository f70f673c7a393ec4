//! Ray-traced houses as the fixture keeps them: a second opinion on losses.

use std::path::{Path, PathBuf};

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
