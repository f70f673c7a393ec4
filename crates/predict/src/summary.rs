//! Median and spread of the runs at a spot.

use std::collections::HashMap;

use busy_hen_home::{Outcome, Run, RunId, Situation, SpotId};
use serde::Serialize;
use utoipa::ToSchema;

/// Under this many runs the low run is the lowest, else the 10 % quantile.
const QUANTILE_FROM: usize = 10;

/// How a figure spreads over the runs of a spot, in the figure's own unit.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Figures {
    /// The low run: the 10 % quantile, or the lowest of fewer than ten.
    pub low: f64,
    /// Lower quartile.
    pub lower_quartile: f64,
    /// Median.
    pub median: f64,
    /// Upper quartile.
    pub upper_quartile: f64,
    /// The high run: the 90 % quantile, or the highest of fewer than ten.
    pub high: f64,
    /// Mean.
    pub mean: f64,
}

/// What the runs at a spot, or in a room, come to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Summary {
    /// Runs that count.
    pub runs: usize,
    /// Of these, how many found no connection; they enter as 0 Mb/s.
    pub without_connection: usize,
    /// Download, Mb/s.
    pub down_mbps: Figures,
    /// Upload, Mb/s.
    pub up_mbps: Figures,
    /// Idle round trip of the runs that took it, ms; none when none did.
    pub idle_ms: Option<Figures>,
    /// Round trip under load of the runs that took it, ms; none when none did.
    pub loaded_ms: Option<Figures>,
}

impl Summary {
    /// The round trip that a need is judged by: without load where nobody else was busy, else under load where a run took that.
    #[must_use]
    pub fn felt_ms(&self, situation: Situation) -> Option<Figures> {
        match situation {
            Situation::Alone => self.idle_ms,
            Situation::BusyEvening => self.loaded_ms.or(self.idle_ms),
        }
    }
}

/// Value below which this part of the sorted values lies, linear between them.
///
/// # Source
/// Hyndman and Fan (1996), "Sample quantiles in statistical packages", definition 7.
#[must_use]
pub fn quantile(sorted: &[f64], part: f64) -> Option<f64> {
    let last = sorted.len().checked_sub(1)?;
    let place = part.clamp(0.0, 1.0) * last as f64;
    let (low, high) = (sorted[place.floor() as usize], sorted[place.ceil() as usize]);
    Some(low + (high - low) * place.fract())
}

impl Figures {
    /// The figures of these values; none when there are none.
    #[must_use]
    pub fn of(mut values: Vec<f64>) -> Option<Self> {
        values.sort_by(f64::total_cmp);
        let many = values.len() >= QUANTILE_FROM;
        let at = |part| quantile(&values, part);
        Some(Self {
            low: at(if many { 0.1 } else { 0.0 })?,
            lower_quartile: at(0.25)?,
            median: at(0.5)?,
            upper_quartile: at(0.75)?,
            high: at(if many { 0.9 } else { 1.0 })?,
            mean: values.iter().sum::<f64>() / values.len() as f64,
        })
    }
}

/// Sums up the tests of speed that count; none when none does.
pub fn summarise<'a>(runs: impl IntoIterator<Item = &'a Run>) -> Option<Summary> {
    let (mut down, mut up, mut idle, mut loaded) = (Vec::new(), Vec::new(), Vec::new(), Vec::new());
    let mut without_connection = 0;
    for run in runs.into_iter().filter(|run| run.counts()) {
        match &run.outcome {
            Outcome::Measured { down_mbps, up_mbps, idle_ms, loaded_ms, .. } => {
                down.push(down_mbps.get());
                up.push(up_mbps.get());
                idle.extend(idle_ms.map(|ms| ms.get()));
                loaded.extend(loaded_ms.map(|ms| ms.get()));
            }
            Outcome::NoConnection => {
                without_connection += 1;
                down.push(0.0);
                up.push(0.0);
            }
            Outcome::Heard
            | Outcome::Film { .. }
            | Outcome::Call { .. }
            | Outcome::Walked { .. }
            | Outcome::Skipped => {}
        }
    }
    Some(Summary {
        runs: down.len(),
        without_connection,
        down_mbps: Figures::of(down)?,
        up_mbps: Figures::of(up)?,
        idle_ms: Figures::of(idle),
        loaded_ms: Figures::of(loaded),
    })
}

/// The spot of a room with the lowest median download: a room is as good as its worst spot.
#[must_use]
pub fn worst(spots: &[SpotId], measured: &HashMap<SpotId, Summary>) -> Option<(SpotId, Summary)> {
    let there = spots.iter().filter_map(|spot| Some((*spot, *measured.get(spot)?)));
    there.min_by(|a, b| a.1.down_mbps.median.total_cmp(&b.1.down_mbps.median))
}

/// Runs below which none is called an outlier.
const OUTLIERS_FROM: usize = 5;

/// Tests of speed whose download is far off the others: they still count, but are to be looked at.
///
/// # Source
/// Tukey (1977), "Exploratory Data Analysis": beyond 1.5 times the middle half's width from its ends.
pub fn outliers<'a>(runs: impl IntoIterator<Item = &'a Run>) -> Vec<RunId> {
    let down = |run: &'a Run| match &run.outcome {
        Outcome::Measured { down_mbps, .. } => Some((run.id, down_mbps.get())),
        Outcome::NoConnection => Some((run.id, 0.0)),
        _ => None,
    };
    let list: Vec<(RunId, f64)> = runs.into_iter().filter(|run| run.counts()).filter_map(down).collect();
    let mut sorted: Vec<f64> = list.iter().map(|(_, rate)| *rate).collect();
    sorted.sort_by(f64::total_cmp);
    let (Some(low), Some(high)) = (quantile(&sorted, 0.25), quantile(&sorted, 0.75)) else { return Vec::new() };
    let reach = 1.5 * (high - low);
    let off = |(_, rate): &&(RunId, f64)| *rate < low - reach || *rate > high + reach;
    if list.len() < OUTLIERS_FROM { Vec::new() } else { list.iter().filter(off).map(|(id, _)| *id).collect() }
}
