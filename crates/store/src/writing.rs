//! The one connection that writes. SQLite has one writer at a time anyway; with a connection of their own, writers that wait never
//! keep readers waiting.

use std::sync::atomic::{AtomicU32, Ordering};

use sqlx::sqlite::{SqliteConnectOptions, SqliteConnection};
use sqlx::{Connection, Executor};
use tokio::sync::Mutex;

use crate::StoreError;

/// The writer.
#[derive(Debug)]
pub(crate) struct Writer {
    options: SqliteConnectOptions,
    /// Absent until first used, and after a transaction whose end is not known.
    connection: Mutex<Option<SqliteConnection>>,
    /// Most pages the database may have.
    limit: AtomicU32,
}

/// Most pages that SQLite itself allows.
const NO_LIMIT: u32 = 4_294_967_294;

impl Writer {
    pub(crate) fn new(options: SqliteConnectOptions) -> Self {
        Self { options, connection: Mutex::default(), limit: AtomicU32::new(NO_LIMIT) }
    }

    /// Holds the database to so many pages from the next write on; to none when none is given.
    pub(crate) fn limit(&self, pages: Option<u32>) {
        self.limit.store(pages.unwrap_or(NO_LIMIT), Ordering::Relaxed);
    }

    /// Does some work as one transaction: all of it is stored, or none.
    ///
    /// A connection is kept only when its transaction has ended for certain. When this future is dropped half-way, or a full disk
    /// has ended the transaction under our feet, it is closed, which takes back what was under way.
    pub(crate) async fn write<T, E: From<StoreError>>(
        &self,
        work: impl AsyncFnOnce(&mut SqliteConnection) -> Result<T, E>,
    ) -> Result<T, E> {
        let mut kept = self.connection.lock().await;
        let mut connection = match kept.take() {
            Some(connection) => connection,
            None => SqliteConnection::connect_with(&self.options).await.map_err(StoreError::from)?,
        };
        let limit = format!("PRAGMA max_page_count = {}", self.limit.load(Ordering::Relaxed));
        connection.execute(sqlx::AssertSqlSafe(limit)).await.map_err(StoreError::from)?;
        connection.execute("BEGIN IMMEDIATE").await.map_err(StoreError::from)?;
        match work(&mut connection).await {
            Ok(done) => {
                connection.execute("COMMIT").await.map_err(StoreError::from)?;
                *kept = Some(connection);
                Ok(done)
            }
            Err(error) => {
                if connection.execute("ROLLBACK").await.is_ok() {
                    *kept = Some(connection);
                }
                Err(error)
            }
        }
    }

    /// Folds the write-ahead log into the file and empties it, as far as nobody reads it.
    pub(crate) async fn checkpoint(&self) {
        if let Some(connection) = self.connection.lock().await.as_mut() {
            let _ = connection.execute("PRAGMA wal_checkpoint(TRUNCATE)").await;
        }
    }

    pub(crate) async fn close(&self) {
        if let Some(connection) = self.connection.lock().await.take() {
            let _ = connection.close().await;
        }
    }
}
