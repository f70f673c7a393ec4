//! What kit reports of itself: who serves which phone, and how.
//!
//! Read as the Wi-Fi Alliance's Data Elements have it (network, devices, radios, stations; names of fields from memory), which controllers of home kit
//! may publish as JSON. Fields that are not needed are passed over, those that are missing leave what they would say unknown.

use std::net::IpAddr;

use busy_hen_home::Band;
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
}

#[derive(Deserialize)]
struct RawRadio {
    #[serde(rename = "CurrentOperatingClasses", default)]
    classes: Vec<RawClass>,
    #[serde(rename = "BSSList", default)]
    networks: Vec<RawBss>,
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
        Ok(Self { stand_in: root.stand_in, stations: stations.collect() })
    }

    /// The station that has this address.
    #[must_use]
    pub fn station(&self, address: IpAddr) -> Option<&Station> {
        self.stations.iter().find(|own| own.addresses.contains(&address.to_canonical()))
    }
}

fn read(device: &str, radio: &RawRadio, station: &RawStation) -> Station {
    let classes = || radio.classes.iter().filter_map(|own| Some((of_class(own.class)?, own.channel)));
    let widest = classes().max_by_key(|((_, width), _)| *width);
    // The channel of a class of 20 MHz is the primary one; those of wider classes name their middle.
    let primary = classes().find(|((_, width), _)| *width == 20).map(|(_, channel)| channel);
    let address = |text: &Option<String>| text.as_ref()?.parse::<IpAddr>().ok().map(|own| own.to_canonical());
    Station {
        addresses: [address(&station.v4), address(&station.v6)].into_iter().flatten().collect(),
        served_by: device.to_lowercase().replace('-', ":"),
        band: widest.map(|((band, _), _)| band),
        width_mhz: widest.map(|((_, width), _)| Megahertz::new(f64::from(width))),
        channel: primary,
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
    fn what_is_no_report_is_told() {
        for text in ["", "{}", "[1]", r#"{"wfa-dataelements:Network":{"DeviceList":[{}]}}"#, "<html>"] {
            assert!(KitReport::read(text.as_bytes()).is_err(), "{text}");
        }
    }
}
