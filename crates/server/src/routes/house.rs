//! The house: drawn while typed, and saved; and the air that comes in from outside.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post, put};
use busy_hen_engine::check::check;
use busy_hen_engine::geometry::{HouseEdit, Plan, settle};
use busy_hen_home::{Home, HomeId, Neighbour, RoomId, SpotId};
use serde::Deserialize;
use utoipa::ToSchema;

use super::homes::{editing, view};
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing};
use crate::state::AppState;
use crate::views::{Drawing, HomeView, drawing};

/// Draws a house as it would be saved, and saves nothing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path)), request_body = HouseEdit,
    responses((status = OK, description = "The house as drawn.", body = Drawing), Computing))]
#[post("/api/homes/{home}/drawing")]
pub async fn draw(state: Data<AppState>, home: Path<HomeId>, edit: Body<HouseEdit>) -> Result<HttpResponse, ApiError> {
    let mut home = state.store.home(*home).await?.home;
    let drawn = move |_: &_| {
        settle_edit(&mut home, edit.into_inner())?;
        Ok(drawing(&Plan::new(&home.house, home.units)))
    };
    Ok(HttpResponse::Ok().json(state.places.compute(drawn).await?))
}

/// Saves the house; lines that are wrong are saved as they are and told in the drawing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), EditHeaders), request_body = HouseEdit,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/api/homes/{home}/house")]
pub async fn put_house(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    edit: Body<HouseEdit>,
) -> Result<HttpResponse, ApiError> {
    let edit = edit.into_inner();
    let change = |home: &mut Home| settle_edit(home, edit);
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Neighbours' networks as they were heard.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AirEdit {
    /// All of them; they take the place of those kept before.
    pub air: Vec<Neighbour>,
}

/// Saves what was heard of neighbours' networks.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), EditHeaders), request_body = AirEdit,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/api/homes/{home}/air")]
pub async fn put_air(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    edit: Body<AirEdit>,
) -> Result<HttpResponse, ApiError> {
    let air = edit.into_inner().air;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.air = air;
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

fn settle_edit(home: &mut Home, edit: HouseEdit) -> Result<(), ApiError> {
    settle(home, edit, |_| RoomId::random(), |_| SpotId::random());
    Ok(check(home)?)
}
