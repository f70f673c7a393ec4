//! What handlers share: storage, what was worked out before, readings read before, walks under way.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use busy_hen_engine::predict::Kept;
use busy_hen_engine::readings::{Summary, summarise};
use busy_hen_engine::route::Tested;
use busy_hen_home::{HomeId, Round, RoundId, Run, SetupId, SpotId, TestKind};
use busy_hen_store::Store;
use jiff::Timestamp;
use jiff::civil::Date;

use crate::error::ApiError;
use crate::walks::{Walker, Walks};

/// Shared by all handlers.
pub struct AppState {
    /// Storage.
    pub store: Store,
    /// What was worked out before, kept from one question to the next.
    pub kept: Kept,
    /// Walks of the stand-in phone.
    pub walks: Walks,
    readings: tokio::sync::Mutex<HashMap<HomeId, Arc<Readings>>>,
}

/// Summaries by spot.
pub type Summaries = Arc<HashMap<SpotId, Summary>>;

/// All rounds of a home with their runs, without traces.
#[derive(Debug, Default)]
pub struct Readings {
    /// Rounds, first begun first.
    pub rounds: Vec<Round>,
    /// Runs by round.
    pub runs: HashMap<RoundId, Vec<Run>>,
    summaries: Mutex<HashMap<(SetupId, TestKind), Summaries>>,
}

impl AppState {
    /// State over this storage, with a walker when one ships with the program.
    #[must_use]
    pub fn new(store: Store, walker: Option<Box<dyn Walker>>) -> Self {
        Self { store, kept: Kept::default(), walks: Walks::new(walker), readings: tokio::sync::Mutex::default() }
    }

    /// Now, as the machine tells it.
    #[must_use]
    pub fn now(&self) -> Timestamp {
        Timestamp::now()
    }

    /// Today, where the machine stands.
    #[must_use]
    pub fn today(&self) -> Date {
        local_day(self.now())
    }

    /// The readings of a home.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn readings(&self, home: HomeId) -> Result<Arc<Readings>, ApiError> {
        // The lock is held while reading: a change that is stored meanwhile waits in `forget_readings` and drops what was read.
        let mut kept = self.readings.lock().await;
        if let Some(readings) = kept.get(&home) {
            return Ok(Arc::clone(readings));
        }
        let rounds = self.store.rounds(home).await?;
        let runs = self.store.runs_of_home(home).await?;
        let readings = Arc::new(Readings { rounds, runs, summaries: Mutex::default() });
        kept.insert(home, Arc::clone(&readings));
        Ok(readings)
    }

    /// Drops what was read of a home's readings, after they changed.
    pub async fn forget_readings(&self, home: HomeId) {
        self.readings.lock().await.remove(&home);
    }
}

/// The day it is at this moment, where the machine stands.
#[must_use]
pub fn local_day(at: Timestamp) -> Date {
    jiff::tz::TimeZone::system().to_datetime(at).date()
}

impl Readings {
    /// Runs of a round.
    #[must_use]
    pub fn of(&self, round: RoundId) -> &[Run] {
        self.runs.get(&round).map_or(&[], Vec::as_slice)
    }

    /// Summaries by spot of all counting runs of a setup by tests of one kind.
    #[must_use]
    pub fn summaries(&self, setup: SetupId, kind: TestKind) -> Summaries {
        let mut kept = self.summaries.lock().unwrap_or_else(PoisonError::into_inner);
        Arc::clone(kept.entry((setup, kind)).or_insert_with(|| {
            let mut by_spot: HashMap<SpotId, Vec<&Run>> = HashMap::new();
            for round in self.rounds.iter().filter(|round| round.setup_id == setup && round.kind == kind) {
                for run in self.of(round.id) {
                    by_spot.entry(run.spot_id).or_default().push(run);
                }
            }
            let summed = by_spot.into_iter().filter_map(|(spot, runs)| Some((spot, summarise(runs)?)));
            Arc::new(summed.collect())
        }))
    }

    /// Spots that have counting runs, by setup.
    #[must_use]
    pub fn tested(&self) -> Tested {
        let mut tested = Tested::new();
        for round in &self.rounds {
            for run in self.of(round.id).iter().filter(|run| run.counts()) {
                let spots = tested.entry(round.setup_id).or_default();
                if !spots.contains(&run.spot_id) {
                    spots.push(run.spot_id);
                }
            }
        }
        tested
    }
}
