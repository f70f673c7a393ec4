//! The facade on whole homes: what a person would expect of the demo terrace, and laws that hold in every home.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Complaint, Doors, Home, RoomId, Situation, TestKind};
use busy_hen_predict::explained::explained;
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::needs::Verdict;
use busy_hen_predict::path::LinkKind;
use busy_hen_predict::path::chain::ChainLink;
use busy_hen_predict::ready::Ready;
use busy_hen_predict::{Knowledge, Model, Prediction, Question};
use busy_hen_radio::propagation::Radiosity;
use busy_hen_radio::propagation::published::ComparedModel;
use busy_hen_units::{MbitPerSec, Megahertz, Metres};
use jiff::civil::date;
use proptest::prelude::*;

fn question(situation: Situation, reach: TestKind) -> Question {
    let (client, doors) = (clients::find("phone_ax").unwrap(), Doors::AsLeft);
    Question { client, band: None, situation, doors, reach, day: date(2026, 11, 1) }
}

fn alone() -> Question {
    question(Situation::Alone, TestKind::Internet)
}

fn in_room(home: &Home, setup: usize, question: Question, room: &str) -> Prediction {
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let model = Model::new(home, &home.setups[setup], &plan, question, &tables);
    let room = plan.rooms.iter().find(|r| r.name == room).unwrap();
    let (x, y) = (room.rect.x + room.rect.width / 2.0, room.rect.y + room.rect.depth / 2.0);
    model.at(plan.in_hand(room.level, x, y), Some(room.id))
}

#[test]
fn nothing_exceeds_the_plan_and_beside_the_router_the_plan_is_what_arrives() {
    let home = busy_hen_demo::canal_terrace();
    let hall = in_room(&home, 0, alone(), "Hall");
    assert!((hall.down.middle.get() - 300.0).abs() < 1e-6, "{:?}", hall.down);
    let local = in_room(&home, 0, question(Situation::Alone, TestKind::Local), "Hall");
    assert!(local.down.middle.get() > 400.0, "a local test shows what the kit can do: {:?}", local.down);
}

#[test]
fn each_link_of_a_chain_that_is_not_known_has_a_likely_range_about_its_middle() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    for setup in &home.setups {
        let model = Model::new(&home, setup, &plan, alone(), &kept);
        for room in &plan.rooms {
            let (x, y) = (room.rect.x + room.rect.width / 2.0, room.rect.y + room.rect.depth / 2.0);
            let Some(chain) = model.chain(plan.in_hand(room.level, x, y), Some(room.id)) else { continue };
            for link in &chain.links {
                let of_radio = matches!(link.kind, LinkKind::Air | LinkKind::RadioHop);
                let Some(likely) = link.likely_down_mbps else {
                    assert!(!of_radio, "{}: {}", room.name, link.label);
                    continue;
                };
                assert!(likely.poor <= likely.middle && likely.middle <= likely.good, "{}: {likely:?}", link.label);
                assert!(!of_radio || likely.good > likely.poor, "{}: {likely:?}", link.label);
                let middle = link.down_mbps.unwrap_or_default();
                assert!(
                    !of_radio || likely.middle.get() <= middle.get() + 1e-6,
                    "{}: {likely:?}, {middle}",
                    link.label
                );
            }
        }
    }
}

