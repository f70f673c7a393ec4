//! What becomes of a setup when one thing of it fails, against brute force over all trees and against practice.

use busy_hen_catalogue::spectrum::region;
use busy_hen_catalogue::{AsItComes, Catalogue, clients};
use busy_hen_demo::canal_terrace;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    AccessLine, Band, CableClass, Device, DeviceId, Doors, Drill, DrillId, DrillMark, Failure, Home, Mode,
    Plan as LinePlan, PlanId, Position, SecondLine, SecondLineUse, Setup, SetupId, Sight, Situation, Steering,
    TestKind, Uplink, Via,
};
use busy_hen_job::drills::phase::{Phase, took};
use busy_hen_job::drills::reselection::{reselect, way};
use busy_hen_job::drills::{drilled, failures, outage, outages};
use busy_hen_job::parts::cabling::Corner;
use busy_hen_job::walked::{HandOverWalk, WalkHow, WalkStretch, hand_over_walk};
use busy_hen_predict::handover::HandOverAt;
use busy_hen_predict::ledger::Measured;
use busy_hen_predict::{Knowledge, Model, Question, network_of};
use busy_hen_testkit::dwellings::dwelling;
use busy_hen_units::{Dbm, Metres};
use jiff::civil::date;
use rand::prelude::*;
use rand_chacha::ChaCha8Rng;

fn question() -> Question {
    Question {
        client: clients::find("phone_ax").unwrap(),
        band: None,
        situation: Situation::Alone,
        doors: Doors::AsLeft,
        reach: TestKind::Internet,
        day: date(2026, 11, 1),
    }
}

/// A mesh node in the middle of a room.
fn node(home: &Home, plan: &Plan, name: &str, room: usize, to: Option<&str>, via: Via) -> Device {
    let kit = Catalogue::of(home).kit("node_ax_dual").unwrap().clone();
    let room = &plan.rooms[room];
    let middle = plan.middle_of(room);
    let like = canal_terrace().setups[1].devices[1].clone();
    Device {
        id: DeviceId::named(name),
        name: name.to_owned(),
        kit: "node_ax_dual".into(),
        mode: if to.is_none() { Mode::Router } else { Mode::MeshNode },
        uplink: to.map(|to| Uplink::new(DeviceId::named(to), via)),
        radios: kit.radio_settings(region::find(&home.region).unwrap()),
        at: Position {
            level_id: plan.levels[room.level].id,
            x_m: Metres::new(middle.x),
            y_m: Metres::new(middle.y),
            height_m: Metres::new(1.0),
        },
        ..like
    }
}

/// A mesh of this many devices in rooms of a made-up dwelling, each hanging on some earlier one.
fn mesh(number: u64, count: usize) -> (Home, Plan, Setup) {
    let home = dwelling(number);
    let plan = Plan::new(&home.house, home.units);
    let mut rng = ChaCha8Rng::seed_from_u64(number);
    let mut rooms: Vec<usize> = (0..plan.rooms.len()).filter(|room| !plan.rooms[*room].outdoors).collect();
    rooms.shuffle(&mut rng);
    let names = ["one", "two", "three", "four", "five"];
    let devices = (0..count.min(rooms.len()))
        .map(|index| {
            let to = (index > 0).then(|| names[rng.random_range(0..index)]);
            node(&home, &plan, names[index], rooms[index], to, Via::BestRadio)
        })
        .collect();
    let setup = Setup::new(SetupId::named("mesh"), "M", "mesh", devices);
    (home, plan, setup)
}

/// Least airtime of the way of each orphan, over all trees there are.
fn by_brute_force(home: &Home, plan: &Plan, kept: &Knowledge, left: &Setup, orphans: &[DeviceId]) -> Vec<Option<f64>> {
    let mut best: Vec<Option<f64>> = vec![None; orphans.len()];
    let ids: Vec<DeviceId> = left.devices.iter().map(|own| own.id).collect();
    let trees = ids.len().pow(u32::try_from(orphans.len()).unwrap());
    for tree in 0..trees {
        let mut tried = left.clone();
        let mut digits = tree;
        for orphan in orphans {
            let to = ids[digits % ids.len()];
            digits /= ids.len();
            let own = tried.devices.iter_mut().find(|own| own.id == *orphan).unwrap();
            own.uplink = Some(Uplink::new(to, Via::BestRadio));
        }
        // Rings, and trees that hang on themselves, are no ways.
        let root = tried.root().unwrap().id;
        let reaches = |id: DeviceId| {
            let mut at = id;
            for _ in 0..ids.len() {
                if at == root {
                    return true;
                }
                at = tried.device(at).unwrap().uplink.as_ref().unwrap().to;
            }
            at == root
        };
        if !orphans.iter().all(|orphan| reaches(*orphan)) {
            continue;
        }
        let network = network_of(home, &tried, plan, &question(), kept);
        for (place, orphan) in best.iter_mut().zip(orphans) {
            let own = way(&network, *orphan);
            *place = match (*place, own) {
                (Some(a), Some(b)) => Some(a.min(b)),
                (a, b) => a.or(b),
            };
        }
    }
    best
}

