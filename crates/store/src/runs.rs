//! Runs of rounds.

use busy_hen_home::{HomeId, RoundId, Run, RunId, Source, SpotId};
use jiff::Timestamp;
use sqlx::Row;

use crate::editor::Editor;
use crate::room::has_room;
use crate::rows::homes::{count_readings, read};
use crate::rows::parsed;
use crate::rows::rounds::record_of;
use crate::rows::runs::{insert_run, live_run, run_of_row, stored_run, untraced, update_run};
use crate::steps::{By, Effect, append};
use crate::{RoundRecord, Store, StoreError};

impl Store {
    /// Stores runs of a round, all or none, and gives them back as they are kept. A run that is there already is left as it was, so
    /// that sending twice keeps once. Raw samples go with the run that they are of. Runs that were typed in are a step that their editor can undo; others are not.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the round is not there, [`StoreError::Conflict`] when the id of a run is taken by another one, or the home
    /// has no room.
    pub async fn add_runs(
        &self,
        round: RoundId,
        runs: &[Run],
        samples: &[(RunId, Vec<u8>)],
        step: Option<(&str, &Editor, Timestamp)>,
    ) -> Result<Vec<Run>, StoreError> {
        let (home, kept) = self
            .writer
            .write(async |connection| {
                let (home, _) = record_of(connection, round).await?;
                let mut kept = Vec::with_capacity(runs.len());
                let mut typed = Vec::new();
                let mut fresh = false;
                for run in runs {
                    let there = stored_run(connection, run.id).await?;
                    match there {
                        Some(there) if same_reading(&there, run) => kept.push(there),
                        Some(_) => {
                            return Err(StoreError::Conflict(format!(
                                "Another run has the id {} already; give this one an id of its own.",
                                run.id
                            )));
                        }
                        None => {
                            insert_run(connection, run).await?;
                            fresh = true;
                            typed.extend((run.source == Source::Typed).then_some(run.id));
                            kept.push(run.clone());
                        }
                    }
                }
                for (run, gzip) in samples {
                    sqlx::query("INSERT INTO sample (run_id, gzip) VALUES (?, ?) ON CONFLICT DO NOTHING")
                        .bind(run.to_string())
                        .bind(gzip.as_slice())
                        .execute(&mut *connection)
                        .await?;
                }
                if let Some((what, editor, now)) = step.filter(|_| !typed.is_empty()) {
                    let stored = read(connection, home).await?;
                    let effects = vec![Effect::RunsTyped { runs: typed }];
                    append(connection, &stored, &stored.home, what, By::of(editor, now), effects).await?;
                }
                if fresh {
                    has_room(connection, home).await?;
                    count_readings(connection, home).await?;
                }
                Ok((home, kept))
            })
            .await?;
        self.tell(home);
        Ok(kept)
    }

    /// The newest runs of a round with their traces, in the order they were taken: at one spot or at all, before one or up to the
    /// last, at most so many.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn runs(
        &self,
        round: RoundId,
        spot: Option<SpotId>,
        before: Option<RunId>,
        most: u32,
    ) -> Result<Vec<Run>, StoreError> {
        let rows = sqlx::query(
            "SELECT document, trace FROM run WHERE round_id = ?1 AND removed_in IS NULL AND (?2 IS NULL OR spot_id = ?2)
                AND (?3 IS NULL OR (at, id) < (SELECT at, id FROM run WHERE id = ?3))
              ORDER BY at DESC, id DESC LIMIT ?4",
        )
        .bind(round.to_string())
        .bind(spot.map(|spot| spot.to_string()))
        .bind(before.map(|run| run.to_string()))
        .bind(most)
        .fetch_all(&self.readers)
        .await?;
        rows.iter().rev().map(run_of_row).collect()
    }

    /// The home that a run belongs to.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn home_of_run(&self, id: RunId) -> Result<HomeId, StoreError> {
        let row = sqlx::query(
            "SELECT round.home_id FROM run JOIN round ON round.id = run.round_id
                                      JOIN home ON home.id = round.home_id AND home.deleted = 0 WHERE run.id = ?",
        )
        .bind(id.to_string())
        .fetch_optional(&self.readers)
        .await?
        .ok_or(StoreError::NotFound("run"))?;
        parsed(row.try_get(0)?)
    }

    /// All runs of a round in the order they were taken, without their traces.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn runs_of_round(&self, round: RoundId) -> Result<Vec<Run>, StoreError> {
        // One row: thousands of rows of their own would cost more than reading what is in them.
        let row = sqlx::query(
            "SELECT '[' || coalesce(group_concat(document, ',' ORDER BY at, id), '') || ']' AS documents
               FROM run WHERE round_id = ? AND removed_in IS NULL",
        )
        .bind(round.to_string())
        .fetch_one(&self.readers)
        .await?;
        Ok(serde_json::from_str(row.try_get("documents")?)?)
    }

    /// Changes a run by a function, as a step that its editor can undo: struck, counted again, or corrected.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id, or the refusal of `change`.
    pub async fn change_run<E: From<StoreError>>(
        &self,
        id: RunId,
        what: &str,
        (editor, now): (&Editor, Timestamp),
        change: impl FnOnce(&RoundRecord, &mut Run) -> Result<(), E>,
    ) -> Result<(HomeId, Run), E> {
        let (home, run) = self
            .writer
            .write(async |connection| {
                let before = live_run(connection, id).await?;
                let (home, record) = record_of(connection, before.round_id).await?;
                let mut after = before.clone();
                change(&record, &mut after)?;
                if after == before {
                    return Ok((home, after));
                }
                update_run(connection, &after).await?;
                let stored = read(connection, home).await?;
                let effects =
                    vec![Effect::RunChanged { before: Box::new(untraced(&before)), after: Box::new(untraced(&after)) }];
                append(connection, &stored, &stored.home, what, By::of(editor, now), effects).await?;
                count_readings(connection, home).await?;
                Ok::<_, E>((home, after))
            })
            .await?;
        self.tell(home);
        Ok((home, run))
    }
}

/// Whether two runs are one reading sent twice: all that its sender said is alike.
fn same_reading(there: &Run, sent: &Run) -> bool {
    let said = |run: &Run| Run {
        at: Timestamp::UNIX_EPOCH,
        plan_id: None,
        void: None,
        outcome: run.corrected.first().map_or_else(|| run.outcome.clone(), |first| first.was.clone()),
        corrected: Vec::new(),
        ..run.clone()
    };
    said(there) == said(sent)
}
