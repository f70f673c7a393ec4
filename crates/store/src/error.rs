//! What can go wrong in storage.

use thiserror::Error;

/// A storage operation that did not take place.
#[derive(Debug, Error)]
pub enum StoreError {
    /// There is no such thing.
    #[error("This {0} does not exist; it may have been deleted.")]
    NotFound(&'static str),
    /// The home was changed meanwhile.
    #[error("This home was changed in another window; reload it and make your change again.")]
    Stale,
    /// The change would leave readings without what they belong to, or there is nothing to undo.
    #[error("{0}")]
    Conflict(String),
    /// The database failed.
    #[error("the database failed: {0}")]
    Database(#[from] sqlx::Error),
    /// The database could not be brought up to date.
    #[error("the database could not be brought up to date: {0}")]
    Migration(#[from] sqlx::migrate::MigrateError),
    /// What is stored can't be read by this version.
    #[error("stored data can't be read: {0}")]
    Document(#[from] serde_json::Error),
}
