//! A setup in its home, ready to be asked about any place.

use std::hash::{DefaultHasher, Hash, Hasher};

use busy_hen_catalogue::spectrum::channels::band_of;
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{Home, RoomId, Setup, Situation};
use busy_hen_radio::propagation::aerial::Pattern;
use busy_hen_radio::propagation::{PropagationModel, Sensitivity, Sight};
use busy_hen_units::{Db, Dbm};

use crate::calibration::observation::{Unknown, sensitivities_of};
use crate::calibration::{Calibration, Path};
use crate::evaluator::{Evaluator, Losses};
use crate::knowledge::Knowledge;
use crate::link_calibration::{self, LinkCalibration};
use crate::needs::{Need, busy_need, room_need};
use crate::path::chain::Place;
use crate::path::direction::Direction;
use crate::path::network::{Access, Network, loss_between};
use crate::path::{Chain, LinkKind, Node};
use crate::prediction::Prediction;
use crate::question::Question;
use crate::signals::{RadioField, hash_sender};
use crate::uncertainty;

/// A setup as a network in the house as readings have it, without a look at any room.
#[must_use]
pub fn network_of<'a>(
    home: &'a Home,
    setup: &Setup,
    plan: &Plan,
    question: &Question,
    kept: &Knowledge,
) -> Network<'a> {
    let waves = PropagationModel::keeping(plan, question.doors, &kept.houses, plan.fingerprint());
    network_over(&waves, home, setup, question, kept)
}

fn network_over<'a>(
    waves: &PropagationModel<'_>,
    home: &'a Home,
    setup: &Setup,
    question: &Question,
    kept: &Knowledge,
) -> Network<'a> {
    let learnt = kept.learnt.as_deref();
    let between = |nodes: &[Node], (upstream, own): (usize, usize), frequency| {
        let (upstream, own) = (&nodes[upstream], &nodes[own]);
        let path = Path { device: upstream.id, band: band_of(frequency), from: upstream.at, to: own.at };
        loss_between(waves, upstream, own, frequency) + link_calibration::of_hop(learnt, &path)
    };
    let mut network =
        Network::over_losses(home, setup, waves.plan, (question.day, question.reach), &between, &kept.tables);
    network.hold_line(home, &kept.line, question.day, question.situation);
    network
}

/// A setup in its home, ready to be asked about any place.
pub struct Model<'a> {
    pub(crate) home: &'a Home,
    /// The house as geometry.
    pub plan: &'a Plan,
    /// The setup as a network, under the question.
    pub evaluator: Evaluator<'a>,
    pub(crate) waves: PropagationModel<'a>,
    pub(crate) fingerprint: u64,
    pub(crate) kept: &'a Knowledge,
    pub(crate) question: Question,
    /// The house lit by each access, in their order.
    pub(crate) lit: Vec<RadioField<'a>>,
    /// What readings taught of their links.
    pub(crate) taught: Option<LinkCalibration<'a>>,
}