#[test]
fn a_laptop_by_cable_gets_what_the_port_of_the_device_in_its_room_gets_and_nothing_where_none_stands() {
    let mut home = busy_hen_demo::canal_terrace();
    let wired =
        |situation, reach| Question { client: clients::find("laptop_wired").unwrap(), ..question(situation, reach) };
    // Setup C has its router and an access point on a cable in the pottery, each with gigabit ports or better.
    let in_pottery = in_room(&home, 2, wired(Situation::Alone, TestKind::Internet), "Pottery");
    assert!(in_pottery.plugged_into.is_some() && in_pottery.served.is_none());
    assert!((in_pottery.down.middle.get() - 300.0).abs() < 1e-6, "the plan: {:?}", in_pottery.down);
    let local = in_room(&home, 2, wired(Situation::Alone, TestKind::Local), "Pottery");
    let port = MbitPerSec::new(1000.0 * 1448.0 / 1538.0);
    assert!(
        (local.down.middle.get() - port.get()).abs() < 1.0,
        "a gigabit port, ports of the cable too: {:?}",
        local.down
    );
    assert!(local.latency_ms < in_room(&home, 2, question(Situation::Alone, TestKind::Local), "Pottery").latency_ms);
    let nowhere = in_room(&home, 2, wired(Situation::Alone, TestKind::Internet), "Bathroom");
    assert!(nowhere.plugged_into.is_none() && nowhere.down.middle.get() == 0.0);
    {
        let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
        let question = wired(Situation::Alone, TestKind::Internet);
        let model = Model::new(&home, &home.setups[2], &plan, question, &kept);
        let rows = model.ledger(&Measured::default());
        let without: Vec<_> = rows.iter().filter(|row| row.no_port).collect();
        assert!(without.len() > 5 && without.iter().all(|row| row.predicted_verdict.is_none()));
        assert!(
            !rows[0].no_port && model.coverage(0, Metres::new(0.5)).dead_zones.is_empty(),
            "no port is no dead zone"
        );
    }
    // Others stay on the air: where they are busy, a port behind a radio hop has less.
    let behind_radio = |home: &Home, situation| {
        let own = in_room(home, 1, wired(situation, TestKind::Local), "Landing");
        (own.plugged_into, own.down.middle.get())
    };
    let (device, alone) = behind_radio(&home, Situation::Alone);
    assert_eq!(device, home.setups[1].devices.iter().find(|own| own.name == "Landing node").map(|own| own.id));
    assert!(behind_radio(&home, Situation::BusyEvening).1 < alone);
    // A map of it is lit in those rooms alone, and its chain ends in a patch cable.
    home.brief.plans.clear();
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    let model = Model::new(&home, &home.setups[2], &plan, wired(Situation::Alone, TestKind::Local), &kept);
    let pottery = plan.rooms.iter().find(|room| room.name == "Pottery").unwrap();
    let chain = model.chain(plan.middle_of(pottery), Some(pottery.id)).unwrap();
    assert!(chain.links.last().unwrap().label.starts_with("patch cable from"), "{chain:?}");
    assert!(!model.coverage(pottery.level, Metres::new(0.5)).bands.is_empty());
    assert!(model.sensitivities(plan.middle_of(pottery)).is_none());
}

#[test]
fn the_ledger_is_worst_first_and_the_pottery_is_the_dark_room() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let model = Model::new(&home, &home.setups[0], &plan, alone(), &tables);
    let ledger = model.ledger(&Measured::default());
    assert_eq!(ledger.len(), 12);
    assert_eq!(ledger[0].name, "Pottery");
    assert_eq!(ledger[0].predicted_verdict, Some(Verdict::NotMet));
    let wired = Model::new(&home, &home.setups[2], &plan, alone(), &tables);
    let rows = wired.ledger(&Measured::default());
    let pottery = rows.iter().find(|row| row.name == "Pottery").unwrap();
    assert_eq!(pottery.predicted_verdict, Some(Verdict::Met), "its own access point on a cable");
}

#[test]
fn a_busy_evening_leaves_less_than_being_alone() {
    let home = busy_hen_demo::canal_terrace();
    for room in ["Hall", "Study", "Attic bedroom"] {
        let quiet = in_room(&home, 1, alone(), room);
        let busy = in_room(&home, 1, question(Situation::BusyEvening, TestKind::Internet), room);
        assert!(busy.down.middle < quiet.down.middle, "{room}: {:?} against {:?}", busy.down, quiet.down);
        assert!(busy.latency_ms >= quiet.latency_ms);
    }
}

