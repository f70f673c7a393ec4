//! Setups: devices placed in the home, with their modes, radios and uplinks.

use std::net::{Ipv4Addr, SocketAddrV4};

use busy_hen_units::{Db, Dbm, Degrees, MbitPerSec, Megahertz, Metres};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::band::Band;
use crate::brief::Hours;
use crate::fault::Fault;
use crate::house::Position;
use crate::id::{DeviceId, RoomId, SetupId};

/// Devices tried or fitted together.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Setup {
    /// Identifies the setup.
    pub id: SetupId,
    /// The letter it is called by.
    pub letter: String,
    /// What it is.
    pub name: String,
    /// Whether devices are told where to go as people walk.
    #[serde(default)]
    pub steering: Steering,
    /// Why it is tried.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub why: String,
    /// Whether it is put away: kept with its readings, and no longer offered.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub archived: bool,
    /// The usual series it is one of: setups of one kit that are tested at the same spots.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub series: Option<String>,
    /// Findings that the installer has put aside.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub put_aside: Vec<PutAside>,
    /// Its devices; the one in router mode without an uplink is where the line enters.
    pub devices: Vec<Device>,
}

/// A finding that the installer has looked at and put aside.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PutAside {
    /// The rule, by its name in the interface.
    pub rule: String,
    /// The device it is about; none when about the whole setup.
    pub device_id: Option<DeviceId>,
    /// Why.
    pub because: String,
}

/// How phones and laptops find the device that serves them.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Steering {
    /// One name, and the devices guide each client to the one that serves it best.
    #[default]
    Guided,
    /// One name without guidance: a client clings to where it joined, at the router, until the signal is poor.
    OneName,
    /// A name for each device: a client stays on the router's until that is gone.
    OwnNames,
}

impl Setup {
    /// A setup of these devices, guided as most kit does.
    #[must_use]
    pub fn new(id: SetupId, letter: &str, name: &str, devices: Vec<Device>) -> Self {
        Self {
            id,
            letter: letter.to_owned(),
            name: name.to_owned(),
            steering: Steering::default(),
            why: String::new(),
            archived: false,
            series: None,
            put_aside: Vec::new(),
            devices,
        }
    }

    /// The device with this id.
    #[must_use]
    pub fn device(&self, id: DeviceId) -> Option<&Device> {
        self.devices.iter().find(|device| device.id == id)
    }

    /// Takes a device off; what hung on it then hangs on what it hung on.
    ///
    /// # Errors
    /// When it is where the line enters and others hang on it.
    pub fn take_off(&mut self, id: DeviceId) -> Result<(), Fault> {
        let Some(index) = self.devices.iter().position(|device| device.id == id) else { return Ok(()) };
        let upstream = self.devices[index].uplink.as_ref().map(|uplink| uplink.to);
        let hanging = |device: &Device| device.uplink.as_ref().is_some_and(|uplink| uplink.to == id);
        if upstream.is_none() && self.devices.iter().any(hanging) {
            let name = &self.devices[index].name;
            let message = format!("The line enters at {name} and others hang on it; take those off first.");
            return Err(Fault { pointer: format!("/devices/{index}"), message });
        }
        self.devices.remove(index);
        for uplink in self.devices.iter_mut().filter_map(|device| device.uplink.as_mut()) {
            if let Some(upstream) = upstream.filter(|_| uplink.to == id) {
                uplink.to = upstream;
            }
        }
        Ok(())
    }

    /// The device at the line: the one without an uplink.
    #[must_use]
    pub fn root(&self) -> Option<&Device> {
        self.devices.iter().find(|device| device.uplink.is_none())
    }
}

/// Key of a type of device in the catalogue of kit.
#[derive(Debug, Clone, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(transparent)]
pub struct KitKey(pub String);

impl From<&str> for KitKey {
    fn from(key: &str) -> Self {
        Self(key.to_owned())
    }
}

