//! Whole homes in and out.

use busy_hen_home::{Home, HomeId, Run};
use jiff::Timestamp;
use sqlx::{Connection, SqliteConnection};

use crate::rows::homes::{Stored, read};
use crate::rows::rounds::{insert, rounds_of};
use crate::rows::runs::{insert_run, runs_of};
use crate::steps::write_first;
use crate::{RoundRecord, Store, StoreError};

/// Runs that are stored before other writers get their turn.
const RUNS_AT_ONCE: usize = 2000;

/// A home with its rounds and their runs.
pub type Whole = (Home, Vec<(RoundRecord, Vec<Run>)>);

impl Store {
    /// Stores a new home.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the id is taken.
    pub async fn create(&self, id: HomeId, home: &Home, now: Timestamp) -> Result<Stored, StoreError> {
        self.import(id, &(home.clone(), Vec::new()), now).await
    }

    /// Stores new homes, all or none.
    ///
    /// # Errors
    /// As [`Store::import`].
    pub async fn create_all(&self, homes: &[(HomeId, Whole)], now: Timestamp) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                for (id, (home, rounds)) in homes {
                    begin(connection, *id, home, now).await?;
                    for (record, runs) in rounds {
                        insert(connection, *id, record).await?;
                        for run in runs {
                            insert_run(connection, run).await?;
                        }
                    }
                    arrived(connection, *id).await?;
                }
                Ok::<_, StoreError>(())
            })
            .await?;
        homes.iter().for_each(|(id, _)| self.tell(*id));
        Ok(())
    }

    /// Stores a new home with rounds and their runs. Many runs are stored piece by piece, so that other writers get their turn; the
    /// home is there for others only when all of it is, and goes at the next start when it never was.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the id of the home, of a round or of a run is taken; then nothing is stored.
    pub async fn import(&self, id: HomeId, (home, rounds): &Whole, now: Timestamp) -> Result<Stored, StoreError> {
        let stored = self.import_in_pieces(id, home, rounds, now).await;
        if stored.is_err() {
            let drop_it = async |connection: &mut SqliteConnection| {
                sqlx::query("DELETE FROM home WHERE id = ? AND arriving = 1")
                    .bind(id.to_string())
                    .execute(connection)
                    .await?;
                Ok::<_, StoreError>(())
            };
            self.writer.write(drop_it).await?;
        }
        self.tell(id);
        stored
    }

    async fn import_in_pieces(
        &self,
        id: HomeId,
        home: &Home,
        rounds: &[(RoundRecord, Vec<Run>)],
        now: Timestamp,
    ) -> Result<Stored, StoreError> {
        let few = rounds.iter().map(|(_, runs)| runs.len()).sum::<usize>() <= RUNS_AT_ONCE;
        let runs = || rounds.iter().flat_map(|(_, runs)| runs);
        let stored = self
            .writer
            .write(async |connection| {
                begin(connection, id, home, now).await?;
                for (record, _) in rounds {
                    insert(connection, id, record).await?;
                }
                if few {
                    for run in runs() {
                        insert_run(connection, run).await?;
                    }
                    arrived(connection, id).await?;
                    return read(connection, id).await.map(Some);
                }
                Ok(None)
            })
            .await?;
        if let Some(stored) = stored {
            return Ok(stored);
        }
        let runs: Vec<&Run> = runs().collect();
        for piece in runs.chunks(RUNS_AT_ONCE) {
            self.writer
                .write(async |connection| {
                    for run in piece {
                        insert_run(connection, run).await?;
                    }
                    Ok::<_, StoreError>(())
                })
                .await?;
        }
        self.writer
            .write(async |connection| {
                arrived(connection, id).await?;
                read(connection, id).await
            })
            .await
    }

    /// A home with all its rounds and their runs with traces, as they are at one moment.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn export(&self, id: HomeId) -> Result<Whole, StoreError> {
        let mut connection = self.readers.acquire().await?;
        let mut transaction = connection.begin().await?;
        let home = read(&mut transaction, id).await?.home;
        let mut rounds = Vec::new();
        for record in rounds_of(&mut transaction, id).await? {
            let runs = runs_of(&mut transaction, record.round.id).await?;
            rounds.push((record, runs));
        }
        Ok((home, rounds))
    }
}

async fn begin(connection: &mut SqliteConnection, id: HomeId, home: &Home, now: Timestamp) -> Result<(), StoreError> {
    let done =
        sqlx::query("INSERT INTO home (id, revision, changed_at, arriving) VALUES (?, 1, ?, 1) ON CONFLICT DO NOTHING")
            .bind(id.to_string())
            .bind(now.to_string())
            .execute(&mut *connection)
            .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Conflict("A home of this id is already there.".into()));
    }
    write_first(connection, id, home, now).await
}

async fn arrived(connection: &mut SqliteConnection, id: HomeId) -> Result<(), StoreError> {
    sqlx::query("UPDATE home SET arriving = 0 WHERE id = ?").bind(id.to_string()).execute(connection).await?;
    Ok(())
}
