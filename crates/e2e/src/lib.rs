//! The rig of the browser tests: a server and a browser of one's own, and what a person does with them.
//!
//! Tests wait on conditions, never for a time; [`Bench::see`] and its like poll until the page shows what is expected.

pub mod alone;
mod bench;
pub mod outage;
pub mod phones;
pub mod process;

pub use bench::{Bench, DESK, PHONE};
