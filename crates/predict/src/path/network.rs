//! A setup resolved: devices with their kit, radios on their channels, hops with what they carry.

use std::sync::Arc;

use busy_hen_catalogue::phy::RadioEnd;
use busy_hen_catalogue::spectrum::{Block, region};
use busy_hen_catalogue::{Catalogue, Client};
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{
    AccessLine, Band, Device, DeviceId, Home, LengthUnit, Mode, Neighbour, Setup, Situation, Steering, TestKind, Via,
};
use busy_hen_radio::airtime::neighbours::Turn;
use busy_hen_radio::airtime::{Air, LinkTable};
use busy_hen_radio::propagation::PropagationModel;
use busy_hen_radio::propagation::aerial::Pattern;
use busy_hen_units::{Db, MbitPerSec, Megahertz};

use super::demand::Others;
use super::direction::Direction;
use super::ethernet::ethernet_goodput;
use super::flow::Flow;
use super::hop::{Hop, HopKind, Medium};
use super::hops::{BetweenDevices, Hopping, wired};
use super::line::{LineCap, held};
use super::nodes::Node;
use super::tables::LinkTables;

/// What a plain repeater loses besides the time it repeats in (engineering estimate).
const REPEATER_FACTOR: f64 = 0.9;

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
    /// Radio and client as able as each other: what a better client would get.
    able: (RadioEnd, RadioEnd),
    /// What neighbours make of the channel.
    pub air: Arc<Air>,
    /// Indices of the devices whose uplinks lead from the router to this device, nearest the router first.
    pub hops: Vec<usize>,
    /// Speed of the link where it is no radio but a port that a client plugs into.
    pub port: Option<MbitPerSec>,
}

/// Loss to a client that is plugged in, and to one that is not.
const PLUGGED: (Db, Db) = (Db::new(0.0), Db::new(400.0));

impl Access {
    /// What the radio would carry to a client as able as itself.
    #[must_use]
    pub fn ideal(&self, tables: &LinkTables) -> Arc<LinkTable> {
        if self.port.is_some() {
            return Arc::clone(&self.table);
        }
        tables.get(self.band, &self.able.0, &self.able.1, self.block.width)
    }

    /// Loss to a place, where this is a port: a patch cable reaches all of the room that the device stands in; none for a radio.
    #[must_use]
    pub fn plugged(&self, network: &Network<'_>, plan: &Plan, at: Point) -> Option<Db> {
        self.port?;
        let device = network.nodes[self.node].at;
        let beside = plan.rooms.iter().any(|room| plan.holds(room, &device) && plan.holds(room, &at));
        Some(if beside { PLUGGED.0 } else { PLUGGED.1 })
    }
}

/// A setup as a network, with the line behind it.
#[derive(Debug, Clone)]
pub struct Network<'a> {
    /// Devices in the order of the setup.
    pub nodes: Vec<Node>,
    /// Index of the device at the line; none in an empty setup.
    pub root: Option<usize>,
    /// Plan's download and upload as they arrive; none when no plan is on record for the day.
    pub plan: Option<(MbitPerSec, MbitPerSec)>,
    /// The same as it is on record, whatever was measured.
    sold: Option<(MbitPerSec, MbitPerSec)>,
    /// What was measured to arrive, where that is less, in words.
    pub line_told: Vec<String>,
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
    pub neighbours: &'a [Neighbour],
    /// Whether doors that nobody drew stand between rooms: ways through the house are then known less well.
    pub guessed: bool,
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
    /// Neighbours' networks taking turns on our channels, or sending noise into them.
    Neighbours,
    /// The air from the serving device to the client.
    Air,
    /// The client device.
    Device,
}

/// Links of a path that take turns, since their channels overlap, directly or by way of each other.
#[derive(Debug, Clone, Default)]
pub struct TurnGroup {
    /// The spectrum they use together.
    pub blocks: Vec<Block>,
    /// Devices whose radio hops are among them.
    pub hops: Vec<usize>,
    /// Whether the last link, to the client, is among them.
    pub with_client: bool,
    /// Neighbours that take turns on any of it.
    pub turns: Vec<Turn>,
    /// Sum of 1/goodput of its hops, s/Mb.
    pub inverse: f64,
    repeats: bool,
}

