//! The file of an installation: whose it is, who uses it, older ones, and a disk without space.

use std::path::{Path, PathBuf};
use std::time::Duration;

use busy_hen_home::{Home, HomeId};
use busy_hen_store::{Editor, Store, StoreError};
use sqlx::{Connection, SqliteConnection};

use crate::shared::{NOW, by, change, rename, rounds, store, with_terrace};

fn kept() -> PathBuf {
    Path::new(env!("CARGO_MANIFEST_DIR")).join("../testkit/data/kept")
}

async fn raw(file: &Path) -> SqliteConnection {
    SqliteConnection::connect(&format!("sqlite://{}?mode=rwc", file.display())).await.unwrap()
}

#[tokio::test]
async fn every_kept_database_of_an_older_version_opens_and_a_copy_is_kept_aside() {
    let mut found = 0;
    for entry in std::fs::read_dir(kept()).unwrap() {
        let path = entry.unwrap().path();
        if path.extension().is_none_or(|extension| extension != "db") {
            continue;
        }
        found += 1;
        let folder = tempfile::tempdir().unwrap();
        let file = folder.path().join("old.db");
        let bytes = std::fs::read(&path).unwrap();
        std::fs::write(&file, &bytes).unwrap();
        let store = Store::open(&file).await.unwrap();
        let heads = store.heads(jiff::civil::date(2026, 11, 25), "").await.unwrap();
        assert_eq!(heads.len(), 3);
        let mut kept_rounds = 0;
        for head in heads {
            let home = store.home(head.id).await.unwrap();
            for record in rounds(&store, head.id).await {
                kept_rounds += 1;
                assert_eq!(record.tested.home.house, home.home.house, "as it stood when it was brought up to date");
                assert_eq!((record.tested.law, record.tested.home.setups.len()), (None, 1));
                assert!(!store.runs(record.round.id, None, None, 5).await.unwrap().is_empty());
            }
            if home.home.name == "Gasworks flat" {
                assert_eq!(home.home.brief.complaint, "two", "the state in force, not the one undone");
                assert_eq!(home.revision, 4, "a number that was never used for this state or any before");
                store.undo(head.id, None, &by(&Editor::default(), None)).await.unwrap();
                assert_eq!(store.home(head.id).await.unwrap().home.brief.complaint, "one");
            }
        }
        assert_eq!(kept_rounds, 5);
        let aside = folder.path().join("old.db.version-1");
        assert!(aside.exists(), "a copy is kept aside before the change");
        store.close().await;
        drop(store);
        let again = Store::open(&file).await.unwrap();
        assert_eq!(again.heads(jiff::civil::date(2026, 11, 25), "").await.unwrap().len(), 3);
        assert!(!folder.path().join("old.db.version-1.1").exists(), "and not at every start");
    }
    assert_eq!(found, 1, "one kept database of every older version");
}

#[tokio::test]
async fn a_file_that_is_not_ours_or_newer_is_left_as_it_is() {
    let folder = tempfile::tempdir().unwrap();
    let list = folder.path().join("list.txt");
    std::fs::write(
        &list,
        "bread, milk, and a list long enough to be read as the head of a database file, or so it seems",
    )
    .unwrap();
    assert!(matches!(Store::open(&list).await, Err(StoreError::Foreign)));
    let other = folder.path().join("other.db");
    sqlx::raw_sql("CREATE TABLE recipe (name TEXT)").execute(&mut raw(&other).await).await.unwrap();
    let before = std::fs::read(&other).unwrap();
    assert!(matches!(Store::open(&other).await, Err(StoreError::Foreign)));
    assert_eq!(std::fs::read(&other).unwrap(), before, "no table of ours in it");
    let newer = folder.path().join("newer.db");
    drop(Store::open(&newer).await.unwrap());
    let add = "INSERT INTO _sqlx_migrations (version, description, success, checksum, execution_time) VALUES (99, 'later', 1, x'00', 1)";
    sqlx::raw_sql(add).execute(&mut raw(&newer).await).await.unwrap();
    assert!(matches!(Store::open(&newer).await, Err(StoreError::Newer { found: 99, .. })));
}

#[tokio::test]
async fn a_second_server_on_one_file_is_told() {
    let (folder, first) = store().await;
    let file = folder.path().join("test.db");
    let second = Store::open(&file).await;
    assert!(matches!(&second, Err(StoreError::InUse(_))), "{second:?}");
    first.close().await;
    drop(first);
    Store::open(&file).await.unwrap();
}

