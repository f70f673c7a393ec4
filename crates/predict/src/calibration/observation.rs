//! What readings say of links, and what nobody knows that it may come from.

use std::collections::BTreeMap;

use busy_hen_catalogue::Material;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Band, DeviceId, RunId, SpotId};
use busy_hen_radio::propagation::{PartOfHouse, Sensitivity};
use busy_hen_units::Megahertz;

use super::prior::{self, CLUTTER_DB_A_METRE, Path};

/// Something about a home that nobody knows and readings may tell.
#[derive(Debug, Clone, PartialEq, Eq, Hash)]
pub enum Unknown {
    /// What a wall, opening or floor takes beside what its material says; another one once it is of another material.
    Part(PartOfHouse, String),
    /// What all of a material takes beside.
    Material(String),
    /// What a radio sends less than its sheet says.
    Radio(DeviceId, Band),
    /// What a test device hears less than its sheet says.
    Client(String),
    /// What every path loses besides.
    Home,
    /// What furniture and people take besides, by the metre.
    Clutter,
}

/// What an observation rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum By {
    /// The signal that was heard.
    Signal,
    /// A speed that only this signal explains.
    Speed,
    /// A speed as high as anything else lets through: the signal is good enough for it, or better.
    Ceiling,
    /// No connection where one was expected.
    Nothing,
}

/// What the readings at a spot, of one radio under one set of conditions, say.
#[derive(Debug, Clone)]
pub struct Observation {
    /// The spot.
    pub spot: SpotId,
    /// The link.
    pub path: Path,
    /// The test device.
    pub client: String,
    /// By how much it loses more than was predicted, dB.
    pub off: f64,
    /// dB for one standard deviation of each unknown.
    pub leans: Vec<(Unknown, f64)>,
    /// Variance of what is the readings' own, dB^2.
    pub noise: f64,
    /// What it rests on.
    pub by: By,
    /// The runs.
    pub runs: Vec<RunId>,
    /// Whether the product made them up.
    pub made_up: bool,
}

/// How much of a speed arrived against what the signal that was heard should give, where the air was what limited it: a logarithm.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirShare {
    /// Logarithm of the ratio.
    pub ln: f64,
    /// Whether the product made it up.
    pub made_up: bool,
}

/// What a path leans on, in dB for one standard deviation of each unknown, when its leaning on the house is known.
#[must_use]
pub fn sensitivities_of(
    plan: &Plan,
    frequency: Megahertz,
    client: &str,
    path: &Path,
    on: &[Sensitivity],
) -> Vec<(Unknown, f64)> {
    let mut list: Vec<(Unknown, f64)> = vec![
        (Unknown::Radio(path.device, path.band), prior::RADIO_DB),
        (Unknown::Client(client.to_owned()), prior::CLIENT_DB),
        (Unknown::Home, prior::HOME_DB),
        (Unknown::Clutter, CLUTTER_DB_A_METRE * path.length()),
    ];
    // In one order always, so that the same readings give the same figures to the last digit.
    let mut materials: BTreeMap<&str, f64> = BTreeMap::new();
    for lean in on {
        let Some(material) = material_of(plan, lean.on).filter(|own| own.loss_db[0] > 0.0) else { continue };
        let (single, common) = prior::widths(material, frequency);
        list.push((Unknown::Part(lean.on, material.key.clone()), lean.db_per_db * single.get()));
        *materials.entry(&material.key).or_default() += lean.db_per_db * common.get();
    }
    list.extend(materials.into_iter().map(|(key, lean)| (Unknown::Material(key.to_owned()), lean)));
    list
}

/// What a part of the house is made of.
#[must_use]
pub fn material_of(plan: &Plan, part: PartOfHouse) -> Option<&'static Material> {
    let wall = |key| plan.walls.iter().find(|wall| wall.key == key);
    match part {
        PartOfHouse::Wall(key) => Some(wall(key)?.material),
        PartOfHouse::Opening { wall: key, opening } => Some(wall(key)?.openings.get(opening)?.material),
        PartOfHouse::FloorUnder(level) => {
            Some(plan.floors.iter().find(|floor| plan.levels[floor.above].id == level)?.material)
        }
    }
}
