//! The pass phrase of the bench: only its hash is kept.

use sqlx::Row;

use crate::{Store, StoreError};

impl Store {
    /// The hash of the pass phrase; none while none is set.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn lock(&self) -> Result<Option<String>, StoreError> {
        let row = sqlx::query("SELECT hash FROM lock").fetch_optional(&self.readers).await?;
        Ok(row.map(|row| row.try_get("hash")).transpose()?)
    }

    /// Keeps the hash of the first pass phrase; false when one is set already.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn set_lock(&self, hash: &str) -> Result<bool, StoreError> {
        self.writer
            .write(async |connection| {
                let done = sqlx::query("INSERT INTO lock (id, hash) VALUES (1, ?) ON CONFLICT DO NOTHING")
                    .bind(hash)
                    .execute(connection)
                    .await?;
                Ok(done.rows_affected() > 0)
            })
            .await
    }

    /// Keeps the hash of a pass phrase in place of the one before.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn replace_lock(&self, hash: &str) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                sqlx::query(
                    "INSERT INTO lock (id, hash) VALUES (1, ?) ON CONFLICT (id) DO UPDATE SET hash = excluded.hash",
                )
                .bind(hash)
                .execute(connection)
                .await?;
                Ok(())
            })
            .await
    }

    /// Forgets the pass phrase, for whoever holds the database file.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn forget_lock(&self) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                sqlx::query("DELETE FROM lock").execute(connection).await?;
                Ok(())
            })
            .await
    }
}
