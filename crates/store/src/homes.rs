//! Homes as documents with revisions: create, change, undo, redo, delete.

use busy_hen_home::{Home, HomeId, Round, Run, SetupId, SpotId};
use sqlx::{Row, SqliteConnection};

use crate::rounds::{insert_round, insert_run, rounds_of, runs_of};
use crate::{Store, StoreError, WRITE};

/// Revisions kept for undo.
const KEPT: i64 = 200;

/// A home as stored.
#[derive(Debug, Clone, PartialEq)]
pub struct Stored {
    /// Its id.
    pub id: HomeId,
    /// Number of the revision in force.
    pub revision: i64,
    /// When it was last changed.
    pub changed_at: jiff::Timestamp,
    /// The home.
    pub home: Home,
    /// What undo would take back.
    pub can_undo: Option<String>,
    /// What redo would bring back.
    pub can_redo: Option<String>,
}

const SELECT: &str = "SELECT home.id, home.revision, home.changed_at, own.document, own.what,
       (SELECT 1 FROM revision WHERE home_id = home.id AND number = home.revision - 1) AS before,
       (SELECT what FROM revision WHERE home_id = home.id AND number = home.revision + 1) AS after
  FROM home JOIN revision AS own ON own.home_id = home.id AND own.number = home.revision";

impl Store {
    /// All homes, last changed first.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn homes(&self) -> Result<Vec<Stored>, StoreError> {
        let rows = sqlx::query(sqlx::AssertSqlSafe(format!("{SELECT} ORDER BY home.changed_at DESC, home.id")))
            .fetch_all(&self.pool)
            .await?;
        rows.iter().map(stored).collect()
    }

    /// One home.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn home(&self, id: HomeId) -> Result<Stored, StoreError> {
        let mut connection = self.pool.acquire().await?;
        read(&mut connection, id).await
    }

    /// Stores a new home.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the id is taken.
    pub async fn create(&self, id: HomeId, home: &Home, now: jiff::Timestamp) -> Result<Stored, StoreError> {
        self.import(id, home, &[], now).await
    }

    /// Stores a new home with rounds and their runs, as one change.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the id of the home or of a round is taken; then nothing is stored.
    pub async fn import(
        &self,
        id: HomeId,
        home: &Home,
        rounds: &[(Round, Vec<Run>)],
        now: jiff::Timestamp,
    ) -> Result<Stored, StoreError> {
        let mut transaction = self.pool.begin_with(WRITE).await?;
        let taken = sqlx::query("SELECT 1 FROM home WHERE id = ?")
            .bind(id.to_string())
            .fetch_optional(&mut *transaction)
            .await?;
        if taken.is_some() {
            return Err(StoreError::Conflict("A home of this id is already there.".into()));
        }
        sqlx::query("INSERT INTO home (id, revision, changed_at) VALUES (?, 1, ?)")
            .bind(id.to_string())
            .bind(now.to_string())
            .execute(&mut *transaction)
            .await?;
        insert(&mut transaction, id, 1, "new home", home).await?;
        for (round, runs) in rounds {
            insert_round(&mut transaction, id, round).await?;
            for run in runs {
                insert_run(&mut transaction, run).await?;
            }
        }
        let stored = read(&mut transaction, id).await?;
        transaction.commit().await?;
        Ok(stored)
    }

    /// A home with all its rounds and their runs with traces, as they are at one moment.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn export(&self, id: HomeId) -> Result<(Home, Vec<(Round, Vec<Run>)>), StoreError> {
        let mut transaction = self.pool.begin().await?;
        let home = read(&mut transaction, id).await?.home;
        let mut rounds = Vec::new();
        for round in rounds_of(&mut transaction, id).await? {
            let runs = runs_of(&mut transaction, round.id).await?;
            rounds.push((round, runs));
        }
        Ok((home, rounds))
    }

    /// Changes a home by a function, as one revision, in one transaction. Redo is given up.
    ///
    /// `base` is the revision the change was made on; none when the change fits any. The function checks and changes; its
    /// refusal leaves everything as it was. A change that alters nothing makes no revision.
    ///
    /// # Errors
    /// [`StoreError::NotFound`], [`StoreError::Stale`], [`StoreError::Conflict`] when runs would lose their setup or spot, or
    /// the refusal of `change`.
    pub async fn change<E: From<StoreError>>(
        &self,
        id: HomeId,
        base: Option<i64>,
        what: &str,
        now: jiff::Timestamp,
        change: impl FnOnce(&mut Home) -> Result<(), E>,
    ) -> Result<Stored, E> {
        let mut transaction = self.pool.begin_with(WRITE).await.map_err(StoreError::from)?;
        let before = read(&mut transaction, id).await?;
        if base.is_some_and(|base| base != before.revision) {
            return Err(StoreError::Stale.into());
        }
        let mut home = before.home.clone();
        change(&mut home)?;
        if home == before.home {
            return Ok(before);
        }
        keeps_readings(&mut transaction, id, &home).await?;
        let stored = commit_revision(&mut transaction, id, before.revision + 1, what, &home, now).await?;
        transaction.commit().await.map_err(StoreError::from)?;
        Ok(stored)
    }

    /// Goes one revision back.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when there is nothing to undo, or runs would lose their setup or spot.
    pub async fn undo(&self, id: HomeId, now: jiff::Timestamp) -> Result<Stored, StoreError> {
        self.step(id, -1, "There is nothing to undo.", now).await
    }

    /// Goes one revision forward again.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when there is nothing to redo, or runs would lose their setup or spot.
    pub async fn redo(&self, id: HomeId, now: jiff::Timestamp) -> Result<Stored, StoreError> {
        self.step(id, 1, "There is nothing to redo.", now).await
    }

    async fn step(&self, id: HomeId, by: i64, nothing: &str, now: jiff::Timestamp) -> Result<Stored, StoreError> {
        let mut transaction = self.pool.begin_with(WRITE).await?;
        let from = read(&mut transaction, id).await?;
        let row = sqlx::query("SELECT document FROM revision WHERE home_id = ? AND number = ?")
            .bind(id.to_string())
            .bind(from.revision + by)
            .fetch_optional(&mut *transaction)
            .await?
            .ok_or_else(|| StoreError::Conflict(nothing.into()))?;
        let home: Home = serde_json::from_str(row.try_get("document")?)?;
        keeps_readings(&mut transaction, id, &home).await?;
        point_to(&mut transaction, id, from.revision + by, now).await?;
        let stored = read(&mut transaction, id).await?;
        transaction.commit().await?;
        Ok(stored)
    }

    /// Deletes a home with all its revisions, rounds and runs.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn delete(&self, id: HomeId) -> Result<(), StoreError> {
        let done = sqlx::query("DELETE FROM home WHERE id = ?").bind(id.to_string()).execute(&self.pool).await?;
        if done.rows_affected() == 0 { Err(StoreError::NotFound("home")) } else { Ok(()) }
    }
}

