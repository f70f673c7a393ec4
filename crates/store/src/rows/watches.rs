//! Rows of long watches.

use busy_hen_home::{HomeId, WatchId, WatchLog, WatchSummary};
use sqlx::{Row, SqliteConnection};

use crate::StoreError;

/// Keeps a watch in the place of what was kept of it before.
pub(crate) async fn put_watch(
    connection: &mut SqliteConnection,
    home: HomeId,
    log: &WatchLog,
) -> Result<(), StoreError> {
    let query = "INSERT INTO watch (home_id, id, summary, document) VALUES (?, ?, ?, ?)
        ON CONFLICT DO UPDATE SET summary = excluded.summary, document = excluded.document";
    sqlx::query(query)
        .bind(home.to_string())
        .bind(log.head.id.to_string())
        .bind(serde_json::to_string(&log.summary())?)
        .bind(serde_json::to_string(log)?)
        .execute(connection)
        .await?;
    Ok(())
}

/// A watch of a home; none when there is none of this id.
pub(crate) async fn watch_of(
    connection: &mut SqliteConnection,
    home: HomeId,
    id: WatchId,
) -> Result<Option<WatchLog>, StoreError> {
    let row = sqlx::query("SELECT document FROM watch WHERE home_id = ? AND id = ?")
        .bind(home.to_string())
        .bind(id.to_string())
        .fetch_optional(connection)
        .await?;
    row.map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).transpose()
}

/// Watches of a home in short, first begun first, without reading what they saw.
pub(crate) async fn summaries_of(
    connection: &mut SqliteConnection,
    home: HomeId,
) -> Result<Vec<WatchSummary>, StoreError> {
    let rows =
        sqlx::query("SELECT summary FROM watch WHERE home_id = ?").bind(home.to_string()).fetch_all(connection).await?;
    let list = rows.iter().map(|row| Ok(serde_json::from_str(row.try_get("summary")?)?));
    let mut list = list.collect::<Result<Vec<WatchSummary>, StoreError>>()?;
    list.sort_by_key(|own| (own.begun, own.id));
    Ok(list)
}
