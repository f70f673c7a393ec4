//! Bands, channels and what each country allows on them.

pub mod channels;
pub mod mask;
pub mod region;

pub use channels::{Block, block, primaries};
pub use region::{Region, regions};
