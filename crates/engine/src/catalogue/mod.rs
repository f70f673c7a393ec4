//! What a setup is made of: wall materials, kit and test devices, all generic.

pub mod clients;
pub mod kit;
pub mod materials;
pub mod table;

pub use busy_hen_home::{Kit, KitRadio};
pub use clients::Client;
pub use kit::{AsItComes, Catalogue};
pub use materials::{Material, MaterialUse};
