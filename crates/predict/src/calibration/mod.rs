//! What readings teach of a home: what its walls and floors really take, which radios are off their sheets, where something shadows.
//!
//! [`observation`] has what readings say of links; [`prior`] what was thought likely before; `fit` weighs one against the other;
//! [`Calibration`] is what comes of it, and what a [`crate::Model`] corrects its predictions and likely ranges by.

pub mod fit;
pub mod observation;
pub mod prior;

use std::collections::HashMap;
use std::hash::{DefaultHasher, Hash, Hasher};

use busy_hen_home::{Band, DeviceId, Home, PerBand, RunId};
use busy_hen_units::{Db, Megahertz};

use busy_hen_catalogue::Material;
use busy_hen_floorplan::{Plan, Point};
use busy_hen_radio::propagation::PartOfHouse;
use fit::{Fit, Row};
use observation::AirShare;
pub use observation::{By, Observation, Unknown};
pub use prior::Path;
use prior::{Nearness, Shared, alike, shadow, widths};

/// How far the use of the medium is off, as a logarithm: `predict/uncertainty.rs`.
const AIR: f64 = 0.08;
/// How far one speed is off what its signal gives, as a logarithm (engineering estimate).
const ONE_SPEED: f64 = 0.25;

/// What readings taught of a home.
#[derive(Debug, Clone)]
pub struct Calibration {
    /// The posterior of all unknowns together.
    pub fit: Fit,
    /// The place of each unknown in it.
    pub unknowns: HashMap<Unknown, usize>,
    /// Means of the unknowns, in their standard deviations.
    pub means: Vec<f64>,
    observations: Vec<Observation>,
    /// Links of the active observations.
    pub paths: Vec<Path>,
    /// Where those lead, each place once, and which of them each link leads to.
    places: Vec<Point>,
    place_of: Vec<usize>,
    /// How far each of these lies off what the tables alone predict, dB.
    pub off_by_tables: Vec<f64>,
    air: AirCalibration,
    /// Differs from that of anything else learnt.
    pub(crate) fingerprint: u64,
}

/// What speeds taught of how well the medium is used.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct AirCalibration {
    /// Part of what was predicted that the air carries.
    pub part: f64,
    /// What is left of how far that is off: 1 before any reading.
    pub unsure: f64,
    /// Spots that say so.
    pub from: usize,
}

impl Default for AirCalibration {
    fn default() -> Self {
        Self { part: 1.0, unsure: 1.0, from: 0 }
    }
}

impl Calibration {
    /// Weighs observations against what was thought likely, `before` being what the house they were made in was corrected by; none where
    /// they say nothing.
    #[must_use]
    pub fn new(observations: Vec<Observation>, shares: &[AirShare], before: Option<&Self>) -> Option<Self> {
        let mut unknowns: HashMap<Unknown, usize> = HashMap::new();
        let rows: Vec<Row> = observations
            .iter()
            .map(|own| {
                let mut leans: Vec<(usize, f64)> = Vec::with_capacity(own.leans.len());
                let mut known_already = 0.0;
                for (unknown, lean) in &own.leans {
                    let count = unknowns.len();
                    leans.push((*unknowns.entry(unknown.clone()).or_insert(count), *lean));
                    // What was learnt of the house is in the prediction already.
                    if matches!(unknown, Unknown::Part(..) | Unknown::Material(_)) {
                        known_already += lean * before.map_or(0.0, |before| before.mean(unknown));
                    }
                }
                leans.sort_unstable_by_key(|(unknown, _)| *unknown);
                Row { off: own.off + known_already, leans, noise: own.noise, at_most: own.by == By::Ceiling }
            })
            .collect();
        let count = unknowns.len();
        let fit = Fit::new(&rows, count, |i, j| shadow(&observations[i].path, &observations[j].path))?;
        let paths: Vec<Path> = fit.active.iter().map(|row| observations[*row].path).collect();
        let off_by_tables = match before {
            // The first pass is by the tables; the second looks again in the corrected house.
            Some(before) if before.paths == paths => before.off_by_tables.clone(),
            _ => fit.active.iter().map(|row| rows[*row].off).collect(),
        };
        let air = AirCalibration::of(shares);
        let (mut places, mut place_of): (Vec<Point>, Vec<usize>) = (Vec::new(), Vec::with_capacity(paths.len()));
        for path in &paths {
            let known = places.iter().position(|own| *own == path.to);
            place_of.push(known.unwrap_or(places.len()));
            if known.is_none() {
                places.push(path.to);
            }
        }
        let means = fit.means();
        let mut hasher = DefaultHasher::new();
        for path in &paths {
            (path.device, path.band).hash(&mut hasher);
            let ends = [path.from, path.to].into_iter().flat_map(|own| [own.x, own.y, own.z]);
            ends.for_each(|number| number.to_bits().hash(&mut hasher));
        }
        means.iter().chain(fit.weights().iter()).for_each(|number| number.to_bits().hash(&mut hasher));
        let fingerprint = hasher.finish();
        Some(Self { means, fit, unknowns, observations, paths, places, place_of, off_by_tables, air, fingerprint })
    }

