//! A network under a question, asked with losses that are known already: thousands of what-ifs a second, without a look at the house.
//!
//! The facade's [`Model`](super::Model) asks it place by place; a search for places asks it setup by setup.

use std::sync::OnceLock;

use busy_hen_home::{DeviceId, Situation, Steering, TestKind};
use busy_hen_radio::airtime::Link;
use busy_hen_radio::airtime::end::is_at_its_end;
use busy_hen_units::{Db, Dbm, MbitPerSec, Millis};

use super::uncertainty::{Draw, draws, ends, rate_ends};
use super::{Prediction, Question, Range, Served};
use crate::calibration::AirCalibration;
use crate::needs::{Need, ServiceStep, step};
use crate::path::call::call_quality;
use crate::path::demand::{Demand, Others};
use crate::path::direction::Direction;
use crate::path::hop::{HopKind, Medium};
use crate::path::latency::Delay;
use crate::path::network::{Access, Network};
use crate::path::{Flow, LinkTables, latency};

/// A client leaves a device that it was not guided away from only when the signal is poorer than this (common practice).
pub const LEAVES: Dbm = Dbm::new(-70.0);
/// ... and another device is so much stronger (common practice).
pub const STRONGER: Db = Db::new(8.0);
/// The line limits when this part of what the plan leaves arrives.
const ALL_OF_THE_PLAN: f64 = 0.999;

const DIRECTIONS: [Direction; 2] = [Direction::Down, Direction::Up];

/// Flows of an access as seen from a room, down and up.
type Flows = [Flow; 2];

/// A network, what each room takes of it, and the answers that follow.
#[derive(Debug)]
pub struct Evaluator<'a> {
    /// The network.
    pub network: Network<'a>,
    /// Radios that a client may join.
    pub accesses: Vec<Access>,
    reach: TestKind,
    /// Whether the client is plugged in: it goes by ports alone, others by air.
    pub plugged_in: bool,
    /// What speeds taught of the air.
    air: AirCalibration,
    /// Whether the family is busy meanwhile.
    busy: bool,
    /// What each room takes; none where it takes nothing or nobody is busy.
    demands: Vec<Option<Demand>>,
    /// Flows seen from each room, then from no room, of every access; worked out when first asked for.
    flows: Vec<OnceLock<Flows>>,
    /// The same in every try.
    tried: Vec<OnceLock<Vec<Flows>>>,
}

/// Losses from every access to a place: as predicted, and in each way that rooms may be joined where nobody drew how.
#[derive(Debug, Clone, Default)]
pub struct Losses {
    /// As predicted.
    pub middle: Vec<Db>,
    /// In each way; empty where there is one alone.
    pub each: Vec<Vec<Db>>,
    /// What is left of how far each radio's is unsure, after readings: 1 where they say nothing; empty where there are none.
    pub unsure: Vec<f64>,
}

impl Losses {
    /// In the way of joining rooms that a try takes.
    fn of(&self, own: Draw) -> &[Db] {
        if self.each.is_empty() { &self.middle } else { &self.each[own.guess(self.each.len())] }
    }

    fn at(&self, own: Draw, access: usize) -> Db {
        self.of(own)[access]
    }

    /// How much more an access of this device loses in a try, when it loses so much.
    fn off(&self, own: Draw, access: usize, node: usize, loss: Db) -> Db {
        own.of_client(node, loss) * self.unsure.get(access).copied().unwrap_or(1.0)
    }
}

impl From<Vec<Db>> for Losses {
    fn from(middle: Vec<Db>) -> Self {
        Self { middle, ..Self::default() }
    }
}

/// The middle figures of a room.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Middle {
    /// Download.
    pub down: MbitPerSec,
    /// Upload.
    pub up: MbitPerSec,
    /// Round trip that a need is judged by: without load where nobody else is busy, else under load.
    pub latency: Millis,
    /// Index of the access that serves; none where nothing holds.
    pub access: Option<usize>,
}

