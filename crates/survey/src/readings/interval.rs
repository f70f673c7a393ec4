//! The 95 % interval of a median of runs.

use statrs::distribution::{Binomial, ContinuousCDF, DiscreteCDF, StudentsT};

use super::rank_test::NOTHING;

/// Confidence of all intervals.
pub const CONFIDENCE: f64 = 0.95;
/// Fewest runs of which the order alone gives such an interval.
const BY_ORDER: usize = 6;

/// The 95 % interval of the median of these values, none negative; none of fewer than two.
///
/// From six values on by their order, between two steps of which it lies on a hyperbola (it then holds for about any distribution); of
/// fewer by Student's t over their logarithms, since speeds spread by a factor.
///
/// # Source
/// Hettmansperger and Sheather (1986), "Confidence intervals based on interpolated order statistics".
#[must_use]
pub fn median_interval(values: &[f64]) -> Option<(f64, f64)> {
    let mut sorted = values.to_vec();
    sorted.sort_by(f64::total_cmp);
    let count = sorted.len();
    if count < 2 {
        return None;
    }
    if count < BY_ORDER {
        let logs: Vec<f64> = sorted.iter().map(|value| value.max(NOTHING).ln()).collect();
        let mean = logs.iter().sum::<f64>() / count as f64;
        let variance = logs.iter().map(|own| (own - mean).powi(2)).sum::<f64>() / (count as f64 - 1.0);
        let half = t_quantile(count as f64 - 1.0) * (variance / count as f64).sqrt();
        return Some(((mean - half).exp(), (mean + half).exp()));
    }
    let binomial = Binomial::new(0.5, count as u64).ok()?;
    // Coverage of the interval from the k-th lowest to the k-th highest.
    let covers = |k: usize| 1.0 - 2.0 * binomial.cdf(k as u64 - 1);
    let k = (1..=count / 2).take_while(|k| covers(*k) >= CONFIDENCE).last()?;
    let (wide, narrow) = (covers(k), if k + 1 > count / 2 { 0.0 } else { covers(k + 1) });
    let part = (wide - CONFIDENCE) / (wide - narrow).max(f64::MIN_POSITIVE);
    let n = count as f64;
    let own = k as f64;
    let weight = ((n - own) * part / (own + (n - 2.0 * own) * part)).clamp(0.0, 1.0);
    let at = |from: usize, to: usize| sorted[from] * (1.0 - weight) + sorted[to] * weight;
    let inner = (k + 1).min(count / 2 + 1);
    Some((at(k - 1, inner - 1), at(count - k, count - inner)))
}

/// Student's t that leaves 2.5 % above it.
#[must_use]
pub fn t_quantile(freedom: f64) -> f64 {
    StudentsT::new(0.0, 1.0, freedom).map_or(f64::INFINITY, |t| t.inverse_cdf(0.5 + CONFIDENCE / 2.0))
}
