//! Rank tests against the exact distribution of Mann and Whitney.

use busy_hen_survey::readings::rank_test::{probability, rank_test, runs_needed};
use busy_hen_testkit::checks::check;

#[test]
fn exact_probabilities() {
    check(115).assert(probability(5, 5, 0));
    check(116).assert(probability(5, 5, 2));
    check(117).assert(probability(5, 5, 3));
    check(118).assert(probability(3, 3, 0));
    let apart = rank_test(&[1.0, 2.0, 3.0, 4.0, 5.0], &[6.0, 7.0, 8.0, 9.0, 10.0]).unwrap();
    check(115).assert(apart);
}

#[test]
fn runs_for_a_ratio() {
    check(140).assert(f64::from(runs_needed(0.12, 1.3)));
}
