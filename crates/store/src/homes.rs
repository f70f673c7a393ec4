//! Homes as they stand.

use busy_hen_home::HomeId;
use sqlx::Row;

use crate::rows::homes::{Stored, read};
use crate::rows::parsed;
use crate::rows::rounds::drop_unused_frozen;
use crate::{Store, StoreError};

/// Where a home stands: enough to tell whether something known of it is the newest.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Standing {
    /// Number of the revision in force.
    pub revision: i64,
    /// Number of the state of its rounds and runs.
    pub readings: i64,
}

impl Store {
    /// One home.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn home(&self, id: HomeId) -> Result<Stored, StoreError> {
        read(&mut *self.readers.acquire().await?, id).await
    }

    /// Where a home stands.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn standing(&self, id: HomeId) -> Result<Standing, StoreError> {
        let row = sqlx::query("SELECT revision, readings FROM home WHERE id = ? AND arriving = 0 AND deleted = 0")
            .bind(id.to_string())
            .fetch_optional(&self.readers)
            .await?
            .ok_or(StoreError::NotFound("home"))?;
        Ok(Standing { revision: row.try_get(0)?, readings: row.try_get(1)? })
    }

    /// Deletes a home with all that is kept of it: nobody finds it any more, but it can be brought back until the program ends.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn delete(&self, id: HomeId) -> Result<(), StoreError> {
        self.mark_deleted(id, true).await
    }

    /// Brings a deleted home back as it was.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when none of this id was deleted since the program was started.
    pub async fn bring_back(&self, id: HomeId) -> Result<(), StoreError> {
        self.mark_deleted(id, false).await
    }

    async fn mark_deleted(&self, id: HomeId, deleted: bool) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let done =
                    sqlx::query("UPDATE home SET deleted = ?1 WHERE id = ?2 AND arriving = 0 AND deleted = 1 - ?1")
                        .bind(deleted)
                        .bind(id.to_string())
                        .execute(connection)
                        .await?;
                if done.rows_affected() == 0 { Err(StoreError::NotFound("home")) } else { Ok(()) }
            })
            .await?;
        self.tell(id);
        Ok(())
    }

    /// Homes that were deleted and can be brought back, with their names.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn deleted_homes(&self) -> Result<Vec<(HomeId, String)>, StoreError> {
        let rows = sqlx::query(
            "SELECT home.id, coalesce(json_extract(own.document, '$.name'), '') AS name
               FROM home JOIN revision AS own ON own.home_id = home.id AND own.number = home.revision
              WHERE home.deleted = 1 ORDER BY name, home.id",
        )
        .fetch_all(&self.readers)
        .await?;
        rows.iter().map(|row| Ok((parsed(row.try_get("id")?)?, row.try_get("name")?))).collect()
    }

    /// Throws a deleted home away for good, with all that was kept of it: nothing of it is left in the file.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when none of this id was deleted.
    pub async fn throw_away(&self, id: HomeId) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let done = sqlx::query("DELETE FROM home WHERE id = ? AND deleted = 1")
                    .bind(id.to_string())
                    .execute(&mut *connection)
                    .await?;
                if done.rows_affected() == 0 {
                    return Err(StoreError::NotFound("home"));
                }
                drop_unused_frozen(connection).await
            })
            .await?;
        self.forget_log().await;
        Ok(())
    }

    /// Throws all deleted homes away for good.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub(crate) async fn throw_all_away(&self) -> Result<(), StoreError> {
        for (id, _) in self.deleted_homes().await? {
            self.throw_away(id).await?;
        }
        Ok(())
    }
}
