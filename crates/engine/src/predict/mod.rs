//! The facade: a home, a setup and a question in; predictions, map, ledger and explanation out.
//!
//! Three layers, each to be asked by itself: the house prepared for a frequency ([`crate::propagation::AllWaves`]), losses from any
//! place to any places ([`losses`]), and a network over ready losses ([`evaluator`], [`ready`]). [`Model`] puts them together.

mod doubt;
pub mod evaluator;
pub mod evening;
pub mod explained;
pub mod forecast;
mod grid;
pub mod handover;
pub mod layers;
pub mod ledger;
pub mod losses;
pub mod map;
pub mod palette;
pub mod ready;
mod signals;
mod taught;
pub mod unknowns;
pub mod walked;

pub use busy_hen_home::Range;
use std::hash::{DefaultHasher, Hash, Hasher};
use std::sync::Arc;

use busy_hen_home::{Band, DeviceId, Doors, Home, RoomId, Setup, Situation, TestKind};
use busy_hen_units::{Db, Dbm, MbitPerSec, Megahertz, Millis};
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::catalogue::{Client, clients};
use crate::geometry::{Plan, Point};
use crate::kept::Bounded;
use crate::learning::{Learnt, Path, evidence};
use crate::needs::{Need, ServiceStep, busy_need, room_need};
use crate::path::call::CallQuality;
use crate::path::chain::Place;
use crate::path::line::LineCap;
use crate::path::network::{Access, Direction, Network, loss_between};
use crate::path::{Chain, LinkKind, LinkTables, Node};
use crate::propagation::aerial::Pattern;
use crate::propagation::{AllWaves, Lean, PreparedHouses, Sight};
use crate::spectrum::channels::band_of;
use crate::watch::Watch;
pub use doubt::of_house;
pub use evaluator::{Evaluator, Losses, Middle};
use signals::{Lit, Signals, hash_sender};
use taught::Taught;

/// What is known before a question is asked: what was worked out before, which changes no answer, and what readings taught, which does.
#[derive(Debug, Default, Clone)]
pub struct Kept {
    /// What pairs of radios carry.
    pub tables: Arc<LinkTables>,
    /// Houses at a frequency.
    pub houses: Arc<PreparedHouses>,
    signals: Arc<Signals>,
    /// What is left of how far links are unsure.
    unsure: Arc<Unsure>,
    /// What readings taught of the home.
    pub learnt: Option<Arc<Learnt>>,
    /// What its lines were measured to give.
    pub line: Arc<[LineCap]>,
    /// Whether anybody still waits for the answer.
    asked: Watch,
}

/// How many links' unsureness is kept: some tens of devices, heard everywhere in a large home.
const UNSURE_KEPT: usize = 200_000;

/// What is left of how far links are unsure, by what it follows from.
#[derive(Debug)]
struct Unsure(Bounded<u64, f64>);

impl Default for Unsure {
    fn default() -> Self {
        Self(Bounded::new(UNSURE_KEPT))
    }
}

impl Kept {
    /// The same with this learnt of a home; with nothing of any, when none is given.
    #[must_use]
    pub fn having(&self, learnt: Option<Arc<Learnt>>) -> Self {
        Self { learnt, ..self.clone() }
    }

    /// The same with what lines were measured to give.
    #[must_use]
    pub fn with_line(&self, line: &Arc<[LineCap]>) -> Self {
        Self { line: line.clone(), ..self.clone() }
    }

    /// The same for whoever waits by this: once it is stopped, what is still computed ends soon and is of no account.
    #[must_use]
    pub fn wanted_by(&self, asked: &Watch) -> Self {
        Self { asked: asked.clone(), ..self.clone() }
    }

    /// Whether the answer is still wanted. Asked before each part of a computation that may be long; what is kept for others is never cut short.
    #[must_use]
    pub fn is_wanted(&self) -> bool {
        !self.asked.is_stopped()
    }

    /// So much of a list as is still wanted.
    pub(crate) fn wanted<I: IntoIterator>(&self, list: I) -> impl Iterator<Item = I::Item> {
        list.into_iter().take_while(|_| self.is_wanted())
    }

    /// The house of a home, with what was learnt of its parts.
    #[must_use]
    pub fn plan(&self, home: &Home) -> Plan {
        match &self.learnt {
            Some(learnt) => learnt.plan(home),
            None => Plan::new(&home.house, home.units),
        }
    }
}

