//! Passwords: made up and shown once; kept, where the installer wants that, under a pass phrase that nobody keeps.

use actix_web::http::StatusCode;
use actix_web::http::header::{CacheControl, CacheDirective};
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, delete, post};
use busy_hen_home::{Faults, Home, HomeId, KeptPassword, PasswordId};
use busy_hen_job::check::check;
use qrcode::QrCode;
use qrcode::render::svg;
use rand::RngExt;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::editing::{editing, view};
use super::lock::{PassPhrase, long_enough};
use crate::body::{Base, Body, EditHeaders, Sender};
use crate::error::ApiError;
use crate::problems::{Computing, Editing};
use crate::sealing::{open, seal};
use crate::state::AppState;
use crate::views::HomeView;

/// What is asked of a new password.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct PasswordAsk {
    /// Name of the network that it is for; empty where it is for an admin page.
    pub network: String,
}

/// A password in readable form; no copy of it is kept.
#[derive(Debug, Serialize, ToSchema)]
pub struct ShownPassword {
    /// The password.
    pub password: String,
    /// A code that phones read to join, as SVG; none without a network.
    pub qr_svg: Option<String>,
}

/// Letters and digits that nobody mistakes for one another.
const LETTERS: &[u8] = b"abcdefghjkmnpqrstuvwxyz23456789";
/// Groups of four: 16 letters of 31 are 79 bits.
const GROUPS: usize = 4;

fn new_password() -> String {
    let mut rng = rand::rng();
    let group = |_| -> String { (0..4).map(|_| char::from(LETTERS[rng.random_range(0..LETTERS.len())])).collect() };
    (0..GROUPS).map(group).collect::<Vec<_>>().join("-")
}

/// What a phone's camera reads to join a network; the form is a widespread convention, from memory.
fn joining(network: &str, password: &str) -> String {
    let escaped = |text: &str| {
        let escape = |c: char| if "\\;,:\"".contains(c) { format!("\\{c}") } else { c.to_string() };
        text.chars().map(escape).collect::<String>()
    };
    format!("WIFI:T:WPA;S:{};P:{};;", escaped(network), escaped(password))
}

/// Makes a password up, with a code to join by where it is for a network. It is kept nowhere.
#[utoipa::path(tag = "fitting", request_body = PasswordAsk,
    responses((status = OK, description = "The password.", body = ShownPassword), Computing))]
#[post("/new-password")]
pub async fn make_password(asked: Body<PasswordAsk>) -> Result<HttpResponse, ApiError> {
    let network = asked.network.trim();
    // IEEE Std 802.11: the name of a network is at most 32 octets.
    if network.len() > 32 {
        return Err(Faults::one("/network", "The name of a network is at most 32 bytes; shorten it.").into());
    }
    shown(network, new_password())
}

/// A password with its code, which no cache may hold.
fn shown(network: &str, password: String) -> Result<HttpResponse, ApiError> {
    let qr_svg = if network.is_empty() {
        None
    } else {
        let code = QrCode::new(joining(network, &password)).map_err(|error| ApiError::Internal(error.to_string()))?;
        Some(code.render::<svg::Color<'_>>().min_dimensions(220, 220).build())
    };
    Ok(HttpResponse::build(StatusCode::OK)
        .insert_header(CacheControl(vec![CacheDirective::NoStore]))
        .json(ShownPassword { password, qr_svg }))
}

/// Most passwords that a home keeps.
const KEPT_MOST: usize = 40;

/// A password that is to be kept.
#[derive(Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeepPassword {
    /// What it is for.
    pub what: String,
    /// Name of the network that it joins; empty where it joins none.
    #[serde(default)]
    pub network: String,
    /// The password.
    pub password: String,
    /// The pass phrase that it is encrypted under; kept nowhere.
    pub pass_phrase: String,
}

/// Keeps a password, encrypted under a pass phrase. All of a home are under the same one, so that there is one to remember.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), EditHeaders), request_body = KeepPassword,
    responses((status = CREATED, description = "The changed home.", body = HomeView), Editing))]
