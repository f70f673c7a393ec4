//! Storage in SQLite: homes with their revisions, rounds and runs.
//!
//! One user action is one transaction, and what a function returned `Ok` for is on disk. Rows never leave this crate; what is
//! stored is what the caller hands in, so rules of the job come in as functions (see [`Change`]). Start reading at [`Store`];
//! below it [`steps`] (changes, undo and redo), [`rounds`] and [`runs`] (readings), [`transfer`] (whole homes in and out).

mod documents;
mod editor;
mod error;
mod far_end;
mod file;
pub mod heads;
pub mod homes;
mod kit_addresses;
pub mod lock;
pub mod pairings;
pub mod pictures;
mod room;
pub mod rounds;
mod rows;
pub mod runs;
pub mod steps;
mod ticks;
pub mod transfer;
mod watches;
mod writing;

use std::path::Path;
use std::sync::Arc;

use busy_hen_home::HomeId;
use sqlx::SqlitePool;
use sqlx::sqlite::SqlitePoolOptions;
use tokio::sync::broadcast;

pub use editor::Editor;
pub use error::StoreError;
pub use heads::Head;
pub use homes::Standing;
pub use pairings::{Code, Pairing};
pub use room::{Held, ROOM};
pub use rows::homes::Stored;
pub use rows::rounds::RoundRecord;
pub use steps::{Change, Step, Steps};
pub use transfer::{Piece, Whole};
use writing::Writer;

/// Connections that read.
const READERS: u32 = 4;
/// Changes that a slow listener may fall behind by before it is told to look for itself.
const UNHEARD: usize = 256;

/// The database of one installation.
#[derive(Debug, Clone)]
pub struct Store {
    readers: SqlitePool,
    writer: Arc<Writer>,
    changed: broadcast::Sender<HomeId>,
    /// Held while any clone lives.
    _lock: Arc<file::Lock>,
}

impl Store {
    /// Opens the database, making and migrating it where needed; a copy is kept aside before a migration.
    ///
    /// # Errors
    /// [`StoreError::InUse`] or [`StoreError::Held`] when another process has it, [`StoreError::Foreign`] and [`StoreError::Newer`] when it is not for this
    /// program, [`StoreError::ReadOnly`], or what the database says.
    pub async fn open(file: &Path) -> Result<Self, StoreError> {
        let (file, lock) = file::prepare(file).await?;
        let options = file::options(&file);
        let reading = options.clone().pragma("query_only", "1");
        let readers = SqlitePoolOptions::new().max_connections(READERS).connect_with(reading).await?;
        let (changed, _) = broadcast::channel(UNHEARD);
        Ok(Self { readers, writer: Arc::new(Writer::new(options)), changed, _lock: Arc::new(lock) })
    }

    /// Closes the database, so that its log is folded in; what was deleted goes for good.
    pub async fn close(&self) {
        // What can't go now goes at the next start.
        let _ = self.throw_all_away().await;
        self.readers.close().await;
        self.writer.close().await;
    }

    /// Tells of every home that has changed since, soon after each change. A listener that is cut off, or whose change was stored as
    /// its sender went away, learns of it by looking at [`Store::standing`].
    #[must_use]
    pub fn listen(&self) -> broadcast::Receiver<HomeId> {
        self.changed.subscribe()
    }

    /// Holds the database to so many pages of 4 KiB from the next write on; beyond them writes fail as on a full disk.
    pub fn limit(&self, pages: Option<u32>) {
        self.writer.limit(pages);
    }

    /// Folds the log into the file and empties it, so that what was taken away for good stands in neither. Where readers are at work it is left to the
    /// next time.
    async fn forget_log(&self) {
        self.writer.checkpoint().await;
    }

    /// Tells listeners; nobody listening is fine.
    fn tell(&self, home: HomeId) {
        let _ = self.changed.send(home);
    }
}
