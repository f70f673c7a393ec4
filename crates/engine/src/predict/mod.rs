//! The facade: a home, a setup and a question in; predictions, map, ledger and explanation out.

mod grid;
pub mod ledger;
pub mod map;
mod signals;

use busy_hen_home::{Band, DeviceId, Doors, Home, RoomId, Setup, Situation, Steering, TestKind};
use busy_hen_units::{Db, Dbm, MbitPerSec, Megahertz, Millis};
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::catalogue::Client;
use crate::geometry::{Plan, Point};
use crate::needs::{Need, ServiceStep, room_need, step};
use crate::path::call::{CallQuality, call_quality};
use crate::path::chain::Place;
use crate::path::latency::{self, Delay};
use crate::path::network::{Access, Demand, Direction, HopKind, Medium, Network, Others};
use crate::path::{Chain, Flow, LinkTables};
use crate::phy::Link;
use crate::propagation::aerial::Pattern;
use crate::propagation::{AllWaves, Sight};
use signals::{Lit, Signals};

/// How far the loss at the 10 % and 90 % ends of the likely range is from the middle: shadowing is normal with sigma 5 dB
/// (IEEE 802.11-14/0980, residential), and the 90 % quantile of a normal variable is 1.2816 sigma.
pub const RANGE_DB: Db = Db::new(6.4);

/// A client leaves a device that it was not guided away from only when the signal is poorer than this (common practice).
const LEAVES: Dbm = Dbm::new(-70.0);
/// ... and another device is so much stronger (common practice).
const STRONGER: Db = Db::new(8.0);

/// What was worked out before, kept by the caller from one question to the next. Keeping it changes no answer.
#[derive(Debug, Default)]
pub struct Kept {
    /// What pairs of radios carry.
    pub tables: LinkTables,
    signals: Signals,
}

/// What is asked of a model.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Question {
    /// The device people hold.
    pub client: &'static Client,
    /// The band it is held to; none when it chooses.
    pub band: Option<Band>,
    /// Whether the family is busy meanwhile.
    pub situation: Situation,
    /// How the doors stand.
    pub doors: Doors,
    /// How far the test reaches.
    pub reach: TestKind,
    /// The day, which decides the plan in force.
    pub day: Date,
}

/// A likely range: 10 %, 50 % and 90 % of places like this one.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, ToSchema)]
pub struct Range {
    /// The poor end (10 %), Mb/s.
    pub poor: MbitPerSec,
    /// The middle (50 %), Mb/s.
    pub middle: MbitPerSec,
    /// The good end (90 %), Mb/s.
    pub good: MbitPerSec,
}

/// What a client gets at a place.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Prediction {
    /// Download, Mb/s.
    pub down: Range,
    /// Upload, Mb/s.
    pub up: Range,
    /// Round trip without load of its own.
    pub latency_ms: Millis,
    /// Round trip while it loads the path, with the queues as they are managed.
    pub loaded_ms: Millis,
    /// Mean change from one round trip to the next.
    pub jitter_ms: Millis,
    /// How a call sounds while nothing else goes on; none where nothing serves.
    pub call: Option<CallQuality>,
    /// How a call sounds while the path is loaded; none where nothing serves.
    pub loaded_call: Option<CallQuality>,
    /// What serves it; none where nothing holds.
    pub served: Option<Served>,
    /// What works there.
    pub step: ServiceStep,
    /// How far up the steps, for contours.
    pub score: f64,
}

/// What serves a client at a place.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Served {
    /// The serving device.
    pub device: DeviceId,
    /// Band it is on.
    pub band: Band,
    /// Signal.
    pub signal_dbm: Dbm,
    /// Usual link rate: an explanation, never a speed.
    pub link_rate_mbps: MbitPerSec,
    /// Width that serves best.
    pub width_mhz: Megahertz,
}

/// A setup in its home, ready to be asked about any place.
pub struct Model<'a> {
    home: &'a Home,
    /// The house as geometry.
    pub plan: &'a Plan,
    /// The setup as a network.
    pub network: Network,
    waves: AllWaves<'a>,
    fingerprint: u64,
    kept: &'a Kept,
    question: Question,
    accesses: Vec<Access>,
    /// The house lit by each access, in their order.
    lit: Vec<Lit<'a>>,
    /// What others take, as seen from each room of the plan, and last as seen from no room.
    others: Vec<Others>,
    /// Flows of every access as seen from each room: poor, middle, good, each down and up.
    flows: Vec<Vec<[[Flow; 2]; 3]>>,
}

const RANGE_ENDS: [Db; 3] = [RANGE_DB, Db::new(0.0), Db::new(-RANGE_DB.get())];
const MIDDLE: usize = 1;
const DIRECTIONS: [Direction; 2] = [Direction::Down, Direction::Up];

