//! What a setup is put together from: cables with their ways, ports, power, and the list of what to buy.

pub mod cabling;
pub mod list;
pub mod ports;

pub use cabling::{Route, Ways};
pub use list::{Parts, parts};
pub use ports::{FedBy, PortMap, fed_by, port_maps};
