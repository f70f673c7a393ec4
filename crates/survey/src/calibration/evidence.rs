//! Readings as what they say of a home: by how much each path loses more than predicted, and what that may come from.

use busy_hen_home::{CarriedBy, Home, Outcome, Round, Run, RunId, Situation, Spot, SpotId, Under, local_day};
use busy_hen_units::Db;

use busy_hen_catalogue::clients;
use busy_hen_floorplan::{Plan, Point};
use busy_hen_predict::calibration::Calibration;
use busy_hen_predict::calibration::observation::{AirShare, By, Observation};
use busy_hen_predict::calibration::prior::{Path, READING_DB};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::summary::quantile;
use busy_hen_predict::{Knowledge, Model, Question};

/// A round, the home as it stood when it was taken, and its runs.
#[derive(Debug, Clone, Copy)]
pub struct Taken<'a> {
    /// The round.
    pub round: &'a Round,
    /// The home as it stood.
    pub home: &'a Home,
    /// Its runs.
    pub runs: &'a [Run],
}

/// A speed this near to the most that anything else lets through says no more than that the air was good enough.
const AT_THE_CEILING: f64 = 0.96;
/// How far a speed is off what its signal gives: implementations, neighbours' part and the moment (engineering estimate).
const SPEED_PART: f64 = 0.2;
/// A speed that says less of the signal than this is left out, dB.
const SAYS_NOTHING_DB: f64 = 12.0;
/// How far signals are looked for beyond what was predicted, dB.
const SEARCH_DB: f64 = 30.0;
/// What the end of a link is known to, dB.
const END_DB: f64 = 4.0;

/// Everything that a round says, in the home as it stood with what was learnt of its parts before.
pub fn observe(taken: &Taken<'_>, learnt: Option<&Calibration>, kept: &Knowledge) -> (Vec<Observation>, Vec<AirShare>) {
    let mut lots: Vec<(Under, Vec<&Run>)> = Vec::new();
    for run in taken.runs.iter().filter(|run| run.counts() && run.mark.is_none() && run.together.is_none()) {
        let speaks =
            run.signal_dbm.is_some() || matches!(run.outcome, Outcome::Measured { .. } | Outcome::NoConnection);
        if !speaks || run.carried_by == CarriedBy::Cable {
            continue;
        }
        let under = run.under(taken.round);
        match lots.iter_mut().find(|(own, _)| *own == under) {
            Some((_, lot)) => lot.push(run),
            None => lots.push((under, vec![run])),
        }
    }
    let plan = learnt.map_or_else(|| Plan::new(&taken.home.house, taken.home.units), |learnt| learnt.plan(taken.home));
    let (mut list, mut air) = (Vec::new(), Vec::new());
    for (under, runs) in lots {
        let Some(looked) = Looked::new(taken.home, &plan, taken.round, &under, kept) else { continue };
        looked.over(&runs, &mut list, &mut air);
    }
    (list, air)
}

/// The round looked at under one set of conditions.
struct Looked<'a> {
    model: Model<'a>,
    home: &'a Home,
    client: &'a str,
    /// Speeds mean something only while nobody else is busy.
    speeds: bool,
}

/// A radio that served at a spot, and what was read of it.
struct Lot<'a> {
    access: usize,
    runs: Vec<&'a Run>,
}

impl<'a> Looked<'a> {
    fn new(home: &'a Home, plan: &'a Plan, round: &Round, under: &'a Under, kept: &'a Knowledge) -> Option<Self> {
        let setup = home.setup(round.setup_id)?;
        let client = clients::find(&under.client)?;
        let question = Question {
            client,
            band: under.band,
            situation: Situation::Alone,
            doors: under.doors,
            reach: under.kind,
            day: local_day(round.begun),
        };
        let model = Model::new(home, setup, plan, question, kept);
        Some(Self {
            model,
            home,
            client: &under.client,
            speeds: under.situation == Situation::Alone && under.tool.is_none(),
        })
    }

    fn over(&self, runs: &[&Run], list: &mut Vec<Observation>, air: &mut Vec<AirShare>) {
        let mut spots: Vec<SpotId> = runs.iter().map(|run| run.spot_id).collect();
        spots.sort_unstable();
        spots.dedup();
        for spot in spots {
            let Some(at) = self.home.house.spots.iter().find(|own| own.id == spot) else { continue };
            let Some((_, place)) = self.model.plan.spot(at) else { continue };
            let losses = self.model.losses(place).middle;
            let joined = self.model.evaluator.associate(&losses).map(|(access, _)| access);
            for lot in self.lots(runs.iter().filter(|run| run.spot_id == spot), joined) {
                self.read(&lot, at, place, losses[lot.access], list, air);
            }
        }
    }

