//! From the raw samples of a test to the figures that are kept of it.
//!
//! A test is spoiled or it has all its figures: nothing is read off half a test. The settled value counts, never a flash
//! ([`settle`]); how often to test again follows from how well the median is known ([`enough`]).

pub mod enough;
mod film;
mod gaps;
pub mod settle;
mod spoiled;
mod way;

use busy_hen_home::Outcome;
use busy_hen_home::raw::{Arrived, RawTest, RawTransfer, RoundTrip};
use busy_hen_units::{MbitPerSec, Millis};
use serde::Serialize;
use utoipa::ToSchema;

pub use film::film;
pub use gaps::{CALL_GAP_MS, call, walk};
pub use spoiled::{IDLE_LEAST, Spoiled, WARMING_UP};
pub use way::same_line;

use busy_hen_predict::summary::quantile;
use settle::{STEP_MS, rates, settled_from};

/// Points of the trace that is kept with a run.
const TRACE_POINTS: usize = 60;

/// What a test comes to.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TestFigures {
    /// Download once settled.
    pub down: Settled,
    /// Upload once settled.
    pub up: Settled,
    /// Median round trip with nothing else going on.
    pub idle_ms: Millis,
    /// Jitter of the round trips with nothing else going on.
    pub jitter_ms: Millis,
}

/// One direction of a test.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Settled {
    /// Mean rate from where it had settled to its end.
    pub rate_mbps: MbitPerSec,
    /// When it had settled, from the first byte on.
    pub after_ms: Millis,
    /// Median round trip from there on; none when none was taken.
    pub loaded_ms: Option<Millis>,
    /// The rate over the whole length, at even steps.
    pub trace_mbps: Vec<MbitPerSec>,
}

impl TestFigures {
    /// As it is kept of a run: the delay under load is that of the worse direction. Loss can't be seen over a connection that sends again
    /// what was lost.
    #[must_use]
    pub fn outcome(&self) -> Outcome {
        let worse = [self.down.loaded_ms, self.up.loaded_ms].into_iter().flatten();
        Outcome::Measured {
            down_mbps: rounded(self.down.rate_mbps),
            up_mbps: rounded(self.up.rate_mbps),
            idle_ms: Some(tenth(self.idle_ms)),
            loaded_ms: worse.map(tenth).max_by(|a, b| a.get().total_cmp(&b.get())),
            jitter_ms: Some(tenth(self.jitter_ms)),
            loss_percent: None,
        }
    }
}

/// The part of the way that limits what arrives.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum SlowLeg {
    /// Within the home: Wi-Fi, cables, kit.
    Home,
    /// Beyond the router: the line, and what lies behind it.
    Line,
}

/// Two legs closer than this are not told apart: runs one after the other differ by as much (engineering estimate).
pub(crate) const TOLD_APART: f64 = 0.9;

/// Which part of the way limits the download, of a test within the home and one beyond the line taken right after it. The second goes
/// over both parts, so it is not faster but by chance.
#[must_use]
pub fn slow_leg(within: &TestFigures, beyond: &TestFigures) -> SlowLeg {
    let (home, far) = (within.down.rate_mbps.get(), beyond.down.rate_mbps.get());
    // Where as much arrives from beyond as from within, what lies within limits both.
    if far < TOLD_APART * home { SlowLeg::Line } else { SlowLeg::Home }
}

/// Kept to three figures at least: what is finer is noise.
fn rounded(rate: MbitPerSec) -> MbitPerSec {
    let step = if rate.get() < 10.0 { 100.0 } else { 10.0 };
    MbitPerSec::new((rate.get() * step).round() / step)
}

fn tenth(span: Millis) -> Millis {
    Millis::new((span.get() * 10.0).round() / 10.0)
}

/// The figures of a test.
///
/// # Errors
/// [`Spoiled`] when the samples don't show what the link does: interrupted, cut short, stalled, or by a clock that was set.
pub fn figures(test: &RawTest) -> Result<TestFigures, Spoiled> {
    spoiled::look(test)?;
    let idle: Vec<f64> = test.idle.iter().skip(WARMING_UP).map(|trip| trip.took_ms.get()).collect();
    Ok(TestFigures {
        down: settled(&test.down)?,
        up: settled(&by_the_devices_clock(&test.up, &test.idle))?,
        idle_ms: median(idle.clone()).ok_or(Spoiled::TooFewExchanges)?,
        jitter_ms: jitter(&idle),
    })
}

/// A transfer counted by the far side's clock, told by the device's: an answer is taken to leave in the middle of its round trip, as in
/// RFC 5905, 8.
fn by_the_devices_clock(transfer: &RawTransfer, idle: &[RoundTrip]) -> RawTransfer {
    let ahead = median(idle.iter().map(|trip| (trip.far_ms - trip.at_ms - trip.took_ms * 0.5).get()).collect());
    let ahead = ahead.unwrap_or_default();
    let arrived = transfer.arrived.iter().map(|count| Arrived { at_ms: count.at_ms - ahead, ..*count });
    RawTransfer { arrived: arrived.collect(), loaded: transfer.loaded.clone() }
}

fn settled(transfer: &RawTransfer) -> Result<Settled, Spoiled> {
    let series = rates(&transfer.arrived);
    let from = settled_from(&series).ok_or(Spoiled::CutShort)?;
    let mean = |part: &[f64]| part.iter().sum::<f64>() / part.len().max(1) as f64;
    let after_ms = from as f64 * STEP_MS;
    let begun = transfer.arrived.first().map_or(0.0, |first| first.at_ms.get());
    let loaded = |trip: &&RoundTrip| trip.at_ms.get() >= begun + after_ms;
    Ok(Settled {
        rate_mbps: MbitPerSec::new(mean(&series[from..])),
        after_ms: Millis::new(after_ms),
        loaded_ms: median(transfer.loaded.iter().filter(loaded).map(|trip| trip.took_ms.get()).collect()),
        trace_mbps: series
            .chunks(series.len().div_ceil(TRACE_POINTS).max(1))
            .map(|chunk| rounded(MbitPerSec::new(mean(chunk))))
            .collect(),
    })
}

fn median(mut values: Vec<f64>) -> Option<Millis> {
    values.sort_by(f64::total_cmp);
    quantile(&values, 0.5).map(Millis::new)
}

/// Jitter of round trips in the order they were taken, ms: a running mean of their changes with gain 1/16.
///
/// # Source
/// RFC 3550, 6.4.1: `J += (|D| - J) / 16`, here with the change of the round trip for `D`, since the two clocks are not compared.
#[must_use]
pub fn jitter(round_trips_ms: &[f64]) -> Millis {
    Millis::new(
        round_trips_ms.windows(2).fold(0.0, |jitter, pair| jitter + ((pair[1] - pair[0]).abs() - jitter) / 16.0),
    )
}
