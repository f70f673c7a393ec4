//! The house: drawn while typed, and saved; and the air that comes in from outside.

use actix_web::web::{Data, Json, Path, Query};
use actix_web::{post, put};
use busy_hen_engine::check::check;
use busy_hen_engine::geometry::{HouseEdit, Plan, settle};
use busy_hen_home::{Home, HomeId, Neighbour, RoomId, SpotId};
use serde::Deserialize;
use utoipa::ToSchema;

use super::homes::{Base, view};
use crate::error::{ApiError, Problem};
use crate::state::AppState;
use crate::views::{Drawing, HomeView, drawing};

/// Draws a house as it would be saved, and saves nothing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path)), request_body = HouseEdit,
    responses((status = OK, body = Drawing), (status = NOT_FOUND, body = Problem)))]
#[post("/api/homes/{home}/drawing")]
pub async fn draw(state: Data<AppState>, home: Path<HomeId>, edit: Json<HouseEdit>) -> Result<Json<Drawing>, ApiError> {
    let mut home = state.store.home(*home).await?.home;
    settle_edit(&mut home, edit.into_inner())?;
    Ok(Json(drawing(&Plan::new(&home.house, home.units))))
}

/// Saves the house; lines that are wrong are saved as they are and told in the drawing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), Base), request_body = HouseEdit,
    responses((status = OK, body = HomeView), (status = CONFLICT, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[put("/api/homes/{home}/house")]
pub async fn put_house(
    state: Data<AppState>,
    home: Path<HomeId>,
    base: Query<Base>,
    edit: Json<HouseEdit>,
) -> Result<Json<HomeView>, ApiError> {
    let edit = edit.into_inner();
    let change = |home: &mut Home| settle_edit(home, edit);
    let stored = state.store.change(*home, base.revision, "edit of the house", state.now(), change).await?;
    view(&state, stored).await
}

/// Neighbours' networks as they were heard.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AirEdit {
    /// All of them; they take the place of those kept before.
    pub air: Vec<Neighbour>,
}

/// Saves what was heard of neighbours' networks.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), Base), request_body = AirEdit,
    responses((status = OK, body = HomeView), (status = CONFLICT, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[put("/api/homes/{home}/air")]
pub async fn put_air(
    state: Data<AppState>,
    home: Path<HomeId>,
    base: Query<Base>,
    edit: Json<AirEdit>,
) -> Result<Json<HomeView>, ApiError> {
    let air = edit.into_inner().air;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.air = air;
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, base.revision, "edit of the neighbours", state.now(), change).await?;
    view(&state, stored).await
}

fn settle_edit(home: &mut Home, edit: HouseEdit) -> Result<(), ApiError> {
    settle(home, edit, |_| RoomId::random(), |_| SpotId::random());
    Ok(check(home)?)
}
