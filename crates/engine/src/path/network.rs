//! A setup resolved: devices with their kit, radios on their channels, hops with what they carry.

use std::sync::Arc;

use busy_hen_home::{
    AccessLine, Aerial, Band, Device, DeviceId, Enclosure, Home, LengthUnit, Mode, Neighbour, Setup, Steering,
    TestKind, Via,
};
use busy_hen_units::{Db, Degrees, MbitPerSec, Megahertz, Metres};

use super::ethernet::{cable_name, cable_rate, ethernet_goodput};
use super::flow::Flow;
use super::pairs::{PowerLine, coax_goodput, coax_loss, power_line_name};
use super::tables::LinkTables;
use crate::airtime::{Air, airtime_share};
use crate::catalogue::{Client, Kit, kit, materials};
use crate::geometry::{Plan, Point};
use crate::phy::{Link, LinkTable, RadioEnd};
use crate::propagation::aerial::{COUNTED, Pattern, peak_gain};
use crate::propagation::{AllWaves, Sight};
use crate::spectrum::region::{self, Region};
use crate::spectrum::{Block, block};

/// What a plain repeater loses besides the time it repeats in (engineering estimate).
const REPEATER_FACTOR: f64 = 0.9;

/// A device of a setup with all that its catalogue entry and place imply.
#[derive(Debug, Clone)]
pub struct Node {
    /// The device.
    pub id: DeviceId,
    /// Its name.
    pub name: String,
    /// What it is set to do.
    pub mode: Mode,
    /// Its type.
    pub kit: &'static Kit,
    /// Where it stands.
    pub at: Point,
    /// Its aerials.
    pub aerial: Aerial,
    /// What it stands in.
    pub enclosure: Enclosure,
    /// Its radios, as they really work.
    pub radios: Vec<NodeRadio>,
    /// Its hop towards the router; none for the device at the line.
    pub uplink: Option<Hop>,
}

impl Node {
    /// What its enclosure takes of a signal.
    #[must_use]
    pub fn enclosure_loss(&self, frequency: Megahertz) -> Db {
        let key = match self.enclosure {
            Enclosure::Open => return Db::new(0.0),
            Enclosure::Cupboard => "door",
            Enclosure::MetalCabinet => "metal_door",
        };
        materials::find(key).map_or(Db::new(0.0), |material| material.loss(frequency, Degrees::new(0.0)))
    }
}

/// A radio of a device at work.
#[derive(Debug, Clone)]
pub struct NodeRadio {
    /// Whether it sends.
    pub on: bool,
    /// Whether clients may join it.
    pub serves: bool,
    /// The spectrum it occupies: that of the device upstream when it carries the uplink.
    pub block: Block,
    /// Its end of a link, power limited by the region, width by the channel.
    pub end: RadioEnd,
}

/// A hop from a device towards the router.
#[derive(Debug, Clone)]
pub struct Hop {
    /// Index of the device it leads to.
    pub to: usize,
    /// What carries it.
    pub kind: HopKind,
}

/// What carries a hop.
#[derive(Debug, Clone)]
pub enum HopKind {
    /// A cable or a pair of adapters.
    Wired {
        /// What it runs on.
        medium: Medium,
        /// TCP goodput.
        goodput: MbitPerSec,
        /// Which part is the narrowest, in words.
        narrowest: String,
    },
    /// The air.
    Radio {
        /// The spectrum it uses.
        block: Block,
        /// Loss between the two, as predicted.
        loss: Db,
        /// What the two radios carry at any loss.
        table: Arc<LinkTable>,
        /// What neighbours make of the channel.
        air: Air,
        /// Whether clients are served on the same radio.
        shared: bool,
        /// Distance between the two.
        distance: Metres,
        /// What lies between, in words.
        between: String,
    },
    /// Set up so that it can't work, and why.
    Broken {
        /// One sentence.
        why: String,
    },
}

