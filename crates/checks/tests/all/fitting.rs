//! The run sheet of a setup: the order of the work, what stands at each step, and what is left at the end.

use std::collections::HashSet;

use busy_hen_demo::canal_terrace;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    CableClass, Circuit, DeviceId, FamilyDevice, FamilyDeviceId, Firmware, FirmwareUpdates, Home, Hours, Mode,
    PowerLineClass, RadioSetting, ReportedDevice, ReportedRadio, SetupId, Straggling, Tick, TickOutcome, Uplink, Via,
    Want,
};
use busy_hen_job::fitting::reported::Reported;
use busy_hen_job::fitting::{Sheet, SheetStep, Stage, StepKind, report, reported, sheet};
use busy_hen_job::parts::parts;
use busy_hen_testkit::homes::any_home;
use busy_hen_units::Metres;
use jiff::Timestamp;
use jiff::civil::date;

fn sheet_of(home: &Home, letter: &str) -> Sheet {
    let plan = Plan::new(&home.house, home.units);
    sheet(home, home.setup(SetupId::named(letter)).unwrap(), &plan)
}

fn step<'a>(sheet: &'a Sheet, what: &str) -> &'a SheetStep {
    let found = sheet.steps.iter().find(|own| own.what.contains(what));
    found.unwrap_or_else(|| {
        panic!("no step “{what}” among {:#?}", sheet.steps.iter().map(|own| &own.what).collect::<Vec<_>>())
    })
}

fn place(sheet: &Sheet, what: &str) -> usize {
    let key = &step(sheet, what).key;
    sheet.steps.iter().position(|own| own.key == *key).unwrap()
}

#[test]
fn the_work_goes_in_the_order_that_saves_climbing_twice() {
    let sheet = sheet_of(&canal_terrace(), "C");
    let update = place(&sheet, "Update the firmware of Landing node");
    let cable = place(&sheet, "Lay Cat 6");
    let put = place(&sheet, "Put Landing node");
    let pair = place(&sheet, "Pair Landing node with Front node");
    let off = place(&sheet, "Switch the Wi-Fi of the old Router off");
    let silent = place(&sheet, "Nothing of the old Router is on the air");
    assert!(update < cable && cable < put && put < pair && pair < off && off < silent);
    assert!(sheet.steps.windows(2).all(|two| two[0].stage <= two[1].stage), "stages don't come twice");
    assert_eq!(sheet.steps.last().unwrap().stage, Stage::Leave);
    assert!(sheet.first.is_empty(), "{:?}", sheet.first);
    assert_eq!(sheet.labels.len(), 3);
    assert!(sheet.labels[1].place.starts_with("Landing, First"), "{:?}", sheet.labels[1]);
    assert!(sheet.labels[1].channels.contains("5 GHz channel"), "{:?}", sheet.labels[1]);
}

#[test]
fn a_cable_says_its_way_its_port_and_what_to_mind() {
    let sheet = sheet_of(&canal_terrace(), "C");
    let cable = step(&sheet, "Lay Cat 6");
    assert!(cable.what.ends_with("from Front node to Pottery point"));
    let how = cable.how.join(" ");
    assert!(how.contains("Port 1 of Front node") && how.contains(" m"), "{how}");
    assert!(how.contains("drip loop"), "it goes down the garden: {how}");
    assert!(cable.caution.contains("overhead lines") && cable.caution.contains("Local codes"), "{}", cable.caution);
    assert!(sheet.steps.iter().any(|own| own.kind == StepKind::Look && own.what.contains("port of Pottery point")));
    // By radio there is nothing to lay, and nothing to drill.
    let by_air = sheet_of(&canal_terrace(), "B");
    assert!(by_air.steps.iter().all(|own| own.stage != Stage::Wire));
    assert!(by_air.tools.iter().all(|own| !own.starts_with("drill")));
}

#[test]
fn where_a_cable_takes_holes_the_caution_and_the_drill_come_along() {
    let (mut drilled, mut not) = (0, 0);
    for number in 0..400 {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        for setup in &home.setups {
            let sheet = sheet(&home, setup, &plan);
            let mut holes = 0;
            for cable in parts(&home, setup, &plan).cables {
                let own = cable.route.map_or(0, |route| route.holes.len());
                holes += own;
                let key = format!("cable {}", cable.device_id);
                let step = sheet.steps.iter().find(|own| own.key == key).unwrap();
                assert_eq!(own > 0, step.caution.contains("wires and pipes"), "home {number}: {step:?}");
                assert_eq!(own > 0 && !home.brief.may_drill, step.caution.contains("Ask the owner"), "home {number}");
            }
            assert_eq!(holes > 0, sheet.tools.iter().any(|own| own.starts_with("drill")), "home {number}");
            if holes > 0 { drilled += 1 } else { not += 1 }
        }
    }
    assert!(drilled > 2 && not > 5, "{drilled} drilled, {not} not");
}

