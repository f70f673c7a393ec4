//! What a setup is made of: wall materials, kit and test devices, all generic.

pub mod clients;
pub mod kit;
pub mod materials;

pub use clients::Client;
pub use kit::{Kit, KitRadio};
pub use materials::{Material, MaterialUse};
