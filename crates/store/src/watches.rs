//! Long watches.

use busy_hen_home::{HomeId, WatchId, WatchLog, WatchSummary};

use crate::rows::homes::{count_readings, read};
use crate::rows::watches::{put_watch, summaries_of, watch_of};
use crate::{Store, StoreError};

impl Store {
    /// Keeps a watch. Of one that is there already, what the new log has let go stays. Gives back what is kept.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there.
    pub async fn keep_watch(&self, home: HomeId, log: WatchLog) -> Result<WatchLog, StoreError> {
        let kept = self
            .writer
            .write(async |connection| {
                read(connection, home).await?;
                let log = match watch_of(connection, home, log.head.id).await? {
                    Some(older) => log.clone().continuing(&older),
                    None => log.clone(),
                };
                put_watch(connection, home, &log).await?;
                count_readings(connection, home).await?;
                Ok::<_, StoreError>(log)
            })
            .await?;
        self.tell(home);
        Ok(kept)
    }

    /// A watch.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id in this home.
    pub async fn watch(&self, home: HomeId, id: WatchId) -> Result<WatchLog, StoreError> {
        watch_of(&mut *self.readers.acquire().await?, home, id).await?.ok_or(StoreError::NotFound("watch"))
    }

    /// Watches of a home in short, first begun first.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn watch_summaries(&self, home: HomeId) -> Result<Vec<WatchSummary>, StoreError> {
        summaries_of(&mut *self.readers.acquire().await?, home).await
    }

    /// Takes a watch away for good.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id in this home.
    pub async fn remove_watch(&self, home: HomeId, id: WatchId) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let done = sqlx::query("DELETE FROM watch WHERE home_id = ? AND id = ?")
                    .bind(home.to_string())
                    .bind(id.to_string())
                    .execute(&mut *connection)
                    .await?;
                if done.rows_affected() == 0 {
                    return Err(StoreError::NotFound("watch"));
                }
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }
}
