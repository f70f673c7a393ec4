//! What handlers share: storage, what was worked out before, readings read before, walks and computations under way.

use std::collections::HashMap;
use std::net::IpAddr;
use std::sync::{Arc, Mutex, OnceLock, PoisonError, RwLock};
use std::time::Duration;

use busy_hen_home::{
    DeviceNote, Drill, Home, HomeId, Round, RoundId, Run, SetupId, TestKind, Tick, WatchSummary, local_day,
};
use busy_hen_job::kit_record::HomeDone;
use busy_hen_job::route::{JobDone, Tested, TestedSetup};
use busy_hen_measure::FarSide;
use busy_hen_predict::Knowledge;
use busy_hen_predict::calibration::Calibration;
use busy_hen_predict::conditions::{Conditions, Group, choose, groups};
use busy_hen_predict::ledger::Measured;
use busy_hen_radio::cache::Cache;
use busy_hen_store::{RoundRecord, Store};
use busy_hen_survey::calibration::calibrate;
use busy_hen_survey::calibration::evidence::Taken;
use busy_hen_survey::calibration::line::line_caps;
use jiff::Timestamp;
use jiff::civil::Date;

use crate::compute::Places;
use crate::error::ApiError;
use crate::examples::Examples;
use crate::far_end::FarEnd;
use crate::interfaces::Interface;
use crate::jobs::Jobs;
use crate::lock::Lock;
use crate::network::Network;
use crate::origin::Names;
use crate::tokens::{Granted, Paired};
use crate::walks::{Walker, Walks};

/// Runs of all homes together that are kept in memory.
const RUNS_KEPT: usize = 200_000;
/// How long a page may listen with the token that it was given: longer than any drill in one go.
const LISTENS: Duration = Duration::from_secs(4 * 3600);
/// Pages that may listen at most.
const LISTENERS_MOST: usize = 50;
/// What a home counts for besides its runs.
const HOME_WEIGHT: usize = 200;

/// Shared by all handlers.
pub struct AppState {
    /// Storage.
    pub store: Store,
    /// What was worked out before, kept from one question to the next.
    pub kept: Knowledge,
    /// Walks of the stand-in phone.
    pub walks: Walks,
    /// Places for computations that a request waits for.
    pub places: Places,
    /// Long computations.
    pub jobs: Jobs,
    /// Names that the server may be called by.
    pub names: Names,
    /// Whether other machines reach it.
    pub network: Network,
    /// Who is in, where the bench has a lock.
    pub lock: Lock,
    /// Whether the link to other machines is encrypted.
    pub encrypted: bool,
    far_end: RwLock<Option<FarEnd>>,
    /// Made-up homes to look around in; none where none ship.
    pub examples: Option<Box<dyn Examples>>,
    /// Pages that listen during a drill.
    pub listeners: Arc<Granted>,
    /// The far side of local tests.
    pub far_side: Arc<FarSide>,
    readings: Cache<HomeId, Arc<Readings>>,
}

/// All rounds of a home with their runs, without traces, what became of its run sheets, its drills, watches in short, and notes on devices.
#[derive(Debug, Default)]
pub struct Readings {
    /// Number of their state.
    number: i64,
    /// Rounds, first begun first.
    pub rounds: Vec<Arc<RoundRecord>>,
    /// Runs by round, each with the number of its state.
    runs: HashMap<RoundId, (i64, Arc<Vec<Run>>)>,
    /// What became of the steps of run sheets.
    pub ticks: Vec<Tick>,
    /// Drills that were run.
    pub drills: Vec<Drill>,
    /// Long watches, as a list shows them.
    pub watches: Vec<WatchSummary>,
    /// What was noted of devices.
    pub device_notes: Vec<DeviceNote>,
    measured: Mutex<HashMap<(SetupId, Conditions), Arc<Measured>>>,
    learnt: OnceLock<Option<Arc<Calibration>>>,
}

