//! Two sets of runs set against each other: their ratio with its 95 % interval, and whether it is more than chance.
//!
//! Runs of one visit share what that visit shares: where people sat, what the neighbours did, how the kit had chosen its channels. So runs
//! are compared within the visits in which both were tested; where there is none such, what a visit may do is added to the noise.

use busy_hen_predict::summary::quantile;
use serde::Serialize;
use statrs::distribution::{ContinuousCDF, Normal, StudentsT};
use utoipa::ToSchema;

use super::interval::{CONFIDENCE, t_quantile};
use super::rank_test::{NOTHING, Strata, null_without_ties};

/// How much a visit moves all of its readings, as a part (engineering estimate; half the spread of single runs).
const VISIT: f64 = 0.05;
/// Level at which chance is ruled out.
pub const LEVEL: f64 = 1.0 - CONFIDENCE;
/// Runs beyond which it is not said how many more would do.
const MOST_MORE: usize = 30;

/// A figure of a run, with the visit it was taken on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Reading {
    /// Number of the visit.
    pub visit: usize,
    /// The figure: Mb/s or ms.
    pub value: f64,
}

/// What a comparison rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RestsOn {
    /// Visits on which both were tested.
    SameVisits,
    /// Visits of their own: what a visit does can't be told from what the setup does, and counts as noise.
    OwnVisits,
}

/// One set of runs against another.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct Ratio {
    /// The other over the reference, in the middle.
    pub ratio: f64,
    /// The ends of its 95 % interval; none with too few runs for one.
    #[schema(value_type = Option<Vec<f64>>)]
    pub interval: Option<(f64, f64)>,
    /// Probability that chance alone sets them so far apart, two-sided; none with too few runs to say.
    pub p: Option<f64>,
    /// The least that this could be with so many runs.
    pub least_p: f64,
    /// What it rests on.
    pub basis: RestsOn,
    /// Visits of the reference, and of the other.
    #[schema(value_type = Vec<usize>)]
    pub visits: (usize, usize),
    /// Runs of the reference, and of the other.
    #[schema(value_type = Vec<usize>)]
    pub runs: (usize, usize),
}

/// What a comparison says, once all rooms that were looked at are counted.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Call {
    /// They differ beyond the noise.
    Beyond,
    /// No difference is shown.
    NotShown,
    /// So few runs can't show any.
    CantTell {
        /// Runs more at each that could; none when no number would, as long as each is tested on visits of its own.
        more: Option<usize>,
    },
}

fn log(reading: &Reading) -> f64 {
    reading.value.max(NOTHING).ln()
}

fn visits(list: &[Reading]) -> Vec<usize> {
    let mut visits: Vec<usize> = list.iter().map(|own| own.visit).collect();
    visits.sort_unstable();
    visits.dedup();
    visits
}

/// Sets readings against those of the reference; none when either has none.
///
/// Within visits: median of all pairs' ratios (Hodges and Lehmann 1963), the interval by inverting the rank test, exact for the counts at hand,
/// or by Student's t over logarithms where no such interval reaches 95 % (three runs against three), and the exact rank test over all visits.
/// Over visits of their own: means of logarithms by Student's t, with 5 % of each visit's own in the noise.
///
/// # Complexity
/// O(m n log (m n)) and the rank test's
#[must_use]
pub fn ratio(reference: &[Reading], other: &[Reading]) -> Option<Ratio> {
    if reference.is_empty() || other.is_empty() {
        return None;
    }
    let (first, second) = (visits(reference), visits(other));
    let both: Vec<usize> = first.iter().copied().filter(|own| second.contains(own)).collect();
    let of = |list: &[Reading], visit: usize| -> Vec<f64> {
        list.iter().filter(|own| own.visit == visit).map(log).collect()
    };
    let told = |basis, ratio: f64, interval: Option<(f64, f64)>, p, least_p| Ratio {
        ratio: ratio.exp(),
        interval: interval.map(|(low, high)| (low.exp(), high.exp())),
        p,
        least_p,
        basis,
        visits: (first.len(), second.len()),
        runs: (reference.len(), other.len()),
    };
    if both.is_empty() {
        let (middle, interval, p) = over_visits(reference, other, &first, &second);
        return Some(told(RestsOn::OwnVisits, middle, interval, p, 0.0));
    }
    let strata: Vec<(Vec<f64>, Vec<f64>)> =
        both.iter().map(|visit| (of(reference, *visit), of(other, *visit))).collect();
    let mut pairs: Vec<f64> =
        strata.iter().flat_map(|(a, b)| a.iter().flat_map(move |x| b.iter().map(move |y| y - x))).collect();
    pairs.sort_by(f64::total_cmp);
    let middle = quantile(&pairs, 0.5).unwrap_or(0.0);
    let ranked = Strata::new(&strata);
    let interval = by_ranks(&strata, &pairs).or_else(|| by_t(&strata));
    Some(told(RestsOn::SameVisits, middle, interval, Some(ranked.probability()), ranked.least_probability()))
}

