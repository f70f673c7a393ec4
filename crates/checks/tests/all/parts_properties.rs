//! What holds of parts, ways, ports, evenings, series and tables of kit in every home.

use busy_hen_catalogue::table::{COLUMNS, read_kit, write_kit};
use busy_hen_catalogue::{Catalogue, clients, kit};
use busy_hen_floorplan::Plan;
use busy_hen_home::{DeviceId, Doors, Home, Pack, Position, Setup, SetupId, Situation, TestKind, Via};
use busy_hen_job::check::check;
use busy_hen_job::parts::cabling::Asked;
use busy_hen_job::parts::list::cheapest;
use busy_hen_job::parts::{Route, Ways, parts, port_maps};
use busy_hen_job::series::{NewIds, usual_series};
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_testkit::homes::any_home;
use busy_hen_units::Metres;
use jiff::civil::date;
use proptest::prelude::*;

const HOMES: u64 = 40;

fn question(situation: Situation) -> Question {
    let client = clients::find("phone_ax").unwrap();
    Question { client, band: None, situation, doors: Doors::AsLeft, reach: TestKind::Internet, day: date(2026, 11, 1) }
}

/// The middles of two rooms of a home, the first and the last that is indoors.
fn ends(plan: &Plan) -> Option<(Position, Position)> {
    let place = |room: &busy_hen_floorplan::PlanRoom| {
        let at = plan.middle_of(room);
        Position {
            level_id: plan.levels[room.level].id,
            x_m: Metres::new(at.x),
            y_m: Metres::new(at.y),
            height_m: Metres::new(1.0),
        }
    };
    let indoors: Vec<_> = plan.rooms.iter().filter(|room| !room.outdoors).collect();
    Some((place(indoors.first()?), place(indoors.last()?)))
}

fn far_apart(a: &Position, b: &Position) -> f64 {
    (a.x_m - b.x_m).get().hypot((a.y_m - b.y_m).get())
}

/// Homes with a way between two of their rooms, drilled where that is shorter.
fn with_ways(mut look: impl FnMut(u64, &Plan, (Position, Position), &Route)) {
    let mut found = 0;
    for number in 0..HOMES {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        let Some((from, to)) = ends(&plan) else { continue };
        if let Some(way) =
            Ways::new(&plan).and_then(|ways| ways.route(&from, &to, Asked { may_drill: true, ..Asked::default() }))
        {
            found += 1;
            look(number, &plan, (from, to), &way);
        }
    }
    assert!(found > HOMES as usize / 2, "only {found} homes have a way");
}

#[test]
fn a_way_is_never_shorter_than_the_line_and_begins_and_ends_where_it_should() {
    with_ways(|number, _, (from, to), way| {
        let least = far_apart(&from, &to) - 0.5;
        assert!(way.way_m.get() >= least, "home {number}: {} for {least}", way.way_m);
        assert!(way.length_m > way.way_m && way.outdoors_m <= way.way_m, "home {number}");
        let (first, last) = (way.stretches.first().unwrap(), way.stretches.last().unwrap());
        assert_eq!((first.level_id, last.level_id), (from.level_id, to.level_id), "home {number}");
        let near = |corner: Option<&busy_hen_job::parts::cabling::Corner>, at: &Position| {
            let corner = corner.unwrap();
            (corner.x_m - at.x_m).get().hypot((corner.y_m - at.y_m).get()) < 0.36
        };
        assert!(near(first.points.first(), &from) && near(last.points.last(), &to), "home {number}");
    });
}

#[test]
fn corners_are_square_and_holes_lie_on_the_way() {
    with_ways(|number, _, _, way| {
        for stretch in &way.stretches {
            for pair in stretch.points.windows(2) {
                let (dx, dy) = ((pair[0].x_m - pair[1].x_m).get(), (pair[0].y_m - pair[1].y_m).get());
                assert!(dx.abs() < 1e-9 || dy.abs() < 1e-9, "home {number}: a cable goes {dx} by {dy}");
            }
        }
        for hole in &way.holes {
            let on = |a: &busy_hen_job::parts::cabling::Corner, b: &busy_hen_job::parts::cabling::Corner| {
                let within = |v: Metres, a: Metres, b: Metres| {
                    v >= a.min(b) + Metres::new(-0.3) && v <= a.max(b) + Metres::new(0.3)
                };
                within(hole.x_m, a.x_m, b.x_m) && within(hole.y_m, a.y_m, b.y_m)
            };
            let beside = way.stretches.iter().any(|stretch| {
                stretch.points.windows(2).any(|pair| on(&pair[0], &pair[1]))
                    || stretch.points.first().is_some_and(|only| on(only, only))
            });
            assert!(beside, "home {number}: {hole:?} is not on its way");
        }
    });
}

