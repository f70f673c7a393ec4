//! The chain from the line to the device: what each link carries and which one limits.

pub mod call;
pub mod chain;
pub mod ethernet;
pub mod flow;
pub mod latency;
pub mod network;
pub mod pairs;
pub mod roaming;
pub mod tables;

pub use chain::{Chain, ChainLink, LinkKind};
pub use ethernet::ethernet_goodput;
pub use flow::Flow;
pub use network::{Access, Hop, Network, Node};
pub use tables::LinkTables;
