//! Hops between devices: what carries each, and which part of it is the narrowest.

use std::sync::Arc;

use busy_hen_home::{Band, CableClass, Kit, Neighbour, PowerLineClass, Via};
use busy_hen_units::{Db, MbitPerSec, Megahertz};

use super::ethernet::{cable_name, cable_rate, ethernet_goodput};
use super::nodes::{Node, NodeRadio, radio_end};
use super::pairs::{PowerLine, coax_goodput, coax_loss, power_line_name};
use super::tables::LinkTables;
use crate::airtime::{Air, LinkTable};
use crate::phy::RadioEnd;
use crate::spectrum::{Block, Region};

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
        /// Which part is the narrowest.
        narrowest: Narrowest,
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
        air: Arc<Air>,
        /// Whether clients are served on the same radio.
        shared: bool,
    },
    /// Set up so that it can't work.
    Broken(Broken),
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

/// Which part of a wired hop is the narrowest.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Narrowest {
    /// The device's own port.
    OwnPort,
    /// The port of the device upstream.
    UpstreamPort,
    /// The cable.
    Cable(CableClass),
    /// The coax, with what is lost between its sockets.
    Coax(Db),
    /// The mains wiring, with what is lost between its outlets.
    PowerLine(PowerLineClass, Db),
}

impl Narrowest {
    /// In words: "Cat 5 or unmarked cable".
    #[must_use]
    pub fn in_words(&self) -> String {
        match self {
            Self::OwnPort => "its own port".to_owned(),
            Self::UpstreamPort => "the port upstream".to_owned(),
            Self::Cable(class) => format!("{} cable", cable_name(*class)),
            Self::Coax(loss) => format!("the coax pair, {loss:.0} between its sockets"),
            Self::PowerLine(class, loss) => {
                format!("the power-line pair, {}, {loss:.0} between its outlets", power_line_name(*class))
            }
        }
    }
}

/// Why a hop can't work.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Broken {
    /// The device has no radio.
    NoRadio,
    /// The radio that should carry it is off.
    RadioOff,
    /// The device upstream has no radio of this band switched on.
    NotHeard(Band),
}

impl Broken {
    /// In one sentence.
    #[must_use]
    pub fn in_words(self, own: &str, upstream: &str) -> String {
        match self {
            Self::NoRadio => format!("{own} has no radio"),
            Self::RadioOff => format!("the radio of {own} that should carry its uplink is off"),
            Self::NotHeard(band) => format!("{upstream} has no {band} radio switched on for {own} to hear"),
        }
    }
}

pub(super) fn wired(own: &Kit, upstream: &Kit, via: &Via) -> Option<HopKind> {
    let (medium, goodput, why) = match via {
        Via::Coax { length_m, splitters, port_mbps } => {
            let loss = coax_loss(*length_m, *splitters);
            (Medium::Coax, coax_goodput(loss, *port_mbps), Narrowest::Coax(loss))
        }
        Via::PowerLine { .. } => {
            let pair = PowerLine::of(via)?;
            let why = Narrowest::PowerLine(pair.class, pair.loss());
            (Medium::PowerLine { good: pair.good() }, pair.goodput(), why)
        }
        Via::Cable { class, .. } => (Medium::Cable, ethernet_goodput(cable_rate(*class)), Narrowest::Cable(*class)),
        Via::Radio { .. } | Via::BestRadio => return None,
    };
    let (port, name) = if upstream.lan_port_mbps < own.uplink_port_mbps {
        (upstream.lan_port_mbps, Narrowest::UpstreamPort)
    } else {
        (own.uplink_port_mbps, Narrowest::OwnPort)
    };
    let by_port = ethernet_goodput(port);
    Some(if goodput < by_port {
        HopKind::Wired { medium, goodput, narrowest: why }
    } else {
        HopKind::Wired { medium, goodput: by_port, narrowest: name }
    })
}

/// Loss between two devices of a setup, given by their indices, at a frequency.
pub type BetweenDevices<'a> = &'a dyn Fn(&[Node], (usize, usize), Megahertz) -> Db;

/// A radio uplink to be worked out.
pub(super) struct Hopping<'a> {
    pub nodes: &'a [Node],
    pub own: usize,
    pub to: usize,
    pub region: Option<&'a Region>,
    pub losses: BetweenDevices<'a>,
    pub tables: &'a LinkTables,
    pub neighbours: &'a [Neighbour],
}

/// A hop, and how the radio that carries it then works.
pub(super) type Found = (HopKind, Option<NodeRadio>);

impl Hopping<'_> {
    /// The hop by this radio and, when it works, how that radio then works: on the channel upstream, as wide as both can.
    pub(super) fn by_radio(&self, radio: usize) -> Found {
        let (node, upstream) = (&self.nodes[self.own], &self.nodes[self.to]);
        let Some(mine) = node.radios.get(radio).filter(|radio| radio.on) else {
            return (HopKind::Broken(Broken::RadioOff), None);
        };
        let band = mine.block.band;
        let candidates = upstream.radios.iter().filter(|theirs| theirs.on && theirs.block.band == band);
        let Some(theirs) = candidates.max_by_key(|theirs| (!theirs.serves, theirs.block == mine.block)) else {
            return (HopKind::Broken(Broken::NotHeard(band)), None);
        };
        let able = &node.kit.radios[radio];
        let width = able.max_width_mhz.min(theirs.end.max_width);
        let end = radio_end(able, &theirs.block, self.region, &node.aerial, mine.turned_down);
        let follows = NodeRadio { block: theirs.block, end: RadioEnd { max_width: width, ..end }, ..mine.clone() };
        let kind = HopKind::Radio {
            block: theirs.block,
            loss: (self.losses)(self.nodes, (self.to, self.own), theirs.block.centre),
            table: self.tables.get(band, &theirs.end, &follows.end, width),
            air: self.tables.air(&theirs.block, self.neighbours),
            shared: mine.serves || theirs.serves,
        };
        (kind, Some(follows))
    }

    /// The hop by whichever radio then passes most on.
    pub(super) fn by_best_radio(&self) -> (Found, Option<usize>) {
        let best = (0..self.nodes[self.own].radios.len())
            .map(|index| (index, self.by_radio(index)))
            .max_by(|a, b| self.worth(&a.1).total_cmp(&self.worth(&b.1)));
        match best {
            Some((index, found)) => (found, Some(index)),
            None => ((HopKind::Broken(Broken::NoRadio), None), None),
        }
    }

    /// What the device would pass on to a client right beside it if this hop were its uplink: by another radio, or on the same channel
    /// by turns.
    fn worth(&self, found: &Found) -> f64 {
        let HopKind::Radio { block, loss, table, air, .. } = &found.0 else { return -1.0 };
        let hop = air.carried(table, *loss).down.get();
        let radios = &self.nodes[self.own].radios;
        let elsewhere = radios.iter().any(|radio| radio.on && radio.serves && !radio.block.overlaps(block));
        if elsewhere { hop } else { hop / 2.0 }
    }
}
