//! Readings as a table: out, and in.

use std::io::Read as _;

use actix_web::http::header;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get, post};
use busy_hen_formats::{Column, Line, READINGS_TABLE_SCHEMA, RateUnit, Style, Table, TableRow, readings_csv as to_csv};
use busy_hen_home::{Fault, Faults, Home, HomeId, Outcome, RoundId, Run, RunId, Source, SpotId, Under, local_day};
use busy_hen_job::check::{check_new_run, over_ceiling};
use busy_hen_predict::progress::Watch;
use busy_hen_store::{RoundRecord, StoreError};
use busy_hen_units::typed::Decimals;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use super::super::files::attachment;
use super::super::numbers::style_of;
use super::view::spot_name;
use crate::body::{Body, EditorHeader, Sender};
use crate::error::ApiError;
use crate::problems::{Reading, Storing};
use crate::state::AppState;

/// All readings of a home as CSV.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The readings, one run a line.", body = String, content_type = "text/csv; charset=utf-8"), Reading))]
#[get("/homes/{home}/readings.csv")]
pub async fn readings_csv(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let name = state.store.home(*home).await?.home.name;
    let id = *home;
    let readings = state.readings(id).await?;
    let written = move |_: &Watch| {
        let setups: Vec<String> = readings
            .rounds
            .iter()
            .map(|own| (&own.round, &own.tested))
            .map(|(round, tested)| {
                tested.home.setup(round.setup_id).map(|s| format!("{} {}", s.letter, s.name)).unwrap_or_default()
            })
            .collect();
        let mut lines = Vec::new();
        for (own, setup) in readings.rounds.iter().zip(&setups) {
            let (round, home) = (&own.round, &own.tested.home);
            for run in readings.of(round.id) {
                let spot = home.house.spots.iter().find(|spot| spot.id == run.spot_id);
                let room = spot.and_then(|spot| home.house.room(spot.room_id));
                let serving = run.serving.and_then(|id| home.setup(round.setup_id)?.device(id));
                lines.push(Line {
                    setup,
                    room: room.map_or("", |room| room.name.as_str()),
                    spot: spot.map_or("", |spot| spot.name.as_str()),
                    serving: serving.map_or("", |device| device.name.as_str()),
                    round,
                    run,
                });
            }
        }
        to_csv(&lines).map_err(|error| ApiError::Internal(error.to_string()))
    };
    let text = state.places.compute_of(id, written).await?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((header::CONTENT_DISPOSITION, attachment(&name, "csv")?))
        .body(text))
}

/// What the columns of the readings' table hold.
#[utoipa::path(tag = "rounds",
    responses((status = OK, description = "A table schema (Frictionless specifications).", body = serde_json::Value), Reading))]
#[get("/readings.schema.json")]
pub async fn readings_schema() -> HttpResponse {
    HttpResponse::Ok().content_type("application/json").body(READINGS_TABLE_SCHEMA)
}

/// Readings of another test as a table.
#[derive(Debug, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct TableAsk {
    /// The table with its headings: CSV, or as a spreadsheet copies it.
    pub text: String,
    /// What each column holds; guessed by the headings when left out.
    #[serde(default)]
    pub columns: Option<Vec<Column>>,
    /// Unit of the rates; only where the headings name one can it be left out.
    #[serde(default)]
    pub unit: Option<RateUnit>,
    /// How its decimals are written; only where home and table leave no doubt can it be left out.
    #[serde(default)]
    pub decimals: Option<Decimals>,
    /// What tested.
    pub tool: String,
    /// Whether the readings are kept; else they are only read.
    #[serde(default)]
    pub keep: bool,
}

/// What a table was read as.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableRead {
    /// Its headings.
    pub headings: Vec<String>,
    /// What each column was taken to hold.
    pub columns: Vec<Column>,
    /// The unit that the rates were read in; none while it has to be said.
    pub unit: Option<RateUnit>,
    /// The decimals that the numbers were read with; none while it has to be said.
    pub decimals: Option<Decimals>,
    /// A cell that leaves doubt of them.
    pub unclear: Option<String>,
    /// The lines as they were read.
    pub rows: Vec<TableLine>,
    /// What can't be read, in words.
    pub problems: Vec<String>,
    /// Whether the readings are kept.
    pub kept: bool,
}

/// A line of a table as it was read.
#[derive(Debug, Serialize, ToSchema)]
pub struct TableLine {
    /// Its number in the text.
    pub line: usize,
    /// The spot.
    pub spot: String,
    /// What came of it.
    pub outcome: Outcome,
}

/// Reads a table of another test's readings, and keeps them when asked to: all of them or none.
#[utoipa::path(tag = "rounds", params(("round" = RoundId, Path), EditorHeader), request_body = TableAsk,
    responses((status = OK, description = "What was read.", body = TableRead), Storing))]
