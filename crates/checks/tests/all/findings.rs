//! Each rule both ways: found where somebody made the mistake, silent where nobody did.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Activity, AddressRange, CableClass, Circuit, Device, DeviceId, Doors, FamilyDevice, Firmware, Home, Level, Mode,
    Neighbour, NeighbourId, PowerLineClass, SetupId, Situation, Steering, Tenure, TestKind, Uplink, UseId, Via,
};
use busy_hen_job::findings::{Finding, Rule, findings};
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::{Dbm, MbitPerSec, Megahertz, Metres};
use jiff::civil::date;

fn question() -> Question {
    let client = clients::find("phone_ax").unwrap();
    let day = date(2026, 11, 1);
    Question { client, band: None, situation: Situation::Alone, doors: Doors::AsLeft, reach: TestKind::Internet, day }
}

/// What is found in the terrace's dual-band pair after a change.
fn found(change: impl FnOnce(&mut Home)) -> Vec<Finding> {
    let mut home = busy_hen_demo::canal_terrace();
    home.setups.retain(|setup| setup.id == SetupId::named("B"));
    change(&mut home);
    let plan = Plan::new(&home.house, home.units);
    findings(&home, &home.setups[0], &plan, question(), &Knowledge::default())
}

fn has(list: &[Finding], rule: Rule) -> bool {
    list.iter().any(|own| own.rule == rule)
}

fn cabled(home: &mut Home) {
    let to = home.setups[0].devices[0].id;
    let node = &mut home.setups[0].devices[1];
    node.mode = Mode::AccessPoint;
    node.uplink = Some(Uplink::new(to, Via::cable(CableClass::Cat6)));
    node.radios[0].channel = 11;
    node.radios[1].channel = 149;
    node.radios[1].width_mhz = Megahertz::new(80.0);
}

/// The second device as an access point on the router's port, which feeds it with as much as it needs.
fn on_a_feeding_port(home: &mut Home) {
    cabled(home);
    let mut router = (**busy_hen_catalogue::kit::find("node_ax_dual").unwrap()).clone();
    router.key = "feeding".into();
    (router.facts.feeding_ports, router.facts.feeds_w) = (1, Some(busy_hen_units::Watts::new(16.0)));
    home.own_kit.push(router);
    home.setups[0].devices[0].kit = "feeding".into();
    home.setups[0].devices[1].kit = "ap_ax".into();
}

fn on_mains(home: &mut Home, class: PowerLineClass, circuit: Circuit, strips: u8, noisy: bool) {
    cabled(home);
    let to = home.setups[0].devices[0].id;
    let via = Via::PowerLine { class, length_m: Metres::new(20.0), circuit, strips, noisy, reported_mbps: None };
    home.setups[0].devices[1].uplink = Some(Uplink::new(to, via));
}

fn on_coax(home: &mut Home, splitters: u8) {
    cabled(home);
    let to = home.setups[0].devices[0].id;
    home.brief.plans[1].down_mbps = MbitPerSec::new(900.0);
    let via = Via::Coax { length_m: Metres::new(90.0), splitters, port_mbps: MbitPerSec::new(1000.0) };
    home.setups[0].devices[1].uplink = Some(Uplink::new(to, via));
}

/// A third device like the second, a little further on.
fn third(home: &mut Home, change: impl FnOnce(&mut Device)) {
    let devices = &mut home.setups[0].devices;
    let mut more = devices[1].clone();
    more.id = DeviceId::named("third");
    more.name = "Third".into();
    more.at.x_m += Metres::new(-1.5);
    change(&mut more);
    devices.push(more);
}

fn neighbour(channel: u16, band: busy_hen_home::Band, busy_part: f64) -> Neighbour {
    Neighbour {
        id: NeighbourId::named("loud"),
        band,
        channel,
        width_mhz: Megahertz::new(if band == busy_hen_home::Band::Ghz2_4 { 20.0 } else { 80.0 }),
        signal_dbm: Dbm::new(-60.0),
        busy_part,
    }
}

type Change = fn(&mut Home);

