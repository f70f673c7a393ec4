//! Long watches.

use busy_hen_home::{HomeId, WATCH_LOG_LIMIT, WatchId, WatchLog, WatchSummary};

use crate::room::has_room;
use crate::rows::homes::{count_readings, read};
use crate::rows::watches::{put_watch, summaries_of, watch_of};
use crate::{Store, StoreError};

/// Most that is kept of one watch, bytes: as lines it is longer by a quarter at most, and must come in again.
const KEPT_MOST: usize = WATCH_LOG_LIMIT / 4 * 3;

impl Store {
    /// Keeps a watch. Of one that is there already all stays, whichever of the two is older. Gives back what is kept.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there, [`StoreError::Conflict`] when another watch has the id, or the home has no room.
    pub async fn keep_watch(&self, home: HomeId, log: WatchLog) -> Result<WatchLog, StoreError> {
        let kept = self
            .writer
            .write(async |connection| {
                read(connection, home).await?;
                let log = match watch_of(connection, home, log.head.id).await? {
                    Some(there) if there.head == log.head => log.clone().with(&there),
                    Some(_) => {
                        let told = "A monitor with this id watches other devices here; this log belongs to another home, or was changed.";
                        return Err(StoreError::Conflict(told.into()));
                    }
                    None => log.clone(),
                };
                log.check()?;
                if serde_json::to_vec(&log)?.len() > KEPT_MOST {
                    let told = "This monitor’s log is full; save a copy of it and start a new monitor.";
                    return Err(StoreError::Conflict(told.into()));
                }
                put_watch(connection, home, &log).await?;
                has_room(connection, home).await?;
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
        self.forget_log().await;
        self.tell(home);
        Ok(())
    }
}
