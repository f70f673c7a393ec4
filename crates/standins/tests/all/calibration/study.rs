//! The study of learning: homes behind another law, and ray-traced ones, some rooms read and the others predicted.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{
    Band, DeviceId, Doors, Home, Outcome, PerBand, Round, Run, RunId, SetupId, Situation, Source, Spot, SpotId,
    TestKind,
};
use busy_hen_predict::calibration::observation::{By, Observation, sensitivities_of};
use busy_hen_predict::calibration::{Calibration, Path};
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::{Radiosity, Sight};
use busy_hen_standins::other_model::Shadows;
use busy_hen_standins::truth::Truth;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::calibration::{calibrate, calibrate_from};
use busy_hen_testkit::dwellings::dwelling;
use busy_hen_testkit::traced::{TracedHouse, TracedPoint, houses, points};
use busy_hen_units::{Db, Dbm, Megahertz};
use jiff::civil::date;
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;
use std::sync::Arc;

pub fn question() -> Question {
    Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach: TestKind::Local,
        day: date(2026, 11, 1),
    }
}

pub const SETUP: &str = "B";
/// Orders in which rooms are read in each dwelling.
pub const ORDERS: u64 = 6;

fn round(setup: &str) -> Round {
    busy_hen_testkit::runs::round("r", SetupId::named(setup), Vec::new())
}

/// One reading at a spot: the radio that is heard best, to a whole decibel.
fn reading(truth: &Truth, home: &Home, round: &Round, spot: &Spot, at: Point, rng: &mut ChaCha8Rng) -> Run {
    let setup = home.setup(round.setup_id).unwrap();
    let heard = truth.heard(setup, &Question { band: round.band, ..question() }, at, true);
    let (device, band, signal) = best(&heard);
    let run = Run::new(RunId::random(), round.id, spot.id, round.begun, Source::Phone, Outcome::Heard);
    Run {
        serving: Some(device),
        band: Some(band),
        signal_dbm: Some(Dbm::new((signal.get() + rng.random_range(-1.0..1.0)).round())),
        ..run
    }
}

/// The radio a phone takes: above 2.4 GHz while it is strong enough.
fn best(heard: &[(DeviceId, Band, Dbm)]) -> (DeviceId, Band, Dbm) {
    let worth = |own: &&(DeviceId, Band, Dbm)| own.2.get() - if own.1 == Band::Ghz2_4 { 12.0 } else { 0.0 };
    *heard.iter().max_by(|a, b| worth(a).total_cmp(&worth(b))).unwrap()
}

pub struct Place {
    pub room: usize,
    at: Point,
    pub heard: (DeviceId, Band, Dbm),
    pub oracle: f64,
}

fn predicted(model: &Model<'_>, place: &Place) -> (f64, f64) {
    let index = model.evaluator.accesses.iter().position(|access| {
        model.evaluator.network.nodes[access.node].id == place.heard.0 && access.band == place.heard.1
    });
    let index = index.unwrap();
    let (signal, wide) = model.signal(index, place.at);
    (signal.get(), wide.get())
}

/// A dwelling with its hidden truth, and places in all rooms to try predictions at.
pub struct Case {
    pub home: Home,
    truth: Truth,
    pub places: Vec<Place>,
}

impl Case {
    pub fn new(seed: u64) -> Self {
        let home = dwelling(seed);
        let plan = Plan::new(&home.house, home.units);
        let truth = Truth::new(home.clone(), seed);
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let setup = home.setup(SetupId::named(SETUP)).unwrap();
        let mut places = Vec::new();
        for (room, own) in plan.rooms.iter().enumerate() {
            for _ in 0..3 {
                let (x, y) = (rng.random_range(0.15..0.85), rng.random_range(0.15..0.85));
                let at = plan.in_hand(own.level, own.rect.x + x * own.rect.width, own.rect.y + y * own.rect.depth);
                let heard = best(&truth.heard(setup, &question(), at, true));
                let oracle = truth.heard(setup, &question(), at, false);
                let oracle = oracle.iter().find(|one| one.0 == heard.0 && one.1 == heard.1).unwrap().2.get();
                places.push(Place { room, at, heard, oracle });
            }
        }
        Self { home, truth, places }
    }

    /// What is learnt from three readings in each setup at the spots of these rooms.
    pub fn learnt(&self, rooms: &[usize], kept: &Knowledge) -> Knowledge {
        let plan = Plan::new(&self.home.house, self.home.units);
        let rounds: Vec<(Round, Vec<Run>)> = ["A", "B"]
            .into_iter()
            .map(|setup| {
                let round = round(setup);
                let mut runs = Vec::new();
                for room in rooms {
                    for spot in self.home.house.spots.iter().filter(|spot| plan.rooms[*room].id == spot.room_id) {
                        let (_, at) = plan.spot(spot).unwrap();
                        let mut rng = self.truth.rng(&[spot.id.0.as_u128(), u128::from(setup == "A")]);
                        runs.extend((0..3).map(|_| reading(&self.truth, &self.home, &round, spot, at, &mut rng)));
                    }
                }
                (round, runs)
            })
            .collect();
        let taken: Vec<Taken<'_>> =
            rounds.iter().map(|(round, runs)| Taken { round, home: &self.home, runs }).collect();
        kept.having(calibrate(&taken, kept).map(Arc::new))
    }

