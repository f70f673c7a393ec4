//! How much a home holds of what its file may: refused while it is added, so that what goes out as a file also comes in again.

use busy_hen_home::{FILE_LIMIT, HomeId};
use sqlx::{Row, SqliteConnection};

use crate::{Store, StoreError};

/// What is left for changes of the home itself, and for what stands around things in a file, bytes.
const SPARE: u64 = 16 * 1024 * 1024;
/// Most that a home may hold, bytes.
pub const ROOM: u64 = FILE_LIMIT - SPARE;

/// What a home takes in its file, and no less: pictures stand there in base64, and each round with the home that it was taken in.
const HELD: &str = "SELECT
    (SELECT octet_length(document) FROM revision JOIN home ON home.id = home_id AND home.revision = number WHERE home_id = ?1)
  + (SELECT coalesce(sum(held.bytes + octet_length(round.document) + octet_length(round.tested) + octet_length(frozen.document)), 0)
       FROM round JOIN held ON held.round_id = round.id JOIN frozen ON frozen.id = round.frozen_id
      WHERE round.home_id = ?1 AND round.deleted_in IS NULL)
  + (SELECT coalesce(sum(octet_length(document) + (octet_length(jpeg) + 2) / 3 * 4), 0) FROM picture WHERE home_id = ?1)
  + (SELECT coalesce(sum(octet_length(document)), 0) FROM tick WHERE home_id = ?1 AND taken_back = 0)
  + (SELECT coalesce(sum(octet_length(document)), 0) FROM drill WHERE home_id = ?1)
  + (SELECT coalesce(sum(octet_length(document)), 0) FROM watch WHERE home_id = ?1)
  + (SELECT coalesce(sum(octet_length(document)), 0) FROM device_note WHERE home_id = ?1)";

/// What a home holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Held {
    /// Pictures.
    pub pictures: u64,
    /// Bytes of its file, or some more.
    pub bytes: u64,
}

async fn held(connection: &mut SqliteConnection, home: HomeId) -> Result<u64, StoreError> {
    let bytes: i64 = sqlx::query(HELD).bind(home.to_string()).fetch_one(connection).await?.try_get(0)?;
    Ok(bytes.try_into().unwrap_or(0))
}

/// Refuses what makes a home hold more than its file may; within the transaction that added it.
pub(crate) async fn has_room(connection: &mut SqliteConnection, home: HomeId) -> Result<(), StoreError> {
    if held(connection, home).await? <= ROOM {
        return Ok(());
    }
    Err(StoreError::Conflict(format!(
        "This home is full: a home file holds {} MB. Save a copy, then delete monitors, pictures or rounds that you don’t need.",
        ROOM >> 20
    )))
}

impl Store {
    /// What a home holds, of the [`ROOM`] that there is.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn held(&self, home: HomeId) -> Result<Held, StoreError> {
        let mut connection = self.readers.acquire().await?;
        let pictures: i64 = sqlx::query("SELECT count(*) FROM picture WHERE home_id = ?")
            .bind(home.to_string())
            .fetch_one(&mut *connection)
            .await?
            .try_get(0)?;
        let bytes = held(&mut connection, home).await?;
        Ok(Held { pictures: pictures.try_into().unwrap_or(0), bytes })
    }
}