#[test]
fn the_chain_ends_at_what_the_prediction_says_and_names_the_narrowest_link() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    for setup in &home.setups {
        for situation in [Situation::Alone, Situation::BusyEvening] {
            let model = Model::new(&home, setup, &plan, question(situation, TestKind::Internet), &tables);
            for row in model.ledger(&Measured::default()) {
                let room = plan.room(row.room_id).unwrap();
                let at =
                    plan.in_hand(room.level, room.rect.x + room.rect.width / 2.0, room.rect.y + room.rect.depth / 2.0);
                let Some(chain) = model.chain(at, Some(room.id)) else { continue };
                let place = format!("{} in {}", row.name, setup.letter);
                assert!((chain.arrives_down_mbps.get() - row.predicted.down.middle.get()).abs() < 1e-9, "{place}");
                let limiting = chain.limiting.expect("a chain that holds has a narrowest link");
                let holds = |link: &ChainLink| {
                    link.down_mbps.is_none_or(|own| own.get() <= 1.1 * chain.arrives_down_mbps.get() + 1e-6)
                };
                let limits = &chain.links[limiting];
                assert!(
                    holds(limits) || !chain.links.iter().any(holds),
                    "{place}: a {:?} of {:?} limits what arrives, {:?}",
                    limits.kind,
                    limits.down_mbps,
                    chain.arrives_down_mbps
                );
                for link in &chain.links {
                    assert!(link.mended_down_mbps.get() >= chain.arrives_down_mbps.get() - 1e-9, "{place}");
                    assert!(
                        !holds(link)
                            || link.mended_down_mbps
                                <= chain.links[limiting].mended_down_mbps.max(chain.arrives_down_mbps)
                                    + busy_hen_units::MbitPerSec::new(2.0),
                        "{place}: {link:?} beside {limits:?} of {:?}",
                        chain.arrives_down_mbps
                    );
                }
                assert_ne!(chain.runner_up, Some(limiting));
            }
        }
    }
}

#[test]
fn a_repeater_halves_and_a_radio_of_its_own_does_not() {
    let mut home = busy_hen_demo::canal_terrace();
    home.brief.plans.clear();
    let shared = in_room(&home, 1, alone(), "Landing");
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let model = Model::new(&home, &home.setups[1], &plan, alone(), &tables);
    let landing = plan.rooms.iter().find(|room| room.name == "Landing").unwrap();
    let at = plan.in_hand(1, landing.rect.x + 0.8, landing.rect.y + 1.5);
    let chain = model.chain(at, Some(landing.id)).unwrap();
    let rate = |kind| chain.links.iter().find(|link| link.kind == kind).unwrap().down_mbps.unwrap().get();
    let (hop, air) = (rate(LinkKind::RadioHop), rate(LinkKind::Air));
    let expected = 1.0 / (1.0 / hop + 1.0 / air);
    assert!((rate(LinkKind::Sharing) - expected).abs() < 1e-6);
    assert!((shared.down.middle.get() - expected).abs() / expected < 0.1, "the middle of the room is close by");
    let own = in_room(&home, 2, alone(), "Landing");
    assert!(own.down.middle > shared.down.middle);
}

#[test]
fn an_uplink_that_can_not_work_gives_nothing_and_says_why() {
    let mut home = busy_hen_demo::canal_terrace();
    home.setups[1].devices[0].radios[1].on = false;
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let model = Model::new(&home, &home.setups[1], &plan, alone(), &tables);
    let hops = model.hops();
    assert_eq!(hops.len(), 1);
    assert_eq!(hops[0].down_mbps, None);
    assert!(hops[0].detail.contains("no 5 GHz radio switched on"), "{}", hops[0].detail);
}

#[test]
fn a_home_without_devices_is_dark_and_breaks_nothing() {
    let mut home = busy_hen_demo::canal_terrace();
    home.setups[0].devices.clear();
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let model = Model::new(&home, &home.setups[0], &plan, alone(), &tables);
    let map = model.coverage(0, Metres::new(0.5));
    assert!(map.bands.is_empty());
    let dead: Vec<RoomId> = map.dead_zones.iter().map(|zone| zone.room_id).collect();
    assert!(dead.contains(&RoomId::named("Front room")) && dead.contains(&RoomId::named("Garden")));
    assert!(!dead.contains(&RoomId::named("Hall")), "no one needs anything there");
    assert!(map.dead_zones[0].cause.contains("no radio"));
}

