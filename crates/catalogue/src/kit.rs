//! Generic kit: what a device of each type can do.

use std::sync::{Arc, OnceLock};

use busy_hen_home::{
    Band, CableClass, Circuit, DeviceId, Home, Kit, KitRadio, Mode, Mounting, RadioSetting, Uplink, Via, Weather,
};
use busy_hen_units::{Db, Dbm, Megahertz, Metres};

use super::table::read_kit;
use crate::spectrum::channels::{THREE, WIDTHS};
use crate::spectrum::{Block, Region, block};

/// All kit that ships with the product, in the order it is offered.
///
/// # Source
/// `data/kit.csv`: what each class of kit commonly has. Prices, power, warranty and claimed areas are round figures of what such kit is
/// commonly sold with (common practice); an installer's own kit says what is true of it.
#[must_use]
pub fn all() -> &'static [Arc<Kit>] {
    static KIT: OnceLock<Vec<Arc<Kit>>> = OnceLock::new();
    KIT.get_or_init(|| {
        let table = read_kit(include_str!("../data/kit.csv"));
        table.expect("the table is part of the program and read by a test").into_iter().map(Arc::new).collect()
    })
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

/// Heights at which kit is put up, by how (common practice): a shelf, a plate in a wall, an outer wall out of reach, and what a ceiling mount
/// takes of the height of a storey.
const ON_A_SHELF: Metres = Metres::new(1.0);
const ON_A_WALL: Metres = Metres::new(0.5);
const ON_AN_OUTER_WALL: Metres = Metres::new(2.5);
const UNDER_THE_CEILING: Metres = Metres::new(0.1);

/// Channels of a band that may be used at a place of this width, those without radar where there are any; at 2.4 GHz the three that don't
/// overlap.
#[must_use]
pub fn offered_channels(region: &Region, band: Band, width: Megahertz, outdoors: bool) -> Vec<u16> {
    let of = |channel: &u16| block(band, *channel, width);
    let mut legal = region.legal_primaries(band, width);
    if outdoors {
        legal.retain(|channel| of(channel).is_some_and(|own| !region.is_indoor_only(&own)));
    }
    if band == Band::Ghz2_4 && width.get() <= 20.0 {
        legal.retain(|channel| THREE.contains(channel));
    }
    let is_calm = |channel: &u16| of(channel).is_some_and(|own| !region.needs_dfs(&own));
    let calm: Vec<u16> = legal.iter().copied().filter(is_calm).collect();
    if calm.is_empty() { legal } else { calm }
}

/// Channel and width that a radio comes set to beside those that are taken.
fn usual_channel(radio: &KitRadio, region: &Region, outdoors: bool, taken: &[Block]) -> (u16, Megahertz) {
    let width = usual_width(radio, region);
    let is_free = |channel: &u16, width: Megahertz| {
        let own = block(radio.band, *channel, width);
        own.is_some_and(|own| !taken.iter().any(|other| own.overlaps(other)))
    };
    // Where every wide block is taken, a narrower one of its own does better than a shared one.
    let widths = WIDTHS.into_iter().rev().filter(|own| *own <= width && own.get() >= width.get().min(40.0));
    for width in widths {
        let offered = offered_channels(region, radio.band, width, outdoors);
        let free: Vec<u16> = offered.into_iter().filter(|channel| is_free(channel, width)).collect();
        if let Some(channel) = free.iter().find(|own| **own == radio.default_channel).or(free.first()) {
            return (*channel, width);
        }
    }
    let offered = offered_channels(region, radio.band, width, outdoors);
    let usual = offered.iter().find(|own| **own == radio.default_channel).or(offered.first());
    (usual.copied().unwrap_or(radio.default_channel), width)
}

/// Wiring between two outlets of a home as long as nothing else is said.
const USUAL_WIRING: Metres = Metres::new(15.0);

/// How kit comes set.
pub trait AsItComes {
    /// How its radios come set in a country: the usual width, and the usual channel or the first legal one.
    fn radio_settings(&self, region: &Region) -> Vec<RadioSetting>;
    /// The same beside radios that serve on these blocks already, indoors or outdoors: on a channel of its own, narrower where there is no
    /// other, without radar where there is one.
    fn radio_settings_beside(&self, region: &Region, outdoors: bool, taken: &[Block]) -> Vec<RadioSetting>;
    /// The height at which it is put up on a storey of this height.
    fn usual_height(&self, storey: Metres, outdoors: bool) -> Metres;
    /// The uplink it comes with when it is to hang on this device: a cable for an access point or router, else the air, by the
    /// radio kept for that or by the fastest.
    fn usual_uplink(&self, mode: Mode, to: DeviceId) -> Uplink;
}

impl AsItComes for Kit {
    fn radio_settings(&self, region: &Region) -> Vec<RadioSetting> {
        self.radio_settings_beside(region, self.facts.weather == Weather::Outdoors, &[])
    }

    fn radio_settings_beside(&self, region: &Region, outdoors: bool, taken: &[Block]) -> Vec<RadioSetting> {
        self.radios
            .iter()
            .map(|radio| {
                let (channel, width) = usual_channel(radio, region, outdoors, taken);
                RadioSetting {
                    on: !region.legal_primaries(radio.band, width).is_empty(),
                    serves: radio.serves,
                    band: radio.band,
                    channel,
                    width_mhz: width,
                    turned_down_db: Db::new(0.0),
                    hand_over_dbm: None,
                }
            })
            .collect()
    }

    fn usual_height(&self, storey: Metres, outdoors: bool) -> Metres {
        match self.facts.mounting {
            Mounting::Shelf => ON_A_SHELF,
            Mounting::Wall if outdoors => ON_AN_OUTER_WALL,
            Mounting::Wall => ON_A_WALL,
            Mounting::Ceiling => storey - UNDER_THE_CEILING,
        }
    }

    fn usual_uplink(&self, mode: Mode, to: DeviceId) -> Uplink {
        if let (Mode::AccessPoint, Some(class)) = (mode, self.power_line) {
            let (length_m, circuit) = (USUAL_WIRING, Circuit::Same);
            let via = Via::PowerLine { class, length_m, circuit, strips: 0, noisy: false, reported_mbps: None };
            return Uplink::new(to, via);
        }
        let via = match mode {
            Mode::Router | Mode::AccessPoint | Mode::Switch => Via::cable(CableClass::Cat6),
            Mode::MeshNode | Mode::Repeater => {
                let best = |radio: &KitRadio| (!radio.serves, radio.band == Band::Ghz5, radio.streams);
                let radio = (0..self.radios.len()).max_by_key(|index| best(&self.radios[*index])).unwrap_or(0);
                Via::Radio { radio }
            }
        };
        Uplink::new(to, via)
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
