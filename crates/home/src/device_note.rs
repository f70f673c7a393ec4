//! What a hand felt and an eye saw of a device, days after it was fitted.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::fault::{Fault, Faults};
use crate::id::{DeviceId, NoteId, SetupId};
use crate::kit::Warmth;

/// Most characters of a note.
const NOTE_MOST: usize = 500;

/// A note on a device of a setup.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DeviceNote {
    /// Identifies it; made by whoever wrote it, so that sending it twice keeps it once.
    pub id: NoteId,
    /// The setup.
    pub setup_id: SetupId,
    /// The device.
    pub device_id: DeviceId,
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// How warm its case is; none when nobody felt it.
    pub warmth: Option<Warmth>,
    /// Whether it tells of a fault: it hung, restarted, refused guests.
    #[serde(default)]
    pub fault: bool,
    /// What was seen: lights, its own page, words of the family; empty when nothing was.
    #[serde(default)]
    pub text: String,
}

impl DeviceNote {
    /// Checks what a form or a file brought.
    ///
    /// # Errors
    /// What is wrong, by the field it is in.
    pub fn check(&self) -> Result<(), Faults> {
        let wrong = |message: &str| vec![Fault { pointer: "/text".into(), message: message.into() }];
        let empty = self.text.trim().is_empty();
        Faults::check(if self.text.chars().count() > NOTE_MOST {
            wrong("A note is at most 500 characters; shorten it.")
        } else if empty && self.fault {
            wrong("Say in a few words what the fault was.")
        } else if empty && self.warmth.is_none() {
            wrong("Say how warm it is, or what was seen.")
        } else {
            Vec::new()
        })
    }
}
