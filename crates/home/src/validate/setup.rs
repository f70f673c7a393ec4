//! What can be said against a setup, and the neighbours it is heard beside.

use super::check::{Check, REACH_LIMIT_M};
use crate::house::Position;
use crate::setup::{Aerial, FirmwareUpdates, Setup, Via};
use crate::{House, Neighbour};

/// Most devices of a setup.
const DEVICES_LIMIT: usize = 40;

/// Longest name of a network, bytes (IEEE 802.11-2020, 9.4.2.2).
const NETWORK_NAME_BYTES: usize = 32;

pub(super) fn neighbours(air: &[Neighbour], check: &mut Check) {
    check.that(air.len() <= 200, "/air", "At most 200 neighbours' networks are kept; leave out the weakest.");
    check.unique(air.iter().enumerate().map(|(i, n)| (n.id, format!("/air/{i}/id"))), "This neighbour id");
    for (index, one) in air.iter().enumerate() {
        check.that(
            (-110.0..=0.0).contains(&one.signal_dbm.get()),
            format!("/air/{index}/signal_dbm"),
            format!("A neighbour is heard at {}; it must be -110 to 0 dBm.", one.signal_dbm),
        );
        check.that(
            (0.0..=1.0).contains(&one.busy_part),
            format!("/air/{index}/busy_part"),
            "A neighbour sends for 0 to 1 of the time.",
        );
    }
}

pub(super) fn aerial(aerial: &Aerial, at: &str, name: &str, check: &mut Check) {
    let mut within = |value: f64, low: f64, high: f64, field: &str, what: &str| {
        check.that(
            (low..=high).contains(&value),
            format!("{at}/{field}"),
            format!("The {what} of {name}'s aerial is {value}; it must be {low} to {high}."),
        );
    };
    match aerial {
        Aerial::BuiltIn => {}
        Aerial::Rods { gain_dbi, lean, towards } => {
            within(gain_dbi.get(), 1.5, 12.0, "gain_dbi", "gain in dBi");
            within(lean.get(), 0.0, 90.0, "lean", "lean in degrees");
            within(towards.get(), 0.0, 360.0, "towards", "direction in degrees");
        }
        Aerial::Sector { gain_dbi, width, height, towards } => {
            within(gain_dbi.get(), 2.0, 24.0, "gain_dbi", "gain in dBi");
            within(width.get(), 5.0, 180.0, "width", "width in degrees");
            within(height.get(), 5.0, 180.0, "height", "height in degrees");
            within(towards.get(), 0.0, 360.0, "towards", "direction in degrees");
        }
    }
}

/// Coax and power-line pairs: lengths and counts that can be.
pub(super) fn pair(via: &Via, at: &str, name: &str, check: &mut Check) {
    let (length, parts) = match via {
        Via::Coax { length_m, splitters, .. } => (length_m, ("splitters", *splitters)),
        Via::PowerLine { length_m, strips, .. } => (length_m, ("strips", *strips)),
        Via::Cable { .. } | Via::Radio { .. } | Via::BestRadio => return,
    };
    check.length(*length, 0.0..=500.0, format!("{at}/length_m"), |length, limits| {
        format!("The wiring to {name} is {length} long; it must be {limits}.")
    });
    let (field, count) = parts;
    check.that(
        count <= 10,
        format!("{at}/{field}"),
        format!("{count} {field} on the way to {name} cannot be right; enter at most 10."),
    );
    if let Via::PowerLine { reported_mbps: Some(rate), .. } = via {
        check.that(
            (1.0..=5000.0).contains(&rate.get()),
            format!("{at}/reported_mbps"),
            format!("The link rate that the power-line pair to {name} reports must be 1 to 5000 Mb/s."),
        );
    }
    if let Via::Coax { port_mbps, .. } = via {
        check.that(
            (10.0..=10_000.0).contains(&port_mbps.get()),
            format!("{at}/port_mbps"),
            format!("The port of the coax adapter to {name} must be 10 to 10000 Mb/s."),
        );
    }
}

