//! Fitting a setup: the run sheet that is worked through ([`sheet`]), step by step as the work goes, and what was not done of it
//! ([`report`]); whether settings took, as the kit itself tells ([`reported`]).

mod places;
pub mod report;
pub mod reported;
pub mod sheet;
mod stages;
mod step;

pub(crate) use places::old_devices;
pub use report::{Report, report};
pub use reported::reported;
pub use sheet::{LAST_STEP, Sheet, SheetStep, Stage, StepKind, sheet};
