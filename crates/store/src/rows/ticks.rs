//! Rows of ticks.

use busy_hen_home::{HomeId, SetupId, Tick};
use sqlx::{Row, SqliteConnection};

use crate::StoreError;

/// Keeps a tick, or that it was taken back, in the place of an earlier word on the same step.
pub(crate) async fn put(
    connection: &mut SqliteConnection,
    home: HomeId,
    tick: &Tick,
    taken_back: bool,
) -> Result<(), StoreError> {
    sqlx::query(
        "INSERT INTO tick (home_id, setup_id, step, document, taken_back) VALUES (?, ?, ?, ?, ?)
         ON CONFLICT (home_id, setup_id, step) DO UPDATE SET document = excluded.document, taken_back = excluded.taken_back",
    )
    .bind(home.to_string())
    .bind(tick.setup_id.to_string())
    .bind(&tick.step)
    .bind(serde_json::to_string(tick)?)
    .bind(taken_back)
    .execute(connection)
    .await?;
    Ok(())
}

/// The last word on a step, also that it was taken back; none where nothing was said.
pub(crate) async fn word_on(
    connection: &mut SqliteConnection,
    home: HomeId,
    (setup, step): (SetupId, &str),
) -> Result<Option<Tick>, StoreError> {
    let row = sqlx::query("SELECT document FROM tick WHERE home_id = ? AND setup_id = ? AND step = ?")
        .bind(home.to_string())
        .bind(setup.to_string())
        .bind(step)
        .fetch_optional(connection)
        .await?;
    row.map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).transpose()
}

/// Ticks of a home, by setup and step.
pub(crate) async fn ticks_of(connection: &mut SqliteConnection, home: HomeId) -> Result<Vec<Tick>, StoreError> {
    let rows = sqlx::query("SELECT document FROM tick WHERE home_id = ? AND taken_back = 0 ORDER BY setup_id, step")
        .bind(home.to_string())
        .fetch_all(connection)
        .await?;
    rows.iter().map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).collect()
}