impl<'a> Model<'a> {
    /// Resolves a setup for a question.
    #[must_use]
    pub fn new(home: &'a Home, setup: &Setup, plan: &'a Plan, question: Question, kept: &'a Knowledge) -> Self {
        let fingerprint = plan.fingerprint();
        let waves = PropagationModel::keeping(plan, question.doors, &kept.houses, fingerprint);
        let learnt = kept.learnt.as_deref();
        let network = network_over(&waves, home, setup, &question, kept);
        let (mut lit, mut taught) = (Vec::new(), None);
        let mut evaluator = Evaluator::new(network, &question, &kept.tables, |network, accesses| {
            let radios = accesses.iter().filter(|access| access.port.is_none());
            lit = radios.map(|access| RadioField::of_access(&waves, network, access)).collect();
            taught = learnt.map(|learnt| LinkCalibration::new(learnt, network, accesses, question.client.key));
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
            evaluator.calibrate_air(learnt.air());
        }
        Self { home, plan, evaluator, waves, fingerprint, kept, question, lit, taught }
    }

    /// The home.
    #[must_use]
    pub fn home(&self) -> &Home {
        self.home
    }

    /// So much of a list as is still wanted by whoever asked.
    pub fn wanted<I: IntoIterator>(&self, list: I) -> impl Iterator<Item = I::Item> {
        self.kept.wanted(list)
    }

    /// What readings taught of it.
    #[must_use]
    pub fn learnt(&self) -> Option<&Calibration> {
        self.kept.learnt.as_deref()
    }

    /// Key of the device people hold.
    #[must_use]
    pub fn client_key(&self) -> &str {
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
    #[must_use]
    pub fn losses(&self, at: Point) -> Losses {
        let mut losses = all_losses(self.plan, self.network(), &self.evaluator.accesses, &self.lit, at);
        if let Some(taught) = &self.taught {
            taught.add(&mut losses, at);
        }
        losses
    }

    /// The same with how sure each is.
    #[must_use]
    pub fn losses_with_uncertainty(&self, at: Point) -> Losses {
        let mut losses = self.losses(at);
        if let Some(learnt) = self.kept.learnt.as_deref() {
            losses.unsure = (0..self.lit.len()).map(|access| self.uncertainty_part(learnt, access, at)).collect();
        }
        losses
    }

    /// What is left of how far the link of an access to a place is unsure, 1 to 0. It is kept: while one device is dragged, the links
    /// of the others stay as they are.
    fn uncertainty_part(&self, learnt: &Calibration, access: usize, at: Point) -> f64 {
        let path = self.path(access, at);
        let work = || learnt.uncertainty_part(&path, &self.sensitivities_of_link(access, &path));
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
        let (index, _) = self.evaluator.associate(&losses)?;
        let unsure = |learnt| self.uncertainty_part(learnt, index, at);
        (index < self.lit.len()).then(|| uncertainty::of_signal(losses[index]) * self.learnt().map_or(1.0, unsure))
    }

    /// The signal of an access at a place, and one standard deviation of how far that may be off.
    #[must_use]
    pub fn signal(&self, access: usize, at: Point) -> (Dbm, Db) {
        let losses = self.losses_with_uncertainty(at);
        let loss = losses.middle[access];
        let unsure = losses.unsure.get(access).copied().unwrap_or(1.0);
        (self.evaluator.accesses[access].table.at(loss).rssi, uncertainty::of_signal(loss) * unsure)
    }

    /// The link of an access to a place.
    #[must_use]
    pub fn path(&self, access: usize, to: Point) -> Path {
        let access = &self.evaluator.accesses[access];
        let node = &self.network().nodes[access.node];
        Path { device: node.id, band: access.band, from: node.at, to }
    }

    /// The place of a room among those that take something; one past them for none.
    #[must_use]
    pub fn seat(&self, room: Option<RoomId>) -> usize {
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
        self.evaluator.at(&self.losses_with_uncertainty(at), self.seat(room), shadow)
    }

    /// The chain to a place explained; none where nothing holds.
    #[must_use]
    pub fn chain(&self, at: Point, room: Option<RoomId>) -> Option<Chain> {
        let losses = self.losses_with_uncertainty(at);
        let (index, _) = self.evaluator.associate(&losses.middle)?;
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
    pub fn sensitivities(&self, at: Point) -> Option<Vec<Sensitivity>> {
        let (index, _) = self.evaluator.associate(&self.losses(at).middle)?;
        (index < self.lit.len()).then(|| self.sensitivities_by(index, at))
    }

    /// What the link of an access leans on, in dB for one standard deviation of each unknown.
    #[must_use]
    pub fn sensitivities_of_link(&self, access: usize, path: &Path) -> Vec<(Unknown, f64)> {
        let frequency = self.evaluator.accesses[access].block.centre;
        sensitivities_of(self.plan, frequency, self.client_key(), path, &self.sensitivities_by(access, path.to))
    }

    /// What the path from an access to a place leans on; nothing where it is no radio.
    #[must_use]
    pub fn sensitivities_by(&self, access: usize, at: Point) -> Vec<Sensitivity> {
        let Some(lit) = self.lit.get(access) else { return Vec::new() };
        let node = &self.network().nodes[self.evaluator.accesses[access].node];
        let sight = Sight::between(self.plan, node.at, at);
        let gain = Pattern::new(&node.aerial).beyond_counted(node.at, at);
        lit.sensitivities(&sight, &self.plan.surfaces.view(&at), gain)
    }
}

/// Loss from every access to a place.
fn all_losses(plan: &Plan, network: &Network<'_>, accesses: &[Access], lit: &[RadioField<'_>], at: Point) -> Losses {
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
