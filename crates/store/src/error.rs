//! What can go wrong in storage.

use std::path::PathBuf;

use busy_hen_home::{BothChanged, Faults};
use sqlx::migrate::MigrateError;
use thiserror::Error;

/// SQLite's code for a disk or quota without space.
const FULL: &str = "13";
/// SQLite's codes for a disk or quota without space where the log's index is made or a file is grown (SQLITE_IOERR_SHMSIZE, SQLITE_IOERR_SHMOPEN).
const FULL_BESIDE: [&str; 2] = ["4874", "4618"];
/// SQLite's codes for a file that another connection holds (SQLITE_BUSY, SQLITE_LOCKED, and the finer ones of recovery, snapshots and timeouts).
const HELD: [&str; 5] = ["5", "6", "261", "517", "773"];
/// SQLite's codes for a file that can't be written to.
const READ_ONLY: [&str; 3] = ["8", "520", "1032"];

/// A storage operation that did not take place.
#[derive(Debug, Error)]
pub enum StoreError {
    /// There is no such thing.
    #[error("This {0} does not exist; it may have been deleted.")]
    NotFound(&'static str),
    /// The change was made on a state that is too old to be brought together with what is there now.
    #[error(
        "This page is too far behind what is stored now; what you typed is kept here, load the newest and make it again."
    )]
    Stale,
    /// Two edits changed the same thing differently.
    #[error("{}", both_changed(.0))]
    BothChanged(Vec<BothChanged>),
    /// What the change makes breaks rules.
    #[error("{0}")]
    Faults(#[from] Faults),
    /// The change would take away what readings belong to.
    #[error("{0}")]
    HoldsReadings(String),
    /// The change does not fit what is there.
    #[error("{0}")]
    Conflict(String),
    /// There is no space left.
    #[error("The disk is full: nothing was stored. Make some space and try again; what you entered is kept here.")]
    Full,
    /// The file can't be written to.
    #[error("the file can't be written to; give this user the right to, or choose another with --data")]
    ReadOnly,
    /// The file is something else than a database of this program.
    #[error("the file is no Busy Hen database and was left as it is; choose another with --data")]
    Foreign,
    /// The file is of a newer version of this program.
    #[error("the file was written by a newer Busy Hen ({found}, this one knows {known}); start that one")]
    Newer {
        /// Version of its schema.
        found: i64,
        /// Newest version known here.
        known: i64,
    },
    /// Another process uses the file.
    #[error("another Busy Hen uses this file already ({} is locked); stop it, or choose another file with --data", .0.display())]
    InUse(PathBuf),
    /// Another program than this one holds the file.
    #[error("another program holds the database; close it there and try again")]
    Held,
    /// A file beside the database could not be made.
    #[error("{0}: {1}")]
    File(String, std::io::Error),
    /// The database failed.
    #[error("the database failed: {0}")]
    Database(sqlx::Error),
    /// The database could not be brought up to date.
    #[error("the database could not be brought up to date: {0}")]
    Migration(MigrateError),
    /// What is stored can't be read by this version.
    #[error("stored data can't be read: {0}")]
    Document(#[from] serde_json::Error),
}

impl From<sqlx::Error> for StoreError {
    fn from(error: sqlx::Error) -> Self {
        let code = error.as_database_error().and_then(|error| error.code());
        match code.as_deref() {
            Some(FULL) => Self::Full,
            Some(code) if FULL_BESIDE.contains(&code) => Self::Full,
            Some(code) if HELD.contains(&code) => Self::Held,
            Some(code) if READ_ONLY.contains(&code) => Self::ReadOnly,
            _ => Self::Database(error),
        }
    }
}

impl From<MigrateError> for StoreError {
    fn from(error: MigrateError) -> Self {
        match error {
            MigrateError::Execute(error) | MigrateError::ExecuteMigration(error, _) => error.into(),
            other => Self::Migration(other),
        }
    }
}

impl StoreError {
    /// What the system says to a file that was to be made or opened.
    pub(crate) fn file(what: String, error: std::io::Error) -> Self {
        if error.kind() == std::io::ErrorKind::StorageFull { Self::Full } else { Self::File(what, error) }
    }
}

fn both_changed(both: &[BothChanged]) -> String {
    let things: Vec<&str> = both.iter().map(|one| one.thing.as_str()).collect();
    format!("Changed elsewhere meanwhile as well: {}. Choose which to keep.", things.join(", "))
}