/// A setup as a network in the house as readings have it, without a look at any room.
#[must_use]
pub fn network_of<'a>(home: &'a Home, setup: &Setup, plan: &Plan, question: &Question, kept: &Kept) -> Network<'a> {
    let waves = AllWaves::keeping(plan, question.doors, &kept.houses, plan.fingerprint());
    network_over(&waves, home, setup, question, kept)
}

fn network_over<'a>(
    waves: &AllWaves<'_>,
    home: &'a Home,
    setup: &Setup,
    question: &Question,
    kept: &Kept,
) -> Network<'a> {
    let learnt = kept.learnt.as_deref();
    let between = |nodes: &[Node], (upstream, own): (usize, usize), frequency| {
        let (upstream, own) = (&nodes[upstream], &nodes[own]);
        let path = Path { device: upstream.id, band: band_of(frequency), from: upstream.at, to: own.at };
        loss_between(waves, upstream, own, frequency) + taught::of_hop(learnt, &path)
    };
    let mut network =
        Network::over_losses(home, setup, waves.plan, (question.day, question.reach), &between, &kept.tables);
    network.hold_line(home, &kept.line, question.day, question.situation);
    network
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

impl Question {
    /// What is asked where nobody says: by what people hold, to the internet, while nobody else is busy.
    #[must_use]
    pub fn usual(day: Date) -> Self {
        let client = clients::usual();
        Self { client, band: None, situation: Situation::Alone, doors: Doors::AsLeft, reach: TestKind::Internet, day }
    }
}

/// What a client gets at a place; by default what it gets where no radio is heard well enough.
#[derive(Debug, Clone, PartialEq, Default, Serialize, ToSchema)]
pub struct Prediction {
    /// Download, Mb/s.
    pub down: Range,
    /// Upload, Mb/s.
    pub up: Range,
    /// Round trip without load of its own.
    pub latency_ms: Millis,
    /// Round trip while it loads the path, with the queues as they are managed.
    pub loaded_ms: Millis,
    /// The one of the two that a need is judged by: without load where nobody else is busy, else under load.
    pub felt_ms: Millis,
    /// Mean change from one round trip to the next.
    pub jitter_ms: Millis,
    /// How a call sounds while nothing else goes on; none where nothing serves.
    pub call: Option<CallQuality>,
    /// How a call sounds while the path is loaded; none where nothing serves.
    pub loaded_call: Option<CallQuality>,
    /// What serves it by air; none where nothing holds, and for what is plugged in.
    pub served: Option<Served>,
    /// The device whose port it is plugged into; none for what goes by air, and where no device stands in its room.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub plugged_into: Option<DeviceId>,
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
    /// Signal at the poor end of the likely range.
    pub poor_signal_dbm: Dbm,
    /// Signal at the good end.
    pub good_signal_dbm: Dbm,
    /// Usual link rate: an explanation, never a speed.
    pub link_rate_mbps: MbitPerSec,
    /// Width that serves best.
    pub width_mhz: Megahertz,
    /// Link rate at the poor end of the likely range; zero where nothing holds then.
    pub poor_link_rate_mbps: MbitPerSec,
    /// Link rate at the good end.
    pub good_link_rate_mbps: MbitPerSec,
    /// Whether it is near the end of its range, where a phone may slip to another band or to mobile data.
    pub at_its_end: bool,
}

/// A setup in its home, ready to be asked about any place.
pub struct Model<'a> {
    home: &'a Home,
    /// The house as geometry.
    pub plan: &'a Plan,
    /// The setup as a network, under the question.
    pub evaluator: Evaluator<'a>,
    waves: AllWaves<'a>,
    fingerprint: u64,
    kept: &'a Kept,
    question: Question,
    /// The house lit by each access, in their order.
    lit: Vec<Lit<'a>>,
    /// What readings taught of their links.
    taught: Option<Taught<'a>>,
}

