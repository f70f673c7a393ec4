//! Dead zones of a setup, and what would mend them.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post};
use busy_hen_home::{Home, HomeId, RoomId, Setup, SetupId};
use busy_hen_job::check::check;
use busy_hen_job::dead_zones::{Problem, Remedy, Zone, remedies, worst_place, zones};
use busy_hen_predict::layers::cell_for;
use busy_hen_predict::map::DeadZone;
use busy_hen_predict::progress::Watch;
use busy_hen_predict::{Model, Question};
use serde::Deserialize;
use utoipa::ToSchema;

use super::editing::{editing, view};
use super::known::{About, Known};
use super::predict::{Ask, FindingsAsk};
use super::setups::copied;
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing};
use crate::state::AppState;
use crate::views::HomeView;

/// Asks what would mend a room.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RemediesAsk {
    /// The question it is a dead zone under.
    pub ask: Ask,
    /// The room.
    pub room_id: RoomId,
}

/// Which remedy to try.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct RemedyAsk {
    /// The question it is a dead zone under.
    pub ask: Ask,
    /// The room.
    pub room_id: RoomId,
    /// The remedy, in the words it was told in.
    pub what: String,
}

fn map_zones(model: &Model<'_>, watch: &Watch) -> Vec<DeadZone> {
    let cell = cell_for(model.plan);
    (0..model.plan.levels.len()).flat_map(|level| model.coverage_watched(level, cell, watch).dead_zones).collect()
}

/// Rooms and parts of rooms that do not get what they need: how likely, known by what, and by which link and wall.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "The dead zones, most certain and largest first.", body = Vec<Zone>), Computing))]
#[post("/homes/{home}/setups/{setup}/dead-zones")]
pub async fn dead_zones(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let ask = asked.into_inner().ask;
    let question = ask.question(state.today())?;
    let found = move |about: &About<'_>| {
        let About { home, readings, kept, plan, watch } = *about;
        let setup = about.setup(setup_id)?;
        let model = Model::new(home, setup, plan, question, kept);
        let rows = model.ledger(&readings.measured(setup_id, &ask.conditions()));
        Ok(zones(&model, &map_zones(&model, watch), &rows))
    };
    Known::of(&state, home_id).await?.answer(found).await
}

fn mended(
    about: &About<'_>,
    setup: SetupId,
    (ask, question): (&Ask, Question),
    room: RoomId,
) -> Result<Vec<Remedy>, ApiError> {
    let (setup, &About { home, kept, plan, watch, readings, .. }) = (about.setup(setup)?, about);
    let model = Model::new(home, setup, plan, question, kept);
    let rows = model.ledger(&readings.measured(setup.id, &ask.conditions()));
    let row = rows.iter().find(|own| own.room_id == room).ok_or(ApiError::NotFound("room"))?;
    let at = worst_place(&model, &map_zones(&model, watch), row).ok_or(ApiError::NotFound("room"))?;
    Ok(remedies(Problem { home, setup, plan, question, room, at, measured: row.measured_short() }, kept))
}

/// What would mend a dead zone, free remedies first, then by gain for cost; each is computed as a what-if.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = RemediesAsk,
    responses((status = OK, description = "The remedies.", body = Vec<Remedy>), Computing))]
#[post("/homes/{home}/setups/{setup}/remedies")]
pub async fn room_remedies(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<RemediesAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let RemediesAsk { ask, room_id } = asked.into_inner();
    let question = ask.question(state.today())?;
    let found = move |about: &About<'_>| mended(about, setup_id, (&ask, question), room_id);
    Known::of(&state, home_id).await?.answer(found).await
}

/// Tries a remedy: a copy of the setup with it done.
#[utoipa::path(tag = "setups", params(("home" = HomeId, Path), ("setup" = SetupId, Path), EditHeaders), request_body = RemedyAsk,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/setups/{setup}/try-remedy")]
pub async fn try_remedy(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    (base, sender): (Base, Sender),
    asked: Body<RemedyAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let RemedyAsk { ask, room_id, what } = asked.into_inner();
    let question = ask.question(state.today())?;
    let name = what.clone();
    let look = move |about: &About<'_>| {
        let list = mended(about, setup_id, (&ask, question), room_id)?;
        let own = list.into_iter().find(|own| own.what == what).and_then(|own| own.setup);
        own.ok_or_else(|| ApiError::Conflict("This would no longer help there; look at the remedies anew.".into()))
    };
    let changed = Known::of(&state, home_id).await?.work(look).await?;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let copy = Setup::new(SetupId::random(), &home.next_setup_letter(), &name, copied(&changed.devices));
        home.setups.push(Setup { steering: changed.steering, ..copy });
        Ok(check(home)?)
    };
    let stored = state.store.change(home_id, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}
