//! Whether a change took effect: what is to be seen before the round after it.

use busy_hen_home::{Band, Device, Setup, Via};

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
        for (index, radio) in device.radios.iter().enumerate() {
            let was = old.and_then(|old| old.radios.get(index));
            if radio.on
                && was.is_none_or(|was| !was.on || was.channel != radio.channel || was.width_mhz != radio.width_mhz)
            {
                let (band, channel, width) = (radio.band, radio.channel, radio.width_mhz);
                list.push(format!("{name} is on channel {channel} at {band}, {width:.0} wide: a scan shows it."));
            } else if !radio.on && was.is_some_and(|was| was.on) {
                list.push(silent(name, radio.band));
            }
        }
        if let Some(firmware) =
            device.firmware.as_ref().filter(|own| old.and_then(|old| old.firmware.as_ref()) != Some(own))
        {
            list.push(format!("{name} says that it runs firmware {}.", firmware.version));
        }
    }
    for gone in before.devices.iter().filter(|device| the_same(device, now).is_none()) {
        list.extend(gone.radios.iter().filter(|radio| radio.on).map(|radio| silent(&gone.name, radio.band)));
    }
    list
}

/// The device in another setup: by its identity, or by name and kit, since a setup typed anew has devices of its own.
fn the_same<'a>(device: &Device, setup: &'a Setup) -> Option<&'a Device> {
    let alike = |own: &&Device| own.name == device.name && own.kit == device.kit;
    setup.device(device.id).or_else(|| setup.devices.iter().find(alike))
}

fn silent(name: &str, band: Band) -> String {
    format!("{name} is silent at {band}: no list of networks shows it.")
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
