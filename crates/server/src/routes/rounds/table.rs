//! Readings as a table: out, and in.

use actix_web::http::header;
use actix_web::web::{Data, Path};
use actix_web::{HttpResponse, get};
use busy_hen_engine::watch::Watch;
use busy_hen_formats::{Line, readings_csv as to_csv};
use busy_hen_home::HomeId;
use busy_hen_store::RoundRecord;

use super::super::files::attachment;
use crate::error::ApiError;
use crate::problems::Reading;
use crate::state::AppState;

/// All readings of a home as CSV.
#[utoipa::path(tag = "rounds", params(("home" = HomeId, Path)),
    responses((status = OK, description = "The readings, one run a line.", body = String, content_type = "text/csv; charset=utf-8"), Reading))]
#[get("/api/homes/{home}/readings.csv")]
pub async fn readings_csv(state: Data<AppState>, home: Path<HomeId>) -> Result<HttpResponse, ApiError> {
    let name = state.store.home(*home).await?.home.name;
    let readings = state.readings(*home).await?;
    let written = move |_: &Watch| {
        let setups: Vec<String> = readings
            .rounds
            .iter()
            .map(|RoundRecord { round, tested }| {
                tested.home.setup(round.setup_id).map(|s| format!("{} {}", s.letter, s.name)).unwrap_or_default()
            })
            .collect();
        let mut lines = Vec::new();
        for (RoundRecord { round, tested }, setup) in readings.rounds.iter().zip(&setups) {
            let home = &tested.home;
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
    let text = state.places.compute(written).await?;
    Ok(HttpResponse::Ok()
        .content_type("text/csv; charset=utf-8")
        .insert_header((header::CONTENT_DISPOSITION, attachment(&name, "csv")?))
        .body(text))
}
