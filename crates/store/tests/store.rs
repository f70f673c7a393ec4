//! What storage promises: whole changes or none, undo and redo, and readings that never lose what they belong to.
#![allow(clippy::unwrap_used)] // also in what tests share

use busy_hen_demo::canal_terrace;
use busy_hen_home::{Home, HomeId, RoundId, SetupId, SpotId};
use busy_hen_store::{Store, StoreError};
use busy_hen_testkit::runs::{round, run};
use jiff::Timestamp;

const NOW: Timestamp = Timestamp::UNIX_EPOCH;

async fn store() -> (tempfile::TempDir, Store) {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("test.db")).await.unwrap();
    (folder, store)
}

async fn with_terrace() -> (tempfile::TempDir, Store, HomeId) {
    let (folder, store) = store().await;
    let id = HomeId::named("terrace");
    store.create(id, &canal_terrace(), NOW).await.unwrap();
    (folder, store, id)
}

async fn rename(store: &Store, id: HomeId, base: Option<i64>, name: &str) -> Result<i64, StoreError> {
    let renamed = |home: &mut Home| {
        home.name = name.into();
        Ok::<(), StoreError>(())
    };
    store.change(id, base, "rename", NOW, renamed).await.map(|stored| stored.revision)
}

#[tokio::test]
async fn what_was_stored_comes_back_also_after_opening_again() {
    let (folder, store, id) = with_terrace().await;
    store.close().await;
    let again = Store::open(&folder.path().join("test.db")).await.unwrap();
    let stored = again.home(id).await.unwrap();
    assert_eq!(stored.home, canal_terrace());
    assert_eq!((stored.revision, stored.can_undo, stored.can_redo), (1, None, None));
    assert_eq!(again.homes().await.unwrap().len(), 1);
}

#[tokio::test]
async fn undo_and_redo_walk_through_the_revisions_and_a_change_ends_redo() {
    let (_folder, store, id) = with_terrace().await;
    rename(&store, id, None, "one").await.unwrap();
    rename(&store, id, None, "two").await.unwrap();
    let back = store.undo(id, NOW).await.unwrap();
    assert_eq!((back.home.name.as_str(), back.can_redo.as_deref()), ("one", Some("rename")));
    assert_eq!(store.redo(id, NOW).await.unwrap().home.name, "two");
    store.undo(id, NOW).await.unwrap();
    rename(&store, id, None, "three").await.unwrap();
    assert!(matches!(store.redo(id, NOW).await, Err(StoreError::Conflict(_))));
    store.undo(id, NOW).await.unwrap();
    store.undo(id, NOW).await.unwrap();
    assert!(matches!(store.undo(id, NOW).await, Err(StoreError::Conflict(_))));
}

#[tokio::test]
async fn a_change_on_an_old_revision_is_refused() {
    let (_folder, store, id) = with_terrace().await;
    assert_eq!(rename(&store, id, Some(1), "one").await.unwrap(), 2);
    assert!(matches!(rename(&store, id, Some(1), "late").await, Err(StoreError::Stale)));
    assert_eq!(store.home(id).await.unwrap().home.name, "one");
}

#[tokio::test]
async fn a_refused_change_leaves_everything_as_it_was() {
    let (_folder, store, id) = with_terrace().await;
    let refuse = |home: &mut Home| {
        home.name = "half done".into();
        Err(StoreError::Conflict("no".into()))
    };
    assert!(store.change(id, None, "x", NOW, refuse).await.is_err());
    let stored = store.home(id).await.unwrap();
    assert_eq!((stored.home, stored.revision), (canal_terrace(), 1));
}

#[tokio::test]
async fn a_change_that_alters_nothing_makes_no_revision() {
    let (_folder, store, id) = with_terrace().await;
    assert_eq!(rename(&store, id, None, &canal_terrace().name).await.unwrap(), 1);
}

#[tokio::test]
async fn runs_sent_twice_are_kept_once_and_keep_their_trace() {
    let (_folder, store, id) = with_terrace().await;
    let spot = SpotId::named("Study");
    let round = round("r", SetupId::named("A"), vec![spot]);
    store.create_round(id, &round).await.unwrap();
    let mut one = run(&round, spot, 80.0);
    one.trace_mbps = vec![busy_hen_units::MbitPerSec::new(79.0)];
    store.add_runs(round.id, &[one.clone(), one.clone()]).await.unwrap();
    store.add_runs(round.id, std::slice::from_ref(&one)).await.unwrap();
    assert_eq!(store.runs(round.id).await.unwrap(), [one.clone()]);
    let light = store.runs_of_home(id).await.unwrap();
    assert!(light[&round.id][0].trace_mbps.is_empty());
    let void = store.void_run(one.id, Some("door".into())).await.unwrap();
    assert!(!void.counts());
    assert_eq!(store.runs(round.id).await.unwrap()[0].trace_mbps, one.trace_mbps, "the trace stays");
}

#[tokio::test]
async fn what_runs_belong_to_can_not_be_lost_by_change_or_undo() {
    let (_folder, store, id) = with_terrace().await;
    let add = |home: &mut Home| {
        home.setups.push(busy_hen_home::Setup::new(SetupId::named("D"), "D", "new", Vec::new()));
        Ok::<(), StoreError>(())
    };
    store.change(id, None, "add a setup", NOW, add).await.unwrap();
    let spot = SpotId::named("Study");
    let round = round("r", SetupId::named("D"), vec![spot]);
    store.create_round(id, &round).await.unwrap();
    store.add_runs(round.id, &[run(&round, spot, 10.0)]).await.unwrap();
    assert!(matches!(store.undo(id, NOW).await, Err(StoreError::Conflict(_))));
    let drop_spot = |home: &mut Home| {
        home.house.spots.retain(|own| own.id != spot);
        Ok::<(), StoreError>(())
    };
    assert!(matches!(store.change(id, None, "x", NOW, drop_spot).await, Err(StoreError::Conflict(_))));
    store.delete_round(round.id).await.unwrap();
    store.undo(id, NOW).await.unwrap();
}

#[tokio::test]
async fn nothing_hangs_on_what_is_not_there() {
    let (_folder, store, id) = with_terrace().await;
    let spot = SpotId::named("Study");
    let round = round("r", SetupId::named("A"), vec![spot]);
    assert!(matches!(store.create_round(HomeId::named("none"), &round).await, Err(StoreError::NotFound("home"))));
    assert!(matches!(store.add_runs(round.id, &[run(&round, spot, 1.0)]).await, Err(StoreError::NotFound("round"))));
    assert!(matches!(store.round(RoundId::named("none")).await, Err(StoreError::NotFound("round"))));
    store.create_round(id, &round).await.unwrap();
    store.add_runs(round.id, &[run(&round, spot, 1.0)]).await.unwrap();
    store.delete(id).await.unwrap();
    assert!(matches!(store.round(round.id).await, Err(StoreError::NotFound("round"))), "deleted with its home");
    assert!(store.runs(round.id).await.unwrap().is_empty());
    assert!(matches!(store.delete(id).await, Err(StoreError::NotFound("home"))));
}
