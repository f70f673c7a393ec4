//! Setups resolved into networks: which radios meet, what narrows a hop, who shares the air, and what a client joins.
#![allow(clippy::unwrap_used)] // also in what tests share

use busy_hen_engine::catalogue::{clients, kit};
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::path::network::{Direction, HopKind, Others, Part};
use busy_hen_engine::path::{LinkTables, Network};
use busy_hen_engine::predict::{Kept, Model, Question};
use busy_hen_engine::propagation::AllWaves;
use busy_hen_engine::spectrum::region;
use busy_hen_home::{
    Aerial, Band, CableClass, Device, DeviceId, Doors, Enclosure, Home, LengthUnit, Level, LevelId, Mode, Position,
    Setup, SetupId, Situation, TestKind, Uplink, Via,
};
use busy_hen_units::{Db, MbitPerSec, Megahertz, Metres};
use jiff::civil::date;

/// A long corridor of a home with a device every few metres.
fn home(devices: Vec<Device>) -> Home {
    let mut home = Home::new("Rope walk", "GB", LengthUnit::Metre);
    home.house.levels = vec![Level {
        id: LevelId::named("ground"),
        name: "Ground".into(),
        height_m: Metres::new(3.0),
        floor: "timber_floor".into(),
        lines: "Rope walk 40 x 4".into(),
    }];
    home.setups = vec![Setup::new(SetupId::named("A"), "A", "A", devices)];
    home
}

fn device(name: &str, kit_key: &str, mode: Mode, x: f64, uplink: Option<(&str, Via)>) -> Device {
    Device {
        id: DeviceId::named(name),
        name: name.into(),
        kit: kit_key.into(),
        mode,
        at: Position {
            level_id: LevelId::named("ground"),
            x_m: Metres::new(x),
            y_m: Metres::new(2.0),
            height_m: Metres::new(1.2),
        },
        enclosure: Enclosure::Open,
        aerial: Aerial::BuiltIn,
        managed_queue: false,
        radios: kit::find(kit_key).unwrap().radio_settings(region::find("GB").unwrap()),
        uplink: uplink.map(|(to, via)| Uplink { to: DeviceId::named(to), via }),
    }
}

fn cable(class: CableClass) -> Via {
    Via::Cable { class }
}

fn network(home: &Home, reach: TestKind) -> Network {
    let plan = Plan::new(&home.house, home.units);
    let waves = AllWaves::new(&plan, Doors::AsLeft);
    Network::new(home, &home.setups[0], &waves, date(2026, 11, 1), reach, &LinkTables::default())
}

fn question(reach: TestKind) -> Question {
    Question {
        client: clients::find("laptop_ax").unwrap(),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach,
        day: date(2026, 11, 1),
    }
}

/// What a laptop gets this far down the corridor, and what serves it.
fn at(home: &Home, x: f64) -> (f64, Option<DeviceId>) {
    let plan = Plan::new(&home.house, home.units);
    let tables = Kept::default();
    let model = Model::new(home, &home.setups[0], &plan, question(TestKind::Local), &tables);
    let got = model.at(plan.in_hand(0, x, 2.0), None);
    (got.down.middle.get(), got.served.map(|served| served.device))
}

#[test]
fn the_narrowest_of_two_ports_and_a_cable_is_named() {
    for (class, kit_key, goodput, words) in [
        (CableClass::Cat6, "ap_ax", 941.5, "the port upstream"),
        (CableClass::Cat5, "ap_ax", 94.1, "Cat 5 or unmarked cable"),
        (CableClass::Cat6, "repeater_ac", 94.1, "its own port"),
    ] {
        let home = home(vec![
            device("R", "router_ax", Mode::Router, 1.0, None),
            device("A", kit_key, Mode::AccessPoint, 20.0, Some(("R", cable(class)))),
        ]);
        let network = network(&home, TestKind::Local);
        let Some(HopKind::Wired { goodput: got, narrowest, .. }) =
            network.nodes[1].uplink.as_ref().map(|hop| &hop.kind)
        else {
            panic!("a wired hop");
        };
        assert!((got.get() - goodput).abs() < 0.1, "{got}");
        assert_eq!(narrowest, words);
    }
}

