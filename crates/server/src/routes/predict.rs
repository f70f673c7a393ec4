//! Predictions: the lit map with hops and ledger, and the chain at a place.

use actix_web::post;
use actix_web::web::{self, Data, Json, Path};
use busy_hen_engine::catalogue::clients;
use busy_hen_engine::cautions::{Caution, cautions};
use busy_hen_engine::geometry::Plan;
use busy_hen_engine::path::Chain;
use busy_hen_engine::predict::ledger::LedgerRow;
use busy_hen_engine::predict::map::{DrawnHop, GridPlace, LightMap};
use busy_hen_engine::predict::{Model, Prediction, Question};
use busy_hen_home::{
    Band, DeviceId, Doors, Faults, Home, HomeId, LevelId, Position, RoomId, Setup, SetupId, Situation, SpotId, TestKind,
};
use busy_hen_units::Metres;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::error::{ApiError, Problem};
use crate::state::AppState;

/// Finest and coarsest grid that may be asked for, m.
const CELLS: std::ops::RangeInclusive<f64> = 0.05..=2.0;

/// What is asked: with which device, how, when.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Ask {
    /// Key of the device people hold.
    pub client: String,
    /// The band it is held to; none when it chooses.
    pub band: Option<Band>,
    /// Whether the family is busy meanwhile.
    pub situation: Situation,
    /// How the doors stand.
    #[serde(default)]
    pub doors: Doors,
    /// How far the test reaches.
    pub kind: TestKind,
}

impl Ask {
    /// The question for the core, for this day's plan.
    ///
    /// # Errors
    /// When the test device is not in the catalogue.
    pub fn question(&self, day: Date) -> Result<Question, Faults> {
        let client = clients::find(&self.client)
            .ok_or_else(|| Faults::one("/client", "This test device is not in the catalogue; choose another."))?;
        Ok(Question { client, band: self.band, situation: self.situation, doors: self.doors, reach: self.kind, day })
    }
}

/// A device as it is being dragged, not yet saved.
#[derive(Debug, Clone, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct Moved {
    /// The device.
    pub device: DeviceId,
    /// Where it is now.
    pub at: Position,
}

/// Lights one level.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct LightAsk {
    /// What is asked.
    pub ask: Ask,
    /// The level.
    pub level_id: LevelId,
    /// Side of a cell.
    pub cell_m: Metres,
    /// A device that is being dragged.
    pub moved: Option<Moved>,
}

/// A lit level, the backhaul, and the ledger of the whole home.
#[derive(Debug, Serialize, ToSchema)]
pub struct Light {
    /// The level.
    pub level_id: LevelId,
    /// The map.
    pub map: LightMap,
    /// Backhaul hops.
    pub hops: Vec<DrawnHop>,
    /// Rooms, worst first.
    pub ledger: Vec<LedgerRow>,
    /// What is worth knowing of the setup before anyone drills.
    pub cautions: Vec<Caution>,
}

/// Explains a place.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ChainAsk {
    /// What is asked.
    pub ask: Ask,
    /// A spot; or a place of a level.
    pub spot_id: Option<SpotId>,
    /// The level of the place.
    pub level_id: Option<LevelId>,
    /// East of the origin.
    pub x_m: Option<Metres>,
    /// South of the origin.
    pub y_m: Option<Metres>,
    /// A device that is being dragged.
    pub moved: Option<Moved>,
}

/// What a place gets and why.
#[derive(Debug, Serialize, ToSchema)]
pub struct ChainView {
    /// The room; none between rooms.
    pub room_id: Option<RoomId>,
    /// What it gets.
    pub prediction: Prediction,
    /// The chain; none where nothing holds.
    pub chain: Option<Chain>,
}

/// The setup with a dragged device where it is now.
fn setup_with(home: &Home, setup: SetupId, moved: Option<&Moved>) -> Result<Setup, ApiError> {
    let mut setup = home.setup(setup).cloned().ok_or(ApiError::NotFound("setup"))?;
    if let Some(moved) = moved {
        let device = setup.devices.iter_mut().find(|device| device.id == moved.device);
        device.ok_or(ApiError::NotFound("device"))?.at = moved.at;
    }
    Ok(setup)
}

fn check_cell(cell: Metres) -> Result<(), Faults> {
    if CELLS.contains(&cell.get()) { Ok(()) } else { Err(Faults::one("/cell_m", "A cell of the map is 0.05 to 2 m.")) }
}

