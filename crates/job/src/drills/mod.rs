//! Drills: a deliberate outage, timed. What it will do ([`outage`]) and which way nodes then go ([`rejoin`]), how long each of its phases
//! ([`phase`]) commonly takes ([`usual`]), what a page heard meanwhile ([`listening`]), and what became of those that were run ([`timing`]).

pub mod listening;
pub mod outage;
pub mod phase;
pub mod reselection;
pub mod timing;
pub mod usual;

pub use listening::listened;
pub use outage::{Outage, failures, outage, outages};
pub use phase::{Phase, took};
pub use timing::{Drilled, drilled};