/// For each rule what makes the mistake, and what does not.
const CASES: &[(Rule, Change, Change)] = &[
    (
        Rule::MetalCabinet,
        |home| home.setups[0].devices[0].enclosure = busy_hen_home::Enclosure::MetalCabinet,
        |home| {
            home.setups[0].devices[0].enclosure = busy_hen_home::Enclosure::MetalCabinet;
            home.setups[0].devices[0].radios.iter_mut().for_each(|radio| radio.on = false);
        },
    ),
    (Rule::Cupboard, |home| home.setups[0].devices[1].enclosure = busy_hen_home::Enclosure::Cupboard, |_| {}),
    (Rule::DoubleTranslation, |home| home.setups[0].devices[1].mode = Mode::Router, |_| {}),
    (
        Rule::RepeaterChain,
        |home| {
            home.setups[0].devices[1].mode = Mode::Repeater;
            let to = home.setups[0].devices[1].id;
            third(home, |own| own.uplink.iter_mut().for_each(|up| up.to = to));
        },
        |home| {
            home.setups[0].devices[1].mode = Mode::Repeater;
            third(home, |_| {});
        },
    ),
    (Rule::DeadHop, |home| home.setups[0].devices[0].radios[1].on = false, |_| {}),
    (
        Rule::DeadHop,
        |home| {
            let pottery = home.house.rooms.iter().find(|room| room.name == "Pottery").unwrap().level_id;
            let node = &mut home.setups[0].devices[1];
            (node.at.level_id, node.at.x_m, node.at.y_m) = (pottery, Metres::new(3.0), Metres::new(31.0));
        },
        cabled,
    ),
    (
        Rule::WeakHop,
        |home| {
            let attic = home.house.levels[2].id;
            let node = &mut home.setups[0].devices[1];
            (node.at.level_id, node.at.y_m) = (attic, Metres::new(6.5));
            let mut busy = home.brief.uses[0].clone();
            (busy.id, busy.people, busy.activity) = (UseId::random(), 40, Activity::UhdFilm);
            busy.room_id = home.house.rooms.iter().find(|room| room.name == "Box room").unwrap().id;
            home.brief.uses.push(busy);
        },
        |_| {},
    ),
    (Rule::SharedBackhaul, |home| home.brief.plans[1].down_mbps = MbitPerSec::new(900.0), cabled),
    (
        Rule::SlowBandHop,
        |home| home.setups[0].devices[1].uplink.iter_mut().for_each(|up| up.via = Via::Radio { radio: 0 }),
        |_| {},
    ),
    (
        Rule::Wasted,
        |home| {
            let at = home.setups[0].devices[0].at;
            third(home, |own| own.at = busy_hen_home::Position { x_m: at.x_m + Metres::new(0.5), ..at });
        },
        |_| {},
    ),
    (
        Rule::OldWifiOn,
        |home| {
            cabled(home);
            home.setups[0].devices[0].kit = "router_ac".into();
            let at = home.setups[0].devices[0].at;
            home.setups[0].devices[1].at = busy_hen_home::Position { x_m: at.x_m + Metres::new(0.6), ..at };
        },
        cabled,
    ),
    (
        Rule::OneChannel,
        |home| {
            cabled(home);
            home.setups[0].devices[1].radios[1].channel = 36;
        },
        cabled,
    ),
    (
        Rule::IndoorChannelOutdoors,
        |home| home.setups[0].devices[0].at.y_m = Metres::new(15.0),
        |home| home.setups[0].devices[0].at.y_m = Metres::new(1.0),
    ),
    (Rule::RadarBound, |home| home.setups[0].devices[0].radios[1].channel = 100, |_| {}),
    (Rule::WideIn2_4, |home| home.setups[0].devices[0].radios[0].width_mhz = Megahertz::new(40.0), |_| {}),
    (Rule::BetweenChannels, |home| home.setups[0].devices[0].radios[0].channel = 3, |_| {}),
    (Rule::BusyChannel, |home| home.air = vec![neighbour(36, busy_hen_home::Band::Ghz5, 0.6)], |home| home.air.clear()),
    (
        Rule::NarrowChannel,
        |home| {
            home.brief.plans[1].down_mbps = MbitPerSec::new(900.0);
            home.setups[0].devices[0].radios[1].width_mhz = Megahertz::new(20.0);
            home.setups[0].devices[1].radios[1].width_mhz = Megahertz::new(20.0);
        },
        |_| {},
    ),
    (
        Rule::RadioOff,
        |home| {
            cabled(home);
            home.setups[0].devices[1].radios[1].on = false;
        },
        cabled,
    ),
    (
        Rule::NothingServes,
        |home| home.setups[0].devices.iter_mut().flat_map(|own| &mut own.radios).for_each(|radio| radio.serves = false),
        |_| {},
    ),
    (Rule::SlowPort, |home| home.brief.plans[1].down_mbps = MbitPerSec::new(2000.0), |_| {}),
    (
        Rule::OldCable,
        |home| {
            cabled(home);
            let to = home.setups[0].devices[0].id;
            home.setups[0].devices[1].uplink = Some(Uplink::new(to, Via::cable(CableClass::Cat5)));
        },
        cabled,
    ),
    (
        Rule::PowerStrip,
        |home| on_mains(home, PowerLineClass::Sold1000, Circuit::Same, 1, false),
        |home| on_mains(home, PowerLineClass::Sold1000, Circuit::Same, 0, false),
    ),
    (
        Rule::NoisyOutlet,
        |home| on_mains(home, PowerLineClass::Sold500, Circuit::Other, 0, true),
        |home| on_mains(home, PowerLineClass::Sold1000, Circuit::Same, 0, false),
    ),
    (Rule::PowerLineUnderPlan, |home| on_mains(home, PowerLineClass::Sold200, Circuit::Other, 0, false), cabled),
    (
        Rule::OtherBoard,
        |home| on_mains(home, PowerLineClass::Sold1000, Circuit::OtherBoard, 0, false),
        |home| on_mains(home, PowerLineClass::Sold1000, Circuit::Other, 0, false),
    ),
    (Rule::Splitters, |home| on_coax(home, 10), |home| on_coax(home, 1)),
    (Rule::NotGuided, |home| home.setups[0].steering = Steering::OneName, |_| {}),
    (
        Rule::MixedKit,
        |home| home.setups[0].devices[0].kit = "router_ax".into(),
        |home| home.setups[0].devices[0].kit = "node_ax_dual4".into(),
    ),
    (
        Rule::NoWay,
        |home| {
            cabled(home);
            home.setups[0].devices[1].at.x_m = Metres::new(-9.0);
        },
        cabled,
    ),
    (
        Rule::CableTooLong,
        |home| {
            cabled(home);
            let ground = &mut home.house.levels[0].lines;
            *ground = ground.replace("Garden 4.8 x 15", "Garden 4.8 x 95");
            let node = &mut home.setups[0].devices[1];
            (node.at.level_id, node.at.x_m, node.at.y_m) =
                (home.house.levels[0].id, Metres::new(2.0), Metres::new(100.0));
        },
        cabled,
    ),
    (
        Rule::LooseCable,
        |home| {
            cabled(home);
            let via = Via::Cable { class: CableClass::Cat6, loose: true, riser: None };
            home.setups[0].devices[1].uplink.iter_mut().for_each(|up| up.via = via.clone());
        },
        cabled,
    ),
    (
        Rule::NoFreePort,
        |home| {
            cabled(home);
            home.setups[0].devices[1].uplink.iter_mut().for_each(|up| up.port = Some(3));
        },
        cabled,
    ),
    (
        Rule::TooLittlePower,
        |home| {
            on_a_feeding_port(home);
            home.own_kit[0].facts.feeds_w = Some(busy_hen_units::Watts::new(10.0));
        },
        on_a_feeding_port,
    ),
    (
        Rule::NotForOutdoors,
        |home| {
            let node = &mut home.setups[0].devices[1];
            (node.at.level_id, node.at.y_m) = (home.house.levels[0].id, Metres::new(15.0));
        },
        |_| {},
    ),
    (
        Rule::MustLacking,
        |home| home.brief.wants = vec![busy_hen_home::Want::OwnVpn],
        |home| home.brief.wants = vec![busy_hen_home::Want::GuestNetwork],
    ),
    (
        Rule::MustForAFee,
        |home| home.brief.wants = vec![busy_hen_home::Want::ChildRules],
        |home| home.brief.wants = vec![busy_hen_home::Want::Schedules],
    ),
    (Rule::OverBudget, |home| home.brief.budget = Some(100.0), |home| home.brief.budget = Some(200.0)),
    (
        Rule::HotInside,
        |home| {
            home.setups[0].devices[0].kit = "router_be".into();
            home.setups[0].devices[0].enclosure = busy_hen_home::Enclosure::Cupboard;
        },
        |home| home.setups[0].devices[0].enclosure = busy_hen_home::Enclosure::Cupboard,
    ),
    (Rule::WontPair, |home| home.setups[0].devices[0].kit = "router_ax".into(), |_| {}),
    (Rule::NewerBehindOlder, |home| home.setups[0].devices[0].kit = "node_ac_dual".into(), |_| {}),
    (
        Rule::SinglePoint,
        |home| {
            let to = home.setups[0].devices[1].id;
            third(home, |own| own.uplink.iter_mut().for_each(|up| up.to = to));
            third(home, |own| {
                own.id = DeviceId::named("fourth");
                own.at.y_m += Metres::new(-1.5);
                own.uplink.iter_mut().for_each(|up| up.to = to);
            });
        },
        |home| third(home, |_| {}),
    ),
    (
        Rule::FixedOnAir,
        |home| {
            let room_id = home.house.rooms.iter().find(|room| room.name == "Front room").map(|room| room.id);
            home.brief.devices.push(FamilyDevice {
                id: busy_hen_home::FamilyDeviceId::random(),
                name: "TV".into(),
                class: "phone_ac".into(),
                count: 1,
                fixed: true,
                room_id,
            });
        },
        |_| {},
    ),
    (
        Rule::BeyondPlan,
        |home| home.brief.plans.iter_mut().for_each(|plan| plan.down_mbps = MbitPerSec::new(10.0)),
        |_| {},
    ),
    (Rule::LongQueue, |_| {}, |home| home.setups[0].devices[0].managed_queue = true),
    (
        Rule::AwayFromEntry,
        |home| home.setups[0].devices[0].at.y_m = Metres::new(7.5),
        |home| home.setups[0].devices[0].at.y_m = Metres::new(1.0),
    ),
    (
        Rule::NoOutlet,
        |home| {
            home.setups[0].devices[0].at.y_m = Metres::new(3.5);
            home.setups[0].devices[0].at.x_m = Metres::new(1.2);
        },
        |home| home.setups[0].devices[0].at.y_m = Metres::new(0.5),
    ),
    (
        Rule::MayNotDrill,
        |home| {
            // Through the floor of the front room instead of up the stairs.
            cabled(home);
            let riser = home.house.rooms.iter().find(|room| room.name == "Front room").map(|room| room.id);
            let via = Via::Cable { class: CableClass::Cat6, loose: false, riser };
            home.setups[0].devices[1].uplink.iter_mut().for_each(|up| up.via = via.clone());
            home.brief.tenure = Tenure::Rented;
        },
        |home| {
            cabled(home);
            home.brief.tenure = Tenure::Rented;
        },
    ),
    (
        Rule::FirmwareBehind,
        |home| {
            for (index, month) in [3, 8].into_iter().enumerate() {
                home.setups[0].devices[index].firmware =
                    Some(Firmware { version: format!("1.{month}"), from: Some(date(2026, month, 1)), updates: None });
            }
        },
        |home| {
            home.setups[0].devices[0].firmware =
                Some(Firmware { version: "1.3".into(), from: Some(date(2026, 3, 1)), updates: None });
        },
    ),
    (
        Rule::TwoAddressServers,
        |home| {
            home.setups[0].devices[0].hands_out = range("192.168.1.100", "192.168.1.199");
            home.setups[0].devices[1].hands_out = range("192.168.1.200", "192.168.1.220");
        },
        |home| home.setups[0].devices[0].hands_out = range("192.168.1.100", "192.168.1.199"),
    ),
    (
        Rule::AddressClash,
        |home| {
            home.setups[0].devices[0].hands_out = range("192.168.1.100", "192.168.1.199");
            home.setups[0].devices[1].settings_address = "192.168.1.150:8080".into();
        },
        |home| {
            home.setups[0].devices[0].hands_out = range("192.168.1.100", "192.168.1.199");
            home.setups[0].devices[0].settings_address = "192.168.1.1".into();
            home.setups[0].devices[1].settings_address = "192.168.1.2".into();
        },
    ),
];

