//! Rounds, each with what it was taken in.

use busy_hen_home::{HomeId, Round, RoundId};
use jiff::Timestamp;

use crate::rows::homes::{count_readings, read};
use crate::rows::rounds::{insert, record_of, rounds_of, set_deleted, update};
use crate::steps::{By, Editor, Effect, append};
use crate::{RoundRecord, Store, StoreError};

impl Store {
    /// Stores a new round of a home that stands at this revision, as a step of this editor.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there, [`StoreError::Stale`] when it has changed since the round was made for it,
    /// [`StoreError::Conflict`] when the id is taken.
    pub async fn create_round(
        &self,
        home: HomeId,
        revision: i64,
        record: &RoundRecord,
        what: &str,
        (editor, now): (&Editor, Timestamp),
    ) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let stored = read(connection, home).await?;
                if stored.revision != revision {
                    return Err(StoreError::Stale);
                }
                insert(connection, home, record).await?;
                let effects = vec![Effect::RoundBegun { round: record.round.id }];
                append(connection, &stored, &stored.home, what, By::of(editor, now), effects).await?;
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }

    /// A round with the home it belongs to.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn round(&self, id: RoundId) -> Result<(HomeId, RoundRecord), StoreError> {
        record_of(&mut *self.readers.acquire().await?, id).await
    }

    /// All rounds of a home, first begun first.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn rounds(&self, home: HomeId) -> Result<Vec<RoundRecord>, StoreError> {
        rounds_of(&mut *self.readers.acquire().await?, home).await
    }

    /// Changes what is kept of a round beside its runs, and gives it back as it now is. No step: it is a record, not an edit.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id, or what the change says.
    pub async fn change_round<E: From<StoreError>>(
        &self,
        id: RoundId,
        change: impl FnOnce(&mut Round) -> Result<(), E>,
    ) -> Result<Round, E> {
        let (home, round) = self
            .writer
            .write(async |connection| {
                let (home, RoundRecord { mut round, .. }) = record_of(connection, id).await?;
                change(&mut round)?;
                update(connection, &round).await?;
                count_readings(connection, home).await?;
                Ok::<_, E>((home, round))
            })
            .await?;
        self.tell(home);
        Ok(round)
    }

    /// Deletes a round with its runs, as a step that its editor can undo.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn delete_round(
        &self,
        id: RoundId,
        what: &str,
        (editor, now): (&Editor, Timestamp),
    ) -> Result<HomeId, StoreError> {
        let home = self
            .writer
            .write(async |connection| {
                let (home, _) = record_of(connection, id).await?;
                let stored = read(connection, home).await?;
                let effects = vec![Effect::RoundDeleted { round: id }];
                let number = append(connection, &stored, &stored.home, what, By::of(editor, now), effects).await?;
                set_deleted(connection, id, Some(number)).await?;
                count_readings(connection, home).await?;
                Ok::<_, StoreError>(home)
            })
            .await?;
        self.tell(home);
        Ok(home)
    }
}
