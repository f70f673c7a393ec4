//! The busy evening as one picture, and the usual series of a kit.

use busy_hen_catalogue::clients;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Activity, DeviceId, Doors, FamilyDevice, FamilyDeviceId, Home, Mode, Setup, SetupId, Situation, TestKind, Via,
};
use busy_hen_job::series::{NewIds, usual_series};
use busy_hen_predict::evening::Evening;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_units::{Db, Dbm, MbitPerSec};
use jiff::civil::date;

fn question(situation: Situation) -> Question {
    let client = clients::find("phone_ax").unwrap();
    Question { client, band: None, situation, doors: Doors::AsLeft, reach: TestKind::Internet, day: date(2026, 11, 1) }
}

fn evening(home: &Home, setup: &Setup) -> Evening {
    let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
    Model::new(home, setup, &plan, question(Situation::BusyEvening), &kept).evening().unwrap()
}

#[test]
fn what_rooms_ask_of_the_plan_adds_up_to_the_brief() {
    let home = busy_hen_demo::canal_terrace();
    let told = evening(&home, &home.setups[2]);
    let asked: f64 = told.rooms.iter().map(|room| room.down_mbps.get()).sum();
    let plan = told.plan_down.unwrap();
    assert!((plan.gives_mbps.get() - 300.0).abs() < 1e-9);
    assert!((plan.sum * 300.0 - asked).abs() < 1e-6, "{} of {asked}", plan.sum);
    assert!((plan.parts.iter().map(|own| own.part).sum::<f64>() - plan.sum).abs() < 1e-12);
    assert!(told.rooms.iter().all(|room| room.served_by.is_some()), "the third setup reaches all of them");
}

#[test]
fn a_hop_on_the_channel_it_serves_takes_its_air_twice() {
    let home = busy_hen_demo::canal_terrace();
    let air = |setup: &Setup| {
        evening(&home, setup).channels.iter().flat_map(|own| &own.parts).map(|own| own.part).sum::<f64>()
    };
    let by_air = air(&home.setups[1]);
    let mut wired = home.setups[1].clone();
    let to = wired.devices[0].id;
    wired.devices[1].mode = Mode::AccessPoint;
    wired.devices[1].uplink = Some(busy_hen_home::Uplink::new(to, Via::cable(busy_hen_home::CableClass::Cat6)));
    wired.devices[1].radios[1].channel = 149;
    assert!(air(&wired) < by_air * 0.8, "{} instead of {by_air}", air(&wired));
}

#[test]
fn more_than_there_is_is_said_and_a_quiet_house_is_quiet() {
    let mut home = busy_hen_demo::canal_terrace();
    home.brief.plans.iter_mut().for_each(|plan| plan.down_mbps = MbitPerSec::new(20.0));
    let told = evening(&home, &home.setups[2]);
    assert!(told.plan_down.as_ref().unwrap().sum > 1.0);
    assert!(told.told.contains("of the download, more than there is"), "{}", told.told);
    home.brief.uses.clear();
    let quiet = evening(&home, &home.setups[2]);
    assert_eq!((quiet.rooms.len(), quiet.channels.len()), (0, 0));
    assert!(quiet.told.contains("Nothing goes by air"), "{}", quiet.told);
    let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
    assert!(Model::new(&home, &home.setups[0], &plan, question(Situation::Alone), &kept).evening().is_none());
}

#[test]
fn neighbours_take_their_part_of_a_channel_once() {
    let home = busy_hen_demo::canal_terrace();
    let with = evening(&home, &home.setups[0]);
    let mut alone = home.clone();
    alone.air.clear();
    let without = evening(&alone, &alone.setups[0]);
    assert!(without.channels.iter().all(|own| own.neighbours.abs() < 1e-12));
    for channel in &with.channels {
        assert!(channel.neighbours <= 0.25, "all neighbours together take 0.25: {channel:?}");
    }
}

#[test]
fn wiring_what_stands_still_frees_the_air_of_its_room() {
    let mut home = busy_hen_demo::canal_terrace();
    let attic = home.house.rooms.iter().find(|room| room.name == "Attic bedroom").unwrap().id;
    home.brief.devices = vec![FamilyDevice {
        id: FamilyDeviceId::random(),
        name: "console".into(),
        class: "laptop_ac".into(),
        count: 1,
        fixed: true,
        room_id: Some(attic),
    }];
    let told = evening(&home, &home.setups[1]);
    let own = &told.frees[0];
    assert_eq!((own.what.as_str(), own.name.as_str()), ("console", "Attic bedroom"));
    let channel = told.channels.iter().find(|channel| channel.name == own.channel).unwrap();
    let part = channel.parts.iter().find(|part| part.room_id == attic).unwrap().part;
    assert!((own.part - part).abs() < 1e-12);
}

