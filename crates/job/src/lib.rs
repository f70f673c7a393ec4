//! The job in its order: what is wrong and what helps, what to buy and to do, what is proved by pulling plugs and by listening.
//!
//! No I/O, no clock and no ambient randomness here: everything comes in as an argument, so the same input gives the same answer
//! everywhere.

pub mod cautions;
pub mod changes;
pub mod check;
pub mod dead_zones;
pub mod drills;
pub mod findings;
pub mod fitting;
pub mod kit_record;
pub mod long_watch;
pub mod parts;
pub mod placing;
pub mod rounds;
pub mod route;
pub mod series;
pub mod side_by_side;
pub mod walked;
