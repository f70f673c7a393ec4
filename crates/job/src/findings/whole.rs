//! What may be wrong with a setup as a whole: who routes, who guides, what is too much and what is too little.

use std::collections::BTreeSet;

use busy_hen_catalogue::clients;
use busy_hen_home::{Device, Mode, Setup, Steering, TestKind};
use busy_hen_predict::Model;
use busy_hen_predict::needs::running_line;
use busy_hen_predict::path::hop::HopKind;
use busy_hen_units::words::capitalised;

use super::case::{Case, Found};
use super::rule::Rule;
use crate::parts::ports::plug_in;

/// What is told by the setup alone, without predicting anything.
pub(super) fn look_at_rules(case: &Case<'_>, found: &mut Vec<Found>) {
    for (device, _) in case.devices() {
        second_router(case, device, found);
    }
    guidance(case, found);
    firmware(case, found);
    addresses(case, found);
}

pub(super) fn look(case: &Case<'_>, found: &mut Vec<Found>) {
    look_at_rules(case, found);
    wasted(case, found);
    single_point(case, found);
    fixed_on_air(case, found);
    queue(case, found);
    if case.question.reach == TestKind::Internet {
        let line = running_line(&case.home.brief, case.question.day).filter(|line| line.is_too_little());
        if let Some(line) = line {
            let told = format!("{}.", capitalised(&line.told));
            found.push(Found::new(Rule::BeyondPlan, None, told));
        }
    }
}

fn second_router(case: &Case<'_>, device: &Device, found: &mut Vec<Found>) {
    let Some(uplink) = device.uplink.as_ref().filter(|_| device.mode == Mode::Router) else { return };
    let first = case.setup.device(uplink.to).map_or("the router", |own| own.name.as_str());
    let what = format!("{} routes again behind {first}.", device.name);
    let node = case.network.nodes.iter().find(|node| node.id == device.id);
    let mut second = Found::new(Rule::DoubleTranslation, Some(device), what);
    if node.is_some_and(|node| node.kit.modes.contains(&Mode::AccessPoint)) {
        let bridged = case.with(device, |own| own.mode = Mode::AccessPoint);
        second = second.fix("make it an access point", bridged);
    }
    found.push(second);
}

fn serving<'a>(case: &'a Case<'_>) -> Vec<&'a Device> {
    let serves = |device: &&Device| device.radios.iter().any(|radio| radio.on && radio.serves);
    case.setup.devices.iter().filter(serves).collect()
}

fn guidance(case: &Case<'_>, found: &mut Vec<Found>) {
    let serving = serving(case);
    if serving.len() < 2 {
        return;
    }
    // Kit guides phones within its family; what guides none is a family by itself.
    let family = |device: &&Device| case.catalogue.kit(&device.kit.0).and_then(|kit| kit.facts.steers_with.clone());
    let families: BTreeSet<Option<String>> = serving.iter().map(family).collect();
    let one_family = families.len() == 1 && !families.contains(&None);
    if case.setup.steering == Steering::Guided {
        if !one_family {
            let strangers: Vec<&str> =
                serving.iter().filter(|own| family(own).is_none()).map(|own| own.name.as_str()).collect();
            let what = if strangers.is_empty() {
                let named: Vec<String> = families.into_iter().flatten().collect();
                format!("Kit of {} families serves under one name: {}.", named.len(), named.join(", "))
            } else {
                format!("{} can't tell phones where to go, and the setup counts on it.", strangers.join(" and "))
            };
            found.push(Found::new(Rule::MixedKit, None, what));
        }
        return;
    }
    let what = match case.setup.steering {
        Steering::OneName => "Several devices share a name, and none guides the phones.",
        _ => "Every device has a name of its own, and phones stay on the one they know.",
    };
    let mut guided = case.setup.clone();
    guided.steering = Steering::Guided;
    let mut clings = Found::new(Rule::NotGuided, None, what.into());
    if one_family {
        clings = clings.fix("one name, guided", guided);
    }
    found.push(clings);
}

/// Devices without which no room gets less: judged by the rooms, so that it is told for what serves nobody alone.
fn wasted(case: &Case<'_>, found: &mut Vec<Found>) {
    let kept = case.kept;
    let middles = |setup: &Setup| {
        let ready = busy_hen_predict::ready::Ready::new(setup, case.plan, &case.question, kept);
        ready.middles(case.home, setup, case.plan, &case.question, &kept.tables)
    };
    let serving = serving(case);
    if serving.len() < 2 {
        return;
    }
    let now = middles(case.setup);
    for device in kept.wanted(serving) {
        let feeds = case.setup.devices.iter().any(|own| own.uplink.as_ref().is_some_and(|up| up.to == device.id));
        if device.uplink.is_none() || feeds || holds_wired(case, device) {
            continue;
        }
        let mut without = case.setup.clone();
        if without.take_off(device.id).is_err() {
            continue;
        }
        let less = now.iter().zip(middles(&without)).any(|(now, then)| then.down < now.down * 0.97);
        if !less {
            let what = format!("Without {} no room would get less.", device.name);
            found.push(Found::new(Rule::Wasted, Some(device), what).fix("take it off", without));
        }
    }
}

/// Whether something of the family's goes by a wire into a port of this device.
fn holds_wired(case: &Case<'_>, device: &Device) -> bool {
    let wired = |class: &str| clients::find(class).is_some_and(|client| client.port_mbps.is_some());
    let devices = case.home.brief.devices.iter().filter(|own| own.fixed && wired(&own.class));
    devices.filter_map(|own| plug_in(case.setup, case.plan, own.room_id?)).any(|port| port.id == device.id)
}

