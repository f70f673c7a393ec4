//! Homes as they stand.

use busy_hen_home::HomeId;
use sqlx::Row;

use crate::rows::homes::{Stored, read};
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
        let row = sqlx::query("SELECT revision, readings FROM home WHERE id = ? AND arriving = 0")
            .bind(id.to_string())
            .fetch_optional(&self.readers)
            .await?
            .ok_or(StoreError::NotFound("home"))?;
        Ok(Standing { revision: row.try_get(0)?, readings: row.try_get(1)? })
    }

    /// Deletes a home for good, with all that was kept of it: nothing of it is left in the file.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn delete(&self, id: HomeId) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let done =
                    sqlx::query("DELETE FROM home WHERE id = ?").bind(id.to_string()).execute(&mut *connection).await?;
                if done.rows_affected() == 0 {
                    return Err(StoreError::NotFound("home"));
                }
                drop_unused_frozen(connection).await
            })
            .await?;
        self.forget_log().await;
        self.tell(id);
        Ok(())
    }
}