#[test]
fn orphans_take_the_way_that_no_tree_betters() {
    let (mut failed, mut moved, mut none) = (0, 0, 0);
    for number in 0..24 {
        let (home, plan, setup) = mesh(number, 3 + (number % 3) as usize);
        let kept = Knowledge::default();
        for gone in setup.devices.iter().filter(|own| own.uplink.is_some()).map(|own| own.id) {
            let standing = reselect(&home, &setup, (Some(gone), &[]), (&plan, &question(), &kept));
            let mut left = setup.clone();
            left.devices.retain(|own| own.id != gone);
            // Whose way led over what is gone.
            let orphans: Vec<DeviceId> = left
                .devices
                .iter()
                .filter(|own| {
                    let mut at = own.uplink.as_ref().map(|up| up.to);
                    while let Some(up) = at {
                        if up == gone {
                            return true;
                        }
                        at = setup.device(up).and_then(|own| own.uplink.as_ref()).map(|up| up.to);
                    }
                    false
                })
                .map(|own| own.id)
                .collect();
            if orphans.is_empty() {
                assert!(standing.rejoined.is_empty() && standing.lost.is_empty());
                continue;
            }
            failed += 1;
            let network = network_of(&home, &standing.setup, &plan, &question(), &kept);
            let best = by_brute_force(&home, &plan, &kept, &left, &orphans);
            for (orphan, best) in orphans.iter().zip(best) {
                let own = standing.setup.device(*orphan).and_then(|_| way(&network, *orphan));
                match (own, best) {
                    (Some(own), Some(best)) => {
                        assert!(own <= best * (1.0 + 1e-9), "dwelling {number}: {own} s/Mb, a tree has {best}");
                        moved += 1;
                    }
                    (None, best) => {
                        assert_eq!(best, None, "dwelling {number}: there is a way");
                        assert!(standing.lost.contains(orphan));
                        none += 1;
                    }
                    (Some(own), None) => panic!("dwelling {number}: a way of {own} that is in no tree"),
                }
            }
        }
    }
    println!("{failed} failures, {moved} devices moved, {none} found no way");
    assert!(failed > 20 && moved > 20);
}

/// Hall, then kitchen, then a far room, one behind the other; each hears the one before it.
fn chain() -> (Home, Plan, Setup) {
    let home = canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let room = |name: &str| plan.rooms.iter().position(|own| own.name == name).unwrap();
    let devices = vec![
        node(&home, &plan, "router", room("Front room"), None, Via::BestRadio),
        node(&home, &plan, "middle", room("Kitchen"), Some("router"), Via::BestRadio),
        node(&home, &plan, "upstairs", room("Landing"), Some("router"), Via::BestRadio),
        node(&home, &plan, "far", room("Bathroom"), Some("middle"), Via::BestRadio),
    ];
    let setup = Setup::new(SetupId::named("chain"), "D", "chain", devices);
    (home, plan, setup)
}

#[test]
fn the_far_node_of_a_chain_goes_by_the_next_best() {
    let (home, plan, setup) = chain();
    let kept = Knowledge::default();
    let id = DeviceId::named;
    let own = outage(&home, &setup, Failure::Power { device: id("middle") }, (&plan, &question(), &kept)).unwrap();
    let [way] = &own.rejoined[..] else { panic!("{own:?}") };
    assert_eq!((way.device_id, way.to), (id("far"), id("upstairs")), "its nearest neighbour on the same floor");
    assert!(own.lost.is_empty());
    assert!(own.told[0].starts_with("far goes by upstairs, which carries "), "{:?}", own.told);
    assert_eq!(own.doing, "pull the power of middle");
    let kitchen = own.rooms.iter().find(|own| own.name == "Kitchen").unwrap();
    assert!(kitchen.left_mbps < kitchen.before_mbps, "{kitchen:?}");
    // What hangs on nothing that fails keeps its way.
    assert!(own.rejoined.iter().all(|own| own.device_id != id("upstairs")));
}

