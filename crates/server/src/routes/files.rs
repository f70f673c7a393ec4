//! Home files: a home with all that was measured in it, out and in.

use std::time::Duration;

use actix_web::http::header::{
    Charset, ContentDisposition, DispositionParam, DispositionType, ExtendedValue, HeaderValue, TryIntoHeaderValue,
};
use actix_web::http::{StatusCode, header};
use actix_web::web::{Data, Path, Payload};
use actix_web::{HttpRequest, HttpResponse, get, post};
use busy_hen_engine::watch::Watch;
use busy_hen_formats::{HomeFile, PictureRecord, RoundRecord, SIZE_LIMIT};
use busy_hen_home::{
    AsTested, DeviceNote, Drill, DrillId, Faults, HomeId, NoteId, Picture, PictureId, Round, RoundId, Run, RunId,
};
use busy_hen_store::Whole;

use super::homes::view;
use crate::body::{EditorHeader, Sender, read};
use crate::error::ApiError;
use crate::problems::{Reading, Storing};
use crate::state::AppState;
use crate::views::HomeView;

/// Longest that a home file may take to arrive.
const PATIENCE: Duration = Duration::from_secs(120);

/// The home as a file, with its rounds and runs.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The home file.", body = HomeFile), Reading))]
#[get("/api/homes/{home}/file")]
pub async fn export_home(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let whole = state.store.export(*home).await?;
    let named = attachment(&whole.home.name, "json")?;
    let file = move |_: &Watch| {
        let rounds = whole.rounds.into_iter();
        let rounds =
            rounds.map(|(record, runs)| RoundRecord { round: record.round, tested: Some(record.tested), runs });
        let pictures = whole.pictures.into_iter().map(|(picture, jpeg)| PictureRecord::new(picture, &jpeg));
        // Those of a setup that was deleted are nobody's.
        let drills = whole.drills.into_iter().filter(|own| whole.home.setup(own.setup_id).is_some()).collect();
        let ticks = whole.ticks.into_iter().filter(|own| whole.home.setup(own.setup_id).is_some()).collect();
        let device_notes =
            whole.device_notes.into_iter().filter(|own| whole.home.setup(own.setup_id).is_some()).collect();
        let (pictures, watches) = (pictures.collect(), whole.watches);
        let file =
            HomeFile { pictures, ticks, drills, watches, device_notes, ..HomeFile::new(whole.home, rounds.collect()) };
        Ok(file.to_text()?)
    };
    let text = state.places.compute(file).await?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header((header::CONTENT_DISPOSITION, named))
        .body(text))
}

/// Tells a browser to save an answer under this name, in any script (RFC 6266).
pub(crate) fn attachment(name: &str, ending: &str) -> Result<HeaderValue, ApiError> {
    let plain: String = name.chars().map(|c| if c.is_alphanumeric() { c } else { '-' }).collect();
    let plain = plain.trim_matches('-').to_lowercase();
    let plain = if plain.is_empty() { "home".to_owned() } else { plain };
    let ascii: String = plain.chars().map(|c| if c.is_ascii() { c } else { '-' }).collect();
    let ascii = ascii.trim_matches('-');
    let ascii = if ascii.is_empty() { "home" } else { ascii };
    let disposition = ContentDisposition {
        disposition: DispositionType::Attachment,
        parameters: vec![
            DispositionParam::Filename(format!("{ascii}.{ending}")),
            DispositionParam::FilenameExt(ExtendedValue {
                charset: Charset::Ext("UTF-8".into()),
                language_tag: None,
                value: format!("{plain}.{ending}").into_bytes(),
            }),
        ],
    };
    disposition.try_into_value().map_err(|error| ApiError::Internal(error.to_string()))
}

/// Takes a home file in as a new home; a home that came in before is left as it is.
#[utoipa::path(tag = "homes", params(EditorHeader), request_body = HomeFile,
    responses((status = CREATED, description = "The new home.", body = HomeView), Storing))]
#[post("/api/home-files")]
pub async fn import_home(
    state: Data<AppState>,
    request: HttpRequest,
    sender: Sender,
    body: Payload,
) -> Result<HttpResponse, ApiError> {
    let too_large =
        || Faults::one("", format!("The file is larger than {} MB; it can't be a home file.", SIZE_LIMIT >> 20));
    let body = match read(&request, &mut body.into_inner(), SIZE_LIMIT, PATIENCE).await {
        Err(ApiError::TooLarge(_)) => return Err(too_large().into()),
        other => other?,
    };
    let now = state.now();
    let file = state.places.compute(move |_| Ok(HomeFile::read(&body)?.with_all_tested(now))).await?;
    let rounds = file.rounds.into_iter().map(renumbered).collect::<Result<Vec<_>, _>>()?;
    let mut home = file.home;
    let pictures = file.pictures.into_iter().map(|record| {
        let jpeg = record.jpeg()?;
        let id = PictureId::random();
        let traced = home.house.levels.iter_mut().filter_map(|level| level.tracing.as_mut());
        traced.filter(|own| own.picture_id == record.picture.id).for_each(|own| own.picture_id = id);
        Ok((Picture { id, ..record.picture }, jpeg))
    });
    let pictures = pictures.collect::<Result<Vec<_>, Faults>>()?;
    let drills = file.drills.into_iter().map(|own| Drill { id: DrillId::random(), ..own }).collect();
    let notes = file.device_notes.into_iter().map(|own| DeviceNote { id: NoteId::random(), ..own }).collect();
    let (ticks, watches) = (file.ticks, file.watches);
    let whole = Whole { home, rounds, pictures, ticks, drills, watches, device_notes: notes };
    let stored = state.store.import(HomeId::random(), &whole, now).await?;
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// A round and its runs with new identities, so that a file can come in twice.
fn renumbered(record: RoundRecord) -> Result<(busy_hen_store::RoundRecord, Vec<Run>), ApiError> {
    let id = RoundId::random();
    let runs = record.runs.into_iter().map(|run| Run { id: RunId::random(), round_id: id, ..run });
    let tested: AsTested =
        record.tested.ok_or_else(|| ApiError::Internal("a round without what it was taken in".into()))?;
    let round = Round { id, ..record.round };
    Ok((busy_hen_store::RoundRecord { round, tested }, runs.collect()))
}
