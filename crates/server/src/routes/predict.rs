//! Predictions: the lit map with hops and ledger, and the chain at a place.

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, post};
use busy_hen_catalogue::clients;
use busy_hen_home::{
    Band, DeviceId, Doors, Faults, Home, HomeId, LevelId, Position, RoomId, Setup, SetupId, Situation, SpotId,
    TestKind, Under,
};
use busy_hen_job::cautions::{Caution, cautions};
use busy_hen_job::findings::{Finding, findings};
use busy_hen_predict::conditions::Conditions;
use busy_hen_predict::evening::Evening;
use busy_hen_predict::explained::{Explained, explained};
use busy_hen_predict::layers::{Layer, Shaded, cell_for, shades};
use busy_hen_predict::ledger::LedgerRow;
use busy_hen_predict::map::{DeadZone, DrawnHop, FineLine, Rings};
use busy_hen_predict::palette::Shade;
use busy_hen_predict::path::Chain;
use busy_hen_predict::{Model, Prediction, Question};
use busy_hen_radio::propagation::Sensitivity;
use busy_hen_units::{Metres, SquareMetres};
use jiff::civil::Date;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::known::{About, Known};
use crate::body::Body;
use crate::error::ApiError;
use crate::jobs::Job;
use crate::problems::Computing;
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
    /// The conditions under which readings answer the same question.
    #[must_use]
    pub fn conditions(&self) -> Conditions {
        Conditions {
            made_up: false,
            under: Under {
                kind: self.kind,
                client: self.client.clone(),
                band: self.band,
                doors: self.doors,
                situation: self.situation,
                tool: None,
            },
        }
    }

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

/// Lights the whole house.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CoverageAsk {
    /// What is asked.
    pub ask: Ask,
    /// What the map shows.
    #[serde(default)]
    pub layer: Layer,
    /// A device that is being dragged.
    pub moved: Option<Moved>,
}

/// Predicts one level place by place.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct GridAsk {
    /// What is asked.
    pub ask: Ask,
    /// The level.
    pub level_id: LevelId,
    /// Side of a cell.
    pub cell_m: Metres,
    /// A device that is being dragged.
    pub moved: Option<Moved>,
}

/// The lit house, the backhaul, and the ledger.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverageView {
    /// What the map shows.
    pub layer: Layer,
    /// The shades of that, and what each stands for.
    pub shades: Vec<Shade>,
    /// Levels, in the order of the house.
    pub levels: Vec<CoverageLevel>,
    /// Backhaul hops.
    pub hops: Vec<DrawnHop>,
    /// Rooms, worst first.
    pub ledger: Vec<CoverageRow>,
    /// What is worth knowing of the setup before anyone drills.
    pub cautions: Vec<Caution>,
}

/// One lit level.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverageLevel {
    /// The level.
    pub level_id: LevelId,
    /// Side of a cell.
    pub cell_m: Metres,
    /// Where each shade holds; drawn over one another in their order.
    pub shaded: Vec<Shaded>,
    /// Where just so much arrives.
    pub fine_lines: Vec<FineLine>,
    /// Where a room's need is not met.
    pub dead_zones: Vec<DeadZone>,
    /// Outlines of all dead zones.
    pub dead_outlines: Vec<Rings>,
}

/// A room of the ledger, with how much of it is a dead zone.
#[derive(Debug, Serialize, ToSchema)]
pub struct CoverageRow {
    /// The room.
    #[serde(flatten)]
    pub row: LedgerRow,
    /// How much of it does not get what it needs.
    pub dead_area_m2: SquareMetres,
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
    /// Parts of the house that its loss leans on, most first.
    pub leans: Vec<Sensitivity>,
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

/// Lights all levels of a setup, also with a device on its way.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = CoverageAsk,
    responses((status = OK, description = "The lit house.", body = CoverageView), Computing))]