fn range(from: &str, to: &str) -> Option<AddressRange> {
    Some(AddressRange { from: from.parse().unwrap(), to: to.parse().unwrap() })
}

#[test]
fn routers_one_behind_the_other_may_both_hand_out_addresses_from_ranges_apart() {
    let two = |from: &str, to: &str| {
        let (from, to) = (from.to_owned(), to.to_owned());
        let all = found(move |home: &mut Home| {
            let devices = &mut home.setups[0].devices;
            devices[1].mode = Mode::Router;
            devices[0].hands_out = range("192.168.1.100", "192.168.1.199");
            devices[1].hands_out = range(&from, &to);
        });
        all.into_iter().find(|own| own.rule == Rule::TwoAddressServers).map(|own| own.what)
    };
    let what = two("192.168.1.150", "192.168.1.250").expect("they overlap");
    assert!(what.contains("overlap"), "{what}");
    assert_eq!(two("192.168.2.100", "192.168.2.199"), None);
}

#[test]
fn each_rule_is_found_where_the_mistake_was_made_and_nowhere_else() {
    let missed = CASES.iter().filter(|(rule, wrong, _)| !has(&found(wrong), *rule)).map(|own| own.0);
    assert_eq!(missed.collect::<Vec<_>>(), [], "not found where it should be");
    let idle = CASES.iter().filter(|(rule, _, right)| has(&found(right), *rule)).map(|own| own.0);
    assert_eq!(idle.collect::<Vec<_>>(), [], "told without reason");
}