#[cfg(unix)]
#[tokio::test]
async fn only_its_owner_reads_the_file() {
    use std::os::unix::fs::PermissionsExt;
    let (folder, store, id) = with_terrace().await;
    rename(&store, id, &Editor::default(), 1, "written to").await.unwrap();
    for entry in std::fs::read_dir(folder.path()).unwrap() {
        let path = entry.unwrap().path();
        let mode = std::fs::metadata(&path).unwrap().permissions().mode() & 0o777;
        assert_eq!(mode, 0o600, "{}", path.display());
    }
}

#[tokio::test]
async fn a_full_disk_stops_one_write_and_not_the_next() {
    let (_folder, store, id) = with_terrace().await;
    let anna = Editor::new("anna");
    store.limit(Some(80));
    let mut revision = 1;
    let mut full = 0;
    for number in 0..200 {
        let text = format!("{number} {}", "a line of complaint ".repeat(190));
        match change(&store, id, &anna, revision, |home| home.brief.constraints = text).await {
            Ok(next) => revision = next,
            Err(StoreError::Full) => full += 1,
            Err(other) => panic!("{other}"),
        }
        assert!(store.home(id).await.is_ok(), "reading goes on");
        if full == 20 {
            break;
        }
    }
    assert_eq!(full, 20, "the disk ran full");
    store.limit(None);
    assert_eq!(store.home(id).await.unwrap().revision, revision, "all that was acknowledged, and no more");
    let next = change(&store, id, &anna, revision, |home| home.brief.complaint = "space again".into()).await.unwrap();
    assert_eq!(store.home(id).await.unwrap().revision, next);
}

/// A handler whose client goes away is dropped wherever it is; the write must then be whole or not there, and the next one must go on.
#[tokio::test]
async fn a_write_that_is_dropped_half_way_leaves_nothing_behind() {
    let (_folder, store, id) = with_terrace().await;
    let anna = Editor::new("anna");
    for micros in 0..60u64 {
        let revision = store.home(id).await.unwrap().revision;
        let slow = change(&store, id, &anna, revision, |home| home.brief.complaint = format!("{micros}"));
        let _ = tokio::time::timeout(Duration::from_micros(micros * 40), slow).await;
        let stored = store.home(id).await.unwrap();
        assert!(stored.revision == revision || stored.home.brief.complaint == format!("{micros}"));
        let named = rename(&store, id, &anna, stored.revision, &format!("after {micros}")).await.unwrap();
        assert_eq!(store.home(id).await.unwrap().revision, named);
    }
}

#[tokio::test]
async fn what_arrived_in_part_before_a_crash_is_gone_at_the_next_start() {
    let (folder, store, id) = with_terrace().await;
    let file = folder.path().join("test.db");
    store.close().await;
    drop(store);
    sqlx::raw_sql("UPDATE home SET arriving = 1").execute(&mut raw(&file).await).await.unwrap();
    let store = Store::open(&file).await.unwrap();
    assert!(matches!(store.home(id).await, Err(StoreError::NotFound("home"))));
    store.create(id, &Home::new("anew", "GB", busy_hen_home::LengthUnit::Metre), NOW).await.unwrap();
}

#[tokio::test]
async fn heads_are_kept_until_something_changes_their_day_is_over_or_their_form_is_another() {
    let (_folder, store, id) = with_terrace().await;
    let day = jiff::civil::date(2026, 11, 25);
    let kept_as = |day, form: &'static str| {
        let store = store.clone();
        async move { store.heads(day, form).await.unwrap()[0].document.clone() }
    };
    let kept = |day| kept_as(day, "this form");
    assert_eq!(kept(day).await, None);
    let standing = store.standing(id).await.unwrap();
    let until = jiff::civil::date(2026, 12, 1);
    store.keep_heads("this form", &[(id, standing, until, "{\"name\":\"x\"}".into())]).await.unwrap();
    assert_eq!(kept(day).await.as_deref(), Some("{\"name\":\"x\"}"));
    assert_eq!(kept_as(day, "another form").await, None, "another version shows other things");
    assert_eq!(kept(until).await, None, "a new plan is in force then");
    rename(&store, id, &Editor::default(), 1, "other").await.unwrap();
    assert_eq!(kept(day).await, None);
    store.keep_heads("this form", &[(HomeId::named("none"), standing, until, "{}".into())]).await.unwrap();
}
