//! Homes: list, make, open, brief, undo and redo.

use actix_web::web::{Data, Json, Path, Query};
use actix_web::{HttpResponse, delete, get, post, put};
use busy_hen_engine::check::check;
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::route::{Stop, route};
use busy_hen_home::{Brief, Home, HomeId, LengthUnit};
use busy_hen_store::Stored;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use crate::error::{ApiError, Problem};
use crate::state::AppState;
use crate::views::{Drawing, HomeView, drawing};

/// A home as listed.
#[derive(Debug, Serialize, ToSchema)]
pub struct HomeHead {
    /// Its id.
    pub id: HomeId,
    /// Its name.
    pub name: String,
    /// The complaint.
    pub complaint: String,
    /// When it was last changed.
    #[schema(value_type = String, format = DateTime)]
    pub changed_at: jiff::Timestamp,
    /// The stops of its route.
    pub route: Vec<Stop>,
    /// The house, for a thumbnail.
    pub drawing: Drawing,
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

/// The revision that a change was made on.
#[derive(Debug, Deserialize, IntoParams)]
pub struct Base {
    /// Number of the revision; left out when the change fits any.
    pub revision: Option<i64>,
}

/// Answers with a home as it now is.
pub(crate) async fn view(state: &AppState, stored: Stored) -> Result<Json<HomeView>, ApiError> {
    let readings = state.readings(stored.id).await?;
    Ok(Json(HomeView::new(stored, &readings, state.today())))
}

/// All homes, last changed first.
#[utoipa::path(tag = "homes", responses((status = OK, body = Vec<HomeHead>)))]
#[get("/api/homes")]
pub async fn list_homes(state: Data<AppState>) -> Result<Json<Vec<HomeHead>>, ApiError> {
    let mut heads = Vec::new();
    for stored in state.store.homes().await? {
        let readings = state.readings(stored.id).await?;
        let plan = Plan::new(&stored.home.house, stored.home.units);
        heads.push(HomeHead {
            id: stored.id,
            route: route(&stored.home, &plan, &readings.tested(), state.today()),
            drawing: drawing(&plan),
            name: stored.home.name,
            complaint: stored.home.brief.complaint,
            changed_at: stored.changed_at,
        });
    }
    Ok(Json(heads))
}

/// Makes a home.
#[utoipa::path(tag = "homes", request_body = NewHome,
    responses((status = CREATED, body = HomeView), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes")]
pub async fn create_home(state: Data<AppState>, new: Json<NewHome>) -> Result<HttpResponse, ApiError> {
    let home = Home::new(new.name.trim(), &new.region, new.units);
    check(&home)?;
    let stored = state.store.create(HomeId::random(), &home, state.now()).await?;
    Ok(HttpResponse::Created().json(view(&state, stored).await?.into_inner()))
}

/// Opens a home.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = OK, body = HomeView), (status = NOT_FOUND, body = Problem)))]
#[get("/api/homes/{home}")]
pub async fn open_home(state: Data<AppState>, home: Path<HomeId>) -> Result<Json<HomeView>, ApiError> {
    let stored = state.store.home(*home).await?;
    view(&state, stored).await
}

/// Deletes a home with all that was measured in it.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = NO_CONTENT), (status = NOT_FOUND, body = Problem)))]
#[delete("/api/homes/{home}")]
pub async fn delete_home(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    state.store.delete(*home).await?;
    state.forget_readings(*home).await;
    Ok(HttpResponse::NoContent().finish())
}

/// Changes the brief.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path), Base), request_body = BriefEdit,
    responses((status = OK, body = HomeView), (status = CONFLICT, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[put("/api/homes/{home}/brief")]
pub async fn put_brief(
    state: Data<AppState>,
    home: Path<HomeId>,
    base: Query<Base>,
    edit: Json<BriefEdit>,
) -> Result<Json<HomeView>, ApiError> {
    let edit = edit.into_inner();
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.name = edit.name.trim().to_owned();
        home.region = edit.region;
        home.units = edit.units;
        home.brief = edit.brief;
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, base.revision, "edit of the brief", state.now(), change).await?;
    view(&state, stored).await
}

/// Takes the last change back.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = OK, body = HomeView), (status = CONFLICT, body = Problem)))]
#[post("/api/homes/{home}/undo")]
pub async fn undo(state: Data<AppState>, home: Path<HomeId>) -> Result<Json<HomeView>, ApiError> {
    let stored = state.store.undo(*home, state.now()).await?;
    view(&state, stored).await
}

/// Brings back the change that was taken back last.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = OK, body = HomeView), (status = CONFLICT, body = Problem)))]
#[post("/api/homes/{home}/redo")]
pub async fn redo(state: Data<AppState>, home: Path<HomeId>) -> Result<Json<HomeView>, ApiError> {
    let stored = state.store.redo(*home, state.now()).await?;
    view(&state, stored).await
}