#[test]
fn a_pulled_backhaul_cable_falls_over_to_the_air_and_an_access_point_waits_for_it() {
    let (home, plan, mut setup) = chain();
    let kept = Knowledge::default();
    setup.devices[1].uplink = Some(Uplink::new(DeviceId::named("router"), Via::cable(CableClass::Cat6)));
    let failure = Failure::Backhaul { device: DeviceId::named("middle") };
    let own = outage(&home, &setup, failure, (&plan, &question(), &kept)).unwrap();
    assert_eq!(own.rejoined[0].device_id, DeviceId::named("middle"));
    assert!(own.lost.is_empty());
    setup.devices[1].mode = Mode::AccessPoint;
    let own = outage(&home, &setup, failure, (&plan, &question(), &kept)).unwrap();
    assert!(own.lost.contains(&DeviceId::named("middle")), "an access point has no other way: {own:?}");
    assert!(own.told.iter().any(|told| told.contains("middle finds no other way")), "{:?}", own.told);
}

#[test]
fn a_dead_line_leaves_the_home_its_own_network_and_no_power_leaves_nothing() {
    let (home, plan, setup) = chain();
    let kept = Knowledge::default();
    let told = |failure, reach| {
        let question = Question { reach, ..question() };
        outage(&home, &setup, failure, (&plan, &question, &kept)).unwrap()
    };
    let internet = told(Failure::Line, TestKind::Internet);
    assert!(internet.rooms.iter().all(|own| own.left_mbps.get() == 0.0 && own.met != Some(true)));
    let local = told(Failure::Line, TestKind::Local);
    assert!(local.rooms.iter().all(|own| own.left_mbps == own.before_mbps));
    let dark = told(Failure::Everything, TestKind::Local);
    assert_eq!(dark.lost.len(), 4);
    assert!(dark.rooms.iter().all(|own| own.left_mbps.get() == 0.0));
    let router = told(Failure::Power { device: DeviceId::named("router") }, TestKind::Local);
    assert_eq!(router.lost.len(), 3, "no way leads to a line that is not there");
    assert_eq!(router.told.last().unwrap(), "Nothing is left in any room.");
    let nodes = told(Failure::AllNodes, TestKind::Internet);
    assert_eq!(nodes.lost.len(), 3);
    let front = nodes.rooms.iter().find(|own| own.name == "Front room").unwrap();
    assert!(front.left_mbps.get() > 0.9 * front.before_mbps.get(), "the router serves its own room: {front:?}");
}

#[test]
fn a_second_line_keeps_what_its_own_plan_lets_through_and_by_hand_nothing_is_usual() {
    let (mut home, plan, setup) = chain();
    let sold = LinePlan::sold(PlanId::named("second"), date(2026, 6, 1), (20.0, 5.0), AccessLine::Mobile);
    home.brief.second_line = Some(SecondLine { carries: SecondLineUse::TakesOver, plans: vec![sold] });
    let kept = Knowledge::default();
    let question = question();
    let told = |home: &Home, day| {
        let question = Question { day, ..question };
        outage(home, &setup, Failure::Line, (&plan, &question, &kept)).unwrap()
    };
    let dead = told(&home, question.day);
    assert!(dead.takes_over && dead.told[0].starts_with("The second line takes over"), "{:?}", dead.told);
    let most = dead.rooms.iter().map(|own| own.left_mbps.get()).fold(0.0, f64::max);
    assert!((15.0..=20.0).contains(&most), "{most}");
    assert!(drilled(&setup, dead, &[], &[]).usual.iter().any(|own| own.part == Phase::TookOver));
    // Before its plan holds there is none.
    let before = told(&home, date(2026, 5, 31));
    assert!(before.rooms.iter().all(|own| own.left_mbps.get() == 0.0) && !before.takes_over);
    home.brief.second_line.as_mut().unwrap().carries = SecondLineUse::ByHand;
    let by_hand = told(&home, question.day);
    assert!(by_hand.told[0].starts_with("Somebody switches"), "{:?}", by_hand.told);
    assert!(drilled(&setup, by_hand, &[], &[]).usual.iter().all(|own| own.part != Phase::TookOver));
}

