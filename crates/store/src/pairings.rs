//! Phones that were paired with a round, and the raw samples of what they measured.

use busy_hen_home::{HomeId, RoundId, RunId};
use jiff::Timestamp;
use sqlx::sqlite::SqliteRow;
use sqlx::{AssertSqlSafe, Row};

use crate::rows::rounds::record_of;
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
    /// When it was withdrawn; none when it was not.
    pub withdrawn_at: Option<Timestamp>,
    /// Whether its round is there: a code ends with its round, and comes back with it.
    pub round_is_there: bool,
    /// Whether it is the stand-in, whose runs are made up.
    pub stand_in: bool,
}

impl Pairing {
    /// When no new test may begin any more, as far as its time goes.
    #[must_use]
    pub fn ends_at(&self) -> Timestamp {
        self.withdrawn_at.map_or(self.expires_at, |at| at.min(self.expires_at))
    }

    /// Whether a new test may begin now.
    #[must_use]
    pub fn may_test(&self, now: Timestamp) -> bool {
        self.round_is_there && now <= self.ends_at()
    }
}

/// A pairing as a list shows it.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Code {
    /// By what it is withdrawn: the beginning of the digest.
    pub id: String,
    /// When it was made.
    pub made_at: Timestamp,
    /// What it is.
    pub pairing: Pairing,
}

/// Characters of the digest by which a code is told from others.
const ID: usize = 16;
const SELECT: &str = "SELECT pairing.digest, pairing.home_id, pairing.round_id, pairing.made_at, pairing.expires_at, pairing.withdrawn_at,
                             pairing.stand_in, round.deleted_in IS NULL AND home.deleted = 0 AS there
                        FROM pairing JOIN round ON round.id = pairing.round_id JOIN home ON home.id = pairing.home_id";

fn pairing(row: &SqliteRow) -> Result<Pairing, StoreError> {
    let withdrawn: Option<&str> = row.try_get("withdrawn_at")?;
    Ok(Pairing {
        home: parsed(row.try_get("home_id")?)?,
        round: parsed(row.try_get("round_id")?)?,
        expires_at: parsed(row.try_get("expires_at")?)?,
        withdrawn_at: withdrawn.map(parsed).transpose()?,
        round_is_there: row.try_get("there")?,
        stand_in: row.try_get("stand_in")?,
    })
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
                     SELECT ?, home_id, round.id, ?, ?, ? FROM round JOIN home ON home.id = home_id
                      WHERE round.id = ? AND deleted_in IS NULL AND deleted = 0",
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
        let row = sqlx::query(AssertSqlSafe(format!("{SELECT} WHERE pairing.digest = ?")))
            .bind(digest)
            .fetch_optional(&self.readers)
            .await?;
        row.as_ref().map(pairing).transpose()
    }

    /// The codes of a round, newest first.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the round is not there.
    pub async fn codes(&self, round: RoundId) -> Result<Vec<Code>, StoreError> {
        let mut connection = self.readers.acquire().await?;
        record_of(&mut connection, round).await?;
        let rows = sqlx::query(AssertSqlSafe(format!("{SELECT} WHERE round.id = ? ORDER BY pairing.made_at DESC")))
            .bind(round.to_string())
            .fetch_all(&mut *connection)
            .await?;
        let code = |row: &SqliteRow| {
            let digest: &str = row.try_get("digest")?;
            Ok(Code {
                id: digest.chars().take(ID).collect(),
                made_at: parsed(row.try_get("made_at")?)?,
                pairing: pairing(row)?,
            })
        };
        rows.iter().map(code).collect()
    }

    /// When the last code of phones that is open now runs out; none when none is open.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn last_code_ends(&self, now: Timestamp) -> Result<Option<Timestamp>, StoreError> {
        let row = sqlx::query(
            "SELECT max(pairing.expires_at) AS ends FROM pairing
               JOIN round ON round.id = pairing.round_id AND round.deleted_in IS NULL
               JOIN home ON home.id = pairing.home_id AND home.deleted = 0
              WHERE pairing.withdrawn_at IS NULL AND pairing.stand_in = 0 AND pairing.expires_at >= ?",
        )
        .bind(sortable(now))
        .fetch_one(&self.readers)
        .await?;
        row.try_get::<Option<&str>, _>("ends")?.map(parsed).transpose()
    }

    /// Withdraws a code of a round; one that was withdrawn before stays so from then.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the round has none such.
    pub async fn withdraw(&self, round: RoundId, id: &str, now: Timestamp) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let done = sqlx::query(
                    "UPDATE pairing SET withdrawn_at = COALESCE(withdrawn_at, ?) WHERE round_id = ? AND substr(digest, 1, ?) = ?",
                )
                .bind(sortable(now))
                .bind(round.to_string())
                .bind(ID as i64)
                .bind(id)
                .execute(connection)
                .await?;
                if done.rows_affected() == 0 { Err(StoreError::NotFound("code")) } else { Ok(()) }
            })
            .await
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
