//! The file of an installation: whose it is, who uses it, and bringing it up to date.

use std::fs::{self, File, OpenOptions, TryLockError};
use std::path::{Path, PathBuf};

use sqlx::sqlite::{SqliteConnectOptions, SqliteConnection, SqliteJournalMode, SqliteSynchronous};
use sqlx::{Connection, Row};

use crate::StoreError;
use crate::rows::rounds::drop_unused_frozen;

/// What the file says it is (SQLite's `application_id`): "BHen".
const APPLICATION: i64 = 0x4248_656e;

/// How connections that write are opened.
///
/// Write-ahead log with full synchronisation: a change that was acknowledged survives the end of the process and of the power.
pub(crate) fn options(file: &Path) -> SqliteConnectOptions {
    SqliteConnectOptions::new()
        .filename(file)
        .foreign_keys(true)
        .journal_mode(SqliteJournalMode::Wal)
        .synchronous(SqliteSynchronous::Full)
        // What is taken away is overwritten.
        .pragma("secure_delete", "ON")
}

/// What keeps other processes from a file while it lives.
#[derive(Debug)]
pub(crate) struct Lock {
    _beside: File,
    #[cfg(unix)]
    _itself: File,
}

/// Takes the file for this process, makes it when it is not there, and brings it up to date. Gives back where it really lies, for who is named
/// by a link, with the lock: on a file beside the database, since SQLite's own exclusive mode would keep our own readers out, and, for names that
/// are the same file, on itself.
///
/// # Errors
/// [`StoreError::InUse`], [`StoreError::Held`], [`StoreError::Foreign`], [`StoreError::Newer`], [`StoreError::ReadOnly`], [`StoreError::Full`] or a failure of the
/// database.
pub(crate) async fn prepare(named: &Path) -> Result<(PathBuf, Lock), StoreError> {
    let file = &really(named);
    let beside = lock(file)?;
    make(file)?;
    // A lock of the kind that SQLite does not use (flock); its own are of the process, which must not close this before it has ended.
    #[cfg(unix)]
    let lock = Lock { _beside: beside, _itself: lock_itself(file)? };
    #[cfg(not(unix))]
    let lock = Lock { _beside: beside };
    // Looked at first without any setting of ours, which would change a file that is not for us.
    let mut plain =
        SqliteConnection::connect_with(&SqliteConnectOptions::new().filename(file)).await.map_err(foreign)?;
    let version = whose(&mut plain).await;
    plain.close().await?;
    let version = version?;
    let mut connection = SqliteConnection::connect_with(&options(file)).await?;
    let result = bring_up_to_date(&mut connection, file, version).await;
    connection.close().await?;
    result.map(|()| (file.clone(), lock))
}

/// Where a file really lies; of one that is not there yet, where its folder does.
fn really(named: &Path) -> PathBuf {
    let at = |path: &Path| path.canonicalize().ok();
    let folder = named.parent().filter(|own| !own.as_os_str().is_empty()).unwrap_or(Path::new("."));
    at(named).or_else(|| Some(at(folder)?.join(named.file_name()?))).unwrap_or_else(|| named.to_owned())
}

/// What the database says to a file that is none.
fn foreign(error: sqlx::Error) -> StoreError {
    match error.as_database_error().and_then(|error| error.code()).as_deref() {
        Some("26") => StoreError::Foreign,
        _ => error.into(),
    }
}

fn beside(file: &Path, ending: &str) -> PathBuf {
    let mut name = file.as_os_str().to_owned();
    name.push(ending);
    PathBuf::from(name)
}

fn private() -> OpenOptions {
    let mut options = OpenOptions::new();
    options.write(true);
    #[cfg(unix)]
    std::os::unix::fs::OpenOptionsExt::mode(&mut options, 0o600);
    options
}

fn lock(file: &Path) -> Result<File, StoreError> {
    let path = beside(file, ".lock");
    let failed = |error| StoreError::file(format!("{} can't be made", path.display()), error);
    let lock = private().create(true).truncate(false).open(&path).map_err(failed)?;
    taken(lock, path)
}

#[cfg(unix)]
fn lock_itself(file: &Path) -> Result<File, StoreError> {
    let failed = |error| StoreError::file("it can't be opened".into(), error);
    taken(OpenOptions::new().read(true).open(file).map_err(failed)?, file.to_owned())
}