#[test]
fn everything_that_can_fail_is_offered_once_and_what_is_not_there_fails_nothing() {
    let (home, plan, mut setup) = chain();
    setup.devices[1].uplink = Some(Uplink::new(DeviceId::named("router"), Via::cable(CableClass::Cat6)));
    let list = failures(&home, &setup);
    assert_eq!(list.len(), 4 + 1 + 1 + 2 + 1, "{list:?}");
    let kept = Knowledge::default();
    let (question, asked_with) = (question(), &kept);
    let asked = (&plan, &question, asked_with);
    let told = outages(&home, &setup, asked);
    assert_eq!(told.iter().map(|own| own.failure).collect::<Vec<_>>(), list);
    for own in told {
        assert_eq!(outage(&home, &setup, own.failure, asked).as_ref(), Some(&own), "asked for alone it is the same");
        assert!(own.rooms.iter().all(|room| !room.loses || room.left_mbps < room.before_mbps));
    }
    assert!(outage(&home, &setup, Failure::Power { device: DeviceId::named("nobody") }, asked).is_none());
    assert!(outage(&home, &setup, Failure::Backhaul { device: DeviceId::named("router") }, asked).is_none());
    let one = Setup { devices: setup.devices[..1].to_vec(), ..setup };
    assert_eq!(failures(&home, &one).len(), 4, "power, the line, everything, the old network");
}

#[test]
fn a_network_that_was_forgotten_gives_what_the_old_device_alone_gave() {
    let home = canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let (kept, question) = (Knowledge::default(), question());
    let old = |letter: usize| {
        let all = failures(&home, &home.setups[letter]);
        all.into_iter().find(|own| matches!(own, Failure::OldNetwork { .. }))
    };
    assert_eq!(old(0), None, "as found nothing is old");
    let told = outage(&home, &home.setups[2], old(2).unwrap(), (&plan, &question, &kept)).unwrap();
    assert_eq!(told.doing, "leave the Wi-Fi of the old Router on");
    assert!(told.told[0].contains("without a word"), "{:?}", told.told);
    // Setup A is that router and nothing else.
    for row in Model::new(&home, &home.setups[0], &plan, question, &kept).ledger(&Measured::default()) {
        let own = told.rooms.iter().find(|own| own.room_id == row.room_id).unwrap();
        assert_eq!(own.left_mbps, row.predicted.down.middle, "{}", own.name);
    }
    assert!(told.rooms.iter().any(|own| own.was_met == Some(true) && own.met == Some(false)), "the pottery");
    let nobody = Failure::OldNetwork { device: DeviceId::named("nobody") };
    assert!(outage(&home, &home.setups[2], nobody, (&plan, &question, &kept)).is_none());
}

fn drill(name: &str, failure: Failure, marks: &[(Sight, u32)]) -> Drill {
    Drill {
        id: DrillId::named(name),
        setup_id: SetupId::named("chain"),
        failure,
        begun: jiff::Timestamp::UNIX_EPOCH,
        marks: marks
            .iter()
            .map(|(seen, after_ms)| DrillMark { seen: *seen, after_ms: *after_ms, by_probe: false })
            .collect(),
        stopped: false,
        note: String::new(),
    }
}

#[test]
fn a_part_counts_from_when_it_was_put_back_and_a_fall_over_from_the_pull() {
    let own = drill(
        "one",
        Failure::Line,
        &[(Sight::LossNoticed, 2_000), (Sight::FirstLife, 12_000), (Sight::PutBack, 30_000), (Sight::AllBack, 36_500)],
    );
    assert_eq!(took(&own, Phase::Noticed), Some(2.0));
    assert_eq!(took(&own, Phase::FirstLife), Some(12.0), "it fell over while the cable was out");
    assert_eq!(took(&own, Phase::AllBack), Some(6.5));
    assert_eq!(took(&own, Phase::FirstChoice), None);
}