/// What a wired hop runs on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Medium {
    /// Network cable: both directions at once.
    Cable,
    /// Coax adapters: both directions share it.
    Coax,
    /// Power-line adapters between good or poor outlets: both directions share it.
    PowerLine {
        /// Whether little is lost between the outlets.
        good: bool,
    },
}

impl Medium {
    /// Whether both directions share what it carries.
    #[must_use]
    pub fn is_shared(self) -> bool {
        self != Self::Cable
    }
}

/// A radio that a client of this kind may join, with the hops behind it.
#[derive(Debug, Clone)]
pub struct Access {
    /// Index of the device.
    pub node: usize,
    /// Index of the radio among the device's.
    pub radio: usize,
    /// Its band.
    pub band: Band,
    /// The spectrum it occupies.
    pub block: Block,
    /// What the radio and the client carry at any loss.
    pub table: Arc<LinkTable>,
    /// What the radio would carry to a client as able as itself.
    pub ideal: Arc<LinkTable>,
    /// What neighbours make of the channel.
    pub air: Air,
    /// Indices of the devices whose uplinks lead from the router to this device, nearest the router first.
    pub hops: Vec<usize>,
}

/// A setup as a network, with the line behind it.
#[derive(Debug, Clone)]
pub struct Network {
    /// Devices in the order of the setup.
    pub nodes: Vec<Node>,
    /// Index of the device at the line; none in an empty setup.
    pub root: Option<usize>,
    /// Plan's download and upload; none when no plan is on record for the day.
    pub plan: Option<(MbitPerSec, MbitPerSec)>,
    /// Kind of line.
    pub line: AccessLine,
    /// How far the test reaches.
    pub reach: TestKind,
    /// Unit in which lengths are told.
    pub units: LengthUnit,
    /// How clients find the device that serves them.
    pub steering: Steering,
    /// Whether the device at the line keeps its queues short.
    pub managed_queue: bool,
    /// Neighbours' networks.
    pub neighbours: Vec<Neighbour>,
}

/// Direction of a flow.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Direction {
    /// To the client.
    Down,
    /// From the client.
    Up,
}

impl Direction {
    /// What a radio link carries in this direction.
    #[must_use]
    pub fn of(self, link: &Link) -> MbitPerSec {
        match self {
            Self::Down => link.down,
            Self::Up => link.up,
        }
    }
}

/// A link of a path that one might mend, to see what would be gained.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Part {
    /// The internet plan.
    Plan,
    /// The router's port towards the line, or towards the test machine.
    Port,
    /// The hop of this device towards the router.
    Hop(usize),
    /// Hops taking turns on one channel.
    Sharing,
    /// Neighbours' networks taking turns on our channels.
    Neighbours,
    /// The air from the serving device to the client.
    Air,
    /// The client device.
    Device,
}

/// What others take of a path: their parts of each channel's airtime, and their use of the plan.
#[derive(Debug, Clone, Default)]
pub struct Others {
    /// One entry a busy room: what it takes.
    pub rooms: Vec<Demand>,
}

/// What one busy room takes.
#[derive(Debug, Clone)]
pub struct Demand {
    /// Download it wants.
    pub down: MbitPerSec,
    /// Upload it wants.
    pub up: MbitPerSec,
    /// Airtime it takes of each channel it crosses.
    pub airtime: Vec<(Block, f64)>,
    /// Devices whose uplinks it goes over.
    pub hops: Vec<usize>,
}

impl Others {
    /// Part of the airtime of these channels that is left for one more, when neighbours take turns too.
    #[must_use]
    pub fn airtime_left(&self, blocks: &[Block], neighbours: &[f64]) -> f64 {
        let mut parts: Vec<f64> = self
            .rooms
            .iter()
            .map(|room| {
                room.airtime
                    .iter()
                    .filter(|(used, _)| blocks.iter().any(|block| block.overlaps(used)))
                    .map(|(_, part)| part)
                    .sum()
            })
            .collect();
        parts.extend(neighbours);
        airtime_share(&parts)
    }

