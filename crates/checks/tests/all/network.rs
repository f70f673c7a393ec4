//! Setups resolved into networks: which radios meet, what narrows a hop, who shares the air, and what a client joins.

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, clients, kit};
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Band, CableClass, Device, DeviceId, Doors, Home, LengthUnit, Level, LevelId, Mode, Position, Setup, SetupId,
    Situation, TestKind, Uplink, Via,
};
use busy_hen_predict::path::direction::Direction;
use busy_hen_predict::path::network::{Part, as_predicted};
use busy_hen_predict::path::{HopKind, LinkTables, Network, Others};
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_radio::propagation::PropagationModel;
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
        tracing: None,
    }];
    home.setups = vec![Setup::new(SetupId::named("A"), "A", "A", devices)];
    home
}

fn device(name: &str, kit_key: &str, mode: Mode, x: f64, uplink: Option<(&str, Via)>) -> Device {
    Device {
        radios: kit::find(kit_key).unwrap().radio_settings(region::find("GB").unwrap()),
        uplink: uplink.map(|(to, via)| Uplink::new(DeviceId::named(to), via)),
        ..Device::bare(
            DeviceId::named(name),
            name,
            kit_key,
            mode,
            Position {
                level_id: LevelId::named("ground"),
                x_m: Metres::new(x),
                y_m: Metres::new(2.0),
                height_m: Metres::new(1.2),
            },
        )
    }
}

fn cable(class: CableClass) -> Via {
    Via::cable(class)
}

fn network(home: &Home, reach: TestKind) -> Network<'_> {
    let plan = Plan::new(&home.house, home.units);
    let waves = PropagationModel::new(&plan, Doors::AsLeft);
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
    let tables = Knowledge::default();
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
        assert_eq!(narrowest.in_words(), words);
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
        let hop = network.hop_goodput(1, Direction::Down, Db::new(0.0), &[]).get();
        let flow = network.flow(access, Direction::Down, &Others::default(), &[]);
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
    let hop = network.hop_goodput(1, Direction::Down, Db::new(0.0), &[]);
    let left = network.flow(access, Direction::Down, &Others::default(), &[]).arrives(hop);
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
            let flow = network.flow(&access, Direction::Down, &Others::default(), mended);
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
    clinging.setups[0].devices[1].uplink = Some(Uplink::new(DeviceId::named("R"), cable(CableClass::Cat6)));
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

/// Three 2.4 GHz radios, as no kit of the catalogue has: the tests below need channels that overlap by way of each other.
fn three_low() -> busy_hen_home::Kit {
    let radio = |default_channel| busy_hen_home::KitRadio {
        band: Band::Ghz2_4,
        generation: busy_hen_home::Generation::Ax,
        streams: 2,
        max_width_mhz: Megahertz::new(20.0),
        default_channel,
        serves: true,
        short_aggregate: false,
    };
    busy_hen_home::Kit {
        key: "three_low".into(),
        name: "node with three low radios".into(),
        modes: vec![Mode::MeshNode, Mode::Router],
        radios: vec![radio(7), radio(4), radio(1)],
        powered_by_cable: false,
        uplink_port_mbps: MbitPerSec::new(1000.0),
        lan_port_mbps: MbitPerSec::new(1000.0),
        aerial: busy_hen_home::Aerial::BuiltIn,
        power_line: None,
        facts: busy_hen_home::KitFacts::default(),
    }
}

fn low(name: &str, mode: Mode, x: f64, serves: [Option<bool>; 3], uplink: Option<(&str, Via)>) -> Device {
    let kit = three_low();
    let mut device = device(name, "router_ax", mode, x, uplink);
    device.kit = "three_low".into();
    device.radios = kit.radio_settings(region::find("GB").unwrap());
    for (radio, serves) in device.radios.iter_mut().zip(serves) {
        radio.on = serves.is_some();
        radio.serves = serves == Some(true);
    }
    device
}

/// R on 7; N hears it on 7 and offers 4 to M; M serves on 1. 1 overlaps 4, 4 overlaps 7, 1 does not overlap 7.
fn chained() -> Home {
    let via = || Via::Radio { radio: 0 };
    let mut home = home(vec![
        low("R", Mode::Router, 1.0, [Some(false), None, None], None),
        low("N", Mode::MeshNode, 12.0, [Some(true), Some(false), None], Some(("R", via()))),
        low("M", Mode::MeshNode, 24.0, [Some(true), None, Some(true)], Some(("N", via()))),
    ]);
    home.own_kit = vec![three_low()];
    home
}

