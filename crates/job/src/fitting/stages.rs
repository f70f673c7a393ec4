//! The steps of each part of the work.

use busy_hen_catalogue::clients;
use busy_hen_home::{Device, Enclosure, Firmware, FirmwareUpdates, Mode, Steering, Uplink, Via, Want};
use busy_hen_predict::needs::BUSY_EVENING;
use busy_hen_units::words::counted;

use super::places::{Job, LOCAL_CODES};
use super::step::{GUESTS_STEP, LAST_STEP, SheetStep, Stage, StepKind};
use crate::cautions::of_place;
use crate::parts::{FedBy, fed_by};

/// "router", "access point", "mesh node".
fn mode_name(mode: Mode) -> &'static str {
    match mode {
        Mode::Router => "router",
        Mode::AccessPoint => "access point",
        Mode::MeshNode => "mesh node",
        Mode::Repeater => "repeater",
        Mode::Switch => "switch",
    }
}

/// What is settled on a table beside the router, before anything is climbed to.
pub(super) fn table(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    let stage = Stage::Table;
    if !job.old.is_empty() {
        steps.push(
            SheetStep::new(stage, "old name", "Write down the old network's name, channel and who hands out addresses")
                .how("The same name and password again spare the family joining anew; a new name shows who clings to the old."),
        );
    }
    for device in job.new_devices().filter(|own| own.mode != Mode::Switch) {
        let kit = job.kit(device).map_or("", |kit| kit.name.as_str());
        steps.push(
            SheetStep::of(stage, "power on", device, format!("Power {} up on the table", device.name)).how(kit).how(
                "A reset to how it came: hold the small button until the lamp changes, some ten seconds on most kit.",
            ),
        );
        steps.push(
            SheetStep::of(
                stage,
                "admin",
                device,
                format!("Change the admin password of {} from how it came", device.name),
            )
            .how("Give it to the family in writing; it is not kept here."),
        );
        steps.push(firmware(job, device));
        steps.push(
            SheetStep::of(stage, "name", device, format!("Name it “{}” on its own page", device.name))
                .how(format!("Set it to {}.", mode_name(device.mode)))
                .how(by_socket(device)),
        );
    }
    for device in &job.setup.devices {
        if let Some(Via::PowerLine { .. }) = via(device) {
            steps.push(
                SheetStep::of(stage, "own key", device, format!("Give the power-line pair of {} a key of its own", device.name))
                    .how("Both ends in one strip-free outlet, then the pairing button of each within two minutes: without it neighbours on the same wiring may join."),
            );
        }
    }
}

/// What a device runs, and how a newer one gets in.
fn firmware(job: &Job<'_>, device: &Device) -> SheetStep {
    let noted = device.firmware.as_ref();
    let runs = match noted.filter(|own| !own.version.is_empty()) {
        Some(Firmware { version, from: Some(day), .. }) => format!("It runs {version} of {day} as noted."),
        Some(own) => format!("It runs {} as noted.", own.version),
        None => "What it runs is not noted yet.".to_owned(),
    };
    let way = match noted.and_then(|own| own.updates) {
        Some(FirmwareUpdates::Button) => "By the button on its page.".to_owned(),
        Some(FirmwareUpdates::File) => "By file: fetch it before the visit, and give it to each by itself.".to_owned(),
        Some(FirmwareUpdates::Schedule { hours }) => {
            format!("By itself, between {} and {} h: look the day after whether it did.", hours.from, hours.to)
        }
        None => "By its button where it has one, by file one after the other where it has none, or by its schedule in a quiet hour, to be looked at the day after.".to_owned(),
    };
    let step = SheetStep::of(Stage::Table, "firmware", device, format!("Update the firmware of {}", device.name))
        .how(runs)
        .how(way)
        .how("Note version and date. Nothing is tested before.");
    match awake(job, noted) {
        Some(who) => step.mind(format!("Its hours are not quiet: {who}. It restarts in them.")),
        None => step,
    }
}

/// Who uses the network in the hours in which a device updates itself; none where nobody does, or it does not.
fn awake(job: &Job<'_>, noted: Option<&Firmware>) -> Option<String> {
    let Some(FirmwareUpdates::Schedule { hours }) = noted?.updates else { return None };
    let own = job.home.brief.uses.iter().find(|own| own.hours.unwrap_or(BUSY_EVENING).meet(&hours))?;
    let room = job.plan.room(own.room_id).map_or("a room", |room| room.name.as_str());
    Some(format!("{room} is in use then, as the brief has it"))
}

fn via(device: &Device) -> Option<&Via> {
    device.uplink.as_ref().map(|up| &up.via)
}

