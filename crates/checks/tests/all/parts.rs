//! What a setup is put together from: ways of cables, ports, power and the list of what to buy.

use std::collections::HashSet;

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, Catalogue, kit};
use busy_hen_floorplan::{HouseEdit, Plan, settle};
use busy_hen_home::{
    Aerial, Device, DeviceId, Home, LengthUnit, Level, LevelId, Mode, Pack, Position, RoomId, Setup, SetupId, SpotId,
};
use busy_hen_job::parts::cabling::Asked;
use busy_hen_job::parts::{FedBy, Parts, Route, Ways, fed_by, parts, port_maps};
use busy_hen_units::{Db, Degrees, Metres};

/// A home of these lines, one text a level, from the lowest up.
fn home(levels: &[&str]) -> Home {
    let mut home = Home::new("Weir cottage", "GB", LengthUnit::Metre);
    home.house.levels = levels.iter().enumerate().map(|(index, lines)| level(index, lines)).collect();
    let edit = HouseEdit::from(&home);
    settle(&mut home, edit, &HashSet::new(), RoomId::named, SpotId::named);
    home.brief.may_drill = true;
    home
}

fn level(index: usize, lines: &str) -> Level {
    Level {
        id: LevelId::named(&index.to_string()),
        name: format!("Level {index}"),
        height_m: Metres::new(2.5),
        floor: "timber_floor".into(),
        lines: lines.into(),
        tracing: None,
    }
}

fn at(level: usize, x: f64, y: f64) -> Position {
    let (x_m, y_m) = (Metres::new(x), Metres::new(y));
    Position { level_id: LevelId::named(&level.to_string()), x_m, y_m, height_m: Metres::new(1.0) }
}

fn way(home: &Home, from: Position, to: Position, riser: Option<&str>) -> Option<Route> {
    let plan = Plan::new(&home.house, home.units);
    Ways::new(&plan).and_then(|ways| {
        ways.route(
            &from,
            &to,
            Asked { may_drill: home.brief.may_drill, riser: riser.map(RoomId::named), on_foot: false },
        )
    })
}

fn device(name: &str, key: &str, mode: Mode, at: Position, to: Option<&str>) -> Device {
    let kit = kit::find(key).unwrap();
    Device {
        aerial: kit.aerial,
        radios: kit.radio_settings(region::find("GB").unwrap()),
        uplink: to.map(|to| kit.usual_uplink(mode, DeviceId::named(to))),
        ..Device::bare(DeviceId::named(name), name, key, mode, at)
    }
}

fn listed(home: &Home, devices: Vec<Device>) -> Parts {
    let setup = Setup::new(SetupId::named("A"), "A", "tried", devices);
    parts(home, &setup, &Plan::new(&home.house, home.units))
}

/// Two rooms with a door at the far end of the wall between them.
const WITH_DOOR: &str = "Hall 4 x 6\nStudy 4 x 6 east of Hall\n- door west at 5 0.8 wide";

#[test]
fn a_cable_goes_by_the_door_where_that_is_no_long_way_round() {
    let home = home(&[WITH_DOOR]);
    let near = way(&home, at(0, 3.5, 4.9), at(0, 4.5, 4.9), None).unwrap();
    assert_eq!(near.holes, []);
    // From one side of the wall to the other through the door, and a metre down and up.
    assert!((2.5..4.0).contains(&near.way_m.get()), "{}", near.way_m);
    let far = way(&home, at(0, 3.8, 0.2), at(0, 4.2, 0.2), None).unwrap();
    assert_eq!(far.holes.len(), 1, "ten metres there and back are worth a hole");
    assert!(far.holes[0].what.starts_with("wall between Hall and Study"), "{}", far.holes[0].what);
}

#[test]
fn a_tenant_who_may_not_drill_gets_the_long_way_or_is_told_that_there_is_none() {
    let mut home = home(&[WITH_DOOR]);
    home.brief.may_drill = false;
    let far = way(&home, at(0, 3.8, 0.2), at(0, 4.2, 0.2), None).unwrap();
    assert_eq!(far.holes, []);
    assert!((11.0..14.5).contains(&far.way_m.get()), "{}", far.way_m);
    let mut home = self::home(&["Hall 4 x 4", "Loft 4 x 4 above Hall"]);
    (home.brief.may_drill, home.house.around.stairs) = (false, false);
    let list = listed(
        &home,
        vec![
            device("Router", "router_ax", Mode::Router, at(0, 1.0, 1.0), None),
            device("Point", "ap_ax", Mode::AccessPoint, at(1, 1.0, 1.0), Some("Router")),
        ],
    );
    assert!(list.cables[0].cannot.contains("can't be laid without drilling"), "{}", list.cables[0].cannot);
}

#[test]
fn what_hangs_from_a_ceiling_gets_its_cable_through_it() {
    let home = home(&["Barn 10 x 10"]);
    let under = Position { height_m: Metres::new(home.house.levels[0].height_m.get() - 0.1), ..at(0, 5.0, 5.0) };
    let holes = |to: Position| {
        let list = way(&home, at(0, 0.2, 0.2), to, None).unwrap().holes;
        list.into_iter().map(|own| own.what).collect::<Vec<_>>()
    };
    assert_eq!(holes(under), ["ceiling of Barn"]);
    assert!(holes(at(0, 5.0, 5.0)).is_empty());
}

