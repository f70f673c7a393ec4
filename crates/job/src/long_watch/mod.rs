//! The long watch: knocks to a log (tally), its drops and holes (spans), a log to days (days), and what they show (findings).

mod command;
mod days;
mod finding;
mod findings;
mod spans;
mod tally;
mod told;

pub use command::{WatchCommand, watch_command};
pub use days::{DayPart, DayStrip, HourCell, HourSpan, PartsOfDay, TargetDay, TransferSeen, WatchTold};
pub use finding::{WatchFinding, WatchShows};
pub use spans::{Away, Hole, aways, holes};
pub use tally::Tally;
pub use told::watch_told;
