//! Rounds before they begin: in which order to walk, and what to see first.

pub mod confirm;
pub mod distance;
pub mod order;
