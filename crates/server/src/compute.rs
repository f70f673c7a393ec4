//! Computations that a request waits for: off the threads that answer requests, so many at once as there are cores, stopped when
//! whoever asked has gone. What takes longer than a moment is a job (see [`crate::jobs`]).

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError, Weak};

use actix_web::web;
use busy_hen_home::HomeId;
use busy_hen_predict::progress::Watch;
use tokio::sync::{AcquireError, Semaphore};

use crate::error::ApiError;

/// Places for computations. One home never takes all of them, so that the largest one holds up no other.
#[derive(Debug, Clone)]
pub struct Places {
    all: Arc<Semaphore>,
    of_homes: Arc<Mutex<HashMap<HomeId, Weak<Semaphore>>>>,
    of_one_home: usize,
    /// Pictures are unpacked one at a time: each takes much memory for a moment.
    pictures: Arc<Semaphore>,
}

impl Default for Places {
    fn default() -> Self {
        let cores = std::thread::available_parallelism().map_or(2, usize::from);
        Self {
            all: Arc::new(Semaphore::new(cores + 1)),
            of_homes: Arc::default(),
            of_one_home: cores,
            pictures: Arc::new(Semaphore::new(1)),
        }
    }
}

/// Stops a computation when it is dropped before the end.
struct StopWhenDropped(Watch);

impl Drop for StopWhenDropped {
    fn drop(&mut self) {
        self.0.stop();
    }
}

impl From<AcquireError> for ApiError {
    fn from(_: AcquireError) -> Self {
        Self::CalledOff
    }
}

impl Places {
    /// Runs a computation of no home, or of all, when there is a place for it.
    ///
    /// # Errors
    /// Those of `work`.
    pub async fn compute<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Watch) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        self.run((), work).await
    }

    /// Runs a computation of one home when there is a place for it.
    ///
    /// # Errors
    /// Those of `work`.
    pub async fn compute_of<T: Send + 'static>(
        &self,
        home: HomeId,
        work: impl FnOnce(&Watch) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let own = self.of_home(home).acquire_owned().await?;
        self.run(own, work).await
    }

    /// Unpacks pictures when no others are.
    ///
    /// # Errors
    /// Those of `work`.
    pub async fn unpack<T: Send + 'static>(
        &self,
        work: impl FnOnce() -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let own = Arc::clone(&self.pictures).acquire_owned().await?;
        self.run(own, move |_| work()).await
    }

    /// The place is taken until the work has really ended, also where nobody waits for it any more; `more` is held as long.
    async fn run<T: Send + 'static>(
        &self,
        more: impl Send + 'static,
        work: impl FnOnce(&Watch) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let place = Arc::clone(&self.all).acquire_owned().await?;
        let watch = Watch::default();
        let _stop = StopWhenDropped(watch.clone());
        let run = move || {
            let _held = (place, more);
            if watch.is_stopped() { Err(ApiError::CalledOff) } else { work(&watch) }
        };
        web::block(run).await.map_err(|error| ApiError::Internal(error.to_string()))?
    }

    fn of_home(&self, home: HomeId) -> Arc<Semaphore> {
        let mut homes = self.of_homes.lock().unwrap_or_else(PoisonError::into_inner);
        if let Some(own) = homes.get(&home).and_then(Weak::upgrade) {
            return own;
        }
        homes.retain(|_, own| own.strong_count() > 0);
        let own = Arc::new(Semaphore::new(self.of_one_home));
        homes.insert(home, Arc::downgrade(&own));
        own
    }
}

#[cfg(test)]
mod tests {
    use std::sync::mpsc;

    use super::*;

    #[actix_web::test]
    async fn one_home_never_takes_all_places_and_what_nobody_waits_for_is_stopped() {
        let places = Places::default();
        let (large, small) = (HomeId::named("large"), HomeId::named("small"));
        let (began, begun) = mpsc::channel();
        let asked: Vec<_> = (0..20)
            .map(|_| {
                let (places, began) = (places.clone(), began.clone());
                let work = move |watch: &Watch| {
                    began.send(()).ok();
                    while !watch.is_stopped() {
                        std::thread::yield_now();
                    }
                    Ok(())
                };
                actix_web::rt::spawn(async move { places.compute_of(large, work).await })
            })
            .collect();
        while begun.try_recv().is_err() {
            actix_web::rt::task::yield_now().await;
        }
        assert_eq!(places.compute_of(small, |_| Ok(7)).await.expect("a place"), 7);
        // Whoever asked goes away: all of them end, and the home has its places again.
        asked.iter().for_each(actix_web::rt::task::JoinHandle::abort);
        assert_eq!(places.compute_of(large, |_| Ok(8)).await.expect("a place"), 8);
    }
}
