//! Homes: list, make, open, brief, undo and redo.

use std::collections::HashSet;
use std::sync::LazyLock;

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, get, post, put};
use busy_hen_catalogue::clients;
use busy_hen_floorplan::lines::restate::restate;
use busy_hen_floorplan::lines::whole::read_house;
use busy_hen_floorplan::{HouseEdit, Plan, adopt, settle};
use busy_hen_home::{
    Brief, FamilyDeviceId, Faults, Home, HomeId, House, LengthUnit, LevelId, RoomId, Setup, SetupId, SpotId, UseId,
};
use busy_hen_job::check::check;
use busy_hen_job::route::{Stop, route};
use busy_hen_predict::needs::families::FAMILIES;
use busy_hen_predict::progress::Watch;
use busy_hen_radio::propagation::LAW;
use busy_hen_store::Head;
use jiff::civil::{Date, date};
use serde::{Deserialize, Serialize};
use serde_json::value::RawValue;
use sha2::{Digest, Sha256};
use utoipa::{PartialSchema, ToSchema};

use super::editing::{editing, view};
use super::setups::{NewDevice, place};
use crate::body::{Base, Body, EditHeaders, EditorHeader, Sender};
use crate::error::ApiError;
use crate::problems::{Acting, Editing, Reading, Storing};
use crate::state::AppState;
use crate::thumb::{SetupInForce, Thumb, coverage_thumb};
use crate::tokens::hex;
use crate::views::HomeView;

/// A home as listed.
#[derive(Debug, Serialize, ToSchema)]
pub struct HomeHead {
    /// Its id.
    pub id: HomeId,
    /// When it was last changed.
    #[schema(value_type = String, format = DateTime)]
    pub changed_at: jiff::Timestamp,
    /// What the list shows of it; none when it can't be read.
    #[schema(value_type = Option<HomeSummary>)]
    pub summary: Option<Box<RawValue>>,
    /// Why it can't be read, when it can't.
    pub problem: Option<String>,
}

/// What the list shows of a home.
#[derive(Debug, Serialize, ToSchema)]
pub struct HomeSummary {
    /// Its name.
    pub name: String,
    /// The complaint.
    pub complaint: String,
    /// The stops of its route.
    pub route: Vec<Stop>,
    /// The house, for a thumbnail; none while it has no rooms.
    pub thumb: Option<Thumb>,
    /// The setup in force; none while there is none.
    pub in_force: Option<SetupInForce>,
    /// Whether the job is put away.
    pub archived: bool,
    /// Of a made-up home: where to begin with it.
    pub example: Option<String>,
}

/// Whether a job is put away.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Archived {
    /// Whether it is.
    pub archived: bool,
}

/// A new home.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewHome {
    /// What the installer calls the job.
    pub name: String,
    /// ISO 3166 code of the country.
    pub region: String,
    /// Unit in which lengths are shown.
    pub units: LengthUnit,
    /// Lines of a first level, to see light at once: a router is placed in its first room. None for an empty home.
    #[serde(default)]
    pub lines: Option<String>,
}

/// The brief with the facts of the home that go with it.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct BriefEdit {
    /// What the installer calls the job.
    pub name: String,
    /// ISO 3166 code of the country.
    pub region: String,
    /// Unit in which lengths are shown.
    pub units: LengthUnit,
    /// The brief.
    pub brief: Brief,
}

/// How far to undo.
#[derive(Debug, Default, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct UndoAsk {
    /// Number of the step to go back to, that one undone as well; only the last when left out.
    pub to: Option<i64>,
}

/// All homes, last changed first.
#[utoipa::path(tag = "homes", responses((status = OK, description = "The homes.", body = Vec<HomeHead>), Reading))]
#[get("/homes")]
pub async fn list_homes(state: Data<AppState>) -> Result<HttpResponse, ApiError> {
    let today = state.today();
    let mut heads = Vec::new();
    let mut fresh = Vec::new();
    for Head { id, standing, changed_at, document } in state.store.heads(today, form_of_summaries()).await? {
        let text = match document {
            Some(text) => Ok(text),
            None => summary(&state, id, today)
                .await
                .inspect(|(text, until)| {
                    fresh.push((id, standing, *until, text.clone()));
                })
                .map(|(text, _)| text),
        };
        let (summary, problem) = match text.and_then(|text| Ok(RawValue::from_string(text)?)) {
            Ok(summary) => (Some(summary), None),
            // One home that can't be read must not hide the others.
            Err(error) => {
                tracing::error!(%id, %error, "a home can't be read");
                (None, Some("This home can't be read by this version; its file is as it was.".to_owned()))
            }
        };
        heads.push(HomeHead { id, changed_at, summary, problem });
    }
    if !fresh.is_empty() {
        // A list that could not be kept is made anew next time.
        let _ = state.store.keep_heads(form_of_summaries(), &fresh).await;
    }
    Ok(HttpResponse::Ok().json(heads))
}