impl TurnGroup {
    fn join(&mut self, other: Self) {
        self.blocks.extend(other.blocks);
        self.hops.extend(other.hops);
        self.with_client |= other.with_client;
        self.inverse += other.inverse;
        for turn in other.turns {
            if self.turns.iter().all(|own| own.neighbour != turn.neighbour) {
                self.turns.push(turn);
            }
        }
        self.repeats |= other.repeats;
    }

    fn overlaps(&self, other: &Self) -> bool {
        self.blocks.iter().any(|own| other.blocks.iter().any(|block| own.overlaps(block)))
    }

    /// Links that take turns in it.
    #[must_use]
    pub fn links(&self) -> usize {
        self.hops.len() + usize::from(self.with_client)
    }

    /// Part of its airtime that is ours, times what repeating leaves of it.
    #[must_use]
    pub fn airtime(&self, others: &Others<'_>, neighbours_mended: bool) -> f64 {
        let turns = if neighbours_mended { &[][..] } else { &self.turns };
        // A repeat on a channel that other links use too costs more than the turns it takes.
        let kept = if self.repeats && self.links() > 1 { REPEATER_FACTOR } else { 1.0 };
        others.airtime_left(&self.blocks, turns) * kept
    }
}

/// Loss between two devices, with their aerials and what they stand in.
#[must_use]
pub fn loss_between(waves: &PropagationModel<'_>, upstream: &Node, own: &Node, frequency: Megahertz) -> Db {
    let (here, there) = (Pattern::new(&upstream.aerial), Pattern::new(&own.aerial));
    waves.at(frequency).between((upstream.at, &here), (own.at, &there))
        + upstream.enclosure_loss(frequency)
        + own.enclosure_loss(frequency)
}

impl<'a> Network<'a> {
    /// The most that can come through to anything in the home, whatever was measured: the plan's, or that of the router's port.
    #[must_use]
    pub fn ceiling(&self, direction: Direction) -> MbitPerSec {
        let port = self.port().map_or(MbitPerSec::new(f64::INFINITY), ethernet_goodput);
        let sold = self.sold.filter(|_| self.reach.is_internet());
        sold.map_or(port, |(down, up)| port.min(if direction == Direction::Down { down } else { up }))
    }

    /// Lowers the plan to what its line was measured to give.
    pub fn hold_line(&mut self, home: &Home, caps: &[LineCap], day: jiff::civil::Date, situation: Situation) {
        let Some((plan, (down, up))) = home.brief.plan_of(self.reach, day).zip(self.plan) else { return };
        let of = |direction| held(caps, home, (plan, self.reach), situation, direction);
        let (of_down, of_up) = (of(Direction::Down), of(Direction::Up));
        let least = |arrives: MbitPerSec, own: &Option<(MbitPerSec, String)>| own.as_ref().map_or(arrives, |own| own.0);
        self.plan = Some((least(down, &of_down), least(up, &of_up)));
        self.line_told = [of_down, of_up].into_iter().flatten().map(|own| own.1).collect();
    }

    /// Resolves a setup in the geometry of its home.
    ///
    /// A radio that carries an uplink works on the channel of the device upstream. A device whose kit or level is unknown is left
    /// out; `check` refuses such a home before that.
    #[must_use]
    pub fn new(
        home: &'a Home,
        setup: &Setup,
        waves: &PropagationModel<'_>,
        day: jiff::civil::Date,
        reach: TestKind,
        tables: &LinkTables,
    ) -> Self {
        let between = |nodes: &[Node], (upstream, own): (usize, usize), frequency| {
            loss_between(waves, &nodes[upstream], &nodes[own], frequency)
        };
        Self::over_losses(home, setup, waves.plan, (day, reach), &between, tables)
    }