/// Which socket makes it what it should be, on kit that chooses by the socket.
fn by_socket(device: &Device) -> &'static str {
    match device.mode {
        Mode::Router => {
            "The line goes into the port marked for it: on kit that chooses by the socket this makes it the router."
        }
        Mode::AccessPoint => {
            "Its cable goes into a port towards the home unless its page says otherwise: the other makes some kit a second router."
        }
        _ => "",
    }
}

/// Cables and pairs of adapters; what is wired goes before radio.
pub(super) fn wire(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    let stage = Stage::Wire;
    for cable in &job.parts.cables {
        let Some(device) = job.setup.device(cable.device_id) else { continue };
        let port = cable.port.map(|port| format!("Port {port} of {}.", cable.from_name)).unwrap_or_default();
        let verb = if cable.loose { "Lay, loose," } else { "Lay" };
        let mut step = SheetStep::of(
            stage,
            "cable",
            device,
            format!("{verb} {} from {} to {}", cable.class_name, cable.from_name, device.name),
        )
        .how(cable.told.clone())
        .how(port);
        let route = cable.route.as_ref();
        let outdoors = route.is_some_and(|own| own.outdoors_m.get() > 0.0);
        if outdoors {
            step = step.how("Outdoor cable outside, and a drip loop below each hole, so that water runs off before the wall; holes fall outwards.");
        }
        let holes = route.map_or(0, |own| own.holes.len());
        if holes > 0 {
            let ask = if job.home.brief.may_drill { "" } else { " Ask the owner first." };
            step = step.mind(format!(
                "{}: look for wires and pipes first, and mind old boards that may hold asbestos.{ask} {LOCAL_CODES}",
                counted(holes, "hole")
            ));
        } else if outdoors {
            step = step.mind(format!("Keep clear of overhead lines and off roofs alone. {LOCAL_CODES}"));
        }
        steps.push(step);
        steps.push(SheetStep::of(
            stage,
            "cable test",
            device,
            format!("Test that cable, all eight wires, before {} hangs on it", device.name),
        ));
    }
    for device in &job.setup.devices {
        match via(device) {
            Some(Via::Coax { splitters, .. }) => steps.push(
                SheetStep::of(stage, "coax", device, format!("Screw the coax pair of {} in", device.name))
                    .how(format!("{} on the way.", counted((*splitters).into(), "splitter")))
                    .mind(job.minded(device)),
            ),
            Some(Via::PowerLine { strips, .. }) => steps.push(
                SheetStep::of(stage, "mains", device, format!("Plug the power-line pair of {} in", device.name))
                    .how(if *strips > 0 {
                        "Straight into wall outlets: strips and filters cost most of it."
                    } else {
                        "Straight into wall outlets."
                    })
                    .mind(job.minded(device)),
            ),
            _ => {}
        }
    }
}

/// Where things stand, and what feeds them.
pub(super) fn place(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    for device in &job.setup.devices {
        let fed = match fed_by(device, job.setup, &job.catalogue) {
            Some(FedBy::Port) => "Its cable feeds it.",
            Some(FedBy::InjectorInBox) => "The injector from its box feeds it: at the other end of the cable.",
            Some(FedBy::InjectorToBuy) => "It takes an injector at the other end of the cable.",
            None => "",
        };
        let shut = match device.enclosure {
            Enclosure::Open => "",
            Enclosure::Cupboard => "In a cupboard, as planned: leave it air.",
            Enclosure::MetalCabinet => "In a metal cabinet, as planned: its radios are as good as off in there.",
        };
        let verb = if device.there_already { "Leave" } else { "Put" };
        let mut step =
            SheetStep::of(Stage::Place, "place", device, format!("{verb} {}: {}", device.name, job.place(device)))
                .how(fed)
                .how(shut);
        if let Some(told) = of_place(device, job.plan) {
            step = step.mind(told);
        } else if job.is_climbed(device) {
            step = step.mind("Up a ladder: on firm ground, somebody holding it, nothing carried in both hands.");
        }
        steps.push(step);
    }
}

/// What goes by radio finds its way, nearest to the line first.
pub(super) fn pair(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    for device in &job.setup.devices {
        let Some(Uplink { to, via, .. }) = &device.uplink else { continue };
        let upstream = job.setup.device(*to).map_or("the router", |own| own.name.as_str());
        let by = match via {
            Via::Radio { radio } => {
                device.radios.get(*radio).map_or_else(|| "by radio".into(), |own| format!("on {}", own.band))
            }
            Via::BestRadio => "by the radio that holds best".to_owned(),
            _ => continue,
        };
        steps.push(
            SheetStep::of(Stage::Pair, "pair", device, format!("Pair {} with {upstream}, {by}", device.name))
                .how("Close by first; the window is open some two minutes on most kit. Then take it to its place and look again.")
                .how(if device.mode == Mode::Repeater { "It repeats on the radio it hears with: its page should show the old name and the band." } else { "" }),
        );
    }
}

