//! Home files: a home with all that was measured in it, out and in.

use std::fs::File;
use std::io::{BufReader, BufWriter};
use std::time::Duration;

use actix_web::http::header::{
    Charset, ContentDisposition, DispositionParam, DispositionType, ExtendedValue, HeaderValue, TryIntoHeaderValue,
};
use actix_web::http::{StatusCode, header};
use actix_web::web::{Data, Path, Payload};
use actix_web::{HttpRequest, HttpResponse, get, post};
use busy_hen_formats::{HomeFile, HomeFileWriter, RoundRecord, not_too_large};
use busy_hen_home::{
    AsTested, DeviceNote, Drill, DrillId, FILE_LIMIT, Faults, HomeId, NoteId, Picture, PictureId, Round, RoundId, Run,
    RunId, SetupId,
};
use busy_hen_predict::progress::Watch;
use busy_hen_store::{Piece, Whole};
use jiff::Timestamp;

use super::editing::view;
use crate::body::{EditorHeader, Sender, announced};
use crate::error::ApiError;
use crate::problems::Storing;
use crate::spool;
use crate::state::AppState;
use crate::views::HomeView;

/// Longest that a home file may take to arrive.
const PATIENCE: Duration = Duration::from_secs(120);

/// The home as a file, with its rounds and runs.
#[utoipa::path(tag = "homes", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The home file.", body = HomeFile), Storing))]
#[get("/homes/{home}/file")]
pub async fn export_home(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let id = *home;
    let named = attachment(&state.store.home(id).await?.home.name, "json")?;
    let store = state.store.clone();
    let runtime = tokio::runtime::Handle::current();
    let write = move |watch: &Watch| {
        let mut file = Written::new(spool::new()?);
        let take = |piece| if watch.is_stopped() { Err(ApiError::CalledOff) } else { file.take(piece) };
        runtime.block_on(store.export(id, take))?;
        file.end()
    };
    let file = state.places.compute_of(id, write).await?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header((header::CONTENT_DISPOSITION, named))
        .body(spool::send(file)?))
}

/// A home file that is being written.
struct Written {
    to: Option<BufWriter<File>>,
    file: Option<HomeFileWriter<BufWriter<File>>>,
    setups: Vec<SetupId>,
}

impl Written {
    fn new(to: File) -> Self {
        Self { to: Some(BufWriter::new(to)), file: None, setups: Vec::new() }
    }

    fn take(&mut self, piece: Piece) -> Result<(), ApiError> {
        if let (Piece::Home(home), Some(to)) = (&piece, self.to.take()) {
            self.setups = home.setups.iter().map(|own| own.id).collect();
            self.file = Some(HomeFileWriter::begin(to, home)?);
            return Ok(());
        }
        let file = self.file.as_mut().ok_or_else(|| ApiError::Internal("a piece before the home".into()))?;
        // What belongs to a setup that was deleted is nobody's.
        let there = |setup: SetupId| self.setups.contains(&setup);
        match piece {
            Piece::Round(own) => file.round(&own.round, &own.tested)?,
            Piece::Run(own) => file.run(&own)?,
            Piece::Picture(own, jpeg) => file.picture(own, &jpeg)?,
            Piece::Tick(own) if there(own.setup_id) => file.tick(&own)?,
            Piece::Drill(own) if there(own.setup_id) => file.drill(&own)?,
            Piece::Watch(own) => file.watch(&own)?,
            Piece::DeviceNote(own) if there(own.setup_id) => file.device_note(&own)?,
            Piece::Home(_) | Piece::Tick(_) | Piece::Drill(_) | Piece::DeviceNote(_) => {}
        }
        Ok(())
    }

    fn end(self) -> Result<File, ApiError> {
        let file = self.file.ok_or_else(|| ApiError::Internal("a file without a home".into()))?;
        file.end()?.into_inner().map_err(|error| error.into_error().into())
    }
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
#[post("/home-files")]
pub async fn import_home(
    state: Data<AppState>,
    request: HttpRequest,
    sender: Sender,
    body: Payload,
) -> Result<HttpResponse, ApiError> {
    if let Some(length) = announced(&request) {
        not_too_large(length)?;
    }
    let taken = spool::take(body, FILE_LIMIT, PATIENCE).await;
    if matches!(taken, Err(ApiError::TooLarge(_))) {
        not_too_large(u64::MAX)?;
    }
    let ((body, length), now) = (taken?, state.now());
    let whole = state.places.unpack(move || whole(HomeFile::read_from(BufReader::new(body), length)?, now)).await?;
    let stored = state.store.import(HomeId::random(), &whole, now).await?;
    // All of it is on the disk; what the page shows is read from there.
    drop(whole);
    view(&state, StatusCode::CREATED, stored, &sender.0).await
}

/// What a file holds, with new identities, so that it can come in twice.
fn whole(file: HomeFile, now: Timestamp) -> Result<Whole, ApiError> {
    let file = file.with_all_tested(now);
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
    let device_notes = file.device_notes.into_iter().map(|own| DeviceNote { id: NoteId::random(), ..own }).collect();
    Ok(Whole { home, rounds, pictures, ticks: file.ticks, drills, watches: file.watches, device_notes })
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
