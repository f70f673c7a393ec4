//! The record of kit over homes: what counts, what does not, and how few are said to be few.
#![allow(clippy::unwrap_used, clippy::float_cmp)]

use busy_hen_home::{
    DeviceNote, Drill, DrillId, DrillMark, Failure, Home, Mark, NoteId, Purpose, Round, Run, Sight, Source, TestKind,
    Tick, TickOutcome, Warmth,
};
use busy_hen_job::drills::Phase;
use busy_hen_job::kit_record::{HomeDone, KitRecord, kit_records, recovery_of};
use busy_hen_predict::Knowledge;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_testkit::runs::{round, run};
use busy_hen_units::Metres;
use jiff::{SignedDuration, Timestamp};

/// The demo home with nothing but its setup B: a router and one mesh node by radio.
fn home() -> Home {
    let mut home = busy_hen_demo::canal_terrace();
    home.setups.retain(|own| own.letter == "B");
    home
}

/// Runs of these speeds in the room of this device, served by it.
fn beside(home: &Home, round: &Round, device: usize, speeds: &[f64]) -> Vec<Run> {
    let device = &home.setups[0].devices[device];
    let plan = busy_hen_floorplan::Plan::new(&home.house, home.units);
    let room = plan.room_of(&device.at).unwrap().id;
    let spot = home.house.spots.iter().find(|own| own.room_id == room).expect("a spot beside it");
    speeds.iter().map(|own| Run { serving: Some(device.id), ..run(round, spot.id, *own) }).collect()
}

fn local(home: &Home) -> Round {
    Round { kind: TestKind::Local, ..round("r", home.setups[0].id, Vec::new()) }
}

fn only<'a>(records: &'a [KitRecord], home: &Home, device: usize) -> &'a KitRecord {
    records.iter().find(|own| own.kit == home.setups[0].devices[device].kit).expect("a record of it")
}

fn home_done<'a>(home: &'a Home, taken: Vec<Taken<'a>>) -> HomeDone<'a> {
    HomeDone { home, taken, ticks: &[], drills: &[], notes: &[] }
}

#[test]
fn a_hop_and_a_share_are_those_of_medians_in_local_tests() {
    let home = home();
    let round = local(&home);
    let mut runs = beside(&home, &round, 0, &[400.0, 500.0, 900.0]);
    runs.extend(beside(&home, &round, 1, &[100.0, 200.0, 300.0]));
    // What a stand-in made up, and an internet test, say nothing of kit.
    runs.extend(beside(&home, &round, 1, &[1.0; 9]).into_iter().map(|own| Run { source: Source::Walker, ..own }));
    let internet = Round { kind: TestKind::Internet, ..round.clone() };
    let slow = beside(&home, &internet, 1, &[2.0; 9]);
    let taken =
        vec![Taken { round: &round, home: &home, runs: &runs }, Taken { round: &internet, home: &home, runs: &slow }];
    let records = kit_records(&[home_done(&home, taken)], &Knowledge::default());
    let node = only(&records, &home, 1);
    let hop = node.hop_leaves.unwrap();
    assert!((hop.figures.median - 200.0 / 500.0).abs() < 1e-9 && hop.count == 1, "{node:?}");
    // Over the gigabit port of the router, less what frames take (Ethernet II and TCP over IPv4: 941 Mb/s).
    let share = node.share.unwrap();
    let (low, high) = (share.figures.low, share.figures.high);
    assert!((low - 200.0 / 941.5).abs() < 0.002 && (high - 500.0 / 941.5).abs() < 0.002, "{low} {high}");
    assert_eq!(share.count, 2, "the router is of the same kit");
    assert!(node.told.contains("One home"), "{}", node.told);
    let nothing = Taken { round: &round, home: &home, runs: &runs[6..] };
    assert!(
        kit_records(&[home_done(&home, vec![nothing])], &Knowledge::default()).is_empty(),
        "made up alone is no record"
    );
}

