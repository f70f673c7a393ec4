//! What is thought likely of a home before anything was measured in it, and how alike shadows are.

use busy_hen_home::{Band, DeviceId};
use busy_hen_units::{Db, Degrees, Megahertz};

use busy_hen_catalogue::{Material, materials};
use busy_hen_floorplan::Point;

/// How far one wall or floor is off what its material says, as a part of it. Measured losses of one material spread by 20 to 30 % of
/// their mean (from memory: NISTIR 6055; ITU-R P.2040 states electrical properties to some 10 %, thickness and moisture do the rest).
const OWN_PART: f64 = 0.3;
/// How far all that is of one material in a home is off together, as a part of it: one builder, one kiln, one damp (engineering estimate).
const MATERIAL_PART: f64 = 0.2;
/// Bounds of both, dB.
const BOUNDS: (f64, f64) = (1.0, 5.0);
/// How far a radio of a kind is off the next (common practice: some 3 dB between the weakest and the best of a handful).
pub const RADIO_DB: f64 = 1.5;
/// How far a phone's own figure of what it hears is off (common practice).
pub const CLIENT_DB: f64 = 1.5;
/// How far the whole home is off the law (engineering estimate, within what the ray-traced houses show).
pub const HOME_DB: f64 = 1.5;
/// How far what furniture and people take is off, dB a metre: published linear terms are 0.2 to 0.6 (COST 231, from memory).
pub const CLUTTER_DB_A_METRE: f64 = 0.13;
/// Shadows that a place has for all radios, and that it has for one, dB: as `predict/uncertainty.rs` has them.
const PLACE_DB: f64 = 2.25;
const LINK_DB: f64 = 3.9;
/// How far such shadows reach, m (decorrelation indoors is 1 to 3 m, published, from memory).
const REACH_M: f64 = 2.5;
/// How far the law is off for one device over stretches of the home, dB, and how far such stretches reach, m (deviations from the
/// ray-traced houses in `docs/MODEL.md`).
const LAW_DB: f64 = 1.5;
const LAW_REACH_M: f64 = 6.0;
/// A metre up or down parts places as so many across: there is a floor between (engineering estimate).
const UPRIGHT: f64 = 2.5;
/// What a reading's figure is off by from one moment to the next: people move, the phone turns, figures are whole decibels.
pub const READING_DB: f64 = 1.5;
/// How alike the shadows of one place and device are between bands: neighbours above 3 GHz, and these against 2.4 GHz.
const ALIKE_BANDS: (f64, f64) = (0.8, 0.4);

/// How far a part of this material may be off by itself, and together with all of its material: one standard deviation each.
#[must_use]
pub fn widths(material: &Material, frequency: Megahertz) -> (Db, Db) {
    let loss = |material: &Material| material.loss(frequency, Degrees::new(0.0)).get();
    let bounded = |part: f64| (part * loss(material)).clamp(BOUNDS.0, BOUNDS.1);
    let common = match material.either {
        // Nobody said which: half of what is between the two.
        Some([light, heavy]) => {
            let of = |key: &str| materials::find(key).map_or(0.0, loss);
            ((of(heavy) - of(light)).abs() / 2.0).max(BOUNDS.0)
        }
        None => bounded(MATERIAL_PART),
    };
    (Db::new(bounded(OWN_PART)), Db::new(common))
}

/// One end of a path that was or will be heard: which radio, where from, where to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Path {
    /// The device.
    pub device: DeviceId,
    /// Its band.
    pub band: Band,
    /// Where it stands.
    pub from: Point,
    /// Where it is heard.
    pub to: Point,
}

impl Path {
    /// Its length, m.
    #[must_use]
    pub fn length(&self) -> f64 {
        self.from.distance(&self.to).get()
    }
}

/// How near two places are, 1 to 0, when likeness reaches so far.
fn near(a: Point, b: Point, reach: f64) -> f64 {
    let upright = (a.z - b.z) * UPRIGHT;
    (-((a.x - b.x).powi(2) + (a.y - b.y).powi(2) + upright * upright).sqrt() / reach).exp()
}

fn bands_alike(a: Band, b: Band) -> f64 {
    match (a == b, a == Band::Ghz2_4 || b == Band::Ghz2_4) {
        (true, _) => 1.0,
        (false, true) => ALIKE_BANDS.1,
        (false, false) => ALIKE_BANDS.0,
    }
}

/// How much two links to one place share because of whose they are: all of a radio's own, less from a device that has moved, nothing
/// of another's.
#[must_use]
pub fn alike(a: &Path, b: &Path) -> f64 {
    if a.device == b.device { bands_alike(a.band, b.band) * near(a.from, b.from, REACH_M) } else { 0.0 }
}

/// Covariance of shadows by how near the two places are.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Nearness {
    /// As shadows reach.
    short: f64,
    /// As the law is off.
    long: f64,
}

impl Nearness {
    /// Of two places.
    #[must_use]
    pub fn of(a: Point, b: Point) -> Self {
        Self { short: near(a, b, REACH_M), long: near(a, b, LAW_REACH_M) }
    }

    /// Covariance of the shadows of two links that share so much.
    #[must_use]
    pub fn covariance(self, shared: Shared) -> f64 {
        shared.short * self.short + shared.long * self.long
    }
}

/// How much the shadows of two links share at one place, dB^2; of several, how much in sum.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Shared {
    short: f64,
    long: f64,
}

impl Shared {
    /// Of two links that are this much alike.
    #[must_use]
    pub fn of(alike: f64) -> Self {
        Self { short: PLACE_DB * PLACE_DB + LINK_DB * LINK_DB * alike, long: LAW_DB * LAW_DB * alike }
    }

    /// With so many times as much of another.
    pub fn add(&mut self, other: Self, times: f64) {
        self.short += other.short * times;
        self.long += other.long * times;
    }
}

/// Covariance of the shadows of two links, dB^2.
///
/// # Source
/// Exponential correlation with distance (Gudmundson 1991, from memory).
#[must_use]
pub fn shadow(a: &Path, b: &Path) -> f64 {
    Nearness::of(a.to, b.to).covariance(Shared::of(alike(a, b)))
}
