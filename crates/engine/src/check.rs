//! What the catalogue and the radio rules say against a home.

use busy_hen_home::{Device, Fault, Faults, Home, Mode, Via};

use crate::catalogue::{Kit, MaterialUse, kit, materials};
use crate::spectrum::{Region, block, region};

/// Checks materials, kit, modes and channels against catalogue and radio rules, after [`Home::validate`].
///
/// # Errors
/// Every fault, each with a JSON pointer into the home.
pub fn check(home: &Home) -> Result<(), Faults> {
    home.validate()?;
    let mut faults = Vec::new();
    let mut fault = |pointer: String, message: String| faults.push(Fault { pointer, message });
    let Some(region) = region::find(&home.region) else {
        return Err(Faults::one(
            "/region",
            format!("The radio rules of “{}” are not known here; choose a country from the list.", home.region),
        ));
    };
    let house = &home.house;
    let mut material = |key: &str, floor: bool, pointer: String| {
        let known = materials::find(key).filter(|known| (known.category == MaterialUse::Floor) == floor);
        if known.is_none() {
            let kind = if floor { "floor" } else { "wall" };
            fault(pointer, format!("“{key}” is not a {kind} material here; choose one from the list."));
        }
    };
    material(&house.outer_wall.0, false, "/house/outer_wall".into());
    material(&house.inner_wall.0, false, "/house/inner_wall".into());
    for (index, level) in house.levels.iter().enumerate() {
        material(&level.floor.0, true, format!("/house/levels/{index}/floor"));
    }
    for (index, wall) in house.walls.iter().enumerate() {
        material(&wall.material.0, false, format!("/house/walls/{index}/material"));
    }
    for (s, setup) in home.setups.iter().enumerate() {
        for (d, one) in setup.devices.iter().enumerate() {
            device(one, region, &format!("/setups/{s}/devices/{d}"), &mut faults);
        }
    }
    Faults::check(faults)
}

fn device(device: &Device, region: &Region, at: &str, faults: &mut Vec<Fault>) {
    let mut fault = |pointer: String, message: String| faults.push(Fault { pointer, message });
    let name = &device.name;
    let Some(kit) = kit::find(&device.kit.0) else {
        fault(format!("{at}/kit"), format!("{name} is of a kit that the catalogue does not have; choose another."));
        return;
    };
    if !kit.modes.contains(&device.mode) {
        fault(format!("{at}/mode"), format!("A {} can't be set to that mode; choose another for {name}.", kit.name));
    }
    if device.mode == Mode::Repeater
        && !matches!(&device.uplink, Some(uplink) if matches!(uplink.via, Via::Radio { .. }))
    {
        fault(
            format!("{at}/uplink"),
            format!("{name} is a repeater and needs a radio uplink; choose one, or make it an access point."),
        );
    }
    if device.mode == Mode::AccessPoint
        && matches!(&device.uplink, Some(uplink) if matches!(uplink.via, Via::Radio { .. }))
    {
        fault(
            format!("{at}/uplink"),
            format!("{name} is an access point and needs a cable; choose one, or another mode."),
        );
    }
    if device.radios.len() != kit.radios.len() {
        let message = format!("{name} has {} radios set, its kit has {}.", device.radios.len(), kit.radios.len());
        fault(format!("{at}/radios"), message);
        return;
    }
    radios(device, kit, region, at, &mut fault);
}

fn radios(device: &Device, kit: &Kit, region: &Region, at: &str, fault: &mut impl FnMut(String, String)) {
    for (index, (setting, able)) in device.radios.iter().zip(kit.radios).enumerate() {
        let at = format!("{at}/radios/{index}");
        let name = &device.name;
        let (channel, width) = (setting.channel, setting.width_mhz);
        if setting.band != able.band {
            fault(format!("{at}/band"), format!("Radio {} of {name} is a {} radio.", index + 1, able.band));
            continue;
        }
        if width > able.max_width_mhz {
            let message = format!("Radio {} of {name} is at most {:.0} wide.", index + 1, able.max_width_mhz);
            fault(format!("{at}/width_mhz"), message);
            continue;
        }
        match block(able.band, channel, width) {
            None => fault(
                format!("{at}/channel"),
                format!("There is no {:.0} channel at {channel} in {}; choose another.", width, able.band),
            ),
            Some(block) if setting.on && !region.allows(&block) => fault(
                format!("{at}/channel"),
                format!(
                    "Channel {channel} at {:.0} in {} is not allowed in {}; choose another for {name}.",
                    width, able.band, region.name
                ),
            ),
            Some(_) => {}
        }
    }
}
