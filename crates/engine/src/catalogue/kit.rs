//! Generic kit: what a device of each type can do.

use std::sync::{Arc, OnceLock};

use busy_hen_home::{
    Aerial, Band, CableClass, Circuit, DeviceId, Generation, Home, Kit, KitRadio, Mode, PowerLineClass, RadioSetting,
    Uplink, Via,
};
use busy_hen_units::{Db, Dbm, Degrees, MbitPerSec, Megahertz, Metres};

use crate::spectrum::Region;
use crate::spectrum::channels::WIDTHS;

/// A radio: band, generation, streams, widest channel (MHz), channel it comes set to; phones may join it.
fn radio(band: Band, generation: Generation, streams: u8, max_width: f64, default_channel: u16) -> KitRadio {
    let max_width_mhz = Megahertz::new(max_width);
    KitRadio { band, generation, streams, max_width_mhz, default_channel, serves: true, short_aggregate: false }
}

/// The same kept for backhaul as it comes.
fn backhaul(radio: KitRadio) -> KitRadio {
    KitRadio { serves: false, ..radio }
}

/// The same with the short aggregates of early ax kit.
fn early(radio: KitRadio) -> KitRadio {
    KitRadio { short_aggregate: true, ..radio }
}

/// A type of device with ports of these speeds, Mb/s, towards the router and the home.
fn kit(key: &str, name: &str, modes: &[Mode], radios: Vec<KitRadio>, ports: (f64, f64)) -> Kit {
    Kit {
        key: key.into(),
        name: name.into(),
        modes: modes.to_vec(),
        radios,
        powered_by_cable: false,
        uplink_port_mbps: MbitPerSec::new(ports.0),
        lan_port_mbps: MbitPerSec::new(ports.1),
        aerial: Aerial::BuiltIn,
        power_line: None,
    }
}

/// The same fed by its network cable.
fn fed(kit: Kit) -> Kit {
    Kit { powered_by_cable: true, ..kit }
}

/// The same with these aerials.
fn with(aerial: Aerial, kit: Kit) -> Kit {
    Kit { aerial, ..kit }
}

/// The same with a power-line end of this class.
fn on_mains(class: PowerLineClass, kit: Kit) -> Kit {
    Kit { power_line: Some(class), ..kit }
}

const ROUTER: &[Mode] = &[Mode::Router, Mode::AccessPoint];
const NODE: &[Mode] = &[Mode::MeshNode, Mode::Router, Mode::AccessPoint];
const POINT: &[Mode] = &[Mode::AccessPoint];
const REPEATER: &[Mode] = &[Mode::Repeater, Mode::AccessPoint];
const SWITCH: &[Mode] = &[Mode::Switch];

