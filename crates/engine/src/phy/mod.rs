//! From signal to link rate: the standard's rates, the signal each needs, and what a link of two radios carries.

pub mod link;
pub mod noise;
pub mod rate;
pub mod snr;

pub use link::{Link, LinkTable, RadioEnd};
pub use rate::{Generation, Mcs};
