//! Addresses of kit reports that somebody at this bench has said: only those are asked.

use busy_hen_home::HomeId;
use sqlx::SqliteConnection;

use crate::{Store, StoreError};

pub(crate) async fn say_kit_address(
    connection: &mut SqliteConnection,
    home: HomeId,
    address: &str,
) -> Result<(), StoreError> {
    sqlx::query("INSERT INTO kit_address (home_id, address) VALUES (?, ?) ON CONFLICT DO NOTHING")
        .bind(home.to_string())
        .bind(address)
        .execute(connection)
        .await?;
    Ok(())
}

impl Store {
    /// Whether somebody has said that this address is the kit's of this home.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn kit_address_is_said(&self, home: HomeId, address: &str) -> Result<bool, StoreError> {
        let row = sqlx::query("SELECT 1 FROM kit_address WHERE home_id = ? AND address = ?")
            .bind(home.to_string())
            .bind(address)
            .fetch_optional(&self.readers)
            .await?;
        Ok(row.is_some())
    }

    /// Keeps that somebody has said so.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn say_kit_address(&self, home: HomeId, address: &str) -> Result<(), StoreError> {
        self.writer.write(async |connection| say_kit_address(connection, home, address).await).await?;
        self.tell(home);
        Ok(())
    }
}
