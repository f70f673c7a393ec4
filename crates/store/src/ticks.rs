//! What became of the steps of run sheets.

use busy_hen_home::{HomeId, SetupId, Tick, TickOutcome};
use jiff::Timestamp;

use crate::rows::homes::{count_readings, read};
use crate::rows::ticks::{put, ticks_of, word_on};
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
                    let known = word_on(connection, home, (tick.setup_id, &tick.step)).await?;
                    if known.is_none_or(|known| known.at <= tick.at) {
                        put(connection, home, tick, false).await?;
                    }
                }
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }

    /// Takes back what was said of a step up to this moment; an earlier word that arrives later does not count any more.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there.
    pub async fn untick(&self, home: HomeId, (setup, step): (SetupId, &str), at: Timestamp) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                read(connection, home).await?;
                let known = word_on(connection, home, (setup, step)).await?;
                if known.is_some_and(|known| known.at > at) {
                    return Ok(());
                }
                let word = Tick {
                    setup_id: setup,
                    step: step.to_owned(),
                    outcome: TickOutcome::Done,
                    at,
                    by: String::new(),
                    note: String::new(),
                };
                put(connection, home, &word, true).await?;
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
