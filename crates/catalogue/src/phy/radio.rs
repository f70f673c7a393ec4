//! One end of a radio link.

use busy_hen_home::Generation;
use busy_hen_units::{Db, Dbm, Megahertz};

/// One end of a radio link.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct RadioEnd {
    /// Wi-Fi generation.
    pub generation: Generation,
    /// Aerials and spatial streams.
    pub streams: u8,
    /// Widest channel.
    pub max_width: Megahertz,
    /// Power sent, averaged over orientation.
    pub eirp: Dbm,
    /// Gain when receiving, averaged over orientation.
    pub gain: Db,
    /// Loss in the body that holds it, both ways.
    pub body: Db,
    /// Noise figure of its receiver.
    pub noise_figure: Db,
    /// Whether it puts few frames into an aggregate, as early ax kit does.
    pub short_aggregate: bool,
}

/// Signal at one end when the other sends.
#[must_use]
pub fn received(from: &RadioEnd, to: &RadioEnd, loss: Db) -> Dbm {
    from.eirp - from.body - loss + to.gain - to.body
}
