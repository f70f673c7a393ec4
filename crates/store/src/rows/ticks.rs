//! Rows of ticks.

use busy_hen_home::{HomeId, SetupId, Tick};
use sqlx::{Row, SqliteConnection};

use crate::StoreError;

/// Keeps a tick in the place of an earlier one of the same step.
pub(crate) async fn put(connection: &mut SqliteConnection, home: HomeId, tick: &Tick) -> Result<(), StoreError> {
    sqlx::query(
        "INSERT INTO tick (home_id, setup_id, step, document) VALUES (?, ?, ?, ?)
         ON CONFLICT (home_id, setup_id, step) DO UPDATE SET document = excluded.document",
    )
    .bind(home.to_string())
    .bind(tick.setup_id.to_string())
    .bind(&tick.step)
    .bind(serde_json::to_string(tick)?)
    .execute(connection)
    .await?;
    Ok(())
}

pub(crate) async fn remove(
    connection: &mut SqliteConnection,
    home: HomeId,
    (setup, step): (SetupId, &str),
) -> Result<(), StoreError> {
    sqlx::query("DELETE FROM tick WHERE home_id = ? AND setup_id = ? AND step = ?")
        .bind(home.to_string())
        .bind(setup.to_string())
        .bind(step)
        .execute(connection)
        .await?;
    Ok(())
}

/// Ticks of a home, by setup and step.
pub(crate) async fn ticks_of(connection: &mut SqliteConnection, home: HomeId) -> Result<Vec<Tick>, StoreError> {
    let rows = sqlx::query("SELECT document FROM tick WHERE home_id = ? ORDER BY setup_id, step")
        .bind(home.to_string())
        .fetch_all(connection)
        .await?;
    rows.iter().map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).collect()
}