impl<'a> Evaluator<'a> {
    /// A network under a question. `rooms` gives what each room needs, and the losses from every access to its middle.
    ///
    /// # Complexity
    /// O(rooms x accesses) look-ups
    #[must_use]
    pub fn new(
        network: Network<'a>,
        question: &Question,
        tables: &LinkTables,
        rooms: impl FnOnce(&Network<'a>, &[Access]) -> Vec<(Option<Need>, Vec<Db>)>,
    ) -> Self {
        let accesses = network.accesses(question.client, question.band, tables);
        let rooms = rooms(&network, &accesses);
        let seats = rooms.len() + 1;
        let count = seats * accesses.len();
        let mut evaluator = Self {
            network,
            accesses,
            reach: question.reach,
            plugged_in: question.client.port_mbps.is_some(),
            air: AirCalibration::default(),
            busy: question.situation == Situation::BusyEvening,
            demands: vec![None; rooms.len()],
            flows: (0..count).map(|_| OnceLock::new()).collect(),
            tried: (0..count).map(|_| OnceLock::new()).collect(),
        };
        if evaluator.busy {
            evaluator.demands = rooms.iter().map(|(need, losses)| evaluator.demand(need.as_ref()?, losses)).collect();
        }
        evaluator
    }

    /// What a room's needs take; none when nothing reaches it.
    fn demand(&self, need: &Need, losses: &[Db]) -> Option<Demand> {
        let (access, link) = self.associate_by(losses, &|_, _| Db::new(0.0), &|access| access.port.is_none())?;
        let part = |down: MbitPerSec, up: MbitPerSec| {
            need.down_mbps.get() / down.get().max(1e-3) + need.up_mbps.get() / up.get().max(1e-3)
        };
        let access = &self.accesses[access];
        let mut airtime = vec![(access.block, part(link.down, link.up).min(1.0))];
        let mut mains = 0.0;
        for hop in &access.hops {
            match self.uplink(*hop) {
                Some(HopKind::Radio { block, loss, table, .. }) => {
                    let carries = table.at(*loss);
                    airtime.push((*block, part(carries.down, carries.up).min(1.0)));
                }
                Some(HopKind::Wired { medium: Medium::PowerLine { .. }, goodput, .. }) => {
                    mains += part(*goodput, *goodput);
                }
                _ => {}
            }
        }
        Some(Demand {
            node: access.node,
            down: need.down_mbps,
            up: need.up_mbps,
            airtime,
            mains: mains.min(1.0),
            hops: access.hops.clone(),
        })
    }

    fn uplink(&self, hop: usize) -> Option<&HopKind> {
        self.network.nodes[hop].uplink.as_ref().map(|hop| &hop.kind)
    }

    /// What each room of the plan takes, in its order; none where nothing goes on, or nothing reaches.
    #[must_use]
    pub fn demands(&self) -> &[Option<Demand>] {
        &self.demands
    }

    /// What others take, seen from a room by its index; from no room when it is past the last.
    #[must_use]
    pub fn others(&self, seat: usize) -> Others<'_> {
        Others { demands: &self.demands, except: Some(seat).filter(|seat| *seat < self.demands.len()) }
    }

    /// The radio a client joins, and what the air carries; none where nothing holds.
    ///
    /// A guided client joins the radio that promises it most over the air: it can't see the hops behind. Without guidance it joined
    /// at the router, and clings to it: under one name until the signal is poor and another device is much stronger; under a name
    /// of its own until nothing holds (common practice).
    #[must_use]
    pub fn associate(&self, losses: &[Db]) -> Option<(usize, Link)> {
        self.associate_off(losses, &|_, _| Db::new(0.0))
    }

    /// The same when the loss from each access, given with what is predicted, is so much more.
    fn associate_off(&self, losses: &[Db], more: &dyn Fn(usize, Db) -> Db) -> Option<(usize, Link)> {
        self.associate_by(losses, more, &|access| access.port.is_some() == self.plugged_in)
    }