    /// What is left of a wired hop that carries this much.
    fn hop_left(&self, hop: usize, medium: Medium, direction: Direction, carries: MbitPerSec) -> MbitPerSec {
        let parts: Vec<f64> = self
            .rooms
            .iter()
            .filter(|room| room.hops.contains(&hop))
            .map(|room| match direction {
                _ if medium.is_shared() => room.down + room.up,
                Direction::Down => room.down,
                Direction::Up => room.up,
            })
            .map(|rate| rate.get() / carries.get().max(1e-6))
            .collect();
        carries * airtime_share(&parts)
    }

    fn plan_left(&self, direction: Direction, plan: MbitPerSec) -> MbitPerSec {
        let parts: Vec<f64> = self
            .rooms
            .iter()
            .map(|room| if direction == Direction::Down { room.down } else { room.up })
            .map(|rate| rate.get() / plan.get())
            .collect();
        plan * airtime_share(&parts)
    }
}

impl Network {
    /// Resolves a setup in the geometry of its home.
    ///
    /// A radio that carries an uplink works on the channel of the device upstream. A device whose kit or level is unknown is left
    /// out; `check` refuses such a home before that.
    #[must_use]
    pub fn new(
        home: &Home,
        setup: &Setup,
        waves: &AllWaves<'_>,
        day: jiff::civil::Date,
        reach: TestKind,
        tables: &LinkTables,
    ) -> Self {
        let region = region::find(&home.region);
        let mut nodes: Vec<Node> = setup.devices.iter().filter_map(|device| node(device, waves.plan, region)).collect();
        let index = |id: DeviceId, nodes: &[Node]| nodes.iter().position(|node| node.id == id);
        for device in from_the_line(setup) {
            let (Some(uplink), Some(own)) = (&device.uplink, index(device.id, &nodes)) else { continue };
            let Some(to) = index(uplink.to, &nodes) else { continue };
            let radio = |nodes: &[Node], radio: usize| {
                Hopping { nodes, own, to, region, waves, tables, neighbours: &home.air }.by_radio(radio)
            };
            let (kind, follows) = match &uplink.via {
                Via::Radio { radio: index } => (radio(&nodes, *index), Some(*index)),
                Via::BestRadio => {
                    let best = (0..nodes[own].radios.len())
                        .map(|index| (index, radio(&nodes, index)))
                        .max_by(|a, b| worth(&nodes[own], &a.1).total_cmp(&worth(&nodes[own], &b.1)));
                    match best {
                        Some((index, found)) => (found, Some(index)),
                        None => ((HopKind::Broken { why: format!("{} has no radio", device.name) }, None), None),
                    }
                }
                wire => ((wired(nodes[own].kit, nodes[to].kit, wire), None), None),
            };
            let (kind, end) = kind;
            if let (Some(end), Some(index)) = (end, follows)
                && let Some(radio) = nodes[own].radios.get_mut(index)
            {
                *radio = end;
            }
            nodes[own].uplink = Some(Hop { to, kind });
        }
        let root = setup.root();
        let in_force = home.brief.plan_on(day);
        Self {
            root: root.and_then(|device| index(device.id, &nodes)),
            nodes,
            plan: in_force.map(|plan| (plan.down_mbps, plan.up_mbps)),
            line: in_force.map_or(AccessLine::Fibre, |plan| plan.line),
            reach,
            units: home.units,
            steering: setup.steering,
            managed_queue: root.is_some_and(|device| device.managed_queue),
            neighbours: home.air.clone(),
        }
    }

    /// All radios that a client of this kind may join; held to one band when given.
    #[must_use]
    pub fn accesses(&self, client: &Client, only: Option<Band>, tables: &LinkTables) -> Vec<Access> {
        let mut list = Vec::new();
        for (node_index, node) in self.nodes.iter().enumerate() {
            for (radio_index, radio) in node.radios.iter().enumerate() {
                let band = radio.block.band;
                let Some(end) = client.radio(band) else { continue };
                if !radio.on || !radio.serves || only.is_some_and(|only| only != band) {
                    continue;
                }
                let able = RadioEnd {
                    generation: radio.end.generation,
                    streams: radio.end.streams,
                    max_width: radio.end.max_width,
                    ..end
                };
                list.push(Access {
                    node: node_index,
                    radio: radio_index,
                    band,
                    block: radio.block,
                    table: tables.get(band, &radio.end, &end, radio.block.width),
                    ideal: tables.get(band, &radio.end, &able, radio.block.width),
                    air: Air::on(&radio.block, &self.neighbours),
                    hops: self.hops_to(node_index),
                });
            }
        }
        list
    }

