//! The medium-access layer: what TCP gets of a link rate, what a pair of radios carries, and how a channel is shared.

pub mod end;
pub mod goodput;
pub mod link;
pub mod neighbours;
pub mod sharing;

pub use goodput::tcp_goodput;
pub use link::{Link, LinkTable};
pub use neighbours::Air;
pub use sharing::airtime_share;
