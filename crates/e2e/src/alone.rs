//! Where it is asked how near a measurement comes, whatever else runs would spoil it: it goes alone, all else beside each other.

use std::cell::Cell;

use tokio::sync::{RwLock, RwLockReadGuard, RwLockWriteGuard};

static ROOM: RwLock<()> = RwLock::const_new(());

thread_local! {
    static IS_ALONE: Cell<bool> = const { Cell::new(false) };
}

/// Held by a test that goes alone, as it does on a quiet machine.
pub struct Alone {
    _room: Option<RwLockWriteGuard<'static, ()>>,
}

/// Held by whatever may go beside others; nothing where its test goes alone.
pub struct Beside {
    _room: Option<RwLockReadGuard<'static, ()>>,
}

/// Whether this is a long run on a machine that does nothing else, where it is asked how near a measurement comes.
#[must_use]
pub fn is_quiet() -> bool {
    std::env::var_os("QUIET_MACHINE").is_some()
}

/// Waits on a quiet machine until no other test runs, and keeps others out for as long as what comes back is held.
pub async fn alone() -> Alone {
    if !is_quiet() {
        return Alone { _room: None };
    }
    let room = ROOM.write().await;
    IS_ALONE.set(true);
    Alone { _room: Some(room) }
}

impl Drop for Alone {
    fn drop(&mut self) {
        IS_ALONE.set(false);
    }
}

pub(crate) async fn beside() -> Beside {
    Beside { _room: if IS_ALONE.get() { None } else { Some(ROOM.read().await) } }
}
