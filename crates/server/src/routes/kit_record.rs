//! What became of kit over all homes.

use std::collections::BTreeMap;
use std::sync::Arc;

use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use busy_hen_engine::kit_record::{Deed, KitRecord, kit_records};
use busy_hen_engine::learning::Taken;
use busy_hen_engine::watch::Watch;
use busy_hen_home::{Drill, Home, HomeId};

use crate::error::ApiError;
use crate::problems::Computing;
use crate::state::{AppState, Readings};

/// What became of all kit of which something was measured, drilled, ticked or noted, over all homes.
#[utoipa::path(tag = "kit", responses((status = OK, description = "Kit by kit.", body = Vec<KitRecord>), Computing))]
#[get("/kit-record")]
pub async fn kit_record(state: Data<AppState>) -> Result<HttpResponse, ApiError> {
    let mut homes: Vec<(Home, Arc<Readings>)> = Vec::new();
    for head in state.store.heads(state.today(), "").await? {
        // One that was deleted meanwhile is left out.
        let Ok(stored) = state.store.home(head.id).await else { continue };
        homes.push((stored.home, state.readings(head.id).await?));
    }
    let kept = state.kept.clone();
    let records = move |watch: &Watch| {
        let kept = kept.wanted_by(watch);
        let deeds: Vec<Deed<'_>> = homes.iter().map(|(home, readings)| readings.deed(home)).collect();
        Ok(kit_records(&deeds, &kept))
    };
    Ok(HttpResponse::Ok().json(state.places.compute(records).await?))
}

/// What drills took with kit in other homes than this.
pub(super) async fn recovery_elsewhere(state: &AppState, here: HomeId) -> Result<Vec<KitRecord>, ApiError> {
    let mut by_home: BTreeMap<HomeId, Vec<Drill>> = BTreeMap::new();
    for (home, drill) in state.store.all_drills().await? {
        if home != here {
            by_home.entry(home).or_default().push(drill);
        }
    }
    let mut homes: Vec<(Home, Vec<Drill>)> = Vec::new();
    for (id, drills) in by_home {
        let Ok(stored) = state.store.home(id).await else { continue };
        homes.push((stored.home, drills));
    }
    let deeds: Vec<Deed<'_>> = homes
        .iter()
        .map(|(home, drills)| Deed { home, taken: Vec::<Taken<'_>>::new(), ticks: &[], drills, notes: &[] })
        .collect();
    Ok(kit_records(&deeds, &state.kept))
}
