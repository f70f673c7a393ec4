//! Loss between two places of a home.
//!
//! [`waves`] is the law of the product: the straight line through walls and past the edges of openings, and the light that rooms
//! pass on to each other. [`published`] and [`multi_wall`] are other laws, offered for comparison.

pub mod aerial;
mod balance;
pub mod distance;
pub mod edge;
pub mod multi_wall;
pub mod outdoors;
pub mod published;
pub mod radiosity;
pub mod sensitivity;
pub mod sight;
pub mod slab;

pub use balance::Prepared;
pub use distance::free_space_loss;
pub use radiosity::{DiffuseField, HouseCache, LAW, PropagationModel, Radiosity};
pub use sensitivity::{PartOfHouse, Sensitivity};
pub use sight::{Crossing, Element, Sight};
