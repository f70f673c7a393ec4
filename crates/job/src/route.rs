//! The route of the job: its stops, and what is still open at each.

use std::collections::HashMap;

use busy_hen_floorplan::Plan;
use busy_hen_home::{Drill, Home, Setup, SetupId, SpotId, Tick, TickOutcome, WatchSummary};
use busy_hen_predict::needs::running_line;
use busy_hen_units::words::counted;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::drills::failures;
use crate::fitting::LAST_STEP;

/// A stop of the route.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StopName {
    /// What the family has, wants and allows.
    Brief,
    /// The building.
    House,
    /// Devices on the map.
    Setups,
    /// Tests room by room.
    Rounds,
    /// Setups side by side.
    Compare,
    /// The run sheet of what is fitted.
    Fit,
    /// What happens when something fails.
    Drills,
    /// What shows only over days.
    Watch,
}

/// How far a stop is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum StopState {
    /// Nothing done yet.
    Untouched,
    /// Begun, with something open.
    Open,
    /// Nothing open.
    Done,
}

/// A stop with its state and what is open there.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Stop {
    /// Which stop.
    pub name: StopName,
    /// How far it is.
    pub state: StopState,
    /// What stands there or is still open, in a few words.
    pub note: String,
}

/// What was tested, by setup.
pub type Tested = HashMap<SetupId, TestedSetup>;

/// What was tested of a setup.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct TestedSetup {
    /// Spots that have counting runs.
    pub spots: Vec<SpotId>,
    /// Whether all of those runs were made up by a stand-in.
    pub made_up: bool,
}

/// What was done in a home so far.
#[derive(Debug, Clone, Copy)]
pub struct JobDone<'a> {
    /// What was tested.
    pub tested: &'a Tested,
    /// What became of the steps of run sheets.
    pub ticks: &'a [Tick],
    /// Drills that were run.
    pub drills: &'a [Drill],
    /// Long watches.
    pub watches: &'a [WatchSummary],
}

/// The stops in the order of the work.
#[must_use]
pub fn route(home: &Home, plan: &Plan, deeds: &JobDone<'_>, today: Date) -> Vec<Stop> {
    let JobDone { tested, ticks, drills, watches } = *deeds;
    vec![
        brief(home, today),
        house(plan),
        setups(home),
        rounds(home, plan, tested),
        compare(home, tested),
        fit(home, ticks),
        drilled(home, drills),
        watched(watches),
    ]
}

fn stop(name: StopName, state: StopState, note: impl Into<String>) -> Stop {
    Stop { name, state, note: note.into() }
}

fn brief(home: &Home, today: Date) -> Stop {
    let name = StopName::Brief;
    let uses = home.brief.uses.len();
    let line = running_line(&home.brief, today);
    match (home.brief.plan_on(today), line) {
        (None, None) => stop(name, StopState::Untouched, "no plan, no needs yet"),
        (None, Some(_)) => stop(name, StopState::Open, "no internet plan in force"),
        (Some(_), None) => stop(name, StopState::Open, "no one's needs yet"),
        (Some(_), Some(line)) if line.is_too_little() => stop(name, StopState::Open, "needs exceed the plan"),
        (Some(plan), Some(_)) => {
            let note = format!("{:.0}/{:.0} plan, {}", plan.down_mbps.get(), plan.up_mbps.get(), counted(uses, "use"));
            stop(name, StopState::Done, note)
        }
    }
}

fn house(plan: &Plan) -> Stop {
    let name = StopName::House;
    let rooms = plan.rooms.len();
    if !plan.faults.is_empty() {
        return stop(name, StopState::Open, format!("{} to mend", counted(plan.faults.len(), "line")));
    }
    if rooms == 0 {
        return stop(name, StopState::Untouched, "nothing typed yet");
    }
    stop(name, StopState::Done, format!("{}, {}", counted(plan.levels.len(), "level"), counted(rooms, "room")))
}

fn setups(home: &Home) -> Stop {
    let name = StopName::Setups;
    let empty = home.setups.iter().filter(|setup| setup.devices.is_empty()).count();
    match home.setups.len() {
        0 => stop(name, StopState::Untouched, "none drawn yet"),
        _ if empty > 0 => stop(name, StopState::Open, format!("{} without devices", counted(empty, "setup"))),
        count => stop(name, StopState::Done, format!("{count} drawn")),
    }
}

