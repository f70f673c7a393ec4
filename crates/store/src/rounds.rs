//! Rounds and their runs.

use std::collections::HashMap;

use busy_hen_home::{HomeId, Round, RoundId, Run, RunId};
use sqlx::{Row, SqliteConnection};

use crate::homes::parsed;
use crate::{Store, StoreError, WRITE};

impl Store {
    /// Stores a new round of a home.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there, [`StoreError::Conflict`] when the id is taken.
    pub async fn create_round(&self, home: HomeId, round: &Round) -> Result<(), StoreError> {
        let mut transaction = self.pool.begin_with(WRITE).await?;
        let there = sqlx::query("SELECT 1 FROM home WHERE id = ?").bind(home.to_string());
        if there.fetch_optional(&mut *transaction).await?.is_none() {
            return Err(StoreError::NotFound("home"));
        }
        insert_round(&mut transaction, home, round).await?;
        transaction.commit().await?;
        Ok(())
    }

    /// A round with the home it belongs to.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn round(&self, id: RoundId) -> Result<(HomeId, Round), StoreError> {
        let row = sqlx::query("SELECT home_id, document FROM round WHERE id = ?")
            .bind(id.to_string())
            .fetch_optional(&self.pool)
            .await?
            .ok_or(StoreError::NotFound("round"))?;
        Ok((parsed(row.try_get("home_id")?)?, serde_json::from_str(row.try_get("document")?)?))
    }

    /// All rounds of a home, first begun first.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn rounds(&self, home: HomeId) -> Result<Vec<Round>, StoreError> {
        rounds_of(&mut *self.pool.acquire().await?, home).await
    }

    /// Deletes a round with its runs.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn delete_round(&self, id: RoundId) -> Result<(), StoreError> {
        let done = sqlx::query("DELETE FROM round WHERE id = ?").bind(id.to_string()).execute(&self.pool).await?;
        if done.rows_affected() == 0 { Err(StoreError::NotFound("round")) } else { Ok(()) }
    }

    /// Stores runs of a round; a run that is there already is left as it was, so that sending twice keeps once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the round is not there; then none is stored.
    pub async fn add_runs(&self, round: RoundId, runs: &[Run]) -> Result<(), StoreError> {
        let mut transaction = self.pool.begin_with(WRITE).await?;
        let there = sqlx::query("SELECT 1 FROM round WHERE id = ?").bind(round.to_string());
        if there.fetch_optional(&mut *transaction).await?.is_none() {
            return Err(StoreError::NotFound("round"));
        }
        for run in runs {
            insert_run(&mut transaction, run).await?;
        }
        transaction.commit().await?;
        Ok(())
    }

    /// Runs of a round in the order they were taken, with their traces.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn runs(&self, round: RoundId) -> Result<Vec<Run>, StoreError> {
        runs_of(&mut *self.pool.acquire().await?, round).await
    }

    /// Runs of all rounds of a home by round, without their traces.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn runs_of_home(&self, home: HomeId) -> Result<HashMap<RoundId, Vec<Run>>, StoreError> {
        // One row a round: thousands of rows of their own would cost more than reading what is in them.
        let rows = sqlx::query(
            "SELECT run.round_id, '[' || group_concat(run.document, ',' ORDER BY run.at, run.id) || ']' AS documents
               FROM run JOIN round ON round.id = run.round_id WHERE round.home_id = ? GROUP BY run.round_id",
        )
        .bind(home.to_string())
        .fetch_all(&self.pool)
        .await?;
        rows.iter()
            .map(|row| Ok((parsed(row.try_get("round_id")?)?, serde_json::from_str(row.try_get("documents")?)?)))
            .collect()
    }

    /// Marks a run as not counting, with the reason; or as counting again.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn void_run(&self, id: RunId, reason: Option<String>) -> Result<Run, StoreError> {
        let mut transaction = self.pool.begin_with(WRITE).await?;
        let row = sqlx::query("SELECT document FROM run WHERE id = ?")
            .bind(id.to_string())
            .fetch_optional(&mut *transaction)
            .await?
            .ok_or(StoreError::NotFound("run"))?;
        let mut run: Run = serde_json::from_str(row.try_get("document")?)?;
        run.void = reason;
        sqlx::query("UPDATE run SET document = ? WHERE id = ?")
            .bind(serde_json::to_string(&run)?)
            .bind(id.to_string())
            .execute(&mut *transaction)
            .await?;
        transaction.commit().await?;
        Ok(run)
    }
}

pub(crate) async fn rounds_of(connection: &mut SqliteConnection, home: HomeId) -> Result<Vec<Round>, StoreError> {
    let rows = sqlx::query("SELECT document FROM round WHERE home_id = ? ORDER BY begun, id")
        .bind(home.to_string())
        .fetch_all(connection)
        .await?;
    rows.iter().map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).collect()
}

pub(crate) async fn runs_of(connection: &mut SqliteConnection, round: RoundId) -> Result<Vec<Run>, StoreError> {
    let rows = sqlx::query("SELECT document, trace FROM run WHERE round_id = ? ORDER BY at, id")
        .bind(round.to_string())
        .fetch_all(connection)
        .await?;
    rows.iter()
        .map(|row| {
            let mut run: Run = serde_json::from_str(row.try_get("document")?)?;
            run.trace_mbps = serde_json::from_str(row.try_get("trace")?)?;
            Ok(run)
        })
        .collect()
}

pub(crate) async fn insert_round(
    connection: &mut SqliteConnection,
    home: HomeId,
    round: &Round,
) -> Result<(), StoreError> {
    let done = sqlx::query(
        "INSERT INTO round (id, home_id, setup_id, begun, document) VALUES (?, ?, ?, ?, ?)
         ON CONFLICT (id) DO NOTHING",
    )
    .bind(round.id.to_string())
    .bind(home.to_string())
    .bind(round.setup_id.to_string())
    .bind(round.begun.to_string())
    .bind(serde_json::to_string(round)?)
    .execute(connection)
    .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Conflict("A round of this id is already there.".into()));
    }
    Ok(())
}

pub(crate) async fn insert_run(connection: &mut SqliteConnection, run: &Run) -> Result<(), StoreError> {
    let without_trace = Run { trace_mbps: Vec::new(), ..run.clone() };
    sqlx::query(
        "INSERT INTO run (id, round_id, spot_id, at, document, trace) VALUES (?, ?, ?, ?, ?, ?)
         ON CONFLICT (id) DO NOTHING",
    )
    .bind(run.id.to_string())
    .bind(run.round_id.to_string())
    .bind(run.spot_id.to_string())
    .bind(run.at.to_string())
    .bind(serde_json::to_string(&without_trace)?)
    .bind(serde_json::to_string(&run.trace_mbps)?)
    .execute(connection)
    .await?;
    Ok(())
}