#[test]
fn firmware_says_how_a_newer_one_gets_in_and_whether_its_hours_are_quiet() {
    let mut home = canal_terrace();
    let told = |home: &Home| step(&sheet_of(home, "B"), "Update the firmware of Landing node").clone();
    assert!(told(&home).how.iter().any(|own| own.contains("not noted yet")));
    let mut set = |updates, version: &str| {
        let device = home.setups[1].devices.iter_mut().find(|own| own.name == "Landing node").unwrap();
        device.firmware = Some(Firmware { version: version.into(), from: Some(date(2026, 3, 1)), updates });
        told(&home)
    };
    let file = set(Some(FirmwareUpdates::File), "2.1");
    assert!(file.how.iter().any(|own| own == "It runs 2.1 of 2026-03-01 as noted."), "{:?}", file.how);
    assert!(file.how.iter().any(|own| own.starts_with("By file: fetch it before the visit")), "{:?}", file.how);
    let hours = |from, to| Some(FirmwareUpdates::Schedule { hours: Hours { from, to } });
    let night = set(hours(3, 5), "");
    assert!(night.how.iter().any(|own| own.contains("between 3 and 5 h")), "{:?}", night.how);
    assert!(night.caution.is_empty(), "{}", night.caution);
    let evening = set(hours(20, 21), "");
    assert!(evening.caution.starts_with("Its hours are not quiet"), "{}", evening.caution);
}

#[test]
fn the_kits_own_report_answers_what_it_says_something_to_and_nothing_else() {
    let mut home = canal_terrace();
    for (index, device) in home.setups[2].devices.iter_mut().enumerate() {
        device.hardware_address = Some(format!("02:00:00:00:00:{index:02x}"));
    }
    let setup = home.setups[2].clone();
    let sheet = sheet_of(&home, "C");
    let find = |name: &str| setup.devices.iter().find(|own| own.name == name).unwrap();
    let address = |name: &str| find(name).hardware_address.clone().unwrap();
    let as_set = |name: &str| {
        let radio = |own: &RadioSetting| ReportedRadio {
            band: Some(own.band),
            channel: Some(own.channel),
            width_mhz: Some(own.width_mhz),
            networks: Vec::new(),
        };
        let up = find(name).uplink.as_ref();
        ReportedDevice {
            address: address(name),
            version: None,
            hangs_on: up.map(|up| setup.device(up.to).unwrap().hardware_address.clone().unwrap()),
            by_radio: up.map(|up| up.via.is_radio()),
            radios: find(name).radios.iter().filter(|own| own.on).map(radio).collect(),
        }
    };
    let told = |devices: &[ReportedDevice]| reported(&sheet, &setup, devices);
    let of = |answers: &[Reported], key: &str, name: &str| {
        let step = format!("{key} {}", find(name).id);
        answers.iter().find(|own| own.step == step).map(|own| own.outcome.clone())
    };
    let all = ["Front node", "Landing node", "Pottery point"].map(as_set);
    let (answers, left) = told(&all);
    assert!(left.is_empty() && answers.len() >= 5, "{answers:?} {left:?}");
    assert!(answers.iter().all(|own| own.outcome == TickOutcome::Seen), "{answers:?}");
    assert_eq!(of(&answers, "firmware seen", "Landing node"), None, "it says nothing of firmware");
    // Another channel, another parent, a wire that fell back to radio.
    let mut wrong = all.clone();
    wrong[0].radios[0].channel = wrong[0].radios[0].channel.map(|own| own + 1);
    wrong[1].hangs_on = Some(address("Pottery point"));
    wrong[2].by_radio = Some(true);
    let (answers, _) = told(&wrong);
    let ailing = [("channels seen", "Front node"), ("uplink seen", "Landing node"), ("uplink seen", "Pottery point")];
    for (key, name) in ailing {
        assert_eq!(of(&answers, key, name), Some(TickOutcome::NotSeen), "{key} {name}: {answers:?}");
    }
    assert!(answers.iter().any(|own| own.note == "It hangs on Pottery point, by radio."), "{answers:?}");
    // A guest network that is not on the air keeps guests out; where no names are told, nothing is said of it.
    let mut with_guests = home.clone();
    with_guests.setups[2].devices[0].guest_network = "Kiln guests".into();
    let guests = |names: &[&str]| {
        let mut devices = all.clone();
        devices[0].radios[0].networks = names.iter().map(ToString::to_string).collect();
        let (answers, _) = reported(&sheet_of(&with_guests, "C"), &with_guests.setups[2], &devices);
        answers.into_iter().find(|own| own.step == "guests apart").map(|own| own.outcome)
    };
    assert_eq!(guests(&["Kiln"]), Some(TickOutcome::NotSeen));
    assert_eq!((guests(&["Kiln", "Kiln guests"]), guests(&[])), (None, None));
    // What is not in it, and what nobody noted, is said.
    let (answers, left) = told(&all[..1]);
    assert_eq!(left, ["Landing node is not in the report.", "Pottery point is not in the report."]);
    assert_eq!(of(&answers, "uplink seen", "Landing node"), None);
    let nameless = canal_terrace().setups[2].clone();
    let (answers, left) = reported(&sheet, &nameless, &all);
    assert!(answers.is_empty() && left[0].starts_with("The report names devices by hardware address"), "{left:?}");
}