/// Tells the form of [`HomeSummary`], and by which law it was made, so that none of another form is shown.
fn form_of_summaries() -> &'static str {
    static FORM: LazyLock<String> = LazyLock::new(|| {
        let mut schemas = vec![(LAW.to_owned(), HomeSummary::schema())];
        HomeSummary::schemas(&mut schemas);
        let text = serde_json::to_vec(&schemas).unwrap_or_default();
        hex(&Sha256::digest(text))
    });
    &FORM
}

/// What the list shows of a home, as JSON text, and the day until which that holds.
async fn summary(state: &Data<AppState>, id: HomeId, today: Date) -> Result<(String, Date), ApiError> {
    let home = state.store.home(id).await?.home;
    let readings = state.readings(id).await?;
    let tested = readings.tested();
    let later = home.brief.plans.iter().map(|plan| plan.from).filter(|from| *from > today).min();
    let plan = Plan::new(&home.house, home.units);
    let route = route(&home, &plan, &readings.done_so_far(&tested), today);
    let lit = Data::clone(state);
    let look = move |_: &Watch| {
        let kept = readings.kept(&lit.kept, &home);
        let (thumb, in_force) = coverage_thumb(&home, &kept.plan(&home), today, &kept);
        Ok(HomeSummary {
            route,
            thumb,
            in_force,
            archived: home.archived,
            example: home.example,
            name: home.name,
            complaint: home.brief.complaint,
        })
    };
    let summary = state.places.compute_of(id, look).await?;
    let text = serde_json::to_string(&summary).map_err(|error| ApiError::Internal(error.to_string()))?;
    Ok((text, later.unwrap_or(date(9999, 12, 31))))
}

impl From<serde_json::Error> for ApiError {
    fn from(error: serde_json::Error) -> Self {
        Self::Internal(error.to_string())
    }
}

/// Makes a home.
#[utoipa::path(tag = "homes", params(EditorHeader), request_body = NewHome,
    responses((status = CREATED, description = "The new home.", body = HomeView), Storing))]
#[post("/homes")]
pub async fn create_home(state: Data<AppState>, sender: Sender, new: Body<NewHome>) -> Result<HttpResponse, ApiError> {
    let mut home = Home { house: House::unsaid(), ..Home::new(new.name.trim(), &new.region, new.units) };
    if let Some(lines) = new.lines.as_deref().filter(|lines| !lines.trim().is_empty()) {
        first_coverage(&mut home, lines, state.today())?;
    }
    check(&home)?;
    let stored = state.store.create(HomeId::random(), &home, state.now()).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// Kit that a home begun from lines is lit by.
const FIRST_KIT: &str = "router_ax";

/// A level of these lines, and a setup with a router in its first room.
fn first_coverage(home: &mut Home, lines: &str, day: Date) -> Result<(), ApiError> {
    let text = format!("level Ground\n{lines}");
    let whole = read_house(&text, home.units, &[], |_| LevelId::random())
        .map_err(|wrong| Faults::one("/lines", wrong.to_string()))?;
    home.house.levels = whole.levels;
    let edit = HouseEdit::from(&*home);
    settle(home, edit, &HashSet::new(), |_| RoomId::random(), |_| SpotId::random());
    let plan = Plan::new(&home.house, home.units);
    if let Some(fault) = plan.faults.first() {
        return Err(Faults::one("/lines", format!("Line {}: {}", fault.line + 1, fault.wrong.message)).into());
    }
    if plan.rooms.iter().all(|room| room.outdoors) {
        return Err(Faults::one("/lines", "Type a room with its size first, such as “Hall 2 x 5”.").into());
    }
    let setup = Setup::new(SetupId::random(), &home.next_setup_letter(), "first try", Vec::new());
    let new = NewDevice { kit: FIRST_KIT.into(), at: None, room_id: None };
    home.setups.push(setup);
    place(home, home.setups[0].id, &new, day)
}

/// Brings the made-up homes that ship with the program.
#[utoipa::path(tag = "homes",
    responses((status = NO_CONTENT, description = "They are in the list."), Acting))]