#[test]
fn dead_zones_have_the_area_of_their_cells_and_lie_in_their_room() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let model = Model::new(&home, &home.setups[0], &plan, alone(), &tables);
    let map = model.coverage(0, Metres::new(0.25));
    let pottery = map.dead_zones.iter().find(|zone| zone.room_id == RoomId::named("Pottery")).unwrap();
    assert!(pottery.area_m2.get() > 1.0 && pottery.area_m2 <= pottery.room_area_m2);
    let room = plan.room(pottery.room_id).unwrap();
    assert!(room.rect.contains(pottery.x_m.get(), pottery.y_m.get()));
    assert!(!map.dead_outlines.is_empty());
    for step in map.bands.windows(2) {
        assert!(step[0].step < step[1].step, "lowest first, each drawn over the one before");
    }
}

#[test]
fn moving_a_device_and_back_gives_the_same_map() {
    let mut home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let tables = Knowledge::default();
    let light = |home: &Home| Model::new(home, &home.setups[1], &plan, alone(), &tables).coverage(0, Metres::new(0.5));
    let before = light(&home);
    let place = home.setups[1].devices[1].at;
    home.setups[1].devices[1].at.x_m = Metres::new(1.0);
    assert_ne!(light(&home), before);
    home.setups[1].devices[1].at = place;
    assert_eq!(light(&home), before);
}

fn arbitrary_place() -> impl Strategy<Value = (usize, f64, f64)> {
    (0usize..3, -2.0f64..7.0, -2.0f64..27.0)
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(64))]

    #[test]
    fn loss_is_the_same_both_ways(a in arbitrary_place(), b in arbitrary_place()) {
        let home = busy_hen_demo::canal_terrace();
        let plan = Plan::new(&home.house, home.units);
        let (a, b) = (plan.in_hand(a.0, a.1, a.2), plan.in_hand(b.0, b.1, b.2));
        let waves = Radiosity::new(&plan, Megahertz::new(5500.0), Doors::AsLeft);
        let there = ComparedModel::Radiosity.loss(&plan, &waves, a, b).get();
        let back = ComparedModel::Radiosity.loss(&plan, &waves, b, a).get();
        prop_assert!((there - back).abs() < 1e-3, "{there} and {back}");
        prop_assert!(there.is_finite());
    }

    #[test]
    fn every_place_of_every_setup_has_sound_figures(setup in 0usize..3, at in arbitrary_place(), busy: bool) {
        let home = busy_hen_demo::canal_terrace();
        let plan = Plan::new(&home.house, home.units);
        let tables = Knowledge::default();
        let situation = if busy { Situation::BusyEvening } else { Situation::Alone };
        let model = Model::new(&home, &home.setups[setup], &plan, question(situation, TestKind::Internet), &tables);
        let got = model.at(plan.in_hand(at.0, at.1, at.2), None);
        for range in [got.down, got.up] {
            prop_assert!(range.poor <= range.middle && range.middle <= range.good);
            prop_assert!(range.poor.get() >= 0.0 && range.good.is_finite());
        }
        // Lines deliver a little more or less than was sold.
        prop_assert!(got.down.middle.get() <= 300.0 + 1e-9 && got.up.middle.get() <= 40.0 + 1e-9);
        prop_assert!(got.down.good.get() <= 1.1 * 300.0 && got.up.good.get() <= 1.1 * 40.0);
        prop_assert!(got.latency_ms.is_finite() && got.score.is_finite());
    }

    #[test]
    fn a_wider_plan_never_lowers_a_room(factor in 1.0f64..5.0) {
        let home = busy_hen_demo::canal_terrace();
        let mut wider = home.clone();
        for plan in &mut wider.brief.plans {
            plan.down_mbps = plan.down_mbps * factor;
        }
        for room in ["Study", "Hall", "Pottery"] {
            let (a, b) = (in_room(&home, 1, alone(), room), in_room(&wider, 1, alone(), room));
            prop_assert!(b.down.middle.get() >= a.down.middle.get() - 1e-9);
        }
    }
}