    /// Devices whose uplinks lead to this one, nearest the router first.
    fn hops_to(&self, node: usize) -> Vec<usize> {
        let mut hops = Vec::new();
        let mut at = node;
        while let Some(hop) = &self.nodes[at].uplink {
            hops.push(at);
            at = hop.to;
            if hops.len() > self.nodes.len() {
                break;
            }
        }
        hops.reverse();
        hops
    }

    /// What a hop carries in a direction when its loss is `more` than predicted; its ceiling when mended.
    #[must_use]
    pub fn hop_goodput(&self, node: usize, direction: Direction, more: Db, mended: bool) -> MbitPerSec {
        match self.nodes[node].uplink.as_ref().map(|hop| &hop.kind) {
            Some(HopKind::Wired { goodput, .. }) if !mended => *goodput,
            Some(HopKind::Radio { table, loss, air, .. }) => {
                let link = if mended { table.ceiling() } else { air.carried(table, *loss + more) };
                direction.of(&link)
            }
            Some(HopKind::Broken { .. }) if !mended => MbitPerSec::default(),
            _ => MbitPerSec::new(f64::INFINITY),
        }
    }

    /// Everything of a path but its last link, with the given parts mended.
    #[must_use]
    pub fn flow(&self, access: &Access, direction: Direction, more: Db, others: &Others, mended: &[Part]) -> Flow {
        let mut cap = self.fixed_cap(direction, others, mended);
        let own = Group { blocks: vec![access.block], turns: &access.air.turns, inverse: 0.0, repeats: false };
        let mut groups = vec![own];
        for hop in &access.hops {
            let is_mended = mended.contains(&Part::Hop(*hop));
            let goodput = self.hop_goodput(*hop, direction, more, is_mended);
            let (block, air) = match self.nodes[*hop].uplink.as_ref().map(|hop| &hop.kind) {
                Some(HopKind::Radio { block, air, .. }) => (block, air),
                Some(HopKind::Wired { medium, .. }) if !is_mended => {
                    cap = cap.min(others.hop_left(*hop, *medium, direction, goodput));
                    continue;
                }
                _ => {
                    cap = cap.min(goodput);
                    continue;
                }
            };
            let shares = |group: &&mut Group| {
                !mended.contains(&Part::Sharing) && group.blocks.iter().any(|own| own.overlaps(block))
            };
            let repeats = self.nodes[*hop].mode == Mode::Repeater;
            match groups.iter_mut().find(shares) {
                Some(group) => {
                    group.blocks.push(*block);
                    group.inverse += 1.0 / goodput.get();
                    group.repeats |= repeats;
                }
                None => {
                    let inverse = 1.0 / goodput.get();
                    groups.push(Group { blocks: vec![*block], turns: &air.turns, inverse, repeats: false });
                }
            }
        }
        let airtime = |group: &Group| {
            let neighbours = if mended.contains(&Part::Neighbours) { &[][..] } else { group.turns };
            others.airtime_left(&group.blocks, neighbours) * if group.repeats { REPEATER_FACTOR } else { 1.0 }
        };
        for group in &groups[1..] {
            cap = cap.min(MbitPerSec::new(airtime(group) / group.inverse));
        }
        Flow { cap, shared_inverse: groups[0].inverse, airtime: airtime(&groups[0]) }
    }

