//! The two directions of a flow.

use busy_hen_radio::airtime::Link;
use busy_hen_units::MbitPerSec;

/// Direction of a flow.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Direction {
    /// To the client.
    Down,
    /// From the client.
    Up,
}

impl Direction {
    /// What a radio link carries in this direction.
    #[must_use]
    pub fn of(self, link: &Link) -> MbitPerSec {
        match self {
            Self::Down => link.down,
            Self::Up => link.up,
        }
    }
}
