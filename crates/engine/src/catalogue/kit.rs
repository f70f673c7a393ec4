//! Generic kit: what a device of each type can do.

use std::sync::{Arc, OnceLock};

use busy_hen_home::{Band, CableClass, DeviceId, Generation, Home, Kit, KitRadio, Mode, RadioSetting, Uplink, Via};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz};

use crate::spectrum::Region;
use crate::spectrum::channels::WIDTHS;

fn radio(
    band: Band,
    generation: Generation,
    streams: u8,
    max_width: f64,
    default_channel: u16,
    serves: bool,
) -> KitRadio {
    KitRadio { band, generation, streams, max_width_mhz: Megahertz::new(max_width), default_channel, serves }
}

const ROUTER: &[Mode] = &[Mode::Router, Mode::AccessPoint];
const NODE: &[Mode] = &[Mode::MeshNode, Mode::Router, Mode::AccessPoint];

fn built_in() -> Vec<Kit> {
    vec![
        Kit {
            key: "router_ac".into(),
            name: "dual-band ac router, as supplied with the line, 1G ports".into(),
            modes: ROUTER.to_vec(),
            radios: vec![
                radio(Band::Ghz2_4, Generation::N, 2, 40.0, 6, true),
                radio(Band::Ghz5, Generation::Ac, 2, 80.0, 36, true),
            ],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(1000.0),
            lan_port_mbps: MbitPerSec::new(1000.0),
        },
        Kit {
            key: "router_ax".into(),
            name: "dual-band ax router, four streams, 1G ports".into(),
            modes: ROUTER.to_vec(),
            radios: vec![
                radio(Band::Ghz2_4, Generation::Ax, 2, 40.0, 1, true),
                radio(Band::Ghz5, Generation::Ax, 4, 160.0, 36, true),
            ],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(1000.0),
            lan_port_mbps: MbitPerSec::new(1000.0),
        },
        Kit {
            key: "router_be".into(),
            name: "tri-band be router, four streams, 2.5G ports".into(),
            modes: ROUTER.to_vec(),
            radios: vec![
                radio(Band::Ghz2_4, Generation::Be, 2, 40.0, 1, true),
                radio(Band::Ghz5, Generation::Be, 4, 160.0, 36, true),
                radio(Band::Ghz6, Generation::Be, 4, 320.0, 37, true),
            ],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(2500.0),
            lan_port_mbps: MbitPerSec::new(2500.0),
        },
        Kit {
            key: "node_ax_dual".into(),
            name: "dual-band ax node, backhaul shares its radio, 1G port".into(),
            modes: NODE.to_vec(),
            radios: vec![
                radio(Band::Ghz2_4, Generation::Ax, 2, 40.0, 1, true),
                radio(Band::Ghz5, Generation::Ax, 2, 80.0, 36, true),
            ],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(1000.0),
            lan_port_mbps: MbitPerSec::new(1000.0),
        },
        Kit {
            key: "node_ax_tri".into(),
            name: "tri-band ax node, radio of its own for backhaul, 2.5G port".into(),
            modes: NODE.to_vec(),
            radios: vec![
                radio(Band::Ghz2_4, Generation::Ax, 2, 40.0, 1, true),
                radio(Band::Ghz5, Generation::Ax, 2, 80.0, 36, true),
                radio(Band::Ghz5, Generation::Ax, 4, 160.0, 100, false),
            ],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(2500.0),
            lan_port_mbps: MbitPerSec::new(1000.0),
        },
        Kit {
            key: "ap_ax".into(),
            name: "ax ceiling access point, powered by its cable, 2.5G port".into(),
            modes: vec![Mode::AccessPoint],
            radios: vec![
                radio(Band::Ghz2_4, Generation::Ax, 2, 40.0, 11, true),
                radio(Band::Ghz5, Generation::Ax, 2, 80.0, 52, true),
            ],
            powered_by_cable: true,
            uplink_port_mbps: MbitPerSec::new(2500.0),
            lan_port_mbps: MbitPerSec::new(2500.0),
        },
        Kit {
            key: "repeater_ac".into(),
            name: "dual-band ac plug-in repeater, 100M port".into(),
            modes: vec![Mode::Repeater, Mode::AccessPoint],
            radios: vec![
                radio(Band::Ghz2_4, Generation::N, 2, 40.0, 6, true),
                radio(Band::Ghz5, Generation::Ac, 2, 80.0, 36, true),
            ],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(100.0),
            lan_port_mbps: MbitPerSec::new(100.0),
        },
        Kit {
            key: "switch_1g".into(),
            name: "switch, 1G ports".into(),
            modes: vec![Mode::Switch],
            radios: vec![],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(1000.0),
            lan_port_mbps: MbitPerSec::new(1000.0),
        },
        Kit {
            key: "switch_2g5".into(),
            name: "switch, 2.5G ports".into(),
            modes: vec![Mode::Switch],
            radios: vec![],
            powered_by_cable: false,
            uplink_port_mbps: MbitPerSec::new(2500.0),
            lan_port_mbps: MbitPerSec::new(2500.0),
        },
    ]
}

