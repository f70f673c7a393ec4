//! What was done of a run sheet, and what was not.

use busy_hen_home::{Straggling, Tick, TickOutcome};
use busy_hen_units::words::counted;
use serde::Serialize;
use utoipa::ToSchema;

use super::sheet::{Sheet, SheetStep, StepKind};

/// What became of a run sheet.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Report {
    /// Steps of the sheet.
    pub steps: usize,
    /// Those with an answer.
    pub answered: usize,
    /// Whether nothing is open and nothing was found wrong.
    pub complete: bool,
    /// What was not done, in sentences: skipped with its reason, looked for and not so, not joined, not answered.
    pub not_done: Vec<String>,
    /// All of it in one sentence.
    pub told: String,
}

fn straggling(why: Straggling) -> &'static str {
    match why {
        Straggling::OldName => "it clings to the old network's name: have it forget that",
        Straggling::WrongBand => "it sits on the wrong band",
        Straggling::TooOld => "it is too old for the security mode",
        Straggling::NotHere => "it is not here today",
        Straggling::Other => "no reason found",
    }
}

/// What a tick leaves to say of a step; none where all is well.
fn left_of(step: &SheetStep, tick: Option<&Tick>) -> Option<String> {
    let note = tick.map(|own| own.note.trim()).filter(|note| !note.is_empty());
    let with = |told: String| Some(note.map_or(told.clone(), |note| format!("{told} ({note})")));
    match tick.map(|own| &own.outcome) {
        None => Some(match step.kind {
            StepKind::Do => format!("Not done: {}.", step.what),
            StepKind::Look => format!("Not looked at: {}.", step.what),
            StepKind::Join => format!("Not called: {}.", step.what),
        }),
        Some(TickOutcome::Skipped { because }) => with(format!("Left out: {}, because {}.", step.what, because.trim())),
        Some(TickOutcome::NotSeen) => with(format!("Not so: {}.", step.what)),
        Some(TickOutcome::Straggles { why }) => with(format!("Not so: {}: {}.", step.what, straggling(*why))),
        Some(TickOutcome::Done | TickOutcome::Seen | TickOutcome::Joined { .. }) => None,
    }
}

/// What was done of a sheet. Ticks of steps that are no longer in it count for nothing.
#[must_use]
pub fn report(sheet: &Sheet, ticks: &[Tick]) -> Report {
    let of = |step: &SheetStep| ticks.iter().filter(|own| own.step == step.key).max_by_key(|own| own.at);
    let answered = sheet.steps.iter().filter(|step| of(step).is_some()).count();
    let not_done: Vec<String> = sheet.steps.iter().filter_map(|step| left_of(step, of(step))).collect();
    let (steps, left) = (sheet.steps.len(), sheet.steps.len() - answered);
    let wrong = not_done.len() - left;
    let told = if answered == 0 {
        format!("Nothing of {steps} steps is done.")
    } else {
        let open = if left > 0 { format!("{left} still open") } else { "none open".into() };
        let wrong = match wrong {
            0 => "all as it should be".to_owned(),
            _ => format!("{wrong} answered with something left to say"),
        };
        format!("{answered} of {} answered, {open}; {wrong}.", counted(steps, "step"))
    };
    Report { steps, answered, complete: not_done.is_empty(), not_done, told }
}
