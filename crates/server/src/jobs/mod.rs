//! Long computations: a bounded number, each with progress, to be called off, its result kept for a while.
//!
//! They run one at a time on a thread of their own, so that they take no core from those who wait for a map.

use std::collections::VecDeque;
use std::sync::{Arc, Condvar, Mutex, MutexGuard, PoisonError};

use busy_hen_predict::progress::Watch;
use serde::Serialize;
use utoipa::ToSchema;
use uuid::Uuid;

use crate::error::ApiError;

/// Jobs that may wait.
const WAITING: usize = 16;
/// Ended jobs whose results are kept; the oldest goes first.
const KEPT: usize = 32;

/// How far a job is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum JobState {
    /// Another runs before it.
    Waiting,
    /// It runs.
    Running,
    /// Its result is there.
    Done,
    /// It failed; `detail` says why.
    Failed,
    /// It was called off.
    CalledOff,
}

/// A job as told.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct Job {
    /// Its id.
    pub id: Uuid,
    /// What it computes.
    pub what: String,
    /// How far it is.
    pub state: JobState,
    /// Part of it that is done, 0 to 1.
    pub progress: f64,
    /// Why it failed, when it did.
    pub detail: Option<String>,
}

type Work = Box<dyn FnOnce(&Watch) -> Result<String, ApiError> + Send>;

struct Entry {
    id: Uuid,
    what: String,
    state: JobState,
    watch: Watch,
    work: Option<Work>,
    /// The result as JSON text.
    result: Option<String>,
    detail: Option<String>,
}

#[derive(Default)]
struct Shelf {
    entries: Mutex<VecDeque<Entry>>,
    came: Condvar,
}

/// All jobs since the program began, within bounds.
pub struct Jobs(Arc<Shelf>);

impl Default for Jobs {
    fn default() -> Self {
        let shelf = Arc::new(Shelf::default());
        let own = Arc::downgrade(&shelf);
        std::thread::spawn(move || {
            while let Some(shelf) = own.upgrade() {
                run_next(&shelf);
            }
        });
        Self(shelf)
    }
}

impl Jobs {
    /// Puts a job on the list; `work` gives its result as JSON text.
    ///
    /// # Errors
    /// [`ApiError::Busy`] when too many wait already.
    pub fn start(
        &self,
        what: String,
        work: impl FnOnce(&Watch) -> Result<String, ApiError> + Send + 'static,
    ) -> Result<Job, ApiError> {
        let mut entries = self.0.lock();
        if entries.iter().filter(|entry| entry.state == JobState::Waiting).count() >= WAITING {
            return Err(ApiError::Busy("Sixteen computations wait already; call one off or try again later.".into()));
        }
        let ended = |entry: &Entry| !matches!(entry.state, JobState::Waiting | JobState::Running);
        while entries.iter().filter(|entry| ended(entry)).count() >= KEPT {
            let Some(oldest) = entries.iter().position(ended) else { break };
            entries.remove(oldest);
        }
        let entry = Entry {
            id: Uuid::new_v4(),
            what,
            state: JobState::Waiting,
            watch: Watch::default(),
            work: Some(Box::new(work)),
            result: None,
            detail: None,
        };
        let told = tell(&entry);
        entries.push_back(entry);
        self.0.came.notify_one();
        Ok(told)
    }

    /// How far a job is.
    ///
    /// # Errors
    /// [`ApiError::NotFound`] when there is none of this id, or its result is no longer kept.
    pub fn look(&self, id: Uuid) -> Result<Job, ApiError> {
        self.0.lock().iter().find(|entry| entry.id == id).map(tell).ok_or(ApiError::NotFound("computation"))
    }

    /// What a job came to, as JSON text.
    ///
    /// # Errors
    /// [`ApiError::NotFound`], or [`ApiError::Conflict`] when it is not done.
    pub fn result(&self, id: Uuid) -> Result<String, ApiError> {
        let entries = self.0.lock();
        let entry = entries.iter().find(|entry| entry.id == id).ok_or(ApiError::NotFound("computation"))?;
        entry.result.clone().ok_or_else(|| match entry.state {
            JobState::Failed => ApiError::Conflict(entry.detail.clone().unwrap_or_default()),
            JobState::CalledOff => ApiError::Conflict("This computation was called off; start it anew.".into()),
            _ => ApiError::Conflict("This computation is not done yet; ask again in a moment.".into()),
        })
    }

    /// Calls a job off; one that is done already stays done.
    ///
    /// # Errors
    /// [`ApiError::NotFound`].
    pub fn call_off(&self, id: Uuid) -> Result<Job, ApiError> {
        let mut entries = self.0.lock();
        let entry = entries.iter_mut().find(|entry| entry.id == id).ok_or(ApiError::NotFound("computation"))?;
        entry.watch.stop();
        if entry.state == JobState::Waiting {
            entry.work = None;
            entry.state = JobState::CalledOff;
        }
        Ok(tell(entry))
    }
}

