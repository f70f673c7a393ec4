//! What was heard during a drill as marks: when the loss was noticed, when all went on, what broke.

use std::collections::{BTreeMap, BTreeSet};

use busy_hen_home::raw::{CameFrom, PingHeard, RawListening, RawStream};
use busy_hen_home::{DeviceId, DrillMark, Failure, Setup, Sight};

use busy_hen_survey::measuring::same_line;

/// An exchange that takes longer than this is one that somebody in a call notices, ms (engineering estimate: several times what ITU-T
/// G.114 calls most that does no harm).
const NOTICED: f64 = 400.0;
/// What answers for less than this has not come back, ms.
const HOLDS: f64 = 1000.0;
/// All is back when it has answered for so long, ms.
const STAYS: f64 = 3000.0;
/// After such a silence people hang up, ms (engineering estimate).
const HANGS_UP: f64 = 10_000.0;
/// Two sightings of one broken call lie no further apart, ms.
const SAME: u32 = 500;

/// A silence: from when nothing was answered, and when it was again; none while it lasts.
type Silence = (f64, Option<f64>);

/// A stream with its silences.
struct Heard<'a> {
    raw: &'a RawStream,
    silences: Vec<Silence>,
}

impl<'a> Heard<'a> {
    fn new(raw: &'a RawStream) -> Self {
        Self { silences: silences(raw), raw }
    }

    fn until(&self) -> f64 {
        self.raw.until_ms.get()
    }

    /// When a call or a download broke: given up by the page, or silent for so long that people do.
    fn broke(&self) -> Vec<f64> {
        let given_up = self.raw.broken.iter().chain(&self.raw.broken_downloads).map(|at| at.get());
        let too_long = self
            .silences
            .iter()
            .filter_map(|(from, end)| (end.unwrap_or(self.until()) - from > HANGS_UP).then_some(from + HANGS_UP));
        given_up.chain(too_long).chain(self.stalled()).collect()
    }

    /// Downloads that stood still for as long, where the call was silent too: else it was the page that slept.
    fn stalled(&self) -> impl Iterator<Item = f64> {
        let arrived = || self.raw.arrived.iter().map(|own| own.at_ms.get());
        arrived().zip(arrived().skip(1).chain([self.until()])).filter_map(|(last, next)| {
            let given_up = last + HANGS_UP;
            let felt = self.silences.iter().any(|(from, end)| *from < given_up && end.is_none_or(|end| end > last));
            (next > given_up && felt).then_some(given_up)
        })
    }
}

/// Whether a stream ever heard an answer.
fn connected(raw: &RawStream) -> bool {
    !raw.trips.is_empty()
}

/// Silences of a stream, in the order of time. What was never asked is no silence: a page that sleeps hears nothing.
///
/// # Complexity
/// O(exchanges log exchanges)
fn silences(raw: &RawStream) -> Vec<Silence> {
    let mut trips: Vec<(f64, f64)> =
        raw.trips.iter().map(|own| (own.at_ms.get(), own.at_ms.get() + own.took_ms.get())).collect();
    trips.sort_by(|a, b| a.0.total_cmp(&b.0));
    let late = trips.iter().filter(|(sent, answered)| answered - sent > NOTICED).map(|(sent, end)| (*sent, Some(*end)));
    // What is lost ends when something sent after it was answered: the earliest answer to anything from there on.
    let mut earliest: Vec<f64> = trips.iter().map(|(_, answered)| *answered).collect();
    for index in (1..earliest.len()).rev() {
        earliest[index - 1] = earliest[index - 1].min(earliest[index]);
    }
    let lost = raw.lost.iter().filter_map(|at| {
        let at = at.get();
        let ends = earliest.get(trips.partition_point(|(sent, _)| *sent < at)).copied();
        (ends.unwrap_or(raw.until_ms.get()) - at > NOTICED).then_some((at, ends))
    });
    let mut all: Vec<Silence> = late.chain(lost).collect();
    all.sort_by(|a, b| a.0.total_cmp(&b.0));
    let mut list: Vec<Silence> = Vec::new();
    for (from, until) in all {
        match list.last_mut() {
            Some((_, end)) if end.is_none_or(|end| from < end + HOLDS) => {
                // One whose end is not known lasts.
                *end = end.zip(until).map(|(end, until)| end.max(until));
            }
            _ => list.push((from, until)),
        }
    }
    list
}

fn mark(seen: Sight, at: f64) -> DrillMark {
    DrillMark { seen, after_ms: at.max(0.0).round() as u32, by_probe: true }
}

