//! The long watch: knocks to a log (tally), its drops and holes (spans), a log to days (days), and what they show (findings).

mod command;
mod days;
mod finding;
mod findings;
mod report;
mod spans;
mod tally;

pub use command::{WatchCommand, watch_command};
pub use days::{DayPart, DayStrip, HourCell, HourSpan, PartsOfDay, TargetDay, TransferSeen, WatchReport};
pub use finding::{WatchFinding, WatchShows};
pub use report::watch_report;
pub use spans::{Away, Hole, aways, holes};
pub use tally::Tally;