impl<'a> Model<'a> {
    /// Resolves a setup for a question.
    #[must_use]
    pub fn new(home: &'a Home, setup: &Setup, plan: &'a Plan, question: Question, kept: &'a Kept) -> Self {
        let fingerprint = plan.fingerprint();
        let waves = AllWaves::keeping(plan, question.doors, &kept.houses, fingerprint);
        let learnt = kept.learnt.as_deref();
        let network = network_over(&waves, home, setup, &question, kept);
        let (mut lit, mut taught) = (Vec::new(), None);
        let mut evaluator = Evaluator::new(network, &question, &kept.tables, |network, accesses| {
            let radios = accesses.iter().filter(|access| access.port.is_none());
            lit = radios.map(|access| Lit::of_access(&waves, network, access)).collect();
            taught = learnt.map(|learnt| Taught::new(learnt, network, accesses, question.client.key));
            let busy = question.situation == Situation::BusyEvening;
            plan.rooms
                .iter()
                .map(|room| match busy_need(&home.brief, room.id, question.reach).filter(|_| busy) {
                    Some(need) => {
                        let at = plan.middle_of(room);
                        let mut losses = all_losses(plan, network, accesses, &lit, at);
                        if let Some(taught) = &taught {
                            taught.add(&mut losses, at);
                        }
                        (Some(need), losses.middle)
                    }
                    None => (None, Vec::new()),
                })
                .collect()
        });
        if let Some(learnt) = learnt {
            evaluator.learnt_air(learnt.air());
        }
        Self { home, plan, evaluator, waves, fingerprint, kept, question, lit, taught }
    }

    /// The home.
    pub(crate) fn home(&self) -> &Home {
        self.home
    }

    /// So much of a list as is still wanted by whoever asked.
    pub(crate) fn wanted<I: IntoIterator>(&self, list: I) -> impl Iterator<Item = I::Item> {
        self.kept.wanted(list)
    }

    /// What readings taught of it.
    pub(crate) fn learnt(&self) -> Option<&Learnt> {
        self.kept.learnt.as_deref()
    }

    /// Key of the device people hold.
    pub(crate) fn client_key(&self) -> &str {
        self.question.client.key
    }

