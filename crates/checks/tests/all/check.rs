//! What the checks refuse: one change to a sound home or run each, and the place they name.

use busy_hen_demo::canal_terrace;
use busy_hen_home::{
    Band, CableClass, Faults, Home, Mark, Mode, Outcome, Purpose, Round, Run, SetupId, Side, SpotId, TestKind, Uplink,
    Via, WallChoice,
};
use busy_hen_job::check::{CeilingBy, check, check_new_run, check_round, check_run, over_ceiling};
use busy_hen_testkit::runs;
use busy_hen_units::{Dbm, MbitPerSec, Megahertz, Millis};

fn pointers(result: Result<(), Faults>) -> Vec<String> {
    result.err().map(|faults| faults.list().iter().map(|fault| fault.pointer.clone()).collect()).unwrap_or_default()
}

fn home_with(change: impl FnOnce(&mut Home)) -> Vec<String> {
    let mut home = canal_terrace();
    change(&mut home);
    pointers(check(&home))
}

/// A side of a room said to be made of what makes floors, as files of before may have it.
fn timber_wall(home: &Home) -> WallChoice {
    let room_id = home.house.rooms[0].id;
    WallChoice { room_id, side: Side::North, material: "timber_floor".into(), thickness_m: None }
}

#[test]
fn the_demo_home_is_sound() {
    assert_eq!(home_with(|_| {}), Vec::<String>::new());
}

#[test]
fn unknown_materials_kit_and_countries_are_refused_where_they_stand() {
    assert_eq!(home_with(|home| home.region = "XX".into()), ["/region"]);
    assert_eq!(home_with(|home| home.house.inner_wall = "cheese".into()), ["/house/inner_wall"]);
    assert_eq!(home_with(|home| home.house.levels[1].floor = "brick105".into()), ["/house/levels/1/floor"]);
    assert_eq!(home_with(|home| home.house.walls = vec![timber_wall(home)]), ["/house/walls/0/material"]);
    assert_eq!(home_with(|home| home.setups[0].devices[0].kit = "toaster".into()), ["/setups/0/devices/0/kit"]);
}

#[test]
fn channels_that_the_country_forbids_are_refused() {
    let channel = |country: &'static str, channel: u16| {
        home_with(|home| {
            home.region = country.into();
            home.setups[0].devices[0].radios[0].channel = channel;
        })
    };
    assert_eq!(channel("GB", 13), Vec::<String>::new());
    assert_eq!(channel("US", 13), ["/setups/0/devices/0/radios/0/channel"]);
    assert_eq!(channel("GB", 15), ["/setups/0/devices/0/radios/0/channel"]);
}

#[test]
fn radios_do_what_their_kit_can() {
    let at = "/setups/0/devices/0/radios";
    assert_eq!(home_with(|home| home.setups[0].devices[0].radios.truncate(1)), [at]);
    assert_eq!(
        home_with(|home| home.setups[0].devices[0].radios[1].width_mhz = Megahertz::new(160.0)),
        [format!("{at}/1/width_mhz")]
    );
    assert_eq!(home_with(|home| home.setups[0].devices[0].radios[1].band = Band::Ghz6), [format!("{at}/1/band")]);
}

#[test]
fn modes_and_uplinks_fit_each_other() {
    assert_eq!(home_with(|home| home.setups[0].devices[0].mode = Mode::Repeater).len(), 2, "not its mode, no uplink");
    assert_eq!(
        home_with(|home| {
            let to = home.setups[2].devices[0].id;
            home.setups[2].devices[2].uplink = Some(Uplink::new(to, Via::Radio { radio: 1 }));
        }),
        ["/setups/2/devices/2/uplink"]
    );
    assert_eq!(
        home_with(|home| {
            let to = home.setups[1].devices[0].id;
            home.setups[1].devices[1].uplink = Some(Uplink::new(to, Via::cable(CableClass::Cat5)));
        }),
        Vec::<String>::new()
    );
}

fn sound_round() -> Round {
    runs::round("r", SetupId::named("A"), vec![SpotId::named("Study"), SpotId::named("Hall")])
}

fn round_with(change: impl FnOnce(&mut Round)) -> Vec<String> {
    let mut round = sound_round();
    change(&mut round);
    pointers(check_round(&canal_terrace(), &round))
}