#[test]
fn how_long_kit_took_to_come_back_is_gathered_over_homes_and_told_elsewhere() {
    let home = home();
    let device = home.setups[0].devices[1].id;
    let drill = |s: u32, stopped: bool| Drill {
        id: DrillId::random(),
        setup_id: home.setups[0].id,
        failure: Failure::Power { device },
        begun: Timestamp::UNIX_EPOCH,
        marks: vec![DrillMark { seen: Sight::AllBack, after_ms: s * 1000, by_probe: true }],
        stopped,
        note: String::new(),
    };
    let (one, two, three) = ([drill(90, false), drill(100, false)], [drill(140, false)], [drill(600, true)]);
    let of = |drills: &'static [Drill]| HomeDone { drills, ..home_done(Box::leak(Box::new(home.clone())), Vec::new()) };
    let leak = |list: Vec<Drill>| -> &'static [Drill] { Box::leak(list.into_boxed_slice()) };
    let deeds = [of(leak(one.into())), of(leak(two.into())), of(leak(three.into()))];
    let records = kit_records(&deeds, &Knowledge::default());
    let found = recovery_of(&records, &home.setups[0], Failure::Power { device });
    assert_eq!(found.len(), 1, "{found:?}");
    let own = found[0];
    assert_eq!(
        (own.part, own.took_s.figures.median, own.took_s.count, own.took_s.homes),
        (Phase::AllBack, 100.0, 3, 2)
    );
    assert!(only(&records, &home, 1).told.contains("2 homes: too few"), "{records:?}");
    assert!(recovery_of(&records, &home.setups[0], Failure::Line).is_empty());
    assert!(recovery_of(&records, &home.setups[0], Failure::Backhaul { device }).is_empty());
}

#[test]
fn warmth_faults_range_and_minutes_are_kept_of_the_device_they_belong_to() {
    let home = home();
    let setup = &home.setups[0];
    let (router, node) = (&setup.devices[0], &setup.devices[1]);
    let at = |minutes: i64| Timestamp::UNIX_EPOCH + SignedDuration::from_mins(minutes);
    let tick = |step: String, minutes: i64| Tick {
        setup_id: setup.id,
        step,
        outcome: TickOutcome::Done,
        at: at(minutes),
        by: String::new(),
        note: String::new(),
    };
    // Eleven minutes at the node; the break before its last step counts for nothing.
    let ticks = [
        tick(format!("power on {}", router.id), 0),
        tick(format!("power on {}", node.id), 4),
        tick(format!("admin {}", node.id), 7),
        tick(format!("pair {}", node.id), 11),
        tick(format!("place {}", node.id), 200),
    ];
    let note = |warmth, fault, text: &str| DeviceNote {
        id: NoteId::random(),
        setup_id: setup.id,
        device_id: node.id,
        at: at(0),
        warmth,
        fault,
        text: text.into(),
    };
    let notes = [note(Some(Warmth::Hot), false, ""), note(None, true, "refused guests twice")];
    let range = Round { purpose: Purpose::RangeWalk, ..local(&home) };
    let spot = home.house.spots[0].id;
    let walked = |m: f64, speed: f64| Run {
        serving: Some(node.id),
        mark: Some(Mark { distance_m: Some(Metres::new(m)), ..Mark::default() }),
        ..run(&range, spot, speed)
    };
    let runs = [walked(5.0, 200.0), walked(12.0, 60.0), walked(20.0, 9.0)];
    let taken = vec![Taken { round: &range, home: &home, runs: &runs }];
    let deeds = [HomeDone { ticks: &ticks, notes: &notes, ..home_done(&home, taken) }];
    let records = kit_records(&deeds, &Knowledge::default());
    let own = only(&records, &home, 1);
    assert_eq!(own.setup_minutes.unwrap().figures.median, 11.0);
    assert_eq!((own.warmth, &own.faults[..]), ([0, 0, 1], &["refused guests twice".to_owned()][..]));
    assert_eq!(own.range_m.unwrap().figures.median, 20.0);
    assert_eq!(own.setup_minutes.unwrap().count, 1, "one tick of the router is no measure");
}
