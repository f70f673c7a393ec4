//! Adapter pairs on wiring that is there already: coax and mains.

use busy_hen_home::{Circuit, PowerLineClass, Via};
use busy_hen_units::{Db, MbitPerSec, Metres};

use super::ethernet::ethernet_goodput;

/// Loss of household coax at the pair's frequencies (about 1.4 GHz), dB a metre (from memory, usual 75-ohm drop cable).
const COAX_DB_PER_M: f64 = 0.25;
/// Loss of a two-way splitter, dB (from memory: 3.5 dB split and some excess).
const SPLITTER_DB: f64 = 4.0;
/// What a coax pair carries both ways together, Mb/s (engineering estimate).
const COAX_RATE: f64 = 2000.0;
/// Up to this loss it carries all of that, and from the second on nothing, dB (engineering estimate).
const COAX_REACH: (f64, f64) = (50.0, 70.0);

/// Loss between two coax sockets.
#[must_use]
pub fn coax_loss(length: Metres, splitters: u8) -> Db {
    Db::new(COAX_DB_PER_M * length.get() + SPLITTER_DB * f64::from(splitters))
}

/// What TCP gets over a coax pair: its rate, shared by both directions, to 50 dB of loss, falling to nothing at 70; never more
/// than its ports let through.
///
/// # Source
/// Engineering estimate, `docs/MODEL.md`.
#[must_use]
pub fn coax_goodput(loss: Db, port: MbitPerSec) -> MbitPerSec {
    let (whole, none) = COAX_REACH;
    let part = ((none - loss.get()) / (none - whole)).clamp(0.0, 1.0);
    MbitPerSec::new(COAX_RATE * part).min(ethernet_goodput(port))
}

/// A power-line pair and the wiring between its outlets.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PowerLine {
    /// What it is sold as.
    pub class: PowerLineClass,
    /// Wiring between the outlets.
    pub length: Metres,
    /// How their circuits are joined.
    pub circuit: Circuit,
    /// Power strips and surge filters on the way.
    pub strips: u8,
    /// Whether a noisy appliance shares an outlet.
    pub noisy: bool,
    /// Link rate that the pair itself reports; none when nobody looked.
    pub reported: Option<MbitPerSec>,
}

/// Loss at which nothing more gets through, dB.
const POWER_LINE_REACH: f64 = 65.0;
/// Part of the link rate that TCP gets.
const POWER_LINE_PART: f64 = 0.52;
/// Least part of its greatest rate that a pair still links at.
const POWER_LINE_LEAST: f64 = 0.01;

impl PowerLine {
    /// The pair of an uplink; none when another thing carries it.
    #[must_use]
    pub fn of(via: &Via) -> Option<Self> {
        let Via::PowerLine { class, length_m, circuit, strips, noisy, reported_mbps } = via else { return None };
        Some(Self {
            class: *class,
            length: *length_m,
            circuit: *circuit,
            strips: *strips,
            noisy: *noisy,
            reported: *reported_mbps,
        })
    }

    /// Loss between the outlets: 0.4 dB a metre, 10 for another circuit or 20 for another board, phase or arc-fault breaker, 12 a
    /// power strip, 8 for a noisy appliance.
    ///
    /// # Source
    /// Engineering estimate, fitted, `docs/MODEL.md`.
    #[must_use]
    pub fn loss(&self) -> Db {
        let circuit = match self.circuit {
            Circuit::Same => 0.0,
            Circuit::Other => 10.0,
            Circuit::OtherBoard => 20.0,
        };
        let noisy = if self.noisy { 8.0 } else { 0.0 };
        Db::new(0.4 * self.length.get() + circuit + 12.0 * f64::from(self.strips) + noisy)
    }

    /// Rate the pair links at, both ways together: as it reports, or as the wiring lets expect.
    #[must_use]
    pub fn link_rate(&self) -> MbitPerSec {
        self.reported.unwrap_or_else(|| self.expected_rate())
    }

    fn expected_rate(&self) -> MbitPerSec {
        let greatest = match self.class {
            PowerLineClass::Sold200 => 200.0,
            PowerLineClass::Sold500 => 500.0,
            PowerLineClass::Sold1000 => 1000.0,
            PowerLineClass::Sold2000 => 1300.0,
        };
        let part = ((POWER_LINE_REACH - self.loss().get()) / POWER_LINE_REACH).clamp(POWER_LINE_LEAST, 1.0);
        MbitPerSec::new(greatest * part)
    }

