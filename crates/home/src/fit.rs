//! What was done of the fitting of a setup: a tick a step of its run sheet.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::band::Band;
use crate::fault::{Fault, Faults};
use crate::id::{DeviceId, SetupId};

/// Most characters of what is written with a tick.
const WRITTEN_MOST: usize = 500;
/// Most characters of the name of a step.
const STEP_MOST: usize = 160;

/// What became of a step; the newest word on it counts.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Tick {
    /// The setup that is fitted.
    pub setup_id: SetupId,
    /// The step, by the name the sheet gives it.
    pub step: String,
    /// What became of it.
    pub outcome: TickOutcome,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// Who says so; empty when nobody gave a name.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub by: String,
    /// What was noted with it; never a password.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// What became of a step.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum TickOutcome {
    /// It was done.
    Done,
    /// It was left out.
    Skipped {
        /// Why.
        because: String,
    },
    /// It was looked for and is so.
    Seen,
    /// It was looked for and is not so.
    NotSeen,
    /// Something of the family's joined.
    Joined {
        /// The device that serves it; none when nobody looked.
        to: Option<DeviceId>,
        /// The band it is on; none when nobody looked.
        band: Option<Band>,
    },
    /// Something of the family's does not join as it should.
    Straggles {
        /// Why.
        why: Straggling,
    },
}

/// Why something of the family's does not join as it should.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Straggling {
    /// It clings to the old network's name.
    OldName,
    /// It sits on the wrong band.
    WrongBand,
    /// It is too old for the security mode.
    TooOld,
    /// It is not there today.
    NotHere,
    /// Something else.
    Other,
}

impl Tick {
    /// Checks what a form or a file brought.
    ///
    /// # Errors
    /// What is wrong, by the field it is in.
    pub fn check(&self) -> Result<(), Faults> {
        let mut list = Vec::new();
        let mut say = |pointer: &str, message: &str| {
            list.push(Fault { pointer: pointer.to_owned(), message: message.to_owned() });
        };
        if self.step.trim().is_empty() || self.step.chars().count() > STEP_MOST {
            say("/step", "Name the step of the sheet that this is about.");
        }
        if [&self.by, &self.note].iter().any(|text| text.chars().count() > WRITTEN_MOST) {
            say("/note", "A note is at most 500 characters; shorten it.");
        }
        if let TickOutcome::Skipped { because } = &self.outcome {
            if because.trim().is_empty() {
                say("/outcome/because", "Say why this is left out: it stands in the report.");
            } else if because.chars().count() > WRITTEN_MOST {
                say("/outcome/because", "A reason is at most 500 characters; shorten it.");
            }
        }
        Faults::check(list)
    }
}
