//! The run sheet of a setup, and what became of its steps.

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, post, put};
use busy_hen_home::{Faults, HomeId, SetupId, TestKind, Tick, TickOutcome};
use busy_hen_job::fitting::reported::Reported;
use busy_hen_job::fitting::{Report, Sheet, report, reported, sheet};
use busy_hen_job::walked::{self, HandOverWalk};
use busy_hen_predict::handover::HandOverAt;
use busy_hen_predict::{Model, Question};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::known::{About, Known};
use super::predict::FindingsAsk;
use crate::body::Body;
use crate::error::ApiError;
use crate::kit::see;
use crate::problems::{Computing, Storing};
use crate::state::AppState;

/// The run sheet with what became of it.
#[derive(Debug, Serialize, ToSchema)]
pub struct SheetView {
    /// The sheet.
    pub sheet: Sheet,
    /// The newest word on each step; those of steps that are no longer in it too.
    pub ticks: Vec<Tick>,
    /// What was done, and what was not.
    pub report: Report,
}

/// What became of a step.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TickAsk {
    /// The step, by the name the sheet gives it.
    pub step: String,
    /// What became of it; none to take back what was said.
    pub outcome: Option<TickOutcome>,
    /// Who says so.
    #[serde(default)]
    pub by: String,
    /// What is noted with it; never a password.
    #[serde(default)]
    pub note: String,
    /// When it was said, where that was before it could be sent; now when left out.
    #[serde(default)]
    #[schema(value_type = Option<String>, format = DateTime)]
    pub at: Option<Timestamp>,
}

impl SheetView {
    fn new(sheet: Sheet, ticks: Vec<Tick>) -> Self {
        Self { report: report(&sheet, &ticks), sheet, ticks }
    }
}

/// The sheet as it follows from the home, and the ticks there are.
async fn sheet_of(state: &Data<AppState>, (home, setup): (HomeId, SetupId)) -> Result<(Sheet, Vec<Tick>), ApiError> {
    let told = move |about: &About<'_>| {
        Ok((sheet(about.home, about.setup(setup)?, about.plan), about.readings.ticks_of(setup)))
    };
    Known::of(state, home).await?.work(told).await
}

/// The run sheet of a setup: its steps in the order of the work, tools, labels, and what was done of it.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("setup" = SetupId, Path)),
    responses((status = OK, description = "The run sheet.", body = SheetView), Computing))]
#[get("/homes/{home}/setups/{setup}/sheet")]
pub async fn run_sheet(state: Data<AppState>, ids: Path<(HomeId, SetupId)>) -> Result<HttpResponse, ApiError> {
    let (sheet, ticks) = sheet_of(&state, *ids).await?;
    Ok(HttpResponse::Ok().json(SheetView::new(sheet, ticks)))
}

/// Says what became of a step, or takes that back; each step by itself, so that two people can tick at once.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = TickAsk,
    responses((status = OK, description = "The run sheet as it then stands.", body = SheetView), Storing))]
#[put("/homes/{home}/setups/{setup}/ticks")]
pub async fn put_tick(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<TickAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let TickAsk { step, outcome, by, note, at } = asked.into_inner();
    // A clock that goes ahead must not outdo everybody after it.
    let at = at.map_or_else(|| state.now(), |at| at.min(state.now()));
    let (sheet, _) = sheet_of(&state, *ids).await?;
    match outcome {
        None => state.store.untick(home_id, (setup_id, &step), at).await?,
        Some(outcome) => {
            let tick = Tick { setup_id, step, outcome, at, by: by.trim().to_owned(), note: note.trim().to_owned() };
            tick.check()?;
            if !sheet.steps.iter().any(|own| own.key == tick.step) {
                let told = "This step is no longer in the sheet, since the setup was changed; look at it anew.";
                return Err(Faults::one("/step", told).into());
            }
            state.store.tick(home_id, &[tick]).await?;
        }
    }
    let ticks = state.readings(home_id).await?.ticks_of(setup_id);
    Ok(HttpResponse::Ok().json(SheetView::new(sheet, ticks)))
}

/// Where the kit reports of itself.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KitLooksAsk {
    /// Address of its report in this home, such as `http://192.168.1.1/report.json`.
    pub kit_report: String,
}

/// The run sheet with what the kit itself said to it.
#[derive(Debug, Serialize, ToSchema)]
pub struct KitLooks {
    /// The run sheet as it then stands.
    pub view: SheetView,
    /// Steps that the report answered.
    pub answered: usize,
    /// What else it says, or what keeps it from saying more, in sentences.
    pub told: Vec<String>,
}

/// Looks at the kit's own report whether settings took, and answers the steps that it says something to.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = KitLooksAsk,
    responses((status = OK, description = "The run sheet, and what was told.", body = KitLooks), Storing))]
#[post("/homes/{home}/setups/{setup}/kit-looks")]
pub async fn kit_looks(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<KitLooksAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let said = see(asked.kit_report.trim()).await?;
    let stand_in = said.stand_in;
    let looked = move |about: &About<'_>| {
        let setup = about.setup(setup_id)?;
        let sheet = sheet(about.home, setup, about.plan);
        let (answers, told) = reported(&sheet, setup, &said.devices);
        Ok((sheet, answers, told))
    };
    let (sheet, answers, told) = Known::of(&state, home_id).await?.work(looked).await?;
    let by = if stand_in { "stand-in kit, made up" } else { "the kit’s own report" };
    let (answered, at) = (answers.len(), state.now());
    let tick = |Reported { step, outcome, note }| Tick { setup_id, step, outcome, at, by: by.to_owned(), note };
    let ticks: Vec<Tick> = answers.into_iter().map(tick).collect();
    state.store.tick(home_id, &ticks).await?;
    let view = SheetView::new(sheet, state.readings(home_id).await?.ticks_of(setup_id));
    Ok(HttpResponse::Ok().json(KitLooks { view, answered, told }))
}

/// What the model of a setup says of hand-over. Asked within the home: a line that both fill would hide who serves better.
async fn of_hand_over<T: Serialize + Send + 'static>(
    state: &Data<AppState>,
    (home, setup): (HomeId, SetupId),
    asked: FindingsAsk,
    tell: fn(&Model<'_>) -> T,
) -> Result<HttpResponse, ApiError> {
    let question = Question { reach: TestKind::Local, ..asked.ask.question(state.today())? };
    let told = move |about: &About<'_>| {
        Ok(tell(&Model::new(about.home, about.setup(setup)?, about.plan, question, about.kept)))
    };
    Known::of(state, home).await?.answer(told).await
}

/// Where each radio of a setup should hand a client over to another device.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "A radio after the other; none where one device alone serves.", body = Vec<HandOverAt>), Computing))]
#[post("/homes/{home}/setups/{setup}/hand-overs")]
pub async fn hand_overs(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    of_hand_over(&state, *ids, asked.into_inner(), |model| model.hand_overs()).await
}

/// A walk through all rooms with a phone in hand: which device serves, and where it is handed over too late or too soon.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "The walk; empty where one device alone serves.", body = HandOverWalk), Computing))]
#[post("/homes/{home}/setups/{setup}/hand-over-walk")]
pub async fn hand_over_walk(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    of_hand_over(&state, *ids, asked.into_inner(), walked::hand_over_walk).await
}
