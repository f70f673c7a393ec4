//! What kit says of itself.

use busy_hen_units::Megahertz;

use crate::band::Band;

/// A device as the kit's own report has it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ReportedDevice {
    /// Its hardware address, lower case with colons.
    pub address: String,
    /// The firmware it runs; none where it does not say.
    pub version: Option<String>,
    /// Hardware address of what it hangs on; none where it does not say, or is the one at the line.
    pub hangs_on: Option<String>,
    /// Whether it hangs there by radio; none where it does not say.
    pub by_radio: Option<bool>,
    /// Its radios that are on.
    pub radios: Vec<ReportedRadio>,
}

/// A radio as the kit's own report has it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct ReportedRadio {
    /// Its band; none where that is not known.
    pub band: Option<Band>,
    /// Primary channel; none where it does not say.
    pub channel: Option<u16>,
    /// Width of the channel; none where it does not say.
    pub width_mhz: Option<Megahertz>,
    /// Names of the networks that it serves, as far as it tells them.
    pub networks: Vec<String>,
}
