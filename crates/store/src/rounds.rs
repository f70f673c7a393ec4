//! Rounds, each with what it was taken in.

use busy_hen_home::{HomeId, Round, RoundId};
use jiff::Timestamp;
use sqlx::Row;

use crate::editor::Editor;
use crate::kit_addresses::say_kit_address;
use crate::room::has_room;
use crate::rows::homes::{count_readings, read};
use crate::rows::parsed;
use crate::rows::rounds::{insert, record_of, set_deleted, update};
use crate::steps::{By, Effect, append};
use crate::{RoundRecord, Store, StoreError};

impl Store {
    /// Stores a new round of a home that stands at this revision, as a step of this editor. Whoever begins it says the address of its kit's report
    /// by that.
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
                has_room(connection, home).await?;
                if let Some(address) = record.round.on_record.as_ref().and_then(|own| own.kit_report.as_deref()) {
                    say_kit_address(connection, home, address).await?;
                }
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

    /// The rounds of a home, first begun first, each with a number that goes up with every change of it and of its runs.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn round_numbers(&self, home: HomeId) -> Result<Vec<(RoundId, i64)>, StoreError> {
        let rows = sqlx::query(
            "SELECT round.id, held.number FROM round JOIN held ON held.round_id = round.id
              WHERE round.home_id = ? AND round.deleted_in IS NULL ORDER BY round.begun, round.id",
        )
        .bind(home.to_string())
        .fetch_all(&self.readers)
        .await?;
        rows.iter().map(|row| Ok((parsed(row.try_get("id")?)?, row.try_get("number")?))).collect()
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
