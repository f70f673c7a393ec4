//! Gaussian regression of what readings lie off their predictions by, robust to readings that are far off.
//!
//! `off = leans * unknowns + shadow + noise`: unknowns are standard normal (their widths stand in the leans), shadows are a Gaussian
//! process, noise is each reading's own.

use nalgebra::{Cholesky, DMatrix, DVector, Dyn};

/// What one reading says.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// By how much the path loses more than was predicted, dB.
    pub off: f64,
    /// How much of it the unknowns account for: dB for one standard deviation of each, by index.
    pub leans: Vec<(usize, f64)>,
    /// Variance of what belongs to this reading alone, dB^2.
    pub noise: f64,
    /// Whether it only says that the path loses no more than this.
    pub at_most: bool,
}

/// Deviations beyond which a reading's pull no longer grows (Huber 1964; 2.5 leaves 99 % of normal readings alone).
const FAR_OFF: f64 = 2.5;
/// Rows that what was expected of their scatter counts for: a prior of so many degrees of freedom on the variance (Gelman et al., Bayesian
/// Data Analysis, section 3.3, from memory).
const EXPECTED_ROWS: f64 = 8.0;
/// Rounds of weighting; they settle in three or four.
const ROUNDS: usize = 6;
/// Keeps the matrix well-conditioned, dB^2.
const JITTER: f64 = 1e-6;

/// What all readings together say.
#[derive(Debug, Clone)]
pub struct Fit {
    /// Rows that say something, by index: all but bounds that hold anyway.
    pub active: Vec<usize>,
    /// For each of them, how far it lies off what all others say, in deviations.
    pub far_off: Vec<f64>,
    /// How much the rows scatter against what was expected of them, as a ratio of variances: 1 where it is just that.
    pub scatter: f64,
    factor: Cholesky<f64, Dyn>,
    inverse: DMatrix<f64>,
    /// Weight of each active row.
    alpha: DVector<f64>,
    rows: Vec<Vec<(usize, f64)>>,
    unknowns: usize,
}

impl Fit {
    /// Fits rows over so many unknowns; `shadow` is the covariance of the shadows of two rows, dB^2. None where no row says anything.
    ///
    /// Rows far off what all others say are taken to be as uncertain as they are off (Huber's weights on leave-one-out deviations).
    /// Bounds count as readings where they would be broken, else not at all.
    ///
    /// # Complexity
    /// O(rows^3) a round, six at most
    #[must_use]
    pub fn new(rows: &[Row], unknowns: usize, shadow: impl Fn(usize, usize) -> f64) -> Option<Self> {
        let count = rows.len();
        let covariance = DMatrix::from_fn(count, count, |i, j| {
            if j > i { 0.0 } else { dot(&rows[i].leans, &rows[j].leans) + shadow(i, j) }
        });
        let between = |i: usize, j: usize| covariance[(i.max(j), i.min(j))];
        let mut more = vec![0.0; count];
        let mut active: Vec<usize> = (0..count).filter(|row| !rows[*row].at_most).collect();
        let mut found = None;
        for _ in 0..ROUNDS {
            let own = |i: usize| rows[i].noise + more[i] + JITTER;
            let solved = solve(&active, between, own, |i| rows[i].off);
            let mut changed = false;
            let mut far_off = Vec::new();
            if let Some((_, alpha, inverse)) = &solved {
                for (place, row) in active.iter().enumerate() {
                    let (variance, weight) = (1.0 / inverse[(place, place)], alpha[place]);
                    let off = weight * variance;
                    // What it is off by, in deviations of what was expected before it was taken to be doubtful.
                    let expected = (variance - more[*row]).max(rows[*row].noise);
                    far_off.push(off / expected.sqrt());
                    let wanted = ((off / FAR_OFF).powi(2) - expected).max(0.0);
                    changed |= (wanted - more[*row]).abs() > 0.05 * (expected + wanted);
                    more[*row] = wanted;
                }
            }
            let said = |row: usize| match &solved {
                Some((_, alpha, _)) => active.iter().zip(alpha.iter()).map(|(i, a)| between(row, *i) * a).sum::<f64>(),
                None => 0.0,
            };
            let holds = |row: &usize| {
                let row = *row;
                !rows[row].at_most
                    || said(row) > rows[row].off
                    || (active.contains(&row) && said(row) > rows[row].off - 0.1)
            };
            let next: Vec<usize> = (0..count).filter(holds).collect();
            changed |= next != active;
            if let Some((factor, alpha, inverse)) = solved {
                found = Some((active.clone(), far_off, (factor, inverse), alpha));
            }
            active = next;
            if !changed {
                break;
            }
        }
        let (active, far_off, (factor, inverse), alpha) = found?;
        let scattered: f64 = active.iter().zip(alpha.iter()).map(|(row, weight)| rows[*row].off * weight).sum();
        let scatter = (EXPECTED_ROWS + scattered) / (EXPECTED_ROWS + active.len() as f64);
        let kept = active.iter().map(|row| rows[*row].leans.clone()).collect();
        Some(Self { active, far_off, scatter, factor, inverse, alpha, rows: kept, unknowns })
    }