/// Where a device's settings are and what it hands out, as far as it was noted.
fn address_in_words(device: &Device) -> String {
    let at = match device.settings_address.as_str() {
        "" => "Note the address of its settings".to_owned(),
        address => format!("Its settings are at {address}"),
    };
    let range = match device.hands_out {
        None => "note the range that it hands out".to_owned(),
        Some(own) => format!("it hands out {} to {}", own.from, own.to),
    };
    format!("{at}; {range}.")
}

/// Channels, names, addresses.
pub(super) fn settings(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    let stage = Stage::Settings;
    if let Some(root) = job.setup.root() {
        let others = job.setup.devices.iter().filter(|own| own.id != root.id && own.mode != Mode::Switch).count();
        let mut step = SheetStep::of(stage, "addresses", root, format!("Let {} alone hand out addresses", root.name))
            .how(address_in_words(root));
        if others > 0 {
            step =
                step.how("All others: off. Two that hand out addresses fail now and then, which is worse than always.");
        }
        steps.push(step);
    }
    for device in &job.setup.devices {
        for (index, radio) in device.radios.iter().enumerate() {
            let key = format!("radio {index}");
            if !radio.on {
                steps.push(SheetStep::of(stage, &key, device, format!("{}: {} off", device.name, radio.band)));
                continue;
            }
            // What carries an uplink takes its channel from what it hangs on.
            let follows = matches!(via(device), Some(Via::Radio { radio }) if *radio == index) && !radio.serves;
            if follows {
                continue;
            }
            let mut step = SheetStep::of(
                stage,
                &key,
                device,
                format!(
                    "{}: {} on channel {}, {:.0} MHz wide",
                    device.name,
                    radio.band,
                    radio.channel,
                    radio.width_mhz.get()
                ),
            );
            if radio.turned_down_db.get() > 0.0 {
                step = step.how(format!("Turned down by {:.0}.", radio.turned_down_db));
            }
            if let Some(threshold) = radio.hand_over_dbm {
                step = step.how(format!("Hands clients over below {threshold:.0}."));
            }
            if !radio.serves {
                step = step.how("Kept for backhaul: no phones on it.");
            }
            steps.push(step);
        }
    }
    let serving = || job.setup.devices.iter().filter(|own| own.radios.iter().any(|radio| radio.on && radio.serves));
    let own_names = job.setup.steering == Steering::OwnNames;
    if serving().next().is_some() {
        let mut step = SheetStep::new(stage, "network", "Set the network's name, its password and its security mode")
            .how("A password made up for this home, not the one on the old label.")
            .how("The newest mode that all of the family's things can do; the older beside it only while something needs it.");
        if own_names {
            let names: Vec<&str> =
                serving().map(|own| own.network_name.as_str()).filter(|name| !name.is_empty()).collect();
            step = step.how(format!("A name for each device: {}.", names.join(", ")));
        } else if serving().count() > 1 {
            step = step.how("One name and one password on all of them.");
        }
        steps.push(step);
    }
    let guests: Vec<&str> =
        job.setup.devices.iter().map(|own| own.guest_network.as_str()).filter(|name| !name.is_empty()).collect();
    if !guests.is_empty() || job.home.brief.wants.contains(&Want::GuestNetwork) {
        let name = guests.first().map(|name| format!("Its name: {name}.")).unwrap_or_default();
        steps.push(
            SheetStep::new(stage, "guests", "Set the guest network up, kept apart from the home")
                .how(name)
                .how("Its password as a code on paper for guests."),
        );
    }
    if let Some(root) = job.setup.root().filter(|own| own.managed_queue) {
        steps.push(
            SheetStep::of(stage, "queue", root, format!("Let {} keep its queue short", root.name))
                .how("A little under what the line really gives."),
        );
    }
    for device in job.new_devices().filter(|own| own.mode != Mode::Switch) {
        steps.push(
            SheetStep::of(
                stage,
                "updates",
                device,
                format!("Let {} update itself in a quiet hour, or not at all", device.name),
            )
            .how("Not on the days that are spoken for; and not before the proof."),
        );
    }
}