    /// Narrowest of what every path goes through: plan and ports.
    fn fixed_cap(&self, direction: Direction, others: &Others, mended: &[Part]) -> MbitPerSec {
        let mut cap = MbitPerSec::new(f64::INFINITY);
        if !mended.contains(&Part::Port)
            && let Some(port) = self.port()
        {
            cap = cap.min(ethernet_goodput(port));
        }
        if !mended.contains(&Part::Plan)
            && let Some(plan) = self.plan_cap(direction)
        {
            cap = cap.min(others.plan_left(direction, plan));
        }
        cap
    }

    /// Link speed of the router's port that the test goes through: towards the line, or towards the wired test machine.
    #[must_use]
    pub fn port(&self) -> Option<MbitPerSec> {
        let kit = self.nodes.get(self.root?)?.kit;
        Some(if self.reach == TestKind::Internet { kit.uplink_port_mbps } else { kit.lan_port_mbps })
    }

    /// The plan in a direction, when the test reaches beyond the line and a plan is on record.
    #[must_use]
    pub fn plan_cap(&self, direction: Direction) -> Option<MbitPerSec> {
        let (down, up) = self.plan.filter(|_| self.reach == TestKind::Internet)?;
        Some(if direction == Direction::Down { down } else { up })
    }
}

/// Hops that take turns on one channel.
struct Group<'a> {
    blocks: Vec<Block>,
    /// What neighbours take of it.
    turns: &'a [f64],
    inverse: f64,
    repeats: bool,
}

/// Devices so that each comes after the one it hangs on.
fn from_the_line(setup: &Setup) -> Vec<&Device> {
    let mut ordered: Vec<&Device> = setup.devices.iter().filter(|device| device.uplink.is_none()).collect();
    let mut next = 0;
    while next < ordered.len() {
        let id = ordered[next].id;
        ordered.extend(setup.devices.iter().filter(|d| d.uplink.as_ref().is_some_and(|up| up.to == id)));
        next += 1;
        if ordered.len() > setup.devices.len() {
            break;
        }
    }
    ordered
}

fn node(device: &Device, plan: &Plan, region: Option<&Region>) -> Option<Node> {
    let kit = kit::find(&device.kit.0)?;
    let radios = device
        .radios
        .iter()
        .zip(kit.radios)
        .filter_map(|(setting, able)| {
            let block = block(able.band, setting.channel, setting.width_mhz)?;
            Some(NodeRadio {
                on: setting.on,
                serves: setting.serves,
                block,
                end: radio_end(able.generation, able.streams, &block, region, &device.aerial),
            })
        })
        .collect();
    Some(Node {
        id: device.id,
        name: device.name.clone(),
        mode: device.mode,
        kit,
        at: plan.place(&device.at)?,
        aerial: device.aerial,
        enclosure: device.enclosure,
        radios,
        uplink: None,
    })
}

/// A node's end of a link on a block: power by its kind, limited by the region.
///
/// The limit holds in the direction of greatest gain, so an aerial of more gain gets less power.
fn radio_end(
    generation: crate::phy::Generation,
    streams: u8,
    block: &Block,
    region: Option<&Region>,
    aerial: &Aerial,
) -> RadioEnd {
    let beyond = peak_gain(aerial) - COUNTED;
    let own = kit::node_eirp(block.band);
    let eirp = match region.and_then(|region| region.eirp_limit(block)) {
        Some(limit) => (own + beyond).min(limit) - beyond,
        None => own,
    };
    RadioEnd {
        generation,
        streams,
        max_width: block.width,
        eirp,
        gain: COUNTED,
        body: Db::new(0.0),
        noise_figure: Db::new(6.0),
    }
}

