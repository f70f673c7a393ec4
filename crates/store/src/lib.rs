//! Storage in SQLite: homes with their revisions, rounds and runs.
//!
//! One user action is one transaction, and what a function returned `Ok` for is on disk. Rows never leave this crate; what is
//! stored is what the caller hands in, so checks against the catalogue belong to the caller (see [`Store::change`]). Start reading
//! at [`Store`].

mod error;
mod homes;
mod rounds;

use std::path::Path;

use sqlx::SqlitePool;
use sqlx::sqlite::{SqliteConnectOptions, SqliteJournalMode, SqlitePoolOptions, SqliteSynchronous};

pub use error::StoreError;
pub use homes::Stored;

/// How a write transaction begins: taking the write lock at once, so that two writers wait instead of failing half-way.
const WRITE: &str = "BEGIN IMMEDIATE";

/// The database of one installation.
#[derive(Debug, Clone)]
pub struct Store {
    pool: SqlitePool,
}

impl Store {
    /// Opens the database, making and migrating it where needed.
    ///
    /// Write-ahead log with full synchronisation: a change that was acknowledged survives the end of the process and of the power.
    ///
    /// # Errors
    /// [`StoreError::Database`] when the file can't be opened or is no database of this program.
    pub async fn open(file: &Path) -> Result<Self, StoreError> {
        let options = SqliteConnectOptions::new()
            .filename(file)
            .create_if_missing(true)
            .foreign_keys(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full);
        let pool = SqlitePoolOptions::new().max_connections(4).connect_with(options).await?;
        sqlx::migrate!().run(&pool).await?;
        Ok(Self { pool })
    }

    /// Closes the database, so that its log is folded in.
    pub async fn close(&self) {
        self.pool.close().await;
    }
}
