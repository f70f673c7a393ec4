//! Rounds begin, go on in another setup, and are deleted.

use std::collections::HashMap;

use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, get, post, put};
use busy_hen_catalogue::Catalogue;
use busy_hen_floorplan::Plan;
use busy_hen_home::{
    Band, Confirmation, Doors, Home, HomeId, OnRecord, Purpose, RadioOnRecord, Round, RoundId, SetupId, Situation,
    SpotId, TestKind, TestMachine, local_day,
};
use busy_hen_job::check::check_round;
use busy_hen_job::rounds::confirm::to_confirm;
use busy_hen_job::rounds::order::{WalkingOrder, walking_order, way_length};
use busy_hen_predict::Knowledge;
use busy_hen_predict::forecast::{as_tested, forecasts};
use busy_hen_predict::progress::Watch;
use busy_hen_store::{RoundRecord, StoreError};
use busy_hen_units::{MbitPerSec, Metres};
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;
use uuid::Uuid;

use super::view::{RoundView, view};
use crate::body::{Body, EditorHeader, Sender};
use crate::error::ApiError;
use crate::interfaces::interfaces;
use crate::kit::{check_address, see};
use crate::problems::{Acting, Computing, Reading, Storing};
use crate::state::AppState;

/// A new round.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct NewRound {
    /// The setup that is tested.
    pub setup_id: SetupId,
    /// Key of the test device.
    pub client: String,
    /// The band it is held to; none when it chooses.
    pub band: Option<Band>,
    /// How far the test reaches.
    pub kind: TestKind,
    /// How the doors stand.
    pub doors: Doors,
    /// Whether others use the network meanwhile.
    pub situation: Situation,
    /// How many runs each spot is to get.
    pub runs_per_spot: u32,
    /// Its spots; all spots of the house when empty.
    #[serde(default)]
    pub spots: Vec<SpotId>,
    /// In which order they are walked.
    #[serde(default)]
    pub order: WalkingOrder,
    /// What it is for.
    #[serde(default)]
    pub purpose: Purpose,
    /// What had been changed before, each seen to have taken effect or not.
    #[serde(default)]
    pub confirmed: Vec<Confirmation>,
    /// Where the far end stands, or whose it is.
    #[serde(default)]
    pub far_end_place: String,
    /// Where the kit reports who serves whom; empty where it does not.
    #[serde(default)]
    pub kit_report: String,
    /// The trial by turns that it is one side of.
    #[serde(default)]
    pub trial: Option<Uuid>,
}

/// The same round once more.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct AgainAsk {
    /// The setup that is tested this time.
    pub setup_id: SetupId,
    /// What had been changed before, each seen to have taken effect or not.
    #[serde(default)]
    pub confirmed: Vec<Confirmation>,
}

/// What is to be seen before a setup is tested.
#[derive(Debug, Serialize, ToSchema)]
pub struct ToConfirm {
    /// The setup that was tested last, as "A as found"; none when nothing was tested yet.
    pub tested_last: Option<String>,
    /// What has been changed since and is to be seen, one sentence each.
    pub list: Vec<String>,
}

/// Times that a round is made anew for a home that changes meanwhile.
const TRIES: usize = 8;

/// Begins a round, in the home as it stands at this moment.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path), EditorHeader), request_body = NewRound,
    responses((status = CREATED, description = "The new round.", body = RoundView), Storing))]
#[post("/homes/{home}/rounds")]
pub async fn create_round(
    state: Data<AppState>,
    home: Path<HomeId>,
    sender: Sender,
    new: Body<NewRound>,
) -> Result<HttpResponse, ApiError> {
    let report = new.kit_report.trim();
    if !report.is_empty() {
        see(report).await?;
    }
    begin(&state, *home, &new, &sender).await
}

async fn begin(
    state: &Data<AppState>,
    home: HomeId,
    new: &NewRound,
    sender: &Sender,
) -> Result<HttpResponse, ApiError> {
    for _ in 0..TRIES {
        let stored = state.store.home(home).await?;
        let record = begun(state, (home, &stored.home), new).await?;
        let letter = record.tested.home.setups.first().map_or("", |setup| setup.letter.as_str());
        let what = format!("begin a round in {letter}");
        match state.store.create_round(home, stored.revision, &record, &what, (&sender.0, state.now())).await {
            // The home changed while its forecast was worked out: the round is made for it as it now is.
            Err(StoreError::Stale) => {}
            done => {
                done?;
                let view = view(state, home, record, None).await?;
                return Ok(HttpResponse::Created().json(view));
            }
        }
    }
    Err(ApiError::Conflict("The home is being changed all the time; begin the round when that has ended.".into()))
}