#[test]
fn a_radio_that_carries_the_uplink_works_on_the_channel_upstream() {
    let mut node = device("N", "node_ax_dual", Mode::MeshNode, 10.0, Some(("R", Via::Radio { radio: 1 })));
    node.radios[1].channel = 149;
    let home = home(vec![device("R", "router_ax", Mode::Router, 1.0, None), node]);
    let network = network(&home, TestKind::Local);
    assert_eq!(network.nodes[1].radios[1].block, network.nodes[0].radios[1].block);
}

#[test]
fn a_node_prefers_the_radio_upstream_that_is_kept_for_backhaul() {
    let home = home(vec![
        device("R", "node_ax_tri", Mode::Router, 1.0, None),
        device("N", "node_ax_tri", Mode::MeshNode, 10.0, Some(("R", Via::Radio { radio: 2 }))),
    ]);
    let network = network(&home, TestKind::Local);
    let Some(HopKind::Radio { block, shared, .. }) = network.nodes[1].uplink.as_ref().map(|hop| &hop.kind) else {
        panic!("a radio hop");
    };
    assert!((block.width.get() - 160.0).abs() < 1e-9);
    assert!(!shared);
}

#[test]
fn hops_on_one_channel_share_it_and_a_plain_repeater_loses_a_tenth_more() {
    let arrives = |mode: Mode, kit_key: &str| {
        let home = home(vec![
            device("R", "router_ac", Mode::Router, 1.0, None),
            device("N", kit_key, mode, 12.0, Some(("R", Via::Radio { radio: 1 }))),
        ]);
        let network = network(&home, TestKind::Local);
        let tables = LinkTables::default();
        let accesses = network.accesses(clients::find("laptop_ax").unwrap(), Some(Band::Ghz5), &tables);
        let access = accesses.iter().find(|access| access.node == 1).unwrap();
        let hop = network.hop_goodput(1, Direction::Down, Db::new(0.0), false).get();
        let flow = network.flow(access, Direction::Down, Db::new(0.0), &Others::default(), &[]);
        (flow.arrives(MbitPerSec::new(300.0)).get(), 1.0 / (1.0 / hop + 1.0 / 300.0))
    };
    let (mesh, shared) = arrives(Mode::MeshNode, "node_ax_dual");
    assert!((mesh - shared).abs() < 1e-6, "{mesh} is not {shared}");
    let (repeated, shared) = arrives(Mode::Repeater, "repeater_ac");
    assert!((repeated - 0.9 * shared).abs() < 1e-6, "{repeated} is not 0.9 x {shared}");
}

/// Common practice: about half is left after a repeat on one radio.
#[test]
fn common_practice_half_is_left_after_one_repeat_of_equal_hops() {
    let home = home(vec![
        device("R", "router_ac", Mode::Router, 1.0, None),
        device("N", "node_ax_dual", Mode::MeshNode, 3.0, Some(("R", Via::Radio { radio: 1 }))),
    ]);
    let network = network(&home, TestKind::Local);
    let tables = LinkTables::default();
    let accesses = network.accesses(clients::find("laptop_ax").unwrap(), Some(Band::Ghz5), &tables);
    let access = accesses.iter().find(|access| access.node == 1).unwrap();
    let hop = network.hop_goodput(1, Direction::Down, Db::new(0.0), false);
    let left = network.flow(access, Direction::Down, Db::new(0.0), &Others::default(), &[]).arrives(hop);
    assert!((left.get() / hop.get() - 0.5).abs() < 0.01, "{left} of {hop}");
}