#[test]
fn who_may_not_drill_never_gets_more_holes_and_never_a_shorter_way() {
    with_ways(|number, plan, (from, to), drilled| {
        let spared = Ways::new(plan).unwrap().route(&from, &to, Asked::default()).unwrap();
        assert!(spared.holes.len() <= drilled.holes.len(), "home {number}");
        // Each hole is worth some metres of cable to one who may: without them the way can only be longer.
        if spared.holes.len() < drilled.holes.len() {
            assert!(
                spared.way_m.get() > drilled.way_m.get() - 0.6,
                "home {number}: {} and {}",
                spared.way_m,
                drilled.way_m
            );
        }
    });
}

#[test]
fn a_list_adds_up_and_names_every_device_that_is_not_there() {
    for number in 0..HOMES {
        let mut home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        for index in 0..home.setups.len() {
            let list = parts(&home, &home.setups[index], &plan);
            let sum: Option<f64> = list.lines.iter().map(|line| line.price).sum();
            assert_eq!(list.total.is_some(), sum.is_some());
            assert!((list.total.unwrap_or_default() - sum.unwrap_or_default()).abs() < 1e-6, "home {number}");
            for device in &home.setups[index].devices {
                let named = list.lines.iter().any(|line| line.for_what.split(", ").any(|own| own == device.name));
                assert!(named, "home {number}: {} is on no line", device.name);
            }
            let cabled = |setup: &Setup| {
                let by_cable = |own: &&busy_hen_home::Device| {
                    own.uplink.as_ref().is_some_and(|up| matches!(up.via, Via::Cable { .. }))
                };
                setup.devices.iter().filter(by_cable).count()
            };
            assert_eq!(list.cables.len(), cabled(&home.setups[index]), "home {number}");
            home.setups[index].devices.iter_mut().for_each(|own| own.there_already = true);
            let there = parts(&home, &home.setups[index], &plan);
            let kit_left = there
                .lines
                .iter()
                .any(|line| line.unit.starts_with("pack") || kit::all().iter().any(|kit| kit.name == line.what));
            assert!(!kit_left, "home {number}: what is there already is not bought: {:?}", there.lines);
        }
    }
}

#[test]
fn every_port_is_used_once_or_the_map_says_what_is_wrong() {
    for number in 0..HOMES {
        let home = any_home(number);
        for setup in &home.setups {
            for map in port_maps(setup, &Catalogue::of(&home)) {
                let mut numbers: Vec<u8> = map.used.iter().map(|own| own.port).collect();
                let count = numbers.len();
                numbers.dedup();
                assert_eq!(numbers.len(), count, "home {number}: nobody asked for a port, so none is given twice");
                let too_many = map.ports.is_some_and(|ports| count > usize::from(ports));
                assert_eq!(too_many, !map.short.is_empty() && !map.short_of_power, "home {number}: {map:?}");
                assert!(map.used.iter().all(|own| setup.device(own.device_id).is_some()));
            }
        }
    }
}

#[test]
fn an_evening_adds_up_and_its_fullest_channel_comes_first() {
    let kept = Knowledge::default();
    for number in 0..HOMES {
        let home = any_home(number);
        let plan = Plan::new(&home.house, home.units);
        for setup in &home.setups {
            let Some(told) = Model::new(&home, setup, &plan, question(Situation::BusyEvening), &kept).evening() else {
                panic!("home {number}: a busy evening is asked for");
            };
            for channel in &told.channels {
                let sum = channel.parts.iter().map(|own| own.part).sum::<f64>() + channel.neighbours;
                assert!((sum - channel.sum).abs() < 1e-9, "home {number}: {channel:?}");
                assert!(channel.parts.iter().all(|own| own.part > 0.0) && channel.neighbours >= 0.0);
            }
            assert!(told.channels.windows(2).all(|pair| pair[0].sum >= pair[1].sum), "home {number}");
            let reached = told.rooms.iter().filter(|room| room.served_by.is_some()).count();
            for taken in [&told.plan_down, &told.plan_up].into_iter().flatten() {
                assert!(taken.parts.len() <= reached, "home {number}: what nothing reaches takes nothing of the plan");
            }
            assert!(!told.told.is_empty());
        }
    }
}

