//! What measures would be spoiled by whatever else runs: it goes alone, all else beside each other.

use std::cell::Cell;

use tokio::sync::{RwLock, RwLockReadGuard, RwLockWriteGuard};

static ROOM: RwLock<()> = RwLock::const_new(());

thread_local! {
    static IS_ALONE: Cell<bool> = const { Cell::new(false) };
}

/// Held by a test that goes alone.
pub struct Alone {
    _room: RwLockWriteGuard<'static, ()>,
}

/// Held by whatever may go beside others; nothing where its test goes alone.
pub struct Beside {
    _room: Option<RwLockReadGuard<'static, ()>>,
}

/// Waits until no other test runs, and keeps others out for as long as what comes back is held.
pub async fn alone() -> Alone {
    let room = ROOM.write().await;
    IS_ALONE.set(true);
    Alone { _room: room }
}

impl Drop for Alone {
    fn drop(&mut self) {
        IS_ALONE.set(false);
    }
}

pub(crate) async fn beside() -> Beside {
    Beside { _room: if IS_ALONE.get() { None } else { Some(ROOM.read().await) } }
}
