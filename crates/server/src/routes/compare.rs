//! Setups side by side, what their readings show, and which to keep.

use actix_web::http::StatusCode;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, post, put};
use busy_hen_home::{Decision, Doors, Faults, Home, HomeId, RoundId, SetupId, Situation, TestKind};
use busy_hen_job::check::check;
use busy_hen_job::side_by_side::{Asked, SideBySide, side_by_side};
use busy_hen_survey::readings::compare::{Measure, ShownBy};
use busy_hen_survey::readings::verdict::Weights;
use serde::Deserialize;
use utoipa::ToSchema;

use super::editing::{editing, view};
use super::known::{About, Known};
use super::predict::Ask;
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing};
use crate::state::AppState;
use crate::views::HomeView;

/// Most setups that are set side by side.
const COLUMNS: usize = 12;

/// Which setups, how.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct CompareAsk {
    /// The columns, in their order.
    pub columns: Vec<ColumnAsk>,
    /// Place of the one that the others are set against, counted from 0.
    pub reference: usize,
    /// Kind of test.
    pub kind: TestKind,
    /// Key of the device that predictions are for.
    pub client: String,
    /// Situation that predictions are for.
    pub situation: Situation,
    /// Which figure of the runs.
    #[serde(default)]
    pub measure: Measure,
    /// What is shown of several runs.
    #[serde(default)]
    pub shown: ShownBy,
    /// Whether the part of the plan that arrives is compared in place of the speed.
    #[serde(default)]
    pub share_of_plan: bool,
    /// What counts how much in the choice.
    #[serde(default)]
    pub weights: Weights,
}

/// A setup with all that was measured of it, or one of its rounds alone.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ColumnAsk {
    /// The setup.
    pub setup_id: SetupId,
    /// The round; none for all that is alike.
    #[serde(default)]
    pub round_id: Option<RoundId>,
}

/// Sets setups side by side: each spot measured under one set of conditions, with what the readings show and which setup to keep.
#[utoipa::path(tag = "compare", params(("home" = HomeId, Path)), request_body = CompareAsk,
    responses((status = OK, description = "The setups side by side.", body = SideBySide), Computing))]
#[post("/homes/{home}/compare")]
pub async fn compare_setups(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Body<CompareAsk>,
) -> Result<HttpResponse, ApiError> {
    let asked = asked.into_inner();
    let ask = Ask {
        client: asked.client.clone(),
        band: None,
        situation: asked.situation,
        doors: Doors::AsLeft,
        kind: asked.kind,
    };
    if asked.columns.is_empty() || asked.columns.len() > COLUMNS {
        return Err(Faults::one("/columns", "Compare 1 to 12 setups or rounds.").into());
    }
    if asked.reference >= asked.columns.len() {
        return Err(Faults::one("/reference", "The reference is one of the columns that are compared.").into());
    }
    let question = ask.question(state.today())?;
    let compared = move |about: &About<'_>| {
        let round = |own: &ColumnAsk| match own.round_id {
            None => Ok(None),
            Some(id) => {
                let mut rounds = about.readings.rounds.iter().map(|record| &record.round);
                let found = rounds.find(|round| round.id == id && round.setup_id == own.setup_id);
                found.map(Some).ok_or(ApiError::NotFound("round"))
            }
        };
        let column = |own: &ColumnAsk| Ok::<_, ApiError>((about.setup(own.setup_id)?, round(own)?));
        let asked = Asked {
            columns: asked.columns.iter().map(column).collect::<Result<_, _>>()?,
            reference: asked.reference,
            question,
            conditions: ask.conditions(),
            measure: asked.measure,
            shown: asked.shown,
            share_of_plan: asked.share_of_plan,
            weights: asked.weights,
        };
        Ok(side_by_side(about.home, about.plan, &about.readings.taken(), &asked, about.kept))
    };
    Known::of(&state, *home).await?.answer(compared).await
}

/// What the installer decides in place of what is proposed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct DecisionAsk {
    /// The setup to keep and why; none to take the decision back.
    pub decision: Option<Decision>,
}

/// Keeps what the installer decided, with the reason; the setup is then the one in force.
#[utoipa::path(tag = "compare", params(("home" = HomeId, Path), EditHeaders), request_body = DecisionAsk,
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[put("/homes/{home}/decision")]
pub async fn put_decision(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    asked: Body<DecisionAsk>,
) -> Result<HttpResponse, ApiError> {
    let change = |home: &mut Home| -> Result<(), ApiError> {
        if let Some(decision) = &asked.decision {
            home.setup(decision.setup_id).ok_or(ApiError::NotFound("setup"))?;
            home.in_force = Some(decision.setup_id);
        }
        home.decision = asked.decision.clone();
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}
