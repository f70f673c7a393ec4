//! What kit reports of itself: who serves which phone, and how.
//!
//! Read as the Wi-Fi Alliance's Data Elements have it (network, devices, radios, stations; names of fields from memory), which controllers of home kit
//! may publish as JSON. Fields that are not needed are passed over, those that are missing leave what they would say unknown.

use std::net::IpAddr;

use busy_hen_home::{Band, ReportedDevice, ReportedRadio};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz};
use serde::Deserialize;

/// Largest report that is read, bytes.
pub const KIT_REPORT_LIMIT: usize = 1024 * 1024;
/// Largest received channel power indicator that stands for a power (IEEE 802.11-2020, 9.4.2.37).
const RCPI_MOST: u8 = 220;

/// A report of a network.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct KitReport {
    /// Whether a stand-in made it up.
    pub stand_in: bool,
    /// The stations that are joined.
    pub stations: Vec<Station>,
    /// The devices that the network is made of.
    pub devices: Vec<ReportedDevice>,
}

/// A phone or other device that is joined to a network.
#[derive(Debug, Clone, PartialEq)]
pub struct Station {
    /// Its addresses.
    pub addresses: Vec<IpAddr>,
    /// Hardware address of the device that serves it, lower case with colons.
    pub served_by: String,
    /// The band it is on.
    pub band: Option<Band>,
    /// Width of the channel.
    pub width_mhz: Option<Megahertz>,
    /// Primary channel, where the report names it.
    pub channel: Option<u16>,
    /// What the device hears of it.
    pub signal_dbm: Option<Dbm>,
    /// Rate of the last frames to it.
    pub link_rate_mbps: Option<MbitPerSec>,
}

#[derive(Deserialize)]
struct Root {
    #[serde(rename = "wfa-dataelements:Network")]
    network: RawNetwork,
    /// Ours: stands in what a stand-in made up, and in no other.
    #[serde(rename = "busy-hen:StandIn", default)]
    stand_in: bool,
}

#[derive(Deserialize)]
struct RawNetwork {
    #[serde(rename = "DeviceList", default)]
    devices: Vec<RawDevice>,
}

#[derive(Deserialize)]
struct RawDevice {
    #[serde(rename = "ID")]
    id: String,
    #[serde(rename = "RadioList", default)]
    radios: Vec<RawRadio>,
    #[serde(rename = "SoftwareVersion", default)]
    version: Option<String>,
    #[serde(rename = "MultiAPDevice", default)]
    mesh: Option<RawMesh>,
}

#[derive(Deserialize)]
struct RawMesh {
    #[serde(rename = "Backhaul", default)]
    backhaul: Option<RawBackhaul>,
}

#[derive(Deserialize)]
struct RawBackhaul {
    #[serde(rename = "LinkType", default)]
    link: Option<String>,
    #[serde(rename = "BackhaulDeviceID", default)]
    to: Option<String>,
}

#[derive(Deserialize)]
struct RawRadio {
    #[serde(rename = "Enabled", default)]
    enabled: Option<Flag>,
    #[serde(rename = "CurrentOperatingClasses", default)]
    classes: Vec<RawClass>,
    #[serde(rename = "BSSList", default)]
    networks: Vec<RawBss>,
}

/// Yes or no, as kit writes it.
#[derive(Deserialize, Clone, Copy)]
#[serde(untagged)]
enum Flag {
    Word(bool),
    Number(u8),
}

impl Flag {
    fn is_set(self) -> bool {
        matches!(self, Self::Word(true) | Self::Number(1..))
    }
}

#[derive(Deserialize)]
struct RawClass {
    #[serde(rename = "Class")]
    class: u8,
    #[serde(rename = "Channel")]
    channel: u16,
}

#[derive(Deserialize)]
struct RawBss {
    #[serde(rename = "SSID", default)]
    name: Option<String>,
    #[serde(rename = "STAList", default)]
    stations: Vec<RawStation>,
}