#[test]
fn every_rule_has_its_case_and_its_reason() {
    for rule in Rule::ALL {
        assert!(CASES.iter().any(|(own, ..)| own == rule), "{rule:?} is not tried");
        assert!(rule.why().ends_with('.'), "{rule:?}");
    }
    assert!(Rule::ALL.len() >= 25, "{}", Rule::ALL.len());
}

/// What a fix promises is what the rooms get once it is done, and the mistake is gone then.
#[test]
fn a_fix_does_what_it_promises() {
    for (rule, wrong, _) in CASES {
        let mut home = busy_hen_demo::canal_terrace();
        home.setups.retain(|setup| setup.id == SetupId::named("B"));
        wrong(&mut home);
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        let before = findings(&home, &home.setups[0], &plan, question(), &kept);
        let own = before.iter().find(|own| own.rule == *rule).unwrap();
        let Some(mended) = &own.mended else { continue };
        assert!(own.fix.is_some() && own.gain.is_some());
        assert_ne!(*mended, home.setups[0], "{rule:?} mends nothing");
        let after = findings(&home, mended, &plan, question(), &kept);
        let still = after.iter().find(|other| other.rule == *rule && other.device_id == own.device_id);
        // Half-way is nearer, which need not be near enough.
        let moved = matches!(rule, Rule::WeakHop | Rule::DeadHop);
        assert!(moved || still.is_none(), "{rule:?} is still there");
        let model = Model::new(&home, mended, &plan, question(), &kept);
        for room in &own.rooms {
            let there = plan.room(room.room_id).unwrap();
            let got = model.at(plan.middle_of(there), Some(there.id)).down.middle;
            assert!(
                (got.get() - room.then_mbps.get()).abs() < 1e-6,
                "{rule:?} in {}: {got} and {}",
                room.name,
                room.then_mbps
            );
        }
    }
}