/// One line each, with what distinguishes it.
#[rustfmt::skip]
fn built_in() -> Vec<Kit> {
    use Generation::{Ac, Ax, Be, N};
    let low = |generation, channel| radio(Band::Ghz2_4, generation, 2, 40.0, channel);
    let high = |generation, streams, width, channel| radio(Band::Ghz5, generation, streams, width, channel);
    let six = |generation, streams, width| radio(Band::Ghz6, generation, streams, width, 37);
    let rods = Aerial::Rods { gain_dbi: Db::new(5.0), lean: Degrees::new(0.0), towards: Degrees::new(0.0) };
    let sector = Aerial::Sector { gain_dbi: Db::new(10.0), width: Degrees::new(90.0), height: Degrees::new(30.0), towards: Degrees::new(180.0) };
    vec![
        kit("router_ac", "dual-band ac router, as supplied with the line, 1G ports", ROUTER, vec![low(N, 6), high(Ac, 2, 80.0, 36)], (1000.0, 1000.0)),
        kit("router_ac4", "dual-band ac router, four streams, 1G ports", ROUTER, vec![low(N, 6), high(Ac, 4, 80.0, 36)], (1000.0, 1000.0)),
        kit("router_ax_early", "dual-band ax router of the first years, four streams, short aggregates, 1G ports", ROUTER, vec![early(low(Ax, 1)), early(high(Ax, 4, 160.0, 36))], (1000.0, 1000.0)),
        kit("router_ax", "dual-band ax router, four streams, 1G ports", ROUTER, vec![low(Ax, 1), high(Ax, 4, 160.0, 36)], (1000.0, 1000.0)),
        kit("router_be", "tri-band be router, four streams, 2.5G ports", ROUTER, vec![low(Be, 1), high(Be, 4, 160.0, 36), six(Be, 4, 320.0)], (2500.0, 2500.0)),
        kit("node_ac_dual", "dual-band ac node, two streams, backhaul shares its radio, 1G port", NODE, vec![low(N, 6), high(Ac, 2, 80.0, 36)], (1000.0, 1000.0)),
        kit("node_ac_tri", "tri-band ac node, radio of its own with four streams for backhaul, 1G port", NODE, vec![low(N, 6), high(Ac, 2, 80.0, 36), backhaul(high(Ac, 4, 80.0, 100))], (1000.0, 1000.0)),
        kit("node_ax_dual", "dual-band ax node, backhaul shares its radio, 1G port", NODE, vec![low(Ax, 1), high(Ax, 2, 80.0, 36)], (1000.0, 1000.0)),
        kit("node_ax_dual4", "dual-band ax node, four streams, backhaul shares its radio, 1G port", NODE, vec![low(Ax, 1), high(Ax, 4, 160.0, 36)], (1000.0, 1000.0)),
        kit("node_ax_tri", "tri-band ax node, radio of its own for backhaul, 2.5G port", NODE, vec![low(Ax, 1), high(Ax, 2, 80.0, 36), backhaul(high(Ax, 4, 160.0, 100))], (2500.0, 1000.0)),
        kit("node_ax_tri4", "tri-band ax node, four streams in front and for backhaul, 2.5G port", NODE, vec![low(Ax, 1), high(Ax, 4, 80.0, 36), backhaul(high(Ax, 4, 160.0, 100))], (2500.0, 1000.0)),
        kit("node_axe_tri", "tri-band ax node with 6 GHz, 2.5G port", NODE, vec![low(Ax, 1), high(Ax, 2, 80.0, 36), six(Ax, 2, 160.0)], (2500.0, 1000.0)),
        kit("repeater_ac", "dual-band ac plug-in repeater, 100M port", REPEATER, vec![low(N, 6), high(Ac, 2, 80.0, 36)], (100.0, 100.0)),
        kit("repeater_ac_1g", "dual-band ac plug-in repeater, 1G port", REPEATER, vec![low(N, 6), high(Ac, 2, 80.0, 36)], (1000.0, 1000.0)),
        fed(kit("ap_ax", "ax ceiling access point, powered by its cable, 2.5G port", POINT, vec![low(Ax, 11), high(Ax, 2, 80.0, 52)], (2500.0, 2500.0))),
        fed(kit("ap_wall_ax", "ax wall-plate access point with ports, powered by its cable, 1G", POINT, vec![low(Ax, 11), high(Ax, 2, 80.0, 36)], (1000.0, 1000.0))),
        with(rods, fed(kit("ap_out_rods", "ax outdoor access point, rods all round, powered by its cable, 1G port", POINT, vec![low(Ax, 1), high(Ax, 2, 80.0, 100)], (1000.0, 1000.0)))),
        with(sector, fed(kit("ap_out_sector", "ax outdoor access point, sector aerial, powered by its cable, 1G port", POINT, vec![low(Ax, 1), high(Ax, 2, 80.0, 100)], (1000.0, 1000.0)))),
        on_mains(PowerLineClass::Sold1000, kit("mains_ac", "power-line end with ac Wi-Fi, 1G port", POINT, vec![low(N, 6), high(Ac, 2, 80.0, 36)], (1000.0, 1000.0))),
        kit("switch_1g", "switch, 1G ports", SWITCH, vec![], (1000.0, 1000.0)),
        kit("switch_2g5", "switch, 2.5G ports", SWITCH, vec![], (2500.0, 2500.0)),
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

/// Wiring between two outlets of a home as long as nothing else is said.
const USUAL_WIRING: Metres = Metres::new(15.0);

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
        if let (Mode::AccessPoint, Some(class)) = (mode, self.power_line) {
            let (length_m, circuit) = (USUAL_WIRING, Circuit::Same);
            let via = Via::PowerLine { class, length_m, circuit, strips: 0, noisy: false, reported_mbps: None };
            return Uplink { to, via };
        }
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