    /// Mean of each unknown, in its standard deviations.
    #[must_use]
    pub fn means(&self) -> Vec<f64> {
        let mut means = vec![0.0; self.unknowns];
        for (row, weight) in self.rows.iter().zip(self.alpha.iter()) {
            row.iter().for_each(|(unknown, lean)| means[*unknown] += lean * weight);
        }
        means
    }

    /// Covariance of these unknowns after the readings; before them it was one for each and nothing between them.
    #[must_use]
    pub fn covariance(&self, of: &[usize]) -> DMatrix<f64> {
        let place = |unknown: usize| of.iter().position(|own| *own == unknown);
        let mut leans = DMatrix::zeros(self.rows.len(), of.len());
        for (index, row) in self.rows.iter().enumerate() {
            for (unknown, lean) in row {
                if let Some(column) = place(*unknown) {
                    leans[(index, column)] += lean;
                }
            }
        }
        let halves = self.factor.l().solve_lower_triangular(&leans).unwrap_or(leans);
        DMatrix::identity(of.len(), of.len()) - halves.tr_mul(&halves)
    }

    /// How far each active row lies off what the rows of all other groups foretell, dB; `group` tells which group a row belongs to.
    ///
    /// # Source
    /// Leave-out residuals from the inverse, block by block (Rasmussen and Williams 2006, section 5.4.2, for single rows).
    #[must_use]
    pub fn foretold(&self, group: impl Fn(usize) -> usize) -> Vec<f64> {
        let count = self.active.len();
        let groups: Vec<usize> = self.active.iter().map(|row| group(*row)).collect();
        let mut off = vec![0.0; count];
        for first in 0..count {
            if groups[..first].contains(&groups[first]) {
                continue;
            }
            let own: Vec<usize> = (first..count).filter(|row| groups[*row] == groups[first]).collect();
            let block = DMatrix::from_fn(own.len(), own.len(), |i, j| self.inverse[(own[i], own[j])]);
            let weights = DVector::from_iterator(own.len(), own.iter().map(|row| self.alpha[*row]));
            if let Some(solved) = block.lu().solve(&weights) {
                own.iter().zip(solved.iter()).for_each(|(row, value)| off[*row] = *value);
            }
        }
        off
    }

    /// Weights of the active rows, dB for each dB^2 shared with one.
    #[must_use]
    pub fn weights(&self) -> &DVector<f64> {
        &self.alpha
    }

    /// Covariance with each active row of a place that leans on these and shares this much shadow with each.
    #[must_use]
    pub fn shared(&self, leans: &[(usize, f64)], shadow: impl Fn(usize) -> f64) -> DVector<f64> {
        let of = self.rows.iter().enumerate().map(|(index, row)| dot(row, leans) + shadow(index));
        DVector::from_iterator(self.rows.len(), of)
    }

    /// How much of its variance what shares so much with the rows loses by them, dB^2.
    #[must_use]
    pub fn explained(&self, shared: &DVector<f64>) -> f64 {
        self.solved(shared).norm_squared()
    }

    /// What shares so much with the rows, as a vector whose product with another is what they explain together, dB.
    #[must_use]
    pub fn solved(&self, shared: &DVector<f64>) -> DVector<f64> {
        let mut half = shared.clone();
        self.factor.l_dirty().solve_lower_triangular_mut(&mut half);
        half
    }
}

type Solved = (Cholesky<f64, Dyn>, DVector<f64>, DMatrix<f64>);

fn solve(
    active: &[usize],
    between: impl Fn(usize, usize) -> f64,
    own: impl Fn(usize) -> f64,
    off: impl Fn(usize) -> f64,
) -> Option<Solved> {
    if active.is_empty() {
        return None;
    }
    let count = active.len();
    let all = DMatrix::from_fn(count, count, |i, j| {
        between(active[i], active[j]) + if i == j { own(active[i]) } else { 0.0 }
    });
    let factor = Cholesky::new(all)?;
    let alpha = factor.solve(&DVector::from_iterator(count, active.iter().map(|row| off(*row))));
    let inverse = factor.inverse();
    Some((factor, alpha, inverse))
}

