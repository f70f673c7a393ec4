//! How many checks there are, and on what they rest; and that every one of the table is put to the model.

use busy_hen_testkit::checks::{Ground, all};

/// The sources of the checks themselves, to see which numbers they name.
const TESTS: [&str; 12] = [
    include_str!("aerials.rs"),
    include_str!("calls_and_delay.rs"),
    include_str!("edges.rs"),
    include_str!("ethernet.rs"),
    include_str!("free_space.rs"),
    include_str!("noise_and_sharing.rs"),
    include_str!("ranks.rs"),
    include_str!("rates.rs"),
    include_str!("regression.rs"),
    include_str!("regulatory.rs"),
    include_str!("slabs.rs"),
    include_str!("spectrum.rs"),
];

/// Quantities whose checks are all run by reading their inputs.
const BY_QUANTITY: [&str; 3] = ["PHY rate", "centre frequency", "centre of the block"];

#[test]
fn every_check_of_the_table_is_run_and_over_120_rest_on_publications() {
    let named = |id: u32| {
        TESTS.iter().any(|text| {
            let number = id.to_string();
            text.match_indices(&number).any(|(at, _)| {
                let before = text[..at].chars().next_back();
                let after = text[at + number.len()..].chars().next();
                matches!(before, Some('(')) && matches!(after, Some(',' | ')'))
            })
        })
    };
    let checks = all();
    let missing: Vec<u32> = checks
        .iter()
        .filter(|check| !BY_QUANTITY.contains(&check.quantity.as_str()))
        .map(|check| check.id)
        .filter(|id| !named(*id))
        .collect();
    assert!(missing.is_empty(), "checks that no test names: {missing:?}");
    let resting = |ground| checks.iter().filter(|check| check.ground() == ground).count();
    println!(
        "{} checks rest on publications, {} on the reference text, {} on common practice",
        resting(Ground::Published),
        resting(Ground::Regression),
        resting(Ground::CommonPractice)
    );
    assert!(resting(Ground::Published) >= 120);
}
