//! Types of device: what a router, node or switch of a kind can do.

use busy_hen_units::{MbitPerSec, Megahertz, Metres, SquareMetres, Volts, Watts};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::band::Band;
use crate::brief::Want;
use crate::setup::{Aerial, Mode, PowerLineClass};

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
    /// What else is known of it.
    #[serde(default, skip_serializing_if = "KitFacts::is_empty")]
    pub facts: KitFacts,
}

/// What is known of a type of device besides what its radios and ports do; what nobody noted is absent, never guessed.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KitFacts {
    /// Ports towards the home.
    #[schema(maximum = 255)]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub lan_ports: Option<u8>,
    /// Ports of those that feed what hangs on them.
    #[schema(maximum = 255)]
    #[serde(default, skip_serializing_if = "is_zero")]
    pub feeding_ports: u8,
    /// Power that its feeding ports give together.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub feeds_w: Option<Watts>,
    /// Power it needs at most.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub needs_w: Option<Watts>,
    /// Lowest and highest mains voltage of its supply.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mains_v: Option<MainsVolts>,
    /// Whether it hangs in the outlet and covers the next one.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub blocks_next_outlet: bool,
    /// How warm its case gets; none when nobody felt.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warmth: Option<Warmth>,
    /// Where it may stand.
    #[serde(default, skip_serializing_if = "Weather::is_indoors")]
    pub weather: Weather,
    /// How it is put up.
    #[serde(default, skip_serializing_if = "Mounting::is_shelf")]
    pub mounting: Mounting,
    /// The family of kit with which it guides phones from device to device; none when it guides none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub steers_with: Option<String>,
    /// How it tells the quality of its uplink.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tells_uplink: Option<ReportedUplink>,
    /// Whether a spare aerial can be screwed on.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub takes_aerials: bool,
    /// Price of one, in the family's currency.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub price: Option<f64>,
    /// Packs it is sold in besides.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub packs: Vec<Pack>,
    /// Fee a year for what is not in the price.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub fee_a_year: Option<f64>,
    /// Years of warranty.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub warranty_years: Option<f64>,
    /// Area its maker claims for one of them.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub claimed_area_m2: Option<SquareMetres>,
    /// How much of it can be set.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub control: Option<Control>,
    /// What it is known to offer, or to lack.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub functions: Vec<Function>,
    /// What lies in the box with it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub in_box: Vec<BoxItem>,
    /// What it is known to do in this home.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub known_here: String,
}

/// How a type of device is put up.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Mounting {
    /// On a shelf or a table.
    #[default]
    Shelf,
    /// On a wall.
    Wall,
    /// Under the ceiling.
    Ceiling,
}

impl Mounting {
    #[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks with a reference")]
    fn is_shelf(&self) -> bool {
        *self == Self::Shelf
    }
}

impl KitFacts {
    fn is_empty(&self) -> bool {
        *self == Self::default()
    }
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks with a reference")]
fn is_zero(ports: &u8) -> bool {
    *ports == 0
}

/// Lowest and highest mains voltage that a supply takes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct MainsVolts {
    /// The lowest.
    pub from_v: Volts,
    /// The highest.
    pub to_v: Volts,
}

/// Where a device may stand.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Weather {
    /// Indoors only.
    #[default]
    Indoors,
    /// Outdoors under a roof.
    UnderRoof,
    /// In rain and frost.
    Outdoors,
}

impl Weather {
    #[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks with a reference")]
    fn is_indoors(&self) -> bool {
        *self == Self::Indoors
    }
}

/// How warm the case of a device gets at work.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Warmth {
    /// Hardly to be felt.
    Cool,
    /// Warm to the hand.
    Warm,
    /// Too hot to hold on to: it wants air around it.
    Hot,
}

/// How a device tells the quality of its uplink.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum ReportedUplink {
    /// By lights or a word: good, fair, poor.
    Steps,
    /// By the signal it hears, dBm.
    Signal,
    /// By signal and link rate.
    SignalAndRate,
}

/// How much of a device can be set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Control {
    /// A few settings, in an app.
    Simple,
    /// Every setting within reach.
    Full,
}

/// Some of a device sold together.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Pack {
    /// How many are in it.
    #[schema(maximum = 255)]
    pub count: u8,
    /// Its price, in the family's currency.
    pub price: f64,
}

/// A function that a type of device has, has for a fee, or lacks.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Function {
    /// The function.
    pub what: Want,
    /// How it comes.
    pub comes: Comes,
}

/// How a function comes with a type of device.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Comes {
    /// With it.
    Included,
    /// For a fee.
    ForAFee,
    /// Not at all.
    Lacking,
}

/// Something that lies in the box with a device.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum BoxItem {
    /// What feeds it over its network cable.
    Injector,
    /// A plug-in supply.
    Supply,
    /// A network cable.
    Cable {
        /// Its length.
        length_m: Metres,
    },
    /// What it is fixed to a wall, ceiling or mast with.
    Mount,
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
