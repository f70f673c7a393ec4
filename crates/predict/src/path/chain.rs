//! The chain explained: every link with what it carries and why, the limiting link, and what mending each would give.

use busy_hen_catalogue::Client;
use busy_hen_floorplan::Plan;
use busy_hen_home::{AccessLine, Band, DeviceId, Range, TestKind};
use busy_hen_radio::airtime::{Air, LinkTable};
use busy_hen_radio::propagation::Sight;
use busy_hen_units::{Db, MbitPerSec};
use serde::Serialize;
use utoipa::ToSchema;

use super::demand::Others;
use super::direction::Direction;
use super::ethernet::ethernet_goodput;
use super::hop::{HopKind, Medium};
use super::network::{Access, Network, Part, as_predicted};

/// A gain smaller than this part of what arrives is no gain: the link does not limit.
const WORTH_NAMING: f64 = 0.005;
/// A link that lets through more than arrives by this ratio holds nothing back.
const CLEARLY_MORE: f64 = 1.1;

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
    /// Likely range of what it carries towards the client, 10 to 90 %; none for what is known, such as a plan or a port.
    pub likely_down_mbps: Option<Range>,
    /// The device whose uplink it is, where it is a hop.
    pub device_id: Option<DeviceId>,
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
    /// What that radio would carry to a client as able as itself.
    pub ideal: &'a LinkTable,
    /// The house.
    pub plan: &'a Plan,
    /// The line from that radio to it.
    pub sight: &'a Sight,
    /// Loss along it.
    pub loss: Db,
    /// The client.
    pub client: &'a Client,
    /// What others take meanwhile.
    pub others: Others<'a>,
    /// Part of what the air should carry that it does, as speeds taught.
    pub air_part: f64,
}