#[test]
fn a_cable_follows_the_walls_of_an_open_room() {
    let home = home(&["Barn 10 x 10"]);
    let along = way(&home, at(0, 0.2, 0.2), at(0, 9.8, 9.8), None).unwrap();
    // Round two sides, and a metre down and up: never straight across.
    assert!((20.0..22.5).contains(&along.way_m.get()), "{}", along.way_m);
    assert!(along.stretches[0].points.len() <= 4, "{:?}", along.stretches[0].points);
}

#[test]
fn storeys_are_joined_by_the_stairs_or_where_one_says() {
    let levels = [
        "Hall 6 x 4\n- stairs 0.9 x 2 at 4.8, 1\nCellar 2 x 4 east of Hall",
        "Landing 6 x 4 above Hall\nStore 2 x 4 east of Landing",
    ];
    let home = home(&levels);
    let stairs = way(&home, at(0, 4.5, 0.3), at(1, 4.5, 0.3), None).unwrap();
    assert_eq!((stairs.holes.len(), stairs.stretches.len()), (0, 2));
    let far = way(&home, at(0, 0.2, 0.2), at(1, 0.2, 0.2), Some("Hall")).unwrap();
    assert_eq!(far.holes.len(), 1);
    assert!(far.holes[0].what.starts_with("floor between Hall and Landing"), "{}", far.holes[0].what);
    assert!((4.0..5.5).contains(&far.way_m.get()), "{}", far.way_m);
}

#[test]
fn a_building_that_stands_apart_is_reached_over_the_ground_and_that_is_said() {
    let home = home(&["Kitchen 4 x 4\n- door north 0.9 wide\nGarage 4 x 6 10 east of Kitchen\n- door west 0.9 wide"]);
    let way = way(&home, at(0, 2.0, 2.0), at(0, 16.0, 2.0), None).unwrap();
    assert!((9.0..18.0).contains(&way.outdoors_m.get()), "{}", way.outdoors_m);
    assert!(way.length_m > way.way_m, "slack is added");
}

#[test]
fn ports_are_counted_and_what_is_too_much_is_said() {
    let mut devices = vec![device("Node", "node_ax_dual", Mode::Router, at(0, 1.0, 1.0), None)];
    for name in ["East", "West", "Attic"] {
        devices.push(device(name, "node_ax_dual", Mode::AccessPoint, at(0, 3.0, 3.0), Some("Node")));
    }
    let setup = Setup::new(SetupId::named("A"), "A", "tried", devices);
    let map = &port_maps(&setup, &Catalogue::default())[0];
    assert_eq!(map.used.iter().map(|own| own.port).collect::<Vec<_>>(), [1, 2, 3]);
    assert_eq!(map.short, "Node has 2 ports and 3 cables go to it: a switch makes more.");
    let mut two = setup.clone();
    two.devices.pop();
    assert_eq!(port_maps(&two, &Catalogue::default())[0].short, "");
    for own in two.devices.iter_mut().skip(1) {
        own.uplink.as_mut().unwrap().port = Some(2);
    }
    assert!(port_maps(&two, &Catalogue::default())[0].short.contains("Two cables go to port 2 of Node"));
}

#[test]
fn a_switch_feeds_as_far_as_its_watts_go_and_else_an_injector_is_bought() {
    let home = home(&["Hall 8 x 8"]);
    let mut devices = vec![
        device("Router", "router_ax", Mode::Router, at(0, 1.0, 1.0), None),
        device("Switch", "switch_poe", Mode::Switch, at(0, 1.5, 1.0), Some("Router")),
    ];
    for name in ["One", "Two", "Three", "Four"] {
        devices.push(device(name, "ap_ax", Mode::AccessPoint, at(0, 5.0, 5.0), Some("Switch")));
    }
    let setup = Setup::new(SetupId::named("A"), "A", "tried", devices.clone());
    let map = port_maps(&setup, &Catalogue::default()).into_iter().find(|own| own.name == "Switch").unwrap();
    // Four of 16 W each on 60 W.
    assert_eq!(map.short, "What Switch feeds needs up to 64 W, and its ports give 60 W together.");
    assert_eq!(fed_by(&setup.devices[2], &setup, &Catalogue::default()), Some(FedBy::Port));
    let injectors = |list: &Parts| {
        list.lines.iter().filter(|line| line.what.starts_with("injector")).map(|line| line.count).sum::<f64>()
    };
    assert!(injectors(&listed(&home, devices.clone())).abs() < 1e-9);
    for own in devices.iter_mut().skip(2) {
        own.uplink.as_mut().unwrap().to = DeviceId::named("Router");
    }
    assert!((injectors(&listed(&home, devices.clone())) - 4.0).abs() < 1e-9);
    // The outdoor point brings its own.
    devices.truncate(2);
    devices.push(device("Yard", "ap_out_rods", Mode::AccessPoint, at(0, 5.0, 5.0), Some("Router")));
    assert!(injectors(&listed(&home, devices)).abs() < 1e-9);
}

