//! Rows of homes.

use busy_hen_home::{Home, HomeId};
use sqlx::{Row, SqliteConnection};

use super::parsed;
use crate::StoreError;

/// A home as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct Stored {
    /// Its id.
    pub id: HomeId,
    /// Number of the revision in force.
    pub revision: i64,
    /// Number of the state of its rounds and runs.
    pub readings: i64,
    /// When it was last changed.
    pub changed_at: jiff::Timestamp,
    /// The home.
    pub home: Home,
}

pub(crate) async fn read(connection: &mut SqliteConnection, id: HomeId) -> Result<Stored, StoreError> {
    let row = sqlx::query(
        "SELECT home.revision, home.readings, home.changed_at, own.document
           FROM home JOIN revision AS own ON own.home_id = home.id AND own.number = home.revision
          WHERE home.id = ? AND home.arriving = 0 AND home.deleted = 0",
    )
    .bind(id.to_string())
    .fetch_optional(connection)
    .await?
    .ok_or(StoreError::NotFound("home"))?;
    Ok(Stored {
        id,
        revision: row.try_get("revision")?,
        readings: row.try_get("readings")?,
        changed_at: parsed(row.try_get("changed_at")?)?,
        home: serde_json::from_str(row.try_get("document")?)?,
    })
}

/// Counts a change of rounds or runs.
pub(crate) async fn count_readings(connection: &mut SqliteConnection, id: HomeId) -> Result<(), StoreError> {
    sqlx::query("UPDATE home SET readings = readings + 1 WHERE id = ?")
        .bind(id.to_string())
        .execute(connection)
        .await?;
    Ok(())
}