/// Sum over the unknowns that both lean on; both lists are sorted by unknown.
fn dot(a: &[(usize, f64)], b: &[(usize, f64)]) -> f64 {
    let (mut i, mut j, mut sum) = (0, 0, 0.0);
    while let (Some((one, x)), Some((other, y))) = (a.get(i), b.get(j)) {
        match one.cmp(other) {
            std::cmp::Ordering::Less => i += 1,
            std::cmp::Ordering::Greater => j += 1,
            std::cmp::Ordering::Equal => {
                sum += x * y;
                i += 1;
                j += 1;
            }
        }
    }
    sum
}

#[cfg(test)]
mod tests {
    use super::*;

    fn row(off: f64, leans: &[(usize, f64)], noise: f64) -> Row {
        Row { off, leans: leans.to_vec(), noise, at_most: false }
    }

    /// One unknown, standard normal, seen through noise: the textbook's posterior (Bishop, Pattern Recognition, 2006, eq. 2.141-2.142).
    #[test]
    fn one_unknown_is_weighed_against_its_prior_as_the_textbook_has_it() {
        let rows: Vec<Row> = [3.0, 4.0, 5.0].iter().map(|off| row(*off, &[(0, 2.0)], 4.0)).collect();
        let fit = Fit::new(&rows, 1, |_, _| 0.0).unwrap();
        // Precision 1 + 3 * 2^2 / 4 = 4; mean = (2 / 4) * 12 / 4 = 1.5.
        assert!((fit.means()[0] - 1.5).abs() < 1e-5, "{}", fit.means()[0]);
        assert!((fit.covariance(&[0])[(0, 0)] - 0.25).abs() < 1e-5);
        assert!((4.0 - fit.explained(&fit.shared(&[(0, 2.0)], |_| 0.0)) - 1.0).abs() < 1e-5);
    }

    #[test]
    fn what_only_the_sum_of_two_is_known_of_stays_between_them() {
        let rows: Vec<Row> = (0..8).map(|_| row(6.0, &[(0, 3.0), (1, 3.0)], 1.0)).collect();
        let fit = Fit::new(&rows, 2, |_, _| 0.0).unwrap();
        let (means, covariance) = (fit.means(), fit.covariance(&[0, 1]));
        assert!((means[0] - means[1]).abs() < 1e-9);
        assert!(covariance[(0, 0)] > 0.45 && covariance[(0, 1)] < -0.45, "{covariance}");
        let sum = covariance[(0, 0)] + covariance[(1, 1)] + 2.0 * covariance[(0, 1)];
        assert!(sum < 0.05, "{sum}");
    }

    #[test]
    fn repeats_at_a_place_do_not_average_away_its_shadow() {
        let alike = |count: usize| {
            let rows: Vec<Row> = (0..count).map(|_| row(5.0, &[(0, 1.5)], 1.0)).collect();
            Fit::new(&rows, 1, |_, _| 16.0).unwrap().means()[0]
        };
        let apart = |count: usize| {
            let rows: Vec<Row> = (0..count).map(|_| row(5.0, &[(0, 1.5)], 1.0)).collect();
            Fit::new(&rows, 1, |i, j| if i == j { 16.0 } else { 0.0 }).unwrap().means()[0]
        };
        assert!(alike(40) < alike(1) * 1.1, "{} {}", alike(40), alike(1));
        assert!(apart(40) > 2.0 * apart(1));
    }

    #[test]
    fn one_reading_far_off_moves_little_and_is_told() {
        let mut rows: Vec<Row> = (0..9).map(|_| row(0.0, &[(0, 3.0)], 4.0)).collect();
        rows.push(row(40.0, &[(0, 3.0)], 4.0));
        let fit = Fit::new(&rows, 1, |_, _| 0.0).unwrap();
        assert!(fit.means()[0] * 3.0 < 1.0, "{}", fit.means()[0] * 3.0);
        assert!(fit.far_off[9] > 10.0 && fit.far_off[..9].iter().all(|off| off.abs() < 2.0), "{:?}", fit.far_off);
    }

    #[test]
    fn a_bound_says_something_only_where_it_would_be_broken() {
        let bound = |off: f64| {
            let rows = [row(4.0, &[(0, 4.0)], 4.0), Row { at_most: true, ..row(off, &[(0, 4.0)], 1.0) }];
            let fit = Fit::new(&rows, 1, |_, _| 0.0).unwrap();
            (fit.active.len(), fit.means()[0] * 4.0)
        };
        assert_eq!(bound(10.0).0, 1);
        assert!((bound(10.0).1 - bound(20.0).1).abs() < 1e-12);
        let (active, mean) = bound(-2.0);
        assert!(active == 2 && mean < 0.5, "{mean}");
    }
}