#[derive(Deserialize)]
struct RawStation {
    #[serde(rename = "IPV4Address", default)]
    v4: Option<String>,
    #[serde(rename = "IPV6Address", default)]
    v6: Option<String>,
    /// RCPI: half decibels over -110 dBm.
    #[serde(rename = "SignalStrength", default)]
    signal: Option<u8>,
    /// kb/s.
    #[serde(rename = "LastDataDownlinkRate", default)]
    down_kbps: Option<u64>,
}

impl KitReport {
    /// Reads a report.
    ///
    /// # Errors
    /// What is wrong with it, in words.
    pub fn read(bytes: &[u8]) -> Result<Self, String> {
        let root: Root = serde_json::from_slice(bytes).map_err(|error| error.to_string())?;
        let stations = root.network.devices.iter().flat_map(|device| {
            device.radios.iter().flat_map(move |radio| {
                let joined = radio.networks.iter().flat_map(|network| &network.stations);
                joined.map(move |station| read(&device.id, radio, station))
            })
        });
        let stations = stations.collect();
        let devices = root.network.devices.iter().map(device).collect();
        Ok(Self { stand_in: root.stand_in, stations, devices })
    }

    /// The station that has this address.
    #[must_use]
    pub fn station(&self, address: IpAddr) -> Option<&Station> {
        self.stations.iter().find(|own| own.addresses.contains(&address.to_canonical()))
    }
}

/// A hardware address as the bench writes them.
fn plain(address: &str) -> String {
    address.to_lowercase().replace('-', ":")
}

fn device(raw: &RawDevice) -> ReportedDevice {
    let backhaul = raw.mesh.as_ref().and_then(|own| own.backhaul.as_ref());
    let said = |text: Option<&String>| text.map(|own| own.trim().to_owned()).filter(|own| !own.is_empty());
    let radio = |own: &RawRadio| {
        let (band, width_mhz, channel) = air(own);
        let networks = own.networks.iter().filter_map(|network| said(network.name.as_ref())).collect();
        ReportedRadio { band, channel, width_mhz, networks }
    };
    ReportedDevice {
        address: plain(&raw.id),
        version: said(raw.version.as_ref()),
        hangs_on: said(backhaul.and_then(|own| own.to.as_ref())).map(|own| plain(&own)),
        by_radio: said(backhaul.and_then(|own| own.link.as_ref())).map(|own| own.eq_ignore_ascii_case("Wi-Fi")),
        radios: raw.radios.iter().filter(|own| own.enabled.is_none_or(Flag::is_set)).map(radio).collect(),
    }
}

/// Band, width and primary channel of a radio.
fn air(radio: &RawRadio) -> (Option<Band>, Option<Megahertz>, Option<u16>) {
    let classes = || radio.classes.iter().filter_map(|own| Some((of_class(own.class)?, own.channel)));
    let widest = classes().max_by_key(|((_, width), _)| *width);
    // The channel of a class of 20 MHz is the primary one; those of wider classes name their middle.
    let primary = classes().find(|((_, width), _)| *width == 20).map(|(_, channel)| channel);
    let band = widest.map(|((band, _), _)| band);
    (band, widest.map(|((_, width), _)| Megahertz::new(f64::from(width))), primary)
}

fn read(device: &str, radio: &RawRadio, station: &RawStation) -> Station {
    let (band, width_mhz, channel) = air(radio);
    let address = |text: &Option<String>| text.as_ref()?.parse::<IpAddr>().ok().map(|own| own.to_canonical());
    Station {
        addresses: [address(&station.v4), address(&station.v6)].into_iter().flatten().collect(),
        served_by: plain(device),
        band,
        width_mhz,
        channel,
        signal_dbm: station
            .signal
            .filter(|rcpi| (1..=RCPI_MOST).contains(rcpi))
            .map(|rcpi| Dbm::new(f64::from(rcpi) / 2.0 - 110.0)),
        link_rate_mbps: station.down_kbps.filter(|rate| *rate > 0).map(|rate| MbitPerSec::new(rate as f64 / 1000.0)),
    }
}

