//! Rounds of tests: begin, fill by hand or by the stand-in phone, judge.

mod begin;
mod confirm;
mod runs;
mod stand_in;
mod table;
mod view;

pub use begin::*;
pub use confirm::*;
pub use runs::*;
pub use stand_in::*;
pub use table::*;
pub use view::*;