#[test]
fn what_hurts_stands_at_the_step_where_it_does() {
    let mut home = canal_terrace();
    home.brief.may_drill = false;
    let root = home.setups[1].devices[0].id;
    let node = &mut home.setups[1].devices[1];
    node.uplink = Some(Uplink::new(
        root,
        Via::PowerLine {
            class: PowerLineClass::Sold1000,
            length_m: Metres::new(18.0),
            circuit: Circuit::Other,
            strips: 1,
            noisy: false,
            reported_mbps: None,
        },
    ));
    node.at.height_m = Metres::new(2.4);
    let sheet = sheet_of(&home, "B");
    assert!(step(&sheet, "Plug the power-line pair").caution.contains("licensed electrician"));
    assert!(step(&sheet, "Put Landing node").caution.contains("ladder"));
    assert!(sheet.tools.iter().any(|own| own.contains("ladder")));
    let key = step(&sheet, "key of its own");
    assert_eq!(key.stage, Stage::Table, "both ends lie in one hand there");
}

#[test]
fn two_that_hand_out_addresses_are_found_before_anything_is_begun() {
    let mut home = canal_terrace();
    home.setups[2].devices[2].mode = Mode::Router;
    let sheet = sheet_of(&home, "C");
    assert!(sheet.first.iter().any(|own| own.contains("Front node and Pottery point would each hand out addresses")));
}

#[test]
fn the_old_router_is_bridged_or_not_as_the_brief_has_it_and_what_stays_is_not_old() {
    let mut home = canal_terrace();
    let told = |home: &Home| step(&sheet_of(home, "B"), "Switch the Wi-Fi of the old Router off").how.join(" ");
    assert!(told(&home).contains("is not noted"));
    home.brief.router.can_bridge = Some(true);
    assert!(told(&home).contains("bridge mode"));
    home.brief.router.can_bridge = Some(false);
    assert!(told(&home).contains("can't be bridged"));
    // A router that is carried to another place is not old, and keeps its Wi-Fi.
    let mut carried = canal_terrace();
    carried.setups[1].devices[0].kit = carried.setups[0].devices[0].kit.clone();
    carried.setups[1].devices[0].there_already = true;
    carried.setups[1].devices[0].at.x_m = Metres::new(2.0);
    assert!(sheet_of(&carried, "B").steps.iter().all(|own| own.stage != Stage::Old));
    // Fitting what is in force already leaves nothing old.
    home.in_force = Some(SetupId::named("B"));
    assert!(sheet_of(&home, "B").steps.iter().all(|own| own.stage != Stage::Old || !own.what.contains("Landing")));
    let own = sheet_of(&home, "A");
    assert!(own.steps.iter().any(|own| own.what == "Switch the Wi-Fi of the old Landing node off"));
}

#[test]
fn guests_and_each_of_the_familys_things_are_called() {
    let mut home = canal_terrace();
    home.brief.wants.push(Want::GuestNetwork);
    let device = |name: &str, count| FamilyDevice {
        id: FamilyDeviceId::named(name),
        name: name.to_owned(),
        class: "phone_ac".into(),
        count,
        fixed: false,
        room_id: None,
    };
    home.brief.devices = vec![device("old printer", 1), device("phones", 3)];
    let sheet = sheet_of(&home, "B");
    assert!(step(&sheet, "Set the guest network up").how.iter().any(|own| own.contains("code")));
    assert_eq!(step(&sheet, "A guest reaches the internet").kind, StepKind::Look);
    let called: Vec<&SheetStep> = sheet.steps.iter().filter(|own| own.kind == StepKind::Join).collect();
    assert_eq!(called.len(), 4);
    assert_eq!(called[1].what, "phones (1 of 3) has joined");
}

