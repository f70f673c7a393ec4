//! Walks of the simulated stand-in phone: started from the bench, run as tasks of their own, told and stopped by round.

use std::collections::HashMap;
use std::future::Future;
use std::pin::Pin;
use std::sync::{Mutex, PoisonError};

use busy_hen_home::{HomeId, RoundId};
use serde::Deserialize;
use tokio::sync::watch;
use tokio::task::JoinHandle;
use utoipa::ToSchema;

use crate::error::ApiError;

/// What a walker is sent to do.
#[derive(Debug, Clone)]
pub struct WalkOrder {
    /// The home.
    pub home: HomeId,
    /// The round to fill.
    pub round: RoundId,
    /// Seed of its hidden truth; the same seed gives the same house.
    pub seed: u64,
    /// What goes wrong on the way.
    pub mishaps: Vec<Mishap>,
}

/// What may go wrong on a walk, by a switch.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Mishap {
    /// A call comes in: the page is covered.
    Covered,
    /// The connection is gone for a moment.
    DropOut,
    /// The family is at home, though the round says that nobody is.
    BusyEvening,
    /// The phone slips to mobile data in the middle of a test.
    MobileData,
}

/// Something that walks a round and posts its readings over the HTTP interface.
pub trait Walker: Send + Sync {
    /// Walks until it is called back, which it heeds between two runs: one that is under way arrives, so that none is taken twice when it
    /// goes on. An error tells the user in one sentence what stopped it.
    fn walk(
        &self,
        order: WalkOrder,
        called_back: watch::Receiver<bool>,
    ) -> Pin<Box<dyn Future<Output = Result<(), String>> + Send>>;
}

/// All walks since the program began.
pub struct Walks {
    walker: Option<Box<dyn Walker>>,
    tasks: Mutex<HashMap<RoundId, Task>>,
}

struct Task {
    handle: JoinHandle<()>,
    call_back: watch::Sender<bool>,
    outcome: std::sync::Arc<Mutex<Option<Result<(), String>>>>,
}

impl Walks {
    pub(crate) fn new(walker: Option<Box<dyn Walker>>) -> Self {
        Self { walker, tasks: Mutex::default() }
    }

    /// Sends the walker out.
    ///
    /// # Errors
    /// [`ApiError::Conflict`] when there is no walker, or it walks this round already.
    pub fn start(&self, order: WalkOrder) -> Result<(), ApiError> {
        let Some(walker) = &self.walker else {
            return Err(ApiError::Conflict("No stand-in phone ships with this program; type the readings in.".into()));
        };
        let mut tasks = self.tasks.lock().unwrap_or_else(PoisonError::into_inner);
        if tasks.get(&order.round).is_some_and(|task| !task.handle.is_finished()) {
            return Err(ApiError::Conflict("The stand-in phone walks this round already.".into()));
        }
        let outcome = std::sync::Arc::new(Mutex::new(None));
        let kept = std::sync::Arc::clone(&outcome);
        let round = order.round;
        let (call_back, called_back) = watch::channel(false);
        let walk = walker.walk(order, called_back);
        let handle = tokio::spawn(async move {
            let result = walk.await;
            *kept.lock().unwrap_or_else(PoisonError::into_inner) = Some(result);
        });
        tasks.insert(round, Task { handle, call_back, outcome });
        Ok(())
    }

    /// Calls the walker back; what it has posted stays.
    pub fn stop(&self, round: RoundId) {
        let tasks = self.tasks.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(task) = tasks.get(&round) {
            let _ = task.call_back.send(true);
        }
    }

    /// Whether the walker is out on a round, and what stopped it if something did.
    #[must_use]
    pub fn state(&self, round: RoundId) -> (bool, Option<String>) {
        let tasks = self.tasks.lock().unwrap_or_else(PoisonError::into_inner);
        let Some(task) = tasks.get(&round) else { return (false, None) };
        let outcome = task.outcome.lock().unwrap_or_else(PoisonError::into_inner);
        let stopped = outcome.as_ref().and_then(|result| result.as_ref().err().cloned());
        (!task.handle.is_finished(), stopped)
    }
}