/// A device by radio that feeds several others by radio.
fn single_point(case: &Case<'_>, found: &mut Vec<Found>) {
    let by_air = |index: usize| {
        matches!(case.network.nodes[index].uplink.as_ref().map(|hop| &hop.kind), Some(HopKind::Radio { .. }))
    };
    for (device, index) in case.devices() {
        let fed = |other: usize| {
            by_air(other) && case.network.nodes[other].uplink.as_ref().is_some_and(|hop| hop.to == index)
        };
        let count = (0..case.network.nodes.len()).filter(|other| fed(*other)).count();
        if by_air(index) && count >= 2 {
            let what = format!("{} hangs on the air itself and feeds {count} more by air.", device.name);
            let wired = case.with(device, |own| {
                let class = busy_hen_home::CableClass::Cat6;
                own.uplink.iter_mut().for_each(|up| up.via = busy_hen_home::Via::cable(class));
            });
            found.push(Found::new(Rule::SinglePoint, Some(device), what).fix("give it a cable", wired));
        }
    }
}

/// What the family has that stands still and goes by air, in a room where a device with ports stands.
fn fixed_on_air(case: &Case<'_>, found: &mut Vec<Found>) {
    for own in case.home.brief.devices.iter().filter(|own| own.fixed) {
        let by_air = clients::find(&own.class).is_some_and(|client| client.port_mbps.is_none());
        let port = own.room_id.and_then(|room| plug_in(case.setup, case.plan, room));
        if let Some(device) = port.filter(|_| by_air) {
            let name = if own.name.trim().is_empty() { "What stands still" } else { own.name.trim() };
            let what = format!("{name} goes by air beside {}, which has ports.", device.name);
            found.push(Found::new(Rule::FixedOnAir, Some(device), what));
        }
    }
}

/// Activities that suffer when the line is full, on a router whose queue nobody manages.
fn queue(case: &Case<'_>, found: &mut Vec<Found>) {
    use busy_hen_home::Activity::{Call, Game, HomeOffice, LiveBroadcast};
    let Some(root) = case.setup.root().filter(|root| !root.managed_queue) else { return };
    let felt = case.home.brief.uses.iter().find(|own| matches!(own.activity, Call | Game | HomeOffice | LiveBroadcast));
    let room = felt.and_then(|own| case.plan.room(own.room_id));
    let Some(room) = room.filter(|_| case.question.reach.is_internet()) else { return };
    let managed = case.with(root, |own| own.managed_queue = true);
    let loaded = |setup: &Setup| {
        let model = Model::new(case.home, setup, case.plan, case.question, case.kept);
        model.at(case.plan.middle_of(room), Some(room.id)).loaded_ms.get()
    };
    let (now, then) = (loaded(case.setup), loaded(&managed));
    if now > then * 1.5 {
        let what =
            format!("{} lets its queue grow while the line is full, and calls or games are held here.", root.name);
        let gain = format!("{} answers after {then:.0} instead of {now:.0} ms under load", room.name);
        let queue = Found::new(Rule::LongQueue, Some(root), what).fix("let it keep the queue short", managed);
        found.push(Found { gain: Some(gain), ..queue });
    }
}

/// Who hands out addresses, and whether two may come to have the same.
fn addresses(case: &Case<'_>, found: &mut Vec<Found>) {
    let devices = &case.setup.devices;
    let servers = || devices.iter().filter_map(|own| Some((own, own.hands_out?)));
    for (index, (device, range)) in servers().enumerate() {
        let Some((first, other)) = servers().take(index).next() else { continue };
        // A router behind a router has a network of its own, with a range of its own.
        let own_network = device.mode == Mode::Router && device.uplink.is_some();
        if range.overlaps(&other) || !own_network {
            let how = if range.overlaps(&other) { "out of ranges that overlap" } else { "in one network" };
            let what = format!("{} and {} both hand out addresses, {how}.", first.name, device.name);
            let alone = case.with(device, |own| own.hands_out = None);
            let told = Found::new(Rule::TwoAddressServers, Some(device), what);
            found.push(told.fix(format!("let {} alone hand them out", first.name), alone));
        }
    }
    for (index, device) in devices.iter().enumerate() {
        let Some(address) = device.settings_ip() else { continue };
        if let Some(other) = devices[..index].iter().find(|own| own.settings_ip() == Some(address)) {
            let what = format!("The settings of {} and {} are both at {address}.", other.name, device.name);
            found.push(Found::new(Rule::AddressClash, Some(device), what));
        }
        if let Some((server, range)) = servers().find(|(_, range)| range.holds(address)) {
            let what = format!(
                "The settings of {} are at {address}, which {} may hand out to another ({} to {}).",
                device.name, server.name, range.from, range.to
            );
            found.push(Found::new(Rule::AddressClash, Some(device), what));
        }
    }
}

/// Devices of one kit that run different firmware.
fn firmware(case: &Case<'_>, found: &mut Vec<Found>) {
    for device in &case.setup.devices {
        let Some(own) = device.firmware.as_ref().filter(|own| !own.version.is_empty()) else { continue };
        let newer = case.setup.devices.iter().filter(|other| other.kit == device.kit).find(|other| {
            other.firmware.as_ref().is_some_and(|theirs| {
                !theirs.version.is_empty() && theirs.version != own.version && theirs.from > own.from
            })
        });
        if let Some(newer) = newer {
            let what = format!("{} runs older firmware than {}.", device.name, newer.name);
            found.push(Found::new(Rule::FirmwareBehind, Some(device), what));
        }
    }
}
