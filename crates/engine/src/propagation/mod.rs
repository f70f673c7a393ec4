//! Loss between two places of a home.

pub mod crossing;
pub mod distance;

pub use crossing::{Barrier, crossing_loss};
pub use distance::{distance_loss, free_space_loss};
