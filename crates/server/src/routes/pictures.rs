//! Pictures of spots and devices: taken in, listed, shown, taken away.

use actix_web::http::header::{self, CacheDirective};
use actix_web::web::{Data, Path, Query};
use actix_web::{HttpResponse, delete, get, post};
use busy_hen_formats::plain_jpeg;
use busy_hen_home::{DeviceId, Faults, Home, HomeId, LevelId, Picture, PictureId, RoomId, Shows, SpotId};
use busy_hen_job::check::check_picture;
use jiff::Timestamp;
use serde::Deserialize;
use utoipa::IntoParams;

use crate::body::Image;
use crate::error::ApiError;
use crate::problems::{Acting, Picturing, Reading};
use crate::state::AppState;

/// How long a browser may keep a picture, s: it never changes, but it may be taken away.
const KEPT_S: u32 = 3600;

/// What is known of a picture that is sent.
#[derive(Debug, Deserialize, IntoParams)]
pub struct PictureAsk {
    /// Its id, made by the sender, so that sending twice keeps it once.
    pub id: PictureId,
    /// The spot that it shows.
    pub spot: Option<SpotId>,
    /// The device that it shows.
    pub device: Option<DeviceId>,
    /// The room of which it shows a wall or socket.
    pub room: Option<RoomId>,
    /// The level of which it shows a plan.
    pub plan: Option<LevelId>,
    /// When it was taken.
    #[param(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What was noted with it.
    pub note: Option<String>,
}

impl PictureAsk {
    fn read(self) -> Result<Picture, Faults> {
        let shows = match (self.spot, self.device, self.room, self.plan) {
            (Some(spot_id), None, None, None) => Shows::Spot { spot_id },
            (None, Some(device_id), None, None) => Shows::Device { device_id },
            (None, None, Some(room_id), None) => Shows::Room { room_id },
            (None, None, None, Some(level_id)) => Shows::Plan { level_id },
            _ => {
                let told = "A picture shows one spot, device, room or plan; say which.";
                return Err(Faults::one("/shows", told));
            }
        };
        let note = self.note.unwrap_or_default().trim().to_owned();
        let picture = Picture { id: self.id, shows, at: self.at, note };
        check_picture(&picture)?;
        Ok(picture)
    }
}

/// Keeps a picture as it was sent, of something that is in one of these homes.
pub async fn take(
    state: &AppState,
    home_id: HomeId,
    homes: &[&Home],
    asked: PictureAsk,
    image: Image,
) -> Result<HttpResponse, ApiError> {
    let picture = asked.read()?;
    if !homes.iter().any(|home| is_in(home, picture.shows)) {
        return Err(Faults::one("/shows", "This home has nothing such; choose what the picture is to show.").into());
    }
    let jpeg = state.places.unpack(move || Ok(plain_jpeg(&image.bytes()?)?)).await?;
    state.store.add_picture(home_id, &picture, &jpeg).await?;
    Ok(HttpResponse::Created().json(picture))
}

fn is_in(home: &Home, shows: Shows) -> bool {
    match shows {
        Shows::Spot { spot_id } => home.house.spots.iter().any(|own| own.id == spot_id),
        Shows::Device { device_id } => {
            home.setups.iter().flat_map(|setup| &setup.devices).any(|own| own.id == device_id)
        }
        Shows::Room { room_id } => home.house.room(room_id).is_some(),
        Shows::Plan { level_id } => home.house.level(level_id).is_some(),
    }
}

/// What is known of the pictures of a home, in the order they were taken.
#[utoipa::path(tag = "pictures", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The pictures.", body = Vec<Picture>), Reading))]
#[get("/homes/{home}/pictures")]
pub async fn list_pictures(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    Ok(HttpResponse::Ok().json(state.store.pictures(*home).await?))
}

/// Takes a picture in; what a camera writes beside it, its place above all, is not kept.
#[utoipa::path(tag = "pictures", params(("home" = HomeId, Path), PictureAsk),
    request_body(content_type = "image/*", content = [u8], description = "JPEG, PNG or WebP."),
    responses((status = CREATED, description = "What is known of it.", body = Picture), Picturing))]
#[post("/homes/{home}/pictures")]
pub async fn add_picture(
    state: Data<AppState>,
    home: Path<HomeId>,
    asked: Query<PictureAsk>,
    image: Image,
) -> Result<HttpResponse, ApiError> {
    let stored = state.store.home(*home).await?;
    take(&state, *home, &[&stored.home], asked.into_inner(), image).await
}

/// The picture itself.
#[utoipa::path(tag = "pictures", params(("picture" = PictureId, Path)),
    responses((status = OK, description = "The picture.", content_type = "image/jpeg", body = [u8]), Reading))]
#[get("/pictures/{picture}")]
pub async fn show_picture(state: Data<AppState>, picture: Path<PictureId>) -> Result<HttpResponse, ApiError> {
    let jpeg = state.store.jpeg(*picture).await?;
    let keep = header::CacheControl(vec![CacheDirective::Private, CacheDirective::MaxAge(KEPT_S)]);
    Ok(HttpResponse::Ok().content_type("image/jpeg").insert_header(keep).body(jpeg))
}

/// Takes a picture away for good.
#[utoipa::path(tag = "pictures", params(("picture" = PictureId, Path)),
    responses((status = NO_CONTENT, description = "It is gone."), Acting))]
#[delete("/pictures/{picture}")]
pub async fn remove_picture(state: Data<AppState>, picture: Path<PictureId>) -> Result<HttpResponse, ApiError> {
    state.store.remove_picture(*picture).await?;
    Ok(HttpResponse::NoContent().finish())
}