#[post("/homes/{home}/setups/{setup}/coverage")]
pub async fn coverage(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<CoverageAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let CoverageAsk { ask, layer, moved } = asked.into_inner();
    let question = ask.question(state.today())?;
    let lit = move |about: &About<'_>| {
        let About { home, readings, kept, plan, watch } = *about;
        let setup = setup_with(home, setup_id, moved.as_ref())?;
        let measured = readings.measured(setup_id, &ask.conditions());
        let model = Model::new(home, &setup, plan, question, kept);
        let untaught = kept.having(None);
        let (by_tables, compared) = match layer {
            Layer::Difference { setup_id } => (None, Some(home.setup(setup_id).ok_or(ApiError::NotFound("setup"))?)),
            Layer::Learnt => (Some(untaught.plan(home)), None),
            _ => (None, None),
        };
        let other = match (&by_tables, compared) {
            (Some(plan), _) => Some(Model::new(home, &setup, plan, question, &untaught)),
            (None, compared) => compared.map(|other| Model::new(home, other, plan, question, kept)),
        };
        let cell = cell_for(plan);
        let levels: Vec<CoverageLevel> = plan
            .levels
            .iter()
            .enumerate()
            .map(|(level, own)| {
                let map = model.coverage_watched(level, cell, watch);
                CoverageLevel {
                    level_id: own.id,
                    cell_m: map.cell_m,
                    shaded: model.shaded(level, cell, layer, &map, other.as_ref(), watch),
                    fine_lines: map.fine_lines,
                    dead_zones: map.dead_zones,
                    dead_outlines: map.dead_outlines,
                }
            })
            .collect();
        let dead_area = |room: RoomId| {
            let zone = levels.iter().flat_map(|level| &level.dead_zones).find(|zone| zone.room_id == room);
            zone.map_or(SquareMetres::new(0.0), |zone| zone.area_m2)
        };
        let rows = model.ledger(&measured).into_iter();
        Ok(CoverageView {
            layer,
            shades: shades(layer, home, &setup),
            ledger: rows.map(|row| CoverageRow { dead_area_m2: dead_area(row.room_id), row }).collect(),
            hops: model.hops(),
            cautions: cautions(home, &setup, plan),
            levels,
        })
    };
    Known::of(&state, home_id).await?.answer(lit).await
}

/// Begins to predict a level of a setup place by place, with the limiting link of each: a computation that is fetched when it is done.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = GridAsk,
    responses((status = ACCEPTED, description = "It has begun; its result is a list of `GridPlace`.", body = Job), Computing))]
#[post("/homes/{home}/setups/{setup}/grid")]
pub async fn grid(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<GridAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let asked = asked.into_inner();
    let question = asked.ask.question(state.today())?;
    check_cell(asked.cell_m)?;
    let home = state.store.home(home_id).await?.home;
    let setup = setup_with(&home, setup_id, asked.moved.as_ref())?;
    home.house.level(asked.level_id).ok_or(ApiError::NotFound("level"))?;
    let what = format!("every place of a level in setup {}", setup.letter);
    let readings = state.readings(home_id).await?;
    let work_state = state.clone();
    let job = state.jobs.start(what, move |watch| {
        let kept = readings.kept(&work_state.kept, &home);
        let plan = kept.plan(&home);
        let level = plan.level_index(asked.level_id).ok_or(ApiError::NotFound("level"))?;
        let model = Model::new(&home, &setup, &plan, question, &kept);
        Ok(serde_json::to_string(&model.grid(level, asked.cell_m, watch))?)
    })?;
    Ok(HttpResponse::Accepted().json(job))
}

/// Explains a spot or any place: what arrives, which link limits it, and which parts of the house it leans on.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = ChainAsk,
    responses((status = OK, description = "The place explained.", body = ChainView), Computing))]
#[post("/homes/{home}/setups/{setup}/chain")]
pub async fn chain(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<ChainAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let asked = asked.into_inner();
    let question = asked.ask.question(state.today())?;
    let explained = move |about: &About<'_>| {
        let About { home, kept, plan, .. } = *about;
        let setup = setup_with(home, setup_id, asked.moved.as_ref())?;
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
        let model = Model::new(home, &setup, plan, question, kept);
        let (prediction, chain) = (model.at(at, room_id), model.chain(at, room_id));
        Ok(ChainView { room_id, prediction, chain, leans: model.sensitivities(at).unwrap_or_default() })
    };
    Known::of(&state, home_id).await?.answer(explained).await
}

/// Explains the complaints of a home by what a setup is predicted to do in their rooms.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)),
    responses((status = OK, description = "Those that can be told of, in the order of the brief.", body = Vec<Explained>), Computing))]
#[get("/homes/{home}/setups/{setup}/complaints")]
pub async fn complaints(state: Data<AppState>, ids: Path<(HomeId, SetupId)>) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let day = state.today();
    let told = move |about: &About<'_>| {
        let About { home, kept, plan, .. } = *about;
        let setup = about.setup(setup_id)?;
        let all = home.brief.complaints.iter();
        let wanted = all.take_while(|_| kept.is_wanted());
        let told: Vec<Explained> = wanted.filter_map(|own| explained(home, setup, plan, own, day, kept)).collect();
        Ok(told)
    };
    Known::of(&state, home_id).await?.answer(told).await
}

