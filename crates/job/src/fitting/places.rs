//! Where things of a setup stand, in words, and what was there before.

use busy_hen_catalogue::{Catalogue, Kit};
use busy_hen_floorplan::lines::lengths::say_length;
use busy_hen_floorplan::{Plan, PlanRoom};
use busy_hen_home::{Device, Home, Mode, Setup, Via};
use busy_hen_units::Metres;
use busy_hen_units::words::counted;

use super::step::Label;
use crate::cautions::of_uplink;
use crate::parts::Parts;

pub(super) const LOCAL_CODES: &str = "Local codes go before this sheet.";

/// What hangs higher than this is climbed to: common practice.
const CLIMBED: f64 = 1.9;

/// Devices of the setup in force, or else those that the family has already, which stand in none of this one's places.
pub(crate) fn old_devices<'a>(home: &'a Home, setup: &Setup) -> Vec<&'a Device> {
    let in_force = home.in_force.and_then(|id| home.setup(id)).filter(|own| own.id != setup.id);
    let before: Vec<&Device> = match in_force {
        Some(own) => own.devices.iter().collect(),
        None => {
            let others = home.setups.iter().filter(|own| own.id != setup.id);
            let mut list: Vec<&Device> = Vec::new();
            for device in others.flat_map(|own| &own.devices).filter(|own| own.there_already) {
                if list.iter().all(|own| own.name != device.name) {
                    list.push(device);
                }
            }
            list
        }
    };
    // What stays where it is, or is carried to another place, is not old.
    let stays =
        |own: &Device| setup.devices.iter().any(|new| new.kit == own.kit && (new.at == own.at || new.there_already));
    before.into_iter().filter(|own| !stays(own)).collect()
}

/// All that steps are made of.
pub(super) struct Job<'a> {
    pub home: &'a Home,
    pub setup: &'a Setup,
    pub plan: &'a Plan,
    pub catalogue: Catalogue,
    pub parts: Parts,
    /// Devices that serve today and will not in this setup.
    pub old: Vec<&'a Device>,
}

impl<'a> Job<'a> {
    pub fn kit(&self, device: &Device) -> Option<&Kit> {
        self.catalogue.kit(&device.kit.0).map(|kit| &**kit)
    }

    pub fn room(&self, device: &Device) -> Option<&PlanRoom> {
        self.plan.room_of(&device.at)
    }

    /// "Landing, First floor, 1.20 m up".
    pub fn place(&self, device: &Device) -> String {
        let level = self.home.house.level(device.at.level_id).map_or("", |own| own.name.as_str());
        let room = self.room(device).map_or("outdoors", |own| own.name.as_str());
        format!("{room}, {level}, {} up", self.length(device.at.height_m))
    }

    pub fn length(&self, length: Metres) -> String {
        say_length(length, self.home.units)
    }

    pub fn is_climbed(&self, device: &Device) -> bool {
        device.at.height_m.get() > CLIMBED
    }

    /// What is to be minded about what feeds a device; empty where nothing is.
    pub fn minded(&self, device: &Device) -> String {
        let uplink = device.uplink.as_ref().and_then(|up| of_uplink(device, &up.via, self.home));
        uplink.map_or_else(String::new, |(_, told)| format!("{told} {LOCAL_CODES}"))
    }

    /// The channels of a device, in words.
    pub fn channels(device: &Device) -> String {
        let radios = device.radios.iter().filter(|radio| radio.on);
        let list: Vec<String> = radios
            .map(|radio| format!("{} channel {}, {:.0} MHz", radio.band, radio.channel, radio.width_mhz.get()))
            .collect();
        list.join("; ")
    }

    pub fn new_devices(&self) -> impl Iterator<Item = &'a Device> {
        self.setup.devices.iter().filter(|own| !own.there_already)
    }

    pub fn tools(&self) -> Vec<String> {
        let mut list = vec!["laptop with a patch cord".to_owned(), "phone that can scan".to_owned()];
        let cables = &self.parts.cables;
        if !cables.is_empty() {
            list.push("crimping tool, plugs and a cable tester".into());
        }
        let holes: usize = cables.iter().filter_map(|own| own.route.as_ref()).map(|own| own.holes.len()).sum();
        if holes > 0 {
            list.push(format!(
                "drill with long bits for {}, a detector for wires and pipes, filler",
                counted(holes, "hole")
            ));
        }
        if self.setup.devices.iter().any(|own| self.is_climbed(own)) {
            list.push("ladder, and somebody to hold it".into());
        }
        let by = |is: fn(&Via) -> bool| {
            self.setup.devices.iter().any(|own| own.uplink.as_ref().is_some_and(|up| is(&up.via)))
        };
        if by(|via| matches!(via, Via::Coax { .. })) {
            list.push("spanner for coax connectors, and the filter for where the line enters".into());
        }
        list.push("labels, and something to write on them".into());
        list
    }

    /// What would be met half-way: ports and power that are short, cables that find no way, two that hand out addresses.
    pub fn first(&self) -> Vec<String> {
        let mut list: Vec<String> =
            self.parts.ports.iter().map(|own| own.short.clone()).filter(|own| !own.is_empty()).collect();
        list.extend(self.parts.cables.iter().map(|own| own.cannot.clone()).filter(|own| !own.is_empty()));
        let routers: Vec<&str> =
            self.setup.devices.iter().filter(|own| own.mode == Mode::Router).map(|own| own.name.as_str()).collect();
        if routers.len() > 1 {
            list.push(format!(
                "{} would each hand out addresses: two ranges that must not overlap, and devices behind one don't see those behind \
                 the other. Make all but one an access point unless an own network is wanted.",
                routers.join(" and ")
            ));
        }
        list
    }

    pub fn labels(&self) -> Vec<Label> {
        let label = |device: &Device| Label {
            device_id: device.id,
            name: device.name.clone(),
            place: self.place(device),
            channels: Self::channels(device),
        };
        self.setup.devices.iter().map(label).collect()
    }
}