#[post("/rounds/{round}/table")]
pub async fn read_table(
    state: Data<AppState>,
    round: Path<RoundId>,
    sender: Sender,
    ask: Body<TableAsk>,
) -> Result<HttpResponse, ApiError> {
    let (home_id, record) = state.store.round(*round).await?;
    let ask = ask.into_inner();
    let tool = ask.tool.trim();
    if ask.keep && tool.is_empty() {
        return Err(Faults::one("/tool", "Say what tested, so that its readings are told from others.").into());
    }
    let table = Table::split(&ask.text)?;
    let columns = ask.columns.unwrap_or_else(|| table.guess());
    let unit = ask.unit.or_else(|| table.unit(&columns));
    let (now, home) = (state.now(), state.store.home(home_id).await?.home);
    let (decimals, unclear) = match (ask.decimals, table.style(&columns, style_of(&home).decimals)) {
        (Some(said), _) => (Some(said), None),
        (None, Style::Known(known)) => (Some(known), None),
        (None, Style::Unclear(cell)) => (None, Some(cell)),
    };
    let mut read = TableRead {
        headings: table.headings.clone(),
        columns,
        unit,
        decimals,
        unclear,
        rows: Vec::new(),
        problems: Vec::new(),
        kept: false,
    };
    let Some((unit, decimals)) = unit.zip(decimals) else { return Ok(HttpResponse::Ok().json(read)) };
    let mut runs = Vec::new();
    match table.read(&read.columns, unit, decimals) {
        Err(faults) => read.problems.extend(faults.list().iter().map(|fault| fault.message.clone())),
        Ok(rows) => {
            for row in rows {
                match run_of(&row, tool, &record, &home, now) {
                    Ok(run) => runs.push(run),
                    Err(words) => read.problems.push(words),
                }
                read.rows.push(TableLine { line: row.line, spot: row.spot, outcome: row.reading.outcome });
            }
        }
    }
    if ask.keep {
        Faults::check(
            read.problems.iter().map(|message| Fault { pointer: "/text".into(), message: message.clone() }).collect(),
        )?;
        let what = format!("{} readings of {tool}", runs.len());
        state.store.add_runs(*round, &runs, &[], Some((&what, &sender.0, now))).await?;
        read.kept = true;
    }
    Ok(HttpResponse::Ok().json(read))
}

/// The run that a line makes: known again when the same table comes twice.
fn run_of(row: &TableRow, tool: &str, record: &RoundRecord, home: &Home, now: Timestamp) -> Result<Run, String> {
    let RoundRecord { round, tested } = record;
    let named = |id: &&SpotId| spot_name(&tested.home, **id).to_lowercase() == row.spot.to_lowercase();
    let spot_id = *round.spots.iter().find(named).ok_or_else(|| {
        let names: Vec<String> = round.spots.iter().take(6).map(|id| spot_name(&tested.home, *id)).collect();
        format!("Line {}: this round has no spot “{}”; it has {} and so on.", row.line, row.spot, names.join(", "))
    })?;
    let reading = row.reading.clone();
    let at = reading.at.unwrap_or(now);
    let said = (&reading.outcome, reading.at, reading.signal_dbm, reading.link_rate_mbps, &reading.note);
    let said = serde_json::to_string(&said).map_err(|error| error.to_string())?;
    let id = RunId::named(&format!("{} {tool} {} {} {said}", round.id, row.line, row.spot));
    let run = Run {
        signal_dbm: reading.signal_dbm,
        link_rate_mbps: reading.link_rate_mbps,
        note: reading.note,
        plan_id: home.brief.plan_of(round.kind, local_day(at)).map(|plan| plan.id),
        under: Some(Under { tool: Some(tool.to_owned()).filter(|tool| !tool.is_empty()), ..round.under() })
            .filter(|under| *under != round.under()),
        ..Run::new(id, round.id, spot_id, at, Source::Typed, reading.outcome)
    };
    let line = |message: &str| format!("Line {}: {message}", row.line);
    check_new_run(&tested.home, round, &run).map_err(|faults| line(&faults.list()[0].message))?;
    match over_ceiling(&tested.home, round, &run, home.brief.plan_of(round.kind, local_day(at))) {
        Some(ceiling) => Err(line(&format!(
            "{:.0} Mb/s is more than {}, {:.0}. Is the unit right, and was it this kind of test?",
            ceiling.read.get(),
            ceiling.by.in_words(),
            ceiling.most.get()
        ))),
        None => Ok(run),
    }
}

/// The raw samples of a run, as its test recorded them.
#[utoipa::path(tag = "rounds", params(("run" = RunId, Path)),
    responses((status = OK, description = "The samples.", body = serde_json::Value), Reading))]
#[get("/runs/{run}/samples.json")]
pub async fn samples(state: Data<AppState>, run: Path<RunId>) -> Result<HttpResponse, ApiError> {
    let gzip = state.store.samples(*run).await?.ok_or(StoreError::NotFound("run with samples"))?;
    let mut text = String::new();
    flate2::read::GzDecoder::new(gzip.as_slice())
        .read_to_string(&mut text)
        .map_err(|error| ApiError::Internal(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header((header::CONTENT_DISPOSITION, attachment("samples", "json")?))
        .body(text))
}
