//! The route of the job: its stops, and what is still open at each.

use busy_hen_floorplan::Plan;
use busy_hen_home::{Drill, Home, LengthUnit, SpotId, Tick, TickOutcome, WatchSummary};
use busy_hen_job::drills::failures;
use busy_hen_job::fitting::LAST_STEP;
use busy_hen_job::route::{JobDone, StopState, Tested, TestedSetup, route};
use jiff::civil::date;

fn done_so_far(tested: &Tested) -> JobDone<'_> {
    JobDone { tested, ticks: &[], drills: &[], watches: &[] }
}

fn stops(home: &Home, tested: &Tested) -> Vec<(StopState, String)> {
    let plan = Plan::new(&home.house, home.units);
    route(home, &plan, &done_so_far(tested), date(2026, 11, 1))
        .into_iter()
        .map(|stop| (stop.state, stop.note))
        .collect()
}

#[test]
fn a_new_home_is_untouched_everywhere_and_says_what_is_missing() {
    let stops = stops(&Home::new("x", "GB", LengthUnit::Metre), &Tested::new());
    assert!(stops.iter().all(|(state, _)| *state == StopState::Untouched));
    let notes: Vec<&str> = stops.iter().map(|(_, note)| note.as_str()).collect();
    assert_eq!(
        notes,
        [
            "no plan, no needs yet",
            "nothing typed yet",
            "none drawn yet",
            "needs a setup",
            "needs two setups",
            "needs a setup",
            "needs a setup",
            "no watch left yet"
        ]
    );
}

#[test]
fn what_is_open_is_told_until_nothing_is() {
    let mut home = busy_hen_demo::canal_terrace();
    let spots: Vec<SpotId> = home.house.spots.iter().map(|spot| spot.id).collect();
    let a = home.setups[0].id;
    let of = |spots: &[SpotId], made_up| TestedSetup { spots: spots.to_vec(), made_up };
    let half = Tested::from([(a, of(&spots[..5], false))]);
    let noted = |home: &Home, tested: &Tested, stop: usize| stops(home, tested)[stop].clone();
    assert_eq!(noted(&home, &half, 3), (StopState::Open, "7 spots untested in A".into()));
    assert_eq!(noted(&home, &half, 4), (StopState::Open, "one setup measured".into()));
    let made_up = Tested::from([(a, of(&spots, true)), (home.setups[1].id, of(&spots, true))]);
    assert_eq!(noted(&home, &made_up, 4), (StopState::Open, "made-up readings only".into()));
    let whole = Tested::from([(a, of(&spots, false)), (home.setups[1].id, of(&spots, false))]);
    assert_eq!(noted(&home, &whole, 3), (StopState::Done, "2 setups tested throughout".into()));
    assert_eq!(noted(&home, &whole, 4), (StopState::Done, "2 measured".into()));
    home.house.levels[0].lines.push_str("\nShed 2 x");
    assert_eq!(noted(&home, &whole, 1), (StopState::Open, "1 line to mend".into()));
    home.setups[2].devices.clear();
    assert_eq!(noted(&home, &whole, 2), (StopState::Open, "1 setup without devices".into()));
    for plan in &mut home.brief.plans {
        plan.down_mbps = busy_hen_units::MbitPerSec::new(50.0);
    }
    assert_eq!(noted(&home, &whole, 0), (StopState::Open, "needs exceed the plan".into()));
}

#[test]
fn fitting_is_open_until_the_family_has_its_passwords() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let tick = |step: &str| Tick {
        setup_id: home.setups[1].id,
        step: step.into(),
        outcome: TickOutcome::Done,
        at: jiff::Timestamp::UNIX_EPOCH,
        by: String::new(),
        note: String::new(),
    };
    let noted = |ticks: &[Tick]| {
        let stop = &route(&home, &plan, &JobDone { ticks, ..done_so_far(&Tested::new()) }, date(2026, 11, 1))[5];
        (stop.state, stop.note.clone())
    };
    assert_eq!(noted(&[]), (StopState::Untouched, "nothing fitted yet".into()));
    assert_eq!(noted(&[tick("network"), tick("old name")]), (StopState::Open, "2 steps of B answered".into()));
    let last = [tick("network"), tick(LAST_STEP)];
    assert_eq!(noted(&last), (StopState::Done, "B fitted and handed over".into()));
}

#[test]
fn drills_are_open_until_each_thing_that_can_fail_was_made_to() {
    let home = busy_hen_demo::canal_terrace();
    let plan = Plan::new(&home.house, home.units);
    let drill = |failure| Drill {
        id: busy_hen_home::DrillId::random(),
        setup_id: home.setups[1].id,
        failure,
        begun: jiff::Timestamp::UNIX_EPOCH,
        marks: Vec::new(),
        stopped: false,
        note: String::new(),
    };
    let noted = |drills: &[Drill]| {
        let stop = &route(&home, &plan, &JobDone { drills, ..done_so_far(&Tested::new()) }, date(2026, 11, 1))[6];
        (stop.state, stop.note.clone())
    };
    assert_eq!(noted(&[]), (StopState::Untouched, "nothing pulled yet".into()));
    let all = failures(&home, &home.setups[1]);
    let line = [drill(busy_hen_home::Failure::Line), drill(busy_hen_home::Failure::Line)];
    assert_eq!(noted(&line), (StopState::Open, format!("1 of {} drills of B run", all.len())));
    let every: Vec<Drill> = all.into_iter().map(drill).collect();
    assert_eq!(noted(&every), (StopState::Done, "all of B drilled".into()));
}

#[test]
fn a_watch_is_told_by_its_days_and_a_made_up_one_proves_nothing() {
    let home = Home::new("x", "GB", LengthUnit::Metre);
    let plan = Plan::new(&home.house, home.units);
    let begun: jiff::Timestamp = "2026-11-02T00:00:00Z".parse().expect("a time");
    let watch = |made_up: bool, hours: i64| WatchSummary {
        id: busy_hen_home::WatchId::random(),
        made_up,
        begun: Some(begun),
        until: Some(begun + jiff::SignedDuration::from_hours(hours)),
    };
    let told = |watches: &[WatchSummary]| {
        let stop = &route(&home, &plan, &JobDone { watches, ..done_so_far(&Tested::new()) }, date(2026, 11, 1))[7];
        (stop.state, stop.note.clone())
    };
    assert_eq!(told(&[watch(true, 200)]), (StopState::Open, "made-up watch only".into()));
    assert_eq!(told(&[watch(false, 0)]), (StopState::Open, "less than an hour watched".into()));
    assert_eq!(told(&[watch(true, 200), watch(false, 1)]), (StopState::Open, "1 hour watched".into()));
    assert_eq!(told(&[watch(false, 170)]), (StopState::Done, "7 days watched".into()));
}
