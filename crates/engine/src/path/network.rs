//! A setup resolved: devices with their kit, radios on their channels, hops with what they carry.

use std::sync::Arc;

use busy_hen_home::{AccessLine, Band, Device, DeviceId, Home, LengthUnit, Mode, Setup, TestKind, Via};
use busy_hen_units::{Db, Dbm, MbitPerSec, Metres};

use super::ethernet::{cable_name, cable_rate, ethernet_goodput};
use super::flow::Flow;
use super::tables::LinkTables;
use crate::airtime::airtime_share;
use crate::catalogue::{Client, Kit, kit};
use crate::geometry::{Plan, Point, Sight};
use crate::phy::{Link, LinkTable, RadioEnd};
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
    /// Its radios, as they really work.
    pub radios: Vec<NodeRadio>,
    /// Its hop towards the router; none for the device at the line.
    pub uplink: Option<Hop>,
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
    /// A cable, with what the narrowest of its ports and the cable let through, and which that is.
    Wired {
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
}

impl Others {
    /// Part of the airtime of these channels that is left for one more.
    #[must_use]
    pub fn airtime_left(&self, blocks: &[Block]) -> f64 {
        let parts: Vec<f64> = self
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
        airtime_share(&parts)
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
        plan: &Plan,
        day: jiff::civil::Date,
        reach: TestKind,
        tables: &LinkTables,
    ) -> Self {
        let region = region::find(&home.region);
        let mut nodes: Vec<Node> = setup.devices.iter().filter_map(|device| node(device, plan, region)).collect();
        let index = |id: DeviceId, nodes: &[Node]| nodes.iter().position(|node| node.id == id);
        for device in from_the_line(setup) {
            let (Some(uplink), Some(own)) = (&device.uplink, index(device.id, &nodes)) else { continue };
            let Some(to) = index(uplink.to, &nodes) else { continue };
            let kind = match &uplink.via {
                Via::Cable { class } => wired(nodes[own].kit, nodes[to].kit, *class),
                Via::Radio { radio } => {
                    let (kind, follows) = radio_hop(&nodes, own, to, *radio, plan, region, tables);
                    if let Some(radio) = nodes[own].radios.get_mut(*radio)
                        && let Some(end) = follows
                    {
                        *radio = end;
                    }
                    kind
                }
            };
            nodes[own].uplink = Some(Hop { to, kind });
        }
        let root = setup.root().and_then(|device| index(device.id, &nodes));
        let in_force = home.brief.plan_on(day);
        Self {
            nodes,
            root,
            plan: in_force.map(|plan| (plan.down_mbps, plan.up_mbps)),
            line: in_force.map_or(AccessLine::Fibre, |plan| plan.line),
            reach,
            units: home.units,
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
            Some(HopKind::Radio { table, loss, .. }) => {
                let link = if mended { table.ceiling() } else { table.at(*loss + more) };
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
        let mut groups: Vec<Group> = vec![Group { blocks: vec![access.block], inverse: 0.0, repeats: false }];
        for hop in &access.hops {
            let goodput = self.hop_goodput(*hop, direction, more, mended.contains(&Part::Hop(*hop)));
            let Some(Hop { kind: HopKind::Radio { block, .. }, .. }) = &self.nodes[*hop].uplink else {
                cap = cap.min(goodput);
                continue;
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
                None => groups.push(Group { blocks: vec![*block], inverse: 1.0 / goodput.get(), repeats: false }),
            }
        }
        let airtime =
            |group: &Group| others.airtime_left(&group.blocks) * if group.repeats { REPEATER_FACTOR } else { 1.0 };
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

struct Group {
    blocks: Vec<Block>,
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
                end: radio_end(able.generation, able.streams, &block, region),
            })
        })
        .collect();
    Some(Node {
        id: device.id,
        name: device.name.clone(),
        mode: device.mode,
        kit,
        at: plan.place(&device.at)?,
        radios,
        uplink: None,
    })
}

/// A node's end of a link on a block: power by its kind, limited by the region.
fn radio_end(generation: crate::phy::Generation, streams: u8, block: &Block, region: Option<&Region>) -> RadioEnd {
    let limit = region.and_then(|region| region.eirp_limit(block));
    let own = kit::node_eirp(block.band);
    RadioEnd {
        generation,
        streams,
        max_width: block.width,
        eirp: limit.map_or(own, |limit: Dbm| own.min(limit)),
        gain: Db::new(2.0),
        body: Db::new(0.0),
        noise_figure: Db::new(6.0),
    }
}

fn wired(own: &Kit, upstream: &Kit, class: busy_hen_home::CableClass) -> HopKind {
    let parts = [
        (own.uplink_port_mbps, "its own port".to_owned()),
        (upstream.lan_port_mbps, "the port upstream".to_owned()),
        (cable_rate(class), format!("{} cable", cable_name(class))),
    ];
    let [first, rest @ ..] = parts;
    let (rate, narrowest) = rest.into_iter().fold(first, |best, part| if part.0 < best.0 { part } else { best });
    HopKind::Wired { goodput: ethernet_goodput(rate), narrowest }
}

/// A radio hop and, when it works, how the device's own radio then works: on the channel upstream.
fn radio_hop(
    nodes: &[Node],
    own: usize,
    to: usize,
    radio: usize,
    plan: &Plan,
    region: Option<&Region>,
    tables: &LinkTables,
) -> (HopKind, Option<NodeRadio>) {
    let (node, upstream) = (&nodes[own], &nodes[to]);
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
    let follows = NodeRadio {
        block: theirs.block,
        end: RadioEnd { max_width: width, ..radio_end(able.generation, able.streams, &theirs.block, region) },
        ..mine.clone()
    };
    let sight = Sight::between(plan, upstream.at, node.at);
    let table = tables.get(band, &theirs.end, &follows.end, width);
    let kind = HopKind::Radio {
        block: theirs.block,
        loss: sight.loss(theirs.block.centre),
        table,
        shared: mine.serves || theirs.serves,
        distance: sight.distance,
        between: sight.in_words(),
    };
    (kind, Some(follows))
}