/// All kit that ships with the product, in the order it is offered.
#[must_use]
pub fn all() -> &'static [Arc<Kit>] {
    static KIT: OnceLock<Vec<Arc<Kit>>> = OnceLock::new();
    KIT.get_or_init(|| built_in().into_iter().map(Arc::new).collect())
}

/// The kit of this key that ships with the product.
#[must_use]
pub fn find(key: &str) -> Option<&'static Arc<Kit>> {
    all().iter().find(|kit| kit.key == key)
}

/// All kit there is for a home: what ships with the product, and what its installer described.
#[derive(Debug, Clone, Default)]
pub struct Catalogue {
    own: Vec<Arc<Kit>>,
}

impl Catalogue {
    /// The catalogue of a home.
    #[must_use]
    pub fn of(home: &Home) -> Self {
        Self { own: home.own_kit.iter().cloned().map(Arc::new).collect() }
    }

    /// The kit with this key.
    #[must_use]
    pub fn kit(&self, key: &str) -> Option<&Arc<Kit>> {
        find(key).or_else(|| self.own.iter().find(|kit| kit.key == key))
    }

    /// All of it: what ships with the product first.
    pub fn all(&self) -> impl Iterator<Item = &Arc<Kit>> {
        all().iter().chain(&self.own)
    }
}

/// What an access point or node sends in this band, averaged over orientation and before the region's limit.
///
/// # Source
/// Usual ranges, fitted (`docs/MODEL.md`): about 21 dBm conducted and a 2.15 dBi rod indoors.
#[must_use]
pub fn node_eirp(band: Band) -> Dbm {
    match band {
        Band::Ghz2_4 => Dbm::new(20.0),
        Band::Ghz5 | Band::Ghz6 => Dbm::new(23.0),
    }
}

/// Width a radio comes set to: 20 MHz in 2.4 GHz, 80 in 5 GHz, 160 in 6 GHz, or what kit and country allow.
fn usual_width(radio: &KitRadio, region: &Region) -> Megahertz {
    let usual = match radio.band {
        Band::Ghz2_4 => 20.0,
        Band::Ghz5 if !radio.serves => 160.0,
        Band::Ghz5 => 80.0,
        Band::Ghz6 => 160.0,
    };
    WIDTHS
        .into_iter()
        .rev()
        .filter(|width| width.get() <= usual && *width <= radio.max_width_mhz)
        .find(|width| !region.legal_primaries(radio.band, *width).is_empty())
        .unwrap_or(WIDTHS[0])
}

/// How kit comes set.
pub trait AsItComes {
    /// How its radios come set in a country: the usual width, and the usual channel or the first legal one.
    fn radio_settings(&self, region: &Region) -> Vec<RadioSetting>;
    /// The uplink it comes with when it is to hang on this device: a cable for an access point or router, else the air, by the
    /// radio kept for that or by the fastest.
    fn usual_uplink(&self, mode: Mode, to: DeviceId) -> Uplink;
}

impl AsItComes for Kit {
    fn radio_settings(&self, region: &Region) -> Vec<RadioSetting> {
        self.radios
            .iter()
            .map(|radio| {
                let width = usual_width(radio, region);
                let legal = region.legal_primaries(radio.band, width);
                let usual = legal.iter().copied().find(|channel| *channel == radio.default_channel);
                RadioSetting {
                    on: !legal.is_empty(),
                    serves: radio.serves,
                    band: radio.band,
                    channel: usual.or(legal.first().copied()).unwrap_or(radio.default_channel),
                    width_mhz: width,
                }
            })
            .collect()
    }

    fn usual_uplink(&self, mode: Mode, to: DeviceId) -> Uplink {
        let via = match mode {
            Mode::Router | Mode::AccessPoint | Mode::Switch => Via::Cable { class: CableClass::Cat6 },
            Mode::MeshNode | Mode::Repeater => {
                let best = |radio: &KitRadio| (!radio.serves, radio.band == Band::Ghz5, radio.streams);
                let radio = (0..self.radios.len()).max_by_key(|index| best(&self.radios[*index])).unwrap_or(0);
                Via::Radio { radio }
            }
        };
        Uplink { to, via }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::spectrum::regions;

    #[test]
    fn every_kit_comes_set_to_what_every_country_allows() {
        for region in regions() {
            for kit in all() {
                for setting in kit.radio_settings(region).iter().filter(|setting| setting.on) {
                    let block = crate::spectrum::block(setting.band, setting.channel, setting.width_mhz).unwrap();
                    assert!(region.allows(&block), "{} in {}: {setting:?}", kit.key, region.code);
                }
            }
        }
    }

    #[test]
    fn keys_are_unique_and_every_kit_has_a_mode() {
        for (index, kit) in all().iter().enumerate() {
            assert!(!kit.modes.is_empty());
            assert!(all()[..index].iter().all(|other| other.key != kit.key));
        }
    }

    #[test]
    fn a_node_with_a_radio_for_backhaul_uses_it() {
        let uplink = find("node_ax_tri").unwrap().usual_uplink(Mode::MeshNode, DeviceId::named("R"));
        assert_eq!(uplink.via, Via::Radio { radio: 2 });
    }
}