/// One device placed in a setup.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Device {
    /// Identifies the device.
    pub id: DeviceId,
    /// What it is called, on the map by its first letter.
    pub name: String,
    /// Its type.
    pub kit: KitKey,
    /// What it is set to do.
    pub mode: Mode,
    /// Where it stands.
    pub at: Position,
    /// What it stands in.
    #[serde(default)]
    pub enclosure: Enclosure,
    /// Its aerials.
    #[serde(default)]
    pub aerial: Aerial,
    /// Whether it keeps its queues short when the line is full; counts at the router.
    #[serde(default)]
    pub managed_queue: bool,
    /// What it runs; none when nobody looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub firmware: Option<Firmware>,
    /// Hardware address by which kit reports name it, lower case with colons; none when not noted.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hardware_address: Option<String>,
    /// Address of its settings in this home, such as `192.168.1.2`, with the port where that is not the usual one; empty when not noted.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub settings_address: String,
    /// The addresses that it hands out; none where it hands out none, or nobody looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hands_out: Option<AddressRange>,
    /// Name of the network it serves, where it has one of its own; empty where it is the home's.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub network_name: String,
    /// Name of the guest network it serves; empty when it serves none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub guest_network: String,
    /// Whether the family has it already, so that nobody need buy it.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub there_already: bool,
    /// Its radios, as set.
    pub radios: Vec<RadioSetting>,
    /// Its link towards the router; none for the device at the line.
    pub uplink: Option<Uplink>,
}

/// The firmware of a device.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Firmware {
    /// As its own page tells it; empty when nobody looked.
    pub version: String,
    /// When it was released or put in, as its page tells.
    #[schema(value_type = Option<String>, format = Date)]
    pub from: Option<Date>,
    /// How it comes by a newer one; none when nobody looked.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub updates: Option<FirmwareUpdates>,
}

/// How a device comes by newer firmware.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
pub enum FirmwareUpdates {
    /// A file is given to each by itself.
    File,
    /// A button on its page.
    Button,
    /// By itself, in these hours.
    Schedule {
        /// The hours; hours of the day, local.
        hours: Hours,
    },
}

/// Addresses of a home's network, from the first to the last.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AddressRange {
    /// The first.
    #[schema(value_type = String, format = Ipv4)]
    pub from: Ipv4Addr,
    /// The last.
    #[schema(value_type = String, format = Ipv4)]
    pub to: Ipv4Addr,
}

impl AddressRange {
    /// Whether an address lies in it.
    #[must_use]
    pub fn holds(&self, address: Ipv4Addr) -> bool {
        (self.from..=self.to).contains(&address)
    }

    /// Whether some address lies in both.
    #[must_use]
    pub fn overlaps(&self, other: &Self) -> bool {
        self.from <= other.to && other.from <= self.to
    }
}

impl Device {
    /// A device of which nothing more is said: in the open, with what aerials it has, no radios set, hanging on nothing.
    #[must_use]
    pub fn bare(id: DeviceId, name: impl Into<String>, kit: impl Into<KitKey>, mode: Mode, at: Position) -> Self {
        Self {
            id,
            name: name.into(),
            kit: kit.into(),
            mode,
            at,
            enclosure: Enclosure::Open,
            aerial: Aerial::BuiltIn,
            managed_queue: false,
            firmware: None,
            hardware_address: None,
            settings_address: String::new(),
            hands_out: None,
            network_name: String::new(),
            guest_network: String::new(),
            there_already: false,
            radios: Vec::new(),
            uplink: None,
        }
    }

    /// The address of its settings, without a port; none where none is noted.
    #[must_use]
    pub fn settings_ip(&self) -> Option<Ipv4Addr> {
        let text = self.settings_address.trim();
        text.parse().ok().or_else(|| Some(*text.parse::<SocketAddrV4>().ok()?.ip()))
    }
}

/// What a device stands in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Enclosure {
    /// Nothing: in the open.
    #[default]
    Open,
    /// A wooden cupboard.
    Cupboard,
    /// A metal cabinet.
    MetalCabinet,
}

/// Aerials of a device.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Aerial {
    /// Inside of it, about alike in all directions.
    #[default]
    BuiltIn,
    /// Rods: round about alike, and thinner towards their ends the higher their gain.
    Rods {
        /// Gain across the rod, dBi.
        gain_dbi: Db,
        /// How far the tops lean from upright.
        lean: Degrees,
        /// Direction in which they lean, clockwise from north.
        towards: Degrees,
    },
    /// A panel that looks one way.
    Sector {
        /// Gain ahead, dBi.
        gain_dbi: Db,
        /// Width between half-power points, across.
        width: Degrees,
        /// Width between half-power points, up and down.
        height: Degrees,
        /// Direction it looks, clockwise from north.
        towards: Degrees,
    },
}

