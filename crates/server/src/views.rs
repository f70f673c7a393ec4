//! What is sent of a home as opened.

use busy_hen_floorplan::{Plan, adopt};
use busy_hen_home::{Complaint, Home, HomeId, PlanId, RoomId, Round, Run, SetupId, TestKind, local_day};
use busy_hen_job::changes::since_tested;
use busy_hen_job::route::{Stop, route};
use busy_hen_predict::explained::goes_by_the_home_network;
use busy_hen_predict::needs::complaints::{ComplaintState, MeasuredThere, state_of};
use busy_hen_predict::needs::{Need, RunningLine, room_need, running_line};
use busy_hen_predict::summary::summarise;
use busy_hen_store::{Held, ROOM, Step, Steps, Stored};
use busy_hen_units::typed::Decimals;
use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

use crate::drawing::{Drawing, drawing};
use crate::routes::numbers::style_of;
use crate::state::Readings;

/// A home as opened: the document, what follows from it, and how far the job is.
#[derive(Debug, Serialize, ToSchema)]
pub struct HomeView {
    /// Its id.
    pub id: HomeId,
    /// Number of the revision in force.
    pub revision: i64,
    /// Number of the state of its rounds and runs.
    pub readings: i64,
    /// One's own last steps that can be undone, newest first.
    pub undo: Vec<StepView>,
    /// The step that redo would bring back; none when there is nothing.
    pub redo: Option<StepView>,
    /// The day it is where the server stands.
    #[schema(value_type = String, format = Date)]
    pub today: Date,
    /// How decimals are written in its country.
    pub decimals: Decimals,
    /// The home.
    pub home: Home,
    /// The house as drawn.
    pub drawing: Drawing,
    /// What each room needs.
    pub needs: Vec<RoomNeed>,
    /// The busiest hour against the plan.
    pub line: Option<RunningLine>,
    /// What can be said to each complaint.
    pub complaints: Vec<ComplaintState>,
    /// The plan in force today.
    pub plan_in_force: Option<PlanId>,
    /// The stops of the route.
    pub route: Vec<Stop>,
    /// Rounds of tests, first begun first.
    pub rounds: Vec<RoundHead>,
    /// Setups that were tested, with what has changed since.
    pub tested: Vec<TestedSetup>,
    /// What it holds.
    pub holds: Holds,
}

/// What a home holds, and how much of what its file may.
#[derive(Debug, Serialize, ToSchema)]
pub struct Holds {
    /// Rounds of tests.
    pub rounds: usize,
    /// Runs of them.
    pub runs: usize,
    /// Pictures.
    pub pictures: u64,
    /// Long watches.
    pub watches: usize,
    /// Drills.
    pub drills: usize,
    /// Bytes of its file.
    pub bytes: u64,
    /// Most bytes that there may be; beyond that nothing is added.
    pub bytes_most: u64,
}

/// A step that can be gone back to.
#[derive(Debug, Serialize, ToSchema)]
pub struct StepView {
    /// Its number.
    pub number: i64,
    /// What it did.
    pub what: String,
    /// When; none for steps from before this was kept.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub at: Option<Timestamp>,
}

impl From<Step> for StepView {
    fn from(Step { number, what, at }: Step) -> Self {
        Self { number, what, at }
    }
}

/// A setup that was tested.
#[derive(Debug, Serialize, ToSchema)]
pub struct TestedSetup {
    /// The setup.
    pub setup_id: SetupId,
    /// Its rounds.
    pub rounds: usize,
    /// Their runs that count.
    pub runs: usize,
    /// Whether all of them are made up by the stand-in phone.
    pub made_up: bool,
    /// What has changed since its newest round that bears on readings, as told of the past.
    pub changed_since: Vec<String>,
}

/// A room's need.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoomNeed {
    /// The room.
    pub room_id: RoomId,
    /// What it needs.
    pub need: Need,
}

/// A round as listed.
#[derive(Debug, Serialize, ToSchema)]
pub struct RoundHead {
    /// The round.
    pub round: Round,
    /// Letter of its setup.
    pub setup_letter: String,
    /// Runs that count.
    pub runs: usize,
    /// Spots that have at least one counting run.
    pub spots_tested: usize,
    /// Whether the stand-in phone made up any of its runs.
    pub made_up: bool,
    /// What has changed since it was taken that bears on its readings, as told of the past.
    pub changed_since: Vec<String>,
}

