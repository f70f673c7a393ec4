//! What is sent: a home as opened, the house as drawn.

use busy_hen_floorplan::lines::fittings::Source;
use busy_hen_floorplan::lines::thing::{Housing, SocketKind, SocketState};
use busy_hen_floorplan::missing::{Missing, missing};
use busy_hen_floorplan::parts::PlanRoom;
use busy_hen_floorplan::parts::Stands;
use busy_hen_floorplan::{LineFault, Plan, Rect, Wall, adopt};
use busy_hen_home::{
    Complaint, Home, HomeId, LevelId, ObstacleKind, OpeningKind, PlanId, RoomId, Round, Run, SetupId, TestKind,
    local_day,
};
use busy_hen_job::changes::since_tested;
use busy_hen_job::route::{Stop, route};
use busy_hen_predict::explained::goes_by_the_home_network;
use busy_hen_predict::needs::complaints::{ComplaintState, MeasuredThere, state_of};
use busy_hen_predict::needs::{Need, RunningLine, room_need, running_line};
use busy_hen_predict::summary::summarise;
use busy_hen_store::{Held, ROOM, Step, Steps, Stored};
use busy_hen_units::typed::Decimals;
use busy_hen_units::{Metres, SquareMetres};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

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

/// The house as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct Drawing {
    /// Levels from the lowest up.
    pub levels: Vec<DrawnLevel>,
    /// Indoor area of all levels.
    pub area_m2: SquareMetres,
    /// Rooms and areas that have a place.
    pub rooms: Vec<DrawnRoom>,
    /// Walls.
    pub walls: Vec<DrawnWall>,
    /// Doors and windows in them, drawn or assumed.
    pub openings: Vec<DrawnOpening>,
    /// Holes for stairs, drawn or assumed.
    pub stairs: Vec<DrawnStairs>,
    /// What stands in the way.
    pub solids: Vec<DrawnSolid>,
    /// Sockets, and where the line enters.
    pub sockets: Vec<DrawnSocket>,
    /// What the plan lacks.
    pub lacks: Vec<Missing>,
    /// What typed lines may mean otherwise.
    pub doubts: Vec<LineFault>,
    /// What is wrong with typed lines.
    pub faults: Vec<LineFault>,
}

/// A level as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnLevel {
    /// The level.
    pub level_id: LevelId,
    /// Its name.
    pub name: String,
    /// Indoor area.
    pub area_m2: SquareMetres,
    /// Length of all its walls, each counted once.
    pub walls_m: Metres,
    /// West edge of all it holds.
    pub x_m: Metres,
    /// North edge of all it holds.
    pub y_m: Metres,
    /// East-west size of all it holds.
    pub width_m: Metres,
    /// North-south size of all it holds.
    pub depth_m: Metres,
}

/// A room as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnRoom {
    /// The room; made from its name while it has not been saved.
    pub room_id: RoomId,
    /// Its level.
    pub level_id: LevelId,
    /// Its line in the level's text, counted from 0.
    pub line: usize,
    /// Its name.
    pub name: String,
    /// West side of all of it.
    pub x_m: Metres,
    /// North side of all of it.
    pub y_m: Metres,
    /// East-west size of all of it.
    pub width_m: Metres,
    /// North-south size of all of it.
    pub depth_m: Metres,
    /// Its parts; one, for most rooms.
    pub parts: Vec<DrawnPart>,
    /// Its area.
    pub area_m2: SquareMetres,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// A part of a room as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnPart {
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
}

impl From<&Rect> for DrawnPart {
    fn from(rect: &Rect) -> Self {
        let metres = Metres::new;
        Self { x_m: metres(rect.x), y_m: metres(rect.y), width_m: metres(rect.width), depth_m: metres(rect.depth) }
    }
}

/// Which characters of which line say something.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct SaidBy {
    /// The level.
    pub level_id: LevelId,
    /// Line of its text, counted from 0.
    pub line: usize,
    /// First character, counted from 0.
    pub from: usize,
}

impl From<Source> for SaidBy {
    fn from(Source { level_id, line, from }: Source) -> Self {
        Self { level_id, line, from }
    }
}

/// Something in the way as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnSolid {
    /// Its level.
    pub level_id: LevelId,
    /// What it is.
    pub kind: ObstacleKind,
    /// One end, east.
    pub x1_m: Metres,
    /// One end, south.
    pub y1_m: Metres,
    /// Other end, east.
    pub x2_m: Metres,
    /// Other end, south.
    pub y2_m: Metres,
    /// How wide its line is.
    pub across_m: Metres,
    /// What says it.
    pub said_by: Option<SaidBy>,
}

/// A socket as drawn, or where the line enters.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnSocket {
    /// Its level.
    pub level_id: LevelId,
    /// Its room.
    pub room_id: RoomId,
    /// East.
    pub x_m: Metres,
    /// South.
    pub y_m: Metres,
    /// What it is.
    pub kind: SocketKind,
    /// What is written on it.
    pub label: Option<String>,
    /// The power circuit it is on.
    pub circuit: Option<String>,
    /// Where its cable ends.
    pub ends: Option<String>,
    /// What can be said of its state.
    pub state: SocketState,
    /// What the line enters in.
    pub housing: Housing,
    /// What says it.
    pub said_by: SaidBy,
}

/// A wall as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnWall {
    /// Its level.
    pub level_id: LevelId,
    /// Begin, east.
    pub x1_m: Metres,
    /// Begin, south.
    pub y1_m: Metres,
    /// End, east.
    pub x2_m: Metres,
    /// End, south.
    pub y2_m: Metres,
    /// What it is made of.
    pub material: String,
    /// Whether it closes the building off.
    pub envelope: bool,
}