async fn read(connection: &mut SqliteConnection, id: HomeId) -> Result<Stored, StoreError> {
    let row = sqlx::query(sqlx::AssertSqlSafe(format!("{SELECT} WHERE home.id = ?")))
        .bind(id.to_string())
        .fetch_optional(connection)
        .await?
        .ok_or(StoreError::NotFound("home"))?;
    stored(&row)
}

fn stored(row: &sqlx::sqlite::SqliteRow) -> Result<Stored, StoreError> {
    let before: Option<i64> = row.try_get("before")?;
    let what: String = row.try_get("what")?;
    Ok(Stored {
        id: parsed(row.try_get("id")?)?,
        revision: row.try_get("revision")?,
        changed_at: parsed(row.try_get("changed_at")?)?,
        home: serde_json::from_str(row.try_get("document")?)?,
        can_undo: before.map(|_| what),
        can_redo: row.try_get("after")?,
    })
}

/// Reads a value that this program itself wrote as text.
pub(crate) fn parsed<T: std::str::FromStr>(text: &str) -> Result<T, StoreError>
where
    T::Err: std::error::Error + Send + Sync + 'static,
{
    text.parse().map_err(|error: T::Err| StoreError::Database(sqlx::Error::Decode(Box::new(error))))
}

async fn insert(
    connection: &mut SqliteConnection,
    id: HomeId,
    number: i64,
    what: &str,
    home: &Home,
) -> Result<(), StoreError> {
    sqlx::query("INSERT INTO revision (home_id, number, what, document) VALUES (?, ?, ?, ?)")
        .bind(id.to_string())
        .bind(number)
        .bind(what)
        .bind(serde_json::to_string(home)?)
        .execute(connection)
        .await?;
    Ok(())
}

async fn commit_revision(
    connection: &mut SqliteConnection,
    id: HomeId,
    number: i64,
    what: &str,
    home: &Home,
    now: jiff::Timestamp,
) -> Result<Stored, StoreError> {
    sqlx::query("DELETE FROM revision WHERE home_id = ? AND (number >= ? OR number <= ?)")
        .bind(id.to_string())
        .bind(number)
        .bind(number - KEPT)
        .execute(&mut *connection)
        .await?;
    insert(connection, id, number, what, home).await?;
    point_to(connection, id, number, now).await?;
    read(connection, id).await
}

async fn point_to(
    connection: &mut SqliteConnection,
    id: HomeId,
    number: i64,
    now: jiff::Timestamp,
) -> Result<(), StoreError> {
    sqlx::query("UPDATE home SET revision = ?, changed_at = ? WHERE id = ?")
        .bind(number)
        .bind(now.to_string())
        .bind(id.to_string())
        .execute(connection)
        .await?;
    Ok(())
}

/// Refuses a home that drops a setup or spot that rounds or runs belong to.
async fn keeps_readings(connection: &mut SqliteConnection, id: HomeId, home: &Home) -> Result<(), StoreError> {
    let rows = sqlx::query("SELECT setup_id, count(*) AS rounds FROM round WHERE home_id = ? GROUP BY setup_id")
        .bind(id.to_string())
        .fetch_all(&mut *connection)
        .await?;
    for row in rows {
        let setup: SetupId = parsed(row.try_get("setup_id")?)?;
        if home.setup(setup).is_none() {
            let rounds: i64 = row.try_get("rounds")?;
            return Err(StoreError::Conflict(format!(
                "A setup with {rounds} round(s) of tests would be lost; keep the setup, or delete its rounds first."
            )));
        }
    }
    let rows = sqlx::query(
        "SELECT run.spot_id, count(*) AS runs FROM run JOIN round ON round.id = run.round_id
          WHERE round.home_id = ? GROUP BY run.spot_id",
    )
    .bind(id.to_string())
    .fetch_all(&mut *connection)
    .await?;
    for row in rows {
        let spot: SpotId = parsed(row.try_get("spot_id")?)?;
        if home.house.spots.iter().all(|own| own.id != spot) {
            let runs: i64 = row.try_get("runs")?;
            return Err(StoreError::Conflict(format!(
                "A room or spot with {runs} test run(s) would be lost; keep its line, or delete its rounds first."
            )));
        }
    }
    Ok(())
}
