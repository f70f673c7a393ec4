//! When a need is met: one definition, used everywhere.

use busy_hen_home::{Range, Situation};
use busy_hen_units::{MbitPerSec, Millis};
use serde::Serialize;
use utoipa::ToSchema;

use super::activity::Need;
use crate::summary::Summary;

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
pub fn predicted(need: &Need, down: &Range, up: &Range, latency: Millis) -> Verdict {
    if need.met_by(down.poor, up.poor, latency) {
        Verdict::Met
    } else if need.met_by(down.middle, up.middle, latency) {
        Verdict::Likely
    } else {
        Verdict::NotMet
    }
}

/// Measurements judged: met when the medians and the low run meet every part, just met when the medians alone do.
///
/// The low run is the 10 % quantile, or the lowest of fewer than ten; for delay it is the high end. Delay is judged without load where
/// nobody else was busy, else under load; where no run took it, speeds alone are judged.
#[must_use]
pub fn measured(need: &Need, summary: &Summary, situation: Situation) -> Verdict {
    if summary.runs == summary.without_connection {
        return Verdict::NotMet;
    }
    let rate = MbitPerSec::new;
    let met = |down: f64, up: f64, ms: Option<f64>| need.met_by(rate(down), rate(up), Millis::new(ms.unwrap_or(0.0)));
    let felt = summary.felt_ms(situation);
    if !met(summary.down_mbps.median, summary.up_mbps.median, felt.map(|own| own.median)) {
        Verdict::NotMet
    } else if met(summary.down_mbps.low, summary.up_mbps.low, felt.map(|own| own.high)) {
        Verdict::Met
    } else {
        Verdict::JustMet
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn judged(down: [f64; 3], up: [f64; 3], latency: f64) -> Verdict {
        let range = |[poor, middle, good]: [f64; 3]| Range {
            poor: MbitPerSec::new(poor),
            middle: MbitPerSec::new(middle),
            good: MbitPerSec::new(good),
        };
        let need =
            Need { down_mbps: MbitPerSec::new(30.0), up_mbps: MbitPerSec::new(5.0), latency_ms: Millis::new(100.0) };
        predicted(&need, &range(down), &range(up), Millis::new(latency))
    }

    #[test]
    fn a_prediction_is_met_by_its_poor_end_likely_by_its_middle_and_else_not() {
        let enough = [5.0, 9.0, 12.0];
        assert_eq!(judged([30.0, 50.0, 70.0], enough, 20.0), Verdict::Met);
        assert_eq!(judged([29.0, 50.0, 70.0], enough, 20.0), Verdict::Likely);
        assert_eq!(judged([10.0, 29.0, 70.0], enough, 20.0), Verdict::NotMet, "the good end does not count");
        assert_eq!(judged([30.0, 50.0, 70.0], [1.0, 6.0, 9.0], 20.0), Verdict::Likely, "upload counts as well");
        assert_eq!(judged([30.0, 50.0, 70.0], enough, 120.0), Verdict::NotMet, "delay counts as well");
    }

    #[test]
    fn verdicts_are_in_order_so_that_they_can_be_counted() {
        assert!(
            Verdict::NotMet < Verdict::JustMet && Verdict::JustMet < Verdict::Likely && Verdict::Likely < Verdict::Met
        );
    }
}