    /// The setup as a network.
    #[must_use]
    pub fn network(&self) -> &Network<'a> {
        &self.evaluator.network
    }

    /// What a room needs.
    #[must_use]
    pub fn need(&self, room: RoomId) -> Option<Need> {
        room_need(&self.home.brief, room, self.question.reach)
    }

    /// Loss from every radio a client could join to a place, in the order of the accesses.
    pub(crate) fn losses(&self, at: Point) -> Losses {
        let mut losses = all_losses(self.plan, self.network(), &self.evaluator.accesses, &self.lit, at);
        if let Some(taught) = &self.taught {
            taught.add(&mut losses, at);
        }
        losses
    }

    /// The same with how sure each is.
    pub(crate) fn losses_unsure(&self, at: Point) -> Losses {
        let mut losses = self.losses(at);
        if let Some(learnt) = self.kept.learnt.as_deref() {
            losses.unsure = (0..self.lit.len()).map(|access| self.unsure_part(learnt, access, at)).collect();
        }
        losses
    }

    /// What is left of how far the link of an access to a place is unsure, 1 to 0. It is kept: while one device is dragged, the links
    /// of the others stay as they are.
    fn unsure_part(&self, learnt: &Learnt, access: usize, at: Point) -> f64 {
        let path = self.path(access, at);
        let work = || learnt.unsure_part(&path, &evidence::leans(self, access, self.client_key(), &path));
        let own = &self.evaluator.accesses[access];
        let mut hasher = DefaultHasher::new();
        (self.fingerprint, learnt.fingerprint, self.waves.doors as u8, self.client_key()).hash(&mut hasher);
        (path.device, path.band).hash(&mut hasher);
        hash_sender(&self.network().nodes[own.node], &mut hasher);
        [own.block.centre.get(), at.x, at.y, at.z].iter().for_each(|number| number.to_bits().hash(&mut hasher));
        self.kept.unsure.0.get_or_make(hasher.finish(), |_| 1, work)
    }

    /// One standard deviation of how far the signal that serves at a place may be off; none where nothing serves.
    #[must_use]
    pub fn sure(&self, at: Point) -> Option<Db> {
        let losses = self.losses(at).middle;
        let (index, _) = self.evaluator.join(&losses)?;
        let unsure = |learnt| self.unsure_part(learnt, index, at);
        (index < self.lit.len()).then(|| doubt::of_signal(losses[index]) * self.learnt().map_or(1.0, unsure))
    }

    /// The signal of an access at a place, and one standard deviation of how far that may be off.
    #[must_use]
    pub fn signal(&self, access: usize, at: Point) -> (Dbm, Db) {
        let losses = self.losses_unsure(at);
        let loss = losses.middle[access];
        let unsure = losses.unsure.get(access).copied().unwrap_or(1.0);
        (self.evaluator.accesses[access].table.at(loss).rssi, doubt::of_signal(loss) * unsure)
    }

    /// The link of an access to a place.
    pub(crate) fn path(&self, access: usize, to: Point) -> Path {
        let access = &self.evaluator.accesses[access];
        let node = &self.network().nodes[access.node];
        Path { device: node.id, band: access.band, from: node.at, to }
    }

    pub(crate) fn seat(&self, room: Option<RoomId>) -> usize {
        room.and_then(|id| self.plan.rooms.iter().position(|room| room.id == id)).unwrap_or(self.plan.rooms.len())
    }

    /// What a client gets at a place, seen from the room it belongs to.
    #[must_use]
    pub fn at(&self, at: Point, room: Option<RoomId>) -> Prediction {
        self.at_shadowed(at, room, Db::new(0.0))
    }

    /// The same, where this place is shadowed by so much more than the model says.
    #[must_use]
    pub fn at_shadowed(&self, at: Point, room: Option<RoomId>, shadow: Db) -> Prediction {
        self.evaluator.at(&self.losses_unsure(at), self.seat(room), shadow)
    }

    /// The chain to a place explained; none where nothing holds.
    #[must_use]
    pub fn chain(&self, at: Point, room: Option<RoomId>) -> Option<Chain> {
        let losses = self.losses_unsure(at);
        let (index, _) = self.evaluator.join(&losses.middle)?;
        let (access, loss) = (&self.evaluator.accesses[index], losses.middle[index]);
        let sight = Sight::between(self.plan, self.network().nodes[access.node].at, at);
        let mut chain = self.network().chain(&Place {
            access,
            ideal: &access.ideal(&self.kept.tables),
            plan: self.plan,
            sight: &sight,
            loss,
            client: self.question.client,
            others: self.evaluator.others(self.seat(room)),
            air_part: self.evaluator.air_part(index),
        });
        let mut hops = access.hops.iter().filter(|hop| self.network().nodes[**hop].uplink.is_some());
        for link in &mut chain.links {
            link.likely_down_mbps = match link.kind {
                LinkKind::Cable | LinkKind::Coax | LinkKind::PowerLine | LinkKind::RadioHop => {
                    hops.next().map(|hop| self.evaluator.hop_range(*hop, Direction::Down))
                }
                LinkKind::Air => Some(self.evaluator.air_range(&losses, index, Direction::Down)),
                _ => None,
            };
        }
        Some(chain)
    }

    /// What the path to a place leans on, by the radio that serves there; none where nothing holds.
    #[must_use]
    pub fn leans(&self, at: Point) -> Option<Vec<Lean>> {
        let (index, _) = self.evaluator.join(&self.losses(at).middle)?;
        (index < self.lit.len()).then(|| self.leans_by(index, at))
    }

    /// What the path from an access to a place leans on; nothing where it is no radio.
    #[must_use]
    pub fn leans_by(&self, access: usize, at: Point) -> Vec<Lean> {
        let Some(lit) = self.lit.get(access) else { return Vec::new() };
        let node = &self.network().nodes[self.evaluator.accesses[access].node];
        let sight = Sight::between(self.plan, node.at, at);
        let gain = Pattern::new(&node.aerial).beyond_counted(node.at, at);
        lit.leans(&sight, &self.plan.surfaces.view(&at), gain)
    }
}

/// Loss from every access to a place.
fn all_losses(plan: &Plan, network: &Network<'_>, accesses: &[Access], lit: &[Lit<'_>], at: Point) -> Losses {
    let view = plan.surfaces.view(&at);
    let mut sight = Sight::between(plan, at, at);
    let mut last = None;
    let mut losses = Losses::default();
    let (radios, ports) = accesses.split_at(lit.len());
    for (access, lit) in radios.iter().zip(lit) {
        let node = &network.nodes[access.node];
        let gain = match last {
            Some((index, gain)) if index == access.node => gain,
            _ => {
                sight.set_between(plan, node.at, at);
                Pattern::new(&node.aerial).beyond_counted(node.at, at)
            }
        };
        last = Some((access.node, gain));
        losses.middle.push(lit.loss(&sight, &view, gain));
        for (way, loss) in lit.losses_each(&sight, &view, gain).into_iter().enumerate() {
            if losses.each.len() <= way {
                losses.each.push(Vec::with_capacity(accesses.len()));
            }
            losses.each[way].push(loss);
        }
    }
    for plugged in ports.iter().filter_map(|access| access.plugged(network, plan, at)) {
        losses.middle.push(plugged);
        losses.each.iter_mut().for_each(|way| way.push(plugged));
    }
    losses
}
