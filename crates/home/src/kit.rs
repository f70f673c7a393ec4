//! Types of device: what a router, node or switch of a kind can do.

use busy_hen_units::{MbitPerSec, Megahertz};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::setup::{Aerial, Band, Mode, PowerLineClass};

/// Wi-Fi generation, by the letters of the amendment.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "lowercase")]
pub enum Generation {
    /// HT, IEEE 802.11n.
    N,
    /// VHT, IEEE 802.11ac.
    Ac,
    /// HE, IEEE 802.11ax.
    Ax,
    /// EHT, IEEE 802.11be.
    Be,
}

/// A type of device.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Kit {
    /// Key in the home file.
    pub key: String,
    /// Name for people: generic, no make or model.
    pub name: String,
    /// What it can be set to do; the first is how it comes.
    pub modes: Vec<Mode>,
    /// Its radios.
    pub radios: Vec<KitRadio>,
    /// Whether its network cable feeds it, so that it needs an injector or such a port and no outlet.
    #[serde(default)]
    pub powered_by_cable: bool,
    /// Link speed of its port towards the line or the router.
    pub uplink_port_mbps: MbitPerSec,
    /// Link speed of its ports towards the home.
    pub lan_port_mbps: MbitPerSec,
    /// The aerials it comes with.
    #[serde(default)]
    pub aerial: Aerial,
    /// What its power-line end is sold as; none when it has none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub power_line: Option<PowerLineClass>,
}

/// A radio of a type of device.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KitRadio {
    /// Its band.
    pub band: Band,
    /// Its Wi-Fi generation.
    pub generation: Generation,
    /// Aerials and spatial streams.
    #[schema(maximum = 255)]
    pub streams: u8,
    /// Widest channel.
    pub max_width_mhz: Megahertz,
    /// Channel it comes set to.
    #[schema(maximum = 65535)]
    pub default_channel: u16,
    /// Whether phones and laptops may join it as it comes.
    pub serves: bool,
    /// Whether it puts few frames into an aggregate, as early ax kit does.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub short_aggregate: bool,
}
