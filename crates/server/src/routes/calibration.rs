//! What readings taught of a home, and what would teach most next.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, post, put};
use busy_hen_floorplan::Plan;
use busy_hen_home::{Home, HomeId, LengthUnit, LevelId, RoundId, RunId, SetupId, SpotId};
use busy_hen_predict::Model;
use busy_hen_radio::propagation::PartOfHouse;
use busy_hen_survey::calibration::lessons::{Lesson, lessons};
use busy_hen_survey::calibration::next::{DoorQuestion, Proposal, door_question, next_spots};
use busy_hen_units::{Db, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::editing::{editing, view};
use super::known::{About, Known};
use super::predict::Ask;
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing};
use crate::state::AppState;
use crate::views::HomeView;

/// What readings taught of a home.
#[derive(Debug, Default, Serialize, ToSchema)]
pub struct CalibrationView {
    /// Whether predictions go by the tables alone all the same.
    pub tables_alone: bool,
    /// Whether the product made up all that it was learnt from.
    pub made_up: bool,
    /// The runs that it was learnt from.
    pub runs: Vec<RunId>,
    /// Their rounds.
    pub rounds: Vec<RoundId>,
    /// The spots where they were taken.
    pub spots: Vec<SpotId>,
    /// How far readings lie off what the tables say of them, in the middle; none without readings.
    pub off_by_tables_db: Option<Db>,
    /// How far they lie off what readings at all other spots foretell, in the middle.
    pub off_foretold_db: Option<Db>,
    /// What was learnt, what matters most first.
    pub lessons: Vec<DrawnLesson>,
}

/// A lesson with where the parts that it is about lie.
#[derive(Debug, Serialize, ToSchema)]
pub struct DrawnLesson {
    /// The lesson.
    #[serde(flatten)]
    pub lesson: Lesson,
    /// Its walls and openings.
    pub drawn: Vec<PointedPart>,
}

/// A wall or opening, as it is drawn.
#[derive(Debug, Serialize, ToSchema)]
pub struct PointedPart {
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
}

/// Where a part of the house is drawn; none of a floor, which is all of its level.
fn drawn(plan: &Plan, part: PartOfHouse) -> Option<PointedPart> {
    let (key, opening) = match part {
        PartOfHouse::Wall(key) => (key, None),
        PartOfHouse::Opening { wall: key, opening } => (key, Some(opening)),
        PartOfHouse::FloorUnder(_) => return None,
    };
    let wall = plan.walls.iter().find(|wall| wall.key == key)?;
    let (from, to) = match opening {
        Some(opening) => wall.openings.get(opening).map(|own| (own.from, own.to))?,
        None => (wall.from, wall.to),
    };
    let end = |along: f64| if wall.north_south { (wall.at, along) } else { (along, wall.at) };
    let ((x1, y1), (x2, y2)) = (end(from), end(to));
    Some(PointedPart {
        level_id: plan.levels[wall.level].id,
        x1_m: Metres::new(x1),
        y1_m: Metres::new(y1),
        x2_m: Metres::new(x2),
        y2_m: Metres::new(y2),
    })
}

/// What readings taught of a home, in words, with the readings that it comes from.
#[utoipa::path(tag = "learning", params(("home" = HomeId, Path)),
    responses((status = OK, description = "What was learnt.", body = CalibrationView), Computing))]
#[get("/homes/{home}/calibration")]
pub async fn learnt(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let told = |about: &About<'_>| {
        let About { home, readings, kept, .. } = *about;
        let Some(learnt) = readings.learnt(kept) else {
            return Ok(CalibrationView { tables_alone: home.tables_alone, ..CalibrationView::default() });
        };
        let plan = learnt.plan(home);
        let device = |id| {
            let named = home.setups.iter().find_map(|setup| setup.device(id));
            named.map_or_else(|| "A device that is gone".to_owned(), |device| device.name.clone())
        };
        let runs = learnt.runs();
        let mut spots: Vec<SpotId> = learnt.observations().iter().map(|own| own.spot).collect();
        spots.sort_unstable();
        spots.dedup();
        let of_them = |round: RoundId| readings.of(round).iter().any(|run| runs.contains(&run.id));
        let rounds = readings.rounds.iter().map(|record| record.round.id).filter(|round| of_them(*round)).collect();
        let (tables, foretold) = learnt.off();
        Ok(CalibrationView {
            tables_alone: home.tables_alone,
            made_up: learnt.made_up(),
            rounds,
            spots,
            off_by_tables_db: Some(tables),
            off_foretold_db: Some(foretold),
            lessons: lessons(&learnt, &plan, &device, home.units == LengthUnit::Foot)
                .into_iter()
                .map(|lesson| DrawnLesson {
                    drawn: lesson.parts.iter().filter_map(|part| drawn(&plan, *part)).collect(),
                    lesson,
                })
                .collect(),
            runs,
        })
    };
    Known::of(&state, *home).await?.answer(told).await
}

/// Whether predictions go by the tables alone.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TablesAlone {
    /// Whether they do, whatever was measured.
    pub tables_alone: bool,
}

/// Lets predictions of a home go by the tables alone, or by what readings taught as well.
#[utoipa::path(tag = "learning", params(("home" = HomeId, Path), EditHeaders), request_body = TablesAlone,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/tables-alone")]
pub async fn put_tables_alone(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    asked: Body<TablesAlone>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.tables_alone = asked.tables_alone;
        Ok(())
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Asks what would teach most next.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NextAsk {
    /// What is asked of the setup.
    pub ask: Ask,
    /// Spots that are read already.
    pub done: Vec<SpotId>,
}

/// What would teach most next.
#[derive(Debug, Serialize, ToSchema)]
pub struct NextView {
    /// Spots to read, the one that teaches most first.
    pub spots: Vec<NextSpot>,
    /// A question to the family that decides something; none where none does.
    pub question: Option<DoorQuestion>,
}

/// A spot to read.
#[derive(Debug, Serialize, ToSchema)]
pub struct NextSpot {
    /// What it is worth.
    #[serde(flatten)]
    pub proposal: Proposal,
    /// Why, in words.
    pub told: String,
}

/// The spots whose reading would teach most about whether needs are met in a setup, and the question whose answer would.
#[utoipa::path(tag = "learning", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = NextAsk,
    responses((status = OK, description = "What to do next.", body = NextView), Computing))]
#[post("/homes/{home}/setups/{setup}/next")]
pub async fn next(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<NextAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let NextAsk { ask, done } = asked.into_inner();
    let question = ask.question(state.today())?;
    let told = move |about: &About<'_>| {
        let About { home, kept, plan, .. } = *about;
        let setup = about.setup(setup_id)?;
        let model = Model::new(home, setup, plan, question, kept);
        let spots =
            next_spots(&model, &done).into_iter().map(|proposal| NextSpot { told: proposal.in_words(plan), proposal });
        let question = door_question(home, setup, plan, question, kept);
        Ok(NextView { spots: spots.collect(), question })
    };
    Known::of(&state, home_id).await?.answer(told).await
}
