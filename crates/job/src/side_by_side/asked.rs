//! What is asked of setups side by side.

use busy_hen_home::{Round, Setup};
use busy_hen_predict::Question;
use busy_hen_predict::conditions::{Conditions, Group, groups};
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::readings::compare::{Measure, ShownBy};
use busy_hen_survey::readings::verdict::Weights;

/// Which setups are set side by side, and how.
#[derive(Debug, Clone)]
pub struct Asked<'a> {
    /// The columns: a setup with all that was measured of it, or with one of its rounds alone. At least one.
    pub columns: Vec<(&'a Setup, Option<&'a Round>)>,
    /// Place of the column that the others are set against, counted from 0.
    pub reference: usize,
    /// What predictions are for.
    pub question: Question,
    /// What readings are looked for: those that are alike to this go before others.
    pub conditions: Conditions,
    /// Which figure of the runs.
    pub measure: Measure,
    /// What is shown of several runs.
    pub shown: ShownBy,
    /// Whether the part of the plan that arrives is compared in place of the speed.
    pub share_of_plan: bool,
    /// What counts how much in the choice.
    pub weights: Weights,
}

/// Counting runs of these rounds by tests of the kind that is asked for, sorted into groups of alike ones.
pub fn alike<'a>(taken: impl Iterator<Item = &'a Taken<'a>>, asked: &Asked<'_>) -> Vec<Group<'a>> {
    let mut list = groups(taken.map(|own| (own.round, own.runs)));
    list.retain(|group| group.conditions.under.kind == asked.question.reach);
    list
}
