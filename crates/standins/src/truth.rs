//! The hidden truth of a simulated home: like the prediction, but with the errors that real walls and real runs have.

use busy_hen_engine::geometry::Plan;
use busy_hen_engine::predict::{Kept, Model, Prediction, Question};
use busy_hen_home::{Home, Outcome, PerBand, Round, RoundId, Run, RunId, Setup, Source, SpotId};
use busy_hen_units::{Db, MbitPerSec, Millis};
use jiff::Timestamp;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use rand_distr::{Distribution, Exp, Normal};

/// How far a wall or floor is off its table value, dB.
const WALL_ERROR_DB: f64 = 1.5;
/// How far a spot is off what its walls say, dB: furniture, pipes, people.
const SPOT_ERROR_DB: f64 = 2.5;
/// How far one run is off the next at the same spot, dB.
const RUN_SPREAD_DB: f64 = 0.7;
/// How far one run is off the next for all other reasons, as a part of its speed.
const RUN_SPREAD_PART: f64 = 0.05;
/// Part of the runs in which something else took half of the time.
const DISTURBED_PART: f64 = 0.04;
/// Points of a trace.
const TRACE_POINTS: usize = 24;

/// A home whose walls are not quite what was written down. The same seed is the same home.
pub struct Truth {
    home: Home,
    plan: Plan,
    seed: u64,
    kept: Kept,
}

impl Truth {
    /// The truth behind a home.
    #[must_use]
    pub fn new(home: Home, seed: u64) -> Self {
        let mut plan = Plan::new(&home.house, home.units);
        let mut rng = ChaCha8Rng::seed_from_u64(seed);
        for wall in &mut plan.walls {
            wall.more = PerBand::all(Db::new(normal(&mut rng, WALL_ERROR_DB)));
        }
        for floor in &mut plan.floors {
            floor.more = PerBand::all(Db::new(normal(&mut rng, WALL_ERROR_DB)));
        }
        Self { home, plan, seed, kept: Kept::default() }
    }

    /// What a run at a spot of a round reads; `number` counts the runs at the spot. None when the spot has no place.
    #[must_use]
    pub fn run(
        &self,
        setup: &Setup,
        round: &Round,
        question: Question,
        place: (SpotId, u32),
        at: Timestamp,
    ) -> Option<Run> {
        let (spot_id, number) = place;
        let spot = self.home.house.spots.iter().find(|spot| spot.id == spot_id)?;
        let (_, point) = self.plan.spot(spot)?;
        let model = Model::new(&self.home, setup, &self.plan, question, &self.kept);
        let of_spot = normal(&mut self.rng(&[spot_id.0.as_u128()]), SPOT_ERROR_DB);
        let mut rng = self.rng(&[spot_id.0.as_u128(), round.id.0.as_u128(), u128::from(number)]);
        let shadow = Db::new(of_spot + normal(&mut rng, RUN_SPREAD_DB));
        let got = model.at_shadowed(point, Some(spot.room_id), shadow);
        Some(read(&got, round, spot_id, at, &mut rng))
    }

