//! The chain explained: every link with what it carries and why, the limiting link, and what mending each would give.

use busy_hen_home::{AccessLine, LengthUnit, TestKind};
use busy_hen_units::{Db, MbitPerSec, Metres};
use serde::Serialize;
use utoipa::ToSchema;

use super::ethernet::ethernet_goodput;
use super::network::{Access, Direction, HopKind, Medium, Network, Others, Part};
use crate::airtime::Air;
use crate::catalogue::Client;
use crate::geometry::Plan;
use crate::propagation::Sight;

/// A gain smaller than this part of what arrives is no gain: the link does not limit.
const WORTH_NAMING: f64 = 0.005;

/// Kind of link in a chain.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum LinkKind {
    /// The internet plan.
    Plan,
    /// The router's port.
    Port,
    /// A cable hop.
    Cable,
    /// A pair of coax adapters.
    Coax,
    /// A pair of power-line adapters.
    PowerLine,
    /// A radio hop between devices.
    RadioHop,
    /// Hops taking turns on one channel.
    Sharing,
    /// Neighbours' networks on our channels.
    Neighbours,
    /// The air to the client.
    Air,
    /// The client device.
    Device,
}

/// One link of a chain.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct ChainLink {
    /// What it is.
    pub kind: LinkKind,
    /// Name of the link.
    pub label: String,
    /// Why it carries that much.
    pub detail: String,
    /// What it carries towards the client; none when nothing is known to limit it.
    pub down_mbps: Option<MbitPerSec>,
    /// What it carries from the client; none when nothing is known to limit it.
    pub up_mbps: Option<MbitPerSec>,
    /// What would arrive if this link alone were mended.
    pub mended_down_mbps: MbitPerSec,
}

/// The chain of links from the line to a client at a place.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Chain {
    /// Links from the line to the client.
    pub links: Vec<ChainLink>,
    /// What arrives.
    pub arrives_down_mbps: MbitPerSec,
    /// What gets out.
    pub arrives_up_mbps: MbitPerSec,
    /// Index of the link that limits.
    pub limiting: Option<usize>,
    /// Index of the link that would limit next if that one were mended.
    pub runner_up: Option<usize>,
    /// What would then arrive.
    pub mended_down_mbps: Option<MbitPerSec>,
    /// The limiting link and what is gained by mending it, in one sentence.
    pub in_words: String,
}

/// Where a client stands and what carries it.
pub struct Place<'a> {
    /// The radio it is on.
    pub access: &'a Access,
    /// The house.
    pub plan: &'a Plan,
    /// The line from that radio to it.
    pub sight: &'a Sight,
    /// Loss along it.
    pub loss: Db,
    /// The client.
    pub client: &'a Client,
    /// What others take meanwhile.
    pub others: &'a Others,
}

impl Network {
    /// What arrives at a place with the given parts mended.
    #[must_use]
    pub fn arrives(&self, place: &Place<'_>, direction: Direction, mended: &[Part]) -> MbitPerSec {
        let table = if mended.contains(&Part::Device) { &place.access.ideal } else { &place.access.table };
        let quiet = Air::default();
        let air = if mended.contains(&Part::Neighbours) { &quiet } else { &place.access.air };
        let link = if mended.contains(&Part::Air) { table.ceiling() } else { air.carried(table, place.loss) };
        self.flow(place.access, direction, Db::new(0.0), place.others, mended).arrives(direction.of(&link))
    }

    /// Explains the chain to a place.
    #[must_use]
    pub fn chain(&self, place: &Place<'_>) -> Chain {
        let arrives = self.arrives(place, Direction::Down, &[]);
        let mut parts = Vec::new();
        let mut links = Vec::new();
        for (part, mut link) in self.links(place) {
            link.mended_down_mbps = self.arrives(place, Direction::Down, &[part]);
            parts.push(part);
            links.push(link);
        }
        let gains: Vec<MbitPerSec> = links.iter().map(|link| link.mended_down_mbps).collect();
        let limiting = best_gain(&links, &gains, arrives).or_else(|| narrowest(&links));
        let mended_down = limiting.map(|index| links[index].mended_down_mbps);
        let runner_up = limiting.and_then(|first| {
            let with = |second: &Part| self.arrives(place, Direction::Down, &[parts[first], *second]);
            let base = links[first].mended_down_mbps;
            let gains: Vec<MbitPerSec> =
                parts.iter().enumerate().map(|(i, part)| if i == first { base } else { with(part) }).collect();
            best_gain(&links, &gains, base)
        });
        let in_words = in_words(&links, limiting, runner_up, mended_down, arrives);
        Chain {
            links,
            arrives_down_mbps: arrives,
            arrives_up_mbps: self.arrives(place, Direction::Up, &[]),
            limiting,
            runner_up,
            mended_down_mbps: mended_down,
            in_words,
        }
    }

