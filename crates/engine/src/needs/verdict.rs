//! When a need is met: one definition, used everywhere.

use busy_hen_units::{MbitPerSec, Millis};
use serde::Serialize;
use utoipa::ToSchema;

use super::activity::Need;
use crate::predict::Prediction;
use crate::readings::Summary;

/// Whether a need is met.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Verdict {
    /// Not even the middle meets it.
    NotMet,
    /// Measured: the medians meet it and the low run does not.
    JustMet,
    /// Predicted: the middle meets it and the poor end does not.
    Likely,
    /// It is met, by the low run or the poor end too.
    Met,
}

/// A prediction judged: met when the poor end (10 %) of the likely range meets the need, likely when the middle does.
#[must_use]
pub fn predicted(need: &Need, prediction: &Prediction) -> Verdict {
    let latency = prediction.latency_ms;
    if need.met_by(prediction.down.poor, prediction.up.poor, latency) {
        Verdict::Met
    } else if need.met_by(prediction.down.middle, prediction.up.middle, latency) {
        Verdict::Likely
    } else {
        Verdict::NotMet
    }
}

/// Measurements judged: met when the medians and the low run meet every part, just met when the medians alone do.
///
/// The low run is the 10 % quantile, or the lowest of fewer than ten; for delay it is the high end.
#[must_use]
pub fn measured(need: &Need, summary: &Summary) -> Verdict {
    let Some(idle) = summary.idle_ms else { return Verdict::NotMet };
    let rate = MbitPerSec::new;
    let met = |down: f64, up: f64, ms: f64| need.met_by(rate(down), rate(up), Millis::new(ms));
    if !met(summary.down_mbps.median, summary.up_mbps.median, idle.median) {
        Verdict::NotMet
    } else if met(summary.down_mbps.low, summary.up_mbps.low, idle.high) {
        Verdict::Met
    } else {
        Verdict::JustMet
    }
}
