//! Where something did not answer, and where nobody watched.

use busy_hen_home::WatchLog;
use jiff::{SignedDuration, Timestamp};
use serde::Serialize;
use utoipa::ToSchema;

/// Stretches this far apart have a hole between them, at least.
const HOLE: SignedDuration = SignedDuration::from_secs(60);

/// A while in which nobody watched.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
pub struct Hole {
    /// From when.
    #[schema(value_type = String, format = DateTime)]
    pub from: Timestamp,
    /// Until when.
    #[schema(value_type = String, format = DateTime)]
    pub to: Timestamp,
}

impl Hole {
    /// How long.
    #[must_use]
    pub fn length(&self) -> SignedDuration {
        self.to.duration_since(self.from)
    }
}

/// A while in which an address did not answer, as one however many pieces the log told it in.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Away {
    /// The address, by its place in the list.
    pub target: usize,
    /// From when.
    pub from: Timestamp,
    /// Until when.
    pub to: Timestamp,
    /// Whether it was seen to answer again.
    pub ended: bool,
}

impl Away {
    /// How long.
    #[must_use]
    pub fn length(&self) -> SignedDuration {
        self.to.duration_since(self.from)
    }
}

/// Each while in which an address did not answer, in the order of addresses and time; those of one address never overlap.
#[must_use]
pub fn aways(log: &WatchLog) -> Vec<Away> {
    let mut pieces = log.drops.clone();
    pieces.sort_by_key(|own| (own.target, own.from, own.to));
    let mut list: Vec<Away> = Vec::new();
    for own in pieces {
        let target = own.target as usize;
        let goes_on =
            |last: &&mut Away| last.target == target && (own.from < last.to || own.from == last.to && !last.ended);
        match list.last_mut().filter(goes_on) {
            Some(last) if own.to >= last.to => (last.to, last.ended) = (own.to, own.ended),
            Some(_) => {}
            None => list.push(Away { target, from: own.from, to: own.to, ended: own.ended }),
        }
    }
    list
}

/// Each while between its first and its last stretch in which nobody watched.
#[must_use]
pub fn holes(log: &WatchLog) -> Vec<Hole> {
    let mut list = Vec::new();
    let mut until: Option<Timestamp> = None;
    let least = HOLE.max(SignedDuration::from_secs(2 * i64::from(log.head.every_s)));
    for own in &log.stretches {
        if let Some(until) = until.filter(|until| own.from.duration_since(*until) > least) {
            list.push(Hole { from: until, to: own.from });
        }
        until = Some(until.map_or(own.to, |until| until.max(own.to)));
    }
    list
}