/// Runs a computation off the threads that answer requests.
pub(crate) async fn compute<T: Send + 'static>(
    work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
) -> Result<T, ApiError> {
    web::block(work).await.map_err(|error| ApiError::Internal(error.to_string()))?
}

/// Lights one level of a setup, also with a device on its way.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = LightAsk,
    responses((status = OK, body = Light), (status = NOT_FOUND, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes/{home}/setups/{setup}/light")]
pub async fn light(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Json<LightAsk>,
) -> Result<Json<Light>, ApiError> {
    let (home_id, setup_id) = *ids;
    let asked = asked.into_inner();
    let question = asked.ask.question(state.today())?;
    check_cell(asked.cell_m)?;
    let home = state.store.home(home_id).await?.home;
    let measured = state.readings(home_id).await?.summaries(setup_id, question.reach);
    compute(move || {
        let setup = setup_with(&home, setup_id, asked.moved.as_ref())?;
        let plan = Plan::new(&home.house, home.units);
        let level = plan.level_index(asked.level_id).ok_or(ApiError::NotFound("level"))?;
        let model = Model::new(&home, &setup, &plan, question, &state.kept);
        Ok(Json(Light {
            level_id: asked.level_id,
            map: model.light(level, asked.cell_m),
            hops: model.hops(),
            ledger: model.ledger(&measured),
            cautions: cautions(&home, &setup, &plan),
        }))
    })
    .await
}

/// Predicts a level of a setup place by place, with the limiting link of each.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = LightAsk,
    responses((status = OK, body = Vec<GridPlace>), (status = NOT_FOUND, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes/{home}/setups/{setup}/grid")]
pub async fn grid(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Json<LightAsk>,
) -> Result<Json<Vec<GridPlace>>, ApiError> {
    let (home_id, setup_id) = *ids;
    let asked = asked.into_inner();
    let question = asked.ask.question(state.today())?;
    check_cell(asked.cell_m)?;
    let home = state.store.home(home_id).await?.home;
    compute(move || {
        let setup = setup_with(&home, setup_id, asked.moved.as_ref())?;
        let plan = Plan::new(&home.house, home.units);
        let level = plan.level_index(asked.level_id).ok_or(ApiError::NotFound("level"))?;
        Ok(Json(Model::new(&home, &setup, &plan, question, &state.kept).grid(level, asked.cell_m)))
    })
    .await
}

/// Explains a spot or any place: what arrives and which link limits it.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = ChainAsk,
    responses((status = OK, body = ChainView), (status = NOT_FOUND, body = Problem), (status = UNPROCESSABLE_ENTITY, body = Problem)))]
#[post("/api/homes/{home}/setups/{setup}/chain")]
pub async fn chain(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Json<ChainAsk>,
) -> Result<Json<ChainView>, ApiError> {
    let (home_id, setup_id) = *ids;
    let asked = asked.into_inner();
    let question = asked.ask.question(state.today())?;
    let home = state.store.home(home_id).await?.home;
    compute(move || {
        let setup = setup_with(&home, setup_id, asked.moved.as_ref())?;
        let plan = Plan::new(&home.house, home.units);
        let (at, room_id) = match (&asked.spot_id, asked.level_id, asked.x_m, asked.y_m) {
            (Some(spot_id), ..) => {
                let spot = home.house.spots.iter().find(|spot| spot.id == *spot_id);
                let (_, at) = spot.and_then(|spot| plan.spot(spot)).ok_or(ApiError::NotFound("spot"))?;
                (at, spot.map(|spot| spot.room_id))
            }
            (None, Some(level_id), Some(x), Some(y)) if x.is_finite() && y.is_finite() => {
                let level = plan.level_index(level_id).ok_or(ApiError::NotFound("level"))?;
                let room = plan.room_at(level, x.get(), y.get());
                (plan.in_hand(level, x.get(), y.get()), room.map(|room| room.id))
            }
            _ => return Err(Faults::one("/spot_id", "Name a spot, or a level with x and y.").into()),
        };
        let model = Model::new(&home, &setup, &plan, question, &state.kept);
        Ok(Json(ChainView { room_id, prediction: model.at(at, room_id), chain: model.chain(at, room_id) }))
    })
    .await
}
