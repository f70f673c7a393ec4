//! Phones that began together: each one's share, and what all of them got.

use busy_hen_home::{Outcome, Run};
use busy_hen_units::{MbitPerSec, Millis};
use jiff::Timestamp;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

/// Runs that began together.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Rush {
    /// By which name they go.
    pub together: Uuid,
    /// When the first of them was taken.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// The runs, the one that got least first.
    pub runs: Vec<Run>,
    /// Download of all together.
    pub down_mbps: MbitPerSec,
    /// Upload of all together.
    pub up_mbps: MbitPerSec,
    /// How evenly the download was shared: 1 when all got the same, 1/n when one of n got everything.
    pub fairness: f64,
    /// The longest delay under load of any; none when none took it.
    pub worst_loaded_ms: Option<Millis>,
}

/// The runs of a round that count and began together, the newest lot first.
///
/// # Source
/// Fairness: Jain, Chiu and Hawe (1984), DEC-TR-301: square of the sum over n times the sum of squares.
#[must_use]
pub fn rushes(runs: &[Run]) -> Vec<Rush> {
    let mut lots: Vec<(Uuid, Vec<&Run>)> = Vec::new();
    for run in runs.iter().filter(|run| run.counts()) {
        let Some(together) = run.together else { continue };
        match lots.iter_mut().find(|(own, _)| *own == together) {
            Some((_, lot)) => lot.push(run),
            None => lots.push((together, vec![run])),
        }
    }
    let mut list: Vec<Rush> = lots.into_iter().filter_map(|(together, lot)| rush(together, lot)).collect();
    list.sort_by_key(|rush| std::cmp::Reverse(rush.at));
    list
}

fn rush(together: Uuid, mut runs: Vec<&Run>) -> Option<Rush> {
    let rates = |run: &Run| match &run.outcome {
        Outcome::Measured { down_mbps, up_mbps, .. } => (down_mbps.get(), up_mbps.get()),
        _ => (0.0, 0.0),
    };
    let loaded = |run: &Run| match &run.outcome {
        Outcome::Measured { loaded_ms, .. } => *loaded_ms,
        _ => None,
    };
    runs.sort_by(|a, b| rates(a).0.total_cmp(&rates(b).0));
    let down: Vec<f64> = runs.iter().map(|run| rates(run).0).collect();
    let (sum, squares) = (down.iter().sum::<f64>(), down.iter().map(|rate| rate * rate).sum::<f64>());
    Some(Rush {
        together,
        at: runs.iter().map(|run| run.at).min()?,
        down_mbps: MbitPerSec::new(sum),
        up_mbps: MbitPerSec::new(runs.iter().map(|run| rates(run).1).sum()),
        fairness: if squares > 0.0 { sum * sum / (down.len() as f64 * squares) } else { 1.0 },
        worst_loaded_ms: runs.iter().filter_map(|run| loaded(run)).reduce(|a, b| if b > a { b } else { a }),
        runs: runs.into_iter().cloned().collect(),
    })
}
