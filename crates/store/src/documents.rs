//! Drills that were run and notes on devices: each is written once and never changed.

use std::fmt::Display;

use busy_hen_home::{DeviceNote, Drill, DrillId, Home, HomeId, NoteId};
use serde::Serialize;
use serde::de::DeserializeOwned;
use serde_json::Value;

use crate::room::has_room;
use crate::rows::documents::{DEVICE_NOTES, DRILLS, Documents, with_home};
use crate::rows::homes::{count_readings, read};
use crate::{Store, StoreError};

impl Store {
    /// Keeps a drill. One that is there already is left as it was, so that sending twice keeps once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home or its setup is not there, [`StoreError::Conflict`] when the id is taken.
    pub async fn add_drill(&self, home: HomeId, drill: &Drill) -> Result<(), StoreError> {
        let fits = |home: &Home| home.setup(drill.setup_id).map(|_| ()).ok_or(StoreError::NotFound("setup"));
        self.add_document(&DRILLS, home, (drill.id, drill), fits).await
    }

    /// Takes a drill away for good.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn remove_drill(&self, id: DrillId) -> Result<(), StoreError> {
        self.remove_document(&DRILLS, id).await
    }

    /// Drills of a home.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn drills(&self, home: HomeId) -> Result<Vec<Drill>, StoreError> {
        DRILLS.of_home(&mut *self.readers.acquire().await?, home).await
    }

    /// Drills of all homes, each with its home.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn all_drills(&self) -> Result<Vec<(HomeId, Drill)>, StoreError> {
        let query = "SELECT home_id, drill.document FROM drill JOIN home ON home.id = home_id WHERE arriving = 0 AND deleted = 0 ORDER BY drill.id";
        sqlx::query(query).fetch_all(&self.readers).await?.iter().map(with_home).collect()
    }

    /// Keeps a note on a device. One that is there already is left as it was, so that sending twice keeps once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when home, setup or device is not there, [`StoreError::Conflict`] when the id is taken.
    pub async fn add_device_note(&self, home: HomeId, note: &DeviceNote) -> Result<(), StoreError> {
        let fits = |home: &Home| {
            let setup = home.setup(note.setup_id).ok_or(StoreError::NotFound("setup"))?;
            setup.device(note.device_id).map(|_| ()).ok_or(StoreError::NotFound("device"))
        };
        self.add_document(&DEVICE_NOTES, home, (note.id, note), fits).await
    }

    /// Takes a note away for good.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn remove_device_note(&self, id: NoteId) -> Result<(), StoreError> {
        self.remove_document(&DEVICE_NOTES, id).await
    }

    /// Notes on devices of a home, in the order of time.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn device_notes(&self, home: HomeId) -> Result<Vec<DeviceNote>, StoreError> {
        DEVICE_NOTES.of_home(&mut *self.readers.acquire().await?, home).await
    }

    async fn add_document<T: Serialize + DeserializeOwned + PartialEq>(
        &self,
        table: &Documents,
        home: HomeId,
        (id, own): (impl Display, &T),
        fits: impl Fn(&Home) -> Result<(), StoreError>,
    ) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                let stored = read(connection, home).await?;
                if let Some((its_home, there)) = table.of_id::<T>(connection, &id).await? {
                    let told = format!("Another {} has this id already; give this one its own.", table.name);
                    return if its_home == home && there == *own { Ok(()) } else { Err(StoreError::Conflict(told)) };
                }
                fits(&stored.home)?;
                table.insert(connection, home, (&id, own)).await?;
                has_room(connection, home).await?;
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }

    async fn remove_document(&self, table: &Documents, id: impl Display) -> Result<(), StoreError> {
        let home = self
            .writer
            .write(async |connection| {
                let found = table.of_id::<Value>(connection, &id).await?;
                let (home, _) = found.ok_or(StoreError::NotFound(table.name))?;
                table.delete(connection, &id).await?;
                count_readings(connection, home).await?;
                Ok::<_, StoreError>(home)
            })
            .await?;
        self.forget_log().await;
        self.tell(home);
        Ok(())
    }
}