    /// Runs by the radio that served them: as they tell, else as was predicted.
    fn lots<'r>(&self, runs: impl Iterator<Item = &'r &'r Run>, joined: Option<usize>) -> Vec<Lot<'r>> {
        let mut lots: Vec<Lot<'r>> = Vec::new();
        let accesses = &self.model.evaluator.accesses;
        for run in runs {
            let is_it = |index: &usize| {
                let access = &accesses[*index];
                access.port.is_none()
                    && run.serving.is_none_or(|device| self.model.evaluator.device(*index) == device)
                    && run.band.is_none_or(|band| access.band == band)
            };
            // One that was not told is the one predicted, where what was told does not speak against it, or the only one.
            let own: Vec<usize> = (0..accesses.len()).filter(is_it).collect();
            let Some(access) = joined.filter(|joined| own.contains(joined)).or(match own[..] {
                [only] => Some(only),
                _ => None,
            }) else {
                continue;
            };
            match lots.iter_mut().find(|lot| lot.access == access && lot.runs[0].is_made_up() == run.is_made_up()) {
                Some(lot) => lot.runs.push(run),
                None => lots.push(Lot { access, runs: vec![run] }),
            }
        }
        lots
    }

    fn read(
        &self,
        lot: &Lot<'_>,
        spot: &Spot,
        place: Point,
        loss: Db,
        list: &mut Vec<Observation>,
        air: &mut Vec<AirShare>,
    ) {
        let access = &self.model.evaluator.accesses[lot.access];
        let made_up = lot.runs[0].is_made_up();
        let seat = self.model.seat(Some(spot.room_id));
        let arrives = |loss: Db| {
            let link = access.air.carried(&access.table, loss);
            self.model.evaluator.arrives(seat, &(lot.access, link), Direction::Down).get()
        };
        let signals = || lot.runs.iter().filter_map(|run| Some((run.id, run.signal_dbm?.get())));
        let downs = || {
            lot.runs.iter().filter_map(|run| match run.outcome {
                Outcome::Measured { down_mbps, .. } => Some((run.id, down_mbps.get())),
                Outcome::NoConnection => Some((run.id, 0.0)),
                _ => None,
            })
        };
        let median = |values: Vec<f64>| {
            let mut values = values;
            values.sort_by(f64::total_cmp);
            quantile(&values, 0.5)
        };
        let signal = median(signals().map(|(_, signal)| signal).collect());
        let down = median(downs().map(|(_, down)| down).collect()).filter(|_| self.speeds);
        let said = match (signal, down) {
            (Some(signal), down) => {
                let heard = access.table.at(loss).rssi.get();
                let off = heard - signal;
                if let Some(ln) = down.and_then(|down| share(down, loss + Db::new(off), &arrives)) {
                    air.push(AirShare { ln, made_up });
                }
                let runs: Vec<RunId> = signals().map(|(id, _)| id).collect();
                let noise = READING_DB * READING_DB * (1.0 + 1.0 / runs.len() as f64);
                Some((off, noise, By::Signal, runs))
            }
            (None, Some(down)) => {
                let runs: Vec<RunId> = downs().map(|(id, _)| id).collect();
                of_speed(down, loss, &arrives).map(|(off, sd, by)| (off, READING_DB * READING_DB + sd * sd, by, runs))
            }
            (None, None) => None,
        };
        let Some((off, noise, by, runs)) = said else { return };
        let node = &self.model.network().nodes[access.node];
        let path = Path { device: node.id, band: access.band, from: node.at, to: place };
        let leans = self.model.sensitivities_of_link(lot.access, &path);
        list.push(Observation {
            spot: spot.id,
            path,
            client: self.client.to_owned(),
            off,
            leans,
            noise,
            by,
            runs,
            made_up,
        });
    }
}

/// By how much a path loses more than predicted when this arrives, with one standard deviation of it; none where that says nothing.
fn of_speed(down: f64, loss: Db, arrives: &dyn Fn(Db) -> f64) -> Option<(f64, f64, By)> {
    let at = |more: f64| arrives(loss + Db::new(more));
    let most = at(-SEARCH_DB);
    if most <= 0.0 {
        return None;
    }
    // The most that a path may lose more for this to arrive.
    let for_it = |wanted: f64| {
        let (mut low, mut high) = (-SEARCH_DB, SEARCH_DB);
        for _ in 0..24 {
            let middle = f64::midpoint(low, high);
            if at(middle) >= wanted { low = middle } else { high = middle }
        }
        low
    };
    if down <= 0.0 {
        let end = for_it(1e-3);
        // Nothing was predicted either: then nothing is learnt from it.
        return (end > 0.0 && end < SEARCH_DB - 0.1).then_some((end, END_DB, By::Nothing));
    }
    if down >= AT_THE_CEILING * most {
        return Some((for_it(AT_THE_CEILING * most), END_DB / 2.0, By::Ceiling));
    }
    let off = for_it(down);
    let wide =
        (for_it(down * (1.0 - SPEED_PART)) - for_it((down * (1.0 + SPEED_PART)).min(AT_THE_CEILING * most))) / 2.0;
    (wide < SAYS_NOTHING_DB).then_some((off, wide.abs(), By::Speed))
}

/// What part of what a signal should give arrived, where the air limits: a logarithm.
fn share(down: f64, loss: Db, arrives: &dyn Fn(Db) -> f64) -> Option<f64> {
    let (here, nearer) = (arrives(loss), arrives(loss - Db::new(3.0)));
    // Where 3 dB more gives no more, something else limits.
    (down > 0.0 && here > 0.0 && nearer > 1.05 * here).then(|| (down / here).ln())
}
