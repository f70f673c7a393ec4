//! How a channel's airtime is shared.

/// Part of the airtime left for one more sender when others are active with these parts of it.
///
/// What is idle can be had; and however busy the others are, the medium gives each of n + 1 senders its turn.
///
/// # Source
/// Fairness of the distributed coordination function, IEEE 802.11 clause 10.3; within the range of a slot simulation with one and
/// two saturated neighbours (`docs/MODEL.md`).
#[must_use]
pub fn airtime_share(others: &[f64]) -> f64 {
    let active: Vec<f64> = others.iter().copied().filter(|part| *part > 0.0).collect();
    let idle = 1.0 - active.iter().sum::<f64>();
    idle.max(1.0 / (active.len() as f64 + 1.0))
}
