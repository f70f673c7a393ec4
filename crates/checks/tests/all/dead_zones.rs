//! Dead zones and what would mend them: each remedy is held to the prediction of the setup that it proposes.

use busy_hen_catalogue::{Catalogue, clients};
use busy_hen_demo::canal_terrace;
use busy_hen_floorplan::{Plan, Point};
use busy_hen_home::{Activity, Doors, FamilyDevice, FamilyDeviceId, Home, RoomId, Setup, Situation, TestKind, Weather};
use busy_hen_job::dead_zones::{KnownBy, Problem, Remedy, Zone, remedies, worst_place, zones};
use busy_hen_job::findings::Broken;
use busy_hen_predict::layers::cell_for;
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::map::DeadZone;
use busy_hen_predict::needs::Shortfall;
use busy_hen_predict::summary::summarise;
use busy_hen_predict::{Knowledge, Model, Question};
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::MbitPerSec;
use jiff::civil::date;

fn question(situation: Situation) -> Question {
    Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation,
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    }
}

/// A home with its first setup, and the zones of its lit map.
struct Covered {
    home: Home,
    plan: Plan,
    kept: Knowledge,
    question: Question,
    zones: Vec<DeadZone>,
}

impl Covered {
    fn new(home: Home, situation: Situation) -> Self {
        let (plan, kept) = (Plan::new(&home.house, home.units), Knowledge::default());
        let mut lit = Self { home, plan, kept, question: question(situation), zones: Vec::new() };
        let model = lit.model(lit.setup());
        let cell = cell_for(&lit.plan);
        let zones = (0..lit.plan.levels.len()).flat_map(|level| model.coverage(level, cell).dead_zones).collect();
        drop(model);
        lit.zones = zones;
        lit
    }

    fn setup(&self) -> &Setup {
        &self.home.setups[0]
    }

    fn model<'a>(&'a self, setup: &'a Setup) -> Model<'a> {
        Model::new(&self.home, setup, &self.plan, self.question, &self.kept)
    }

    fn room(&self, name: &str) -> RoomId {
        self.home.house.rooms.iter().find(|own| own.name == name).unwrap().id
    }

    fn zones_by(&self, measured: &Measured) -> Vec<Zone> {
        let model = self.model(self.setup());
        zones(&model, &self.zones, &model.ledger(measured))
    }

    fn remedies_found(&self, room: RoomId) -> (Point, Vec<Remedy>) {
        self.remedies_of(room, &Measured::default())
    }

    fn remedies_of(&self, room: RoomId, measured: &Measured) -> (Point, Vec<Remedy>) {
        let model = self.model(self.setup());
        let row = model.ledger(measured).into_iter().find(|own| own.room_id == room).unwrap();
        let at = worst_place(&model, &self.zones, &row).unwrap();
        let Self { home, plan, question, .. } = self;
        let measured = row.measured_short();
        (at, remedies(Problem { home, setup: self.setup(), plan, question: *question, room, at, measured }, &self.kept))
    }
}

#[test]
fn a_zone_is_a_room_with_a_need_that_it_does_not_get_with_its_link_and_its_part_of_the_room() {
    let lit = Covered::new(canal_terrace(), Situation::Alone);
    let zones = lit.zones_by(&Measured::default());
    let pottery = zones.iter().find(|own| own.name == "Pottery").unwrap();
    assert_eq!(pottery.known_by, KnownBy::Tables);
    assert!(pottery.likely_part > 0.9, "{pottery:?}");
    assert!(pottery.area_m2.get() > 0.9 * pottery.room_area_m2.get(), "all of it: {pottery:?}");
    assert!(matches!(pottery.short_of, Shortfall::Download { has_mbps, needs_mbps } if has_mbps < needs_mbps));
    assert!(!pottery.cause.is_empty());
    for zone in &zones {
        assert!(zone.area_m2.get() <= zone.room_area_m2.get() * 1.05, "{zone:?}");
        assert!((0.0..=1.0).contains(&zone.likely_part));
        assert!(lit.home.brief.uses.iter().any(|own| own.room_id == zone.room_id), "{} needs nothing", zone.name);
    }
    assert!(zones.iter().all(|own| own.name != "Front room"), "the router stands there");
}