    fn associate_by(
        &self,
        losses: &[Db],
        more: &dyn Fn(usize, Db) -> Db,
        able: &dyn Fn(&Access) -> bool,
    ) -> Option<(usize, Link)> {
        let most = |pick: &dyn Fn(&Access) -> bool| {
            self.accesses
                .iter()
                .zip(losses)
                .enumerate()
                .filter(|(_, (access, _))| able(access) && pick(access))
                .map(|(index, (access, loss))| (index, access.air.carried(&access.table, *loss + more(index, *loss))))
                .filter(|(_, link)| link.down.get() > 0.0)
                .max_by(|a, b| a.1.down.get().total_cmp(&b.1.down.get()))
        };
        let best = most(&|_| true)?;
        if self.network.steering == Steering::Guided || self.accesses[best.0].port.is_some() {
            return Some(best);
        }
        let Some(first) = most(&|access| Some(access.node) == self.network.root) else { return Some(best) };
        let joined = &self.accesses[first.0];
        let radio = self.network.nodes[joined.node].radios.get(joined.radio);
        let leaves = self.network.steering == Steering::OneName
            && match radio.and_then(|radio| radio.hand_over) {
                // The device decides, whatever the client would.
                Some(threshold) => first.1.rssi < threshold,
                None => first.1.rssi < LEAVES && best.1.rssi >= first.1.rssi + STRONGER,
            };
        Some(if leaves { best } else { first })
    }

    fn flow(&self, seat: usize, access: usize, direction: Direction) -> Flow {
        self.network.flow(&self.accesses[access], direction, &self.others(seat), &[])
    }

    /// Flows of an access seen from a room, kept for the next place.
    fn flows(&self, seat: usize, access: usize) -> &Flows {
        self.flows[seat * self.accesses.len() + access]
            .get_or_init(|| DIRECTIONS.map(|way| self.flow(seat, access, way)))
    }

    /// The same in every try.
    fn tried(&self, seat: usize, access: usize) -> &[Flows] {
        self.tried[seat * self.accesses.len() + access].get_or_init(|| {
            let flows = |own: Draw| {
                let more = |hop: usize| self.hop_off(own, hop);
                let others = self.others(seat);
                DIRECTIONS.map(|way| self.network.flow_off(&self.accesses[access], way, &more, &others, &[]))
            };
            draws().map(flows).collect()
        })
    }

    /// How much more a hop loses in a try.
    fn hop_off(&self, own: Draw, hop: usize) -> Db {
        match self.uplink(hop) {
            Some(HopKind::Radio { loss, .. }) => own.of_hop(hop, *loss, self.network.guessed),
            _ => Db::new(0.0),
        }
    }

    /// The likely range of what a hop carries.
    #[must_use]
    pub fn hop_range(&self, hop: usize, direction: Direction) -> Range {
        let carries = |more: Db| self.network.hop_goodput(hop, direction, more, &[]);
        let part = |own: Draw| match self.uplink(hop) {
            Some(HopKind::Radio { .. }) => self.air_of(own),
            _ => own.of_line(),
        };
        let (poor, good) = rate_ends(draws().map(|own| carries(self.hop_off(own, hop)) * part(own)).collect());
        let middle = carries(Db::new(0.0));
        Range { poor: poor.min(middle), middle, good: good.max(middle) }
    }

    /// The likely range of what the air from an access carries to a client with these losses.
    #[must_use]
    pub fn air_range(&self, losses: &Losses, access: usize, direction: Direction) -> Range {
        let own = &self.accesses[access];
        let tried = |it: Draw| {
            let loss = losses.at(it, access);
            let part = if own.port.is_some() { it.of_line() } else { self.air_of(it) * self.air.part };
            direction.of(&own.air.carried(&own.table, loss + losses.off(it, access, own.node, loss))) * part
        };
        let (poor, good) = rate_ends(draws().map(tried).collect());
        let middle = direction.of(&own.air.carried(&own.table, losses.middle[access])) * self.air_part(access);
        Range { poor: poor.min(middle), middle, good: good.max(middle) }
    }