fn series(home: &Home, kit: &str) -> Result<Vec<Setup>, String> {
    let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
    let mut setup = || SetupId::random();
    let mut device = || DeviceId::random();
    let mut ids = NewIds { setup: &mut setup, device: &mut device };
    usual_series(home, &home.setups[0], kit, (&plan, question(Situation::Alone), &kept), &mut ids)
}

#[test]
fn the_usual_series_of_a_kit_is_whole_and_stands_every_check() {
    let mut home = busy_hen_demo::canal_terrace();
    let list = series(&home, "node_ax_tri").unwrap();
    let told: Vec<(&str, &str)> = list.iter().map(|own| (own.letter.as_str(), own.name.as_str())).collect();
    assert_eq!(
        told,
        [
            ("D", "alone"),
            ("E", "second by loose cable"),
            ("F", "second by radio"),
            ("G", "second in Pottery, by radio")
        ]
    );
    assert!(list.iter().all(|own| own.series == list[0].series && own.series.is_some()));
    assert_eq!(list[0].devices.len(), 1);
    assert!(list[1..].iter().all(|own| own.devices.len() == 2));
    assert_eq!(list[1].devices[1].at, list[2].devices[1].at, "cable and radio are compared at one place");
    assert!(matches!(list[1].devices[1].uplink.as_ref().unwrap().via, Via::Cable { loose: true, .. }));
    assert_eq!(list[0].devices[0].at, home.setups[0].devices[0].at, "the line enters where it does");
    let plan = Plan::new(&home.house, home.units);
    for own in &list[1..] {
        let at = |index: usize| plan.place(&own.devices[index].at).unwrap();
        assert!(at(0).distance(&at(1)).get() >= 3.0, "{}: two units side by side try nothing", own.name);
        let room = |index: usize| plan.room_of(&own.devices[index].at).unwrap().id;
        assert_ne!(room(0), room(1));
    }
    home.setups.extend(list);
    busy_hen_job::check::check(&home).unwrap();
    let again = series(&home, "node_ax_tri").unwrap();
    assert_eq!(again[0].letter, "H");
    assert!(again[0].series != home.setups[3].series, "a second series is one of its own");
}

#[test]
fn a_kit_that_cannot_route_hangs_on_the_router_there_is() {
    let mut home = busy_hen_demo::canal_terrace();
    let list = series(&home, "repeater_ac").unwrap();
    assert!(list.iter().all(|own| own.devices[0].kit.0 == "router_ac"));
    home.setups.extend(list);
    busy_hen_job::check::check(&home).unwrap();
    assert!(series(&home, "switch_1g").unwrap_err().contains("serves nobody"));
}

#[test]
fn a_radio_turned_down_reaches_less_and_never_more() {
    let mut home = busy_hen_demo::canal_terrace();
    let middles = |home: &Home| {
        let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
        let question = question(Situation::Alone);
        let ready = busy_hen_predict::ready::Ready::new(&home.setups[0], &plan, &question, &kept);
        ready.middles(home, &home.setups[0], &plan, &question, &kept.tables)
    };
    let before = middles(&home);
    home.setups[0].devices[0].radios.iter_mut().for_each(|radio| radio.turned_down_db = Db::new(9.0));
    let after = middles(&home);
    assert!(before.iter().zip(&after).all(|(a, b)| b.down <= a.down));
    assert!(before.iter().zip(&after).any(|(a, b)| b.down < a.down * 0.7));
}

#[test]
fn a_hand_over_threshold_moves_those_who_cling() {
    let mut home = busy_hen_demo::canal_terrace();
    home.brief.uses.iter_mut().for_each(|own| own.activity = Activity::Browsing);
    let setup = &mut home.setups[1];
    setup.steering = busy_hen_home::Steering::OneName;
    let served_by_node = |setup: &Setup, home: &Home| {
        let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
        let model = Model::new(home, setup, &plan, question(Situation::Alone), &kept);
        let node = setup.devices[1].id;
        let served = |room: &busy_hen_floorplan::PlanRoom| {
            model.at(plan.middle_of(room), Some(room.id)).served.is_some_and(|own| own.device == node)
        };
        plan.rooms.iter().filter(|room| served(room)).count()
    };
    let clinging = home.setups[1].clone();
    let mut eager = clinging.clone();
    eager.devices[0].radios.iter_mut().for_each(|radio| radio.hand_over_dbm = Some(Dbm::new(-50.0)));
    assert!(served_by_node(&eager, &home) > served_by_node(&clinging, &home));
}