/// Asks for what is wrong with a setup.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct FindingsAsk {
    /// What is asked.
    pub ask: Ask,
}

/// Finds mistakes and risks of a setup, what costs the family most first, each with its fix where one action mends it.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "The findings.", body = Vec<Finding>), Computing))]
#[post("/homes/{home}/setups/{setup}/findings")]
pub async fn finding(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let question = asked.into_inner().ask.question(state.today())?;
    let found = move |about: &About<'_>| {
        let About { home, kept, plan, .. } = *about;
        let setup = about.setup(setup_id)?;
        Ok(findings(home, setup, plan, question, kept))
    };
    Known::of(&state, home_id).await?.answer(found).await
}

/// The busy evening of a setup: who takes what of the plan and of the air while everything goes on at once.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "The busy evening.", body = Evening), Computing))]
#[post("/homes/{home}/setups/{setup}/evening")]
pub async fn evening(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let asked = asked.into_inner().ask.question(state.today())?;
    // Everybody's own device is on whatever band it likes.
    let question = Question { situation: Situation::BusyEvening, band: None, ..asked };
    let told = move |about: &About<'_>| {
        let About { home, kept, plan, .. } = *about;
        let setup = about.setup(setup_id)?;
        let model = Model::new(home, setup, plan, question, kept);
        model.evening().ok_or_else(|| ApiError::Internal("a busy evening that is none".into()))
    };
    Known::of(&state, home_id).await?.answer(told).await
}

/// Setups of one series side by side.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeriesView {
    /// What the series is called.
    pub name: String,
    /// Its setups, in their order.
    pub setups: Vec<SeriesSetup>,
    /// Rooms, in the order of the house.
    pub rooms: Vec<SeriesRoom>,
}

/// A setup of a series.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeriesSetup {
    /// The setup.
    pub id: SetupId,
    /// Its letter.
    pub letter: String,
    /// What it is.
    pub name: String,
}

/// A room, setup by setup.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeriesRoom {
    /// The room.
    pub room_id: RoomId,
    /// Its name.
    pub name: String,
    /// A cell a setup, in their order.
    pub cells: Vec<SeriesCell>,
}

/// What a room gets in a setup of a series.
#[derive(Debug, Serialize, ToSchema)]
pub struct SeriesCell {
    /// Download by prediction, at the room's worst spot.
    pub predicted_mbps: busy_hen_units::MbitPerSec,
    /// Whether its need is met by that; none without a need.
    pub verdict: Option<busy_hen_predict::needs::Verdict>,
    /// Median download that was measured there.
    pub measured_mbps: Option<busy_hen_units::MbitPerSec>,
    /// Whether the product made that measurement up.
    pub made_up: bool,
}

/// The setups of the series that a setup belongs to, room by room: predicted, and measured where somebody did.
#[utoipa::path(tag = "predict", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "The series.", body = SeriesView), Computing))]
#[post("/homes/{home}/setups/{setup}/series")]
pub async fn series(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let ask = asked.into_inner().ask;
    let question = ask.question(state.today())?;
    let told = move |about: &About<'_>| {
        let About { home, readings, kept, plan, .. } = *about;
        let name = home.setup(setup_id).ok_or(ApiError::NotFound("setup"))?.series.clone();
        let name = name.ok_or(ApiError::NotFound("series"))?;
        let members: Vec<&Setup> =
            home.setups.iter().filter(|own| own.series.as_ref() == Some(&name) && !own.archived).collect();
        let ledgers: Vec<Vec<LedgerRow>> = members
            .iter()
            .map(|own| {
                let measured = readings.measured(own.id, &ask.conditions());
                Model::new(home, own, plan, question, kept).ledger(&measured)
            })
            .collect();
        let cell = |rows: &Vec<LedgerRow>, room: RoomId| {
            rows.iter().find(|row| row.room_id == room).map(|row| SeriesCell {
                predicted_mbps: row.predicted.down.middle,
                verdict: row.predicted_verdict,
                measured_mbps: row.measured.map(|own| busy_hen_units::MbitPerSec::new(own.down_mbps.median)),
                made_up: row.made_up,
            })
        };
        let rooms = plan.rooms.iter().map(|room| SeriesRoom {
            room_id: room.id,
            name: room.name.clone(),
            cells: ledgers.iter().filter_map(|rows| cell(rows, room.id)).collect(),
        });
        let setups =
            members.iter().map(|own| SeriesSetup { id: own.id, letter: own.letter.clone(), name: own.name.clone() });
        Ok(SeriesView { name, setups: setups.collect(), rooms: rooms.collect() })
    };
    Known::of(&state, home_id).await?.answer(told).await
}