/// Ends of the interval that inverts the rank test; none when it can't reach 95 %.
fn by_ranks(strata: &[(Vec<f64>, Vec<f64>)], pairs: &[f64]) -> Option<(f64, f64)> {
    let counts = null_without_ties(strata.iter().map(|(a, b)| (a.len(), b.len())));
    let whole: f64 = counts.iter().sum();
    let mut below = 0.0;
    let mut cut = None;
    for (u, ways) in counts.iter().enumerate() {
        below += ways;
        if below / whole > LEVEL / 2.0 {
            break;
        }
        cut = Some(u);
    }
    let cut = cut?;
    Some((pairs[cut], pairs[pairs.len() - 1 - cut]))
}

/// Student's t over logarithms, visit by visit, with one spread for all.
fn by_t(strata: &[(Vec<f64>, Vec<f64>)]) -> Option<(f64, f64)> {
    let mean = |list: &[f64]| list.iter().sum::<f64>() / list.len() as f64;
    let squares = |list: &[f64]| list.iter().map(|own| (own - mean(list)).powi(2)).sum::<f64>();
    let freedom = strata.iter().map(|(a, b)| (a.len() + b.len()) as f64 - 2.0).sum::<f64>();
    if freedom < 1.0 {
        return None;
    }
    let variance = strata.iter().map(|(a, b)| squares(a) + squares(b)).sum::<f64>() / freedom;
    let weight = |(a, b): &(Vec<f64>, Vec<f64>)| 1.0 / (1.0 / a.len() as f64 + 1.0 / b.len() as f64);
    let whole: f64 = strata.iter().map(weight).sum();
    let middle = strata.iter().map(|own| weight(own) * (mean(&own.1) - mean(&own.0))).sum::<f64>() / whole;
    let half = t_quantile(freedom) * (variance / whole).sqrt();
    Some((middle - half, middle + half))
}

type RatioFound = (f64, Option<(f64, f64)>, Option<f64>);

/// Each on visits of its own.
fn over_visits(reference: &[Reading], other: &[Reading], first: &[usize], second: &[usize]) -> RatioFound {
    let Some((middle, variance, freedom)) = apart(reference, other, first, second) else {
        let mean = |list: &[Reading]| list.iter().map(log).sum::<f64>() / list.len() as f64;
        return (mean(other) - mean(reference), None, None);
    };
    let half = t_quantile(freedom) * variance.sqrt();
    let p = StudentsT::new(0.0, 1.0, freedom).map_or(1.0, |t| 2.0 * t.cdf(-(middle / variance.sqrt()).abs()));
    (middle, Some((middle - half, middle + half)), Some(p))
}

