//! What TCP gets of a wired link.

use busy_hen_home::CableClass;
use busy_hen_units::MbitPerSec;

/// TCP goodput of an Ethernet link: the link rate times 1448 / 1538.
///
/// A full frame takes 1538 byte times (7 preamble, 1 delimiter, 14 header, 1500 payload, 4 check, 12 gap) and carries 1448 bytes of
/// TCP payload (1500 less 20 IP, 20 TCP, 12 of time stamps).
///
/// # Source
/// Frame arithmetic of IEEE 802.3 clause 3; RFC 9293 and RFC 7323 for the headers.
#[must_use]
pub fn ethernet_goodput(link: MbitPerSec) -> MbitPerSec {
    link * (1448.0 / 1538.0)
}

/// Fastest link that a cable of this class carries over the lengths of a home.
///
/// # Source
/// IEEE 802.3 clauses 25 (Cat 5: 100 Mb/s), 126 (Cat 5e: 2.5 Gb/s to 100 m, Cat 6: 5 Gb/s) and 55 (Cat 6A: 10 Gb/s). Cat 5 often
/// carries a gigabit over short runs, but nobody vouches for it.
#[must_use]
pub fn cable_rate(class: CableClass) -> MbitPerSec {
    MbitPerSec::new(match class {
        CableClass::Cat5 => 100.0,
        CableClass::Cat5e => 2500.0,
        CableClass::Cat6 => 5000.0,
        CableClass::Cat6a => 10_000.0,
    })
}

/// Name of a cable class for people.
#[must_use]
pub fn cable_name(class: CableClass) -> &'static str {
    match class {
        CableClass::Cat5 => "Cat 5 or unmarked",
        CableClass::Cat5e => "Cat 5e",
        CableClass::Cat6 => "Cat 6",
        CableClass::Cat6a => "Cat 6A",
    }
}
