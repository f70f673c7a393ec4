//! The hidden truth of a simulated home: the drawn house under [another model](crate::other_model), with the errors of real walls and runs.

use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{Band, DeviceId, Home, RoomId, Setup, Situation, SpotId};
use busy_hen_predict::Question;
use busy_hen_predict::evaluator::Evaluator;
use busy_hen_predict::needs::busy_need;
use busy_hen_predict::path::network::{Access, Network};
use busy_hen_predict::path::{LinkTables, Node};
use busy_hen_units::{Db, Dbm, MbitPerSec, Megahertz, Millis};
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use uuid::Uuid;

use crate::other_model::{Hidden, Shadows, normal};
use crate::samples::Link;

/// How far one run is off the next at the same spot, dB.
const RUN_SPREAD_DB: f64 = 0.8;
/// How far one run is off the next for all other reasons, as a part of its speed.
const RUN_SPREAD_PART: f64 = 0.05;
/// Part of the runs in which something else took half of the time.
const DISTURBED_PART: f64 = 0.04;

/// A home whose walls are not what was written down, nor is its law. The same seed is the same home.
pub struct Truth {
    home: Home,
    plan: Plan,
    seed: u64,
    hidden: Hidden,
    tables: LinkTables,
}

/// What a phone meets at a spot during one run.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Met {
    /// What its link gives.
    pub link: Link,
    /// The device that serves.
    pub serving: DeviceId,
    /// The band.
    pub band: Band,
    /// Signal.
    pub signal_dbm: Dbm,
    /// Negotiated link rate.
    pub link_rate_mbps: MbitPerSec,
}

/// Which run at which spot of which round.
#[derive(Debug, Clone, Copy)]
pub struct Run {
    /// The spot.
    pub spot: SpotId,
    /// What tells the round from others.
    pub round: Uuid,
    /// How many runs went before.
    pub number: u32,
}

impl Truth {
    /// The truth behind a home.
    #[must_use]
    pub fn new(home: Home, seed: u64) -> Self {
        let plan = Plan::new(&home.house, home.units);
        let hidden = Hidden::new(&plan, &mut ChaCha8Rng::seed_from_u64(seed));
        Self { home, plan, seed, hidden, tables: LinkTables::default() }
    }

    /// What a run meets; none where no connection can be had, or the spot has no place.
    #[must_use]
    pub fn meets(&self, setup: &Setup, question: &Question, run: Run) -> Option<Met> {
        let spot = self.home.house.spots.iter().find(|spot| spot.id == run.spot)?;
        let (_, point) = self.plan.spot(spot)?;
        let between = |nodes: &[Node], (upstream, own): (usize, usize), frequency: Megahertz| {
            let (upstream, own) = (&nodes[upstream], &nodes[own]);
            let shadows = self.shadows(upstream.id, frequency).at(own.at);
            self.hidden.loss(&self.plan, upstream.at, own.at, frequency)
                + shadows
                + upstream.enclosure_loss(frequency)
                + own.enclosure_loss(frequency)
        };
        let when = (question.day, question.reach);
        let network = Network::over_losses(&self.home, setup, &self.plan, when, &between, &self.tables);
        let busy = question.situation == Situation::BusyEvening;
        let evaluator = Evaluator::new(network, question, &self.tables, |network, accesses| {
            let rooms = self.plan.rooms.iter().map(|room| {
                match busy_need(&self.home.brief, room.id, question.reach).filter(|_| busy) {
                    Some(need) => (Some(need), self.losses(network, accesses, self.plan.middle_of(room))),
                    None => (None, Vec::new()),
                }
            });
            rooms.collect()
        });
        let losses = self.losses(&evaluator.network, &evaluator.accesses, point);
        let mut rng = self.rng(&[run.spot.0.as_u128(), run.round.as_u128(), u128::from(run.number)]);
        let got = evaluator.at(&losses.into(), self.seat(spot.room_id), Db::new(normal(&mut rng, RUN_SPREAD_DB)));
        let served = got.served?;
        let disturbed = if rng.random_bool(DISTURBED_PART) { 0.5 } else { 1.0 };
        // Spread only takes away: what a plan or port lets through is not exceeded.
        let mut part = || (1.0 - normal(&mut rng, RUN_SPREAD_PART).abs()).max(0.2) * disturbed;
        let link = Link {
            down: MbitPerSec::new(got.down.middle.get() * part()),
            up: MbitPerSec::new(got.up.middle.get() * part()),
            idle: got.latency_ms,
            loaded: Millis::new(got.loaded_ms.get().min(1500.0) * rng.random_range(0.3..0.9)).max(got.latency_ms),
        };
        Some(Met {
            link,
            serving: served.device,
            band: served.band,
            signal_dbm: Dbm::new(served.signal_dbm.get().round()),
            link_rate_mbps: MbitPerSec::new(served.link_rate_mbps.get().round()),
        })
    }

