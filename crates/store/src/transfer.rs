//! Whole homes in and out.

use busy_hen_home::{DeviceNote, Drill, Home, HomeId, Picture, Run, Tick, WatchLog};
use futures_util::TryStreamExt;
use jiff::Timestamp;
use sqlx::{Connection, SqliteConnection};

use crate::room::has_room;
use crate::rows::documents::{DEVICE_NOTES, DRILLS};
use crate::rows::homes::{Stored, read};
use crate::rows::pictures::{insert_picture, jpeg_of, pictures_of};
use crate::rows::rounds::{insert, record_of, round_ids};
use crate::rows::runs::{each_run, insert_run, run_of_row};
use crate::rows::ticks::{put, ticks_of};
use crate::rows::watches::{put_watch, summaries_of, watch_of};
use crate::steps::write_first;
use crate::{RoundRecord, Store, StoreError};

/// Runs that are stored before other writers get their turn.
const RUNS_AT_ONCE: usize = 2000;

/// A home with all that was kept of it.
#[derive(Debug, Clone)]
pub struct Whole {
    /// The home.
    pub home: Home,
    /// Its rounds with their runs.
    pub rounds: Vec<(RoundRecord, Vec<Run>)>,
    /// Its pictures, each with the JPEG itself.
    pub pictures: Vec<(Picture, Vec<u8>)>,
    /// What became of the steps of its run sheets.
    pub ticks: Vec<Tick>,
    /// Drills that were run in it.
    pub drills: Vec<Drill>,
    /// Long watches of it.
    pub watches: Vec<WatchLog>,
    /// What was noted of its devices.
    pub device_notes: Vec<DeviceNote>,
}

/// A piece of a home with all that is kept of it.
#[derive(Debug)]
pub enum Piece {
    /// The home itself, first of all.
    Home(Box<Home>),
    /// A round; its runs follow.
    Round(Box<RoundRecord>),
    /// A run of the round before it.
    Run(Box<Run>),
    /// A picture with the JPEG itself.
    Picture(Picture, Vec<u8>),
    /// What became of a step of a run sheet.
    Tick(Tick),
    /// A drill that was run.
    Drill(Drill),
    /// A long watch.
    Watch(WatchLog),
    /// What was noted of a device.
    DeviceNote(DeviceNote),
}

impl Whole {
    /// A home of which nothing else is kept.
    #[must_use]
    pub fn new(home: Home) -> Self {
        Self {
            home,
            rounds: Vec::new(),
            pictures: Vec::new(),
            ticks: Vec::new(),
            drills: Vec::new(),
            watches: Vec::new(),
            device_notes: Vec::new(),
        }
    }
}

impl Store {
    /// Stores a new home.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the id is taken.
    pub async fn create(&self, id: HomeId, home: &Home, now: Timestamp) -> Result<Stored, StoreError> {
        self.import(id, &Whole::new(home.clone()), now).await
    }

    /// Stores new homes, all or none.
    ///
    /// # Errors
    /// As [`Store::import`].
    pub async fn create_all(&self, homes: &[(HomeId, Whole)], now: Timestamp) -> Result<(), StoreError> {
        self.writer
            .write(async |connection| {
                for (id, whole) in homes {
                    begin(connection, *id, &whole.home, now).await?;
                    for (record, runs) in &whole.rounds {
                        insert(connection, *id, record).await?;
                        for run in runs {
                            insert_run(connection, run).await?;
                        }
                    }
                    insert_beside(connection, *id, whole).await?;
                    arrived(connection, *id).await?;
                }
                Ok::<_, StoreError>(())
            })
            .await?;
        homes.iter().for_each(|(id, _)| self.tell(*id));
        Ok(())
    }

    /// Stores a new home with rounds and their runs. Many runs are stored piece by piece, so that other writers get their turn; the
    /// home is there for others only when all of it is, and goes at the next start when it never was.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when the id of the home, of a round, a run or a picture is taken; then nothing is stored.
    pub async fn import(&self, id: HomeId, whole: &Whole, now: Timestamp) -> Result<Stored, StoreError> {
        let stored = self.import_in_pieces(id, whole, now).await;
        if stored.is_err() {
            let drop_it = async |connection: &mut SqliteConnection| {
                sqlx::query("DELETE FROM home WHERE id = ? AND arriving = 1")
                    .bind(id.to_string())
                    .execute(connection)
                    .await?;
                Ok::<_, StoreError>(())
            };
            self.writer.write(drop_it).await?;
        }
        self.tell(id);
        stored
    }

