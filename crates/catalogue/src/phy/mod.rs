//! The physical layer: the standard's rates, the signal each needs, and the ends of a link.

pub mod noise;
pub mod radio;
pub mod rate;
pub mod snr;

pub use radio::RadioEnd;
pub use rate::{Mcs, Standard};
