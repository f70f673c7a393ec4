//! A log told whole: its days, and what they show.

use busy_hen_home::WatchLog;
use busy_hen_predict::progress::Watch;
use jiff::tz::TimeZone;

use super::days::{WatchReport, by_days};
use super::findings::findings;
use super::spans::aways;

/// A log told by the days and hours of this time zone; of no account once whoever asked has stopped it.
#[must_use]
pub fn watch_report(log: &WatchLog, zone: &TimeZone, asked: &Watch) -> WatchReport {
    let aways = aways(log);
    let days = by_days(log, &aways, zone, asked);
    WatchReport { findings: findings(log, &days, &aways, zone, asked), ..days }
}