#[test]
fn a_room_that_is_answered_too_late_lacks_time_and_not_speed_and_its_queue_is_the_remedy() {
    let lit = Covered::new(canal_terrace(), Situation::BusyEvening);
    let zones = lit.zones_by(&Measured::default());
    let late = zones.iter().find(|own| matches!(own.short_of, Shortfall::Delay { .. })).unwrap();
    let Shortfall::Delay { has_ms, needs_ms } = late.short_of else { unreachable!() };
    assert!(has_ms > needs_ms && late.likely_part > 0.5, "{late:?}");
    assert_eq!(late.wall, None, "no wall makes it late");
    assert!(late.cause.contains(&lit.setup().root().unwrap().name), "{}", late.cause);
    let (_, cures) = lit.remedies_found(late.room_id);
    let managed = |own: &&Remedy| own.setup.as_ref().is_some_and(|own| own.root().unwrap().managed_queue);
    let cure = cures.iter().find(managed).unwrap();
    assert!(cure.free && cure.then_ms <= needs_ms && cure.likely_part > 0.9, "{cure:?}");
    for cure in &cures {
        assert!(cure.then_ms < has_ms || cure.likely_part >= 0.5, "{} gives speed, and no answer sooner", cure.what);
    }
}

#[test]
fn a_reading_decides_over_what_is_predicted_and_what_was_made_up_is_called_so() {
    let lit = Covered::new(canal_terrace(), Situation::Alone);
    let front = lit.room("Front room");
    let spot = lit.home.house.spots.iter().find(|own| own.room_id == front).unwrap().id;
    let round = round("r", lit.setup().id, vec![spot]);
    let slow = run(&round, spot, 0.4);
    let measured = |made_up| Measured {
        by_spot: [(spot, summarise(vec![&slow]).unwrap())].into(),
        conditions: Some(busy_hen_predict::conditions::Conditions { made_up, under: slow.under(&round) }),
        asked: None,
    };
    let front_room = |zones: Vec<Zone>| zones.into_iter().find(|own| own.room_id == front).unwrap();
    let really = front_room(lit.zones_by(&measured(false)));
    assert_eq!((really.known_by, really.likely_part), (KnownBy::Measured, 1.0));
    assert!(matches!(really.short_of, Shortfall::Download { has_mbps, .. } if has_mbps == MbitPerSec::new(0.4)));
    let made_up = front_room(lit.zones_by(&measured(true)));
    assert_eq!(made_up.known_by, KnownBy::MadeUp);
    assert!(made_up.likely_part < 0.5, "a stand-in's reading makes nothing certain: {made_up:?}");
}

#[test]
fn each_remedy_brings_what_it_says_and_the_free_ones_go_first() {
    let lit = Covered::new(canal_terrace(), Situation::Alone);
    for name in ["Pottery", "Attic bedroom"] {
        let room = lit.room(name);
        let (at, cures) = lit.remedies_found(room);
        assert!(cures.iter().any(|own| own.likely_part > 0.8), "nothing mends {name}: {cures:#?}");
        let paid = cures.iter().skip_while(|own| own.free);
        assert!(paid.clone().all(|own| !own.free), "free ones first: {cures:#?}");
        let now = lit.model(lit.setup()).at(at, Some(room)).down.middle.get();
        for cure in &cures {
            assert_eq!(cure.as_copy, cure.setup.is_some());
            assert!(cure.free == (cure.costs == Some(0.0)) || !cure.free, "{cure:?}");
            let Some(setup) = &cure.setup else { continue };
            let model = lit.model(setup);
            let then = model.at(at, Some(room)).down.middle;
            assert!((then.get() - cure.then_mbps.get()).abs() < 1e-6, "{name}: {}: {then:?}", cure.what);
            assert!(then.get() > now || cure.likely_part >= 0.5, "{name}: {} helps nobody", cure.what);
            let lost = |own: &String| {
                let room = lit.home.house.rooms.iter().find(|room| room.name == *own).unwrap().id;
                let met = |setup: &Setup| {
                    let (model, middle) = (lit.model(setup), lit.plan.middle_of(lit.plan.room(room).unwrap()));
                    let (need, got) = (model.need(room).unwrap(), model.at(middle, Some(room)));
                    need.met_by(got.down.middle, got.up.middle, got.latency_ms)
                };
                met(lit.setup()) && !met(setup)
            };
            assert!(cure.loses.iter().all(lost), "{name}: {} does not cost {:?}", cure.what, cure.loses);
        }
    }
}

