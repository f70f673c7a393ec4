//! The house: drawn while typed, and saved; and the air that comes in from outside.

use std::collections::HashSet;

use actix_web::http::{StatusCode, header};
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, get, post, put};
use busy_hen_floorplan::lines::rewrite::{Change, rewrite};
use busy_hen_floorplan::lines::whole::{WholeHouse, read_house, write_house};
use busy_hen_floorplan::{HouseEdit, Plan, adopt, settle};
use busy_hen_formats::{plan_geojson, plan_svg};
use busy_hen_home::{Faults, Home, HomeId, LengthUnit, Level, LevelId, Neighbour, RoomId, SpotId};
use busy_hen_job::check::check;
use busy_hen_store::Change as StoredChange;
use busy_hen_units::Metres;
use serde::{Deserialize, Serialize};
use utoipa::{IntoParams, ToSchema};

use super::editing::{editing, view};
use super::files::attachment;
use super::numbers::length_of;
use crate::body::{Base, Body, EditHeaders, Sender, Typing, TypingHeader};
use crate::drawing::{Drawing, drawing};
use crate::error::ApiError;
use crate::problems::{Computing, Editing, Reading};
use crate::state::AppState;
use crate::views::HomeView;

/// Draws a house as it would be saved, and saves nothing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path)), request_body = HouseEdit,
    responses((status = OK, description = "The house as drawn.", body = Drawing), Computing))]
#[post("/homes/{home}/drawing")]
pub async fn draw(state: Data<AppState>, home: Path<HomeId>, edit: Body<HouseEdit>) -> Result<HttpResponse, ApiError> {
    let id = *home;
    let held = held(&state, id).await?;
    let mut home = state.store.home(id).await?.home;
    let drawn = move |_: &_| {
        settle_edit(&mut home, edit.into_inner(), &held)?;
        let plan = Plan::to_draw(&home.house, home.units);
        Ok(drawing(&home, &plan))
    };
    Ok(HttpResponse::Ok().json(state.places.compute_of(id, drawn).await?))
}

/// Something done on the drawing of a house that may not be saved yet.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Rewriting {
    /// The house as it is typed.
    pub house: HouseEdit,
    /// What is done, one after the other.
    pub changes: Vec<Change>,
    /// Whether what is dragged catches on other rooms and whole steps.
    pub snap: bool,
}

/// The lines of a house with what was done on the drawing written into them.
#[derive(Debug, Serialize, ToSchema)]
pub struct Rewritten {
    /// The levels with their lines.
    pub levels: Vec<Level>,
    /// The house as these lines draw it.
    pub drawing: Drawing,
}

/// Writes what was done on the drawing into the lines, and saves nothing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path)), request_body = Rewriting,
    responses((status = OK, description = "The lines and the drawing.", body = Rewritten), Computing))]
#[post("/homes/{home}/house/rewrite")]
pub async fn rewrite_lines(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Body<Rewriting>,
) -> Result<HttpResponse, ApiError> {
    let id = *home;
    let held = held(&state, id).await?;
    let mut home = state.store.home(id).await?.home;
    let Rewriting { mut house, changes, snap } = asked.into_inner();
    let written = move |_: &_| {
        for (index, change) in changes.iter().enumerate() {
            house.levels = rewrite(&house.levels, home.units, change, snap)
                .map_err(|why| Faults::one(format!("/changes/{index}"), why.to_string()))?;
        }
        settle_edit(&mut home, house, &held)?;
        let plan = Plan::to_draw(&home.house, home.units);
        let drawing = drawing(&home, &plan);
        Ok(Rewritten { levels: home.house.levels, drawing })
    };
    Ok(HttpResponse::Ok().json(state.places.compute_of(id, written).await?))
}

/// Saves the house; lines that are wrong are saved as they are and told in the drawing.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), EditHeaders, TypingHeader), request_body = HouseEdit,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/house")]
pub async fn put_house(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender, typing): (Base, Sender, Typing),
    edit: Body<HouseEdit>,
) -> Result<HttpResponse, ApiError> {
    let held = held(&state, *home).await?;
    let edit = edit.into_inner();
    let change = |home: &mut Home| settle_edit(home, edit, &held);
    let with = StoredChange { typing: &typing.0, ..editing(&state, Some(base.0), &sender.0) };
    let stored = state.store.change(*home, &with, change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// A length as it is typed.
#[derive(Debug, Deserialize, IntoParams)]
pub struct TypedLength {
    /// What was typed.
    pub typed: String,
    /// The unit that is meant where none is written.
    pub unit: LengthUnit,
}

/// A length as it is read.
#[derive(Debug, Serialize, ToSchema)]
pub struct ReadLength {
    /// The length.
    pub metres: Metres,
}

/// Reads a length as people write them: 4.2, 420 cm, 12'6, 12 ft 6½ in.
#[utoipa::path(tag = "house", params(TypedLength),
    responses((status = OK, description = "The length.", body = ReadLength), Reading))]
