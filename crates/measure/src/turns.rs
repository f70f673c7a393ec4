//! Turns of tests that go alone: two at once would spoil each other. They come round by round to each code, and of one code to each machine, so that whoever
//! asks most often does not wait less.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, PoisonError};

use tokio::sync::oneshot;

use crate::guests::Guest;

/// Whose turn it is and who waits.
#[derive(Debug, Default)]
pub(crate) struct Turns(Mutex<State>);

#[derive(Debug, Default)]
struct State {
    taken: bool,
    /// In the order in which they came.
    waiting: Vec<(Guest, oneshot::Sender<()>)>,
    /// The count at which each code, and each machine with it, had its last turn.
    last: HashMap<Who, u64>,
    count: u64,
}

#[derive(Debug, Clone, PartialEq, Eq, Hash)]
enum Who {
    Code(u64),
    Machine(Guest),
}

/// How many are remembered as having had a turn; then all are forgotten, which costs fairness for one round.
const REMEMBERED: usize = 10_000;

/// A turn; it ends when it is dropped.
#[derive(Debug)]
pub(crate) struct Turn(Arc<Turns>);

impl Drop for Turn {
    fn drop(&mut self) {
        self.0.next();
    }
}

impl Turns {
    /// Takes the turn when it is free, else a place among those who wait for it.
    pub fn take(self: &Arc<Self>, guest: Guest) -> Result<Turn, Waiting> {
        let mut state = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        if !state.taken {
            state.taken = true;
            state.had(guest);
            return Ok(Turn(Arc::clone(self)));
        }
        let (called, call) = oneshot::channel();
        state.waiting.push((guest, called));
        Err(Waiting { turns: Arc::clone(self), call })
    }

    fn next(&self) {
        let mut state = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        while let Some(next) = state.next() {
            let (guest, called) = state.waiting.remove(next);
            // Whoever has gone meanwhile is passed over.
            if called.send(()).is_ok() {
                state.had(guest);
                return;
            }
        }
        state.taken = false;
    }
}

impl State {
    fn had(&mut self, guest: Guest) {
        if self.last.len() >= REMEMBERED {
            self.last.clear();
        }
        self.count += 1;
        for who in [Who::Code(guest.code), Who::Machine(guest)] {
            self.last.insert(who, self.count);
        }
    }

    /// The place among those who wait of the one whose code, and then machine, had its last turn longest ago.
    fn next(&self) -> Option<usize> {
        let last = |who: Who| self.last.get(&who).copied().unwrap_or(0);
        let order = |guest: Guest| (last(Who::Code(guest.code)), last(Who::Machine(guest)));
        let waiting = self.waiting.iter().enumerate();
        waiting.min_by_key(|(place, (guest, _))| (order(*guest), *place)).map(|(place, _)| place)
    }
}

/// A place among those who wait.
#[derive(Debug)]
pub(crate) struct Waiting {
    turns: Arc<Turns>,
    call: oneshot::Receiver<()>,
}

impl Waiting {
    /// Waits for the turn; it may be dropped at any moment.
    pub async fn turn(&mut self) -> Option<Turn> {
        (&mut self.call).await.ok().map(|()| Turn(Arc::clone(&self.turns)))
    }
}

impl Drop for Waiting {
    fn drop(&mut self) {
        // Called in the moment in which it went away: the turn goes on to the next.
        self.call.close();
        if self.call.try_recv().is_ok() {
            self.turns.next();
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn guest(code: u64, machine: u8) -> Guest {
        Guest { code, machine: [10, 0, 0, machine].into() }
    }

    #[tokio::test]
    async fn whoever_asks_most_often_does_not_wait_less() {
        let turns = Arc::new(Turns::default());
        let first = turns.take(guest(1, 1)).expect("free");
        // One code asks ten times before others do.
        let mut greedy: Vec<Waiting> = (0..10).map(|_| turns.take(guest(1, 1)).expect_err("taken")).collect();
        let mut other = turns.take(guest(2, 2)).expect_err("taken");
        let mut third = turns.take(guest(3, 2)).expect_err("taken");
        drop(first);
        drop(other.turn().await.expect("before all others of the first code"));
        drop(third.turn().await.expect("and so the third"));
        drop(greedy[0].turn().await.expect("then the greedy one, in its order"));
    }

    #[tokio::test]
    async fn of_one_code_each_machine_has_its_turn() {
        let turns = Arc::new(Turns::default());
        let first = turns.take(guest(1, 1)).expect("free");
        let mut again = turns.take(guest(1, 1)).expect_err("taken");
        let mut other = turns.take(guest(1, 2)).expect_err("taken");
        drop(first);
        drop(other.turn().await.expect("the machine that had none yet"));
        drop(again.turn().await.expect("then the first again"));
    }

    #[tokio::test]
    async fn whoever_goes_away_while_waiting_or_being_called_holds_up_nobody() {
        let turns = Arc::new(Turns::default());
        let first = turns.take(guest(1, 1)).expect("free");
        let gone = turns.take(guest(2, 2)).expect_err("taken");
        let called = turns.take(guest(3, 3)).expect_err("taken");
        drop(gone);
        drop(first);
        drop(called);
        drop(turns.take(guest(4, 4)).expect("free again"));
    }
}
