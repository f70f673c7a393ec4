//! A hop between devices: what carries it, and which part of it is the narrowest.

use std::sync::Arc;

use busy_hen_catalogue::spectrum::Block;
use busy_hen_home::{Band, CableClass, PowerLineClass};
use busy_hen_radio::airtime::{Air, LinkTable};
use busy_hen_units::{Db, MbitPerSec};

use super::ethernet::cable_name;
use super::pairs::power_line_name;

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