impl Network<'_> {
    /// What arrives at a place with the given parts mended.
    #[must_use]
    pub fn arrives(&self, place: &Place<'_>, direction: Direction, mended: &[Part]) -> MbitPerSec {
        let table = if mended.contains(&Part::Device) { place.ideal } else { &place.access.table };
        let quiet = Air::default();
        let air = if mended.contains(&Part::Neighbours) { &quiet } else { &place.access.air };
        let link = if mended.contains(&Part::Air) { table.ceiling() } else { air.carried(table, place.loss) };
        self.flow(place.access, direction, &place.others, mended).arrives_of(direction.of(&link), place.air_part)
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
        // What lets through clearly more than arrives doesn't limit, whatever its turns on the air would gain.
        let holds =
            |link: &ChainLink| link.down_mbps.is_none_or(|own| own.get() <= arrives.get() * CLEARLY_MORE + 1e-6);
        let narrowest = narrowest(&links);
        let limiting = best_gain(&links, &gains, arrives, &holds)
            .or_else(|| narrowest.filter(|index| holds(&links[*index])))
            .or_else(|| best_gain(&links, &gains, arrives, &|link| link.kind != LinkKind::Device))
            .or(narrowest);
        let mended_down = limiting.map(|index| links[index].mended_down_mbps);
        let runner_up = limiting.and_then(|first| {
            let with = |second: &Part| self.arrives(place, Direction::Down, &[parts[first], *second]);
            let base = links[first].mended_down_mbps;
            let gains: Vec<MbitPerSec> =
                parts.iter().enumerate().map(|(i, part)| if i == first { base } else { with(part) }).collect();
            best_gain(&links, &gains, base, &|_| true)
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
            let measured = self.line_told.join(", ");
            let detail = match self.line_told.is_empty() {
                true => format!("{:.0} down, {:.0} up as sold, {}", down.get(), up.get(), line_name(self.line)),
                false => format!("{measured}, {}", line_name(self.line)),
            };
            list.push((Part::Plan, link(LinkKind::Plan, "plan", detail, Some(down), Some(up))));
        }
        if let Some(port) = self.port() {
            let (label, goodput) =
                (if self.reach == TestKind::Internet { "router port" } else { "test port" }, ethernet_goodput(port));
            list.push((Part::Port, link(LinkKind::Port, label, port_name(port), Some(goodput), Some(goodput))));
        }
        for hop in &access.hops {
            let node = &self.nodes[*hop];
            let Some(uplink) = &node.uplink else { continue };
            let down = self.hop_goodput(*hop, Direction::Down, none, &[]);
            let up = self.hop_goodput(*hop, Direction::Up, none, &[]);
            let (kind, label, detail) = match &uplink.kind {
                HopKind::Wired { medium, narrowest, .. } => {
                    let (kind, what) = match medium {
                        Medium::Cable => (LinkKind::Cable, "cable"),
                        Medium::Coax => (LinkKind::Coax, "coax pair"),
                        Medium::PowerLine { .. } => (LinkKind::PowerLine, "power-line pair"),
                    };
                    (kind, format!("{what} to {}", node.name), format!("limited by {}", narrowest.in_words()))
                }
                HopKind::Radio { block, loss, table, .. } => {
                    let sight = Sight::between(place.plan, node.at, self.nodes[uplink.to].at);
                    let (signal, between) = (table.at(*loss).rssi, sight.in_words(place.plan));
                    let detail = format!("{signal:.0}, {}, {between}", self.units.in_words(sight.distance));
                    (LinkKind::RadioHop, format!("{} hop to {}", block.band, node.name), detail)
                }
                HopKind::Broken(why) => {
                    let why = why.in_words(&node.name, &self.nodes[uplink.to].name);
                    (LinkKind::RadioHop, format!("uplink of {}", node.name), why)
                }
            };
            let hop_link = link(kind, &label, detail, Some(down), Some(up));
            list.push((Part::Hop(*hop), ChainLink { device_id: Some(node.id), ..hop_link }));
        }
        list.extend(self.shared_air(place));
        list.extend(self.neighbours_link(place));
        let air = access.table.at(place.loss);
        let node = &self.nodes[access.node];
        if let Some(port) = access.port {
            let label = format!("patch cable from {}", node.name);
            list.push((Part::Air, link(LinkKind::Cable, &label, port_name(port), Some(air.down), Some(air.up))));
            return list;
        }
        let between = place.sight.in_words(place.plan);
        let detail = format!("{:.0}, {}, {between}", air.rssi, self.units.in_words(place.sight.distance));
        let label = format!("{} air from {}", access.band, node.name);
        let (down, up) = (air.down * place.air_part, air.up * place.air_part);
        list.push((Part::Air, link(LinkKind::Air, &label, detail, Some(down), Some(up))));
        let most = access.table.ceiling();
        let detail = format!("most it takes from {}", node.name);
        list.push((Part::Device, link(LinkKind::Device, place.client.short, detail, Some(most.down), Some(most.up))));
        list
    }

    /// Links that take turns on one channel, whether the client's or one of the backhaul's own; none when none do.
    fn shared_air(&self, place: &Place<'_>) -> Option<(Part, ChainLink)> {
        let carried = |direction: Direction| {
            let last = direction.of(&place.access.air.carried(&place.access.table, place.loss));
            self.turn_groups(place.access, direction, &as_predicted, &[])
                .iter()
                .filter(|group| group.links() > 1)
                .map(|group| {
                    let inverse = group.inverse + if group.with_client { 1.0 / last.get() } else { 0.0 };
                    let part = if group.with_client { place.air_part } else { 1.0 };
                    MbitPerSec::new(part * group.airtime(&place.others, false) / inverse)
                })
                .reduce(MbitPerSec::min)
        };
        let down = carried(Direction::Down)?;
        let groups = self.turn_groups(place.access, Direction::Down, &as_predicted, &[]);
        let shared: Vec<String> = groups
            .iter()
            .filter(|group| group.links() > 1)
            .map(|group| {
                let whose = if group.with_client { "one channel" } else { "a backhaul channel" };
                format!("{} hops take turns on {whose}", group.links())
            })
            .collect();
        let detail = shared.join(", ");
        Some((Part::Sharing, link(LinkKind::Sharing, "shared air", detail, Some(down), carried(Direction::Up))))
    }

    /// What neighbours leave of the channels on the way: the client's and those of radio hops; none when none are felt.
    fn neighbours_link(&self, place: &Place<'_>) -> Option<(Part, ChainLink)> {
        let felt = |air: &Air| !air.turns.is_empty() || air.noisy_part > 0.0;
        let share = |air: &Air| place.others.airtime_left(&[], &air.turns);
        let mut told: Vec<(Band, String, String)> = Vec::new();
        let mut left = MbitPerSec::new(f64::INFINITY);
        let access = place.access;
        if felt(&access.air) {
            let carried = access.air.carried(&access.table, place.loss).down * place.air_part;
            left = left.min(carried * share(&access.air));
            told.push((access.band, format!("at {}", access.band), neighbours_in_words(&access.air)));
        }
        for hop in &access.hops {
            let node = &self.nodes[*hop];
            let Some(HopKind::Radio { block, air, loss, table, .. }) = node.uplink.as_ref().map(|hop| &hop.kind) else {
                continue;
            };
            if felt(air) {
                left = left.min(air.carried(table, *loss).down * share(air));
                told.push((block.band, format!("on the hop to {}", node.name), neighbours_in_words(air)));
            }
        }
        let (band, _, felt_first) = told.first()?;
        let one_band = told.iter().all(|(other, ..)| other == band);
        let name = if one_band { format!("neighbours in {band}") } else { "neighbours".to_owned() };
        // Links on one channel feel the same neighbours: told once.
        let alike = told.iter().all(|(.., words)| words == felt_first);
        let detail = match told.as_slice() {
            [(_, place, words)] if !felt(&access.air) => format!("{place}: {words}"),
            _ if alike => felt_first.clone(),
            several => {
                several.iter().map(|(_, place, words)| format!("{place}: {words}")).collect::<Vec<_>>().join("; ")
            }
        };
        Some((Part::Neighbours, link(LinkKind::Neighbours, &name, detail, Some(left), None)))
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
        likely_down_mbps: None,
        device_id: None,
    }
}

fn neighbours_in_words(air: &Air) -> String {
    let count = air.turns.len();
    let takes = 100.0 * air.turns.iter().map(|turn| turn.part).sum::<f64>().min(1.0);
    let turns = match count {
        0 => None,
        1 => Some(format!("1 network takes turns, {takes:.0} % of the time")),
        _ => Some(format!("{count} networks take turns, {takes:.0} % of the time")),
    };
    let noise = (air.noisy_part > 0.0)
        .then(|| format!("noise {:.0} up for {:.0} % of the time", air.noise, 100.0 * air.noisy_part));
    turns.into_iter().chain(noise).collect::<Vec<_>>().join(", ")
}

/// The link of those that may be named whose mending gains most; of links that gain alike, the narrowest. None when no link alone gains
/// anything.
fn best_gain(
    links: &[ChainLink],
    mended: &[MbitPerSec],
    base: MbitPerSec,
    may_be: &dyn Fn(&ChainLink) -> bool,
) -> Option<usize> {
    let named = || (0..links.len()).filter(|index| may_be(&links[*index]));
    let most = named().map(|index| mended[index].get()).fold(0.0, f64::max);
    if most <= base.get() * (1.0 + WORTH_NAMING) + 1e-6 {
        return None;
    }
    let width = |index: &usize| links[*index].down_mbps.map_or(f64::INFINITY, MbitPerSec::get);
    named()
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
