//! The long watch: what a probe that was left behind saw of a home over days.
//!
//! It is written as a log of [`WatchLine`]s, one JSON object a line, by whoever watches, and becomes a [`WatchLog`] when it is read.

use std::cmp::Reverse;
use std::collections::BTreeMap;

use busy_hen_units::Millis;
use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::fault::{Fault, Faults};
use crate::id::WatchId;

/// Most addresses of one watch.
const TARGETS_MOST: usize = 40;
/// Most characters of a name or an address.
const NAME_MOST: usize = 120;
/// Longest watch.
const LONGEST: SignedDuration = SignedDuration::from_hours(24 * 731);
/// Longest pause between two knocks, s.
const EVERY_MOST_S: u32 = 600;
/// No watch saw anything before 2000 or after 2100 (s since 1970): a clock that was never set begins in 1970.
const YEARS_S: std::ops::RangeInclusive<i64> = 946_684_800..=4_102_444_800;
/// Most knocks of one stretch at one address: one a second over a day, where a stretch is some minutes.
const KNOCKS_MOST: u32 = 86_400;
/// Most bytes of a short transfer.
const BYTES_MOST: u64 = 1 << 40;
/// Longest that an answer or a transfer may have taken, ms: a day.
const TOOK_MOST_MS: f64 = 86_400_000.0;
/// Most entries of each list: a drop every quarter of an hour at each of forty addresses, or a stretch a minute, would fill two years less.
const ENTRIES_MOST: usize = 200_000;

/// How a watch is set up: the first line of its log.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WatchHead {
    /// Identifies it; made by whoever watches, so that bringing a log twice keeps it once.
    pub id: WatchId,
    /// Whether a stand-in made it all up.
    #[serde(default)]
    pub made_up: bool,
    /// Whether the machine that watches hangs on the network by wire.
    pub by_wire: bool,
    /// Pause between two knocks at an address, s.
    pub every_s: u32,
    /// What is knocked at. The first is the router, behind which all others are.
    pub targets: Vec<Watched>,
}

/// An address that is knocked at.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Watched {
    /// What stands there.
    pub name: String,
    /// The address, with its port.
    pub address: String,
    /// How it hangs on the router.
    pub way: HangsBy,
}

/// How something hangs on the router.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum HangsBy {
    /// By a cable, or it is the router.
    Wire,
    /// By radio.
    Radio,
    /// It is beyond the line.
    Line,
}

/// A line of the log of a watch.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "line", rename_all = "snake_case")]
pub enum WatchLine {
    /// The first of them.
    Watch(WatchHead),
    /// The program began to watch, for the first time or again.
    Start {
        /// When.
        #[schema(value_type = String, format = DateTime)]
        at: Timestamp,
    },
    /// What knocks came to over a few minutes.
    Stretch(WatchStretch),
    /// Something did not answer for a while.
    Drop(WatchDrop),
    /// A short transfer.
    Transfer(ShortTransfer),
    /// Another piece of hardware answers at an address than before, or the first that was seen there.
    Answerer(Answerer),
}

/// What knocks came to over a few minutes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WatchStretch {
    /// From when.
    #[schema(value_type = String, format = DateTime)]
    pub from: Timestamp,
    /// Until when.
    #[schema(value_type = String, format = DateTime)]
    pub to: Timestamp,
    /// Of each address, in their order.
    pub of: Vec<Pings>,
}

/// Pings at one address over a few minutes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pings {
    /// How many.
    pub asked: u32,
    /// How many of them nobody answered.
    pub lost: u32,
    /// Quickest, median and slowest answer; none where nobody answered.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub took: Option<Took>,
}

/// How long answers took.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Took {
    /// The quickest.
    pub min_ms: Millis,
    /// The median.
    pub median_ms: Millis,
    /// The slowest.
    pub max_ms: Millis,
}

/// A while in which an address did not answer: two knocks or more in a row.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WatchDrop {
    /// The address, by its place in the list.
    pub target: u32,
    /// The first knock that was not answered.
    #[schema(value_type = String, format = DateTime)]
    pub from: Timestamp,
    /// The first that was answered again, or until when it is known.
    #[schema(value_type = String, format = DateTime)]
    pub to: Timestamp,
    /// Whether it was answered again.
    pub ended: bool,
}

