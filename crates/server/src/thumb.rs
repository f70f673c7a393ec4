//! What the list of homes shows of each: its house, lit by the setup in force.

use busy_hen_floorplan::Plan;
use busy_hen_home::Home;
use busy_hen_predict::layers::{Layer, Shaded, shades};
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::needs::verdict::Verdict;
use busy_hen_predict::palette::Shade;
use busy_hen_predict::progress::Watch;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::{MbitPerSec, Metres};
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

/// Cells along the longer side of a thumbnail: it is some 300 pixels wide.
const CELLS: f64 = 40.0;

/// The house for a thumbnail: the level with most rooms.
#[derive(Debug, Serialize, ToSchema)]
pub struct Thumb {
    /// West edge of all it holds.
    pub x_m: Metres,
    /// North edge of all it holds.
    pub y_m: Metres,
    /// East-west size of all it holds.
    pub width_m: Metres,
    /// North-south size of all it holds.
    pub depth_m: Metres,
    /// Its rooms.
    pub rooms: Vec<ThumbRoom>,
    /// Where each shade of what works holds; empty without a setup.
    pub shaded: Vec<Shaded>,
    /// The shades.
    pub shades: Vec<Shade>,
}

/// A room of a thumbnail.
#[derive(Debug, Serialize, ToSchema)]
pub struct ThumbRoom {
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// What the list shows of the setup in force.
#[derive(Debug, Serialize, ToSchema)]
pub struct SetupInForce {
    /// Its letter.
    pub letter: String,
    /// What it is.
    pub name: String,
    /// Whether it was said to be in force, or is only the last that was made.
    pub said: bool,
    /// The room that gets least of what it needs, for a phone; none without needs.
    pub worst: Option<WorstRoom>,
    /// How many rooms need something.
    pub needing: usize,
    /// How many of them get it.
    pub met: usize,
}

/// The room that gets least of what it needs.
#[derive(Debug, Serialize, ToSchema)]
pub struct WorstRoom {
    /// Its name.
    pub name: String,
    /// Download by prediction.
    pub gets_mbps: MbitPerSec,
    /// Download it needs.
    pub needs_mbps: MbitPerSec,
    /// Whether its need is met.
    pub met: bool,
}

/// The thumbnail of a home, and what its setup in force gives; nothing where nothing is drawn, or set up.
#[must_use]
pub fn coverage_thumb(home: &Home, plan: &Plan, day: Date, kept: &Knowledge) -> (Option<Thumb>, Option<SetupInForce>) {
    let Some((level, mut thumb)) = thumb(plan) else { return (None, None) };
    let setup = home.setup_in_force().filter(|setup| !setup.devices.is_empty());
    let Some(setup) = setup else { return (Some(thumb), None) };
    let model = Model::new(home, setup, plan, Question::usual(day), kept);
    let cell = Metres::new(thumb.width_m.max(thumb.depth_m).get() / CELLS);
    let watch = Watch::default();
    let map = model.coverage_watched(level, cell, &watch);
    thumb.shaded = model.shaded(level, cell, Layer::Works, &map, None, &watch);
    thumb.shades = shades(Layer::Works, home, setup);
    let ledger = model.ledger(&Measured::default());
    let needing: Vec<_> = ledger.iter().filter_map(|row| Some((row, row.need?, row.predicted_verdict?))).collect();
    // A ledger begins with the room that gets least of what it needs.
    let worst = needing.first().map(|(row, need, verdict)| WorstRoom {
        name: row.name.clone(),
        gets_mbps: row.predicted.down.middle,
        needs_mbps: need.down_mbps,
        met: *verdict == Verdict::Met,
    });
    let in_force = SetupInForce {
        letter: setup.letter.clone(),
        name: setup.name.clone(),
        said: home.in_force == Some(setup.id),
        worst,
        needing: needing.len(),
        met: needing.iter().filter(|(_, _, verdict)| *verdict == Verdict::Met).count(),
    };
    (Some(thumb), Some(in_force))
}

/// The thumbnail of a plan with the index of its level, unlit; none when it has no rooms.
fn thumb(plan: &Plan) -> Option<(usize, Thumb)> {
    let count = |level: &usize| plan.rooms.iter().filter(|room| room.level == *level).count();
    let level = (0..plan.levels.len()).max_by_key(|level| (count(level), std::cmp::Reverse(*level)))?;
    let bounds = plan.bounds(level)?;
    let metres = Metres::new;
    let of_level = plan.rooms.iter().filter(|room| room.level == level);
    let rooms = of_level.flat_map(|room| room.rects().map(move |rect| (room, rect))).map(|(room, rect)| ThumbRoom {
        x_m: metres(rect.x),
        y_m: metres(rect.y),
        width_m: metres(rect.width),
        depth_m: metres(rect.depth),
        outdoors: room.outdoors,
    });
    let thumb = Thumb {
        x_m: metres(bounds.x),
        y_m: metres(bounds.y),
        width_m: metres(bounds.width),
        depth_m: metres(bounds.depth),
        rooms: rooms.collect(),
        shaded: Vec::new(),
        shades: Vec::new(),
    };
    Some((level, thumb))
}