    fn links(&self, place: &Place<'_>) -> Vec<(Part, ChainLink)> {
        let mut list = Vec::new();
        let (access, none) = (place.access, Db::new(0.0));
        if let (Some(down), Some(up)) = (self.plan_cap(Direction::Down), self.plan_cap(Direction::Up)) {
            let detail = format!("{:.0} down, {:.0} up as sold, {}", down.get(), up.get(), line_name(self.line));
            list.push((Part::Plan, link(LinkKind::Plan, "plan", detail, Some(down), Some(up))));
        }
        if let Some(port) = self.port() {
            let (label, goodput) =
                (if self.reach == TestKind::Internet { "router port" } else { "test port" }, ethernet_goodput(port));
            list.push((Part::Port, link(LinkKind::Port, label, port_name(port), Some(goodput), Some(goodput))));
        }
        let mut sharing = vec![access.block];
        let mut turns = 1;
        for hop in &access.hops {
            let node = &self.nodes[*hop];
            let Some(uplink) = &node.uplink else { continue };
            let down = self.hop_goodput(*hop, Direction::Down, none, false);
            let up = self.hop_goodput(*hop, Direction::Up, none, false);
            let (kind, label, detail) = match &uplink.kind {
                HopKind::Wired { medium, narrowest, .. } => {
                    let (kind, what) = match medium {
                        Medium::Cable => (LinkKind::Cable, "cable"),
                        Medium::Coax => (LinkKind::Coax, "coax pair"),
                        Medium::PowerLine { .. } => (LinkKind::PowerLine, "power-line pair"),
                    };
                    (kind, format!("{what} to {}", node.name), format!("limited by {narrowest}"))
                }
                HopKind::Radio { block, loss, table, distance, between, .. } => {
                    if sharing.iter().any(|own| own.overlaps(block)) {
                        turns += 1;
                        sharing.push(*block);
                    }
                    let signal = table.at(*loss).rssi;
                    let detail = format!("{signal:.0}, {}, {between}", told(*distance, self.units));
                    (LinkKind::RadioHop, format!("{} hop to {}", block.band, node.name), detail)
                }
                HopKind::Broken { why } => (LinkKind::RadioHop, format!("uplink of {}", node.name), why.clone()),
            };
            list.push((Part::Hop(*hop), link(kind, &label, detail, Some(down), Some(up))));
        }
        if turns > 1 {
            let alone = |direction: Direction| {
                let mut flow = self.flow(access, direction, none, place.others, &[]);
                flow.cap = MbitPerSec::new(f64::INFINITY);
                flow.arrives(direction.of(&access.air.carried(&access.table, place.loss)))
            };
            let detail = format!("{turns} hops take turns on one channel");
            let (down, up) = (alone(Direction::Down), alone(Direction::Up));
            list.push((Part::Sharing, link(LinkKind::Sharing, "shared air", detail, Some(down), Some(up))));
        }
        let others: f64 = access.air.turns.iter().sum();
        if others > 0.0 || access.air.noisy_part > 0.0 {
            let mut flow = self.flow(access, Direction::Down, none, place.others, &[]);
            (flow.cap, flow.shared_inverse) = (MbitPerSec::new(f64::INFINITY), 0.0);
            let left = flow.arrives(access.air.carried(&access.table, place.loss).down);
            let detail = neighbours_in_words(&access.air);
            let name = format!("neighbours in {}", access.band);
            list.push((Part::Neighbours, link(LinkKind::Neighbours, &name, detail, Some(left), None)));
        }
        let air = access.table.at(place.loss);
        let node = &self.nodes[access.node];
        let between = place.sight.in_words(place.plan);
        let detail = format!("{:.0}, {}, {between}", air.rssi, told(place.sight.distance, self.units));
        let label = format!("{} air from {}", access.band, node.name);
        list.push((Part::Air, link(LinkKind::Air, &label, detail, Some(air.down), Some(air.up))));
        let most = access.table.ceiling();
        let detail = format!("most it takes from {}", node.name);
        list.push((Part::Device, link(LinkKind::Device, place.client.short, detail, Some(most.down), Some(most.up))));
        list
    }
}

