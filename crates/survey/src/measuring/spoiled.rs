//! Tests that say nothing of the link: something else came between.

use busy_hen_home::raw::{Interruption, RawTest, RawTransfer, RoundTrip};
use serde::Serialize;
use thiserror::Error;
use utoipa::ToSchema;

/// Round trips of the idle part that count, below which it says nothing.
pub const IDLE_LEAST: usize = 20;
/// Round trips at the beginning of the idle part that don't count: connection and program are still warming up (engineering estimate).
pub const WARMING_UP: usize = 10;

/// Silence, neither bytes nor answers, beyond which the device itself is taken to have slept, ms.
const SILENCE_MS: f64 = 3000.0;
/// How far the two clocks of a device may drift apart during a test, ms.
const CLOCKS_APART_MS: f64 = 500.0;
/// Shortest transfer that counts, ms.
const SHORTEST_MS: f64 = 2000.0;

/// Why a test does not count. The words are the user's: what happened, and what to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Spoiled {
    /// The page was covered.
    #[error("The page was covered or the screen locked during the test; keep it in view and test again.")]
    Hidden,
    /// It was stopped.
    #[error("The test was stopped before its end; test again.")]
    Stopped,
    /// The connection broke.
    #[error("The connection broke during the test; test again, or note “no connection” when it does not come back.")]
    Broken,
    /// A clock was set, or the device slept.
    #[error("The clock of the device jumped during the test; test again.")]
    ClockJump,
    /// Nothing came or went for seconds.
    #[error("Nothing came or went for three seconds; test again, or note “no connection” when that is how it is here.")]
    Stalled,
    /// Too short to have settled.
    #[error("The test was cut short before its speed had settled; test again.")]
    CutShort,
    /// Not enough exchanges with nothing else going on.
    #[error("Fewer than 20 round trips were answered before the transfer; test again.")]
    TooFewExchanges,
    /// Samples that no test records.
    #[error("The samples of this test contradict one another; load the page anew and test again.")]
    Nonsense,
    /// Another network carried it.
    #[error("Another network carried the test: its address is not of this home. Turn mobile data off and test again.")]
    OtherNetwork,
    /// It reached the far end from elsewhere than the home.
    #[error(
        "The far end saw this phone come from another address than the test machine: a private relay, a VPN or mobile data carried \
         it, so it says nothing of this line. Switch that off and test again."
    )]
    OtherWay,
}

/// Whether nothing came between; what came first is told.
pub(super) fn came_between(interruptions: &[Interruption]) -> Result<(), Spoiled> {
    match interruptions.first() {
        None => Ok(()),
        Some(Interruption::Hidden) => Err(Spoiled::Hidden),
        Some(Interruption::Stopped) => Err(Spoiled::Stopped),
        Some(Interruption::Broken) => Err(Spoiled::Broken),
    }
}

pub(super) fn look(test: &RawTest) -> Result<(), Spoiled> {
    came_between(&test.interruptions)?;
    if !sound(test) {
        return Err(Spoiled::Nonsense);
    }
    if (test.steady_ms - test.wall_ms).get().abs() > CLOCKS_APART_MS {
        return Err(Spoiled::ClockJump);
    }
    if test.idle.len() < WARMING_UP + IDLE_LEAST {
        return Err(Spoiled::TooFewExchanges);
    }
    for transfer in [&test.down, &test.up] {
        let (first, last) = (transfer.arrived.first(), transfer.arrived.last());
        let Some((first, last)) = first.zip(last) else { return Err(Spoiled::CutShort) };
        if silent(transfer) {
            return Err(Spoiled::Stalled);
        }
        if (last.at_ms - first.at_ms).get() < SHORTEST_MS {
            return Err(Spoiled::CutShort);
        }
    }
    Ok(())
}

/// Whether the samples can be of a test at all: times go on, counts never fall, nothing is negative or endless.
fn sound(test: &RawTest) -> bool {
    let transfer = |own: &RawTransfer| {
        trips_sound(&own.loaded)
            && own.arrived.iter().all(|count| (0.0..=3.6e6).contains(&count.at_ms.get()))
            && own.arrived.is_sorted_by(|a, b| a.at_ms.get() <= b.at_ms.get() && a.bytes <= b.bytes)
    };
    let clocks = [test.steady_ms, test.wall_ms].iter().all(|span| span.get().is_finite());
    clocks && trips_sound(&test.idle) && transfer(&test.down) && transfer(&test.up)
}

/// Whether exchanges are of a test: within an hour, none negative.
pub(super) fn trips_sound(list: &[RoundTrip]) -> bool {
    let span = |ms: f64| (0.0..=3.6e6).contains(&ms);
    list.iter().all(|trip| span(trip.at_ms.get()) && span(trip.took_ms.get()) && span(trip.far_ms.get()))
}

/// Whether neither bytes arrived nor an exchange was answered for too long.
fn silent(transfer: &RawTransfer) -> bool {
    let news = transfer.arrived.windows(2).filter(|pair| pair[1].bytes > pair[0].bytes).map(|pair| pair[1].at_ms.get());
    let answered = transfer.loaded.iter().map(|trip| (trip.at_ms + trip.took_ms).get());
    let (begun, ended) = match (transfer.arrived.first(), transfer.arrived.last()) {
        (Some(first), Some(last)) => (first.at_ms.get(), last.at_ms.get()),
        _ => return false,
    };
    let mut signs: Vec<f64> = news.chain(answered).filter(|at| (begun..ended).contains(at)).collect();
    signs.extend([begun, ended]);
    signs.sort_by(f64::total_cmp);
    signs.windows(2).any(|pair| pair[1] - pair[0] > SILENCE_MS)
}