/// A way through the spots of a round.
#[derive(Debug, Serialize, ToSchema)]
pub struct Way {
    /// The spots in the order they are walked.
    pub spots: Vec<SpotId>,
    /// How far it is, levels counted as so many steps.
    pub length_m: Metres,
}

/// In which order a round would walk its spots; nothing is begun.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path)), request_body = NewRound,
    responses((status = OK, description = "The way.", body = Way), Computing))]
#[post("/homes/{home}/way")]
pub async fn way(state: Data<AppState>, home: Path<HomeId>, new: Body<NewRound>) -> Result<HttpResponse, ApiError> {
    let home_id = *home;
    let home = state.store.home(home_id).await?.home;
    let round = planned(&state, &home, &new)?;
    let readings = state.readings(home_id).await?;
    let (order, work) = (new.order, state.clone());
    let laid = move |watch: &Watch| {
        let spots = laid(&home, &round, order, &readings.kept(&work.kept, &home).wanted_by(watch));
        Ok(Way { length_m: way_length(&home, &spots), spots })
    };
    Ok(HttpResponse::Ok().json(state.places.compute_of(home_id, laid).await?))
}

/// A new round as it is asked for, checked.
fn planned(state: &AppState, home: &Home, new: &NewRound) -> Result<Round, ApiError> {
    let plan = Plan::new(&home.house, home.units);
    let drawn = || home.house.spots.iter().filter(|spot| plan.spot(spot).is_some()).map(|spot| spot.id);
    let round = Round {
        id: RoundId::random(),
        setup_id: new.setup_id,
        begun: state.now(),
        client: new.client.clone(),
        band: new.band,
        kind: new.kind,
        doors: new.doors,
        situation: new.situation,
        runs_per_spot: new.runs_per_spot,
        spots: if new.spots.is_empty() { drawn().collect() } else { new.spots.clone() },
        purpose: new.purpose,
        on_record: Some(on_record(state, home, new)),
        confirmed: new.confirmed.clone(),
        trial: new.trial,
    };
    check_round(home, &round)?;
    if let Some(address) = round.on_record.as_ref().and_then(|record| record.kit_report.as_ref()) {
        check_address(address)?;
    }
    Ok(round)
}

/// Its spots in the order they are walked.
fn laid(home: &Home, round: &Round, order: WalkingOrder, kept: &Knowledge) -> Vec<SpotId> {
    let expected =
        if order.is_by_forecast() { forecasts(home, round, local_day(round.begun), kept) } else { HashMap::new() };
    let expected = expected.into_iter().map(|(spot, predicted)| (spot, predicted.down.middle)).collect();
    walking_order(home, &round.spots, order, &expected)
}

/// A new round in a home as it stands, with what is forecast for it.
async fn begun(
    state: &Data<AppState>,
    (home_id, home): (HomeId, &Home),
    new: &NewRound,
) -> Result<RoundRecord, ApiError> {
    let round = planned(state, home, new)?;
    let readings = state.readings(home_id).await?;
    let (home, work, order) = (home.clone(), state.clone(), new.order);
    let work = move |watch: &Watch| {
        let kept = readings.kept(&work.kept, &home).wanted_by(watch);
        let round = Round { spots: laid(&home, &round, order, &kept), ..round };
        let tested = as_tested(&home, &round, (round.begun, local_day(round.begun)), &kept)
            .ok_or_else(|| ApiError::Internal("a checked round that can't be forecast".into()))?;
        Ok(RoundRecord { round, tested })
    };
    state.places.compute_of(home_id, work).await
}

/// What is on record beside the home as a round begins.
fn on_record(state: &AppState, home: &Home, new: &NewRound) -> OnRecord {
    let catalogue = Catalogue::of(home);
    let devices = home.setup(new.setup_id).into_iter().flat_map(|setup| &setup.devices);
    let radios = devices.flat_map(|device| {
        let able = catalogue.kit(&device.kit.0).map(|kit| kit.radios.clone()).unwrap_or_default();
        let on = device.radios.iter().zip(able).filter(|(radio, _)| radio.on);
        on.map(|(radio, able)| RadioOnRecord { device_id: device.id, band: radio.band, generation: able.generation })
            .collect::<Vec<_>>()
    });
    let far_end = state.far_end().filter(|_| new.kind.is_internet());
    OnRecord {
        machine: state.network.is_open().then(test_machine).flatten(),
        far_end: far_end.map(|far| far.url),
        far_end_place: new.far_end_place.trim().to_owned(),
        radios: radios.collect(),
        kit_report: Some(new.kit_report.trim().to_owned()).filter(|own| !own.is_empty()),
    }
}

