//! The steps of a run sheet, and the labels that go with it.

use busy_hen_home::{Device, DeviceId, FamilyDeviceId};
use serde::Serialize;
use utoipa::ToSchema;

/// The step with which the work ends: the family has its passwords.
pub const LAST_STEP: &str = "passwords";

/// The step at which a guest is looked for.
pub(super) const GUESTS_STEP: &str = "guests apart";

/// A part of the work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Stage {
    /// What is settled on a table, before anything is climbed to.
    Table,
    /// Cables and pairs of adapters.
    Wire,
    /// Where things stand, and what feeds them.
    Place,
    /// What goes by radio finds its way.
    Pair,
    /// Channels, names, addresses.
    Settings,
    /// The old Wi-Fi goes off.
    Old,
    /// Whether all of it took.
    Look,
    /// Who has joined.
    RollCall,
    /// What stays behind.
    Leave,
}

/// How a step is answered.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StepKind {
    /// Something to do: done, or skipped with a reason.
    Do,
    /// Something to look for: seen or not.
    Look,
    /// Something of the family's that should join.
    Join,
}

/// One step.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct SheetStep {
    /// What it is known by, whatever else of the setup changes.
    pub key: String,
    /// The part of the work it belongs to.
    pub stage: Stage,
    /// How it is answered.
    pub kind: StepKind,
    /// What is to be done or seen.
    pub what: String,
    /// How: ports, lengths, figures to set.
    pub how: Vec<String>,
    /// What to mind; empty when nothing.
    pub caution: String,
    /// The device it is about.
    pub device_id: Option<DeviceId>,
    /// What of the family's it is about.
    pub family_device_id: Option<FamilyDeviceId>,
}

impl SheetStep {
    pub(super) fn new(stage: Stage, key: impl Into<String>, what: impl Into<String>) -> Self {
        Self {
            key: key.into(),
            stage,
            kind: StepKind::Do,
            what: what.into(),
            how: Vec::new(),
            caution: String::new(),
            device_id: None,
            family_device_id: None,
        }
    }

    /// A step of a device, known by it.
    pub(super) fn of(stage: Stage, name: &str, device: &Device, what: impl Into<String>) -> Self {
        Self { device_id: Some(device.id), ..Self::new(stage, format!("{name} {}", device.id), what) }
    }

    pub(super) fn look(self) -> Self {
        Self { kind: StepKind::Look, ..self }
    }

    pub(super) fn how(mut self, how: impl Into<String>) -> Self {
        let how = how.into();
        if !how.is_empty() {
            self.how.push(how);
        }
        self
    }

    pub(super) fn mind(mut self, caution: impl Into<String>) -> Self {
        self.caution = caution.into();
        self
    }
}

/// What goes on the label of a device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Label {
    /// The device.
    pub device_id: DeviceId,
    /// Its name.
    pub name: String,
    /// Where it stands.
    pub place: String,
    /// Its channels.
    pub channels: String,
}