    async fn import_in_pieces(&self, id: HomeId, whole: &Whole, now: Timestamp) -> Result<Stored, StoreError> {
        let Whole { home, rounds, .. } = whole;
        let few = rounds.iter().map(|(_, runs)| runs.len()).sum::<usize>() <= RUNS_AT_ONCE;
        let runs = || rounds.iter().flat_map(|(_, runs)| runs);
        let stored = self
            .writer
            .write(async |connection| {
                begin(connection, id, home, now).await?;
                for (record, _) in rounds {
                    insert(connection, id, record).await?;
                }
                insert_beside(connection, id, whole).await?;
                if few {
                    for run in runs() {
                        insert_run(connection, run).await?;
                    }
                    arrived(connection, id).await?;
                    return read(connection, id).await.map(Some);
                }
                Ok(None)
            })
            .await?;
        if let Some(stored) = stored {
            return Ok(stored);
        }
        let runs: Vec<&Run> = runs().collect();
        for piece in runs.chunks(RUNS_AT_ONCE) {
            self.writer
                .write(async |connection| {
                    for run in piece {
                        insert_run(connection, run).await?;
                    }
                    Ok::<_, StoreError>(())
                })
                .await?;
        }
        self.writer
            .write(async |connection| {
                arrived(connection, id).await?;
                read(connection, id).await
            })
            .await
    }

    /// Tells a home with all its rounds, their runs with traces, and its pictures, as they are at one moment, piece by piece in the order of [`Piece`].
    ///
    /// # Errors
    /// [`StoreError::NotFound`] when there is none of this id, or what `take` says.
    pub async fn export<E: From<StoreError>>(
        &self,
        id: HomeId,
        mut take: impl FnMut(Piece) -> Result<(), E>,
    ) -> Result<(), E> {
        let mut connection = self.readers.acquire().await.map_err(StoreError::from)?;
        let mut transaction = connection.begin().await.map_err(StoreError::from)?;
        take(Piece::Home(Box::new(read(&mut transaction, id).await?.home)))?;
        for round in round_ids(&mut transaction, id).await? {
            take(Piece::Round(Box::new(record_of(&mut transaction, round).await?.1)))?;
            let mut rows = each_run(&mut transaction, round);
            while let Some(row) = rows.try_next().await.map_err(StoreError::from)? {
                take(Piece::Run(Box::new(run_of_row(&row)?)))?;
            }
        }
        for picture in pictures_of(&mut transaction, id).await? {
            let jpeg = jpeg_of(&mut transaction, picture.id).await?;
            take(Piece::Picture(picture, jpeg))?;
        }
        for tick in ticks_of(&mut transaction, id).await? {
            take(Piece::Tick(tick))?;
        }
        for drill in DRILLS.of_home(&mut transaction, id).await? {
            take(Piece::Drill(drill))?;
        }
        for watch in summaries_of(&mut transaction, id).await? {
            let log = watch_of(&mut transaction, id, watch.id).await?.ok_or(StoreError::NotFound("watch"))?;
            take(Piece::Watch(log))?;
        }
        for note in DEVICE_NOTES.of_home(&mut transaction, id).await? {
            take(Piece::DeviceNote(note))?;
        }
        Ok(())
    }
}

/// What is kept of a home beside its rounds.
async fn insert_beside(connection: &mut SqliteConnection, id: HomeId, whole: &Whole) -> Result<(), StoreError> {
    for (picture, jpeg) in &whole.pictures {
        insert_picture(connection, id, picture, jpeg).await?;
    }
    for tick in &whole.ticks {
        put(connection, id, tick, false).await?;
    }
    for drill in &whole.drills {
        DRILLS.insert(connection, id, (drill.id, drill)).await?;
    }
    for log in &whole.watches {
        put_watch(connection, id, log).await?;
    }
    for note in &whole.device_notes {
        DEVICE_NOTES.insert(connection, id, (note.id, note)).await?;
    }
    Ok(())
}

async fn begin(connection: &mut SqliteConnection, id: HomeId, home: &Home, now: Timestamp) -> Result<(), StoreError> {
    let done =
        sqlx::query("INSERT INTO home (id, revision, changed_at, arriving) VALUES (?, 1, ?, 1) ON CONFLICT DO NOTHING")
            .bind(id.to_string())
            .bind(now.to_string())
            .execute(&mut *connection)
            .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Conflict("A home of this id is already there.".into()));
    }
    write_first(connection, id, home, now).await
}

async fn arrived(connection: &mut SqliteConnection, id: HomeId) -> Result<(), StoreError> {
    sqlx::query("UPDATE home SET arriving = 0 WHERE id = ?").bind(id.to_string()).execute(&mut *connection).await?;
    has_room(connection, id).await
}
