//! Whether a change took effect: what is to be seen before the round after it.

use busy_hen_home::{Band, Device, RadioSetting, Setup, Via};

/// What is to be seen before a setup is tested, one sentence each, when this one was tested before it: uplinks, channels, firmware, and
/// the silence of radios that were on air.
#[must_use]
pub fn to_confirm(before: &Setup, now: &Setup) -> Vec<String> {
    let mut list = Vec::new();
    for device in &now.devices {
        let old = the_same(device, before);
        let name = &device.name;
        let hangs = via(device, now);
        if let Some((to, kind)) = hangs.filter(|own| old.and_then(|old| via(old, before)).as_ref() != Some(own)) {
            list.push(format!("{name} says that it hangs on {to} by {kind}."));
        }
        let was = |index: usize| old.and_then(|old| old.radios.get(index));
        let moved = |(index, radio): &(usize, &RadioSetting)| {
            let same = |was: &RadioSetting| was.on && was.channel == radio.channel && was.width_mhz == radio.width_mhz;
            radio.on && !was(*index).is_some_and(same)
        };
        let channel = |(_, radio): (usize, &RadioSetting)| {
            format!("channel {} at {}, {:.0} wide", radio.channel, radio.band, radio.width_mhz)
        };
        let channels: Vec<String> = device.radios.iter().enumerate().filter(moved).map(channel).collect();
        if !channels.is_empty() {
            list.push(format!("{name} is on {}: a scan shows it.", channels.join(", ")));
        }
        let off = device
            .radios
            .iter()
            .enumerate()
            .filter(|(index, radio)| !radio.on && was(*index).is_some_and(|was| was.on));
        list.extend(silent(name, off.map(|(_, radio)| radio.band)));
        if let Some(firmware) =
            device.firmware.as_ref().filter(|own| old.and_then(|old| old.firmware.as_ref()) != Some(own))
        {
            list.push(format!("{name} says that it runs firmware {}.", firmware.version));
        }
    }
    for gone in before.devices.iter().filter(|device| the_same(device, now).is_none()) {
        // Another device may have its name by now.
        let taken = now.devices.iter().any(|device| device.name == gone.name);
        let name = if taken { format!("The old {}", gone.name) } else { gone.name.clone() };
        list.extend(silent(&name, gone.radios.iter().filter(|radio| radio.on).map(|radio| radio.band)));
    }
    list
}

/// The device in another setup: by its identity, or by name and kit, since a setup typed anew has devices of its own.
fn the_same<'a>(device: &Device, setup: &'a Setup) -> Option<&'a Device> {
    let alike = |own: &&Device| own.name == device.name && own.kit == device.kit;
    setup.device(device.id).or_else(|| setup.devices.iter().find(alike))
}

/// That a device is silent in these bands; none where there are none.
fn silent(name: &str, bands: impl Iterator<Item = Band>) -> Option<String> {
    let mut bands: Vec<Band> = bands.collect();
    bands.sort_unstable();
    bands.dedup();
    let bands: Vec<String> = bands.iter().map(ToString::to_string).collect();
    (!bands.is_empty()).then(|| format!("{name} is silent at {}: no list of networks shows it.", bands.join(" and ")))
}

/// What a device hangs on, by name, and by what.
fn via<'a>(device: &Device, setup: &'a Setup) -> Option<(&'a str, &'static str)> {
    let uplink = device.uplink.as_ref()?;
    Some((setup.device(uplink.to).map_or("the router", |device| device.name.as_str()), kind(&uplink.via)))
}

fn kind(via: &Via) -> &'static str {
    match via {
        Via::Cable { .. } => "cable",
        Via::Radio { .. } | Via::BestRadio => "radio",
        Via::Coax { .. } => "coax",
        Via::PowerLine { .. } => "power line",
    }
}
