//! What came of a run, in words.

use busy_hen_home::{CallCheck, FilmCheck, Outcome, WalkCheck};
use busy_hen_units::{MbitPerSec, Millis};

use crate::measuring::CALL_GAP_MS;

/// Delay beyond which a call is no talk any more, ms: twice the one way of ITU-T G.114.
const TALK_MS: f64 = 300.0;
/// Longest wait for a picture that people take (engineering estimate).
const WAIT_MS: f64 = 5000.0;
/// What a gap may last for a call to go on as if nothing had been (engineering estimate).
const UNNOTICED_MS: f64 = 500.0;

/// What came of a check, in words; none of tests of speed, whose figures are shown as such.
#[must_use]
pub fn in_words(outcome: &Outcome) -> Option<String> {
    match outcome {
        Outcome::Measured { .. } | Outcome::NoConnection | Outcome::Heard => None,
        Outcome::Film { check } => Some(film(check)),
        Outcome::Call { check } => Some(call(check)),
        Outcome::Walked { check } => Some(walk(check)),
        Outcome::Skipped => Some("passed over".to_owned()),
    }
}

/// What another test showed, in words; none of what is no test of speed.
#[must_use]
pub fn shown_by(tool: &str, outcome: &Outcome) -> Option<String> {
    let Outcome::Measured { down_mbps, up_mbps, .. } = outcome else { return None };
    Some(format!("{tool}: {} / {} Mb/s", rate(*down_mbps), rate(*up_mbps)))
}

fn rate(rate: MbitPerSec) -> String {
    if rate.get() < 10.0 { format!("{:.1}", rate.get()) } else { format!("{:.0}", rate.get()) }
}

/// Whether what was checked holds; none where nothing was checked.
#[must_use]
pub fn holds(outcome: &Outcome) -> Option<bool> {
    match outcome {
        Outcome::Film { check } => {
            let waits = [Some(check.started_ms), check.sought_ms];
            Some(check.stalls == 0 && waits.into_iter().flatten().all(|wait| wait.get() <= WAIT_MS))
        }
        Outcome::Call { check } => Some(check.gaps == 0 && check.delay_ms.get() <= TALK_MS),
        Outcome::Walked { check } => Some(check.gaps.iter().all(|gap| gap.lasted_ms.get() <= UNNOTICED_MS)),
        Outcome::Measured { .. } | Outcome::NoConnection | Outcome::Heard | Outcome::Skipped => None,
    }
}

/// By what it is judged whether a check holds, in words.
#[must_use]
pub fn rule() -> String {
    let seconds = |ms: f64| ms / 1000.0;
    format!(
        "A film holds when it starts and seeks within {} s and never stands still; a call when no gap is longer than {} s and it goes \
         there and back in {TALK_MS} ms; a walk when no gap is longer than {} s.",
        seconds(WAIT_MS),
        seconds(CALL_GAP_MS),
        seconds(UNNOTICED_MS)
    )
}

fn seconds(span: Millis) -> String {
    format!("{:.1} s", span.get() / 1000.0)
}

fn times(count: u32) -> String {
    if count == 1 { "once".to_owned() } else { format!("{count} times") }
}

fn film(check: &FilmCheck) -> String {
    let sought = check.sought_ms.map(|ms| format!(", {} after a seek", seconds(ms))).unwrap_or_default();
    let still = if check.stalls == 0 {
        format!("played {} without a stop", seconds(check.watched_ms))
    } else {
        format!("stood still {}, {} of {}", times(check.stalls), seconds(check.stalled_ms), seconds(check.watched_ms))
    };
    format!("film at {:.0} Mb/s: picture after {}{sought}; {still}", check.rate_mbps.get(), seconds(check.started_ms))
}

fn call(check: &CallCheck) -> String {
    let broken = if check.gaps == 0 {
        format!("held {} without a gap", seconds(check.held_ms))
    } else {
        format!("broken {}, the longest for {}", times(check.gaps), seconds(check.longest_gap_ms))
    };
    format!("call at {:.0} Mb/s: {broken}, {:.0} ms there and back", check.rate_mbps.get(), check.delay_ms.get())
}

fn walk(check: &WalkCheck) -> String {
    let longest = check.gaps.iter().map(|gap| gap.lasted_ms.get()).fold(0.0, f64::max);
    if check.gaps.is_empty() {
        return format!("walked {} without a gap, {:.0} ms", seconds(check.walked_ms), check.delay_ms.get());
    }
    let count = check.gaps.len();
    let gaps = if count == 1 { "one gap".to_owned() } else { format!("{count} gaps, the longest") };
    format!("walked {}: {gaps} of {}", seconds(check.walked_ms), seconds(Millis::new(longest)))
}