    /// Randomness that belongs to these things alone.
    fn rng(&self, things: &[u128]) -> ChaCha8Rng {
        let mut seed = self.seed;
        for thing in things {
            let folded = (*thing as u64) ^ ((*thing >> 64) as u64);
            // splitmix64 (Steele, Lea and Flood 2014), to spread neighbouring seeds apart.
            seed = (seed ^ folded).wrapping_add(0x9e37_79b9_7f4a_7c15);
            seed = (seed ^ (seed >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
            seed = (seed ^ (seed >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
            seed ^= seed >> 31;
        }
        ChaCha8Rng::seed_from_u64(seed)
    }
}

fn normal(rng: &mut ChaCha8Rng, sigma: f64) -> f64 {
    Normal::new(0.0, sigma).map_or(0.0, |normal| normal.sample(rng))
}

fn read(got: &Prediction, round: &Round, spot_id: SpotId, at: Timestamp, rng: &mut ChaCha8Rng) -> Run {
    let mut run =
        Run::new(RunId::random(), RoundId(round.id.0), spot_id, at, Source::Walker, Outcome::NoConnection);
    let Some(served) = got.served else { return run };
    let disturbed = if rng.random_bool(DISTURBED_PART) { 0.5 } else { 1.0 };
    // Spread only takes away: what a plan or port lets through is not exceeded.
    let part = |rng: &mut ChaCha8Rng| (1.0 - normal(rng, RUN_SPREAD_PART).abs()).max(0.2) * disturbed;
    let tenth = |value: f64| (value * 10.0).round() / 10.0;
    let down = tenth(got.down.middle.get() * part(rng));
    let up = tenth(got.up.middle.get() * part(rng));
    let jitter = Exp::new(0.4).map_or(2.5, |exp| exp.sample(rng));
    run.outcome = Outcome::Measured {
        down_mbps: MbitPerSec::new(down),
        up_mbps: MbitPerSec::new(up),
        idle_ms: Some(Millis::new(tenth(got.latency_ms.get() + jitter))),
        loaded_ms: Some(Millis::new(tenth(got.loaded_ms.get().min(2000.0) * rng.random_range(0.3..0.9) + jitter))),
        jitter_ms: Some(Millis::new(tenth(jitter))),
        loss_percent: Some(0.0),
    };
    run.serving = Some(served.device);
    run.band = Some(served.band);
    run.width_mhz = Some(served.width_mhz);
    run.signal_dbm = Some(busy_hen_units::Dbm::new(served.signal_dbm.get().round()));
    run.link_rate_mbps = Some(MbitPerSec::new(served.link_rate_mbps.get().round()));
    run.trace_mbps = trace(down, rng);
    run
}

/// A rise over the first few points, then a plateau that wavers about the reading.
fn trace(down: f64, rng: &mut ChaCha8Rng) -> Vec<MbitPerSec> {
    (0..TRACE_POINTS)
        .map(|index| {
            let rise = (f64::from(u32::try_from(index).unwrap_or(0)) + 1.0) / 4.0;
            let value = down * rise.min(1.0) * (1.0 + normal(rng, 0.06));
            MbitPerSec::new((value.max(0.0) * 10.0).round() / 10.0)
        })
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_engine::catalogue::clients;
    use busy_hen_home::{Doors, SetupId, Situation, TestKind};
    use jiff::civil::date;

    fn downs(seed: u64, spot: &str, runs: u32) -> Vec<Option<f64>> {
        let home = busy_hen_demo::canal_terrace();
        let setup = home.setup(SetupId::named("A")).unwrap().clone();
        let spot = SpotId::named(spot);
        let round = busy_hen_testkit::runs::round("r", setup.id, vec![spot]);
        let question = Question {
            client: clients::find("phone_ax").unwrap(),
            band: None,
            situation: Situation::Alone,
            doors: Doors::AsLeft,
            reach: TestKind::Internet,
            day: date(2026, 11, 1),
        };
        let truth = Truth::new(home, seed);
        (0..runs)
            .map(|number| {
                let run = truth.run(&setup, &round, question, (spot, number), Timestamp::UNIX_EPOCH).unwrap();
                match run.outcome {
                    Outcome::Measured { down_mbps, .. } => Some(down_mbps.get()),
                    Outcome::NoConnection => None,
                }
            })
            .collect()
    }

    #[test]
    fn the_same_seed_is_the_same_home_and_another_is_not() {
        assert_eq!(downs(1, "Attic bedroom", 5), downs(1, "Attic bedroom", 5));
        assert_ne!(downs(1, "Attic bedroom", 5), downs(2, "Attic bedroom", 5));
    }

    #[test]
    fn runs_differ_from_each_other_and_never_exceed_the_plan() {
        let runs = downs(3, "Front room", 40);
        assert!(runs.iter().all(|down| down.is_some_and(|down| down > 60.0 && down <= 300.0)), "{runs:?}");
        assert!(runs.windows(2).any(|pair| pair[0] != pair[1]));
    }

    #[test]
    fn where_nothing_holds_there_is_no_connection() {
        assert!(downs(1, "Pottery", 3).iter().all(Option::is_none));
    }
}