/// Runs of 0.4 Mb/s at the spot of a room.
fn dead(lit: &Covered, room: RoomId) -> Measured {
    let spot = lit.home.house.spots.iter().find(|own| own.room_id == room).unwrap().id;
    let round = round("r", lit.setup().id, vec![spot]);
    let slow = run(&round, spot, 0.4);
    Measured {
        by_spot: [(spot, summarise(vec![&slow]).unwrap())].into(),
        conditions: Some(busy_hen_predict::conditions::Conditions { made_up: false, under: slow.under(&round) }),
        asked: None,
    }
}

#[test]
fn a_spot_measured_dead_is_not_cured_by_what_the_prediction_alone_promises() {
    let lit = Covered::new(canal_terrace(), Situation::Alone);
    let room = lit.room("Kitchen");
    let (_, cures) = lit.remedies_of(room, &dead(&lit, room));
    for cure in cures.iter().filter(|own| own.free && own.setup.is_some()) {
        let stays = cure.setup.as_ref().unwrap().devices.iter().zip(&lit.setup().devices).all(|(a, b)| a.at == b.at);
        assert!(!stays || cure.likely_part < 0.5, "{} was measured to give nothing there", cure.what);
    }
    assert!(cures.iter().any(|own| own.likely_part > 0.5), "a device nearer still mends it: {cures:#?}");
}

#[test]
fn no_remedy_breaks_a_rule_and_what_is_put_outdoors_is_made_for_it() {
    for home in [canal_terrace(), busy_hen_demo::gasworks_flat()] {
        let lit = Covered::new(home, Situation::Alone);
        let (catalogue, before) = (Catalogue::of(&lit.home), broken(&lit, lit.setup()));
        for zone in lit.zones_by(&Measured::default()) {
            for cure in lit.remedies_found(zone.room_id).1 {
                let Some(setup) = &cure.setup else { continue };
                assert!(!broken(&lit, setup).adds_to(&before), "{}: {}", zone.name, cure.what);
                for device in setup.devices.iter().filter(|own| lit.setup().device(own.id).is_none()) {
                    let outdoors = lit.plan.room_of(&device.at).is_some_and(|room| room.outdoors);
                    let made_for_it = catalogue.kit(&device.kit.0).unwrap().facts.weather == Weather::Outdoors;
                    assert!(!outdoors || made_for_it, "{} stands in the rain", device.name);
                }
            }
        }
    }
}

fn broken(lit: &Covered, setup: &Setup) -> Broken {
    Broken::of(&lit.home, setup, &lit.plan, lit.question, &lit.kept)
}

#[test]
fn what_stands_still_is_wired_out_of_the_way_of_the_others() {
    let mut home = canal_terrace();
    // More films than the air up there carries.
    let films = home.brief.uses.iter_mut().filter(|own| own.activity == Activity::UhdFilm);
    films.for_each(|own| own.people = 8);
    let still = |name: &str, room: &str, home: &Home, fixed: bool| FamilyDevice {
        id: FamilyDeviceId::named(name),
        name: name.to_owned(),
        class: "phone_ac".into(),
        count: 8,
        fixed,
        room_id: home.house.rooms.iter().find(|own| own.name == room).map(|own| own.id),
    };
    let wires = |home: &Home| {
        let lit = Covered::new(home.clone(), Situation::BusyEvening);
        let zones = lit.zones_by(&Measured::default());
        let list = zones.iter().flat_map(|zone| lit.remedies_found(zone.room_id).1.into_iter().map(|own| own.what));
        list.filter(|what| what.contains("screen")).collect::<Vec<String>>()
    };
    home.brief.devices = vec![still("the screen", "Attic bedroom", &home, false)];
    assert!(wires(&home).is_empty(), "what is carried about hangs on no cable");
    home.brief.devices = vec![still("the screen", "Attic bedroom", &home, true)];
    let told = wires(&home);
    assert!(told.iter().any(|own| own == "a cable to the screen in Attic bedroom"), "{told:?}");
    // Where a device with ports stands in the room, a patch cord does it.
    home.brief.devices = vec![still("the screen", "Front room", &home, true)];
    let lit = Covered::new(home, Situation::BusyEvening);
    let cures: Vec<Remedy> =
        lit.zones_by(&Measured::default()).iter().flat_map(|zone| lit.remedies_found(zone.room_id).1).collect();
    let plugged: Vec<&Remedy> = cures.iter().filter(|own| own.what.contains("screen")).collect();
    assert!(!plugged.is_empty());
    for own in plugged {
        assert_eq!(own.what, "plug the screen in Front room into Router");
        assert!(own.free && !own.as_copy);
    }
}