#[post("/homes/{home}/passwords")]
pub async fn keep_password(
    state: Data<AppState>,
    home: Path<HomeId>,
    (base, sender): (Base, Sender),
    asked: Body<KeepPassword>,
) -> Result<HttpResponse, ApiError> {
    let KeepPassword { what, network, password, pass_phrase } = asked.into_inner();
    let (what, network) = (what.trim().to_owned(), network.trim().to_owned());
    long_enough(&pass_phrase)?;
    if password.is_empty() || password.chars().count() > 200 {
        return Err(Faults::one("/password", "A password has 1 to 200 characters.").into());
    }
    let there = state.store.home(*home).await?.home.passwords;
    if there.len() >= KEPT_MOST {
        return Err(Faults::one("", format!("A home keeps at most {KEPT_MOST} passwords; throw one away.")).into());
    }
    let work = move |_: &_| {
        if there.first().is_some_and(|own| open(&own.sealed, &pass_phrase).is_none()) {
            let told = "The others of this home are kept under another pass phrase; use that one.";
            return Err(Faults::one("/pass_phrase", told).into());
        }
        seal(&password, &pass_phrase)
    };
    let sealed = state.places.compute(work).await?;
    let kept = KeptPassword { id: PasswordId::random(), what, network, sealed };
    let change = |home: &mut Home| -> Result<(), ApiError> {
        home.passwords.push(kept.clone());
        Ok(check(home)?)
    };
    let stored = state.store.change(*home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// Shows a kept password to whoever knows the pass phrase.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("password" = PasswordId, Path)), request_body = PassPhrase,
    responses((status = OK, description = "The password.", body = ShownPassword), Computing))]
#[post("/homes/{home}/passwords/{password}/open")]
pub async fn open_password(
    state: Data<AppState>,
    ids: Path<(HomeId, PasswordId)>,
    asked: Body<PassPhrase>,
) -> Result<HttpResponse, ApiError> {
    let (home, id) = *ids;
    let kept = state.store.home(home).await?.home.passwords.into_iter().find(|own| own.id == id);
    let KeptPassword { network, sealed, .. } = kept.ok_or(ApiError::NotFound("password"))?;
    let pass_phrase = asked.into_inner().pass_phrase;
    let password = state.places.compute(move |_| Ok(open(&sealed, &pass_phrase))).await?;
    let told = "This pass phrase does not open it; look at capitals and spaces.";
    shown(&network, password.ok_or_else(|| Faults::one("/pass_phrase", told))?)
}

/// Throws a kept password away.
#[utoipa::path(tag = "fitting", params(("home" = HomeId, Path), ("password" = PasswordId, Path), EditHeaders),
    responses((status = OK, description = "The changed home.", body = HomeView), Editing))]
#[delete("/homes/{home}/passwords/{password}")]
pub async fn forget_password(
    state: Data<AppState>,
    ids: Path<(HomeId, PasswordId)>,
    (base, sender): (Base, Sender),
) -> Result<HttpResponse, ApiError> {
    let (home, id) = *ids;
    let change = |home: &mut Home| -> Result<(), ApiError> {
        let before = home.passwords.len();
        home.passwords.retain(|own| own.id != id);
        if home.passwords.len() == before { Err(ApiError::NotFound("password")) } else { Ok(()) }
    };
    let stored = state.store.change(home, &editing(&state, Some(base.0), &sender.0), change).await?;
    view(&state, StatusCode::OK, stored, &sender.0).await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn passwords_are_long_legible_and_never_the_same() {
        let list: Vec<String> = (0..200).map(|_| new_password()).collect();
        for own in &list {
            assert_eq!(own.len(), 19);
            assert!(own.bytes().all(|letter| letter == b'-' || LETTERS.contains(&letter)), "{own}");
            assert!(!own.contains(['0', 'o', '1', 'l', 'i']), "{own}");
        }
        let mut once = list.clone();
        once.sort();
        once.dedup();
        assert_eq!(once.len(), list.len());
    }

    #[test]
    fn the_code_to_join_by_survives_names_with_signs_in_them() {
        assert_eq!(joining("Kiln; \"guests\"", "a-b"), "WIFI:T:WPA;S:Kiln\\; \\\"guests\\\";P:a-b;;");
        assert_eq!(joining("a:b\\c,d", "x"), "WIFI:T:WPA;S:a\\:b\\\\c\\,d;P:x;;");
    }
}
