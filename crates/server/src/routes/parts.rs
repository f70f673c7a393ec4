//! What a setup is put together from, and the installer's own kit.

use actix_web::http::{StatusCode, header};
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, post, put};
use busy_hen_catalogue::kit;
use busy_hen_catalogue::table::{name_keys, read_kit, write_kit};
use busy_hen_floorplan::Plan;
use busy_hen_formats::{KIT_TABLE_SCHEMA, parts_csv};
use busy_hen_home::{Home, HomeId, Kit, SetupId};
use busy_hen_job::check::check;
use busy_hen_job::parts::{Parts, parts};
use busy_hen_predict::progress::Watch;
use serde::Deserialize;
use utoipa::ToSchema;

use super::editing::{editing, view};
use super::files::attachment;
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing, Reading};
use crate::state::AppState;
use crate::views::HomeView;

async fn parts_of(state: &AppState, (id, setup): (HomeId, SetupId)) -> Result<(Home, Parts), ApiError> {
    let home = state.store.home(id).await?.home;
    let look = move |_: &Watch| {
        let own = home.setup(setup).ok_or(ApiError::NotFound("setup"))?;
        let list = parts(&home, own, &Plan::new(&home.house, home.units));
        Ok((home, list))
    };
    state.places.clone().compute_of(id, look).await
}

/// What a setup takes that is not there yet, with prices; its ports, what feeds what, and the ways of its cables.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path)),
    responses((status = OK, description = "The parts.", body = Parts), Computing))]
#[get("/homes/{home}/setups/{setup}/parts")]
pub async fn setup_parts(state: Data<AppState>, ids: Path<(HomeId, SetupId)>) -> Result<HttpResponse, ApiError> {
    let (_, list) = parts_of(&state, *ids).await?;
    Ok(HttpResponse::Ok().json(list))
}

/// The same as a table: parts, cables with their lengths, and ports.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path)),
    responses((status = OK, description = "The parts.", body = String, content_type = "text/csv; charset=utf-8"), Computing))]
#[get("/homes/{home}/setups/{setup}/parts.csv")]
pub async fn setup_parts_csv(state: Data<AppState>, ids: Path<(HomeId, SetupId)>) -> Result<HttpResponse, ApiError> {
    let (home, list) = parts_of(&state, *ids).await?;
    let letter = home.setup(ids.1).map_or("", |setup| setup.letter.as_str());
    let text = parts_csv(&list, home.units).map_err(|error| ApiError::Internal(error.to_string()))?;
    table(&format!("{} {letter} parts", home.name), text)
}

fn table(name: &str, text: String) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((header::CONTENT_DISPOSITION, attachment(name, "csv")?))
        .body(text))
}

/// The installer's own kit.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct OwnKit {
    /// All of it; one with an empty key gets one made of its name.
    pub kit: Vec<Kit>,
}

/// A table of kit.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KitTable {
    /// The table: CSV (RFC 4180) with the columns of the schema.
    pub csv: String,
}

/// Changes the installer's own kit of a home.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), EditHeaders), request_body = OwnKit,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/own-kit")]
pub async fn put_own_kit(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    own: Body<OwnKit>,
) -> Result<HttpResponse, ApiError> {
    let mut own = own.into_inner();
    name_keys(&mut own.kit);
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.own_kit = own.kit;
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// Adds a table of kit to the installer's own; a line with a key that is there takes its place.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), EditHeaders), request_body = KitTable,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/own-kit/table")]
pub async fn add_own_kit(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    table: Body<KitTable>,
) -> Result<HttpResponse, ApiError> {
    let read = read_kit(&table.csv)?;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        for kit in read {
            match home.own_kit.iter_mut().find(|own| own.key == kit.key) {
                Some(own) => *own = kit,
                None => home.own_kit.push(kit),
            }
        }
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

/// The installer's own kit of a home as a table.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The table.", body = String, content_type = "text/csv; charset=utf-8"), Reading))]
#[get("/homes/{home}/own-kit.csv")]
pub async fn own_kit_table(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let home = state.store.home(*home).await?.home;
    let text = write_kit(&home.own_kit).map_err(|error| ApiError::Internal(error.to_string()))?;
    table(&format!("{} kit", home.name), text)
}

/// The kit that ships with the product as a table: an example of how one's own is written.
#[utoipa::path(tag = "catalogue",
    responses((status = OK, description = "The table.", body = String, content_type = "text/csv; charset=utf-8"), Reading))]
#[get("/kit.csv")]
pub async fn kit_table() -> Result<HttpResponse, ApiError> {
    let text = write_kit(kit::all().iter().map(AsRef::as_ref));
    table("kit", text.map_err(|error| ApiError::Internal(error.to_string()))?)
}

/// What the columns of a table of kit hold: a table schema of the Frictionless specifications.
#[utoipa::path(tag = "catalogue",
    responses((status = OK, description = "The schema.", body = serde_json::Value), Reading))]
#[get("/kit.schema.json")]
pub async fn kit_table_schema() -> HttpResponse {
    HttpResponse::Ok().content_type("application/json").body(KIT_TABLE_SCHEMA)
}
