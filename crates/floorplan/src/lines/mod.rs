//! The house as it is typed: lines to rooms and what is in them, and what is done on the drawing back to lines.
//!
//! [`lengths`] reads and writes lengths, [`line`] one line, [`draw`] all of them; [`rewrite`] changes a line so that it says what was
//! dragged; [`fittings`] is what is in rooms, placed.

mod anchor;
mod cursor;
mod cut_out;
pub mod draw;
pub mod fittings;
pub mod grammar;
pub mod lengths;
pub mod line;
pub mod place;
mod read_thing;
pub mod restate;
pub mod rewrite;
pub mod thing;
mod tokens;
pub mod whole;
pub mod words;
pub mod write;
pub mod wrong;

pub use draw::{Typed, draw};
pub use fittings::Fittings;
pub use place::{LineFault, Placed, same_name};
pub use wrong::{Fix, Wrong};