impl HomeView {
    /// A stored home with what follows from it.
    #[must_use]
    pub fn new(stored: Stored, steps: Steps, readings: &Readings, held: Held, today: Date) -> Self {
        let Stored { id, revision, mut home, readings: state, .. } = stored;
        adopt(&mut home.house, home.units);
        let plan = Plan::to_draw(&home.house, home.units);
        let line = running_line(&home.brief, today);
        let needs = home
            .house
            .rooms
            .iter()
            .filter_map(|room| {
                Some(RoomNeed { room_id: room.id, need: room_need(&home.brief, room.id, TestKind::Internet)? })
            })
            .collect();
        let rounds: Vec<RoundHead> = readings
            .rounds
            .iter()
            .map(|own| {
                let (round, tested) = (&own.round, &own.tested);
                let counting = readings.of(round.id).iter().filter(|run| run.counts());
                let spots: std::collections::BTreeSet<_> = counting.clone().map(|run| run.spot_id).collect();
                RoundHead {
                    setup_letter: tested.home.setup(round.setup_id).map(|s| s.letter.clone()).unwrap_or_default(),
                    made_up: counting.clone().any(Run::is_made_up),
                    runs: counting.count(),
                    spots_tested: spots.len(),
                    changed_since: since_tested(&tested.home, round.setup_id, &home),
                    round: round.clone(),
                }
            })
            .collect();
        let tested = home.setups.iter().filter_map(|setup| tested_setup(setup.id, &rounds)).collect();
        Self {
            id,
            revision,
            readings: state,
            undo: steps.undo.into_iter().map(StepView::from).collect(),
            redo: steps.redo.map(StepView::from),
            today,
            decimals: style_of(&home).decimals,
            drawing: drawing(&home, &plan),
            needs,
            line: line.clone(),
            complaints: complaints(&home, readings, line.as_ref()),
            plan_in_force: home.brief.plan_on(today).map(|plan| plan.id),
            route: route(&home, &plan, &readings.done_so_far(&readings.tested()), today),
            holds: Holds {
                rounds: readings.rounds.len(),
                runs: readings.rounds.iter().map(|own| readings.of(own.round.id).len()).sum(),
                pictures: held.pictures,
                watches: readings.watches.len(),
                drills: readings.drills.len(),
                bytes: held.bytes,
                bytes_most: ROOM,
            },
            rounds,
            tested,
            home,
        }
    }
}

/// What can be said to each complaint, by the newest round with runs in its room: of the setup in force, where one is, and by tests that
/// reach as far as what is done there.
fn complaints(home: &Home, readings: &Readings, line: Option<&RunningLine>) -> Vec<ComplaintState> {
    let there = |room: RoomId, reach: TestKind| {
        let has = |round: &Round| home.in_force.is_none_or(|setup| round.setup_id == setup);
        readings.rounds.iter().rev().filter(|own| has(&own.round)).find_map(|own| {
            let (round, tested) = (&own.round, &own.tested);
            let setup = tested.home.setup(round.setup_id)?.letter.clone();
            let in_room = |run: &&Run| {
                let spot = tested.home.house.spots.iter().find(|spot| spot.id == run.spot_id);
                let of_reach = run.under(round).kind == reach;
                of_reach && run.counts() && run.is_of_room() && spot.is_some_and(|spot| spot.room_id == room)
            };
            let runs = || readings.of(round.id).iter().filter(in_room);
            let made_up = runs().any(Run::is_made_up);
            Some(MeasuredThere {
                summary: summarise(runs())?,
                day: local_day(round.begun).to_string(),
                made_up,
                setup,
                situation: round.situation,
            })
        })
    };
    let state = |own: &Complaint| {
        let reach = if goes_by_the_home_network(home, own) { TestKind::Local } else { TestKind::Internet };
        let need = own.room_id.and_then(|room| room_need(&home.brief, room, reach));
        state_of(own, need.as_ref(), own.room_id.and_then(|room| there(room, reach)).as_ref(), line)
    };
    home.brief.complaints.iter().map(state).collect()
}

fn tested_setup(id: SetupId, rounds: &[RoundHead]) -> Option<TestedSetup> {
    let own: Vec<&RoundHead> = rounds.iter().filter(|head| head.round.setup_id == id && head.runs > 0).collect();
    let newest = own.last()?;
    Some(TestedSetup {
        setup_id: id,
        rounds: own.len(),
        runs: own.iter().map(|head| head.runs).sum(),
        made_up: own.iter().all(|head| head.made_up),
        changed_since: newest.changed_since.clone(),
    })
}