#[test]
fn repeats_come_to_a_middle_and_are_set_against_what_is_usual_and_predicted() {
    let (home, plan, setup) = chain();
    let kept = Knowledge::default();
    let id = DeviceId::named;
    let failure = Failure::Power { device: id("middle") };
    let predicted = outage(&home, &setup, failure, (&plan, &question(), &kept)).unwrap();
    let way = |to: &str| Sight::Rejoined { device: id("far"), to: id(to) };
    let slow = |name: &str, back: u32, to: &str| {
        drill(name, failure, &[(way(to), 20_000), (Sight::PutBack, 60_000), (Sight::AllBack, 60_000 + back)])
    };
    let mut list = vec![slow("a", 380_000, "upstairs"), slow("b", 400_000, "upstairs"), slow("c", 420_000, "upstairs")];
    list.push(drill("other", Failure::Line, &[(Sight::AllBack, 1_000)]));
    let told = drilled(&setup, predicted.clone(), &list, &[]);
    let [back] = &told.timed[..] else { panic!("{:?}", told.timed) };
    assert_eq!((back.part, back.drills, back.took_s.median), (Phase::AllBack, 3, 400.0));
    assert!(told.told.iter().any(|own| own.contains("slower than usual")), "{:?}", told.told);
    assert!(told.told.iter().any(|own| own == "far went by upstairs, as predicted."), "{:?}", told.told);
    let mut newest = slow("d", 200_000, "router");
    newest.begun = jiff::Timestamp::from_second(1_000).unwrap();
    newest.marks.insert(1, DrillMark { seen: Sight::SessionBroke, after_ms: 21_000, by_probe: false });
    newest.stopped = true;
    list.push(newest);
    let told = drilled(&setup, predicted.clone(), &list, &[]).told;
    assert!(told.iter().any(|own| own == "far went by router, not by upstairs as predicted."), "{told:?}");
    assert!(
        told.iter().any(|own| own == "A call or download broke.") && told.iter().any(|own| own.contains("broken off"))
    );
    let none = drilled(&setup, predicted, &[], &[]);
    assert!(none.timed.is_empty() && none.told.is_empty() && !none.usual.is_empty());
}

/// What of a radio is handed over where.
fn hand_over(setup: &Setup, home: &Home, plan: &Plan, device: &str, band: Band) -> Option<HandOverAt> {
    let kept = Knowledge::default();
    // Within the home: a line that both fill would hide who serves better.
    let question = Question { reach: TestKind::Local, ..question() };
    let model = Model::new(home, setup, plan, question, &kept);
    model.hand_overs().into_iter().find(|own| own.device_id == DeviceId::named(device) && own.band == band)
}

#[test]
fn a_threshold_sends_a_phone_off_where_another_node_serves_it_better_and_higher_at_2_4() {
    let (home, plan, mut setup) = chain();
    setup.steering = Steering::OneName;
    let find = |setup: &Setup, band| hand_over(setup, &home, &plan, "router", band).unwrap();
    let (low, high) = (find(&setup, Band::Ghz2_4), find(&setup, Band::Ghz5));
    assert!(
        low.proposed_dbm.get() >= high.proposed_dbm.get() + 6.0,
        "the far router stays loud at 2.4 GHz: {low:?} {high:?}"
    );
    // Common practice: about -70 dBm at 5 GHz.
    assert!((-78.0..=-64.0).contains(&high.proposed_dbm.get()), "{high:?}");
    // Left to the client it clings where the setting would send it on.
    assert!(low.set_dbm.is_none() && !low.clings.is_empty(), "{low:?}");
    assert!(low.told.contains("hand over below"), "{}", low.told);
    // Left to the phone nobody is sent off, and nothing is proposed that no room feels.
    let kept = Knowledge::default();
    let asked = Question { reach: TestKind::Local, ..question() };
    for own in Model::new(&home, &setup, &plan, asked, &kept).hand_overs() {
        assert!(own.sent_off.is_empty(), "{own:?}");
        assert_eq!(own.worth_setting, own.told.contains("hand over below"), "{own:?}");
        assert!(own.worth_setting || own.told.ends_with("leave it to the phone."), "{own:?}");
    }
    // Kit that steers, and names of their own, make thresholds pointless.
    for (steering, words) in [(Steering::Guided, "which steers."), (Steering::OwnNames, "once it is gone.")] {
        let other = Setup { steering, ..setup.clone() };
        let own = find(&other, Band::Ghz2_4);
        assert!(own.clings.is_empty() && !own.worth_setting && own.told.ends_with(words), "{own:?}");
    }
    // As proposed nobody clings as much, and the sentence says that it will do.
    let radio = setup.devices[0].radios.iter_mut().find(|own| own.band == Band::Ghz2_4).unwrap();
    radio.hand_over_dbm = Some(low.proposed_dbm);
    let set = find(&setup, Band::Ghz2_4);
    assert_eq!(set.proposed_dbm, low.proposed_dbm);
    assert!(set.clings.len() < low.clings.len(), "{set:?}");
    assert!(set.told.ends_with("as it is set will do."), "{}", set.told);
    // Far too high, and phones are sent off to a node that is far away.
    let pottery = plan.rooms.iter().position(|own| own.name == "Pottery").unwrap();
    let cable = Via::cable(CableClass::Cat6);
    let mut two = Setup { devices: setup.devices[..1].to_vec(), ..setup };
    two.devices.push(node(&home, &plan, "pottery", pottery, Some("router"), cable));
    two.devices[0].radios.iter_mut().for_each(|own| own.hand_over_dbm = Some(Dbm::new(-41.0)));
    let eager = find(&two, Band::Ghz5);
    assert!(eager.sent_off.iter().any(|own| own == "Hall"), "{eager:?}");
    assert!(eager.told.contains("sent off in"), "{}", eager.told);
}

