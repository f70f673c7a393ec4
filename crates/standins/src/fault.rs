//! What stand-in kit does wrong, when it is asked to: things that happen with real kit and that nobody sees by looking at the lamps.

use std::str::FromStr;

/// A fault.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Fault {
    /// A node that lost its way comes back on the wrong device, and stays there.
    WrongParent,
    /// A device serves no guest network though it was set.
    GuestsRefused,
    /// A device comes back with newer firmware and on another channel.
    ChannelMoved,
}

impl FromStr for Fault {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        match text {
            "wrong-parent" => Ok(Self::WrongParent),
            "guests" => Ok(Self::GuestsRefused),
            "channel" => Ok(Self::ChannelMoved),
            _ => Err(format!("“{text}” is no fault: wrong-parent, guests or channel")),
        }
    }
}