impl Drop for Jobs {
    fn drop(&mut self) {
        self.0.lock().iter().for_each(|entry| entry.watch.stop());
        self.0.came.notify_all();
    }
}

impl Shelf {
    fn lock(&self) -> MutexGuard<'_, VecDeque<Entry>> {
        self.entries.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

fn tell(entry: &Entry) -> Job {
    let progress = if entry.state == JobState::Done { 1.0 } else { entry.watch.progress() };
    Job { id: entry.id, what: entry.what.clone(), state: entry.state, progress, detail: entry.detail.clone() }
}

/// Runs the job that has waited longest, or waits a moment for one to come.
fn run_next(shelf: &Shelf) {
    let mut entries = shelf.lock();
    let next = entries.iter_mut().find(|entry| entry.state == JobState::Waiting);
    let Some((id, watch, work)) = next.and_then(|entry| {
        entry.state = JobState::Running;
        Some((entry.id, entry.watch.clone(), entry.work.take()?))
    }) else {
        // Woken also when there is nothing to do, so that the thread ends with its owner.
        let _ = shelf.came.wait_timeout(entries, std::time::Duration::from_millis(500));
        return;
    };
    drop(entries);
    let result = std::panic::catch_unwind(std::panic::AssertUnwindSafe(|| work(&watch)))
        .unwrap_or_else(|_| Err(ApiError::Internal("a computation broke off".into())));
    let mut entries = shelf.lock();
    let Some(entry) = entries.iter_mut().find(|entry| entry.id == id) else { return };
    match result {
        _ if watch.is_stopped() => entry.state = JobState::CalledOff,
        Ok(text) => (entry.state, entry.result) = (JobState::Done, Some(text)),
        Err(error) => (entry.state, entry.detail) = (JobState::Failed, Some(error.to_string())),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use std::sync::mpsc;

    fn until(jobs: &Jobs, id: Uuid, wanted: JobState) -> Job {
        loop {
            let job = jobs.look(id).unwrap();
            if job.state == wanted {
                return job;
            }
            std::thread::yield_now();
        }
    }

    #[test]
    fn jobs_run_one_after_another_and_their_results_are_kept() {
        let jobs = Jobs::default();
        let (go, wait) = mpsc::channel::<()>();
        let first = jobs
            .start("first".into(), move |_| {
                let _ = wait.recv();
                Ok("1".into())
            })
            .unwrap();
        let second = jobs.start("second".into(), |_| Ok("2".into())).unwrap();
        until(&jobs, first.id, JobState::Running);
        assert_eq!(jobs.look(second.id).unwrap().state, JobState::Waiting);
        assert!(matches!(jobs.result(first.id), Err(ApiError::Conflict(_))));
        go.send(()).unwrap();
        until(&jobs, second.id, JobState::Done);
        assert_eq!((jobs.result(first.id).unwrap(), jobs.result(second.id).unwrap()), ("1".into(), "2".into()));
    }

    #[test]
    fn a_job_is_called_off_while_it_waits_and_while_it_runs() {
        let jobs = Jobs::default();
        let running = jobs
            .start("long".into(), |watch| {
                while !watch.is_stopped() {
                    std::thread::yield_now();
                }
                Ok(String::new())
            })
            .unwrap();
        let waiting = jobs.start("next".into(), |_| Ok("2".into())).unwrap();
        until(&jobs, running.id, JobState::Running);
        assert_eq!(jobs.call_off(waiting.id).unwrap().state, JobState::CalledOff);
        jobs.call_off(running.id).unwrap();
        until(&jobs, running.id, JobState::CalledOff);
        assert!(matches!(jobs.look(Uuid::new_v4()), Err(ApiError::NotFound(_))));
    }

    #[test]
    fn so_many_wait_and_no_more_and_a_broken_one_breaks_no_other() {
        let jobs = Jobs::default();
        let (go, wait) = mpsc::channel::<()>();
        let first = jobs
            .start("first".into(), move |_| {
                let _ = wait.recv();
                panic!("broken on purpose")
            })
            .unwrap();
        until(&jobs, first.id, JobState::Running);
        for _ in 0..WAITING {
            jobs.start("one".into(), |_| Ok("1".into())).unwrap();
        }
        assert!(matches!(jobs.start("too many".into(), |_| Ok("1".into())), Err(ApiError::Busy(_))));
        go.send(()).unwrap();
        assert_eq!(until(&jobs, first.id, JobState::Failed).state, JobState::Failed);
        let last = loop {
            if let Ok(job) = jobs.start("last".into(), |_| Ok("9".into())) {
                break job;
            }
        };
        until(&jobs, last.id, JobState::Done);
    }
}
