//! How many runs are enough: by how well the median is known, never by whether it pleases.

use serde::Serialize;
use statrs::distribution::{ContinuousCDF, StudentsT};
use utoipa::ToSchema;

/// How well the median is to be known: to this part of itself.
pub const WANTED: f64 = 0.10;
/// Confidence that the median lies so near, two-sided.
const CONFIDENCE: f64 = 0.90;
/// Standard error of a median over that of a mean, of normal values: `sqrt(pi / 2)`.
const MEDIAN_OVER_MEAN: f64 = 1.253_314_137_315_5;
/// Runs below which nothing is said of spread.
const LEAST: usize = 3;
/// Further runs beyond which their number is not told: something else is wrong there.
const MOST_MORE: usize = 20;

/// Whether a spot has runs enough.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case")]
pub enum Enough {
    /// Too few to say anything of their spread.
    TooFew {
        /// Runs that are missing at least.
        more: usize,
    },
    /// The median is not yet known to within 10 %.
    More {
        /// Runs that would settle it if they spread as those before; none when that would take very many.
        more: Option<usize>,
        /// To which part of itself the median is known now.
        within: f64,
    },
    /// The connection comes and goes, which no median shows.
    ComesAndGoes,
    /// It is known well enough.
    Enough {
        /// To which part of itself the median is known.
        within: f64,
    },
}

/// Whether these rates, Mb/s, are enough; 0 stands for no connection.
///
/// # Source
/// Interval of a mean by Student's t over the logarithms of the rates (their spread is a factor), widened by `sqrt(pi / 2)` for the
/// median of normal values (Kendall and Stuart, "The Advanced Theory of Statistics", vol. 1).
#[must_use]
pub fn enough(rates: &[f64]) -> Enough {
    if rates.len() < LEAST {
        return Enough::TooFew { more: LEAST - rates.len() };
    }
    let there: Vec<f64> = rates.iter().filter(|rate| **rate > 0.0).map(|rate| rate.ln()).collect();
    match there.len() {
        0 => return Enough::Enough { within: 0.0 },
        count if count < rates.len() => return Enough::ComesAndGoes,
        _ => {}
    }
    let count = there.len() as f64;
    let mean = there.iter().sum::<f64>() / count;
    let spread = (there.iter().map(|value| (value - mean).powi(2)).sum::<f64>() / (count - 1.0)).sqrt();
    let within = |runs: usize| (half_width(runs) * spread).exp_m1();
    let now = within(there.len());
    if now <= WANTED {
        return Enough::Enough { within: now };
    }
    Enough::More { more: (1..=MOST_MORE).find(|more| within(there.len() + more) <= WANTED), within: now }
}

impl Enough {
    /// Whether one may go on to the next spot: it is known well enough, or as many runs were taken as are wanted.
    #[must_use]
    pub fn may_go_on(&self, runs: usize, wanted: u32) -> bool {
        matches!(self, Self::Enough { .. }) || runs >= wanted as usize
    }
}

/// Half of the interval's width, in standard deviations.
fn half_width(runs: usize) -> f64 {
    let t = StudentsT::new(0.0, 1.0, runs as f64 - 1.0)
        .map_or(f64::INFINITY, |student| student.inverse_cdf(0.5 + CONFIDENCE / 2.0));
    t * MEDIAN_OVER_MEAN / (runs as f64).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn students_t_is_that_of_the_tables() {
        // 95 % quantiles: NIST/SEMATECH e-Handbook of Statistical Methods, 1.3.6.7.2.
        for (freedom, wanted) in [(2.0, 2.920), (4.0, 2.132), (9.0, 1.833), (29.0, 1.699)] {
            let got = StudentsT::new(0.0, 1.0, freedom).unwrap().inverse_cdf(0.95);
            assert!((got - wanted).abs() < 5e-4, "{freedom}: {got}");
        }
    }

    #[test]
    fn steady_runs_are_soon_enough_and_wild_ones_are_not() {
        assert_eq!(enough(&[80.0, 82.0]), Enough::TooFew { more: 1 });
        assert!(matches!(enough(&[80.0, 82.0, 81.0]), Enough::Enough { within } if within < 0.04));
        let Enough::More { more: Some(more), within } = enough(&[80.0, 95.0, 88.0, 74.0]) else { panic!() };
        assert!((1..=5).contains(&more) && (0.1..0.2).contains(&within), "{more} {within}");
        assert!(matches!(enough(&[10.0, 200.0, 30.0]), Enough::More { more: None, .. }));
    }

    #[test]
    fn it_does_not_depend_on_the_unit_and_dead_spots_are_soon_known() {
        let mbps = [80.0, 95.0, 88.0, 74.0];
        let within = |enough| match enough {
            Enough::More { within, .. } => within,
            other => panic!("{other:?}"),
        };
        assert!((within(enough(&mbps)) - within(enough(&mbps.map(|rate| rate * 1000.0)))).abs() < 1e-9);
        assert_eq!(enough(&[0.0; 3]), Enough::Enough { within: 0.0 });
        assert!(
            enough(&[0.0; 3]).may_go_on(3, 5) && !enough(&[80.0]).may_go_on(1, 5) && enough(&[80.0]).may_go_on(1, 1)
        );
        assert_eq!(enough(&[0.0, 12.0, 11.0]), Enough::ComesAndGoes);
    }
}
