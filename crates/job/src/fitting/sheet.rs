//! The run sheet of a setup: what is done in which order, with which tools, and what is looked at afterwards.
//!
//! # Source
//! Common practice: settle, update and name on a table before anything is climbed to; wired before radio; the old Wi-Fi off once the new
//! serves and before anybody joins, so that nothing clings to it; then look whether each setting took, and count who has joined.

use busy_hen_home::{Home, Setup};
use serde::Serialize;
use utoipa::ToSchema;

use super::places::{Job, old_devices};
use super::stages;
pub use super::step::{LAST_STEP, Label, SheetStep, Stage, StepKind};
use crate::parts::parts;
use busy_hen_catalogue::Catalogue;
use busy_hen_floorplan::Plan;

/// The run sheet.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Sheet {
    /// The steps, in the order they are done.
    pub steps: Vec<SheetStep>,
    /// What to bring besides the parts.
    pub tools: Vec<String>,
    /// What is wrong before anything is begun, and would be met half-way.
    pub first: Vec<String>,
    /// What goes on the label of each device.
    pub labels: Vec<Label>,
}

/// The run sheet of a setup.
///
/// # Complexity
/// As [`parts`]: a way looked for for each cable
#[must_use]
pub fn sheet(home: &Home, setup: &Setup, plan: &Plan) -> Sheet {
    let job = Job {
        home,
        setup,
        plan,
        catalogue: Catalogue::of(home),
        parts: parts(home, setup, plan),
        old: old_devices(home, setup),
    };
    let mut steps = Vec::new();
    stages::table(&job, &mut steps);
    stages::wire(&job, &mut steps);
    stages::place(&job, &mut steps);
    stages::pair(&job, &mut steps);
    stages::settings(&job, &mut steps);
    stages::old(&job, &mut steps);
    stages::look(&job, &mut steps);
    stages::roll_call(&job, &mut steps);
    stages::leave(&job, &mut steps);
    Sheet { tools: job.tools(), first: job.first(), labels: job.labels(), steps }
}
