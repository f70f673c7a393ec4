//! What every change of a home goes with, and how it is answered.

use actix_web::HttpResponse;
use actix_web::http::{StatusCode, header};
use busy_hen_job::changes::step_name;
use busy_hen_job::check::check;
use busy_hen_store::{Change, Editor, Stored};

use crate::error::ApiError;
use crate::state::AppState;
use crate::views::HomeView;

/// What a change of a home goes with.
pub fn editing<'a>(state: &AppState, base: Option<i64>, editor: &'a Editor) -> Change<'a> {
    Change { base, editor, now: state.now(), with_readings: false, typing: "", name: &step_name, check: &check }
}

/// Answers with a home as it now is, for this editor.
pub async fn view(
    state: &AppState,
    status: StatusCode,
    stored: Stored,
    editor: &Editor,
) -> Result<HttpResponse, ApiError> {
    let readings = state.readings(stored.id).await?;
    let steps = state.store.steps(stored.id, editor).await?;
    let today = state.today();
    let held = state.store.held(stored.id).await?;
    let revision = stored.revision;
    let view =
        state.places.compute_of(stored.id, move |_| Ok(HomeView::new(stored, steps, &readings, held, today))).await?;
    Ok(HttpResponse::build(status).insert_header((header::ETAG, format!("\"{revision}\""))).json(view))
}