#[test]
fn what_costs_the_family_most_comes_first() {
    let list = found(|home| {
        home.setups[0].devices[0].radios[1].on = false;
        home.setups[0].devices[0].radios[0].channel = 3;
    });
    assert!(list.windows(2).all(|pair| pair[0].cost >= pair[1].cost));
    let place = |rule: Rule| list.iter().position(|own| own.rule == rule).unwrap();
    assert!(place(Rule::DeadHop) < place(Rule::BetweenChannels));
}

#[test]
fn an_empty_setup_and_a_home_without_a_plan_are_looked_at_without_trouble() {
    let list = found(|home| home.setups[0].devices.clear());
    assert!(list.iter().all(|own| own.device_id.is_none()), "{list:?}");
    found(|home| home.brief.plans.clear());
    found(|home| home.house.levels = Vec::<Level>::new());
}

#[test]
fn what_is_put_aside_comes_last_with_its_reason() {
    let aside = |home: &mut Home| {
        home.setups[0].put_aside.push(busy_hen_home::PutAside {
            rule: Rule::LongQueue.key(),
            device_id: None,
            because: "the family does not call".into(),
        });
        home.brief.plans.iter_mut().for_each(|plan| plan.down_mbps = MbitPerSec::new(10.0));
    };
    let before = found(|home| home.brief.plans.iter_mut().for_each(|plan| plan.down_mbps = MbitPerSec::new(10.0)));
    let device_id = before.iter().find(|own| own.rule == Rule::LongQueue).unwrap().device_id;
    let list = found(|home| {
        aside(home);
        home.setups[0].put_aside[0].device_id = device_id;
    });
    let last = list.last().unwrap();
    assert_eq!((last.rule, last.put_aside.as_deref()), (Rule::LongQueue, Some("the family does not call")));
    assert_eq!(list.len(), before.len());
}

#[test]
fn a_rule_is_named_as_the_interface_names_it() {
    for rule in Rule::ALL {
        use serde::Deserialize;
        use serde::de::value::{Error, StrDeserializer};
        let key = rule.key();
        assert_eq!(Rule::deserialize(StrDeserializer::<Error>::new(&key)), Ok(*rule), "{key}");
    }
}