#[test]
fn in_any_home_steps_have_names_of_their_own_and_no_step_is_empty() {
    for number in 0..60 {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        for setup in &home.setups {
            let sheet = sheet(&home, setup, &plan);
            let keys: HashSet<&str> = sheet.steps.iter().map(|own| own.key.as_str()).collect();
            assert_eq!(keys.len(), sheet.steps.len(), "home {number}: two steps of one name");
            assert!(
                sheet.steps.iter().all(|own| !own.what.trim().is_empty() && own.how.iter().all(|how| !how.is_empty()))
            );
            assert!(sheet.steps.iter().all(|own| own.key.chars().count() <= 160));
        }
    }
}

#[test]
fn steps_keep_their_names_when_something_else_changes() {
    let mut home = canal_terrace();
    let before: HashSet<String> = sheet_of(&home, "C").steps.into_iter().map(|own| own.key).collect();
    home.setups[2].devices[1].radios[0].channel = 11;
    home.setups[2].devices[1].name = "Stair node".into();
    home.brief.wants.push(Want::GuestNetwork);
    let after: HashSet<String> = sheet_of(&home, "C").steps.into_iter().map(|own| own.key).collect();
    assert!(before.is_subset(&after), "{:?}", before.difference(&after));
    // A cable in place of radio is other work.
    home.setups[2].devices[1].uplink = Some(Uplink::new(home.setups[2].devices[0].id, Via::cable(CableClass::Cat6)));
    let wired: HashSet<String> = sheet_of(&home, "C").steps.into_iter().map(|own| own.key).collect();
    let gone: Vec<&String> = after.difference(&wired).collect();
    assert!(gone.iter().all(|own| own.starts_with("pair ")), "{gone:?}");
}

#[test]
fn the_report_tells_what_was_not_done_and_why() {
    let home = canal_terrace();
    let sheet = sheet_of(&home, "B");
    let tick = |what: &str, outcome: TickOutcome, second: i64| Tick {
        setup_id: SetupId::named("B"),
        step: step(&sheet, what).key.clone(),
        outcome,
        at: Timestamp::from_second(1_795_000_000 + second).unwrap(),
        by: String::new(),
        note: String::new(),
    };
    let nothing = report(&sheet, &[]);
    assert_eq!((nothing.answered, nothing.not_done.len()), (0, sheet.steps.len()));
    assert!(!nothing.complete && nothing.told.starts_with("Nothing of"));

    let mut ticks: Vec<Tick> = sheet
        .steps
        .iter()
        .map(|own| Tick {
            step: own.key.clone(),
            outcome: if own.kind == StepKind::Look { TickOutcome::Seen } else { TickOutcome::Done },
            ..tick("Label Router", TickOutcome::Done, 0)
        })
        .collect();
    let all = report(&sheet, &ticks);
    assert!(all.complete && all.not_done.is_empty(), "{:?}", all.not_done);
    assert!(all.told.ends_with("none open; all as it should be."), "{}", all.told);

    let skipped = TickOutcome::Skipped { because: "kiln day, nothing off".into() };
    ticks.push(tick("Switch the Wi-Fi of the old Router off", skipped, 5));
    ticks.push(Tick {
        note: "still on 2.4 GHz".into(),
        ..tick("Nothing of the old Router is on the air", TickOutcome::NotSeen, 6)
    });
    ticks.push(tick("All that the family has", TickOutcome::Straggles { why: Straggling::OldName }, 7));
    // What is no longer in the sheet counts for nothing.
    ticks.push(Tick { step: format!("place {}", DeviceId::named("gone")), ..ticks[0].clone() });
    let left = report(&sheet, &ticks);
    assert_eq!(left.not_done.len(), 3, "{:?}", left.not_done);
    assert!(left.not_done[0].ends_with("because kiln day, nothing off."), "{:?}", left.not_done);
    assert!(left.not_done[1].starts_with("Not so: ") && left.not_done[1].contains("still on 2.4 GHz"));
    assert!(left.not_done[2].contains("old network's name"));
    assert!(left.told.contains("none open; 3 answered with something left to say"), "{}", left.told);
    // The newest word counts, in whatever order it came.
    ticks.insert(0, tick("Switch the Wi-Fi of the old Router off", TickOutcome::Done, 60));
    assert_eq!(report(&sheet, &ticks).not_done.len(), 2);
}
