//! Rows of runs. The trace of a run is a column of its own, so that opening a home with thousands of runs reads none.

use busy_hen_home::{RoundId, Run, RunId};
use futures_util::stream::BoxStream;
use sqlx::sqlite::SqliteRow;
use sqlx::{Row, SqliteConnection};

use super::sortable;
use crate::StoreError;

/// A run without its trace.
pub(crate) fn untraced(run: &Run) -> Run {
    Run { trace_mbps: Vec::new(), ..run.clone() }
}

pub(crate) fn run_of_row(row: &SqliteRow) -> Result<Run, StoreError> {
    let mut run: Run = serde_json::from_str(row.try_get("document")?)?;
    run.trace_mbps = serde_json::from_str(row.try_get("trace")?)?;
    Ok(run)
}

pub(crate) async fn stored_run(connection: &mut SqliteConnection, id: RunId) -> Result<Option<Run>, StoreError> {
    let row = sqlx::query("SELECT document, trace FROM run WHERE id = ?")
        .bind(id.to_string())
        .fetch_optional(connection)
        .await?;
    row.as_ref().map(run_of_row).transpose()
}

pub(crate) async fn live_run(connection: &mut SqliteConnection, id: RunId) -> Result<Run, StoreError> {
    let row = sqlx::query("SELECT document, trace FROM run WHERE id = ? AND removed_in IS NULL")
        .bind(id.to_string())
        .fetch_optional(connection)
        .await?;
    run_of_row(&row.ok_or(StoreError::NotFound("run"))?)
}

/// Rows of all runs of a round with their traces, in the order they were taken.
pub(crate) fn each_run(
    connection: &mut SqliteConnection,
    round: RoundId,
) -> BoxStream<'_, Result<SqliteRow, sqlx::Error>> {
    sqlx::query("SELECT document, trace FROM run WHERE round_id = ? AND removed_in IS NULL ORDER BY at, id")
        .bind(round.to_string())
        .fetch(connection)
}

pub(crate) async fn insert_run(connection: &mut SqliteConnection, run: &Run) -> Result<(), StoreError> {
    sqlx::query("INSERT INTO run (id, round_id, spot_id, at, document, trace) VALUES (?, ?, ?, ?, ?, ?)")
        .bind(run.id.to_string())
        .bind(run.round_id.to_string())
        .bind(run.spot_id.to_string())
        .bind(sortable(run.at))
        .bind(serde_json::to_string(&untraced(run))?)
        .bind(serde_json::to_string(&run.trace_mbps)?)
        .execute(connection)
        .await?;
    Ok(())
}

/// Stores a run anew; its trace stays.
pub(crate) async fn update_run(connection: &mut SqliteConnection, run: &Run) -> Result<(), StoreError> {
    sqlx::query("UPDATE run SET document = ? WHERE id = ?")
        .bind(serde_json::to_string(&untraced(run))?)
        .bind(run.id.to_string())
        .execute(connection)
        .await?;
    Ok(())
}

pub(crate) async fn set_removed(
    connection: &mut SqliteConnection,
    id: RunId,
    step: Option<i64>,
) -> Result<(), StoreError> {
    sqlx::query("UPDATE run SET removed_in = ? WHERE id = ?")
        .bind(step)
        .bind(id.to_string())
        .execute(connection)
        .await?;
    Ok(())
}

/// A run as it stands, when it has not been taken back.
pub(crate) async fn run_if_there(connection: &mut SqliteConnection, id: RunId) -> Result<Option<Run>, StoreError> {
    match live_run(connection, id).await {
        Ok(run) => Ok(Some(untraced(&run))),
        Err(StoreError::NotFound(_)) => Ok(None),
        Err(error) => Err(error),
    }
}
