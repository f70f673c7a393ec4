//! Check values with their published sources, from `data/checks.csv`.

use serde::Deserialize;

/// One check value.
#[derive(Debug, Clone, Deserialize)]
pub struct Check {
    /// Its number.
    pub id: u32,
    /// What is checked.
    pub quantity: String,
    /// For which inputs.
    pub inputs: String,
    /// The value expected.
    pub expected: f64,
    /// How far off is still right.
    pub tolerance: f64,
    /// Where the value is published.
    pub source: String,
}

/// What a check value rests on.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ground {
    /// A standard, a table, a handbook formula, or a general-purpose library.
    Published,
    /// Only this project's own reference text.
    Regression,
    /// What practitioners commonly find.
    CommonPractice,
}

impl Check {
    /// What the value rests on, by the source it names.
    #[must_use]
    pub fn ground(&self) -> Ground {
        match self.source.as_str() {
            "common practice" => Ground::CommonPractice,
            "this reference (computed)" | "formula below, equals simulation" => Ground::Regression,
            _ => Ground::Published,
        }
    }

    /// Fails the test when the value is off, naming check and source.
    ///
    /// # Panics
    /// When `got` is not within the tolerance of the expected value.
    pub fn assert(&self, got: f64) {
        let slack = self.tolerance + 1e-9;
        assert!(
            (got - self.expected).abs() <= slack,
            "check {} ({}, {}): {got} is not {} +- {} of {}",
            self.id,
            self.quantity,
            self.inputs,
            self.expected,
            self.tolerance,
            self.source
        );
    }
}

/// All checks.
///
/// # Panics
/// When the table does not read: it is part of the tests.
#[must_use]
pub fn all() -> Vec<Check> {
    csv::Reader::from_reader(include_str!("../data/checks.csv").as_bytes())
        .deserialize()
        .collect::<Result<_, _>>()
        .expect("the table of checks reads")
}

/// The check with this number.
///
/// # Panics
/// When there is no such check.
#[must_use]
pub fn check(id: u32) -> Check {
    all().into_iter().find(|check| check.id == id).unwrap_or_else(|| panic!("no check {id}"))
}