#[test]
fn own_kit_is_part_of_the_catalogue_and_travels_with_the_home() {
    let home = chained();
    busy_hen_job::check::check(&home).unwrap();
    assert_eq!(network(&home, TestKind::Local).nodes.len(), 3);
    let mut without = home.clone();
    without.own_kit.clear();
    assert!(busy_hen_job::check::check(&without).is_err());
    let mut taken = home.clone();
    taken.own_kit[0].key = "router_ax".into();
    assert!(busy_hen_job::check::check(&taken).unwrap_err().to_string().contains("already"));
}

#[test]
fn channels_that_overlap_by_way_of_a_third_take_turns_together() {
    let home = chained();
    let network = network(&home, TestKind::Local);
    let tables = LinkTables::default();
    let accesses = network.accesses(clients::find("laptop_ax").unwrap(), Some(Band::Ghz2_4), &tables);
    let access = accesses.iter().find(|access| access.node == 2 && access.block.centre_channel == 1).unwrap();
    let groups = network.turn_groups(access, Direction::Down, &as_predicted, &[]);
    assert_eq!((groups.len(), groups[0].links()), (1, 3));
    assert_eq!(network.turn_groups(access, Direction::Down, &as_predicted, &[Part::Sharing]).len(), 3);
}

#[test]
fn two_backhaul_hops_on_a_channel_of_their_own_are_told_as_shared_air() {
    let via = || Via::Radio { radio: 2 };
    let home = home(vec![
        device("R", "node_ax_tri", Mode::Router, 1.0, None),
        device("N", "node_ax_tri", Mode::MeshNode, 14.0, Some(("R", via()))),
        device("M", "node_ax_tri", Mode::MeshNode, 28.0, Some(("N", via()))),
    ]);
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let model = Model::new(&home, &home.setups[0], &plan, question(TestKind::Local), &kept);
    let chain = model.chain(plan.in_hand(0, 29.0, 2.0), None).unwrap();
    let shared = chain.links.iter().find(|link| link.label == "shared air").expect("told");
    assert!(shared.detail.contains("2 hops take turns on a backhaul channel"), "{}", shared.detail);
    let hops: Vec<f64> = chain
        .links
        .iter()
        .filter(|link| link.label.contains("hop to"))
        .filter_map(|link| link.down_mbps)
        .map(|rate| rate.get())
        .collect();
    let together = 1.0 / hops.iter().map(|rate| 1.0 / rate).sum::<f64>();
    assert!((shared.down_mbps.unwrap().get() - together).abs() < 1e-6);
}

#[test]
fn a_neighbour_on_the_backhaul_is_told_and_mending_it_quiets_the_hop() {
    let mut home = home(vec![
        device("R", "node_ax_tri", Mode::Router, 1.0, None),
        device("N", "node_ax_tri", Mode::MeshNode, 36.0, Some(("R", Via::Radio { radio: 2 }))),
    ]);
    home.air = vec![busy_hen_home::Neighbour {
        id: busy_hen_home::NeighbourId::named("n"),
        band: Band::Ghz5,
        channel: 132,
        width_mhz: Megahertz::new(20.0),
        signal_dbm: busy_hen_units::Dbm::new(-63.0),
        busy_part: 0.9,
    }];
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let model = Model::new(&home, &home.setups[0], &plan, question(TestKind::Local), &kept);
    let quiet = |mended: &[Part]| model.network().hop_goodput(1, Direction::Down, Db::new(0.0), mended).get();
    assert!(quiet(&[Part::Neighbours]) > 1.02 * quiet(&[]), "{} and {}", quiet(&[Part::Neighbours]), quiet(&[]));
    let chain = model.chain(plan.in_hand(0, 37.0, 2.0), None).unwrap();
    let told = chain.links.iter().find(|link| link.label.starts_with("neighbours")).expect("told");
    assert!(told.detail.contains("on the hop to N"), "{}", told.detail);
}

#[test]
fn an_uplink_is_as_wide_as_both_ends_can_whatever_the_radio_was_set_to_before() {
    let with = |width: f64| {
        let mut node = device("N", "node_ax_dual", Mode::MeshNode, 8.0, Some(("R", Via::Radio { radio: 1 })));
        node.radios[1].width_mhz = Megahertz::new(width);
        let home = home(vec![device("R", "router_ax", Mode::Router, 1.0, None), node]);
        network(&home, TestKind::Local).hop_goodput(1, Direction::Down, Db::new(0.0), &[]).get()
    };
    assert!((with(20.0) - with(80.0)).abs() < 1e-9, "{} and {}", with(20.0), with(80.0));
}

