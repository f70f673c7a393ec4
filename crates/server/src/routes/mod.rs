//! One file a thing; one short function an endpoint.

pub mod calibration;
pub mod catalogue;
pub mod compare;
pub mod drills;
mod editing;
pub mod far_end;
pub mod files;
pub mod fitting;
pub mod homes;
pub mod house;
pub mod jobs;
pub mod kit_record;
mod known;
pub mod lock;
pub mod network;
pub mod numbers;
pub mod parts;
pub mod passwords;
pub mod phones;
pub mod pictures;
pub mod predict;
pub mod rounds;
pub mod setups;
pub mod watches;
pub mod zones;