#[test]
fn the_list_takes_the_cheapest_packs_and_leaves_out_what_is_there() {
    let home = home(&["Hall 6 x 6"]);
    let mut devices: Vec<Device> = ["Hall node", "Loft node", "Yard node"]
        .map(|name| device(name, "node_ax_dual", Mode::MeshNode, at(0, 3.0, 3.0), Some("Router")))
        .into();
    devices.insert(0, device("Router", "router_ac", Mode::Router, at(0, 1.0, 1.0), None));
    devices[0].there_already = true;
    let list = listed(&home, devices.clone());
    let told: Vec<(&str, f64, &str)> =
        list.lines.iter().map(|line| (line.unit.as_str(), line.count, line.for_what.as_str())).collect();
    assert_eq!(told, [("pack of 3", 1.0, "Hall node, Loft node, Yard node")]);
    let price = |key: &str, count: u8| {
        kit::find(key).unwrap().facts.packs.iter().find(|pack: &&Pack| pack.count == count).unwrap().price
    };
    assert_eq!(list.total, Some(price("node_ax_dual", 3)));
    devices[0].there_already = false;
    let with_router = listed(&home, devices);
    assert_eq!(
        with_router.total,
        Some(price("node_ax_dual", 3) + kit::find("router_ac").unwrap().facts.price.unwrap())
    );
}

#[test]
fn cables_are_bought_by_class_unless_one_in_the_box_is_long_enough() {
    let home = home(&["Hall 10 x 4"]);
    let near = device("Beside", "node_ax_dual", Mode::AccessPoint, at(0, 0.3, 0.3), Some("Router"));
    let far = device("Far", "node_ax_dual", Mode::AccessPoint, at(0, 9.5, 0.3), Some("Router"));
    let router = device("Router", "router_ax", Mode::Router, at(0, 0.3, 0.3), None);
    let list = listed(&home, vec![router, near, far]);
    let cable: Vec<&str> =
        list.lines.iter().filter(|line| line.what.starts_with("Cat")).map(|line| line.for_what.as_str()).collect();
    assert_eq!(cable, ["Beside, Far"], "a metre down and a metre up are more than the cable of the box");
    let run = list.cables.iter().find(|own| own.name == "Far").unwrap();
    let length = run.route.as_ref().unwrap().length_m;
    assert!((13.0..15.5).contains(&length.get()), "{length}");
    assert_eq!(run.port, Some(2));
}

#[test]
fn a_home_in_feet_buys_its_cable_in_feet() {
    let mut home = home(&["Hall 10m x 4m"]);
    let devices = || {
        vec![
            device("Router", "router_ax", Mode::Router, at(0, 0.3, 0.3), None),
            device("Far", "node_ax_dual", Mode::AccessPoint, at(0, 9.5, 0.3), Some("Router")),
        ]
    };
    let cable = |home: &Home| {
        let lines = listed(home, devices()).lines;
        let own = lines.into_iter().find(|line| line.what.starts_with("Cat")).unwrap();
        (own.count, own.unit, own.price)
    };
    let metres = cable(&home);
    home.units = LengthUnit::Foot;
    let feet = cable(&home);
    assert_eq!((metres.1.as_str(), feet.1.as_str()), ("m", "ft"));
    assert!((feet.0 - (metres.0 / 0.3048).ceil()).abs() < 1e-9 && feet.2 == metres.2);
}

#[test]
fn a_spare_aerial_is_a_part_and_one_that_only_points_elsewhere_is_not() {
    let home = home(&["Yard 10 x 10 outdoors"]);
    let router = device("Router", "router_ax", Mode::Router, at(0, 0.3, 0.3), None);
    let mut point = device("Point", "ap_out_rods", Mode::AccessPoint, at(0, 5.0, 5.0), Some("Router"));
    let spare = |device: &Device| {
        let list = listed(&home, vec![router.clone(), device.clone()]);
        list.lines.iter().any(|line| line.what.contains("aerial") && line.what.contains("spare"))
    };
    point.aerial = Aerial::Rods { gain_dbi: Db::new(5.0), lean: Degrees::new(40.0), towards: Degrees::new(90.0) };
    assert!(!spare(&point));
    point.aerial = Aerial::Rods { gain_dbi: Db::new(8.0), lean: Degrees::new(0.0), towards: Degrees::new(0.0) };
    assert!(spare(&point));
}

#[test]
fn in_the_terrace_the_pottery_is_wired_through_house_and_garden() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let list = parts(&home, &home.setups[2], &plan);
    let run = &list.cables[0];
    let way = run.route.as_ref().unwrap();
    assert!((35.0..50.0).contains(&way.way_m.get()), "{}: {}", way.way_m, run.told);
    assert!((14.0..18.0).contains(&way.outdoors_m.get()), "the garden is 15 m deep: {}", way.outdoors_m);
    assert!(run.told.contains("drip loop"), "{}", run.told);
}