/// A door or window as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnOpening {
    /// Its level.
    pub level_id: LevelId,
    /// Begin, east.
    pub x1_m: Metres,
    /// Begin, south.
    pub y1_m: Metres,
    /// End, east.
    pub x2_m: Metres,
    /// End, south.
    pub y2_m: Metres,
    /// What it is.
    pub kind: OpeningKind,
    /// Whether it usually stands open.
    pub open: bool,
    /// Whether nobody drew it.
    pub assumed: bool,
    /// What says it.
    pub said_by: Option<SaidBy>,
}

/// A hole for stairs as drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnStairs {
    /// The level that the stairs rise from.
    pub level_id: LevelId,
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
    /// Whether nobody drew it.
    pub assumed: bool,
    /// What says it.
    pub said_by: Option<SaidBy>,
}

/// Ends of a stretch along a wall.
fn along(wall: &Wall, from: f64, to: f64) -> [Metres; 4] {
    let ends = if wall.north_south { [wall.at, from, wall.at, to] } else { [from, wall.at, to, wall.at] };
    ends.map(Metres::new)
}

/// The drawing of a home's plan.
#[must_use]
pub fn drawing(home: &Home, plan: &Plan) -> Drawing {
    let level_id = |index: usize| plan.levels[index].id;
    let metres = Metres::new;
    Drawing {
        levels: (0..plan.levels.len())
            .map(|index| {
                let bounds = plan.bounds(index);
                let edge = |pick: fn(&busy_hen_floorplan::Rect) -> f64| metres(bounds.as_ref().map_or(0.0, pick));
                let indoors = plan.rooms.iter().filter(|room| room.level == index && !room.outdoors);
                DrawnLevel {
                    level_id: level_id(index),
                    name: plan.levels[index].name.clone(),
                    area_m2: indoors.map(PlanRoom::area).sum(),
                    walls_m: plan
                        .walls
                        .iter()
                        .filter(|wall| wall.level == index)
                        .map(|wall| metres(wall.to - wall.from))
                        .sum(),
                    x_m: edge(|rect| rect.x),
                    y_m: edge(|rect| rect.y),
                    width_m: edge(|rect| rect.width),
                    depth_m: edge(|rect| rect.depth),
                }
            })
            .collect(),
        area_m2: plan.rooms.iter().filter(|room| !room.outdoors).map(PlanRoom::area).sum(),
        rooms: plan
            .rooms
            .iter()
            .map(|room| {
                let DrawnPart { x_m, y_m, width_m, depth_m } = DrawnPart::from(&room.bounds());
                DrawnRoom {
                    room_id: room.id,
                    level_id: level_id(room.level),
                    line: room.line,
                    name: room.name.clone(),
                    x_m,
                    y_m,
                    width_m,
                    depth_m,
                    parts: room.rects().map(DrawnPart::from).collect(),
                    area_m2: room.area(),
                    outdoors: room.outdoors,
                }
            })
            .collect(),
        walls: plan
            .walls
            .iter()
            .map(|wall| {
                let [x1_m, y1_m, x2_m, y2_m] = along(wall, wall.from, wall.to);
                let (level_id, material) = (level_id(wall.level), wall.material.key.clone());
                DrawnWall { level_id, x1_m, y1_m, x2_m, y2_m, material, envelope: wall.envelope }
            })
            .collect(),
        openings: plan
            .walls
            .iter()
            .flat_map(|wall| wall.openings.iter().map(move |opening| (wall, opening)))
            .map(|(wall, opening)| {
                let [x1_m, y1_m, x2_m, y2_m] = along(wall, opening.from, opening.to);
                DrawnOpening {
                    level_id: level_id(wall.level),
                    x1_m,
                    y1_m,
                    x2_m,
                    y2_m,
                    kind: opening.kind,
                    open: opening.stands == Stands::Open,
                    assumed: opening.assumed,
                    said_by: opening.source.map(SaidBy::from),
                }
            })
            .collect(),
        stairs: plan
            .floors
            .iter()
            .flat_map(|floor| floor.holes.iter().map(move |hole| (floor, hole)))
            .map(|(floor, hole)| DrawnStairs {
                level_id: level_id(floor.above - 1),
                x_m: metres(hole.rect.x),
                y_m: metres(hole.rect.y),
                width_m: metres(hole.rect.width),
                depth_m: metres(hole.rect.depth),
                assumed: hole.assumed,
                said_by: hole.source.map(SaidBy::from),
            })
            .collect(),
        solids: plan
            .uprights
            .iter()
            .filter_map(|own| {
                let level = plan.levels.iter().rev().find(|level| level.z <= own.foot + 1e-6)?;
                Some(DrawnSolid {
                    level_id: level.id,
                    kind: own.kind,
                    x1_m: metres(own.from.0),
                    y1_m: metres(own.from.1),
                    x2_m: metres(own.to.0),
                    y2_m: metres(own.to.1),
                    across_m: own.depth,
                    said_by: own.source.map(SaidBy::from),
                })
            })
            .collect(),
        sockets: plan
            .sockets
            .iter()
            .map(|own| DrawnSocket {
                level_id: own.source.level_id,
                room_id: plan.rooms[own.room].id,
                x_m: metres(own.at.0),
                y_m: metres(own.at.1),
                kind: own.socket.kind,
                label: own.socket.label.clone(),
                circuit: own.socket.circuit.clone(),
                ends: own.socket.ends.clone(),
                state: own.socket.state,
                housing: own.socket.housing,
                said_by: own.source.into(),
            })
            .collect(),
        lacks: missing(&home.house, plan, home.units),
        doubts: plan.doubts.clone(),
        faults: plan.faults.clone(),
    }
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