/// Metres of a walk on which the hand-over is so.
fn metres(walk: &HandOverWalk, how: WalkHow) -> f64 {
    let long = |points: &[Corner]| -> f64 {
        points.windows(2).map(|two| (two[1].x_m - two[0].x_m).get().hypot((two[1].y_m - two[0].y_m).get())).sum()
    };
    walk.stretches.iter().filter(|own| own.how == how).map(|own| long(&own.points)).sum()
}

#[test]
fn a_walk_is_too_eager_where_thresholds_are_high_and_too_sticky_where_they_are_low() {
    let (home, plan) = (canal_terrace(), Plan::new(&canal_terrace().house, canal_terrace().units));
    let kept = Knowledge::default();
    let walk = |set: Option<f64>, steering: Steering| {
        let mut setup = home.setups[2].clone();
        setup.steering = steering;
        let radios = setup.devices.iter_mut().flat_map(|own| &mut own.radios);
        radios.for_each(|radio| radio.hand_over_dbm = set.map(Dbm::new));
        let question = Question { reach: TestKind::Local, ..question() };
        hand_over_walk(&Model::new(&home, &setup, &plan, question, &kept))
    };
    let [high, low] = [-45.0, -88.0].map(|set| walk(Some(set), Steering::OneName));
    let [by_itself, guided] = [Steering::OneName, Steering::Guided].map(|steering| walk(None, steering));
    let of = |how| [&high, &by_itself, &low].map(|own| metres(own, how));
    let (eager, sticky) = (of(WalkHow::TooEager), of(WalkHow::TooSticky));
    assert!(eager[0] > 1.0 && eager[1] < 0.5 && eager[2] < 0.5, "{eager:?} {:?}", high.told);
    assert!(sticky[2] > sticky[1] && sticky[2] > 3.0, "{sticky:?}");
    assert!(low.changes.len() <= by_itself.changes.len() && by_itself.changes.len() <= high.changes.len());
    assert!(metres(&guided, WalkHow::TooSticky) < 0.5, "one that is guided goes where it is served best");
    assert_eq!(guided.told, ["Neither too sticky nor too eager anywhere on the way."]);
    assert!(
        low.told[0].starts_with("Too sticky for ") && high.told.iter().any(|own| own.starts_with("Too eager for "))
    );
    // It leads through every room indoors, on foot: each step lies in a room.
    let indoors = plan.rooms.iter().filter(|room| !room.outdoors);
    for room in indoors {
        let level = plan.levels[room.level].id;
        let there = |own: &WalkStretch| {
            own.level_id == level && own.points.iter().any(|at| room.contains(at.x_m.get(), at.y_m.get()))
        };
        assert!(low.stretches.iter().any(there), "{} is left out", room.name);
    }
}

#[test]
fn one_device_alone_hands_nobody_over() {
    let (home, plan, setup) = chain();
    let one = Setup { devices: setup.devices[..1].to_vec(), ..setup };
    assert_eq!(hand_over(&one, &home, &plan, "router", Band::Ghz5), None);
}