    /// What arrives in the middle over a joined radio, seen from a room.
    #[must_use]
    pub fn arrives(&self, seat: usize, (access, link): &(usize, Link), direction: Direction) -> MbitPerSec {
        self.flows(seat, *access)[direction as usize].arrives_of(direction.of(link), self.air_part(*access))
    }

    /// Part of what is predicted that the air from an access carries, as speeds taught.
    pub(super) fn air_part(&self, access: usize) -> f64 {
        if self.accesses[access].port.is_some() { 1.0 } else { self.air.part }
    }

    /// What links carry of what is predicted in a try.
    fn air_of(&self, own: Draw) -> f64 {
        own.of_air(!self.network.neighbours.is_empty(), self.air.unsure)
    }

    /// Takes in what speeds taught of the air.
    pub fn calibrate_air(&mut self, air: AirCalibration) {
        self.air = air;
    }

    /// The middle figures at a place with these losses, seen from a room: all that a search for places asks.
    #[must_use]
    pub fn middle(&self, losses: &[Db], seat: usize) -> Middle {
        let Some((access, link)) = self.associate(losses) else { return Middle::default() };
        let part = self.air_part(access);
        let arrives = |way: Direction| self.flow(seat, access, way).arrives_of(way.of(&link), part);
        let down = arrives(Direction::Down);
        Middle {
            down,
            up: arrives(Direction::Up),
            latency: self.felt(self.latency(access, &link, seat).median, down, seat),
            access: Some(access),
        }
    }

    /// The round trip that a need is judged by, from that without load and what arrives.
    pub(super) fn felt(&self, idle: Millis, down: MbitPerSec, seat: usize) -> Millis {
        if self.busy { self.loaded(idle, down, seat) } else { idle }
    }

    /// The round trip under load, from that without.
    fn loaded(&self, idle: Millis, down: MbitPerSec, seat: usize) -> Millis {
        let line_limits = self.network.plan_cap(Direction::Down).is_some_and(|plan| {
            down.get() >= ALL_OF_THE_PLAN * self.others(seat).plan_left(Direction::Down, plan).get()
        });
        idle + latency::queue(line_limits, self.network.managed_queue, down)
    }

    /// What a client gets at a place with these losses, seen from a room, when the place is shadowed by so much more.
    #[must_use]
    pub fn at(&self, losses: &Losses, seat: usize, shadow: Db) -> Prediction {
        let Some((index, middle)) = self.associate_off(&losses.middle, &|_, _| shadow) else {
            return Prediction::default();
        };
        let found: Vec<[MbitPerSec; 2]> = draws().map(|own| self.tried_at(own, losses, seat, shadow)).collect();
        let access = &self.accesses[index];
        let range = |direction: Direction| {
            let (poor, good) = rate_ends(found.iter().map(|own| own[direction as usize]).collect());
            let middle = self.arrives(seat, &(index, middle), direction);
            // A radio that carries more over the air may have the poorer hops behind it; the ends still enclose the middle.
            Range { poor: poor.min(middle), middle, good: good.max(middle) }
        };
        let (down, up) = (range(Direction::Down), range(Direction::Up));
        let delay = self.latency(index, &middle, seat);
        let (latency_ms, jitter_ms) = (delay.median, delay.jitter());
        let node = &self.network.nodes[access.node];
        let loaded_ms = self.loaded(latency_ms, down.middle, seat);
        let felt_ms = self.felt(latency_ms, down.middle, seat);
        let score = step::score(down.middle, up.middle, felt_ms);
        // Of the radio that serves in the middle: what it is heard with, and links at, in the tries.
        let heard = |own: Draw| {
            let loss = losses.at(own, index) + shadow;
            access.table.at(loss + losses.off(own, index, access.node, loss))
        };
        let links: Vec<Link> = draws().map(heard).collect();
        let (poor_rate, good_rate) = rate_ends(links.iter().map(|link| link.link_rate).collect());
        let signals: Vec<f64> = links.iter().map(|link| link.rssi.get()).collect();
        let (poor_signal, good_signal) = ends(signals, f64::total_cmp).unwrap_or_default();
        Prediction {
            down,
            up,
            latency_ms,
            loaded_ms,
            felt_ms,
            jitter_ms,
            call: Some(call_quality(latency_ms, jitter_ms, 0.0)),
            loaded_call: Some(call_quality(loaded_ms, jitter_ms, 0.0)),
            plugged_into: access.port.map(|_| node.id),
            served: access.port.is_none().then(|| Served {
                device: node.id,
                band: access.band,
                signal_dbm: middle.rssi,
                poor_signal_dbm: Dbm::new(poor_signal).min(middle.rssi),
                good_signal_dbm: Dbm::new(good_signal).max(middle.rssi),
                link_rate_mbps: middle.link_rate,
                width_mhz: middle.width,
                poor_link_rate_mbps: poor_rate.min(middle.link_rate),
                good_link_rate_mbps: good_rate.max(middle.link_rate),
                at_its_end: is_at_its_end(&access.table, losses.middle[index] + shadow),
            }),
            step: ServiceStep::of_score(score),
            score,
        }
    }

