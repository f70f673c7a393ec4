//! The day it is for the people in a home.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// The day it is at this moment where the machine stands: the day that an installer writes on a plan or a round.
#[must_use]
pub fn local_day(at: Timestamp) -> Date {
    TimeZone::system().to_datetime(at).date()
}
