//! One file a thing; one short function an endpoint.

pub mod catalogue;
pub mod compare;
pub mod files;
pub mod homes;
pub mod house;
pub mod jobs;
pub mod learning;
pub mod lock;
pub mod parts;
pub mod phones;
pub mod pictures;
pub mod predict;
pub mod rounds;
pub mod setups;
pub mod zones;