#[get("/length")]
pub async fn length(asked: Query<TypedLength>) -> Result<HttpResponse, ApiError> {
    let metres = length_of(&asked.typed, asked.unit, "/typed").map_err(|not| Faults::one("/typed", not.words()))?;
    Ok(HttpResponse::Ok().json(ReadLength { metres: Metres::new(metres) }))
}

/// The house as plain text: what holds for all of it, then each level with its lines.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The lines.", content_type = "text/plain; charset=utf-8", body = String), Reading))]
#[get("/homes/{home}/house.txt")]
pub async fn house_text(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let mut home = state.store.home(*home).await?.home;
    adopt(&mut home.house, home.units);
    Ok(HttpResponse::Ok()
        .content_type("text/plain; charset=utf-8")
        .insert_header((header::CONTENT_DISPOSITION, attachment(&home.name, "txt")?))
        .body(write_house(&home.house, home.units)))
}

/// A house as plain text.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct HouseText {
    /// The text.
    pub text: String,
}

/// Takes the house from plain text, in place of the one there is; rooms of the same name stay the same.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), EditHeaders), request_body = HouseText,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/house-text")]
pub async fn put_house_text(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    text: Body<HouseText>,
) -> Result<HttpResponse, ApiError> {
    let held = held(&state, *home).await?;
    let text = text.into_inner().text;
    let change = |home: &mut Home| {
        let known = home.house.levels.clone();
        let whole = read_house(&text, home.units, &known, |_| LevelId::random())
            .map_err(|wrong| Faults::one("/text", wrong.to_string()))?;
        let WholeHouse { levels, outer_wall, inner_wall, windows, around } = whole;
        let edit = HouseEdit { levels, outer_wall, inner_wall, windows, around, ..HouseEdit::from(&*home) };
        settle_edit(home, edit, &held)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// The levels as GeoJSON, in metres of the house's own plane.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path)),
    responses((status = OK, description = "A feature collection.", content_type = "application/geo+json", body = Object), Reading))]
#[get("/homes/{home}/house.geojson")]
pub async fn house_geojson(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let id = *home;
    let home = state.store.home(id).await?.home;
    let named = attachment(&home.name, "geojson")?;
    let text = state.places.compute_of(id, move |_| Ok(plan_geojson(&Plan::to_draw(&home.house, home.units)))).await?;
    Ok(HttpResponse::Ok()
        .content_type("application/geo+json")
        .insert_header((header::CONTENT_DISPOSITION, named))
        .body(text))
}

/// Which level is drawn.
#[derive(Debug, Deserialize, IntoParams)]
pub struct WhichLevel {
    /// The level.
    pub level: LevelId,
}

/// A level as a drawing to print, to scale.
#[utoipa::path(tag = "house", params(("home" = HomeId, Path), WhichLevel),
    responses((status = OK, description = "The drawing.", content_type = "image/svg+xml", body = String), Reading))]
#[get("/homes/{home}/house.svg")]
pub async fn house_svg(
    state: Data<AppState>,
    home: Path<HomeId>,
    which: Query<WhichLevel>,
) -> Result<HttpResponse, ApiError> {
    let id = *home;
    let home = state.store.home(id).await?.home;
    let level = home.house.levels.iter().position(|level| level.id == which.level);
    let level = level.ok_or(ApiError::NotFound("level"))?;
    let named = attachment(&format!("{} {}", home.name, home.house.levels[level].name), "svg")?;
    let drawn = move |_: &_| {
        let plan = Plan::to_draw(&home.house, home.units);
        Ok(plan_svg(&home.name, &plan, level, home.units))
    };
    let text = state.places.compute_of(id, drawn).await?;
    Ok(HttpResponse::Ok().content_type("image/svg+xml").insert_header((header::CONTENT_DISPOSITION, named)).body(text))
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
#[put("/homes/{home}/air")]
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

/// Spots that rounds of tests hold: a room with one of them stays until somebody says what became of it.
async fn held(state: &AppState, home: HomeId) -> Result<HashSet<SpotId>, ApiError> {
    let readings = state.readings(home).await?;
    Ok(readings.rounds.iter().flat_map(|record| record.round.spots.iter().copied()).collect())
}

fn settle_edit(home: &mut Home, edit: HouseEdit, held: &HashSet<SpotId>) -> Result<(), ApiError> {
    settle(home, edit, held, |_| RoomId::random(), |_| SpotId::random());
    Ok(check(home)?)
}