#[test]
fn mending_a_part_never_lowers_what_arrives() {
    let home = home(vec![
        device("R", "router_ac", Mode::Router, 1.0, None),
        device("N", "node_ax_dual", Mode::MeshNode, 15.0, Some(("R", Via::Radio { radio: 1 }))),
    ]);
    let network = network(&home, TestKind::Local);
    let tables = LinkTables::default();
    for access in network.accesses(clients::find("phone_ac").unwrap(), None, &tables) {
        let arrives = |mended: &[Part]| {
            let flow = network.flow(&access, Direction::Down, Db::new(0.0), &Others::default(), mended);
            flow.arrives(MbitPerSec::new(200.0)).get()
        };
        for part in [Part::Plan, Part::Port, Part::Hop(1), Part::Sharing] {
            assert!(arrives(&[part]) >= arrives(&[]) - 1e-9, "{part:?}");
        }
    }
}

#[test]
fn two_nodes_in_a_chain_share_one_channel_three_ways() {
    let via = || Via::Radio { radio: 1 };
    let chain = home(vec![
        device("R", "node_ax_dual", Mode::Router, 1.0, None),
        device("N", "node_ax_dual", Mode::MeshNode, 12.0, Some(("R", via()))),
        device("M", "node_ax_dual", Mode::MeshNode, 24.0, Some(("N", via()))),
    ]);
    let one_hop = at(&chain, 13.0).0;
    let two_hops = at(&chain, 25.0).0;
    assert!(two_hops < 0.75 * one_hop, "{two_hops} after two hops, {one_hop} after one");
}

#[test]
fn an_internet_test_goes_through_the_plan_and_a_local_one_does_not() {
    let mut home = home(vec![device("R", "router_ax", Mode::Router, 1.0, None)]);
    home.brief.plans = busy_hen_demo::canal_terrace().brief.plans;
    let internet = network(&home, TestKind::Internet);
    assert!((internet.plan_cap(Direction::Down).unwrap().get() - 300.0).abs() < 1e-9);
    assert!((internet.plan_cap(Direction::Up).unwrap().get() - 40.0).abs() < 1e-9);
    assert_eq!(network(&home, TestKind::Local).plan_cap(Direction::Down), None);
}

#[test]
fn a_client_joins_what_promises_most_over_the_air_however_poor_the_hops_behind() {
    let mut clinging = home(vec![
        device("R", "router_ax", Mode::Router, 1.0, None),
        device("N", "node_ax_dual", Mode::MeshNode, 38.0, Some(("R", Via::Radio { radio: 1 }))),
    ]);
    let (with_air, served) = at(&clinging, 37.0);
    assert_eq!(served, Some(DeviceId::named("N")));
    clinging.setups[0].devices[1].mode = Mode::AccessPoint;
    clinging.setups[0].devices[1].uplink = Some(Uplink { to: DeviceId::named("R"), via: cable(CableClass::Cat6) });
    let (with_cable, served) = at(&clinging, 37.0);
    assert_eq!(served, Some(DeviceId::named("N")));
    assert!(with_cable > with_air, "{with_cable} by cable, {with_air} by air");
}

#[test]
fn radios_that_are_off_or_kept_for_backhaul_serve_no_one() {
    let mut home = home(vec![device("R", "node_ax_tri", Mode::Router, 1.0, None)]);
    let tables = LinkTables::default();
    let client = clients::find("laptop_ax").unwrap();
    let count = |home: &Home| network(home, TestKind::Local).accesses(client, None, &tables).len();
    assert_eq!(count(&home), 2, "the third radio is kept for backhaul");
    home.setups[0].devices[0].radios[0].on = false;
    assert_eq!(count(&home), 1);
}

#[test]
fn a_wider_channel_carries_more_beside_the_router() {
    let width = |width: f64| {
        let mut home = home(vec![device("R", "router_ax", Mode::Router, 1.0, None)]);
        home.setups[0].devices[0].radios[1].width_mhz = Megahertz::new(width);
        at(&home, 2.0).0
    };
    assert!(width(20.0) < width(40.0) && width(40.0) < width(80.0));
}
