//! A store to test with, and short ways to change what is in it.

use busy_hen_demo::canal_terrace;
use busy_hen_home::{Faults, Home, HomeId};
use busy_hen_store::{Change, Editor, RoundRecord, Store, StoreError};
use busy_hen_testkit::runs::BEGUN;
use jiff::Timestamp;

pub const NOW: Timestamp = BEGUN;

pub async fn store() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("test.db")).await.unwrap();
    (folder, store)
}

pub async fn with_terrace() -> (tempfile::TempDir, Store, HomeId) {
    let (folder, store) = store().await;
    let id = HomeId::named("terrace");
    store.create(id, &canal_terrace(), NOW).await.unwrap();
    (folder, store, id)
}

fn edit(_: &Home, _: &Home) -> String {
    "edit".to_owned()
}

fn anything(_: &Home) -> Result<(), Faults> {
    Ok(())
}

pub fn by(editor: &Editor, base: Option<i64>) -> Change<'_> {
    Change { base, editor, now: NOW, with_readings: false, typing: "", name: &edit, check: &anything }
}

pub async fn change(
    store: &Store,
    id: HomeId,
    editor: &Editor,
    base: i64,
    change: impl FnOnce(&mut Home),
) -> Result<i64, StoreError> {
    let changed = |home: &mut Home| {
        change(home);
        Ok::<(), StoreError>(())
    };
    store.change(id, &by(editor, Some(base)), changed).await.map(|stored| stored.revision)
}

/// Each rename is a step of its own.
pub async fn rename(store: &Store, id: HomeId, editor: &Editor, base: i64, name: &str) -> Result<i64, StoreError> {
    let what = |_: &Home, after: &Home| format!("rename to {}", after.name);
    let with = Change { name: &what, ..by(editor, Some(base)) };
    let renamed = |home: &mut Home| {
        home.name = name.into();
        Ok::<(), StoreError>(())
    };
    store.change(id, &with, renamed).await.map(|stored| stored.revision)
}

/// The rounds of a home, first begun first.
pub async fn rounds(store: &Store, id: HomeId) -> Vec<RoundRecord> {
    let mut list = Vec::new();
    for (round, _) in store.round_numbers(id).await.unwrap() {
        list.push(store.round(round).await.unwrap().1);
    }
    list
}
