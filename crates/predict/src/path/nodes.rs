//! Devices of a setup with all that catalogue, country and place imply.

use std::sync::Arc;

use busy_hen_catalogue::phy::RadioEnd;
use busy_hen_catalogue::spectrum::{Block, Region, block};
use busy_hen_catalogue::{Catalogue, kit, materials};
use busy_hen_floorplan::Point;
use busy_hen_home::{Aerial, Device, DeviceId, Enclosure, Kit, KitRadio, Mode};
use busy_hen_radio::propagation::aerial::{COUNTED, peak_gain};
use busy_hen_units::{Db, Dbm, Degrees, Megahertz};

use super::hop::Hop;

/// A device of a setup with all that its catalogue entry and place imply.
#[derive(Debug, Clone)]
pub struct Node {
    /// The device.
    pub id: DeviceId,
    /// Its name.
    pub name: String,
    /// What it is set to do.
    pub mode: Mode,
    /// Its type.
    pub kit: Arc<Kit>,
    /// Where it stands.
    pub at: Point,
    /// Its aerials.
    pub aerial: Aerial,
    /// What it stands in.
    pub enclosure: Enclosure,
    /// Its radios, as they really work.
    pub radios: Vec<NodeRadio>,
    /// Its hop towards the router; none for the device at the line.
    pub uplink: Option<Hop>,
}

/// A radio of a device at work.
#[derive(Debug, Clone)]
pub struct NodeRadio {
    /// Whether it sends.
    pub on: bool,
    /// Whether clients may join it.
    pub serves: bool,
    /// The spectrum it occupies: that of the device upstream when it carries the uplink.
    pub block: Block,
    /// How far it is turned down from the most that kit and country allow.
    pub turned_down: Db,
    /// Signal under which it sends a client to another device; none when it leaves that to the client.
    pub hand_over: Option<Dbm>,
    /// Its end of a link, power limited by the region, width by the channel.
    pub end: RadioEnd,
}

impl Node {
    /// The device at this place; none when its kit is not in the catalogue.
    #[must_use]
    pub fn new(device: &Device, at: Point, catalogue: &Catalogue, region: Option<&Region>) -> Option<Self> {
        let kit = Arc::clone(catalogue.kit(&device.kit.0)?);
        let radios = device
            .radios
            .iter()
            .zip(&kit.radios)
            .filter_map(|(setting, able)| {
                let block = block(able.band, setting.channel, setting.width_mhz)?;
                Some(NodeRadio {
                    on: setting.on,
                    serves: setting.serves,
                    block,
                    turned_down: setting.turned_down_db,
                    hand_over: setting.hand_over_dbm,
                    end: radio_end(able, &block, region, &device.aerial, setting.turned_down_db),
                })
            })
            .collect();
        Some(Self {
            id: device.id,
            name: device.name.clone(),
            mode: device.mode,
            kit,
            at,
            aerial: device.aerial,
            enclosure: device.enclosure,
            radios,
            uplink: None,
        })
    }

    /// What its enclosure takes of a signal.
    #[must_use]
    pub fn enclosure_loss(&self, frequency: Megahertz) -> Db {
        enclosure_loss(self.enclosure, frequency)
    }
}

/// What standing in this takes of a signal.
#[must_use]
pub fn enclosure_loss(enclosure: Enclosure, frequency: Megahertz) -> Db {
    let key = match enclosure {
        Enclosure::Open => return Db::new(0.0),
        Enclosure::Cupboard => "door",
        Enclosure::MetalCabinet => "metal_door",
    };
    materials::find(key).map_or(Db::new(0.0), |material| material.loss(frequency, Degrees::new(0.0)))
}

/// A node's end of a link on a block: power by its kind, limited by the region.
///
/// The limit holds in the direction of greatest gain, so an aerial of more gain gets less power.
pub(super) fn radio_end(
    able: &KitRadio,
    block: &Block,
    region: Option<&Region>,
    aerial: &Aerial,
    turned_down: Db,
) -> RadioEnd {
    let beyond = peak_gain(aerial) - COUNTED;
    let own = kit::node_eirp(block.band);
    let eirp = match region.and_then(|region| region.eirp_limit(block)) {
        Some(limit) => (own + beyond).min(limit) - beyond,
        None => own,
    };
    RadioEnd {
        generation: able.generation,
        streams: able.streams,
        max_width: block.width,
        eirp: eirp - turned_down,
        gain: COUNTED,
        body: Db::new(0.0),
        noise_figure: Db::new(6.0),
        short_aggregate: able.short_aggregate,
    }
}