impl AppState {
    /// State over this storage, with a walker when one ships with the program.
    #[must_use]
    pub fn new(store: Store, walker: Option<Box<dyn Walker>>, names: Names) -> Self {
        let listeners = Arc::new(Granted::new(LISTENS, LISTENERS_MOST));
        let tokens = Paired { store: store.clone(), listeners: Arc::clone(&listeners) };
        Self {
            lock: Lock::default(),
            encrypted: false,
            network: Network::new(names.open_to_network),
            far_end: RwLock::default(),
            examples: None,
            listeners,
            far_side: Arc::new(FarSide::new(Box::new(tokens))),
            store,
            kept: Knowledge::default(),
            walks: Walks::new(walker),
            places: Places::default(),
            jobs: Jobs::default(),
            names,
            readings: Cache::new(RUNS_KEPT),
        }
    }

    /// Now, as the machine tells it.
    #[must_use]
    pub fn now(&self) -> Timestamp {
        Timestamp::now()
    }

    /// The far end of internet tests; none where none is known.
    #[must_use]
    pub fn far_end(&self) -> Option<FarEnd> {
        self.far_end.read().unwrap_or_else(PoisonError::into_inner).clone()
    }

    /// Has internet tests go to this far end from now on, or to none.
    pub fn set_far_end(&self, far_end: Option<FarEnd>) {
        *self.far_end.write().unwrap_or_else(PoisonError::into_inner) = far_end;
    }

    /// The bench's address at an interface, for a browser.
    #[must_use]
    pub fn address_of(&self, interface: &Interface, port: u16) -> String {
        let scheme = if self.encrypted { "https" } else { "http" };
        match interface.address {
            IpAddr::V4(address) => format!("{scheme}://{address}:{port}"),
            IpAddr::V6(address) => format!("{scheme}://[{address}]:{port}"),
        }
    }

    /// Today, where the machine stands.
    #[must_use]
    pub fn today(&self) -> Date {
        local_day(self.now())
    }

    /// The readings of a home as they stand: what was read before is taken only while nothing has changed.
    ///
    /// # Errors
    /// When storage fails.
    pub async fn readings(&self, home: HomeId) -> Result<Arc<Readings>, ApiError> {
        let standing = self.store.standing(home).await?;
        let before = self.readings.get(&home);
        if let Some(kept) = before.clone().filter(|own| own.number == standing.readings) {
            return Ok(kept);
        }
        let before = before.unwrap_or_default();
        let (mut rounds, mut runs) = (Vec::new(), HashMap::new());
        for (round, number) in self.store.round_numbers(home).await? {
            let known = before.runs.get(&round).filter(|(own, _)| *own == number);
            let record = known.and_then(|_| before.rounds.iter().find(|own| own.round.id == round));
            // A round whose number is as it was is as it was.
            let (record, own) = match record.zip(known) {
                Some((record, (_, runs))) => (Arc::clone(record), Arc::clone(runs)),
                None => (Arc::new(self.store.round(round).await?.1), Arc::new(self.store.runs_of_round(round).await?)),
            };
            rounds.push(record);
            runs.insert(round, (number, own));
        }
        let (ticks, drills) = (self.store.ticks(home).await?, self.store.drills(home).await?);
        let watches = self.store.watch_summaries(home).await?;
        let device_notes = self.store.device_notes(home).await?;
        let held: usize = runs.values().map(|(_, runs)| runs.len()).sum();
        let weight = HOME_WEIGHT + ticks.len() + drills.len() + held;
        let number = standing.readings;
        let readings = Readings { number, rounds, runs, ticks, drills, watches, device_notes, ..Readings::default() };
        let readings = Arc::new(readings);
        // What was read belongs to the number only when nothing was stored meanwhile.
        if self.store.standing(home).await? != standing {
            return Ok(readings);
        }
        self.readings.forget(|own| *own == home);
        Ok(self.readings.keep(home, readings, weight))
    }
}

impl Readings {
    /// What was done in the home so far, with what was tested of it.
    #[must_use]
    pub fn done_so_far<'a>(&'a self, tested: &'a Tested) -> JobDone<'a> {
        JobDone { tested, ticks: &self.ticks, drills: &self.drills, watches: &self.watches }
    }