/// The old Wi-Fi goes off once the new serves and before anybody joins.
pub(super) fn old(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    for device in &job.old {
        let routes = device.mode == Mode::Router;
        let bridge = match (routes, job.home.brief.router.can_bridge) {
            (true, Some(true)) => "It goes into bridge mode, so that the new one routes.",
            (true, Some(false)) => {
                "It can't be bridged: the new one becomes an access point, or lives behind two address translations."
            }
            (true, None) => "Whether it can be bridged is not noted: look before two translate addresses.",
            (false, _) => "It is taken down.",
        };
        steps.push(
            SheetStep::of(Stage::Old, "old wifi", device, format!("Switch the Wi-Fi of the old {} off", device.name))
                .how("Both bands, its guest network and its pairing button too.")
                .how(bridge),
        );
    }
}

/// Whether all of it took, each thing looked at by itself.
pub(super) fn look(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    let stage = Stage::Look;
    let root = job.setup.root();
    for device in &job.setup.devices {
        if let Some(Uplink { to, via, .. }) = &device.uplink {
            let upstream = job.setup.device(*to).map_or("the router", |own| own.name.as_str());
            let by = if via.is_radio() { "by radio" } else { "by wire" };
            steps.push(
                SheetStep::of(stage, "uplink seen", device, format!("{} hangs on {upstream}, {by}", device.name))
                    .how("Its page, or the main page's map; a mesh falls back to radio in silence.")
                    .look(),
            );
            if let Via::Cable { .. } = via {
                let port = job.kit(device).map(|kit| kit.uplink_port_mbps.get());
                let told = port.map(|own| format!("{own:.0} Mb/s, as its port can.")).unwrap_or_default();
                steps.push(
                    SheetStep::of(
                        stage,
                        "port seen",
                        device,
                        format!("The port of {} has come up at its full speed", device.name),
                    )
                    .how(told)
                    .how("A tenth of it is a wire that makes no contact.")
                    .look(),
                );
            }
        }
        let channels = Job::channels(device);
        if !channels.is_empty() {
            steps.push(
                SheetStep::of(stage, "channels seen", device, format!("{} is on the air as set", device.name))
                    .how(channels)
                    .how("By a scan, or its own page.")
                    .look(),
            );
        }
        if job.setup.devices.iter().any(|other| other.id != device.id && other.kit == device.kit) {
            steps.push(
                SheetStep::of(
                    stage,
                    "firmware seen",
                    device,
                    format!("{} runs what the others of its kind run", device.name),
                )
                .look(),
            );
        }
    }
    for device in &job.old {
        steps.push(
            SheetStep::of(stage, "old silent", device, format!("Nothing of the old {} is on the air", device.name))
                .how("A scan beside it, both bands.")
                .look(),
        );
    }
    if root.is_some() {
        steps.push(
            SheetStep::new(stage, "one server", "Only one device hands out addresses")
                .how("Two phones joined one after the other at both ends of the home: their addresses and the way out are of one range.")
                .look(),
        );
    }
    if job.home.brief.wants.contains(&Want::GuestNetwork)
        || job.setup.devices.iter().any(|own| !own.guest_network.is_empty())
    {
        steps.push(SheetStep::new(stage, GUESTS_STEP, "A guest reaches the internet and nothing in the home").look());
    }
}

/// Who of the family's devices has joined.
pub(super) fn roll_call(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    for own in &job.home.brief.devices {
        let class = clients::find(&own.class).map_or("a device", |client| client.name);
        let name = if own.name.trim().is_empty() { class } else { own.name.trim() };
        let room = own.room_id.and_then(|id| job.plan.room(id)).map(|room| format!("In {}.", room.name));
        for number in 1..=own.count.max(1) {
            let which = if own.count > 1 { format!(" ({number} of {})", own.count) } else { String::new() };
            steps.push(SheetStep {
                kind: StepKind::Join,
                family_device_id: Some(own.id),
                ..SheetStep::new(
                    Stage::RollCall,
                    format!("join {} {number}", own.id),
                    format!("{name}{which} has joined"),
                )
                .how(room.clone().unwrap_or_default())
            });
        }
    }
    if job.home.brief.devices.is_empty() {
        steps.push(
            SheetStep::new(Stage::RollCall, "join all", "All that the family has is back on the network")
                .how("Their list is in the brief: with it each is ticked by itself."),
        );
    }
}

/// What stays behind.
pub(super) fn leave(job: &Job<'_>, steps: &mut Vec<SheetStep>) {
    let stage = Stage::Leave;
    for device in &job.setup.devices {
        steps.push(SheetStep::of(stage, "label", device, format!("Label {}", device.name)).how(format!(
            "{}; {}",
            job.place(device),
            Job::channels(device)
        )));
    }
    steps.push(SheetStep::new(stage, "pictures", "Take a picture of each device as it stands and is wired"));
    steps.push(
        SheetStep::new(stage, LAST_STEP, "Give the passwords to the family, in writing")
            .how("Admin, network, guests. They are kept by nobody else."),
    );
}