/// A short transfer: it shows how a day goes, and is no test.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ShortTransfer {
    /// When it began.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Bytes that arrived.
    pub bytes: u64,
    /// How long they took.
    pub took_ms: Millis,
    /// Whether all arrived that were asked for.
    pub whole: bool,
}

/// Who answers at an address.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Answerer {
    /// The address, by its place in the list.
    pub target: u32,
    /// Since when.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Its hardware address.
    pub hardware: String,
}

/// All that a watch saw.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct WatchLog {
    /// How it is set up.
    pub head: WatchHead,
    /// Each time the program began to watch.
    #[schema(value_type = Vec<String>)]
    pub starts: Vec<Timestamp>,
    /// A few minutes after the other.
    pub stretches: Vec<WatchStretch>,
    /// Where something did not answer.
    pub drops: Vec<WatchDrop>,
    /// Short transfers.
    pub transfers: Vec<ShortTransfer>,
    /// Who answered.
    pub answerers: Vec<Answerer>,
}

/// A watch as a list shows it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
pub struct WatchSummary {
    /// Identifies it.
    pub id: WatchId,
    /// Whether a stand-in made it up.
    pub made_up: bool,
    /// When it began; none when it has seen nothing.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub begun: Option<Timestamp>,
    /// Until when it saw something.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub until: Option<Timestamp>,
}

impl WatchLog {
    /// It as a list shows it.
    #[must_use]
    pub fn summary(&self) -> WatchSummary {
        let until = self.stretches.iter().map(|own| own.to).max();
        WatchSummary { id: self.head.id, made_up: self.head.made_up, begun: self.begun(), until }
    }

    /// A watch that has seen nothing yet.
    #[must_use]
    pub fn new(head: WatchHead) -> Self {
        Self {
            head,
            starts: Vec::new(),
            stretches: Vec::new(),
            drops: Vec::new(),
            transfers: Vec::new(),
            answerers: Vec::new(),
        }
    }

    /// Takes in one more line; another head than its own changes nothing.
    pub fn take(&mut self, line: WatchLine) {
        match line {
            WatchLine::Watch(_) => {}
            WatchLine::Start { at } => self.starts.push(at),
            WatchLine::Stretch(own) => self.stretches.push(own),
            WatchLine::Drop(own) => self.drops.push(own),
            WatchLine::Transfer(own) => self.transfers.push(own),
            WatchLine::Answerer(own) => self.answerers.push(own),
        }
    }

