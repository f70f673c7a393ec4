//! Pictures of spots and devices.

use busy_hen_home::{HomeId, Picture, PictureId};
use sqlx::Row;

use crate::room::has_room;
use crate::rows::homes::{count_readings, read};
use crate::rows::parsed;
use crate::rows::pictures::{insert_picture, jpeg_of, pictures_of};
use crate::{Store, StoreError};

/// Most pictures of one home.
const PICTURES_MOST: i64 = 200;
/// Most that they take together, bytes: a home file holds them too.
const BYTES_MOST: i64 = 30 * 1024 * 1024;

impl Store {
    /// Stores a picture of a home. The same one that is there already is left as it was, so that sending twice keeps once.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there, [`StoreError::Conflict`] when it has pictures enough or another one has the id.
    pub async fn add_picture(&self, home: HomeId, picture: &Picture, jpeg: &[u8]) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                read(connection, home).await?;
                let there = sqlx::query("SELECT home_id, document, jpeg FROM picture WHERE id = ?")
                    .bind(picture.id.to_string())
                    .fetch_optional(&mut *connection)
                    .await?;
                if let Some(row) = there {
                    let own: HomeId = parsed(row.try_get("home_id")?)?;
                    let same: Picture = serde_json::from_str(row.try_get("document")?)?;
                    let there: &[u8] = row.try_get("jpeg")?;
                    // A phone's clock that was put right is not off by quite the same each time.
                    let same = Picture { at: picture.at, ..same };
                    if own == home && same == *picture && there == jpeg {
                        return Ok(());
                    }
                    return Err(StoreError::Conflict(
                        "Another picture has this id already; give this one its own.".into(),
                    ));
                }
                let row = sqlx::query("SELECT COUNT(*), COALESCE(SUM(LENGTH(jpeg)), 0) FROM picture WHERE home_id = ?")
                    .bind(home.to_string())
                    .fetch_one(&mut *connection)
                    .await?;
                let (count, bytes): (i64, i64) = (row.try_get(0)?, row.try_get(1)?);
                if count >= PICTURES_MOST || bytes + jpeg.len() as i64 > BYTES_MOST {
                    return Err(StoreError::Conflict(format!(
                        "This home has {count} pictures, as many as are kept; take some away at the bench first."
                    )));
                }
                insert_picture(connection, home, picture, jpeg).await?;
                has_room(connection, home).await?;
                count_readings(connection, home).await
            })
            .await?;
        self.tell(home);
        Ok(())
    }

    /// What is known of a home's pictures, in the order they were taken.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when the home is not there.
    pub async fn pictures(&self, home: HomeId) -> Result<Vec<Picture>, StoreError> {
        let mut connection = self.readers.acquire().await?;
        read(&mut connection, home).await?;
        pictures_of(&mut connection, home).await
    }

    /// The picture itself, a JPEG.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn jpeg(&self, picture: PictureId) -> Result<Vec<u8>, StoreError> {
        jpeg_of(&mut *self.readers.acquire().await?, picture).await
    }

    /// Takes a picture away for good.
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id.
    pub async fn remove_picture(&self, picture: PictureId) -> Result<(), StoreError> {
        let home = self
            .writer
            .write(async |connection| {
                let row = sqlx::query("DELETE FROM picture WHERE id = ? RETURNING home_id")
                    .bind(picture.to_string())
                    .fetch_optional(&mut *connection)
                    .await?
                    .ok_or(StoreError::NotFound("picture"))?;
                let home: HomeId = parsed(row.try_get("home_id")?)?;
                count_readings(connection, home).await?;
                Ok::<_, StoreError>(home)
            })
            .await?;
        self.forget_log().await;
        self.tell(home);
        Ok(())
    }
}