impl<'a> Model<'a> {
    /// Resolves a setup for a question.
    #[must_use]
    pub fn new(home: &'a Home, setup: &Setup, plan: &'a Plan, question: Question, kept: &'a Kept) -> Self {
        let waves = AllWaves::new(plan, question.doors);
        let network = Network::new(home, setup, &waves, question.day, question.reach, &kept.tables);
        let accesses = network.accesses(question.client, question.band, &kept.tables);
        let lit =
            accesses.iter().map(|access| Lit::new(&waves, &network.nodes[access.node], access.block.centre)).collect();
        let mut model = Self {
            home,
            plan,
            network,
            waves,
            fingerprint: plan.fingerprint(),
            kept,
            question,
            accesses,
            lit,
            others: vec![Others::default(); plan.rooms.len() + 1],
            flows: Vec::new(),
        };
        model.flows = model.all_flows();
        if question.situation == Situation::BusyEvening {
            model.others = model.busy();
            model.flows = model.all_flows();
        }
        model
    }

    fn all_flows(&self) -> Vec<Vec<[[Flow; 2]; 3]>> {
        let flow = |access: &Access, others: &Others| {
            RANGE_ENDS.map(|more| DIRECTIONS.map(|way| self.network.flow(access, way, more, others, &[])))
        };
        self.others.iter().map(|others| self.accesses.iter().map(|access| flow(access, others)).collect()).collect()
    }

    /// What each room's own needs take of the network, then for each room what all the others do.
    fn busy(&self) -> Vec<Others> {
        let demands: Vec<Option<Demand>> = self.plan.rooms.iter().map(|room| self.demand(room.id)).collect();
        let without = |own: Option<usize>| Others {
            rooms: demands
                .iter()
                .enumerate()
                .filter(|(index, _)| Some(*index) != own)
                .filter_map(|(_, demand)| demand.clone())
                .collect(),
        };
        (0..demands.len()).map(|index| without(Some(index))).chain([without(None)]).collect()
    }

    /// What a room's needs take; none when it has none or nothing reaches it.
    fn demand(&self, room: RoomId) -> Option<Demand> {
        let need = self.need(room)?;
        let place = self.plan.room(room)?;
        let (x, y) = (place.rect.x + place.rect.width / 2.0, place.rect.y + place.rect.depth / 2.0);
        let (access, link) = self.join(&self.losses(self.plan.in_hand(place.level, x, y)), Db::new(0.0))?;
        let part = |down: MbitPerSec, up: MbitPerSec| {
            need.down_mbps.get() / down.get().max(1e-3) + need.up_mbps.get() / up.get().max(1e-3)
        };
        let access = &self.accesses[access];
        let mut airtime = vec![(access.block, part(link.down, link.up).min(1.0))];
        for hop in &access.hops {
            if let Some(HopKind::Radio { block, loss, table, .. }) =
                self.network.nodes[*hop].uplink.as_ref().map(|hop| &hop.kind)
            {
                let carries = table.at(*loss);
                airtime.push((*block, part(carries.down, carries.up).min(1.0)));
            }
        }
        Some(Demand { down: need.down_mbps, up: need.up_mbps, airtime, hops: access.hops.clone() })
    }

    /// What a room needs.
    #[must_use]
    pub fn need(&self, room: RoomId) -> Option<Need> {
        room_need(&self.home.brief, room)
    }

    /// Loss from every radio a client could join to a place, in the order of `accesses`.
    fn losses(&self, at: Point) -> Vec<Db> {
        let view = self.plan.surfaces.view(&at);
        let mut sight = Sight::between(self.plan, at, at);
        let mut last = None;
        self.accesses
            .iter()
            .zip(&self.lit)
            .map(|(access, lit)| {
                let node = &self.network.nodes[access.node];
                let gain = match last {
                    Some((index, gain)) if index == access.node => gain,
                    _ => {
                        sight.set_between(self.plan, node.at, at);
                        Pattern::new(&node.aerial).beyond_counted(node.at, at)
                    }
                };
                last = Some((access.node, gain));
                lit.loss(&sight, &view, gain)
            })
            .collect()
    }

    /// The radio a client joins, and what the air carries, when every loss is `more` than predicted; none where nothing holds.
    ///
    /// A guided client joins the radio that promises it most over the air: it can't see the hops behind. Without guidance it joined
    /// at the router, and clings to it: under one name until the signal is poor and another device is much stronger; under a name
    /// of its own until nothing holds (common practice).
    fn join(&self, losses: &[Db], more: Db) -> Option<(usize, Link)> {
        let most = |pick: &dyn Fn(&Access) -> bool| {
            self.accesses
                .iter()
                .zip(losses)
                .enumerate()
                .filter(|(_, (access, _))| pick(access))
                .map(|(index, (access, loss))| (index, access.air.carried(&access.table, *loss + more)))
                .filter(|(_, link)| link.down.get() > 0.0)
                .max_by(|a, b| a.1.down.get().total_cmp(&b.1.down.get()))
        };
        let best = most(&|_| true)?;
        if self.network.steering == Steering::Guided {
            return Some(best);
        }
        let Some(first) = most(&|access| Some(access.node) == self.network.root) else { return Some(best) };
        let leaves = self.network.steering == Steering::OneName
            && first.1.rssi < LEAVES
            && best.1.rssi >= first.1.rssi + STRONGER;
        Some(if leaves { best } else { first })
    }

