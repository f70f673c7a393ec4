//! Computations that a request waits for: off the threads that answer requests, so many at once as there are cores, stopped when
//! whoever asked has gone. What takes longer than a moment is a job (see [`crate::jobs`]).

use std::sync::Arc;

use actix_web::web;
use busy_hen_engine::watch::Watch;
use tokio::sync::Semaphore;

use crate::error::ApiError;

/// Places for computations.
#[derive(Debug, Clone)]
pub struct Places(Arc<Semaphore>);

impl Default for Places {
    fn default() -> Self {
        Self(Arc::new(Semaphore::new(std::thread::available_parallelism().map_or(2, usize::from))))
    }
}

/// Stops a computation when it is dropped before the end.
struct StopWhenDropped(Arc<Watch>);

impl Drop for StopWhenDropped {
    fn drop(&mut self) {
        self.0.stop();
    }
}

impl Places {
    /// Runs a computation when there is a place for it.
    ///
    /// # Errors
    /// Those of `work`.
    pub async fn compute<T: Send + 'static>(
        &self,
        work: impl FnOnce(&Watch) -> Result<T, ApiError> + Send + 'static,
    ) -> Result<T, ApiError> {
        let place = Arc::clone(&self.0).acquire_owned().await.map_err(|_| ApiError::CalledOff)?;
        let watch = Arc::new(Watch::default());
        let _stop = StopWhenDropped(Arc::clone(&watch));
        // The place is taken until the work has really ended, also where nobody waits for it any more.
        let run = move || {
            let _place = place;
            if watch.is_stopped() { Err(ApiError::CalledOff) } else { work(&watch) }
        };
        web::block(run).await.map_err(|error| ApiError::Internal(error.to_string()))?
    }
}