/// Difference of the logarithms, its variance, and the degrees of freedom of that.
fn apart(reference: &[Reading], other: &[Reading], first: &[usize], second: &[usize]) -> Option<(f64, f64, f64)> {
    let side = |list: &[Reading], visits: &[usize]| {
        let logs: Vec<f64> = list.iter().map(log).collect();
        let freedom = logs.len() as f64 - visits.len() as f64;
        let mut within = 0.0;
        let mut means = 0.0;
        for visit in visits {
            let own: Vec<f64> = list.iter().filter(|own| own.visit == *visit).map(log).collect();
            let mean = own.iter().sum::<f64>() / own.len() as f64;
            within += own.iter().map(|value| (value - mean).powi(2)).sum::<f64>();
            means += mean;
        }
        (freedom >= 1.0).then(|| {
            let of_runs = within / freedom / logs.len() as f64;
            (means / visits.len() as f64, of_runs, VISIT * VISIT / visits.len() as f64, freedom)
        })
    };
    let (a, b) = (side(reference, first)?, side(other, second)?);
    let variance = a.1 + a.2 + b.1 + b.2;
    // Welch and Satterthwaite; what a visit does is taken as known.
    let freedom = variance * variance / (a.1 * a.1 / a.3 + b.1 * b.1 / b.3).max(1e-12);
    Some((b.0 - a.0, variance, freedom.min(1e6)))
}

impl Ratio {
    /// What it says when this is its probability once all that were looked at are counted, and so many were.
    #[must_use]
    pub fn call(&self, adjusted: Option<f64>, looked_at: usize) -> Call {
        let looked_at = looked_at.max(1);
        match (adjusted, self.basis) {
            (Some(p), _) if p <= LEVEL => Call::Beyond,
            (None, _) => Call::CantTell { more: Some(2) },
            (_, RestsOn::SameVisits) if self.least_p * looked_at as f64 > LEVEL => {
                let (m, n) = self.runs;
                let least = |more: usize| 2.0 / ways(m + more, n + more) * looked_at as f64;
                Call::CantTell { more: (1..=MOST_MORE).find(|more| least(*more) <= LEVEL) }
            }
            _ => Call::NotShown,
        }
    }
}

/// Ways to deal so many runs to two.
fn ways(m: usize, n: usize) -> f64 {
    (1..=m).map(|i| (n + i) as f64 / i as f64).product()
}

/// Probabilities once all are counted: each is what it would take for its own to be ruled out with all smaller ones.
///
/// # Source
/// Holm (1979), "A simple sequentially rejective multiple test procedure".
#[must_use]
pub fn holm(list: &[f64]) -> Vec<f64> {
    let mut order: Vec<usize> = (0..list.len()).collect();
    order.sort_by(|a, b| list[*a].total_cmp(&list[*b]));
    let mut adjusted = vec![0.0; list.len()];
    let mut least = 0.0_f64;
    for (place, index) in order.into_iter().enumerate() {
        least = least.max(list[index] * (list.len() - place) as f64).min(1.0);
        adjusted[index] = least;
    }
    adjusted
}

/// All rooms together: one ratio and one probability for the whole home, each room by its readings of the reference and of the other.
///
/// Within visits one rank test over all rooms and visits; over visits of their own the mean of the rooms' logarithms, whose noise shares what
/// the visits do.
#[must_use]
pub fn together(rooms: &[(Vec<Reading>, Vec<Reading>)]) -> Option<Ratio> {
    let each: Vec<Ratio> = rooms.iter().filter_map(|(a, b)| ratio(a, b)).collect();
    let one = each.first()?;
    let middle = each.iter().map(|own| own.ratio.ln()).sum::<f64>() / each.len() as f64;
    let runs = each.iter().fold((0, 0), |sum, own| (sum.0 + own.runs.0, sum.1 + own.runs.1));
    let told = |interval: Option<(f64, f64)>, p, least_p, basis| Ratio {
        ratio: middle.exp(),
        interval: interval.map(|(low, high)| (low.exp(), high.exp())),
        p,
        least_p,
        basis,
        visits: one.visits,
        runs,
    };
    if each.iter().all(|own| own.basis == RestsOn::SameVisits) {
        let mut strata: Vec<(Vec<f64>, Vec<f64>)> = Vec::new();
        for (a, b) in rooms {
            let second = visits(b);
            for visit in visits(a).into_iter().filter(|own| second.contains(own)) {
                let of = |list: &[Reading]| list.iter().filter(|own| own.visit == visit).map(log).collect();
                strata.push((of(a), of(b)));
            }
        }
        let ranked = Strata::new(&strata);
        let interval = by_t(&strata);
        return Some(told(interval, Some(ranked.probability()), ranked.least_probability(), RestsOn::SameVisits));
    }
    let mut sum = (0.0, 0.0, 0.0);
    let mut shared = 0.0_f64;
    for (a, b) in rooms {
        let (first, second) = (visits(a), visits(b));
        let Some((off, variance, _)) = apart(a, b, &first, &second) else { continue };
        let of_visits = VISIT * VISIT * (1.0 / first.len() as f64 + 1.0 / second.len() as f64);
        sum = (sum.0 + off, sum.1 + variance - of_visits, sum.2 + 1.0);
        shared = shared.max(of_visits);
    }
    if sum.2 == 0.0 {
        return Some(told(None, None, 0.0, RestsOn::OwnVisits));
    }
    let (off, variance) = (sum.0 / sum.2, sum.1 / (sum.2 * sum.2) + shared);
    let freedom = runs.0 as f64 + runs.1 as f64 - 2.0 * sum.2;
    let half = t_quantile(freedom.max(1.0)) * variance.sqrt();
    let p = 2.0 * Normal::standard().cdf(-(off / variance.sqrt()).abs());
    Some(told(Some((off - half, off + half)), Some(p), 0.0, RestsOn::OwnVisits))
}