fn series(home: &Home, base: &Setup, kit: &str, kept: &Knowledge) -> Result<Vec<Setup>, String> {
    let plan = Plan::new(&home.house, home.units);
    let (mut setup, mut device) = (SetupId::random, DeviceId::random);
    let mut ids = NewIds { setup: &mut setup, device: &mut device };
    usual_series(home, base, kit, (&plan, question(Situation::Alone), kept), &mut ids)
}

#[test]
fn the_series_of_every_kit_stands_every_check_in_every_home_or_says_why_not() {
    let kept = Knowledge::default();
    for number in 0..12 {
        let home = any_home(number);
        for kit in kit::all().iter().step_by(3) {
            match series(&home, &home.setups[0], &kit.key, &kept) {
                Ok(list) => {
                    assert!(!list.is_empty() && list.len() <= 4, "home {number}, {}", kit.key);
                    let mut with = home.clone();
                    with.setups.extend(list);
                    if let Err(faults) = check(&with) {
                        panic!("home {number}, {}: {:?}", kit.key, faults.list());
                    }
                }
                Err(why) => assert!(why.len() > 20 && why.ends_with(['.', '!']), "{why}"),
            }
        }
    }
}

/// The least that so many cost, by trying every way.
fn by_trying(wanted: i32, single: f64, packs: &[Pack]) -> f64 {
    if wanted <= 0 {
        return 0.0;
    }
    let by_pack = packs.iter().map(|pack| pack.price + by_trying(wanted - i32::from(pack.count), single, packs));
    by_pack.fold(single + by_trying(wanted - 1, single, packs), f64::min)
}

proptest! {
    #[test]
    fn packs_are_as_cheap_as_can_be(
        wanted in 1..9usize, single in 10.0..200.0f64, packs in prop::collection::vec((2..5u8, 10.0..500.0f64), 0..3)
    ) {
        let packs: Vec<Pack> = packs.into_iter().map(|(count, price)| Pack { count, price }).collect();
        let (singles, taken, cost) = cheapest(wanted, Some(single), &packs).unwrap();
        let count = singles + taken.iter().zip(&packs).map(|(own, pack)| own * usize::from(pack.count)).sum::<usize>();
        prop_assert!(count >= wanted, "{count} of {wanted}");
        let priced = singles as f64 * single + taken.iter().zip(&packs).map(|(own, pack)| *own as f64 * pack.price).sum::<f64>();
        prop_assert!((priced - cost).abs() < 1e-6);
        prop_assert!((cost - by_trying(wanted as i32, single, &packs)).abs() < 1e-6, "{cost}");
    }

    #[test]
    fn no_text_makes_the_reader_of_kit_panic(text in "\\PC{0,200}", head in any::<bool>()) {
        let text = if head { format!("{}\n{text}\n{text}", COLUMNS.join(",")) } else { text };
        if let Err(faults) = read_kit(&text) {
            prop_assert!(faults.list().iter().all(|fault| !fault.message.is_empty()));
        }
    }

    #[test]
    fn likely_tables_are_read_or_told_by_line_and_what_is_read_is_written_back(
        lines in prop::collection::vec("(x|loft node|),(router|mesh_node; router|ruter|),(5 ax 2 80 @36|5 ax|2.4 n 2 20 @1; 5 ac 2 80 @36 backhaul|),(1000|2500|fast),(1000|),(4|-1|),(yes|no|maybe|)", 1..4)
    ) {
        let text = format!("name,modes,radios,uplink_port_mbps,lan_port_mbps,lan_ports,powered_by_cable\n{}", lines.join("\n"));
        match read_kit(&text) {
            Ok(list) => {
                let again = read_kit(&write_kit(&list).unwrap()).unwrap();
                prop_assert_eq!(list, again);
            }
            Err(faults) => {
                for fault in faults.list() {
                    prop_assert!(fault.message.starts_with("Line "), "{}", fault.message);
                }
            }
        }
    }
}
