//! Whether two sets of runs differ by more than chance, and how many runs it takes to see a difference.

use std::f64::consts::PI;

use statrs::distribution::{ContinuousCDF, Normal};

/// A speed below this is as good as none, Mb/s, and a delay, ms.
pub const NOTHING: f64 = 0.1;
/// Pooled runs with ties up to which every arrangement is counted.
const EXACT_WITH_TIES: usize = 60;
/// Fewest runs of an arm that can show anything at the 5 % level with ties or without.
const FEWEST_RUNS: f64 = 4.0;
/// Normal quantile of 80 % power.
const POWER_QUANTILE: f64 = 0.841_621_2;

/// Two-sided probability that chance alone sets two samples at least so far apart, by the Mann-Whitney test. None when a sample is
/// empty.
///
/// Exact without ties, and with ties by midranks up to 60 values in all. Beyond, the normal approximation with its corrections for
/// ties and for steps; at that size it is within 0.002 of the exact value (tested at 60).
///
/// # Complexity
/// O(m^2 n) without ties, O((m + n)^2 m^2) with ties
/// # Source
/// Mann and Whitney 1947; arrangements counted by the Gaussian binomial coefficient; ties: Lehmann, Nonparametrics, 1975, section 1.4
/// (from memory).
#[must_use]
pub fn rank_test(a: &[f64], b: &[f64]) -> Option<f64> {
    if a.is_empty() || b.is_empty() {
        return None;
    }
    let mut pooled: Vec<f64> = a.iter().chain(b).copied().collect();
    pooled.sort_by(f64::total_cmp);
    let tied = pooled.windows(2).any(|pair| pair[0].total_cmp(&pair[1]).is_eq());
    Some(match (tied, pooled.len()) {
        (false, _) => probability(a.len(), b.len(), smaller_u(a, b)),
        (true, count) if count <= EXACT_WITH_TIES => with_ties(a, &pooled),
        (true, _) => approximate(a, &pooled),
    })
}

/// The smaller of the two samples' counts of pairs won.
fn smaller_u(a: &[f64], b: &[f64]) -> usize {
    let won = a.iter().flat_map(|x| b.iter().filter(move |y| x > *y)).count();
    won.min(a.len() * b.len() - won)
}

/// Two-sided probability of a U this small or smaller for samples of these sizes without ties.
///
/// # Source
/// Arrangements by U are the coefficients of the Gaussian binomial `prod (1 - q^(n+i)) / (1 - q^i)`, i from 1 to m.
#[must_use]
pub fn probability(m: usize, n: usize, u: usize) -> f64 {
    let counts = arrangements(m, n);
    let up_to: f64 = counts.iter().take(u + 1).sum();
    (2.0 * up_to / counts.iter().sum::<f64>()).min(1.0)
}

/// Arrangements of two samples without ties by U.
fn arrangements(m: usize, n: usize) -> Vec<f64> {
    let (m, n) = (m.min(n), m.max(n));
    let mut counts = vec![0.0; m * n + 1];
    counts[0] = 1.0;
    for i in 1..=m {
        for place in (n + i..counts.len()).rev() {
            counts[place] -= counts[place - n - i];
        }
        for place in i..counts.len() {
            counts[place] += counts[place - i];
        }
    }
    counts
}

/// Twice the midrank of each pooled value, so that all are whole numbers.
fn twice_midranks(pooled: &[f64]) -> Vec<usize> {
    let rank = |value: &f64| {
        let below = pooled.partition_point(|other| other.total_cmp(value).is_lt());
        let up_to = pooled.partition_point(|other| other.total_cmp(value).is_le());
        below + up_to + 1
    };
    pooled.iter().map(rank).collect()
}

/// Twice the rank sum of a sample, and of what it would be on average.
fn rank_sums(a: &[f64], pooled: &[f64], ranks: &[usize]) -> (usize, usize) {
    let of = |value: &f64| ranks[pooled.partition_point(|other| other.total_cmp(value).is_lt())];
    (a.iter().map(of).sum(), a.len() * (pooled.len() + 1))
}

/// Ways to deal so many of the pooled values, by twice their rank sum.
fn dealt(count: usize, ranks: &[usize]) -> Vec<f64> {
    let most: usize = ranks.iter().rev().take(count).sum();
    let mut ways = vec![vec![0.0f64; most + 1]; count + 1];
    ways[0][0] = 1.0;
    for rank in ranks {
        for dealt in (1..=count).rev() {
            let (before, now) = ways.split_at_mut(dealt);
            for sum in (*rank..=most).rev() {
                now[0][sum] += before[dealt - 1][sum - rank];
            }
        }
    }
    ways.swap_remove(count)
}

