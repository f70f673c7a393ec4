//! What a setup is made of and what rules it: kit, test devices and wall materials, all generic; channels and the rules of countries
//! ([`spectrum`]), rates and radio ends ([`phy`]).

pub mod clients;
pub mod kit;
pub mod materials;
pub mod phy;
pub mod spectrum;
pub mod table;

pub use busy_hen_home::{Kit, KitRadio};
pub use clients::Client;
pub use kit::{AsItComes, Catalogue};
pub use materials::{Material, MaterialUse};
