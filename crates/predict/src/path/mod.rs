//! The chain from the line to the device: what each link carries and which one limits.

pub mod call;
pub mod chain;
pub mod demand;
pub mod direction;
pub mod ethernet;
pub mod flow;
pub mod hop;
mod hops;
pub mod latency;
pub mod line;
pub mod network;
pub mod nodes;
pub mod pairs;
pub mod roaming;
pub mod tables;

pub use chain::{Chain, ChainLink, LinkKind};
pub use demand::{Demand, Others};
pub use direction::Direction;
pub use ethernet::ethernet_goodput;
pub use flow::Flow;
pub use hop::{Hop, HopKind};
pub use network::{Access, Network};
pub use nodes::Node;
pub use tables::LinkTables;
