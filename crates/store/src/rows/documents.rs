//! Tables of documents that belong to homes, each under an id of its own.

use std::fmt::Display;

use busy_hen_home::HomeId;
use serde::Serialize;
use serde::de::DeserializeOwned;
use sqlx::sqlite::SqliteRow;
use sqlx::{Row, SqliteConnection};

use super::parsed;
use crate::StoreError;

/// A table of documents.
pub(crate) struct Documents {
    /// What one of them is called.
    pub name: &'static str,
    insert: &'static str,
    delete: &'static str,
    of_id: &'static str,
    of_home: &'static str,
}

/// Drills that were run.
pub(crate) const DRILLS: Documents = Documents {
    name: "drill",
    insert: "INSERT INTO drill (id, home_id, document) VALUES (?, ?, ?)",
    delete: "DELETE FROM drill WHERE id = ?",
    of_id: "SELECT home_id, document FROM drill WHERE id = ?",
    of_home: "SELECT document FROM drill WHERE home_id = ? ORDER BY id",
};

/// Notes on devices.
pub(crate) const DEVICE_NOTES: Documents = Documents {
    name: "note",
    insert: "INSERT INTO device_note (id, home_id, document) VALUES (?, ?, ?)",
    delete: "DELETE FROM device_note WHERE id = ?",
    of_id: "SELECT home_id, document FROM device_note WHERE id = ?",
    of_home: "SELECT document FROM device_note WHERE home_id = ? ORDER BY document ->> 'at', id",
};

/// A row of home and document.
pub(crate) fn with_home<T: DeserializeOwned>(row: &SqliteRow) -> Result<(HomeId, T), StoreError> {
    Ok((parsed(row.try_get("home_id")?)?, serde_json::from_str(row.try_get("document")?)?))
}

impl Documents {
    pub async fn insert(
        &self,
        connection: &mut SqliteConnection,
        home: HomeId,
        (id, own): (impl Display, &impl Serialize),
    ) -> Result<(), StoreError> {
        sqlx::query(self.insert)
            .bind(id.to_string())
            .bind(home.to_string())
            .bind(serde_json::to_string(own)?)
            .execute(connection)
            .await?;
        Ok(())
    }

    pub async fn delete(&self, connection: &mut SqliteConnection, id: impl Display) -> Result<(), StoreError> {
        sqlx::query(self.delete).bind(id.to_string()).execute(connection).await?;
        Ok(())
    }

    /// One with its home; none when there is none of this id.
    pub async fn of_id<T: DeserializeOwned>(
        &self,
        connection: &mut SqliteConnection,
        id: impl Display,
    ) -> Result<Option<(HomeId, T)>, StoreError> {
        let row = sqlx::query(self.of_id).bind(id.to_string()).fetch_optional(connection).await?;
        row.as_ref().map(with_home).transpose()
    }

    /// Those of a home.
    pub async fn of_home<T: DeserializeOwned>(
        &self,
        connection: &mut SqliteConnection,
        home: HomeId,
    ) -> Result<Vec<T>, StoreError> {
        let rows = sqlx::query(self.of_home).bind(home.to_string()).fetch_all(connection).await?;
        rows.iter().map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).collect()
    }
}
