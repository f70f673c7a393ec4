//! What became of kit over all homes.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use actix_web::web::Data;
use actix_web::{HttpResponse, get};
use busy_hen_home::{Drill, Home, HomeId};
use busy_hen_job::kit_record::{HomeDone, KitRecord, kit_records};
use busy_hen_predict::progress::Watch;
use busy_hen_survey::calibration::evidence::Taken;

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
    let homes = without_copies(homes, |(_, readings)| seen_in(readings));
    let kept = state.kept.clone();
    let records = move |watch: &Watch| {
        let kept = kept.wanted_by(watch);
        let deeds: Vec<HomeDone<'_>> = homes.iter().map(|(home, readings)| readings.home_done(home)).collect();
        Ok(kit_records(&deeds, &kept))
    };
    Ok(HttpResponse::Ok().json(state.places.compute(records).await?))
}

/// What was done in a home, told apart by when and with which setup: a home that came in from its own file has the same.
fn seen_in(readings: &Readings) -> BTreeSet<String> {
    let rounds = readings.rounds.iter().filter_map(|own| {
        let first = readings.of(own.round.id).first()?;
        Some(format!("round {} {} {} {:?}", own.round.setup_id.0, own.round.begun, first.at, first.outcome))
    });
    rounds.chain(readings.drills.iter().map(drilled)).collect()
}

fn drilled(own: &Drill) -> String {
    format!("drill {} {} {:?}", own.setup_id.0, own.begun, own.failure)
}

/// The list without those in which all that was seen was seen in another of it too.
fn without_copies<T>(list: Vec<T>, seen: impl Fn(&T) -> BTreeSet<String>) -> Vec<T> {
    let all: Vec<BTreeSet<String>> = list.iter().map(seen).collect();
    let is_copy = |index: usize| {
        let own = &all[index];
        let holds = |other: usize| own.is_subset(&all[other]) && (own.len() < all[other].len() || other < index);
        !own.is_empty() && (0..all.len()).any(|other| other != index && holds(other))
    };
    list.into_iter().enumerate().filter(|(index, _)| !is_copy(*index)).map(|(_, own)| own).collect()
}

/// What drills took with kit in other homes than this.
pub(super) async fn recovery_elsewhere(state: &AppState, here: HomeId) -> Result<Vec<KitRecord>, ApiError> {
    let mut by_home: BTreeMap<HomeId, Vec<Drill>> = BTreeMap::new();
    let mut own: BTreeSet<String> = BTreeSet::new();
    for (home, drill) in state.store.all_drills().await? {
        if home == here {
            own.insert(drilled(&drill));
        } else {
            by_home.entry(home).or_default().push(drill);
        }
    }
    // What came in with a file of this very home was done here.
    by_home.values_mut().for_each(|drills| drills.retain(|drill| !own.contains(&drilled(drill))));
    by_home.retain(|_, drills| !drills.is_empty());
    let others: Vec<(HomeId, Vec<Drill>)> = by_home.into_iter().collect();
    let others = without_copies(others, |(_, drills)| drills.iter().map(drilled).collect());
    let mut homes: Vec<(Home, Vec<Drill>)> = Vec::new();
    for (id, drills) in others {
        let Ok(stored) = state.store.home(id).await else { continue };
        homes.push((stored.home, drills));
    }
    let deeds: Vec<HomeDone<'_>> = homes
        .iter()
        .map(|(home, drills)| HomeDone { home, taken: Vec::<Taken<'_>>::new(), ticks: &[], drills, notes: &[] })
        .collect();
    Ok(kit_records(&deeds, &state.kept))
}