/// This machine as phones reach it: by cable before anything else.
fn test_machine() -> Option<TestMachine> {
    let found = interfaces(true).into_iter().min_by_key(|own| own.wireless != Some(false))?;
    Some(TestMachine {
        interface: found.name,
        wired: found.wireless.map(|wireless| !wireless),
        port_mbps: found.port_mbps.map(|port| MbitPerSec::new(f64::from(port))),
    })
}

/// Begins the same round once more: the same spots, device and conditions, in this setup as it now is.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), EditorHeader), request_body = AgainAsk,
    responses((status = CREATED, description = "The new round.", body = RoundView), Storing))]
#[post("/rounds/{round}/again")]
pub async fn again(
    state: Data<AppState>,
    round: Path<RoundId>,
    sender: Sender,
    ask: Body<AgainAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, RoundRecord { round, .. }) = state.store.round(*round).await?;
    let home = state.store.home(home_id).await?.home;
    let there = |id: &SpotId| home.house.spots.iter().any(|spot| spot.id == *id);
    let spots: Vec<SpotId> = round.spots.iter().copied().filter(there).collect();
    if spots.is_empty() {
        return Err(ApiError::Conflict("The house has none of this round’s spots any more; begin a new round.".into()));
    }
    let ask = ask.into_inner();
    let new = NewRound {
        setup_id: ask.setup_id,
        client: round.client,
        band: round.band,
        kind: round.kind,
        doors: round.doors,
        situation: round.situation,
        runs_per_spot: round.runs_per_spot,
        spots,
        order: WalkingOrder::AsListed,
        purpose: if round.purpose == Purpose::Baseline { Purpose::After } else { round.purpose },
        confirmed: ask.confirmed,
        far_end_place: round.on_record.as_ref().map(|record| record.far_end_place.clone()).unwrap_or_default(),
        trial: None,
        kit_report: round.on_record.and_then(|record| record.kit_report).unwrap_or_default(),
    };
    begin(&state, home_id, &new, &sender).await
}

/// What is to be seen before this setup is tested: whether what was changed since the last round took effect.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path), ("setup" = SetupId, Path)),
    responses((status = OK, description = "What is to be seen.", body = ToConfirm), Reading))]
#[get("/homes/{home}/setups/{setup}/to-confirm")]
pub async fn look_at_changes(state: Data<AppState>, path: Path<(HomeId, SetupId)>) -> Result<HttpResponse, ApiError> {
    let (home, setup) = path.into_inner();
    let stored = state.store.home(home).await?.home;
    let now = stored.setup(setup).ok_or(StoreError::NotFound("setup"))?;
    let readings = state.readings(home).await?;
    let last = readings.rounds.iter().max_by_key(|record| record.round.begun);
    let before = last.and_then(|record| record.tested.home.setup(record.round.setup_id));
    Ok(HttpResponse::Ok().json(ToConfirm {
        tested_last: before.map(|setup| format!("{} {}", setup.letter, setup.name)),
        list: before.map(|before| to_confirm(before, now)).unwrap_or_default(),
    }))
}

/// Says that the address of a round's kit report, which came with a file, is this home's kit: from then on it is asked.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path)),
    responses((status = NO_CONTENT, description = "It is asked from now on."), Acting))]
#[put("/rounds/{round}/kit-report")]
pub async fn allow_kit_report(state: Data<AppState>, round: Path<RoundId>) -> Result<HttpResponse, ApiError> {
    let (home, record) = state.store.round(*round).await?;
    let address = record.round.on_record.and_then(|own| own.kit_report);
    let address = address.ok_or_else(|| ApiError::Conflict("This round names no report of the kit.".into()))?;
    check_address(&address)?;
    state.store.say_kit_address(home, &address).await?;
    Ok(HttpResponse::NoContent().finish())
}

/// Deletes a round with its runs; undo brings it back.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), EditorHeader),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/rounds/{round}")]
pub async fn delete_round(
    state: Data<AppState>,
    round: Path<RoundId>,
    sender: Sender,
) -> Result<HttpResponse, ApiError> {
    let (home, record) = state.store.round(*round).await?;
    let runs = state.readings(home).await?.of(*round).len();
    let letter = record.tested.home.setups.first().map_or("", |setup| setup.letter.as_str());
    let what = format!("delete a round in {letter} with {runs} run{}", if runs == 1 { "" } else { "s" });
    state.walks.stop(*round);
    state.store.delete_round(*round, &what, (&sender.0, state.now())).await?;
    Ok(HttpResponse::NoContent().finish())
}
