//! What the catalogue and the radio rules say against a home.

use busy_hen_home::{Device, Fault, Faults, Home, Mode, Outcome, Round, Run};

use crate::catalogue::{Kit, MaterialUse, clients, kit, materials};
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
    material(&house.windows.0, false, "/house/windows".into());
    for (index, opening) in house.openings.iter().enumerate() {
        material(&opening.material.0, false, format!("/house/openings/{index}/material"));
    }
    for (index, one) in home.air.iter().enumerate() {
        if block(one.band, one.channel, one.width_mhz).is_none() {
            fault(
                format!("/air/{index}/channel"),
                format!("There is no {:.0} channel at {} in {}; look again.", one.width_mhz, one.channel, one.band),
            );
        }
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
    if device.mode == Mode::Repeater && !device.uplink.as_ref().is_some_and(|uplink| uplink.via.is_radio()) {
        fault(
            format!("{at}/uplink"),
            format!("{name} is a repeater and needs a radio uplink; choose one, or make it an access point."),
        );
    }
    if matches!(device.mode, Mode::AccessPoint | Mode::Switch)
        && device.uplink.as_ref().is_some_and(|uplink| uplink.via.is_radio())
    {
        fault(
            format!("{at}/uplink"),
            format!("{name} needs a cable or a pair of adapters in that mode; choose one, or another mode."),
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

/// Most runs a spot gets in one round.
const RUNS_LIMIT: u32 = 30;
/// A reading faster than this is a slip, Mb/s.
const RATE_LIMIT: f64 = 100_000.0;
/// A round trip longer than this is a slip, ms.
const DELAY_LIMIT: f64 = 60_000.0;
/// Points a trace may have.
const TRACE_LIMIT: usize = 2000;

/// Checks a round against its home: setup, test device, band and spots.
///
/// # Errors
/// Every fault, each with a JSON pointer into the round.
pub fn check_round(home: &Home, round: &Round) -> Result<(), Faults> {
    let mut faults = Vec::new();
    let mut require = |holds: bool, pointer: &str, message: &str| {
        if !holds {
            faults.push(Fault { pointer: pointer.into(), message: message.into() });
        }
    };
    let setup = home.setup(round.setup_id);
    require(setup.is_some(), "/setup_id", "This home has no such setup; choose another.");
    require(
        setup.is_none_or(|setup| !setup.devices.is_empty()),
        "/setup_id",
        "This setup has no devices yet; place a router first.",
    );
    let client = clients::find(&round.client);
    require(client.is_some(), "/client", "This test device is not in the catalogue; choose another.");
    let band_fits = round.band.is_none_or(|band| client.is_none_or(|client| client.radio(band).is_some()));
    require(band_fits, "/band", "The test device does not have this band; choose another.");
    require(
        (1..=RUNS_LIMIT).contains(&round.runs_per_spot),
        "/runs_per_spot",
        "A spot gets 1 to 30 runs a round; five is usual.",
    );
    require(!round.spots.is_empty(), "/spots", "A round needs at least one spot; choose some.");
    let known = |id| home.house.spots.iter().any(|spot| spot.id == id);
    require(round.spots.iter().all(|id| known(*id)), "/spots", "The round has a spot that the house does not have.");
    let unique: std::collections::BTreeSet<_> = round.spots.iter().collect();
    require(unique.len() == round.spots.len(), "/spots", "The round goes to one spot twice; once is enough.");
    Faults::check(faults)
}

/// Checks a run against its round: spot, figures, serving device.
///
/// # Errors
/// Every fault, each with a JSON pointer into the run.
pub fn check_run(home: &Home, round: &Round, run: &Run) -> Result<(), Faults> {
    let mut faults = Vec::new();
    let mut require = |holds: bool, pointer: &str, message: String| {
        if !holds {
            faults.push(Fault { pointer: pointer.into(), message });
        }
    };
    require(round.spots.contains(&run.spot_id), "/spot_id", "This spot is not part of the round.".into());
    let serves = |id| home.setup(round.setup_id).is_some_and(|setup| setup.device(id).is_some());
    require(run.serving.is_none_or(serves), "/serving", "The serving device is not in the tested setup.".into());
    let rate = |rate: f64| (0.0..=RATE_LIMIT).contains(&rate);
    let delay = |delay: f64| delay > 0.0 && delay <= DELAY_LIMIT;
    if let Outcome::Measured { down_mbps, up_mbps, idle_ms, loaded_ms, jitter_ms, loss_percent } = &run.outcome {
        for (field, name, value) in [("down_mbps", "Download", down_mbps), ("up_mbps", "Upload", up_mbps)] {
            let message = format!("{name} must be 0 to {RATE_LIMIT} Mb/s, not {}.", value.get());
            require(rate(value.get()), &format!("/outcome/{field}"), message);
        }
        for (field, name, value) in
            [("idle_ms", "Idle delay", Some(idle_ms)), ("loaded_ms", "Delay under load", loaded_ms.as_ref())]
        {
            let Some(value) = value else { continue };
            let message = format!("{name} must be over 0 and at most {DELAY_LIMIT} ms, not {}.", value.get());
            require(delay(value.get()), &format!("/outcome/{field}"), message);
        }
        let jitter = jitter_ms.is_none_or(|jitter| (0.0..=DELAY_LIMIT).contains(&jitter.get()));
        require(jitter, "/outcome/jitter_ms", "Jitter must be zero or more ms.".into());
        let loss = loss_percent.is_none_or(|loss| (0.0..=100.0).contains(&loss));
        require(loss, "/outcome/loss_percent", "Loss is 0 to 100 %.".into());
    }
    let signal = run.signal_dbm.is_none_or(|signal| (-120.0..=10.0).contains(&signal.get()));
    require(signal, "/signal_dbm", "Signal must be -120 to 10 dBm; it is a negative number.".into());
    let link = run.link_rate_mbps.is_none_or(|link| rate(link.get()));
    require(link, "/link_rate_mbps", format!("Link rate must be 0 to {RATE_LIMIT} Mb/s."));
    let trace = run.trace_mbps.len() <= TRACE_LIMIT && run.trace_mbps.iter().all(|point| rate(point.get()));
    require(trace, "/trace_mbps", format!("A trace has at most {TRACE_LIMIT} points of 0 to {RATE_LIMIT} Mb/s."));
    Faults::check(faults)
}