/// The marks that knocks make. One device alone answers before it serves; several are back when the last of them answers.
fn knocked(knocks: &[PingHeard]) -> Vec<DrillMark> {
    let devices: BTreeSet<DeviceId> = knocks.iter().map(|own| own.device_id).collect();
    let mut answers: BTreeMap<DeviceId, bool> = BTreeMap::new();
    let mut list = Vec::new();
    for own in knocks {
        let changed = answers.insert(own.device_id, own.answers).is_some_and(|before| before != own.answers);
        let at = f64::from(own.at_ms);
        match (changed, own.answers) {
            (false, _) => {}
            (true, false) => list.push(mark(Sight::LossNoticed, at)),
            (true, true) => {
                list.push(mark(Sight::FirstLife, at));
                if devices.len() > 1 && answers.len() == devices.len() && answers.values().all(|answers| *answers) {
                    list.push(mark(Sight::AllBack, at));
                }
            }
        }
    }
    list
}

/// Whether something else carries on while this is out: another node, the radio, a second line.
fn carries_on(failure: Failure, setup: &Setup, second_line: bool) -> bool {
    match failure {
        Failure::Line => second_line,
        Failure::Backhaul { .. } | Failure::OldNetwork { .. } => true,
        Failure::Power { device } => setup.device(device).is_some_and(|own| own.uplink.is_some()),
        Failure::AllNodes | Failure::Everything => false,
    }
}

/// The marks that what was heard makes.
fn heard(raw: &RawListening, failure: Failure, carries_on: bool) -> Vec<DrillMark> {
    // What never connected heard nothing, and its silence is no loss.
    let streams: Vec<Heard<'_>> =
        raw.within.iter().chain(&raw.beyond).filter(|own| connected(own)).map(Heard::new).collect();
    let mut list = knocked(&raw.knocks);
    let first = |which: fn(&Silence) -> Option<f64>| {
        streams.iter().filter_map(|own| own.silences.first().and_then(which)).reduce(f64::min)
    };
    list.extend(first(|own| Some(own.0)).map(|at| mark(Sight::LossNoticed, at)));
    let back = first(|own| own.1);
    match (carries_on, failure) {
        // By which line the page comes is told below.
        (true, Failure::Line) => {}
        (true, _) => list.extend(back.map(|at| mark(Sight::TookOver, at))),
        (false, _) => {
            list.extend(back.map(|at| mark(Sight::FirstLife, at)));
            let ends: Option<Vec<f64>> = streams
                .iter()
                .filter_map(|own| Some((own, own.silences.last()?)))
                .map(|(own, (_, end))| end.filter(|end| own.until() - end >= STAYS))
                .collect();
            let last = ends.and_then(|ends| ends.into_iter().reduce(f64::max));
            list.extend(last.map(|at| mark(Sight::AllBack, at)));
        }
    }
    list.extend(raw.beyond.iter().flat_map(|own| by_other_line(&own.ways)));
    list.extend(streams.iter().flat_map(Heard::broke).map(|at| mark(Sight::SessionBroke, at)));
    list
}

/// When the page came by another line than at first, and when by the first again.
fn by_other_line(ways: &[CameFrom]) -> Vec<DrillMark> {
    let Some(first) = ways.first() else { return Vec::new() };
    let at = |own: &CameFrom| f64::from(own.at_ms);
    let same = |own: &CameFrom, wanted: bool| same_line(first.address, own.address) == Some(wanted);
    let Some(went) = ways.iter().position(|own| same(own, false)) else { return Vec::new() };
    let back = ways[went..].iter().find(|own| same(own, true));
    [mark(Sight::TookOver, at(&ways[went]))]
        .into_iter()
        .chain(back.map(|own| mark(Sight::FirstChoice, at(own))))
        .collect()
}

/// The marks of a drill together with what was heard. What somebody pressed stays; of what the bench saw by itself the first sighting
/// counts, and of all being back the last.
#[must_use]
pub fn listened(
    marks: &[DrillMark],
    raw: &RawListening,
    failure: Failure,
    setup: &Setup,
    second_line: bool,
) -> Vec<DrillMark> {
    let (mut list, seen): (Vec<DrillMark>, Vec<DrillMark>) = marks.iter().partition(|own| !own.by_probe);
    for own in seen.into_iter().chain(heard(raw, failure, carries_on(failure, setup, second_line))) {
        let before = list.iter_mut().find(|mark| mark.by_probe && mark.seen == own.seen);
        match (own.seen, before) {
            (Sight::SessionBroke, _) => {
                let near = |mark: &DrillMark| mark.seen == own.seen && mark.after_ms.abs_diff(own.after_ms) < SAME;
                if !list.iter().any(near) {
                    list.push(own);
                }
            }
            (_, None) => list.push(own),
            (Sight::AllBack | Sight::FirstChoice, Some(before)) => before.after_ms = before.after_ms.max(own.after_ms),
            (_, Some(before)) => before.after_ms = before.after_ms.min(own.after_ms),
        }
    }
    list.sort_by_key(|own| own.after_ms);
    list
}