/// A search for places asks with losses that are ready; it must hear what the map and ledger say.
#[test]
fn from_ready_losses_come_the_same_figures_as_from_the_house() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let kept = Knowledge::default();
    for (setup, situation) in [(0, Situation::Alone), (1, Situation::BusyEvening), (2, Situation::BusyEvening)] {
        let asked = question(situation, TestKind::Internet);
        let setup = &home.setups[setup];
        let ready = Ready::new(setup, &plan, &asked, &kept);
        let model = Model::new(&home, setup, &plan, asked, &kept);
        for (room, got) in plan.rooms.iter().zip(ready.middles(&home, setup, &plan, &asked, &kept.tables)) {
            let told = model.at(plan.middle_of(room), Some(room.id));
            assert!((got.down.get() - told.down.middle.get()).abs() < 1e-9, "{} in {}", room.name, setup.letter);
            assert!((got.up.get() - told.up.middle.get()).abs() < 1e-9);
            assert!((got.latency.get() - told.felt_ms.get()).abs() < 1e-9);
            let felt = if situation == Situation::Alone { told.latency_ms } else { told.loaded_ms };
            assert!((told.felt_ms.get() - felt.get()).abs() < 1e-9, "alone it is judged idle, busy under load");
        }
    }
}

/// What passes up and down is gone either way; what is thrown back is not: metal in the floor over a flat keeps more inside.
#[test]
fn what_lies_over_and_under_a_home_counts() {
    let home = busy_hen_demo::gasworks_flat();
    let losses = |above: Option<&str>, below: Option<&str>| {
        let mut home = home.clone();
        home.house.around.above = above.map(Into::into);
        home.house.around.below = below.map(Into::into);
        busy_hen_job::check::check(&home).unwrap();
        let plan = Plan::new(&home.house, home.units);
        let waves = Radiosity::new(&plan, Megahertz::new(5500.0), Doors::AsLeft);
        let (a, b) = (plan.middle_of(&plan.rooms[0]), plan.middle_of(plan.rooms.last().unwrap()));
        ComparedModel::EmptyHouse.loss(&plan, &waves, a, b).get()
    };
    let (roof, foil) = (losses(None, None), losses(Some("timber_floor_ufh"), None));
    assert!(foil < roof - 0.1, "{foil} and {roof}");
    assert!(losses(None, Some("timber_floor_ufh")) < roof - 0.1);
    assert!((losses(Some("concrete_floor"), None) - roof).abs() < 1.0, "concrete throws back what boards do");
    let mut wrong = home.clone();
    wrong.house.around.above = Some("dg".into());
    let faults = busy_hen_job::check::check(&wrong).unwrap_err();
    assert_eq!(faults.list()[0].pointer, "/house/around/above");
}

#[test]
fn a_complaint_is_explained_by_what_would_make_it_and_by_nothing_else() {
    let kept = Knowledge::default();
    let told = |home: &Home, complaint: &Complaint| {
        let plan = Plan::new(&home.house, home.units);
        explained(home, &home.setups[0], &plan, complaint, date(2026, 11, 1), &kept)
    };
    let flat = busy_hen_demo::gasworks_flat();
    let crawl = &flat.brief.complaints[0];
    let far = told(&flat, crawl).unwrap();
    assert!(far.explains && far.told.contains("of the 900 Mb/s that the plan gives"), "{}", far.told);
    assert!(far.told.contains("Out of its cabinet"), "{}", far.told);
    assert!(!far.told.contains("busy"), "it happens at 9 to 17: {}", far.told);

    let lobby = flat.house.rooms.iter().find(|room| room.name == "Lobby").unwrap().id;
    let near = told(&flat, &Complaint { room_id: Some(lobby), ..crawl.clone() }).unwrap();
    assert!(!near.explains && near.told.contains("does not explain it"), "{}", near.told);

    assert_eq!(told(&flat, &Complaint { room_id: None, ..crawl.clone() }), None);
    assert_eq!(told(&flat, &Complaint { answer: "the old switch".into(), ..crawl.clone() }), None);
    let mut bare = flat.clone();
    bare.setups[0].devices.clear();
    let none = told(&bare, crawl).unwrap();
    assert!(none.explains && none.told.contains("nothing holds"), "{}", none.told);
}
