//! What is sent: a home as opened, the house as drawn.

use busy_hen_engine::changes::since_tested;
use busy_hen_engine::geometry::parts::Stands;
use busy_hen_engine::geometry::{LineFault, Plan, Wall};
use busy_hen_engine::needs::{Need, home_need, room_need};
use busy_hen_engine::route::{Stop, route};
use busy_hen_home::{Home, HomeId, LevelId, OpeningKind, PlanId, RoomId, Round, Run, SetupId};
use busy_hen_store::{RoundRecord, Step, Steps, Stored};
use busy_hen_units::{Metres, SquareMetres};
use jiff::Timestamp;
use jiff::civil::Date;
use serde::Serialize;
use utoipa::ToSchema;

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
    /// The home.
    pub home: Home,
    /// The house as drawn.
    pub drawing: Drawing,
    /// What each room needs.
    pub needs: Vec<RoomNeed>,
    /// What the home needs when everything goes on at once.
    pub home_need: Option<Need>,
    /// The plan in force today.
    pub plan_in_force: Option<PlanId>,
    /// The stops of the route.
    pub route: Vec<Stop>,
    /// Rounds of tests, first begun first.
    pub rounds: Vec<RoundHead>,
    /// Setups that were tested, with what has changed since.
    pub tested: Vec<TestedSetup>,
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
    /// Rooms and areas that have a place.
    pub rooms: Vec<DrawnRoom>,
    /// Walls.
    pub walls: Vec<DrawnWall>,
    /// Doors and windows in them, drawn or assumed.
    pub openings: Vec<DrawnOpening>,
    /// Holes for stairs, drawn or assumed.
    pub stairs: Vec<DrawnStairs>,
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
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
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
}

/// Ends of a stretch along a wall.
fn along(wall: &Wall, from: f64, to: f64) -> [Metres; 4] {
    let ends = if wall.north_south { [wall.at, from, wall.at, to] } else { [from, wall.at, to, wall.at] };
    ends.map(Metres::new)
}

/// The drawing of a plan.
#[must_use]
pub fn drawing(plan: &Plan) -> Drawing {
    let level_id = |index: usize| plan.levels[index].id;
    let metres = Metres::new;
    Drawing {
        levels: (0..plan.levels.len())
            .map(|index| {
                let bounds = plan.bounds(index);
                let edge =
                    |pick: fn(&busy_hen_engine::geometry::Rect) -> f64| metres(bounds.as_ref().map_or(0.0, pick));
                let indoors = plan.rooms.iter().filter(|room| room.level == index && !room.outdoors);
                DrawnLevel {
                    level_id: level_id(index),
                    name: plan.levels[index].name.clone(),
                    area_m2: indoors.map(|room| room.rect.area()).sum(),
                    x_m: edge(|rect| rect.x),
                    y_m: edge(|rect| rect.y),
                    width_m: edge(|rect| rect.width),
                    depth_m: edge(|rect| rect.depth),
                }
            })
            .collect(),
        rooms: plan
            .rooms
            .iter()
            .map(|room| DrawnRoom {
                room_id: room.id,
                level_id: level_id(room.level),
                line: room.line,
                name: room.name.clone(),
                x_m: metres(room.rect.x),
                y_m: metres(room.rect.y),
                width_m: metres(room.rect.width),
                depth_m: metres(room.rect.depth),
                outdoors: room.outdoors,
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
            })
            .collect(),
        faults: plan.faults.clone(),
    }
}

impl HomeView {
    /// A stored home with what follows from it.
    #[must_use]
    pub fn new(stored: Stored, steps: Steps, readings: &Readings, today: Date) -> Self {
        let Stored { id, revision, home, readings: state, .. } = stored;
        let plan = Plan::new(&home.house, home.units);
        let needs = home
            .house
            .rooms
            .iter()
            .filter_map(|room| Some(RoomNeed { room_id: room.id, need: room_need(&home.brief, room.id)? }))
            .collect();
        let rounds: Vec<RoundHead> = readings
            .rounds
            .iter()
            .map(|RoundRecord { round, tested }| {
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
            drawing: drawing(&plan),
            needs,
            home_need: home_need(&home.brief),
            plan_in_force: home.brief.plan_on(today).map(|plan| plan.id),
            route: route(&home, &plan, &readings.tested(), today),
            rounds,
            tested,
            home,
        }
    }
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

/// The house for a thumbnail: the level with most rooms.
#[derive(Debug, Serialize, ToSchema)]
pub struct Thumb {
    /// West edge of all it holds.
    pub x_m: Metres,
    /// North edge of all it holds.
    pub y_m: Metres,
    /// East-west size of all it holds.
    pub width_m: Metres,
    /// North-south size of all it holds.
    pub depth_m: Metres,
    /// Its rooms.
    pub rooms: Vec<ThumbRoom>,
}

/// A room of a thumbnail.
#[derive(Debug, Serialize, ToSchema)]
pub struct ThumbRoom {
    /// West side.
    pub x_m: Metres,
    /// North side.
    pub y_m: Metres,
    /// East-west size.
    pub width_m: Metres,
    /// North-south size.
    pub depth_m: Metres,
    /// Whether it is an outdoor area.
    pub outdoors: bool,
}

/// The thumbnail of a plan; none when it has no rooms.
#[must_use]
pub fn thumb(plan: &Plan) -> Option<Thumb> {
    let count = |level: &usize| plan.rooms.iter().filter(|room| room.level == *level).count();
    let level = (0..plan.levels.len()).max_by_key(|level| (count(level), std::cmp::Reverse(*level)))?;
    let bounds = plan.bounds(level)?;
    let metres = Metres::new;
    let rooms = plan.rooms.iter().filter(|room| room.level == level).map(|room| ThumbRoom {
        x_m: metres(room.rect.x),
        y_m: metres(room.rect.y),
        width_m: metres(room.rect.width),
        depth_m: metres(room.rect.depth),
        outdoors: room.outdoors,
    });
    Some(Thumb {
        x_m: metres(bounds.x),
        y_m: metres(bounds.y),
        width_m: metres(bounds.width),
        depth_m: metres(bounds.depth),
        rooms: rooms.collect(),
    })
}