    /// For each place, how far the prediction is off, and within how many deviations.
    pub fn off(&self, kept: &Knowledge) -> Vec<(f64, f64)> {
        let plan = kept.plan(&self.home);
        let setup = self.home.setup(SetupId::named(SETUP)).unwrap();
        let model = Model::new(&self.home, setup, &plan, question(), kept);
        let off = |place: &Place| {
            let (signal, wide) = predicted(&model, place);
            let off = (place.heard.2.get() - signal).abs();
            (off, off / wide)
        };
        self.places.iter().map(off).collect()
    }
}

pub fn median(mut list: Vec<f64>) -> f64 {
    list.sort_by(f64::total_cmp);
    list[list.len() / 2]
}

/// A traced house, with walls written down wrong: what a tracer says is the truth, with devices off and shadows besides.
pub struct TracedCase {
    right: Plan,
    wrong: Plan,
    pub points: Vec<TracedPoint>,
    shadows: Vec<((String, Band), Shadows)>,
}

impl TracedCase {
    pub fn new(house: &TracedHouse, all: &[TracedPoint], seed: u64) -> Self {
        let here = |own: &&TracedPoint| own.house == house.name && own.room != "garden";
        let points: Vec<TracedPoint> = all.iter().filter(here).cloned().collect();
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        let right = house.plan();
        let mut wrong = right.clone();
        let mut off = |loss: f64| PerBand::all(Db::new(loss * rng.random_range(-0.5..0.5)));
        wrong.walls.iter_mut().for_each(|wall| wall.more = off(wall.material.loss_db[1]));
        wrong.floors.iter_mut().for_each(|floor| floor.more = off(floor.material.loss_db[1]));
        let mut radios: Vec<(String, Band)> = points.iter().map(|own| (own.tx_id.clone(), band(own))).collect();
        radios.sort();
        radios.dedup();
        let shadows = radios.into_iter().map(|own| (own, Shadows::new(&mut rng))).collect();
        Self { right, wrong, points, shadows }
    }

    fn shadow(&self, point: &TracedPoint) -> &Shadows {
        &self.shadows.iter().find(|(own, _)| own.0 == point.tx_id && own.1 == band(point)).unwrap().1
    }

    fn path(&self, point: &TracedPoint) -> Path {
        let (from, to) = point.ends();
        Path { device: DeviceId::named(&point.tx_id), band: band(point), from, to }
    }

    pub fn learnt(&self, rooms: &[String]) -> Option<Calibration> {
        // One reading a room and radio: at the first of its points.
        let mut read: Vec<&TracedPoint> = Vec::new();
        for point in self.points.iter().filter(|own| rooms.contains(&own.room)) {
            if !read.iter().any(|own| own.room == point.room && own.tx_id == point.tx_id && band(own) == band(point)) {
                read.push(point);
            }
        }
        calibrate_from(|before| {
            let mut plan = self.wrong.clone();
            if let Some(before) = before {
                before.correct(&mut plan);
            }
            let waves = both_bands(&plan);
            let observed = |point: &&TracedPoint| {
                let path = self.path(point);
                let (from, to) = (plan.surfaces.view(&path.from), plan.surfaces.view(&path.to));
                let sight = Sight::between(&plan, path.from, path.to);
                let waves = &waves[usize::from(path.band == Band::Ghz5)];
                let on = waves.sensitivities(&sight, &from, &waves.diffuse_field(&from), &to, Db::new(0.0));
                let truth = point.pl_ray_matched_db + self.shadow(point).at(path.to).get();
                Observation {
                    spot: SpotId::named(&format!("{} {}", point.room, point.tx_id)),
                    leans: sensitivities_of(&plan, waves.frequency(), "phone", &path, &on),
                    path,
                    client: "phone".into(),
                    off: truth - waves.empty(path.from, path.to).get(),
                    noise: 2.0,
                    by: By::Signal,
                    runs: Vec::new(),
                    made_up: false,
                }
            };
            (read.iter().map(observed).collect(), Vec::new())
        })
    }