    /// The same where the losses between devices are known already: nothing of the house is looked at but where devices stand.
    #[must_use]
    pub fn over_losses(
        home: &'a Home,
        setup: &Setup,
        plan: &Plan,
        (day, reach): (jiff::civil::Date, TestKind),
        losses: BetweenDevices<'_>,
        tables: &LinkTables,
    ) -> Self {
        let region = region::find(&home.region);
        let catalogue = Catalogue::of(home);
        let placed = |device: &Device| Node::new(device, plan.place(&device.at)?, &catalogue, region);
        let mut nodes: Vec<Node> = setup.devices.iter().filter_map(placed).collect();
        let index = |id: DeviceId, nodes: &[Node]| nodes.iter().position(|node| node.id == id);
        for device in from_the_line(setup) {
            let (Some(uplink), Some(own)) = (&device.uplink, index(device.id, &nodes)) else { continue };
            let Some(to) = index(uplink.to, &nodes) else { continue };
            let hopping = Hopping { nodes: &nodes, own, to, region, losses, tables, neighbours: &home.air };
            let ((kind, end), follows) = match &uplink.via {
                Via::Radio { radio } => (hopping.by_radio(*radio), Some(*radio)),
                Via::BestRadio => hopping.by_best_radio(),
                wire => match wired(&nodes[own].kit, &nodes[to].kit, wire) {
                    Some(kind) => ((kind, None), None),
                    None => continue,
                },
            };
            if let (Some(end), Some(index)) = (end, follows)
                && let Some(radio) = nodes[own].radios.get_mut(index)
            {
                *radio = end;
            }
            nodes[own].uplink = Some(Hop { to, kind });
        }
        let root = setup.root();
        let in_force = home.brief.plan_of(reach, day);
        Self {
            root: root.and_then(|device| index(device.id, &nodes)),
            nodes,
            plan: in_force.map(busy_hen_home::Plan::gives),
            sold: in_force.map(busy_hen_home::Plan::gives),
            line_told: Vec::new(),
            line: in_force.map_or(AccessLine::Fibre, |plan| plan.line),
            reach,
            units: home.units,
            steering: setup.steering,
            managed_queue: root.is_some_and(|device| device.managed_queue),
            neighbours: &home.air,
            guessed: plan.guesses().len() > 1,
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
                    short_aggregate: radio.end.short_aggregate,
                    ..end
                };
                list.push(Access {
                    node: node_index,
                    radio: radio_index,
                    band,
                    block: radio.block,
                    table: tables.get(band, &radio.end, &end, radio.block.width),
                    able: (radio.end, able),
                    air: tables.air(&radio.block, self.neighbours),
                    hops: self.hops_to(node_index),
                    port: None,
                });
            }
        }
        if let Some(port) = client.port_mbps {
            list.extend((0..self.nodes.len()).filter_map(|node| self.port_of(node, port)));
        }
        list
    }

    /// The port of a device that a client of this port speed plugs into; none where it has none.
    fn port_of(&self, node: usize, client: MbitPerSec) -> Option<Access> {
        let own = self.nodes[node].kit.lan_port_mbps;
        let (speed, no_air) = (own.min(client), Megahertz::default());
        let table = LinkTable::of_cable(ethernet_goodput(speed));
        let end = table.end();
        (own.get() > 0.0).then(|| Access {
            node,
            radio: usize::MAX,
            band: Band::Ghz2_4,
            block: Block { band: Band::Ghz2_4, centre_channel: 0, centre: no_air, width: no_air },
            table: Arc::new(table),
            able: (end, end),
            air: Arc::default(),
            hops: self.hops_to(node),
            port: Some(speed),
        })
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

    /// What a hop carries in a direction when its loss is `more` than predicted and these parts are mended.
    #[must_use]
    pub fn hop_goodput(&self, node: usize, direction: Direction, more: Db, mended: &[Part]) -> MbitPerSec {
        let is_mended = mended.contains(&Part::Hop(node));
        match self.nodes[node].uplink.as_ref().map(|hop| &hop.kind) {
            Some(HopKind::Wired { goodput, .. }) if !is_mended => *goodput,
            Some(HopKind::Radio { table, .. }) if is_mended => direction.of(&table.ceiling()),
            Some(HopKind::Radio { table, loss, air, .. }) => {
                let quiet = mended.contains(&Part::Neighbours);
                direction.of(&if quiet { table.at(*loss + more) } else { air.carried(table, *loss + more) })
            }
            Some(HopKind::Broken(_)) if !is_mended => MbitPerSec::default(),
            _ => MbitPerSec::new(f64::INFINITY),
        }
    }

    /// The links of a path that take turns with each other, that of the client first; `more` says by how much the hop of each device
    /// loses more than predicted.
    #[must_use]
    pub fn turn_groups(
        &self,
        access: &Access,
        direction: Direction,
        more: &dyn Fn(usize) -> Db,
        mended: &[Part],
    ) -> Vec<TurnGroup> {
        let client = TurnGroup {
            blocks: vec![access.block],
            with_client: true,
            turns: access.air.turns.clone(),
            ..TurnGroup::default()
        };
        let mut groups = vec![client];
        for hop in &access.hops {
            let Some(HopKind::Radio { block, air, .. }) = self.nodes[*hop].uplink.as_ref().map(|hop| &hop.kind) else {
                continue;
            };
            let mut group = TurnGroup {
                blocks: vec![*block],
                hops: vec![*hop],
                with_client: false,
                turns: air.turns.clone(),
                inverse: 1.0 / self.hop_goodput(*hop, direction, more(*hop), mended).get(),
                repeats: self.nodes[*hop].mode == Mode::Repeater,
            };
            if mended.contains(&Part::Sharing) {
                groups.push(group);
                continue;
            }
            // Whatever overlaps the new one, directly or by way of it, becomes one group; that of the client stays the first.
            while let Some(index) = groups.iter().position(|other| other.overlaps(&group)) {
                let mut first = groups.remove(index);
                first.join(group);
                group = first;
            }
            let place = if group.with_client { 0 } else { groups.len() };
            groups.insert(place, group);
        }
        groups
    }

    /// Everything of a path but its last link, with the given parts mended.
    #[must_use]
    pub fn flow(&self, access: &Access, direction: Direction, others: &Others<'_>, mended: &[Part]) -> Flow {
        self.flow_off(access, direction, &as_predicted, others, mended)
    }

    /// The same when the hop of each device loses so much more than predicted.
    #[must_use]
    pub fn flow_off(
        &self,
        access: &Access,
        direction: Direction,
        more: &dyn Fn(usize) -> Db,
        others: &Others<'_>,
        mended: &[Part],
    ) -> Flow {
        let mut cap = self.fixed_cap(direction, others, mended);
        // Every bit takes its turn on the mains once for each pair that it goes over.
        let mut mains = 0.0;
        for hop in &access.hops {
            match self.nodes[*hop].uplink.as_ref().map(|hop| &hop.kind) {
                Some(HopKind::Radio { .. }) => {}
                Some(HopKind::Wired { medium: Medium::PowerLine { .. }, goodput, .. })
                    if !mended.contains(&Part::Hop(*hop)) =>
                {
                    mains += 1.0 / goodput.get();
                }
                Some(HopKind::Wired { medium, goodput, .. }) if !mended.contains(&Part::Hop(*hop)) => {
                    cap = cap.min(others.hop_left(*hop, *medium, direction, *goodput));
                }
                _ => cap = cap.min(self.hop_goodput(*hop, direction, more(*hop), mended)),
            }
        }
        if mains > 0.0 {
            cap = cap.min(MbitPerSec::new(others.mains_left() / mains));
        }
        let groups = self.turn_groups(access, direction, more, mended);
        let quiet = mended.contains(&Part::Neighbours);
        for group in &groups[1..] {
            cap = cap.min(MbitPerSec::new(group.airtime(others, quiet) / group.inverse));
        }
        Flow { cap, shared_inverse: groups[0].inverse, airtime: groups[0].airtime(others, quiet) }
    }

    /// Narrowest of what every path goes through: plan and ports.
    fn fixed_cap(&self, direction: Direction, others: &Others<'_>, mended: &[Part]) -> MbitPerSec {
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
        let kit = &self.nodes.get(self.root?)?.kit;
        Some(if self.reach.is_internet() { kit.uplink_port_mbps } else { kit.lan_port_mbps })
    }

    /// The plan in a direction, when the test reaches beyond the line and a plan is on record.
    #[must_use]
    pub fn plan_cap(&self, direction: Direction) -> Option<MbitPerSec> {
        let (down, up) = self.plan.filter(|_| self.reach.is_internet())?;
        Some(if direction == Direction::Down { down } else { up })
    }
}

/// Every hop loses what is predicted.
#[must_use]
pub fn as_predicted(_: usize) -> Db {
    Db::new(0.0)
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