/// Midranks over every way to deal the pooled values, counted by their sums.
fn with_ties(a: &[f64], pooled: &[f64]) -> f64 {
    let ranks = twice_midranks(pooled);
    let (seen, middle) = rank_sums(a, pooled, &ranks);
    as_far(&dealt(a.len(), &ranks), seen, middle)
}

/// Part of all ways whose sum is at least as far from its middle.
fn as_far(ways: &[f64], seen: usize, middle: usize) -> f64 {
    let apart = seen.abs_diff(middle);
    let far: f64 = ways.iter().enumerate().filter(|(sum, _)| sum.abs_diff(middle) >= apart).map(|(_, ways)| ways).sum();
    far / ways.iter().sum::<f64>()
}

/// Variance of twice the rank sum of a sample, with its ties.
fn doubled_variance(m: f64, n: f64, ranks: &[usize]) -> f64 {
    let total = m + n;
    let mut ties = 0.0;
    let mut from = 0;
    while from < ranks.len() {
        let same = ranks[from..].iter().take_while(|rank| **rank == ranks[from]).count();
        ties += (same as f64).powi(3) - same as f64;
        from += same;
    }
    4.0 * m * n / 12.0 * (total + 1.0 - ties / (total * (total - 1.0)))
}

/// Probability that a sum lies so far from its middle, by the normal approximation corrected for steps.
fn normal(apart: usize, doubled_variance: f64) -> f64 {
    if doubled_variance <= 0.0 {
        return 1.0;
    }
    let apart = (apart as f64 - 1.0).max(0.0);
    libm::erfc(apart / (2.0 * doubled_variance).sqrt()).min(1.0)
}

/// The normal approximation with its corrections for ties and for steps.
fn approximate(a: &[f64], pooled: &[f64]) -> f64 {
    let ranks = twice_midranks(pooled);
    let (seen, middle) = rank_sums(a, pooled, &ranks);
    let m = a.len() as f64;
    normal(seen.abs_diff(middle), doubled_variance(m, pooled.len() as f64 - m, &ranks))
}

/// Strata up to which all arrangements of all of them are counted together.
const EXACT_STRATA: usize = 6;

/// Pairs of samples that are compared each within itself: visits, or rooms.
#[derive(Debug, Clone)]
pub struct Strata {
    seen: usize,
    middle: usize,
    /// Ways by the sum over all strata; none when there are too many to count.
    ways: Option<Vec<f64>>,
    doubled_variance: f64,
    /// Arrangements in all.
    arrangements: f64,
}

impl Strata {
    /// Of these pairs of samples; one with an empty sample says nothing.
    ///
    /// # Complexity
    /// As the test of one pair for each, and O(sums^2) to put up to six of them together
    #[must_use]
    pub fn new(pairs: &[(Vec<f64>, Vec<f64>)]) -> Self {
        let pairs = || pairs.iter().filter(|(a, b)| !a.is_empty() && !b.is_empty());
        let counted = pairs().count() <= EXACT_STRATA && pairs().all(|(a, b)| a.len() + b.len() <= EXACT_WITH_TIES);
        let mut own =
            Self { seen: 0, middle: 0, ways: counted.then(|| vec![1.0]), doubled_variance: 0.0, arrangements: 1.0 };
        for (a, b) in pairs() {
            let mut pooled: Vec<f64> = a.iter().chain(b).copied().collect();
            pooled.sort_by(f64::total_cmp);
            let ranks = twice_midranks(&pooled);
            let (seen, middle) = rank_sums(a, &pooled, &ranks);
            own.seen += seen;
            own.middle += middle;
            own.doubled_variance += doubled_variance(a.len() as f64, b.len() as f64, &ranks);
            own.arrangements *= (1..=a.len()).map(|i| (b.len() + i) as f64 / i as f64).product::<f64>();
            if let Some(ways) = &own.ways {
                own.ways = Some(convolved(ways, &dealt(a.len(), &ranks)));
            }
        }
        own
    }

    /// Two-sided probability that chance alone sets the samples so far apart over all strata.
    ///
    /// # Source
    /// Stratified rank sums (van Elteren 1960, without weights), exact for up to six strata.
    #[must_use]
    pub fn probability(&self) -> f64 {
        match &self.ways {
            Some(ways) => as_far(ways, self.seen, self.middle),
            None => normal(self.seen.abs_diff(self.middle), self.doubled_variance),
        }
    }

    /// The least that this can be with so many values.
    #[must_use]
    pub fn least_probability(&self) -> f64 {
        (2.0 / self.arrangements).min(1.0)
    }
}

fn convolved(a: &[f64], b: &[f64]) -> Vec<f64> {
    let mut sums = vec![0.0; a.len() + b.len() - 1];
    for (i, x) in a.iter().enumerate().filter(|(_, x)| **x > 0.0) {
        for (j, y) in b.iter().enumerate() {
            sums[i + j] += x * y;
        }
    }
    sums
}