fn taken(lock: File, path: PathBuf) -> Result<File, StoreError> {
    match lock.try_lock() {
        Ok(()) => Ok(lock),
        Err(TryLockError::WouldBlock) => Err(StoreError::InUse(path)),
        Err(TryLockError::Error(error)) => Err(StoreError::file(format!("{} can't be locked", path.display()), error)),
    }
}

/// Makes the file, readable by its owner only; SQLite gives the files beside it the same rights.
fn make(file: &Path) -> Result<(), StoreError> {
    match private().create_new(true).open(file) {
        Ok(_) => Ok(()),
        Err(error) if error.kind() == std::io::ErrorKind::AlreadyExists => match private().open(file) {
            Ok(_) => Ok(()),
            Err(error) if error.kind() == std::io::ErrorKind::PermissionDenied => Err(StoreError::ReadOnly),
            Err(error) => Err(StoreError::file("it can't be opened".into(), error)),
        },
        Err(error) => Err(StoreError::file("it can't be made".into(), error)),
    }
}

/// Version of the schema that a file of ours has; none when it is new.
async fn whose(connection: &mut SqliteConnection) -> Result<Option<i64>, StoreError> {
    let application: i64 =
        sqlx::query("PRAGMA application_id").fetch_one(&mut *connection).await.map_err(foreign)?.try_get(0)?;
    let tables: Vec<String> = sqlx::query("SELECT name FROM sqlite_master WHERE type = 'table'")
        .fetch_all(&mut *connection)
        .await
        .map_err(foreign)?
        .iter()
        .map(|row| row.try_get(0))
        .collect::<Result<_, _>>()?;
    // The first version did not say what it is; it is known by its tables.
    let of_first_version = ["home", "revision", "_sqlx_migrations"].iter().all(|own| tables.iter().any(|t| t == own));
    let ours = application == APPLICATION || (application == 0 && (tables.is_empty() || of_first_version));
    if !ours {
        return Err(StoreError::Foreign);
    }
    if !tables.iter().any(|table| table == "_sqlx_migrations") {
        return Ok(None);
    }
    Ok(sqlx::query("SELECT max(version) FROM _sqlx_migrations").fetch_one(connection).await?.try_get(0)?)
}

async fn bring_up_to_date(connection: &mut SqliteConnection, file: &Path, done: Option<i64>) -> Result<(), StoreError> {
    let migrator = sqlx::migrate!();
    let known = migrator.iter().map(|migration| migration.version).max().unwrap_or(0);
    if let Some(found) = done.filter(|found| *found > known) {
        return Err(StoreError::Newer { found, known });
    }
    if let Some(version) = done.filter(|done| *done < known) {
        copy_aside(connection, file, version).await?;
    }
    let say = format!("PRAGMA application_id = {APPLICATION}");
    sqlx::raw_sql(sqlx::AssertSqlSafe(say)).execute(&mut *connection).await?;
    migrator.run(&mut *connection).await?;
    sqlx::query("DELETE FROM home WHERE arriving = 1 OR deleted = 1").execute(&mut *connection).await?;
    drop_unused_frozen(connection).await?;
    Ok(())
}

/// Keeps a copy of a database of this version beside it, before it is changed: under its name only once it is whole and on the disk.
async fn copy_aside(connection: &mut SqliteConnection, file: &Path, version: i64) -> Result<(), StoreError> {
    let copy = (0..)
        .map(|number| if number == 0 { format!(".version-{version}") } else { format!(".version-{version}.{number}") })
        .map(|ending| beside(file, &ending))
        .find(|path| !path.exists())
        .unwrap_or_else(|| beside(file, ".old"));
    let part = beside(file, ".version-part");
    let failed = |error| StoreError::file(format!("the copy {} can't be made", copy.display()), error);
    // What an earlier start did not finish.
    if part.exists() {
        fs::remove_file(&part).map_err(failed)?;
    }
    private().create_new(true).open(&part).map_err(failed)?;
    sqlx::query("VACUUM INTO ?").bind(part.display().to_string()).execute(connection).await?;
    private().open(&part).and_then(|whole| whole.sync_all()).map_err(failed)?;
    fs::rename(&part, &copy).map_err(failed)
}