    /// What a client gets in one try, down and up.
    fn tried_at(&self, own: Draw, losses: &Losses, seat: usize, shadow: Db) -> [MbitPerSec; 2] {
        self.joined_at(own, losses, seat, shadow).map_or_else(Default::default, |(_, rates)| rates)
    }

    /// What a client joins in one try, and what it gets there, down and up; none where nothing holds.
    fn joined_at(
        &self,
        own: Draw,
        losses: &Losses,
        seat: usize,
        shadow: Db,
    ) -> Option<((usize, Link), [MbitPerSec; 2])> {
        let of_way = losses.of(own);
        let joined = self.associate_off(of_way, &|index, loss| {
            shadow + losses.off(own, index, self.accesses[index].node, loss + shadow)
        });
        let (index, link) = joined?;
        let air = || self.air_of(own);
        let part = if self.accesses[index].port.is_some() { 1.0 } else { air() * self.air.part };
        let flows = &self.tried(seat, index)[own.index()];
        let rates = DIRECTIONS.map(|way| flows[way as usize].arrives_of(way.of(&link), part) * own.of_line());
        Some(((index, link), rates))
    }

    /// Part of the tries in which what a room needs arrives, and soon enough, at a place with these losses.
    #[must_use]
    pub fn meets_part(&self, losses: &Losses, seat: usize, need: &Need) -> f64 {
        let met = |own: &Draw| {
            self.joined_at(*own, losses, seat, Db::new(0.0)).is_some_and(|((access, link), [down, up])| {
                let latency = self.felt(self.latency(access, &link, seat).median, down, seat);
                need.met_by(down, up, latency)
            })
        };
        draws().filter(met).count() as f64 / draws().count() as f64
    }

    /// The device that an access belongs to.
    #[must_use]
    pub fn device(&self, access: usize) -> DeviceId {
        self.network.nodes[self.accesses[access].node].id
    }

    /// Round trip from a client on an access, which carries this much, to the far end.
    pub(super) fn latency(&self, access: usize, link: &Link, seat: usize) -> Delay {
        let access = &self.accesses[access];
        let others = self.others(seat);
        let held = |block, air: &busy_hen_radio::airtime::Air| 1.0 - others.airtime_left(&[block], &air.turns);
        let mut sum = match access.port {
            Some(_) => latency::cable_hop(),
            None => latency::air(access.band, link, held(access.block, &access.air)),
        }
        .then(latency::cable_hop());
        if self.reach.is_internet() {
            sum = sum.then(latency::line(self.network.line));
        }
        for hop in &access.hops {
            sum = sum.then(match self.uplink(*hop) {
                Some(HopKind::Radio { shared, block, air, .. }) => latency::radio_hop(*shared, held(*block, air)),
                Some(HopKind::Wired { medium: Medium::Coax, .. }) => latency::coax_hop(),
                Some(HopKind::Wired { medium: Medium::PowerLine { good }, .. }) => latency::power_line_hop(*good),
                _ => latency::cable_hop(),
            });
        }
        sum
    }
}
