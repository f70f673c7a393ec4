//! What became of the steps of run sheets.

use busy_hen_home::{HomeId, SetupId, Tick};
use jiff::Timestamp;
use sqlx::SqliteConnection;

use crate::rows::homes::{count_readings, read};
use crate::rows::ticks::{put, remove, ticks_of};
use crate::{Store, StoreError};

impl Store {
    /// Keeps what became of steps, all of it or nothing, in the place of what was said of them before: the newest word counts, whenever
    /// it arrives.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home or its setup is not there.
    pub async fn tick(&self, home: HomeId, ticks: &[Tick]) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let stored = read(connection, home).await?;
                for tick in ticks {
                    stored.home.setup(tick.setup_id).ok_or(StoreError::NotFound("setup"))?;
                    if !newer_than(connection, home, (tick.setup_id, &tick.step), tick.at).await? {
                        put(connection, home, tick).await?;
                    }
                }
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }

    /// Takes back what was said of a step up to this moment; nothing where nothing was.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there.
    pub async fn untick(&self, home: HomeId, (setup, step): (SetupId, &str), at: Timestamp) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                read(connection, home).await?;
                if newer_than(connection, home, (setup, step), at).await? {
                    return Ok(());
                }
                remove(connection, home, (setup, step)).await?;
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }

    /// What became of the steps of a home's run sheets.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn ticks(&self, home: HomeId) -> Result<Vec<Tick>, StoreError> {
        ticks_of(&mut *self.readers.acquire().await?, home).await
    }
}

/// Whether something was said of a step after this moment.
async fn newer_than(
    connection: &mut SqliteConnection,
    home: HomeId,
    (setup, step): (SetupId, &str),
    at: Timestamp,
) -> Result<bool, StoreError> {
    let known = ticks_of(connection, home).await?;
    Ok(known.iter().any(|own| own.setup_id == setup && own.step == step && own.at > at))
}
