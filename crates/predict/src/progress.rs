//! Long computations that can be watched and stopped.

use std::sync::Arc;
use std::sync::atomic::{AtomicBool, AtomicUsize, Ordering};

/// What whoever waits for a computation and the computation itself tell each other; clones are of the same one.
#[derive(Debug, Default, Clone)]
pub struct Watch(Arc<State>);

#[derive(Debug, Default)]
struct State {
    stopped: AtomicBool,
    done: AtomicUsize,
    of: AtomicUsize,
}

impl Watch {
    /// Asks the computation to stop; what it then gives back is of no account.
    pub fn stop(&self) {
        self.0.stopped.store(true, Ordering::Relaxed);
    }

    /// Whether it was asked to stop.
    #[must_use]
    pub fn is_stopped(&self) -> bool {
        self.0.stopped.load(Ordering::Relaxed)
    }

    /// Part of it that is done, 0 to 1.
    #[must_use]
    pub fn progress(&self) -> f64 {
        let of = self.0.of.load(Ordering::Relaxed);
        if of == 0 { 0.0 } else { (self.0.done.load(Ordering::Relaxed) as f64 / of as f64).min(1.0) }
    }

    /// Says how many steps there are.
    pub fn begin(&self, of: usize) {
        self.0.of.store(of, Ordering::Relaxed);
    }

    /// Says that one more is done.
    pub fn step(&self) {
        self.0.done.fetch_add(1, Ordering::Relaxed);
    }
}