    /// Mean of an unknown, in its standard deviations; zero of what no reading leans on.
    fn mean(&self, unknown: &Unknown) -> f64 {
        self.unknowns.get(unknown).map_or(0.0, |index| self.means[*index])
    }

    /// What it was learnt from.
    #[must_use]
    pub fn observations(&self) -> &[Observation] {
        &self.observations
    }

    /// The runs it was learnt from.
    #[must_use]
    pub fn runs(&self) -> Vec<RunId> {
        self.observations.iter().flat_map(|own| own.runs.iter().copied()).collect()
    }

    /// How far readings lie off what was predicted of them, in the middle: by the tables, and by what
    /// readings at all other spots taught.
    #[must_use]
    pub fn off(&self) -> (Db, Db) {
        let middle = |values: &mut dyn Iterator<Item = f64>| {
            let mut list: Vec<f64> = values.map(f64::abs).collect();
            list.sort_by(f64::total_cmp);
            Db::new(crate::summary::quantile(&list, 0.5).unwrap_or(0.0))
        };
        let spot = |row: usize| {
            let own = self.observations[row].spot;
            self.observations.iter().position(|other| other.spot == own).unwrap_or(row)
        };
        let (mut before, mut after) = (self.off_by_tables.iter().copied(), self.fit.foretold(spot).into_iter());
        (middle(&mut before), middle(&mut after))
    }

    /// Whether the product made all of them up.
    #[must_use]
    pub fn made_up(&self) -> bool {
        self.observations.iter().all(|own| own.made_up)
    }

    /// What speeds taught of the air.
    #[must_use]
    pub fn air(&self) -> AirCalibration {
        self.air
    }

    /// The house with what its parts really take.
    #[must_use]
    pub fn plan(&self, home: &Home) -> Plan {
        let mut plan = Plan::new(&home.house, home.units);
        self.correct(&mut plan);
        plan
    }

    /// Puts what was learnt to the parts of a house.
    pub fn correct(&self, plan: &mut Plan) {
        for wall in &mut plan.walls {
            let key = wall.key;
            add(&mut wall.more, self.more_of(PartOfHouse::Wall(key), wall.material));
            for (index, opening) in wall.openings.iter_mut().enumerate() {
                add(
                    &mut opening.more,
                    self.more_of(PartOfHouse::Opening { wall: key, opening: index }, opening.material),
                );
            }
        }
        for floor in &mut plan.floors {
            let level = plan.levels[floor.above].id;
            add(&mut floor.more, self.more_of(PartOfHouse::FloorUnder(level), floor.material));
        }
    }

    /// What a part of the house takes besides what its material says.
    fn more_of(&self, part: PartOfHouse, material: &Material) -> PerBand {
        let own = self.mean(&Unknown::Part(part, material.key.clone()));
        let common = self.mean(&Unknown::Material(material.key.clone()));
        let of = |mhz: f64| {
            let (single, together) = widths(material, Megahertz::new(mhz));
            single * own + together * common
        };
        PerBand { ghz_2_4: of(2437.0), ghz_5: of(5500.0), ghz_6: of(6200.0) }
    }

    /// How much more a link loses than the corrected house says: by its radio, the test device, furniture, and what stands near.
    #[must_use]
    pub fn more(&self, path: &Path, client: &str) -> Db {
        self.links(path.device, path.band, path.from, client).at(path.to, &self.near(path.to))
    }

    /// How much more a hop from one device to another loses than the corrected house says: what all paths lose, and the sender.
    #[must_use]
    pub fn more_of_hop(&self, path: &Path) -> Db {
        let (home, a_metre) = self.everywhere();
        Db::new(self.mean(&Unknown::Radio(path.device, path.band)) * prior::RADIO_DB + home + a_metre * path.length())
    }

    /// What all paths lose more, dB, and each metre of them, dB/m.
    fn everywhere(&self) -> (f64, f64) {
        (self.mean(&Unknown::Home) * prior::HOME_DB, self.mean(&Unknown::Clutter) * prior::CLUTTER_DB_A_METRE)
    }

