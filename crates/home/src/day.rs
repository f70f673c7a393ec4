//! The day it is for the people in a home.

use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;

/// The day it is at this moment where the machine stands: the day that an installer writes on a plan or a round.
#[must_use]
pub fn local_day(at: Timestamp) -> Date {
    TimeZone::system().to_datetime(at).date()
}

/// The hour of the day at this moment where the machine stands, with minutes as a part: 0 to 24.
#[must_use]
pub fn local_hour(at: Timestamp) -> f64 {
    let time = TimeZone::system().to_datetime(at).time();
    f64::from(time.hour()) + f64::from(time.minute()) / 60.0
}