/// Band and width, MHz, of a global operating class (IEEE 802.11-2020, table E-4; 137 of IEEE 802.11be).
fn of_class(class: u8) -> Option<(Band, u16)> {
    Some(match class {
        81 | 82 => (Band::Ghz2_4, 20),
        83 | 84 => (Band::Ghz2_4, 40),
        115 | 118 | 121 | 124 | 125 => (Band::Ghz5, 20),
        116 | 117 | 119 | 120 | 122 | 123 | 126 | 127 => (Band::Ghz5, 40),
        128 => (Band::Ghz5, 80),
        129 => (Band::Ghz5, 160),
        131 => (Band::Ghz6, 20),
        132 => (Band::Ghz6, 40),
        133 => (Band::Ghz6, 80),
        134 => (Band::Ghz6, 160),
        137 => (Band::Ghz6, 320),
        _ => return None,
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn who_serves_and_how_is_read_and_what_is_missing_stays_unknown() {
        let text = r#"{ "wfa-dataelements:Network": { "ID": "home", "TimeStamp": "2026-11-20T10:00:00Z", "DeviceList": [
            { "ID": "02-AB-00-00-00-01", "RadioList": [
                { "ID": "x", "Enabled": 1, "CurrentOperatingClasses": [
                    { "Class": 128, "Channel": 42, "TxPower": 20 }, { "Class": 115, "Channel": 36, "TxPower": 20 } ],
                  "BSSList": [{ "BSSID": "y", "STAList": [
                    { "MACAddress": "z", "IPV4Address": "192.168.1.50", "SignalStrength": 90, "LastDataDownlinkRate": 866000 },
                    { "MACAddress": "w", "SignalStrength": 255 } ] }] } ] } ] } }"#;
        let report = KitReport::read(text.as_bytes()).unwrap();
        assert!(!report.stand_in);
        let phone = report.station("192.168.1.50".parse().unwrap()).unwrap();
        assert_eq!(
            (phone.served_by.as_str(), phone.band, phone.channel),
            ("02:ab:00:00:00:01", Some(Band::Ghz5), Some(36))
        );
        // RCPI 90 is -65 dBm (IEEE 802.11-2020, 9.4.2.37).
        assert_eq!((phone.signal_dbm, phone.width_mhz), (Some(Dbm::new(-65.0)), Some(Megahertz::new(80.0))));
        assert_eq!(phone.link_rate_mbps, Some(MbitPerSec::new(866.0)));
        assert_eq!(report.stations[1].signal_dbm, None, "255: not measured");
        assert!(report.station("192.168.1.51".parse().unwrap()).is_none());
    }

    #[test]
    fn what_each_device_says_of_itself_is_read() {
        let text = r#"{ "wfa-dataelements:Network": { "DeviceList": [
            { "ID": "02-AB-00-00-00-01", "SoftwareVersion": "2.1", "RadioList": [
                { "Enabled": 1, "CurrentOperatingClasses": [{ "Class": 81, "Channel": 6 }], "BSSList": [{ "SSID": "Kiln" }, { "SSID": "" }] },
                { "Enabled": false, "CurrentOperatingClasses": [{ "Class": 115, "Channel": 36 }] } ] },
            { "ID": "02:AB:00:00:00:02", "MultiAPDevice": { "Backhaul": { "LinkType": "Wi-Fi", "BackhaulDeviceID": "02-ab-00-00-00-01" } } } ] } }"#;
        let devices = KitReport::read(text.as_bytes()).unwrap().devices;
        assert_eq!((devices[0].version.as_deref(), &devices[0].hangs_on), (Some("2.1"), &None));
        assert_eq!(devices[0].radios.len(), 1, "one is off");
        let radio = &devices[0].radios[0];
        assert_eq!(
            (radio.band, radio.channel, &radio.networks[..]),
            (Some(Band::Ghz2_4), Some(6), &["Kiln".to_owned()][..])
        );
        assert_eq!(devices[1].hangs_on.as_deref(), Some("02:ab:00:00:00:01"));
        assert_eq!((devices[1].by_radio, devices[1].version.is_none()), (Some(true), true));
    }

    #[test]
    fn what_is_no_report_is_told() {
        for text in ["", "{}", "[1]", r#"{"wfa-dataelements:Network":{"DeviceList":[{}]}}"#, "<html>"] {
            assert!(KitReport::read(text.as_bytes()).is_err(), "{text}");
        }
    }
}
