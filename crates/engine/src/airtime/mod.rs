//! The medium-access layer: what TCP gets of a link rate, and how a channel is shared.

pub mod goodput;
pub mod neighbours;
pub mod sharing;

pub use goodput::tcp_goodput;
pub use neighbours::Air;
pub use sharing::airtime_share;
