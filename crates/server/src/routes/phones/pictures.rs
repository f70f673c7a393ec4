//! Pictures that a paired phone takes.

use actix_web::web::{Data, Query};
use actix_web::{HttpResponse, post};
use busy_hen_home::Picture;

use super::{Phone, PhoneHeader, over};
use crate::body::Image;
use crate::error::ApiError;
use crate::problems::Picturing;
use crate::routes::pictures::{PictureAsk, take};
use crate::state::AppState;

/// Takes a picture of a spot or a device of the round's home from a paired phone.
#[utoipa::path(tag = "phones", params(PhoneHeader, PictureAsk),
    request_body(content_type = "image/*", content = [u8], description = "JPEG, PNG or WebP."),
    responses((status = CREATED, description = "What is known of it.", body = Picture), Picturing))]
#[post("/api/phone/pictures")]
pub async fn phone_picture(
    state: Data<AppState>,
    phone: Phone,
    asked: Query<PictureAsk>,
    image: Image,
) -> Result<HttpResponse, ApiError> {
    let pairing = phone.pairing(&state).await?;
    over(&pairing, asked.at, state.now())?;
    let (home_id, record) = state.store.round(pairing.round).await?;
    let stored = state.store.home(home_id).await?;
    // The phone shows what the round was begun in; it may have changed since.
    take(&state, home_id, &[&stored.home, &record.tested.home], asked.into_inner(), image).await
}