fn link(
    kind: LinkKind,
    label: &str,
    detail: String,
    down_mbps: Option<MbitPerSec>,
    up_mbps: Option<MbitPerSec>,
) -> ChainLink {
    let finite = |rate: Option<MbitPerSec>| rate.filter(|rate| rate.is_finite());
    ChainLink {
        kind,
        label: label.to_owned(),
        detail,
        down_mbps: finite(down_mbps),
        up_mbps: finite(up_mbps),
        mended_down_mbps: MbitPerSec::default(),
    }
}

fn neighbours_in_words(air: &Air) -> String {
    let count = air.turns.len();
    let takes = 100.0 * air.turns.iter().sum::<f64>().min(1.0);
    let turns = match count {
        0 => None,
        1 => Some(format!("1 network takes turns, {takes:.0} % of the time")),
        _ => Some(format!("{count} networks take turns, {takes:.0} % of the time")),
    };
    let noise = (air.noisy_part > 0.0)
        .then(|| format!("noise {:.0} up for {:.0} % of the time", air.noise, 100.0 * air.noisy_part));
    turns.into_iter().chain(noise).collect::<Vec<_>>().join(", ")
}

/// The link whose mending gains most; of links that gain alike, the narrowest. None when no link alone gains anything.
fn best_gain(links: &[ChainLink], mended: &[MbitPerSec], base: MbitPerSec) -> Option<usize> {
    let most = mended.iter().map(|rate| rate.get()).fold(0.0, f64::max);
    if most <= base.get() * (1.0 + WORTH_NAMING) + 1e-6 {
        return None;
    }
    let width = |index: &usize| links[*index].down_mbps.map_or(f64::INFINITY, MbitPerSec::get);
    (0..links.len())
        .filter(|index| mended[*index].get() >= most * (1.0 - WORTH_NAMING))
        .min_by(|a, b| width(a).total_cmp(&width(b)))
}

fn narrowest(links: &[ChainLink]) -> Option<usize> {
    links
        .iter()
        .enumerate()
        .filter_map(|(index, link)| link.down_mbps.map(|rate| (index, rate)))
        .min_by(|a, b| a.1.get().total_cmp(&b.1.get()))
        .map(|(index, _)| index)
}

fn in_words(
    links: &[ChainLink],
    limiting: Option<usize>,
    runner_up: Option<usize>,
    mended: Option<MbitPerSec>,
    arrives: MbitPerSec,
) -> String {
    let (Some(first), Some(mended)) = (limiting, mended) else { return String::new() };
    let name = &links[first].label;
    let gain = mended.get() / arrives.get().max(1e-9);
    if gain <= 1.0 + WORTH_NAMING {
        return format!(
            "The {name} is the narrowest, and another link holds as little: mending one alone gains nothing."
        );
    }
    match runner_up {
        Some(next) => format!(
            "If the {name} were mended, {} would arrive and the next limit would be the {}.",
            figure(mended),
            links[next].label
        ),
        None => format!("If the {name} were mended, {} would arrive.", figure(mended)),
    }
}

/// A length in the home's unit.
fn told(length: Metres, units: LengthUnit) -> String {
    match units {
        LengthUnit::Metre => format!("{length:.1}"),
        LengthUnit::Foot => format!("{:.0} ft", length.feet()),
    }
}

/// A speed with as many digits as it deserves.
#[must_use]
pub fn figure(rate: MbitPerSec) -> String {
    if rate.get() < 10.0 { format!("{rate:.1}") } else { format!("{rate:.0}") }
}

fn line_name(line: AccessLine) -> &'static str {
    match line {
        AccessLine::Fibre => "fibre",
        AccessLine::Cable => "cable-TV line",
        AccessLine::Dsl => "telephone line",
        AccessLine::Mobile => "mobile network",
        AccessLine::LowOrbit => "low-orbit satellite",
        AccessLine::Geostationary => "geostationary satellite",
    }
}

/// Speed of a port for people.
#[must_use]
pub fn port_name(rate: MbitPerSec) -> String {
    if rate.get() >= 1000.0 { format!("{} Gb/s", rate.get() / 1000.0) } else { format!("{rate:.0}") }
}