#[test]
fn rounds_fit_their_home() {
    assert_eq!(round_with(|_| {}), Vec::<String>::new());
    assert_eq!(round_with(|round| round.setup_id = SetupId::named("Z")), ["/setup_id"]);
    assert_eq!(round_with(|round| round.client = "abacus".into()), ["/client"]);
    assert_eq!(round_with(|round| round.band = Some(Band::Ghz6)), ["/band"], "an ax phone without 6 GHz");
    assert_eq!(round_with(|round| round.runs_per_spot = 0), ["/runs_per_spot"]);
    assert_eq!(round_with(|round| round.spots.clear()), ["/spots"]);
    assert_eq!(round_with(|round| round.spots.push(SpotId::named("Moon"))), ["/spots"]);
    assert_eq!(round_with(|round| round.spots.push(SpotId::named("Hall"))), ["/spots"]);
}

fn run_with(change: impl FnOnce(&mut Run)) -> Vec<String> {
    let round = sound_round();
    let mut run = runs::run(&round, SpotId::named("Study"), 80.0);
    change(&mut run);
    pointers(check_run(&canal_terrace(), &round, &run))
}

fn measured(down: f64, up: f64, idle: f64, loss: f64) -> Outcome {
    Outcome::Measured {
        down_mbps: MbitPerSec::new(down),
        up_mbps: MbitPerSec::new(up),
        idle_ms: Some(Millis::new(idle)),
        loaded_ms: None,
        jitter_ms: None,
        loss_percent: Some(loss),
    }
}

#[test]
fn a_new_run_of_a_round_that_goes_by_marks_has_one() {
    let home = busy_hen_demo::canal_terrace();
    let round = Round { purpose: Purpose::RangeWalk, ..sound_round() };
    let bare = busy_hen_testkit::runs::run(&round, round.spots[0], 20.0);
    assert_eq!(pointers(check_new_run(&home, &round, &bare)), ["/mark"]);
    check_run(&home, &round, &bare).expect("one from before that was asked is still read");
    let marked = Run { mark: Some(Mark { name: "gate".into(), ..Mark::default() }), ..bare };
    check_new_run(&home, &round, &marked).expect("it says where");
}

#[test]
fn what_no_such_device_takes_is_asked_about_as_wide_as_the_channel_was() {
    let home = busy_hen_demo::canal_terrace();
    let round = Round { kind: TestKind::Local, client: "laptop_ax".into(), ..sound_round() };
    let mut fast = home.clone();
    fast.setups[0].devices[0].kit = "router_be".into();
    let of = |down: f64, width: f64| {
        let own = busy_hen_testkit::runs::run(&round, round.spots[0], down);
        let run = Run { band: Some(Band::Ghz5), width_mhz: Some(Megahertz::new(width)), ..own };
        over_ceiling(&fast, &round, &run, None).map(|own| own.by)
    };
    // Two streams of ax over 80 MHz link at 1201 Mb/s, over 160 MHz at 2402 (IEEE 802.11 clause 27.5).
    assert_eq!(of(1500.0, 80.0), Some(CeilingBy::Device));
    assert_eq!(of(1500.0, 160.0), None);
}

#[test]
fn runs_hold_possible_figures() {
    assert_eq!(run_with(|_| {}), Vec::<String>::new());
    assert_eq!(run_with(|run| run.spot_id = SpotId::named("Kitchen")), ["/spot_id"]);
    assert_eq!(run_with(|run| run.outcome = measured(-1.0, 1.0, 5.0, 0.0)), ["/outcome/down_mbps"]);
    assert_eq!(run_with(|run| run.outcome = measured(1.0, f64::NAN, 5.0, 0.0)), ["/outcome/up_mbps"]);
    assert_eq!(
        run_with(|run| run.outcome = measured(1.0, 1.0, 0.0, 101.0)),
        ["/outcome/idle_ms", "/outcome/loss_percent"]
    );
    assert_eq!(run_with(|run| run.signal_dbm = Some(Dbm::new(70.0))), ["/signal_dbm"]);
    assert_eq!(run_with(|run| run.trace_mbps = vec![MbitPerSec::new(1.0); 2001]), ["/trace_mbps"]);
    assert_eq!(run_with(|run| run.serving = Some(busy_hen_home::DeviceId::named("B Router"))), ["/serving"]);
}
