//! The long watch: knocks to a log (tally), its drops and holes (spans), a log to days (days), and what they show (findings).

mod command;
mod days;
mod findings;
mod spans;
mod tally;

pub use command::{WatchCommand, watch_command};
pub use days::{DayPart, DayStrip, HourCell, HourSpan, PartsOfDay, TargetDay, TransferSeen, WatchTold, watch_told};
pub use findings::{WatchFinding, WatchShows};
pub use spans::{Away, Hole, aways, holes};
pub use tally::Tally;
