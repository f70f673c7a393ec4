//! What the list of homes shows, kept beside each home so that the list need not read them all.

use busy_hen_home::HomeId;
use jiff::civil::Date;
use sqlx::Row;

use crate::rows::parsed;
use crate::{Standing, Store, StoreError};

/// A home in the list.
#[derive(Debug, Clone, PartialEq)]
pub struct Head {
    /// The home.
    pub id: HomeId,
    /// Where it stands.
    pub standing: Standing,
    /// When it was last changed.
    pub changed_at: jiff::Timestamp,
    /// What was kept of it for the list; none when it has changed since, its day is over, or its form is another.
    pub document: Option<String>,
}

impl Store {
    /// All homes, last changed first, with what is kept of them for the list on this day in this form.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn heads(&self, today: Date, form: &str) -> Result<Vec<Head>, StoreError> {
        let rows = sqlx::query(
            "SELECT home.id, home.revision, home.readings, home.changed_at, head.document
               FROM home LEFT JOIN head ON head.home_id = home.id AND head.revision = home.revision
                    AND head.readings = home.readings AND head.until > ? AND head.form = ?
              WHERE home.arriving = 0 AND home.deleted = 0 ORDER BY home.changed_at DESC, home.id",
        )
        .bind(today.to_string())
        .bind(form)
        .fetch_all(&self.readers)
        .await?;
        rows.iter()
            .map(|row| {
                Ok(Head {
                    id: parsed(row.try_get("id")?)?,
                    standing: Standing { revision: row.try_get("revision")?, readings: row.try_get("readings")? },
                    changed_at: parsed(row.try_get("changed_at")?)?,
                    document: row.try_get("document")?,
                })
            })
            .collect()
    }

    /// Keeps what the list shows of homes as they stand, in the form given, each until a day.
    ///
    /// # Errors
    /// [`StoreError::Database`].
    pub async fn keep_heads(&self, form: &str, heads: &[(HomeId, Standing, Date, String)]) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                for (id, standing, until, document) in heads {
                    sqlx::query(
                        "INSERT INTO head (home_id, revision, readings, until, form, document)
                         SELECT id, ?, ?, ?, ?, ? FROM home WHERE id = ?
                         ON CONFLICT (home_id) DO UPDATE SET revision = excluded.revision, readings = excluded.readings,
                                                             until = excluded.until, form = excluded.form,
                                                             document = excluded.document",
                    )
                    .bind(standing.revision)
                    .bind(standing.readings)
                    .bind(until.to_string())
                    .bind(form)
                    .bind(document)
                    .bind(id.to_string())
                    .execute(&mut *connection)
                    .await?;
                }
                Ok(())
            })
            .await
    }
}
