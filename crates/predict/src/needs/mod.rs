//! What people need of the network, what works at a given speed, and when a need is met.

pub mod activity;
pub mod complaints;
pub mod evening;
pub mod families;
pub mod step;
pub mod verdict;

pub use activity::{BUSY_EVENING, Need, Shortfall, busy_need, need_of, room_need};
pub use evening::{RunningLine, running_line};
pub use step::ServiceStep;
pub use verdict::Verdict;