/// What a device is set to do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Mode {
    /// Routes between the line and the home.
    Router,
    /// Bridges its cable to the air.
    AccessPoint,
    /// Member of a mesh, under one name and one hand.
    MeshNode,
    /// Listens and repeats on the radio it serves with.
    Repeater,
    /// Joins cables and has no radio.
    Switch,
}

/// One radio of a device, as set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RadioSetting {
    /// Whether it sends at all.
    pub on: bool,
    /// Whether phones and laptops may join it; a radio kept for backhaul does not let them.
    pub serves: bool,
    /// Its band, given by the kit.
    pub band: Band,
    /// Its primary 20 MHz channel.
    #[schema(maximum = 65535)]
    pub channel: u16,
    /// Its channel width.
    pub width_mhz: Megahertz,
    /// How far it is turned down from the most that kit and country allow.
    #[serde(default, skip_serializing_if = "is_none_less")]
    pub turned_down_db: Db,
    /// Signal under which a client is handed over to another device; none when it is left to the client.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hand_over_dbm: Option<Dbm>,
}

#[expect(clippy::trivially_copy_pass_by_ref, reason = "serde asks with a reference")]
fn is_none_less(turned_down: &Db) -> bool {
    turned_down.get() == 0.0
}

/// A device's link towards the router.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Uplink {
    /// The device it leads to.
    pub to: DeviceId,
    /// Which of that device's ports towards the home its cable goes to, counted from 1; none for the next free one.
    #[schema(maximum = 255)]
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub port: Option<u8>,
    /// What carries it.
    pub via: Via,
}

impl Uplink {
    /// A link to this device by this, at its next free port.
    #[must_use]
    pub fn new(to: DeviceId, via: Via) -> Self {
        Self { to, port: None, via }
    }
}

/// What carries an uplink.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, ToSchema)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Via {
    /// Network cable.
    Cable {
        /// What the cable carries.
        class: CableClass,
        /// Whether it lies loose, for a trial.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        loose: bool,
        /// The room in which it goes from storey to storey; none for the stairs.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        riser: Option<RoomId>,
    },
    /// The air, by this radio of the device to the radio of the same band upstream.
    Radio {
        /// Index of the radio among the device's own.
        radio: usize,
    },
    /// The air, by whichever of its radios then passes most on.
    BestRadio,
    /// A pair of adapters on the cable-television coax.
    Coax {
        /// Length of coax between the two sockets.
        length_m: Metres,
        /// Two-way splitters on the way.
        #[schema(maximum = 255)]
        splitters: u8,
        /// Link speed of the adapters' network ports.
        port_mbps: MbitPerSec,
    },
    /// A pair of adapters on the mains wiring.
    PowerLine {
        /// What the pair is sold as.
        class: PowerLineClass,
        /// Length of wiring between the two outlets.
        length_m: Metres,
        /// How the two outlets' circuits are joined.
        circuit: Circuit,
        /// Power strips and surge filters that an adapter hangs on.
        #[schema(maximum = 255)]
        strips: u8,
        /// Whether a noisy appliance shares the outlet: charger, dimmer, motor.
        noisy: bool,
        /// Link rate that the pair itself reports, in place of what the wiring lets expect; none when nobody looked.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        reported_mbps: Option<MbitPerSec>,
    },
}

impl Via {
    /// A fixed cable of this class.
    #[must_use]
    pub const fn cable(class: CableClass) -> Self {
        Self::Cable { class, loose: false, riser: None }
    }

    /// Whether the air carries it.
    #[must_use]
    pub fn is_radio(&self) -> bool {
        matches!(self, Self::Radio { .. } | Self::BestRadio)
    }
}

/// Class of a power-line pair by the rate it is sold under.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum PowerLineClass {
    /// Sold as 200 Mb/s.
    Sold200,
    /// Sold as 500 Mb/s.
    Sold500,
    /// Sold as 1000 to 1300 Mb/s.
    Sold1000,
    /// Sold as 2000 Mb/s.
    Sold2000,
}

/// How the circuits of two outlets are joined.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Circuit {
    /// One circuit feeds both.
    Same,
    /// Two circuits of one board.
    Other,
    /// Another board or phase, or an arc-fault breaker on the way.
    OtherBoard,
}

/// Class of a network cable.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum CableClass {
    /// Cat 5, or unmarked old cable.
    Cat5,
    /// Cat 5e.
    Cat5e,
    /// Cat 6.
    Cat6,
    /// Cat 6A.
    Cat6a,
}