    /// Of each point: its room, how far it is off before and after, and how far an oracle is.
    pub fn off(&self, learnt: Option<&Calibration>) -> Vec<(String, f64, f64, f64)> {
        let mut corrected = self.wrong.clone();
        if let Some(learnt) = learnt {
            learnt.correct(&mut corrected);
        }
        let [right, wrong, corrected] = [&self.right, &self.wrong, &corrected].map(both_bands);
        let of = |point: &TracedPoint| {
            let path = self.path(point);
            let shadow = self.shadow(point);
            let truth = point.pl_ray_matched_db + shadow.at(path.to).get();
            let more = learnt.map_or(0.0, |learnt| learnt.more(&path, "phone").get());
            let off = |waves: &[Radiosity<'_>; 2], more: f64| {
                let waves = &waves[usize::from(path.band == Band::Ghz5)];
                (truth - waves.empty(path.from, path.to).get() - more).abs()
            };
            (point.room.clone(), off(&wrong, 0.0), off(&corrected, more), off(&right, shadow.of_device().get()))
        };
        self.points.iter().map(of).collect()
    }
}

fn band(point: &TracedPoint) -> Band {
    if point.band_ghz < 3.0 { Band::Ghz2_4 } else { Band::Ghz5 }
}

fn both_bands(plan: &Plan) -> [Radiosity<'_>; 2] {
    [2437.0, 5500.0].map(|mhz| Radiosity::new(plan, Megahertz::new(mhz), Doors::AsLeft))
}

/// What the study finds once a part of the rooms is read: how far places in the others are off.
pub struct Stage {
    /// Part of the rooms that is read.
    pub part: f64,
    /// By the tables, dB.
    pub before: Vec<f64>,
    /// With what readings taught, dB.
    pub after: Vec<f64>,
    /// By who knows walls and devices, dB.
    pub oracle: Vec<f64>,
    /// Of the second, how many lie in their likely range.
    pub held: usize,
}

impl Stage {
    /// Part of the gap between tables and oracle that is closed, in the middle.
    pub fn closed(&self) -> f64 {
        let of = |list: &[f64]| median(list.to_vec());
        (of(&self.before) - of(&self.after)) / (of(&self.before) - of(&self.oracle))
    }

    /// A row of the table.
    pub fn in_words(&self) -> String {
        let of = |list: &[f64]| median(list.to_vec());
        let held = match self.held {
            0 => "not told".to_owned(),
            held => format!("{:.1} %", 100.0 * held as f64 / self.after.len() as f64),
        };
        format!(
            "| {:.2} | {} | {:.2} dB | {:.2} dB | {:.2} dB | {:.0} % | {held} |",
            self.part,
            self.after.len(),
            of(&self.before),
            of(&self.after),
            of(&self.oracle),
            100.0 * self.closed()
        )
    }
}

/// Reads a part of the rooms of each dwelling, in several orders.
pub fn stage(cases: &[Case], part: f64) -> Stage {
    let mut stage = Stage { part, before: Vec::new(), after: Vec::new(), oracle: Vec::new(), held: 0 };
    for (seed, case) in cases.iter().enumerate() {
        let count = case.places.len() / 3;
        let untaught = case.off(&Knowledge::default());
        for shuffled in 0..ORDERS {
            let mut order: Vec<usize> = (0..count).collect();
            order.shuffle(&mut ChaCha8Rng::seed_from_u64(seed as u64 + 1000 * shuffled));
            let read = &order[..(count as f64 * part).round() as usize];
            let kept = case.learnt(read, &Knowledge::default());
            for ((place, (own, deviations)), (was, _)) in case.places.iter().zip(case.off(&kept)).zip(&untaught) {
                if !read.contains(&place.room) {
                    stage.before.push(*was);
                    stage.after.push(own);
                    stage.held += usize::from(deviations <= 1.2816);
                    stage.oracle.push((place.heard.2.get() - place.oracle).abs());
                }
            }
        }
    }
    stage
}

/// The same in the ray-traced houses, whose walls are written down wrong in several ways; there no ranges are told.
pub fn traced_stage(part: f64) -> Stage {
    let all = points();
    let mut stage = Stage { part, before: Vec::new(), after: Vec::new(), oracle: Vec::new(), held: 0 };
    for (index, house) in houses().iter().enumerate() {
        for seed in (0..ORDERS).map(|own| 10 * own + index as u64) {
            let case = TracedCase::new(house, &all, seed);
            let mut rooms: Vec<String> = case.points.iter().map(|own| own.room.clone()).collect();
            rooms.sort();
            rooms.dedup();
            rooms.shuffle(&mut ChaCha8Rng::seed_from_u64(seed));
            rooms.truncate((rooms.len() as f64 * part).round() as usize);
            let learnt = case.learnt(&rooms);
            for (room, was, is, knows) in case.off(learnt.as_ref()) {
                if !rooms.contains(&room) {
                    stage.before.push(was);
                    stage.after.push(is);
                    stage.oracle.push(knows);
                }
            }
        }
    }
    stage
}
