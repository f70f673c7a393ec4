//! What a page heard during a drill as marks: when the loss was noticed, when all went on, what broke.

use busy_hen_home::raw::{RawListening, RawStream};
use busy_hen_home::{DrillMark, Failure, Setup, Sight};

use crate::measuring::same_line;

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

/// Silences of a stream, in the order of time. What was never asked is no silence: a page that sleeps hears nothing.
fn silences(raw: &RawStream) -> Vec<Silence> {
    let late = raw.trips.iter().filter(|own| own.took_ms.get() > NOTICED);
    let late = late.map(|own| (own.at_ms.get(), Some(own.at_ms.get() + own.took_ms.get())));
    // What is lost ends when something sent after it was answered.
    let lost = raw.lost.iter().filter_map(|at| {
        let at = at.get();
        let answered = |own: &&busy_hen_home::raw::RoundTrip| own.at_ms.get() >= at;
        let ends = raw.trips.iter().filter(answered).map(|own| own.at_ms.get() + own.took_ms.get());
        let ends = ends.reduce(f64::min);
        let long = ends.unwrap_or(raw.until_ms.get()) - at > NOTICED;
        long.then_some((at, ends))
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

/// Downloads that stood still for so long that people give them up, where the call was silent too: else it was the page that slept.
fn stalled(raw: &RawStream) -> impl Iterator<Item = f64> {
    let silent = silences(raw);
    let until = raw.arrived.iter().skip(1).map(|own| own.at_ms.get()).chain([raw.until_ms.get()]);
    raw.arrived.iter().zip(until).filter_map(move |(last, next)| {
        let last = last.at_ms.get();
        let given_up = last + HANGS_UP;
        let felt = silent.iter().any(|(from, end)| *from < given_up && end.is_none_or(|end| end > last));
        (next > given_up && felt).then_some(given_up)
    })
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

/// The marks that what was heard makes, in the order of time.
fn heard(raw: &RawListening, failure: Failure, carries_on: bool) -> Vec<DrillMark> {
    let mark = |seen, at: f64| DrillMark { seen, after_ms: at.max(0.0).round() as u32, by_probe: true };
    let streams = || raw.within.iter().chain(&raw.beyond);
    let mut list = Vec::new();
    let first = |which: fn(&Silence) -> Option<f64>| {
        streams().filter_map(|own| silences(own).first().and_then(which)).reduce(f64::min)
    };
    list.extend(first(|own| Some(own.0)).map(|at| mark(Sight::LossNoticed, at)));
    let back = first(|own| own.1);
    match (carries_on, failure) {
        // By which line the page comes is told below.
        (true, Failure::Line) => {}
        (true, _) => list.extend(back.map(|at| mark(Sight::TookOver, at))),
        (false, _) => {
            list.extend(back.map(|at| mark(Sight::FirstLife, at)));
            let ends: Option<Vec<f64>> = streams()
                .filter_map(|own| Some((own, *silences(own).last()?)))
                .map(|(own, (_, end))| end.filter(|end| own.until_ms.get() - end >= STAYS))
                .collect();
            let last = ends.and_then(|ends| ends.into_iter().reduce(f64::max));
            list.extend(last.map(|at| mark(Sight::AllBack, at)));
        }
    }
    if let Some(beyond) = &raw.beyond {
        let mut at_home = None;
        for own in &beyond.ways {
            let first = *at_home.get_or_insert(own.address);
            let Some(same) = same_line(first, own.address) else { continue };
            let went = list.iter().any(|mark| mark.seen == Sight::TookOver);
            match (same, went) {
                (false, false) => list.push(mark(Sight::TookOver, f64::from(own.at_ms))),
                (true, true) => {
                    list.retain(|mark| mark.seen != Sight::FirstChoice);
                    list.push(mark(Sight::FirstChoice, f64::from(own.at_ms)));
                    break;
                }
                _ => {}
            }
        }
    }
    for own in streams() {
        let given_up = own.broken.iter().chain(&own.broken_downloads).map(|at| at.get());
        let too_long = silences(own).into_iter().filter_map(|(from, until)| {
            let lasts = until.unwrap_or(own.until_ms.get()) - from;
            (lasts > HANGS_UP).then_some(from + HANGS_UP)
        });
        list.extend(given_up.chain(too_long).chain(stalled(own)).map(|at| mark(Sight::SessionBroke, at)));
    }
    list.sort_by_key(|own| own.after_ms);
    list
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