/// Ways to arrange samples of these sizes by how many pairs the second wins in all.
#[must_use]
pub fn null_without_ties(sizes: impl Iterator<Item = (usize, usize)>) -> Vec<f64> {
    sizes.fold(vec![1.0], |all, (m, n)| convolved(&all, &arrangements(m, n)))
}

/// Runs each of two setups needs, so that a ratio of this size between them is seen in four of five tries at the 5 % level, when runs
/// spread by this part of their mean (coefficient of variation).
///
/// # Source
/// Two-sample size of a t-test of a log-normal variable, `2 (z sigma / ln ratio)^2`, over the asymptotic relative efficiency of the
/// rank test, 3 / pi (Lehmann, Nonparametrics, 1975, from memory); 2 runs more for small samples: within 2 of simulation for spreads of
/// 10 to 15 % and ratios of 1.1 to 1.5.
#[must_use]
pub fn runs_needed(spread: f64, ratio: f64) -> u32 {
    runs_needed_at(spread, ratio, 0.05)
}

/// The same at another level, as when many spots are looked at.
#[must_use]
pub fn runs_needed_at(spread: f64, ratio: f64, level: f64) -> u32 {
    let sigma = (1.0 + spread * spread).ln().sqrt();
    let quantiles = Normal::standard().inverse_cdf(1.0 - level / 2.0) + POWER_QUANTILE;
    let of_t_test = 2.0 * (quantiles * sigma / ratio.ln()).powi(2);
    let runs = (of_t_test / (3.0 / PI) + 2.0).ceil().max(FEWEST_RUNS);
    if runs < f64::from(u32::MAX) { runs as u32 } else { u32::MAX }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    #[test]
    fn ties_are_settled_by_midranks() {
        assert_eq!(rank_test(&[1.0, 1.0], &[1.0, 1.0]), Some(1.0));
        let split = rank_test(&[1.0, 2.0, 2.0, 3.0, 3.0], &[4.0, 5.0, 5.0, 6.0, 7.0]).unwrap();
        assert!((split - 2.0 / 252.0).abs() < 1e-9, "{split}");
        assert_eq!(rank_test(&[], &[1.0]), None);
    }

    #[test]
    fn many_runs_and_many_ties_have_an_answer_at_once() {
        assert_eq!(rank_test(&[1.0; 10], &[1.0; 10]), Some(1.0));
        assert_eq!(rank_test(&[1.0; 100], &[1.0; 100]), Some(1.0));
        let steps = |from: u32| (0..100).map(|i| f64::from(from + i % 7)).collect::<Vec<_>>();
        assert!(rank_test(&steps(0), &steps(3)).unwrap() < 1e-6);
        let apart: Vec<f64> = (0..100).map(f64::from).collect();
        let later: Vec<f64> = (0..100).map(|i| f64::from(i) + 0.5).collect();
        assert!(rank_test(&apart, &later).unwrap() > 0.5);
    }

    /// Without ties a half is no rank, so both ways must agree; and where counting ends, the approximation is near.
    #[test]
    fn the_ways_to_the_answer_agree_where_they_meet() {
        let a: Vec<f64> = (0..12).map(|i| f64::from(i * 3 % 17)).collect();
        let b: Vec<f64> = (0..11).map(|i| f64::from(i * 5 % 23) + 2.5).collect();
        let mut pooled: Vec<f64> = a.iter().chain(&b).copied().collect();
        pooled.sort_by(f64::total_cmp);
        let exact = probability(a.len(), b.len(), smaller_u(&a, &b));
        assert!((with_ties(&a, &pooled) - exact).abs() < 1e-9);
        let a: Vec<f64> = (0..30).map(|i| f64::from(i % 9)).collect();
        let b: Vec<f64> = (0..30).map(|i| f64::from(i % 9) + 1.0).collect();
        let mut pooled: Vec<f64> = a.iter().chain(&b).copied().collect();
        pooled.sort_by(f64::total_cmp);
        assert!((with_ties(&a, &pooled) - approximate(&a, &pooled)).abs() < 0.002);
    }

    proptest! {
        #[test]
        fn the_order_of_the_two_samples_does_not_matter(
            a in prop::collection::vec(0.0f64..100.0, 1..7), b in prop::collection::vec(0.0f64..100.0, 1..7)
        ) {
            let (one, other) = (rank_test(&a, &b).unwrap(), rank_test(&b, &a).unwrap());
            prop_assert!((one - other).abs() < 1e-9);
            prop_assert!(one > 0.0 && one <= 1.0);
        }
    }
}