    /// What is heard at a place of every radio that the client could join, with the shadows of the house or without them: the latter is
    /// what one hears who knows walls and devices and not what stands about.
    #[must_use]
    pub fn heard(&self, setup: &Setup, question: &Question, at: Point, shadowed: bool) -> Vec<(DeviceId, Band, Dbm)> {
        let nothing = |_: &[Node], _: (usize, usize), _: Megahertz| Db::new(80.0);
        let when = (question.day, question.reach);
        let network = Network::over_losses(&self.home, setup, &self.plan, when, &nothing, &self.tables);
        let accesses = network.accesses(question.client, question.band, &self.tables);
        let losses = self.losses(&network, &accesses, at);
        let of = |(access, loss): (&Access, Db)| {
            let (node, frequency) = (&network.nodes[access.node], access.block.centre);
            let shadows = self.shadows(node.id, frequency);
            let loss = if shadowed { loss } else { loss - shadows.at(at) + shadows.of_device() };
            (node.id, access.band, access.table.at(loss).rssi)
        };
        accesses.iter().zip(losses).map(of).collect()
    }

    fn losses(&self, network: &Network<'_>, accesses: &[Access], at: Point) -> Vec<Db> {
        let of = |access: &Access| {
            let (node, frequency) = (&network.nodes[access.node], access.block.centre);
            self.hidden.loss(&self.plan, node.at, at, frequency)
                + self.shadows(node.id, frequency).at(at)
                + node.enclosure_loss(frequency)
        };
        accesses.iter().map(of).collect()
    }

    /// Shadows belong to a device and a band: what stands in the way of one is beside the way of another.
    fn shadows(&self, device: DeviceId, frequency: Megahertz) -> Shadows {
        let band = u128::from(frequency.get() > 3000.0);
        Shadows::new(&mut self.rng(&[device.0.as_u128(), band]))
    }

    fn seat(&self, room: RoomId) -> usize {
        self.plan.rooms.iter().position(|own| own.id == room).unwrap_or(self.plan.rooms.len())
    }

    /// Randomness that belongs to these things alone.
    #[must_use]
    pub fn rng(&self, things: &[u128]) -> ChaCha8Rng {
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

#[cfg(test)]
mod tests {
    use super::*;
    use busy_hen_catalogue::clients;
    use busy_hen_home::{Doors, SetupId, TestKind};
    use busy_hen_predict::{Knowledge, Model};
    use jiff::civil::date;

    fn question(reach: TestKind) -> Question {
        Question {
            client: clients::find("phone_ax").unwrap(),
            band: None,
            situation: Situation::Alone,
            doors: Doors::AsLeft,
            reach,
            day: date(2026, 11, 1),
        }
    }

    fn downs(seed: u64, spot: &str, runs: u32) -> Vec<Option<f64>> {
        let home = busy_hen_demo::canal_terrace();
        let setup = home.setup(SetupId::named("A")).unwrap().clone();
        let truth = Truth::new(home, seed);
        let at = |number| Run { spot: SpotId::named(spot), round: Uuid::nil(), number };
        let met = |number| truth.meets(&setup, &question(TestKind::Internet), at(number));
        (0..runs).map(|number| met(number).map(|met| met.link.down.get())).collect()
    }

    #[test]
    fn the_same_seed_is_the_same_home_and_another_is_not() {
        assert_eq!(downs(1, "Attic bedroom", 5), downs(1, "Attic bedroom", 5));
        assert_ne!(downs(1, "Attic bedroom", 5), downs(2, "Attic bedroom", 5));
    }

    #[test]
    fn runs_differ_from_each_other_and_never_exceed_the_plan() {
        let runs = downs(3, "Front room", 40);
        assert!(runs.iter().all(|down| down.is_some_and(|down| down > 30.0 && down <= 300.0)), "{runs:?}");
        assert!(runs.windows(2).any(|pair| pair[0] != pair[1]));
    }

    #[test]
    fn its_signals_do_not_sit_on_the_predictions() {
        let home = busy_hen_demo::canal_terrace();
        let setup = home.setup(SetupId::named("B")).unwrap().clone();
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        let model = Model::new(&home, &setup, &plan, question(TestKind::Local), &kept);
        let mut off = Vec::new();
        for seed in 0..8 {
            let truth = Truth::new(home.clone(), seed);
            for spot in &home.house.spots {
                let run = Run { spot: spot.id, round: Uuid::nil(), number: 0 };
                let met = truth.meets(&setup, &question(TestKind::Local), run);
                let predicted = plan.spot(spot).and_then(|(_, at)| model.at(at, Some(spot.room_id)).served);
                if let (Some(met), Some(predicted)) = (met, predicted)
                    && met.serving == predicted.device
                    && met.band == predicted.band
                {
                    off.push(met.signal_dbm.get() - predicted.signal_dbm.get());
                }
            }
        }
        let mean = off.iter().sum::<f64>() / off.len() as f64;
        let spread = (off.iter().map(|own| (own - mean).powi(2)).sum::<f64>() / off.len() as f64).sqrt();
        println!("{} places: {mean:.1} dB off, {spread:.1} dB apart", off.len());
        assert!((3.0..12.0).contains(&spread), "{spread}");
    }
}
