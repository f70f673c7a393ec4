//! Hops worked out: what a cable, a pair of adapters or a radio carries from one device to another.

use busy_hen_catalogue::phy::RadioEnd;
use busy_hen_catalogue::spectrum::Region;
use busy_hen_home::{Kit, Neighbour, Via};
use busy_hen_units::{Db, Megahertz};

use super::ethernet::{cable_rate, ethernet_goodput};
use super::hop::{Broken, HopKind, Medium, Narrowest};
use super::nodes::{Node, NodeRadio, radio_end};
use super::pairs::{PowerLine, coax_goodput, coax_loss};
use super::tables::LinkTables;

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
