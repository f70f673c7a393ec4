//! A home with its readings, and questions about it that are answered off the request threads.

use std::sync::Arc;

use actix_web::HttpResponse;
use actix_web::web::Data;
use busy_hen_floorplan::Plan;
use busy_hen_home::{Home, HomeId, Setup, SetupId};
use busy_hen_predict::Knowledge;
use busy_hen_predict::progress::Watch;
use serde::Serialize;

use crate::error::ApiError;
use crate::state::{AppState, Readings};

/// A home and its readings as they stand.
pub struct Known {
    state: Data<AppState>,
    id: HomeId,
    home: Home,
    readings: Arc<Readings>,
    /// Number of the state that was read.
    pub revision: i64,
}

/// What a question about a home is answered from.
pub struct About<'a> {
    /// The home.
    pub home: &'a Home,
    /// Its readings.
    pub readings: &'a Readings,
    /// What was worked out before, with what readings taught.
    pub kept: &'a Knowledge,
    /// The house as readings have it.
    pub plan: &'a Plan,
    /// Whether anybody still waits.
    pub watch: &'a Watch,
}

impl Known {
    pub async fn of(state: &Data<AppState>, home: HomeId) -> Result<Self, ApiError> {
        let readings = state.readings(home).await?;
        let stored = state.store.home(home).await?;
        Ok(Self { state: state.clone(), id: home, home: stored.home, readings, revision: stored.revision })
    }

    /// What this works out, given up when the client leaves.
    pub async fn work<T: Send + 'static>(
        self,
        work: impl FnOnce(&About<'_>) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let Self { state, id, home, readings, .. } = self;
        let places = state.places.clone();
        let worked = move |watch: &Watch| {
            let kept = readings.kept(&state.kept, &home).wanted_by(watch);
            let plan = kept.plan(&home);
            work(&About { home: &home, readings: &readings, kept: &kept, plan: &plan, watch })
        };
        places.compute_of(id, worked).await
    }

    /// The same as an answer.
    pub async fn answer<T: Serialize + Send + 'static>(
        self,
        work: impl FnOnce(&About<'_>) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<HttpResponse, ApiError> {
        Ok(HttpResponse::Ok().json(self.work(work).await?))
    }
}

impl<'a> About<'a> {
    /// A setup of the home.
    pub fn setup(&self, id: SetupId) -> Result<&'a Setup, ApiError> {
        self.home.setup(id).ok_or(ApiError::NotFound("setup"))
    }
}
