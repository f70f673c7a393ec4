//! The far end of internet tests, as it was noted at the bench.

use sqlx::Row;

use crate::{Store, StoreError};

impl Store {
    /// Address and token of the far end; none where none is noted.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn far_end(&self) -> Result<Option<(String, String)>, StoreError> {
        let row = sqlx::query("SELECT url, token FROM far_end").fetch_optional(&self.readers).await?;
        Ok(row.map(|row| Ok::<_, sqlx::Error>((row.try_get("url")?, row.try_get("token")?))).transpose()?)
    }

    /// Notes address and token of the far end in place of those before; none forgets them.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn note_far_end(&self, far_end: Option<(&str, &str)>) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                sqlx::query("DELETE FROM far_end").execute(&mut *connection).await?;
                if let Some((url, token)) = far_end {
                    sqlx::query("INSERT INTO far_end (id, url, token) VALUES (1, ?, ?)")
                        .bind(url)
                        .bind(token)
                        .execute(connection)
                        .await?;
                }
                Ok(())
            })
            .await
    }
}
