//! Drills: what each failure would do and what became of those that were run; and the probe that times them.

use std::net::SocketAddr;
use std::time::Duration;

use actix_web::http::StatusCode;
use actix_web::http::header::{CacheControl, CacheDirective};
use actix_web::web::{Data, Path};
use actix_web::{HttpRequest, HttpResponse, delete, post};
use busy_hen_home::raw::RawListening;
use busy_hen_home::{Drill, DrillId, DrillMark, Failure, Faults, HomeId, SetupId, TestKind};
use busy_hen_job::drills::{Drilled, drilled, listened, outages};
use busy_hen_predict::progress::Watch;
use busy_hen_probe::ping;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::kit_record::recovery_elsewhere;
use super::known::{About, Known};
use super::predict::FindingsAsk;
use crate::body::Body;
use crate::error::ApiError;
use crate::far_end::FarEnd;
use crate::interfaces::of_home;
use crate::lock::from_here;
use crate::problems::{Acting, Computing, Storing};
use crate::state::AppState;

/// Each single failure of a setup: what it would do, what is usual, and what the drills of it took.
#[utoipa::path(tag = "drills", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = FindingsAsk,
    responses((status = OK, description = "A failure after the other.", body = Vec<Drilled>), Computing))]
#[post("/homes/{home}/setups/{setup}/drills")]
pub async fn setup_drills(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<FindingsAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, setup_id) = *ids;
    let question = asked.into_inner().ask.question(state.today())?;
    let elsewhere = recovery_elsewhere(&state, home_id).await?;
    let told = move |about: &About<'_>| {
        let setup = about.setup(setup_id)?;
        let of_it = about.readings.drills.iter().filter(|own| own.setup_id == setup_id);
        let drills: Vec<Drill> = of_it.cloned().collect();
        let each = outages(about.home, setup, (about.plan, &question, about.kept)).into_iter();
        Ok(each.map(|predicted| drilled(setup, predicted, &drills, &elsewhere)).collect::<Vec<Drilled>>())
    };
    Known::of(&state, home_id).await?.answer(told).await
}

/// Keeps a drill that was run; sent twice, it is kept once.
#[utoipa::path(tag = "drills", params(("home" = HomeId, Path)), request_body = Drill,
    responses((status = CREATED, description = "It is kept.", body = Drill), Storing))]
#[post("/homes/{home}/drills")]
pub async fn add_drill(
    state: Data<AppState>,
    home: Path<HomeId>,
    drill: Body<Drill>,
) -> Result<HttpResponse, ApiError> {
    let drill = drill.into_inner();
    drill.check()?;
    state.store.add_drill(*home, &drill).await?;
    Ok(HttpResponse::Created().json(drill))
}

/// Takes a drill away for good.
#[utoipa::path(tag = "drills", params(("drill" = DrillId, Path)),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/drills/{drill}")]
pub async fn remove_drill(state: Data<AppState>, drill: Path<DrillId>) -> Result<HttpResponse, ApiError> {
    state.store.remove_drill(*drill).await?;
    Ok(HttpResponse::new(StatusCode::NO_CONTENT))
}

/// Where a page listens during a drill.
#[derive(Debug, Serialize, ToSchema)]
pub struct ListeningPlaces {
    /// Token for the bench; none where the page stands on the bench itself, so that nothing can come between.
    pub bench_token: Option<String>,
    /// The far end beyond the line; none where none is known.
    pub far_end: Option<FarEnd>,
}

/// Lets this page listen during a drill: to the bench, and beyond the line.
#[utoipa::path(tag = "drills", responses((status = OK, description = "Where it listens.", body = ListeningPlaces), Acting))]
#[post("/listening")]
pub async fn listening(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    let here = from_here(request.peer_addr().map(|peer| peer.ip()));
    let bench_token = (!here).then(|| state.listeners.grant());
    let far_end = state.far_end();
    Ok(HttpResponse::Ok()
        .insert_header(CacheControl(vec![CacheDirective::NoStore]))
        .json(ListeningPlaces { bench_token, far_end }))
}

/// What was heard during a drill, and the marks there are.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ListenedAsk {
    /// What was made to fail.
    pub failure: Failure,
    /// The marks there are.
    pub marks: Vec<DrillMark>,
    /// What was heard.
    pub heard: RawListening,
}

/// The marks of a drill together with what a page heard; nothing is kept.
#[utoipa::path(tag = "drills", params(("home" = HomeId, Path), ("setup" = SetupId, Path)), request_body = ListenedAsk,
    responses((status = OK, description = "The marks.", body = Vec<DrillMark>), Computing))]
#[post("/homes/{home}/setups/{setup}/drill-marks")]
pub async fn drill_marks(
    state: Data<AppState>,
    ids: Path<(HomeId, SetupId)>,
    asked: Body<ListenedAsk>,
) -> Result<HttpResponse, ApiError> {
    let (id, setup) = *ids;
    let ListenedAsk { failure, marks, heard } = asked.into_inner();
    let home = state.store.home(id).await?.home;
    let setup = home.setup(setup).ok_or(ApiError::NotFound("setup"))?;
    let (setup, second_line) = (setup.clone(), home.brief.plan_of(TestKind::SecondLine, state.today()).is_some());
    let told = move |_: &Watch| Ok(listened(&marks, &heard, failure, &setup, second_line));
    Ok(HttpResponse::Ok().json(state.places.compute_of(id, told).await?))
}

/// Longest that a device may take to answer a probe.
const PATIENCE: Duration = Duration::from_millis(300);
/// Port that a settings page is at when none is named.
const USUAL_PORT: u16 = 80;

/// What is probed.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct ProbeAsk {
    /// Address of a device of this home, by its number, with the port of its settings page where that is not 80.
    pub address: String,
}

/// What a probe saw.
#[derive(Debug, Serialize, ToSchema)]
pub struct Probed {
    /// Whether it takes a connection.
    pub answers: bool,
}

/// Pings once at a device of this home: whether it takes a connection. Nothing is sent to it.
#[utoipa::path(tag = "drills", request_body = ProbeAsk,
    responses((status = OK, description = "What was seen.", body = Probed), Computing))]
#[post("/probe")]
pub async fn probe(asked: Body<ProbeAsk>) -> Result<HttpResponse, ApiError> {
    let text = asked.address.trim();
    let address = text.parse::<SocketAddr>().ok().or_else(|| Some(SocketAddr::new(text.parse().ok()?, USUAL_PORT)));
    // Nothing outside of this home is knocked at in this machine's name.
    let address = address.filter(|own| of_home(own.ip())).ok_or_else(|| {
        Faults::one(
            "/address",
            "A device is probed at its address in this home, such as 192.168.1.2 or 192.168.1.2:8080.",
        )
    })?;
    let answers = ping(address, PATIENCE).await.is_some();
    Ok(HttpResponse::Ok().json(Probed { answers }))
}