#[test]
fn where_the_plan_is_shared_and_full_its_own_queue_is_the_one_that_fills() {
    let mut home = busy_hen_demo::canal_terrace();
    for plan in &mut home.brief.plans {
        plan.down_mbps = MbitPerSec::new(60.0);
    }
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let question = Question { situation: Situation::BusyEvening, ..question(TestKind::Internet) };
    let model = Model::new(&home, &home.setups[0], &plan, question, &kept);
    let hall = plan.rooms.iter().find(|room| room.name == "Hall").unwrap();
    let got = model.at(plan.middle_of(hall), Some(hall.id));
    assert!(got.down.middle.get() < 59.0, "others use the plan too: {:?}", got.down);
    let queue = (got.loaded_ms - got.latency_ms).get();
    assert!((queue - 250.0).abs() < 1e-6, "the line's quarter second, not the radio's {queue}");
}

#[test]
fn each_hop_waits_for_the_load_of_its_own_channel() {
    let busy_on = |channel: u16| {
        let mut home = home(vec![
            device("R", "node_ax_tri", Mode::Router, 1.0, None),
            device("N", "node_ax_tri", Mode::MeshNode, 14.0, Some(("R", Via::Radio { radio: 2 }))),
        ]);
        home.air = vec![busy_hen_home::Neighbour {
            id: busy_hen_home::NeighbourId::named("n"),
            band: Band::Ghz5,
            channel,
            width_mhz: Megahertz::new(20.0),
            signal_dbm: busy_hen_units::Dbm::new(-50.0),
            busy_part: 0.8,
        }];
        let plan = Plan::new(&home.house, home.units);
        let kept = Knowledge::default();
        let question = Question { band: Some(Band::Ghz5), ..question(TestKind::Local) };
        Model::new(&home, &home.setups[0], &plan, question, &kept).at(plan.in_hand(0, 15.0, 2.0), None).latency_ms.get()
    };
    let (nowhere, on_hop, on_air) = (busy_on(149), busy_on(100), busy_on(36));
    assert!(on_hop > nowhere + 0.5 && on_air > nowhere + 0.5, "{nowhere} {on_hop} {on_air}");
}

/// A line exactly through the joint of two walls in line crosses one of them.
#[test]
fn a_line_through_the_joint_of_two_walls_meets_one() {
    let mut home = Home::new("Joint", "GB", LengthUnit::Metre);
    home.house.levels = vec![Level {
        id: LevelId::named("ground"),
        name: "Ground".into(),
        height_m: Metres::new(2.5),
        floor: "timber_floor".into(),
        lines: "Hall 2 x 4\nDen 3 x 2 east of Hall\nKitchen 3 x 2 south of Den".into(),
        tracing: None,
    }];
    let plan = Plan::new(&home.house, home.units);
    let crossed = |y: f64| {
        let sight =
            busy_hen_radio::propagation::Sight::between(&plan, plan.in_hand(0, 1.0, y), plan.in_hand(0, 3.0, y));
        sight.crossings.len()
    };
    assert_eq!((crossed(1.0), crossed(2.0), crossed(3.0)), (1, 1, 1));
}

#[test]
fn a_house_whose_thick_wall_is_of_another_stuff_is_another_house() {
    let mut home = busy_hen_demo::canal_terrace();
    let print = |home: &Home| Plan::new(&home.house, home.units).fingerprint();
    let side = |material: &str| busy_hen_home::WallChoice {
        room_id: busy_hen_home::RoomId::named("Hall"),
        side: busy_hen_home::Side::West,
        material: material.into(),
        thickness_m: Some(Metres::new(0.2)),
    };
    let materials: Vec<&str> = busy_hen_catalogue::materials::all()
        .iter()
        .filter(|one| one.category == busy_hen_catalogue::MaterialUse::Wall)
        .map(|one| one.key.as_str())
        .collect();
    let mut prints: Vec<u64> = Vec::new();
    for material in &materials {
        home.house.walls.retain(|wall| (wall.room_id, wall.side) != (side(material).room_id, side(material).side));
        home.house.walls.push(side(material));
        prints.push(print(&home));
    }
    prints.sort_unstable();
    let count = prints.len();
    prints.dedup();
    assert_eq!(prints.len(), count, "each of {materials:?} is told apart");
}

#[test]
fn a_device_wished_for_where_one_stands_is_put_beside_it_in_the_same_room() {
    let mut home = home(vec![]);
    home.house.levels[0].lines = "Cupboard 1 x 4\nRope walk 40 x 4 east of Cupboard".into();
    let plan = Plan::new(&home.house, home.units);
    let first = device("first", "router_ax", Mode::Router, 1.2, None).at;
    assert_eq!(plan.free_place(first, &[]), first, "alone it stands where it was wished for");
    let mut taken = vec![first];
    for _ in 0..6 {
        let next = plan.free_place(first, &taken);
        assert_eq!(plan.room_index_at(0, next.x_m.get(), next.y_m.get()), plan.room_index_at(0, 1.2, 2.0));
        assert!(taken.iter().all(|other| (other.x_m - next.x_m).get().hypot((other.y_m - next.y_m).get()) > 0.3));
        taken.push(next);
    }
}