fn rounds(home: &Home, plan: &Plan, tested: &Tested) -> Stop {
    let name = StopName::Rounds;
    let spots = home.house.spots.iter().filter(|spot| plan.room(spot.room_id).is_some()).count();
    let done = |setup: &Setup| tested.get(&setup.id).map_or(0, |of| of.spots.len());
    let Some(fullest) = home.setups.iter().max_by_key(|setup| done(setup)) else {
        return stop(name, StopState::Untouched, "needs a setup");
    };
    match spots.saturating_sub(done(fullest)) {
        _ if done(fullest) == 0 => stop(name, StopState::Untouched, "nothing tested yet"),
        0 => {
            let whole = home.setups.iter().filter(|setup| done(setup) >= spots).count();
            stop(name, StopState::Done, format!("{} tested throughout", counted(whole, "setup")))
        }
        left => stop(name, StopState::Open, format!("{} untested in {}", counted(left, "spot"), fullest.letter)),
    }
}

fn compare(home: &Home, tested: &Tested) -> Stop {
    let name = StopName::Compare;
    let of_setups: Vec<&TestedSetup> = home.setups.iter().filter_map(|setup| tested.get(&setup.id)).collect();
    let measured = of_setups.iter().filter(|of| !of.made_up).count();
    match measured {
        _ if home.setups.len() < 2 => stop(name, StopState::Untouched, "needs two setups"),
        // What a stand-in made up proves nothing.
        0 if !of_setups.is_empty() => stop(name, StopState::Open, "made-up readings only"),
        0 => stop(name, StopState::Open, "predictions only"),
        1 => stop(name, StopState::Open, "one setup measured"),
        count => stop(name, StopState::Done, format!("{count} measured")),
    }
}

/// "1 room", "3 rooms".
/// The setup whose sheet has most answers; its work is done once the family has its passwords.
fn fit(home: &Home, ticks: &[Tick]) -> Stop {
    let name = StopName::Fit;
    let of = |setup: &Setup| ticks.iter().filter(|own| own.setup_id == setup.id).count();
    let Some(setup) = home.setups.iter().max_by_key(|setup| of(setup)) else {
        return stop(name, StopState::Untouched, "needs a setup");
    };
    let last = |own: &Tick| own.setup_id == setup.id && own.step == LAST_STEP && own.outcome == TickOutcome::Done;
    match of(setup) {
        0 => stop(name, StopState::Untouched, "nothing fitted yet"),
        _ if ticks.iter().any(last) => stop(name, StopState::Done, format!("{} fitted and handed over", setup.letter)),
        count => stop(name, StopState::Open, format!("{} of {} answered", counted(count, "step"), setup.letter)),
    }
}

/// Whether each thing that can fail by itself was made to, in the setup that most was in.
fn drilled(home: &Home, drills: &[Drill]) -> Stop {
    let name = StopName::Drills;
    let of = |setup: &Setup| drills.iter().filter(|own| own.setup_id == setup.id).count();
    let Some(setup) = home.setups.iter().max_by_key(|setup| of(setup)).filter(|own| !own.devices.is_empty()) else {
        return stop(name, StopState::Untouched, "needs a setup");
    };
    let all = failures(home, setup);
    let run = all.iter().filter(|own| drills.iter().any(|drill| drill.setup_id == setup.id && drill.failure == **own));
    match (run.count(), all.len()) {
        (0, _) => stop(name, StopState::Untouched, "nothing pulled yet"),
        (run, all) if run == all => stop(name, StopState::Done, format!("all of {} drilled", setup.letter)),
        (run, all) => stop(name, StopState::Open, format!("{run} of {all} drills of {} run", setup.letter)),
    }
}

/// Whether a watch was left behind, and for how many days it has seen something.
fn watched(watches: &[WatchSummary]) -> Stop {
    let name = StopName::Watch;
    let hours = |own: &WatchSummary| {
        own.until.zip(own.begun).map_or(0, |(until, begun)| until.duration_since(begun).as_hours())
    };
    let longest = |made_up: bool| watches.iter().filter(|own| own.made_up == made_up).map(hours).max();
    match (longest(false), longest(true)) {
        (Some(0), _) => stop(name, StopState::Open, "less than an hour watched"),
        (Some(hours), _) if hours < 48 => {
            stop(name, StopState::Open, format!("{} watched", counted(hours.unsigned_abs() as usize, "hour")))
        }
        (Some(hours), _) => stop(name, StopState::Done, format!("{} days watched", hours / 24)),
        (None, Some(_)) => stop(name, StopState::Open, "made-up watch only"),
        (None, None) => stop(name, StopState::Untouched, "no watch left yet"),
    }
}
