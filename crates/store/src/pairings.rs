//! Phones that were paired with a round, and the raw samples of what they measured.

use busy_hen_home::{HomeId, RoundId, RunId};
use jiff::Timestamp;
use sqlx::Row;

use crate::rows::{parsed, sortable};
use crate::{Store, StoreError};

/// A phone that may test in a round.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Pairing {
    /// The home of the round.
    pub home: HomeId,
    /// The round.
    pub round: RoundId,
    /// When no new test may begin any more.
    pub expires_at: Timestamp,
    /// Whether it is the stand-in, whose runs are made up.
    pub stand_in: bool,
}

impl Store {
    /// Pairs whoever holds the token of this digest with a round.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the round is not there.
    pub async fn pair(
        &self,
        digest: &str,
        round: RoundId,
        (now, expires_at): (Timestamp, Timestamp),
        stand_in: bool,
    ) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let done = sqlx::query(
                    "INSERT INTO pairing (digest, home_id, round_id, made_at, expires_at, stand_in)
                     SELECT ?, home_id, id, ?, ?, ? FROM round WHERE id = ? AND deleted_in IS NULL",
                )
                .bind(digest)
                .bind(sortable(now))
                .bind(sortable(expires_at))
                .bind(stand_in)
                .bind(round.to_string())
                .execute(connection)
                .await?;
                if done.rows_affected() == 0 { Err(StoreError::NotFound("round")) } else { Ok(()) }
            })
            .await
    }

    /// What the token of this digest is paired with; none when it is not known.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn paired(&self, digest: &str) -> Result<Option<Pairing>, StoreError> {
        let row = sqlx::query("SELECT home_id, round_id, expires_at, stand_in FROM pairing WHERE digest = ?")
            .bind(digest)
            .fetch_optional(&self.readers)
            .await?;
        row.map(|row| {
            Ok(Pairing {
                home: parsed(row.try_get("home_id")?)?,
                round: parsed(row.try_get("round_id")?)?,
                expires_at: parsed(row.try_get("expires_at")?)?,
                stand_in: row.try_get("stand_in")?,
            })
        })
        .transpose()
    }

    /// The raw samples of a run as they were handed in; none when it has none.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn samples(&self, run: RunId) -> Result<Option<Vec<u8>>, StoreError> {
        let row = sqlx::query("SELECT gzip FROM sample WHERE run_id = ?")
            .bind(run.to_string())
            .fetch_optional(&self.readers)
            .await?;
        Ok(row.map(|row| row.try_get("gzip")).transpose()?)
    }
}