    /// What TCP gets over it: 0.52 of the link rate, never more than its port lets through.
    #[must_use]
    pub fn goodput(&self) -> MbitPerSec {
        (self.link_rate() * POWER_LINE_PART).min(ethernet_goodput(self.port()))
    }

    /// Speed of its network port: 100 Mb/s for the slow classes, else 1 Gb/s.
    #[must_use]
    pub fn port(&self) -> MbitPerSec {
        MbitPerSec::new(match self.class {
            PowerLineClass::Sold200 | PowerLineClass::Sold500 => 100.0,
            PowerLineClass::Sold1000 | PowerLineClass::Sold2000 => 1000.0,
        })
    }

    /// Whether the outlets count as good for delay: the pair links at more than half of what one outlet to itself would.
    #[must_use]
    pub fn good(&self) -> bool {
        let beside =
            Self { length: Metres::new(0.0), circuit: Circuit::Same, strips: 0, noisy: false, reported: None, ..*self };
        self.link_rate() * 2.0 > beside.link_rate()
    }
}

/// What a class of power-line pair is sold as, for people.
#[must_use]
pub fn power_line_name(class: PowerLineClass) -> &'static str {
    match class {
        PowerLineClass::Sold200 => "sold as 200 Mb/s",
        PowerLineClass::Sold500 => "sold as 500 Mb/s",
        PowerLineClass::Sold1000 => "sold as 1000 to 1300 Mb/s",
        PowerLineClass::Sold2000 => "sold as 2000 Mb/s",
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    fn pair(length: f64, circuit: Circuit, strips: u8, noisy: bool) -> PowerLine {
        let length = Metres::new(length);
        PowerLine { class: PowerLineClass::Sold1000, length, circuit, strips, noisy, reported: None }
    }

    #[test]
    fn what_a_pair_reports_is_believed_before_its_wiring() {
        let wiring = pair(40.0, Circuit::OtherBoard, 1, true);
        let reported = PowerLine { reported: Some(MbitPerSec::new(400.0)), ..wiring };
        assert!((reported.goodput().get() - 208.0).abs() < 1e-9 && reported.goodput() > wiring.goodput());
        assert!(!wiring.good() && !reported.good());
        assert!(PowerLine { reported: Some(MbitPerSec::new(900.0)), ..wiring }.good());
    }

    #[test]
    fn a_coax_pair_is_all_there_and_then_suddenly_gone() {
        let at = |loss| coax_goodput(Db::new(loss), MbitPerSec::new(2500.0)).get();
        assert!((at(0.0) - 2000.0).abs() < 1e-9 && (at(50.0) - 2000.0).abs() < 1e-9);
        assert!((at(60.0) - 1000.0).abs() < 1e-9);
        assert!(at(70.0).abs() < 1e-9 && at(90.0).abs() < 1e-9);
        assert!((coax_goodput(Db::new(10.0), MbitPerSec::new(1000.0)).get() - 941.5).abs() < 0.1, "its port");
        assert!((coax_loss(Metres::new(20.0), 2).get() - 13.0).abs() < 1e-9);
    }

    #[test]
    fn a_slow_class_has_a_slow_port() {
        let old = PowerLine { class: PowerLineClass::Sold500, ..pair(2.0, Circuit::Same, 0, false) };
        assert!((old.goodput().get() - 94.15).abs() < 0.1);
    }

    proptest! {
        #[test]
        fn more_in_the_way_never_carries_more(m in 0.0f64..200.0, more in 0.0f64..50.0, strips in 0u8..4) {
            let base = pair(m, Circuit::Same, strips, false).goodput();
            prop_assert!(pair(m + more, Circuit::Same, strips, false).goodput() <= base);
            prop_assert!(pair(m, Circuit::Other, strips, false).goodput() <= base);
            prop_assert!(pair(m, Circuit::OtherBoard, strips, true).goodput() <= base);
            prop_assert!(pair(m, Circuit::Same, strips + 1, false).goodput() <= base);
        }
    }
}