    /// What all links of a radio of a device standing there have in common, to a test device of this key.
    #[must_use]
    pub fn links(&self, device: DeviceId, band: Band, from: Point, client: &str) -> Links {
        let own = Path { device, band, from, to: from };
        let (home, a_metre) = self.everywhere();
        let radio = self.mean(&Unknown::Radio(device, band)) * prior::RADIO_DB;
        let client = self.mean(&Unknown::Client(client.to_owned())) * prior::CLIENT_DB;
        let mut shadows = vec![Shared::default(); self.places.len()];
        for ((path, place), weight) in self.paths.iter().zip(&self.place_of).zip(self.fit.weights().iter()) {
            shadows[*place].add(Shared::of(alike(path, &own)), *weight);
        }
        Links { from, always: radio + client + home, a_metre, shadows }
    }

    /// How near a place is to each that was observed.
    #[must_use]
    pub fn near(&self, at: Point) -> Vec<Nearness> {
        self.places.iter().map(|place| Nearness::of(*place, at)).collect()
    }

    /// What is left of how far a link was unsure, once the readings are in: 1 where they say nothing, 0 where all is known. `leans` are
    /// those of the path.
    #[must_use]
    pub fn uncertainty_part(&self, path: &Path, leans: &[(Unknown, f64)]) -> f64 {
        let (before, after) = self.variances(path, leans);
        (after / before * self.fit.scatter).sqrt()
    }

    /// Variance of the loss of a link before and after the readings, dB^2.
    #[must_use]
    pub fn variances(&self, path: &Path, leans: &[(Unknown, f64)]) -> (f64, f64) {
        let before = shadow(path, path) + leans.iter().map(|(_, lean)| lean * lean).sum::<f64>();
        let explained = self.fit.explained(&self.shared(path, leans));
        (before, (before - explained).max(0.01 * before))
    }

    /// A link as a vector whose product with another's is what the observations explain of both together, dB^2.
    #[must_use]
    pub fn solved(&self, path: &Path, leans: &[(Unknown, f64)]) -> nalgebra::DVector<f64> {
        self.fit.solved(&self.shared(path, leans))
    }

    /// Covariance of a link with each observation.
    fn shared(&self, path: &Path, leans: &[(Unknown, f64)]) -> nalgebra::DVector<f64> {
        let mut own: Vec<(usize, f64)> =
            leans.iter().filter_map(|(unknown, lean)| Some((*self.unknowns.get(unknown)?, *lean))).collect();
        own.sort_unstable_by_key(|(unknown, _)| *unknown);
        self.fit.shared(&own, |row| shadow(&self.paths[row], path))
    }
}

/// What all links of a radio have in common.
#[derive(Debug, Clone)]
pub struct Links {
    from: Point,
    /// What they lose more wherever they lead, dB.
    always: f64,
    /// ... and each metre of them, dB/m.
    a_metre: f64,
    /// What their shadows share with what was observed at each place.
    shadows: Vec<Shared>,
}

impl Links {
    /// How much more the link to a place, which is so near to those observed, loses than the corrected house says.
    #[must_use]
    pub fn at(&self, to: Point, near: &[Nearness]) -> Db {
        Db::new(self.always + self.a_metre * self.from.distance(&to).get() + self.shadow(near))
    }

    /// What stands near a place takes, dB.
    #[must_use]
    pub fn shadow(&self, near: &[Nearness]) -> f64 {
        near.iter().zip(&self.shadows).map(|(near, shared)| near.covariance(*shared)).sum()
    }
}

impl AirCalibration {
    fn of(shares: &[AirShare]) -> Self {
        let precision = 1.0 / (AIR * AIR) + shares.len() as f64 / (ONE_SPEED * ONE_SPEED);
        let mut logs: Vec<f64> = shares.iter().map(|own| own.ln).collect();
        logs.sort_by(f64::total_cmp);
        // The median: one run that something disturbed teaches nothing.
        let middle = crate::summary::quantile(&logs, 0.5).unwrap_or(0.0);
        let mean = shares.len() as f64 / (ONE_SPEED * ONE_SPEED) * middle / precision;
        Self { part: mean.exp(), unsure: precision.recip().sqrt() / AIR, from: shares.len() }
    }
}

fn add(to: &mut PerBand, more: PerBand) {
    to.ghz_2_4 += more.ghz_2_4;
    to.ghz_5 += more.ghz_5;
    to.ghz_6 += more.ghz_6;
}