fn wired(own: &Kit, upstream: &Kit, via: &Via) -> HopKind {
    let ports =
        [(own.uplink_port_mbps, "its own port".to_owned()), (upstream.lan_port_mbps, "the port upstream".to_owned())];
    let port = if ports[1].0 < ports[0].0 { &ports[1] } else { &ports[0] };
    let (medium, goodput, why) = match via {
        Via::Coax { length_m, splitters, port_mbps } => {
            let loss = coax_loss(*length_m, *splitters);
            let goodput = coax_goodput(loss, *port_mbps);
            (Medium::Coax, goodput, format!("the coax pair, {loss:.0} between its sockets"))
        }
        Via::PowerLine { class, length_m, circuit, strips, noisy } => {
            let pair =
                PowerLine { class: *class, length: *length_m, circuit: *circuit, strips: *strips, noisy: *noisy };
            let why =
                format!("the power-line pair, {}, {:.0} between its outlets", power_line_name(*class), pair.loss());
            (Medium::PowerLine { good: pair.good() }, pair.goodput(), why)
        }
        Via::Cable { class } => {
            let why = format!("{} cable", cable_name(*class));
            (Medium::Cable, ethernet_goodput(cable_rate(*class)), why)
        }
        Via::Radio { .. } | Via::BestRadio => {
            return HopKind::Broken { why: "the air is no wire".to_owned() };
        }
    };
    let by_port = ethernet_goodput(port.0);
    if goodput < by_port {
        HopKind::Wired { medium, goodput, narrowest: why }
    } else {
        HopKind::Wired { medium, goodput: by_port, narrowest: port.1.clone() }
    }
}

/// What a device would pass on to a client right beside it if this hop were its uplink: by another radio, or on the same channel
/// by turns.
fn worth(node: &Node, found: &(HopKind, Option<NodeRadio>)) -> f64 {
    let HopKind::Radio { block, loss, table, air, .. } = &found.0 else { return -1.0 };
    let hop = air.carried(table, *loss).down.get();
    let elsewhere = node.radios.iter().any(|radio| radio.on && radio.serves && !radio.block.overlaps(block));
    if elsewhere { hop } else { hop / 2.0 }
}

/// A radio uplink to be worked out.
struct Hopping<'a, 'p> {
    nodes: &'a [Node],
    own: usize,
    to: usize,
    region: Option<&'a Region>,
    waves: &'a AllWaves<'p>,
    tables: &'a LinkTables,
    neighbours: &'a [Neighbour],
}

impl Hopping<'_, '_> {
    /// The hop by this radio and, when it works, how that radio then works: on the channel upstream.
    fn by_radio(&self, radio: usize) -> (HopKind, Option<NodeRadio>) {
        let (node, upstream) = (&self.nodes[self.own], &self.nodes[self.to]);
        let broken = |why: String| (HopKind::Broken { why }, None);
        let Some(mine) = node.radios.get(radio).filter(|radio| radio.on) else {
            return broken(format!("the radio of {} that should carry its uplink is off", node.name));
        };
        let band = mine.block.band;
        let candidates = upstream.radios.iter().filter(|theirs| theirs.on && theirs.block.band == band);
        let Some(theirs) = candidates.max_by_key(|theirs| (!theirs.serves, theirs.block == mine.block)) else {
            return broken(format!("{} has no {band} radio switched on for {} to hear", upstream.name, node.name));
        };
        let width = mine.end.max_width.min(theirs.end.max_width);
        let able = &node.kit.radios[radio];
        let end = radio_end(able.generation, able.streams, &theirs.block, self.region, &node.aerial);
        let follows = NodeRadio { block: theirs.block, end: RadioEnd { max_width: width, ..end }, ..mine.clone() };
        let frequency = theirs.block.centre;
        let (here, there) = (Pattern::new(&upstream.aerial), Pattern::new(&node.aerial));
        let loss = self.waves.at(frequency).between((upstream.at, &here), (node.at, &there))
            + upstream.enclosure_loss(frequency)
            + node.enclosure_loss(frequency);
        let sight = Sight::between(self.waves.plan, upstream.at, node.at);
        let kind = HopKind::Radio {
            block: theirs.block,
            loss,
            table: self.tables.get(band, &theirs.end, &follows.end, width),
            air: Air::on(&theirs.block, self.neighbours),
            shared: mine.serves || theirs.serves,
            distance: sight.distance,
            between: sight.in_words(self.waves.plan),
        };
        (kind, Some(follows))
    }
}
