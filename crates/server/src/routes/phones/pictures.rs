//! Pictures that a paired phone takes.

use actix_web::web::{Data, Query, ReqData};
use actix_web::{HttpResponse, post};
use busy_hen_home::Picture;
use busy_hen_store::Pairing;
use jiff::Timestamp;
use serde::Deserialize;
use utoipa::IntoParams;

use super::{PhoneHeader, measured_at, over};
use crate::body::Image;
use crate::error::ApiError;
use crate::problems::Picturing;
use crate::routes::pictures::{PictureAsk, take};
use crate::state::AppState;

/// What the phone's clock shows.
#[derive(Debug, Deserialize, IntoParams)]
pub struct SentAt {
    /// As it sends this: a clock that is off is put right by it.
    #[param(value_type = Option<String>, format = DateTime)]
    sent_at: Option<Timestamp>,
}

/// Takes a picture of a spot or a device of the round's home from a paired phone.
#[utoipa::path(tag = "phones", params(PhoneHeader, PictureAsk, SentAt),
    request_body(content_type = "image/*", content = [u8], description = "JPEG, PNG or WebP."),
    responses((status = CREATED, description = "What is known of it.", body = Picture), Picturing))]
#[post("/pictures")]
pub async fn phone_picture(
    state: Data<AppState>,
    pairing: ReqData<Pairing>,
    asked: Query<PictureAsk>,
    sent: Query<SentAt>,
    image: Image,
) -> Result<HttpResponse, ApiError> {
    let now = state.now();
    let asked = asked.into_inner();
    let asked = PictureAsk { at: measured_at(asked.at, sent.sent_at, now), ..asked };
    over(&pairing, asked.at, now)?;
    let (home_id, record) = state.store.round(pairing.round).await?;
    let stored = state.store.home(home_id).await?;
    // The phone shows what the round was begun in; it may have changed since.
    take(&state, home_id, &[&stored.home, &record.tested.home], asked, image).await
}