/// A trial in which two setups were tested by turns: each pair is one of each.
///
/// # Source
/// Exact sign-flip permutation of the pairs' log ratios (Fisher's randomisation of paired differences, 1935, from memory); ends of the interval
/// are those that it does not rule out, from the means of all subsets (Tukey 1949, Walsh averages for the signed rank).
#[must_use]
pub fn by_turns(pairs: &[(f64, f64)]) -> Option<Ratio> {
    /// Pairs of which all arrangements are counted.
    const MOST: usize = 16;
    let logs: Vec<f64> = pairs.iter().take(MOST).map(|(a, b)| b.max(NOTHING).ln() - a.max(NOTHING).ln()).collect();
    let count = logs.len();
    if count == 0 {
        return None;
    }
    let seen = logs.iter().sum::<f64>().abs() - 1e-12;
    let arrangements = 1_usize << count;
    let as_far = (0..arrangements)
        .filter(|signs| {
            let sum: f64 = logs.iter().enumerate().map(|(i, own)| if signs >> i & 1 == 1 { -own } else { *own }).sum();
            sum.abs() >= seen
        })
        .count();
    let least_p = 2.0 / arrangements as f64;
    let mut sorted = logs.clone();
    sorted.sort_by(f64::total_cmp);
    let interval = signed_rank_interval(&sorted);
    let middle = quantile(&walsh(&sorted), 0.5).unwrap_or(0.0);
    Some(Ratio {
        ratio: middle.exp(),
        interval: interval.map(|(low, high)| (low.exp(), high.exp())),
        p: Some(as_far as f64 / arrangements as f64),
        least_p,
        basis: RestsOn::SameVisits,
        visits: (1, 1),
        runs: (count, count),
    })
}

/// Means of all pairs, each with itself too, sorted.
fn walsh(sorted: &[f64]) -> Vec<f64> {
    let mut means: Vec<f64> = (0..sorted.len())
        .flat_map(|i| (i..sorted.len()).map(move |j| (i, j)))
        .map(|(i, j)| f64::midpoint(sorted[i], sorted[j]))
        .collect();
    means.sort_by(f64::total_cmp);
    means
}

/// The interval that inverts the signed-rank test; none when it can't reach 95 %, with fewer than six pairs.
fn signed_rank_interval(sorted: &[f64]) -> Option<(f64, f64)> {
    let count = sorted.len();
    let most = count * (count + 1) / 2;
    let mut ways = vec![0.0; most + 1];
    ways[0] = 1.0;
    for rank in 1..=count {
        for sum in (rank..=most).rev() {
            ways[sum] += ways[sum - rank];
        }
    }
    let whole: f64 = ways.iter().sum();
    let mut below = 0.0;
    let mut cut = None;
    for (sum, own) in ways.iter().enumerate() {
        below += own;
        if below / whole > LEVEL / 2.0 {
            break;
        }
        cut = Some(sum);
    }
    let (cut, means) = (cut?, walsh(sorted));
    Some((means[cut], means[means.len() - 1 - cut]))
}
