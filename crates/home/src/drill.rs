//! Drills: a deliberate outage, timed.

use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::fault::{Fault, Faults};
use crate::id::{DeviceId, DrillId, SetupId};

/// Most marks of one drill.
const MARKS_MOST: usize = 200;
/// Longest drill, ms: a day.
const LONGEST_MS: u32 = 24 * 3600 * 1000;
/// Most characters of a note.
const NOTE_MOST: usize = 500;

/// Something that fails, or is made to.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(tag = "what", rename_all = "snake_case", deny_unknown_fields)]
pub enum Failure {
    /// A device has no power.
    Power {
        /// The device.
        device: DeviceId,
    },
    /// All devices but the one at the line have none.
    AllNodes,
    /// The cable, or pair of adapters, of a device towards the line is pulled.
    Backhaul {
        /// The device.
        device: DeviceId,
    },
    /// The line is dead.
    Line,
    /// The Wi-Fi of an old device is still on the air, or is again: a second network of one's own.
    OldNetwork {
        /// The device, of another setup.
        device: DeviceId,
    },
    /// Everything is without power.
    Everything,
}

/// A drill that was run.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Drill {
    /// Identifies it; made by whoever ran it, so that sending it twice keeps it once.
    pub id: DrillId,
    /// The setup.
    pub setup_id: SetupId,
    /// What was made to fail.
    pub failure: Failure,
    /// When it was pulled.
    #[schema(value_type = String, format = DateTime)]
    pub begun: Timestamp,
    /// What was seen, in the order of time.
    pub marks: Vec<DrillMark>,
    /// Whether it was broken off before all was back.
    #[serde(default)]
    pub stopped: bool,
    /// What was noted; empty when nothing was.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// Something seen in a drill.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DrillMark {
    /// What was seen.
    pub seen: Sight,
    /// How long after it was pulled, ms.
    pub after_ms: u32,
    /// Whether the bench saw it by itself; else somebody pressed.
    #[serde(default)]
    pub by_probe: bool,
}

/// What may be seen in a drill.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Sight {
    /// The loss was noticed.
    LossNoticed,
    /// What was pulled was put back.
    PutBack,
    /// A lamp, a name on the air, an answer: the first sign of life.
    FirstLife,
    /// All is back.
    AllBack,
    /// The second choice carries: the second line.
    TookOver,
    /// The first choice is in use again: the cable, the line.
    FirstChoice,
    /// A call or a download broke.
    SessionBroke,
    /// A device went another way.
    Rejoined {
        /// The device.
        device: DeviceId,
        /// What it hung on then.
        to: DeviceId,
    },
}

impl Drill {
    /// Checks what a form or a file brought.
    ///
    /// # Errors
    /// What is wrong, by the field it is in.
    pub fn check(&self) -> Result<(), Faults> {
        let mut list = Vec::new();
        let mut say = |pointer: String, message: &str| list.push(Fault { pointer, message: message.to_owned() });
        if self.marks.len() > MARKS_MOST {
            say("/marks".into(), "A drill has at most 200 marks; begin another.");
        }
        for (m, own) in self.marks.iter().enumerate() {
            if own.after_ms > LONGEST_MS {
                say(format!("/marks/{m}/after_ms"), "A drill lasts a day at most.");
            }
            if m > 0 && own.after_ms < self.marks[m - 1].after_ms {
                say(format!("/marks/{m}/after_ms"), "Marks stand in the order of time; put this one where it belongs.");
            }
        }
        if self.note.chars().count() > NOTE_MOST {
            say("/note".into(), "A note is at most 500 characters; shorten it.");
        }
        Faults::check(list)
    }
}