pub(super) fn setup(setup: &Setup, house: &House, at: &str, check: &mut Check) {
    check.name(&setup.name, &format!("{at}/name"), "A setup");
    check.name(&setup.letter, &format!("{at}/letter"), "A setup's letter");
    check.text(&setup.why, &format!("{at}/why"), "Why a setup is tried");
    if let Some(series) = &setup.series {
        check.name(series, &format!("{at}/series"), "A series");
    }
    check.that(
        setup.put_aside.len() <= 200,
        format!("{at}/put_aside"),
        "At most 200 findings of a setup are put aside; take some back.",
    );
    check.unique(
        setup
            .put_aside
            .iter()
            .enumerate()
            .map(|(i, own)| ((own.rule.clone(), own.device_id), format!("{at}/put_aside/{i}"))),
        "This finding",
    );
    for (index, own) in setup.put_aside.iter().enumerate() {
        check.name(&own.rule, &format!("{at}/put_aside/{index}/rule"), "A rule");
        check.text(&own.because, &format!("{at}/put_aside/{index}/because"), "Why a finding is put aside");
    }
    let devices = &setup.devices;
    check.that(
        devices.len() <= DEVICES_LIMIT,
        format!("{at}/devices"),
        format!("A setup has at most {DEVICES_LIMIT} devices here; remove some."),
    );
    check.unique(devices.iter().enumerate().map(|(i, d)| (d.id, format!("{at}/devices/{i}/id"))), "This device id");
    check.unique(
        devices.iter().enumerate().map(|(i, d)| (d.name.to_lowercase(), format!("{at}/devices/{i}/name"))),
        "A device of this name",
    );
    let addressed = devices.iter().enumerate();
    let addressed = addressed
        .filter_map(|(i, d)| Some((d.hardware_address.clone()?, format!("{at}/devices/{i}/hardware_address"))));
    check.unique(addressed, "A device of this hardware address");
    let roots = devices.iter().filter(|device| device.uplink.is_none()).count();
    check.that(
        devices.is_empty() || roots == 1,
        format!("{at}/devices"),
        format!("Setup {} has {roots} devices at the line; exactly one has no uplink.", setup.letter),
    );
    for (index, device) in devices.iter().enumerate() {
        let at = format!("{at}/devices/{index}");
        check.name(&device.name, &format!("{at}/name"), "A device");
        position(&device.at, house, &format!("{at}/at"), &device.name, check);
        aerial(&device.aerial, &format!("{at}/aerial"), &device.name, check);
        if let Some(firmware) = &device.firmware {
            if !firmware.version.is_empty() {
                check.name(&firmware.version, &format!("{at}/firmware/version"), "The firmware of a device");
            }
            if let Some(FirmwareUpdates::Schedule { hours }) = firmware.updates {
                check.hours(Some(hours), &format!("{at}/firmware/updates/hours"));
            }
        }
        if let Some(address) = &device.hardware_address {
            let message = format!("The hardware address of {} is six pairs such as 02:1a:9f:00:3c:55.", device.name);
            check.that(is_hardware_address(address), format!("{at}/hardware_address"), message);
        }
        check.that(
            device.settings_address.is_empty() || device.settings_ip().is_some(),
            format!("{at}/settings_address"),
            format!("The settings of {} are at an address such as 192.168.1.2 or 192.168.1.2:8080.", device.name),
        );
        check.that(
            device.hands_out.is_none_or(|own| own.from <= own.to),
            format!("{at}/hands_out"),
            format!("The addresses that {} hands out go from the first to the last.", device.name),
        );
        for (field, name) in [("network_name", &device.network_name), ("guest_network", &device.guest_network)] {
            check.that(
                name.len() <= NETWORK_NAME_BYTES,
                format!("{at}/{field}"),
                format!(
                    "The name of a network has at most {NETWORK_NAME_BYTES} bytes (IEEE 802.11); shorten that of {}.",
                    device.name
                ),
            );
        }
        for (r, radio) in device.radios.iter().enumerate() {
            check.that(
                (0.0..=30.0).contains(&radio.turned_down_db.get()),
                format!("{at}/radios/{r}/turned_down_db"),
                format!("A radio of {} is turned down by 0 to 30 dB.", device.name),
            );
            check.that(
                radio.hand_over_dbm.is_none_or(|level| (-95.0..=-40.0).contains(&level.get())),
                format!("{at}/radios/{r}/hand_over_dbm"),
                format!(
                    "{} hands over at -95 to -40 dBm; leave it empty when it leaves that to the client.",
                    device.name
                ),
            );
        }
        let Some(uplink) = &device.uplink else { continue };
        check.that(
            uplink.port.is_none_or(|port| (1..=64).contains(&port)),
            format!("{at}/uplink/port"),
            format!("The port that {} goes to is counted from 1 to 64.", device.name),
        );
        check.that(
            setup.device(uplink.to).is_some() && uplink.to != device.id,
            format!("{at}/uplink/to"),
            format!("{} has an uplink to a device that is not in the setup; choose another.", device.name),
        );
        pair(&uplink.via, &format!("{at}/uplink/via"), &device.name, check);
        if let Via::Radio { radio } = uplink.via {
            check.that(
                radio < device.radios.len(),
                format!("{at}/uplink/via/radio"),
                format!(
                    "{} has no radio number {}; choose another for the uplink.",
                    device.name,
                    radio.saturating_add(1)
                ),
            );
        }
        check.that(
            !in_a_loop(setup, device.uplink.as_ref().map(|u| u.to)),
            format!("{at}/uplink/to"),
            format!("The uplinks from {} go round in a circle; lead one of them to the router.", device.name),
        );
    }
}

pub(super) fn in_a_loop(setup: &Setup, first: Option<crate::DeviceId>) -> bool {
    let mut next = first;
    for _ in 0..=setup.devices.len() {
        match next.and_then(|id| setup.device(id)) {
            Some(device) => next = device.uplink.as_ref().map(|uplink| uplink.to),
            None => return false,
        }
    }
    true
}

pub(super) fn position(place: &Position, house: &House, at: &str, name: &str, check: &mut Check) {
    check.that(
        house.level(place.level_id).is_some(),
        format!("{at}/level_id"),
        format!("{name} stands on a level that the house does not have; move it."),
    );
    for (field, value) in [("x_m", place.x_m), ("y_m", place.y_m)] {
        check.that(
            value.is_finite() && value.get().abs() <= REACH_LIMIT_M,
            format!("{at}/{field}"),
            format!("{name} stands over {} away; move it nearer.", check.reach()),
        );
    }
    check.length(place.height_m, 0.0..=12.0, format!("{at}/height_m"), |height, limits| {
        format!("{name} stands {height} above its floor; enter {limits}.")
    });
}

/// Six pairs of lower-case hexadecimal digits with colons between (IEEE 802, EUI-48).
pub(super) fn is_hardware_address(text: &str) -> bool {
    let pairs: Vec<&str> = text.split(':').collect();
    let pair = |pair: &&str| pair.len() == 2 && pair.chars().all(|c| matches!(c, '0'..='9' | 'a'..='f'));
    pairs.len() == 6 && pairs.iter().all(pair)
}
