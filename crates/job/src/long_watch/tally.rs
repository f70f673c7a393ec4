//! Pings counted up to stretches and drops, in memory that does not grow with the days.

use busy_hen_home::{Pings, Took, WatchDrop, WatchLine, WatchStretch};
use busy_hen_units::Millis;
use jiff::{SignedDuration, Timestamp};

/// Length of a stretch: as long as may be lost when the power goes.
const STRETCH_MINUTES: i64 = 10;
/// Pings in a row that must fail for a drop: one alone may be chance.
const DROP_KNOCKS: u32 = 2;
/// Pauses of this many times the usual one, and of a minute at least, are holes: the machine slept, or its clock was set.
const HOLE: i32 = 4;

/// Counts knocks. Lines come out as soon as they are known, to be written down at once.
#[derive(Debug)]
pub struct Tally {
    every: SignedDuration,
    /// The first and the last knock of the stretch that is open.
    open: Option<(Timestamp, Timestamp)>,
    of: Vec<Counted>,
}

#[derive(Debug, Default)]
struct Counted {
    asked: u32,
    /// How long answers took, ms: of one stretch alone.
    took: Vec<f64>,
    /// The first knock that failed, and how many did since.
    silent: Option<(Timestamp, u32)>,
}

impl Tally {
    /// A count for so many addresses, knocked at once in so long.
    #[must_use]
    pub fn new(targets: usize, every: SignedDuration) -> Self {
        Self { every, open: None, of: (0..targets).map(|_| Counted::default()).collect() }
    }

    /// Takes in a knock at each address: how long the answer took, none where nobody answered. Gives back what is known by it.
    pub fn take(&mut self, at: Timestamp, answers: &[Option<Millis>]) -> Vec<WatchLine> {
        let mut lines = Vec::new();
        if let Some((_, last)) = self.open {
            let pause = at.duration_since(last);
            if pause.is_negative() || pause > (self.every * HOLE).max(SignedDuration::from_mins(1)) {
                lines = self.close();
            } else if slot(at) != slot(last) {
                lines = self.stretch(at);
            }
        }
        let from = self.open.map_or(at, |(from, _)| from);
        self.open = Some((from, at));
        for (target, (counted, answer)) in (0..).zip(self.of.iter_mut().zip(answers)) {
            counted.asked += 1;
            match answer {
                Some(took) => {
                    counted.took.push(took.get());
                    lines.extend(counted.silent.take().and_then(|silent| drop_of(target, silent, at, true)));
                }
                None => {
                    let (since, knocks) = counted.silent.unwrap_or((at, 0));
                    counted.silent = Some((since, knocks + 1));
                }
            }
        }
        lines
    }

    /// Ends what is open: before a hole, and when watching ends.
    pub fn close(&mut self) -> Vec<WatchLine> {
        let Some((_, last)) = self.open else { return Vec::new() };
        let lines = self.stretch(last);
        self.of.iter_mut().for_each(|own| own.silent = None);
        lines
    }

    /// Ends the stretch here. A drop that goes on is told up to here, so that a power cut does not take it along.
    fn stretch(&mut self, to: Timestamp) -> Vec<WatchLine> {
        let Some((from, _)) = self.open.take() else { return Vec::new() };
        let mut lines = Vec::new();
        for (target, counted) in (0..).zip(&mut self.of) {
            if let Some(told) = counted.silent.and_then(|silent| drop_of(target, silent, to, false)) {
                lines.push(told);
                counted.silent = counted.silent.map(|(_, knocks)| (to, knocks));
            }
        }
        let of = self.of.iter_mut().map(Counted::pings).collect();
        lines.push(WatchLine::Stretch(WatchStretch { from, to, of }));
        lines
    }
}

impl Counted {
    fn pings(&mut self) -> Pings {
        let asked = std::mem::take(&mut self.asked);
        let answered = u32::try_from(self.took.len()).unwrap_or(asked).min(asked);
        self.took.sort_by(f64::total_cmp);
        let at = |index: usize| Millis::new((self.took[index] * 100.0).round() / 100.0);
        let took = (!self.took.is_empty()).then(|| Took {
            min_ms: at(0),
            median_ms: at(self.took.len() / 2),
            max_ms: at(self.took.len() - 1),
        });
        self.took.clear();
        Pings { asked, lost: asked - answered, took }
    }
}

fn drop_of(target: u32, (from, knocks): (Timestamp, u32), to: Timestamp, ended: bool) -> Option<WatchLine> {
    // One that ends as its last part was told has no length left, but an end.
    (knocks >= DROP_KNOCKS && (to > from || ended)).then_some(WatchLine::Drop(WatchDrop { target, from, to, ended }))
}

fn slot(at: Timestamp) -> i64 {
    at.as_second().div_euclid(STRETCH_MINUTES * 60)
}
