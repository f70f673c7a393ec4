//! Generic test devices: what a phone or laptop of each kind can do.

use busy_hen_home::{Band, Generation};
use busy_hen_units::{Db, Dbm, MbitPerSec, Megahertz};
use serde::Serialize;
use utoipa::ToSchema;

use crate::phy::RadioEnd;

/// A kind of device that people carry, or that tests are run with.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Client {
    /// Key in the home file.
    pub key: &'static str,
    /// Name for people.
    pub name: &'static str,
    /// Name short enough for a chain link.
    pub short: &'static str,
    /// Its Wi-Fi generation; at 2.4 GHz an ac device is an n device.
    pub generation: Generation,
    /// Aerials and spatial streams.
    pub streams: u8,
    /// Bands it has, with its widest channel in each.
    pub bands: &'static [ClientBand],
    /// How it is held, which sets power, aerial gain and body loss.
    pub form: Form,
    /// Speed of its network port, where it is tested by a patch cable in the device that stands in its room.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub port_mbps: Option<MbitPerSec>,
}

/// A band of a test device.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct ClientBand {
    /// The band.
    pub band: Band,
    /// Widest channel it takes there.
    pub max_width_mhz: Megahertz,
}

const fn band(band: Band, max_width: f64) -> ClientBand {
    ClientBand { band, max_width_mhz: Megahertz::new(max_width) }
}

/// How a device is built and held.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Form {
    /// In the hand.
    Phone,
    /// On a table.
    Laptop,
    /// Fixed to a wall or shelf.
    Fixed,
}

const DUAL_80: &[ClientBand] = &[band(Band::Ghz2_4, 20.0), band(Band::Ghz5, 80.0)];
const DUAL_160: &[ClientBand] = &[band(Band::Ghz2_4, 20.0), band(Band::Ghz5, 160.0)];
const TRI_160: &[ClientBand] = &[band(Band::Ghz2_4, 20.0), band(Band::Ghz5, 160.0), band(Band::Ghz6, 160.0)];
const TRI_320: &[ClientBand] = &[band(Band::Ghz2_4, 20.0), band(Band::Ghz5, 160.0), band(Band::Ghz6, 320.0)];
const ONLY_2_4: &[ClientBand] = &[band(Band::Ghz2_4, 20.0)];

static CLIENTS: &[Client] = &[
    Client {
        key: "phone_ax",
        name: "phone, ax, two streams, 80 MHz",
        short: "phone 2x2 ax",
        generation: Generation::Ax,
        streams: 2,
        bands: DUAL_80,
        form: Form::Phone,
        port_mbps: None,
    },
    Client {
        key: "phone_ac",
        name: "older phone, ac, one stream, 80 MHz",
        short: "phone 1x1 ac",
        generation: Generation::Ac,
        streams: 1,
        bands: DUAL_80,
        form: Form::Phone,
        port_mbps: None,
    },
    Client {
        key: "phone_axe",
        name: "phone, ax with 6 GHz, two streams, 160 MHz",
        short: "phone 2x2 ax 6 GHz",
        generation: Generation::Ax,
        streams: 2,
        bands: TRI_160,
        form: Form::Phone,
        port_mbps: None,
    },
    Client {
        key: "laptop_ac",
        name: "older laptop, ac, two streams, 80 MHz",
        short: "laptop 2x2 ac",
        generation: Generation::Ac,
        streams: 2,
        bands: DUAL_80,
        form: Form::Laptop,
        port_mbps: None,
    },
    Client {
        key: "laptop_axe",
        name: "laptop, ax with 6 GHz, two streams, 160 MHz",
        short: "laptop 2x2 ax 6 GHz",
        generation: Generation::Ax,
        streams: 2,
        bands: TRI_160,
        form: Form::Laptop,
        port_mbps: None,
    },
    Client {
        key: "laptop_ax",
        name: "laptop, ax, two streams, 160 MHz",
        short: "laptop 2x2 ax",
        generation: Generation::Ax,
        streams: 2,
        bands: DUAL_160,
        form: Form::Laptop,
        port_mbps: None,
    },
    Client {
        key: "laptop_be",
        name: "laptop, be, two streams, 320 MHz",
        short: "laptop 2x2 be",
        generation: Generation::Be,
        streams: 2,
        bands: TRI_320,
        form: Form::Laptop,
        port_mbps: None,
    },
    Client {
        key: "laptop_wired",
        name: "laptop by patch cable, 2.5G port",
        short: "laptop by cable",
        generation: Generation::Ax,
        streams: 2,
        bands: DUAL_160,
        form: Form::Laptop,
        port_mbps: Some(MbitPerSec::new(2500.0)),
    },
    Client {
        key: "camera_n",
        name: "camera, n, one stream, 2.4 GHz only",
        short: "camera 1x1 n",
        generation: Generation::N,
        streams: 1,
        bands: ONLY_2_4,
        form: Form::Fixed,
        port_mbps: None,
    },
];

/// All kinds of test device, in the order they are offered.
#[must_use]
pub fn all() -> &'static [Client] {
    CLIENTS
}

/// What people hold where nobody says: common practice.
const USUAL: &str = "phone_ax";

/// The kind of test device that people hold where nobody says.
#[must_use]
pub fn usual() -> &'static Client {
    find(USUAL).unwrap_or(&CLIENTS[0])
}

/// The kind of test device with this key.
#[must_use]
pub fn find(key: &str) -> Option<&'static Client> {
    CLIENTS.iter().find(|client| client.key == key)
}

impl Client {
    /// Whether it can be tested in this band: what is plugged in goes by none.
    #[must_use]
    pub fn has(&self, band: Band) -> bool {
        self.port_mbps.is_none() && self.bands.iter().any(|own| own.band == band)
    }

    /// Its radio in this band; none when it has no such band.
    ///
    /// # Source
    /// Powers, mean gains and body loss by form: usual ranges, fitted (`docs/MODEL.md`).
    #[must_use]
    pub fn radio(&self, band: Band) -> Option<RadioEnd> {
        let own = self.bands.iter().find(|own| own.band == band)?;
        let (low, high, gain, body) = match self.form {
            Form::Phone => (12.0, 10.0, -4.0, 3.0),
            Form::Laptop | Form::Fixed => (14.0, 13.0, -3.0, 0.0),
        };
        Some(RadioEnd {
            generation: if self.generation == Generation::Ac && band == Band::Ghz2_4 {
                Generation::N
            } else {
                self.generation
            },
            streams: self.streams,
            max_width: own.max_width_mhz,
            eirp: Dbm::new(if band == Band::Ghz2_4 { low } else { high }),
            gain: Db::new(gain),
            body: Db::new(body),
            noise_figure: Db::new(6.0),
            short_aggregate: false,
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_ac_phone_is_an_n_phone_at_2_4_ghz() {
        let phone = find("phone_ac").unwrap();
        assert_eq!(phone.radio(Band::Ghz2_4).unwrap().generation, Generation::N);
        assert_eq!(phone.radio(Band::Ghz5).unwrap().generation, Generation::Ac);
        assert!(phone.radio(Band::Ghz6).is_none());
    }
}