    fn seen_from(&self, room: Option<RoomId>) -> usize {
        room.and_then(|id| self.plan.rooms.iter().position(|room| room.id == id)).unwrap_or(self.plan.rooms.len())
    }

    /// What a client gets at a place, seen from the room it belongs to.
    #[must_use]
    pub fn at(&self, at: Point, room: Option<RoomId>) -> Prediction {
        self.at_seen_from(at, self.seen_from(room), Db::new(0.0))
    }

    /// The same, where this place is shadowed by so much more than the model says.
    #[must_use]
    pub fn at_shadowed(&self, at: Point, room: Option<RoomId>, shadow: Db) -> Prediction {
        self.at_seen_from(at, self.seen_from(room), shadow)
    }

    fn at_seen_from(&self, at: Point, seen_from: usize, shadow: Db) -> Prediction {
        let losses = self.losses(at);
        let ends = RANGE_ENDS.map(|more| self.join(&losses, shadow + more));
        let Some((index, middle)) = ends[MIDDLE] else { return nothing() };
        let access = &self.accesses[index];
        let range = |direction: Direction| {
            let end = |i: usize| {
                ends[i].map_or_else(MbitPerSec::default, |(index, link)| {
                    self.flows[seen_from][index][i][direction as usize].arrives(direction.of(&link))
                })
            };
            // A radio that carries more over the air may have the poorer hops behind it; the ends still enclose the middle.
            let (poor, middle, good) = (end(0), end(MIDDLE), end(2));
            Range { poor: poor.min(middle), middle, good: good.max(middle) }
        };
        let (down, up) = (range(Direction::Down), range(Direction::Up));
        let delay = self.latency(index, &middle, seen_from);
        let (latency_ms, jitter_ms) = (delay.median, delay.jitter());
        let node = &self.network.nodes[access.node];
        let score = step::score(down.middle, up.middle, latency_ms);
        let line_limits =
            self.network.plan_cap(Direction::Down).is_some_and(|plan| down.middle.get() >= plan.get() * 0.999);
        let loaded_ms = latency_ms + latency::queue(line_limits, self.network.managed_queue, down.middle);
        Prediction {
            down,
            up,
            latency_ms,
            loaded_ms,
            jitter_ms,
            call: Some(call_quality(latency_ms, jitter_ms, 0.0)),
            loaded_call: Some(call_quality(loaded_ms, jitter_ms, 0.0)),
            served: Some(Served {
                device: node.id,
                band: access.band,
                signal_dbm: middle.rssi,
                link_rate_mbps: middle.link_rate,
                width_mhz: middle.width,
            }),
            step: ServiceStep::of_score(score),
            score,
        }
    }

    /// Round trip from a client on an access, which carries this much, to the far end.
    fn latency(&self, access: usize, link: &Link, seen_from: usize) -> Delay {
        let access = &self.accesses[access];
        let others = 1.0 - self.others[seen_from].airtime_left(&[access.block], &access.air.turns);
        let mut sum = latency::air(access.band, link, others).then(latency::cable_hop());
        if self.question.reach == TestKind::Internet {
            sum = sum.then(latency::line(self.network.line));
        }
        for hop in &access.hops {
            sum = sum.then(match self.network.nodes[*hop].uplink.as_ref().map(|hop| &hop.kind) {
                Some(HopKind::Radio { shared, .. }) => latency::radio_hop(*shared, others),
                Some(HopKind::Wired { medium: Medium::Coax, .. }) => latency::coax_hop(),
                Some(HopKind::Wired { medium: Medium::PowerLine { good }, .. }) => latency::power_line_hop(*good),
                _ => latency::cable_hop(),
            });
        }
        sum
    }

    /// The chain to a place explained; none where nothing holds.
    #[must_use]
    pub fn chain(&self, at: Point, room: Option<RoomId>) -> Option<Chain> {
        let losses = self.losses(at);
        let (index, _) = self.join(&losses, Db::new(0.0))?;
        let (access, loss) = (&self.accesses[index], losses[index]);
        let sight = Sight::between(self.plan, self.network.nodes[access.node].at, at);
        Some(self.network.chain(&Place {
            access,
            plan: self.plan,
            sight: &sight,
            loss,
            client: self.question.client,
            others: &self.others[self.seen_from(room)],
        }))
    }
}

/// What a place gets where no radio is heard well enough.
fn nothing() -> Prediction {
    Prediction {
        down: Range::default(),
        up: Range::default(),
        latency_ms: Millis::default(),
        loaded_ms: Millis::default(),
        jitter_ms: Millis::default(),
        call: None,
        loaded_call: None,
        served: None,
        step: ServiceStep::Nothing,
        score: 0.0,
    }
}