    /// The log as its lines.
    pub fn lines(&self) -> impl Iterator<Item = WatchLine> + '_ {
        std::iter::once(WatchLine::Watch(self.head.clone()))
            .chain(self.starts.iter().map(|at| WatchLine::Start { at: *at }))
            .chain(self.stretches.iter().cloned().map(WatchLine::Stretch))
            .chain(self.drops.iter().copied().map(WatchLine::Drop))
            .chain(self.transfers.iter().copied().map(WatchLine::Transfer))
            .chain(self.answerers.iter().cloned().map(WatchLine::Answerer))
    }

    /// When it began to watch; none when it never did.
    #[must_use]
    pub fn begun(&self) -> Option<Timestamp> {
        let first = self.stretches.first().map(|own| own.from);
        self.starts.first().copied().into_iter().chain(first).min()
    }

    /// This log with all that another copy of it knows: nothing that either has seen gets lost, whichever is older. Where both tell of one stretch, the
    /// one that goes further counts.
    #[must_use]
    pub fn with(mut self, other: &Self) -> Self {
        self.starts = both(self.starts, &other.starts, |own| *own);
        self.stretches = both(self.stretches, &other.stretches, |own| own.from);
        self.stretches.sort_by_key(|own| (own.from, Reverse(own.to)));
        self.stretches.dedup_by_key(|own| own.from);
        self.drops = both(self.drops, &other.drops, |own| own.from);
        self.transfers = both(self.transfers, &other.transfers, |own| own.at);
        self.answerers = both(self.answerers, &other.answerers, |own| own.at);
        self
    }

    /// Checks what a file brought.
    ///
    /// # Errors
    /// What is wrong, by the field it is in.
    pub fn check(&self) -> Result<(), Faults> {
        let mut list = Vec::new();
        let mut say = |pointer: String, message: &str| list.push(Fault { pointer, message: message.to_owned() });
        let count = self.head.targets.len();
        if count == 0 || count > TARGETS_MOST {
            say("/head/targets".into(), "A watch knocks at one address at least, and at 40 at most.");
        }
        if self.head.every_s == 0 || self.head.every_s > EVERY_MOST_S {
            say("/head/every_s".into(), "A watch knocks every 1 to 600 seconds.");
        }
        for (t, own) in self.head.targets.iter().enumerate() {
            if own.name.trim().is_empty()
                || [&own.name, &own.address].iter().any(|text| text.chars().count() > NAME_MOST)
            {
                say(format!("/head/targets/{t}/name"), "Each address has a name, of at most 120 characters.");
            }
        }
        for (s, own) in self.stretches.iter().enumerate() {
            if own.to < own.from || s > 0 && own.from < self.stretches[s - 1].from {
                say(format!("/stretches/{s}/from"), "Stretches stand in the order of time, and end after they begin.");
            }
            if own.of.len() != count || own.of.iter().any(|of| !of.is_sound()) {
                say(
                    format!("/stretches/{s}/of"),
                    "A stretch tells of each address how often it answered and how quickly.",
                );
            }
        }
        let times = || {
            let stretches = self.stretches.iter().flat_map(|own| [own.from, own.to]);
            let drops = self.drops.iter().flat_map(|own| [own.from, own.to]);
            let transfers = self.transfers.iter().map(|own| own.at);
            let answerers = self.answerers.iter().map(|own| own.at);
            stretches.chain(drops).chain(transfers).chain(answerers).chain(self.starts.iter().copied())
        };
        let clock = "A watch spans two years at most, all between 2000 and 2100; look at the clock of the machine that watched.";
        if let Some((first, last)) = times().min().zip(times().max())
            && (!YEARS_S.contains(&first.as_second())
                || !YEARS_S.contains(&last.as_second())
                || last.duration_since(first) > LONGEST)
        {
            say("/stretches".into(), clock);
        }
        let lists =
            [self.starts.len(), self.stretches.len(), self.drops.len(), self.transfers.len(), self.answerers.len()];
        if lists.iter().any(|length| *length > ENTRIES_MOST) {
            say(String::new(), "A watch has at most 200,000 entries of each kind.");
        }
        for (d, own) in self.drops.iter().enumerate() {
            if own.target as usize >= count || own.to < own.from {
                say(format!("/drops/{d}"), "This is of no address of the watch, or ends before it begins.");
            }
        }
        for (t, own) in self.transfers.iter().enumerate() {
            if !(own.took_ms.get() > 0.0 && own.took_ms.get() <= TOOK_MOST_MS && own.bytes <= BYTES_MOST) {
                say(
                    format!("/transfers/{t}/took_ms"),
                    "A transfer takes some time, less than a day, and is of 1 TB at most.",
                );
            }
        }
        for (a, own) in self.answerers.iter().enumerate() {
            if own.target as usize >= count || own.hardware.chars().count() > NAME_MOST {
                say(format!("/answerers/{a}"), "This is of no address of the watch, or names no hardware.");
            }
        }
        list.truncate(20);
        Faults::check(list)
    }
}

/// All of both, each once, in the order of time.
fn both<T: Clone + PartialEq>(own: Vec<T>, other: &[T], at: impl Fn(&T) -> Timestamp) -> Vec<T> {
    let mut all: BTreeMap<Timestamp, Vec<T>> = BTreeMap::new();
    for one in own.into_iter().chain(other.iter().cloned()) {
        let then = all.entry(at(&one)).or_default();
        if !then.contains(&one) {
            then.push(one);
        }
    }
    all.into_values().flatten().collect()
}

impl Pings {
    fn is_sound(&self) -> bool {
        let fits = |took: &Took| {
            let [min, median, max] = [took.min_ms, took.median_ms, took.max_ms].map(Millis::get);
            0.0 <= min && min <= median && median <= max && max <= TOOK_MOST_MS
        };
        self.asked <= KNOCKS_MOST
            && self.lost <= self.asked
            && self.took.is_some() == (self.lost < self.asked)
            && self.took.as_ref().is_none_or(fits)
    }
}