    /// All that was done in the home, for the record of its kit.
    #[must_use]
    pub fn home_done<'a>(&'a self, home: &'a Home) -> HomeDone<'a> {
        let taken = self.rounds.iter().map(|record| Taken {
            round: &record.round,
            home: &record.tested.home,
            runs: self.of(record.round.id),
        });
        HomeDone { home, taken: taken.collect(), ticks: &self.ticks, drills: &self.drills, notes: &self.device_notes }
    }

    /// Runs of a round.
    #[must_use]
    pub fn of(&self, round: RoundId) -> &[Run] {
        self.runs.get(&round).map_or(&[], |(_, runs)| runs.as_slice())
    }

    /// Rounds of a setup, with their runs.
    pub fn column(&self, setup: SetupId) -> impl Iterator<Item = (&Round, &[Run])> {
        let here = move |record: &&Arc<RoundRecord>| record.round.setup_id == setup;
        self.rounds.iter().filter(here).map(|record| (&record.round, self.of(record.round.id)))
    }

    /// Counting runs of a setup by tests of one kind, sorted into groups of alike ones.
    #[must_use]
    pub fn groups(&self, setup: SetupId, kind: TestKind) -> Vec<Group<'_>> {
        let mut groups = groups(self.column(setup));
        groups.retain(|group| group.conditions.under.kind == kind);
        groups
    }

    /// What was measured of a setup that answers a question best: alike readings only, measured before made up.
    #[must_use]
    pub fn measured(&self, setup: SetupId, asked: &Conditions) -> Arc<Measured> {
        let mut kept = self.measured.lock().unwrap_or_else(PoisonError::into_inner);
        Arc::clone(kept.entry((setup, asked.clone())).or_insert_with(|| {
            let chosen = choose(self.groups(setup, asked.under.kind), asked);
            Arc::new(Measured {
                by_spot: chosen.as_ref().map(Group::summaries).unwrap_or_default(),
                conditions: chosen.map(|group| group.conditions),
                asked: Some(asked.clone()),
            })
        }))
    }

    /// All rounds, each with its runs and the home as it stood then.
    #[must_use]
    pub fn taken(&self) -> Vec<Taken<'_>> {
        self.rounds
            .iter()
            .map(|record| Taken { round: &record.round, home: &record.tested.home, runs: self.of(record.round.id) })
            .collect()
    }

    /// What readings taught of the home; worked out when first asked for.
    pub fn learnt(&self, kept: &Knowledge) -> Option<Arc<Calibration>> {
        self.learnt.get_or_init(|| calibrate(&self.taken(), kept).map(Arc::new)).clone()
    }

    /// What is known before a question about the home is asked: with what readings taught, unless it goes by the tables alone.
    #[must_use]
    pub fn kept(&self, kept: &Knowledge, home: &Home) -> Knowledge {
        if home.tables_alone {
            return kept.having(None);
        }
        let kept = kept.with_line(&line_caps(&self.taken(), home).into());
        kept.having(self.learnt(&kept))
    }

    /// What became of the run sheet of a setup.
    #[must_use]
    pub fn ticks_of(&self, setup: SetupId) -> Vec<Tick> {
        self.ticks.iter().filter(|own| own.setup_id == setup).cloned().collect()
    }

    /// What was tested, by setup.
    #[must_use]
    pub fn tested(&self) -> Tested {
        let mut tested = Tested::new();
        for record in &self.rounds {
            for run in self.of(record.round.id).iter().filter(|run| run.counts() && run.is_of_room()) {
                let of = tested
                    .entry(record.round.setup_id)
                    .or_insert_with(|| TestedSetup { spots: Vec::new(), made_up: true });
                of.made_up &= run.is_made_up();
                if !of.spots.contains(&run.spot_id) {
                    of.spots.push(run.spot_id);
                }
            }
        }
        tested
    }
}