#[post("/examples")]
pub async fn open_examples(state: Data<AppState>) -> Result<HttpResponse, ApiError> {
    let now = state.now();
    let made = state.clone();
    let homes = move |_: &Watch| {
        let examples = made.examples.as_ref();
        examples.map(|own| own.homes(now)).ok_or_else(|| ApiError::Conflict("No made-up homes ship here.".into()))
    };
    let homes = state.places.compute(homes).await?;
    state.store.create_all(&homes, now).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Opens a home. The answer's ETag is its revision: what a change says it is based on.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), EditorHeader),
    responses((status = OK, description = "The home.", body = HomeView), Reading))]
#[get("/homes/{home}")]
pub async fn open_home(state: Data<AppState>, sender: Sender, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let stored = state.store.home(*home).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Deletes a home with all that was measured in it; until the program ends it can be brought back.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = NO_CONTENT, description = "It is deleted."), Acting))]
#[delete("/homes/{home}")]
pub async fn delete_home(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    state.store.delete(*home).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// A home that was deleted and can be brought back.
#[derive(Debug, Serialize, ToSchema)]
pub struct DeletedHome {
    /// The home.
    pub id: HomeId,
    /// Its name.
    pub name: String,
}

/// Homes that were deleted since the program was started; they go for good when it ends.
#[utoipa::path(tag = "homes", responses((status = OK, description = "The homes.", body = Vec<DeletedHome>), Reading))]
#[get("/deleted-homes")]
pub async fn list_deleted_homes(state: Data<AppState>) -> Result<HttpResponse, ApiError> {
    let homes = state.store.deleted_homes().await?.into_iter().map(|(id, name)| DeletedHome { id, name });
    Ok(HttpResponse::Ok().json(homes.collect::<Vec<_>>()))
}

/// Brings a deleted home back as it was.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = NO_CONTENT, description = "It is back."), Acting))]
#[post("/deleted-homes/{home}/back")]
pub async fn bring_home_back(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    state.store.bring_back(*home).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Throws a deleted home away for good.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/deleted-homes/{home}")]
pub async fn throw_home_away(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    state.store.throw_away(*home).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Changes the brief.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), EditHeaders), request_body = BriefEdit,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/brief")]
pub async fn put_brief(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    edit: Body<BriefEdit>,
) -> Result<HttpResponse, ApiError> {
    let edit = edit.into_inner();
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.name = edit.name.trim().to_owned();
        home.region = edit.region;
        if edit.units != home.units {
            // What was typed without a unit keeps the one it was meant in.
            adopt(&mut home.house, home.units);
            let levels = home.house.levels.iter_mut();
            levels.for_each(|level| level.lines = restate(&level.lines, home.units));
        }
        home.units = edit.units;
        home.brief = edit.brief;
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Which family.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FamilyAsk {
    /// Its name in the catalogue.
    pub name: String,
}

/// Adds to the brief what a common family does in the rooms of this home, and its devices.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), EditHeaders), request_body = FamilyAsk,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/family")]
pub async fn add_family(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    ask: Body<FamilyAsk>,
) -> Result<HttpResponse, ApiError> {
    let family = FAMILIES.iter().find(|family| family.name == ask.name);
    let family = family.ok_or_else(|| Faults::one("/name", "No such family is known; choose one from the list."))?;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let known = |class: &str| clients::find(class).is_some();
        let (uses, devices) = family.in_home(home, |_| UseId::random(), |_| FamilyDeviceId::random(), known);
        home.brief.uses.extend(uses);
        home.brief.devices.extend(devices);
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Puts a job away, or takes it out again.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), EditHeaders), request_body = Archived,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/archived")]
pub async fn archive_home(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    asked: Body<Archived>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.archived = asked.archived;
        Ok(())
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Takes one's own last step back, or all of them back to one.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), EditorHeader), request_body = UndoAsk,
    responses((status = OK, description = "The home as it now is.", body = HomeView), Storing))]
#[post("/homes/{home}/undo")]
pub async fn undo(
    state: Data<AppState>,
    home: Path<HomeId>,
    sender: Sender,
    ask: Body<UndoAsk>,
) -> Result<HttpResponse, ApiError> {
    let stored = state.store.undo(*home, ask.to, &editing(&state, None, &sender.0)).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Brings back the step that one took back last.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), EditorHeader),
    responses((status = OK, description = "The home as it now is.", body = HomeView), Acting))]
#[post("/homes/{home}/redo")]
pub async fn redo(state: Data<AppState>, home: Path<HomeId>, sender: Sender) -> Result<HttpResponse, ApiError> {
    let stored = state.store.redo(*home, &editing(&state, None, &sender.0)).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}
