//! What others, older copies, links and a full disk must not do to what is stored; what is deleted for good is gone.

use std::path::{Path, PathBuf};
use std::process::Command;

use busy_hen_home::{
    HangsBy, Home, HomeId, OnRecord, Picture, PictureId, Pings, Round, RoundId, Run, SetupId, Shows, SpotId, Tick,
    TickOutcome, Took, WatchDrop, WatchHead, WatchId, WatchLog, WatchStretch, Watched,
};
use busy_hen_store::{Editor, Piece, RoundRecord, Store, StoreError, Whole};
use busy_hen_testkit::runs::{round, run, tested};
use busy_hen_units::Millis;
use jiff::{SignedDuration, Timestamp};
use sqlx::{Connection, Row, SqliteConnection};

use crate::shared::{NOW, by, change, rename, store, with_terrace};

fn anna() -> Editor {
    Editor::new("anna")
}

async fn begin(store: &Store, id: HomeId) -> RoundRecord {
    let stored = store.home(id).await.unwrap();
    let round = round("a round", SetupId::named("A"), vec![SpotId::named("Study")]);
    let record = RoundRecord { tested: tested(&stored.home, &round), round };
    store.create_round(id, stored.revision, &record, "begin a round", (&anna(), NOW)).await.unwrap();
    record
}

#[tokio::test]
async fn what_an_editor_can_undo_outlives_any_number_of_steps_of_others_for_a_month() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id).await;
    store.delete_round(record.round.id, "delete a round", (&anna(), NOW)).await.unwrap();
    let mut revision = store.home(id).await.unwrap().revision;
    // Each of many windows has some steps of its own.
    for number in 0..450 {
        let editor = Editor::new(&format!("window {}", number % 3));
        revision = rename(&store, id, &editor, revision, &format!("name {number}")).await.unwrap();
    }
    assert_eq!(store.steps(id, &anna()).await.unwrap().undo[0].what, "delete a round");
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert!(store.round(record.round.id).await.is_ok(), "with the round that only this could bring back");
    store.redo(id, &by(&anna(), None)).await.unwrap();
    // A window that is closed for good does not hold on to its steps for ever.
    let later = NOW + SignedDuration::from_hours(24 * 31);
    let ben = Editor::new("ben");
    for number in 0..210 {
        let what = |_: &_, _: &_| "edit".to_owned();
        let with = busy_hen_store::Change { now: later, name: &what, ..by(&ben, None) };
        let renamed = |home: &mut Home| {
            home.name = format!("later {number}");
            Ok::<(), StoreError>(())
        };
        store.change(id, &busy_hen_store::Change { typing: &number.to_string(), ..with }, renamed).await.unwrap();
    }
    assert!(store.steps(id, &anna()).await.unwrap().undo.is_empty());
    assert!(!store.steps(id, &ben).await.unwrap().undo.is_empty());
}

#[tokio::test]
async fn what_phones_send_is_no_step_and_takes_none_away() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id).await;
    let gone = begin_other(&store, id).await;
    store.delete_round(gone, "delete a round", (&anna(), NOW)).await.unwrap();
    let before = store.home(id).await.unwrap().revision;
    for number in 0..206 {
        let typed = run(&record.round, SpotId::named("Study"), f64::from(number) + 1.0);
        store.add_runs(record.round.id, &[typed], &[], None).await.unwrap();
    }
    assert_eq!(store.home(id).await.unwrap().revision, before);
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert!(store.round(gone).await.is_ok());
}

async fn begin_other(store: &Store, id: HomeId) -> RoundId {
    let stored = store.home(id).await.unwrap();
    let round = round("another", SetupId::named("B"), vec![SpotId::named("Study")]);
    let record = RoundRecord { tested: tested(&stored.home, &round), round };
    store.create_round(id, stored.revision, &record, "begin another", (&anna(), NOW)).await.unwrap();
    record.round.id
}

#[tokio::test]
async fn a_step_that_was_taken_back_stays_so_when_an_earlier_word_on_it_arrives_later() {
    let (_folder, store, id) = with_terrace().await;
    let setup = SetupId::named("A");
    let said = |minutes| Tick {
        setup_id: setup,
        step: "place/router".into(),
        outcome: TickOutcome::Done,
        at: NOW + SignedDuration::from_mins(minutes),
        by: "Jo".into(),
        note: String::new(),
    };
    store.tick(id, &[said(1)]).await.unwrap();
    store.untick(id, (setup, "place/router"), said(5).at).await.unwrap();
    store.tick(id, &[said(3)]).await.unwrap();
    assert_eq!(store.ticks(id).await.unwrap(), [], "a phone without connection said so before it was taken back");
    store.untick(id, (setup, "another"), said(5).at).await.unwrap();
    store.tick(id, &[Tick { step: "another".into(), ..said(4) }]).await.unwrap();
    assert_eq!(store.ticks(id).await.unwrap(), [], "also where nothing was said before");
    store.tick(id, &[said(9)]).await.unwrap();
    assert_eq!(store.ticks(id).await.unwrap(), [said(9)]);
}

#[tokio::test]
async fn a_picture_with_other_content_under_a_known_id_is_refused_and_the_same_again_is_not() {
    let (_folder, store, id) = with_terrace().await;
    let shows = Shows::Spot { spot_id: SpotId::named("Study") };
    let picture = Picture { id: PictureId::random(), shows, at: NOW, note: "socket".into() };
    store.add_picture(id, &picture, b"one").await.unwrap();
    store.add_picture(id, &picture, b"one").await.unwrap();
    let moved = Picture { at: NOW + SignedDuration::from_secs(3), ..picture.clone() };
    store.add_picture(id, &moved, b"one").await.unwrap();
    for (other, jpeg) in [(picture.clone(), &b"two"[..]), (Picture { note: "other".into(), ..picture.clone() }, b"one")]
    {
        assert!(matches!(store.add_picture(id, &other, jpeg).await, Err(StoreError::Conflict(_))));
    }
    assert_eq!(store.jpeg(picture.id).await.unwrap(), b"one");
}

/// A watch of two addresses with a stretch every five minutes between these hours of a day, and a drop in each hour.
fn watched(name: &str, targets: usize, hours: std::ops::Range<i64>) -> WatchLog {
    let address = |own: usize| Watched {
        name: format!("device {own}"),
        address: format!("192.168.1.{own}:80"),
        way: HangsBy::Wire,
    };
    let head = WatchHead {
        id: WatchId::named(name),
        made_up: false,
        by_wire: true,
        every_s: 5,
        targets: (1..=targets).map(address).collect(),
    };
    let at = |minutes: i64| NOW + SignedDuration::from_mins(minutes);
    let took = Took { min_ms: Millis::new(1.0), median_ms: Millis::new(2.0), max_ms: Millis::new(9.0) };
    let knocks = Pings { asked: 60, lost: 1, took: Some(took) };
    let stretch =
        |number: i64| WatchStretch { from: at(number * 5), to: at(number * 5 + 5), of: vec![knocks; targets] };
    let drop = |hour: i64| WatchDrop { target: 1, from: at(hour * 60 + 7), to: at(hour * 60 + 9), ended: true };
    WatchLog {
        starts: vec![at(hours.start * 60)],
        stretches: (hours.start * 12..hours.end * 12).map(stretch).collect(),
        drops: hours.map(drop).collect(),
        ..WatchLog::new(head)
    }
}

#[tokio::test]
async fn an_older_copy_of_a_watch_takes_nothing_of_a_newer_one_and_another_one_under_its_id_is_refused() {
    let (_folder, store, id) = with_terrace().await;
    let (newer, older) = (watched("w", 2, 2..30), watched("w", 2, 0..12));
    store.keep_watch(id, newer.clone()).await.unwrap();
    let both = store.keep_watch(id, older.clone()).await.unwrap();
    let whole = watched("w", 2, 0..30);
    assert_eq!((both.stretches.len(), both.drops.len()), (whole.stretches.len(), whole.drops.len()));
    assert_eq!(store.keep_watch(id, older).await.unwrap(), both, "in any order, any number of times");
    assert_eq!(store.keep_watch(id, newer).await.unwrap(), both);
    let other = store.keep_watch(id, watched("w", 3, 30..31)).await;
    assert!(matches!(other, Err(StoreError::Conflict(_))), "{other:?}");
    assert_eq!(store.watch(id, both.head.id).await.unwrap(), both);
}

#[tokio::test]
async fn a_home_is_counted_as_large_as_its_file_or_larger() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id).await;
    let spot = SpotId::named("Study");
    let traced =
        |down| Run { trace_mbps: vec![busy_hen_units::MbitPerSec::new(down); 60], ..run(&record.round, spot, down) };
    let runs: Vec<_> = (1..300).map(|down| traced(f64::from(down) / 7.0)).collect();
    store.add_runs(record.round.id, &runs, &[], None).await.unwrap();
    let shows = Shows::Spot { spot_id: spot };
    let picture = Picture { id: PictureId::random(), shows, at: NOW, note: String::new() };
    store.add_picture(id, &picture, &vec![7; 100_001]).await.unwrap();
    store.keep_watch(id, watched("w", 2, 0..48)).await.unwrap();
    let held = store.held(id).await.unwrap();
    let mut written = 0;
    let count = |piece| {
        written += match piece {
            Piece::Home(own) => length(&own),
            Piece::Round(own) => length(&own.round) + length(&own.tested),
            Piece::Run(own) => length(&own),
            Piece::Picture(own, jpeg) => length(&own) + jpeg.len().div_ceil(3) * 4,
            Piece::Tick(own) => length(&own),
            Piece::Drill(own) => length(&own),
            Piece::Watch(own) => length(&own),
            Piece::DeviceNote(own) => length(&own),
        };
        Ok::<(), StoreError>(())
    };
    store.export(id, count).await.unwrap();
    assert!(held.bytes as usize >= written, "{} of {written}", held.bytes);
    assert!((held.bytes as usize) < 2 * written, "{} of {written}", held.bytes);
    // What is struck, deleted or thrown away counts no more.
    store.delete_round(record.round.id, "delete", (&anna(), NOW)).await.unwrap();
    store.remove_picture(picture.id).await.unwrap();
    store.remove_watch(id, WatchId::named("w")).await.unwrap();
    let bare = store.held(id).await.unwrap();
    assert!(bare.bytes < held.bytes / 3 && bare.pictures == 0, "{} of {}", bare.bytes, held.bytes);
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert!(store.held(id).await.unwrap().bytes > bare.bytes + 100_000, "and with the round its runs are back");
}

fn length(own: &impl serde::Serialize) -> usize {
    serde_json::to_vec(own).unwrap().len()
}

/// Whether a text stands in any of the files of a database.
fn stands_in(folder: &Path, text: &str) -> Vec<PathBuf> {
    let files = std::fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    let holds = |file: &PathBuf| {
        let bytes = std::fs::read(file).unwrap();
        bytes.windows(text.len()).any(|own| own == text.as_bytes())
    };
    files.filter(holds).collect()
}

#[tokio::test]
async fn what_is_deleted_for_good_is_gone_from_the_file() {
    let (folder, store, id) = with_terrace().await;
    let record = begin(&store, id).await;
    let secret = "the family keeps the key under the third pot";
    change(&store, id, &anna(), 2, |home| home.brief.complaint = secret.into()).await.unwrap();
    let noted = Run { note: Some(secret.into()), ..run(&record.round, SpotId::named("Study"), 9.0) };
    store.add_runs(record.round.id, &[noted], &[], None).await.unwrap();
    let shows = Shows::Spot { spot_id: SpotId::named("Study") };
    let picture = Picture { id: PictureId::random(), shows, at: NOW, note: secret.into() };
    store.add_picture(id, &picture, secret.as_bytes()).await.unwrap();
    let other = HomeId::named("other");
    store.create(other, &busy_hen_demo::gasworks_flat(), NOW).await.unwrap();
    assert!(!stands_in(folder.path(), secret).is_empty());
    store.delete(id).await.unwrap();
    assert!(!stands_in(folder.path(), secret).is_empty(), "it can still be brought back");
    store.throw_away(id).await.unwrap();
    assert_eq!(stands_in(folder.path(), secret), Vec::<PathBuf>::new());
    assert!(store.home(other).await.is_ok());
}

#[cfg(unix)]
#[tokio::test]
async fn a_database_is_in_use_under_any_name_that_leads_to_it() {
    let (folder, first) = store().await;
    let file = folder.path().join("test.db");
    let elsewhere = tempfile::tempdir().unwrap();
    let (soft, hard) = (elsewhere.path().join("soft.db"), folder.path().join("hard.db"));
    std::os::unix::fs::symlink(&file, &soft).unwrap();
    std::fs::hard_link(&file, &hard).unwrap();
    for name in [&soft, &hard, &folder.path().join("../").join(folder.path().file_name().unwrap()).join("test.db")] {
        let second = Store::open(name).await;
        assert!(matches!(&second, Err(StoreError::InUse(_))), "{}: {second:?}", name.display());
    }
    // It goes on, with all of its own locks.
    let id = HomeId::named("terrace");
    first.create(id, &busy_hen_demo::canal_terrace(), NOW).await.unwrap();
    first.close().await;
    drop(first);
    let by_link = Store::open(&soft).await.unwrap();
    assert!(by_link.home(id).await.is_ok());
    assert!(!elsewhere.path().join("soft.db-wal").exists(), "what lies beside it lies beside the file, not the link");
}

#[tokio::test]
async fn a_database_that_another_program_holds_is_told_in_a_sentence() {
    let (folder, first) = store().await;
    let file = folder.path().join("test.db");
    first.close().await;
    drop(first);
    let mut other = SqliteConnection::connect(&format!("sqlite://{}", file.display())).await.unwrap();
    sqlx::raw_sql("PRAGMA locking_mode = EXCLUSIVE; BEGIN EXCLUSIVE").execute(&mut other).await.unwrap();
    let told = Store::open(&file).await.unwrap_err();
    assert!(matches!(told, StoreError::Held), "{told:?}");
    assert!(told.to_string().contains("close it there"), "{told}");
    sqlx::raw_sql("ROLLBACK").execute(&mut other).await.unwrap();
    other.close().await.unwrap();
    Store::open(&file).await.unwrap();
}

#[tokio::test]
async fn a_copy_before_a_migration_has_its_name_only_when_it_is_whole() {
    let folder = tempfile::tempdir().unwrap();
    let file = folder.path().join("old.db");
    let kept = Path::new(env!("CARGO_MANIFEST_DIR")).join("../testkit/data/kept");
    let old = std::fs::read_dir(kept).unwrap().map(|entry| entry.unwrap().path());
    std::fs::copy(old.into_iter().find(|own| own.extension().is_some_and(|own| own == "db")).unwrap(), &file).unwrap();
    // What a start that was killed in the middle left behind.
    std::fs::write(folder.path().join("old.db.version-part"), "half of a copy").unwrap();
    Store::open(&file).await.unwrap().close().await;
    let aside = folder.path().join("old.db.version-1");
    assert!(!folder.path().join("old.db.version-part").exists());
    let mut copy = SqliteConnection::connect(&format!("sqlite://{}", aside.display())).await.unwrap();
    let sound: String = sqlx::query("PRAGMA integrity_check").fetch_one(&mut copy).await.unwrap().try_get(0).unwrap();
    let homes: i64 = sqlx::query("SELECT count(*) FROM home").fetch_one(&mut copy).await.unwrap().try_get(0).unwrap();
    assert_eq!((sound.as_str(), homes), ("ok", 3));
}

/// A file system of this many KiB, away with the value; none where the system lets nobody make one.
struct Disk(PathBuf);

impl Disk {
    fn of(folder: &Path, kib: u32) -> Option<Self> {
        std::fs::create_dir_all(folder).ok()?;
        let size = format!("size={kib}k");
        let made = Command::new("mount").args(["-t", "tmpfs", "-o", &size, "none"]).arg(folder).status();
        made.is_ok_and(|status| status.success()).then(|| Self(folder.to_owned()))
    }
}

impl Drop for Disk {
    fn drop(&mut self) {
        let _ = Command::new("umount").arg("--lazy").arg(&self.0).status();
    }
}

#[tokio::test]
async fn a_start_on_a_full_disk_is_told_in_a_sentence_and_nothing_is_lost() {
    let folder = tempfile::tempdir().unwrap();
    let Some(disk) = Disk::of(&folder.path().join("small"), 1024) else {
        eprintln!("no file system of its own can be made here; not tried");
        return;
    };
    let file = disk.0.join("home.db");
    let id = HomeId::named("terrace");
    let first = Store::open(&file).await.unwrap();
    first.create(id, &busy_hen_demo::canal_terrace(), NOW).await.unwrap();
    first.close().await;
    drop(first);
    let fill = |name: &str| {
        let mut size = 1 << 20;
        let mut parts = Vec::new();
        while size >= 1024 {
            let part = disk.0.join(format!("{name} {} {size}", parts.len()));
            if std::fs::write(&part, vec![1; size]).is_err() {
                let _ = std::fs::remove_file(&part);
                size /= 2;
            } else {
                parts.push(part);
            }
        }
        parts
    };
    let parts = fill("stuff");
    match Store::open(&file).await {
        Err(told) => assert!(matches!(told, StoreError::Full), "{told:?}"),
        Ok(store) => {
            let renamed = rename(&store, id, &anna(), 1, "no room").await;
            assert!(matches!(renamed, Err(StoreError::Full)), "{renamed:?}");
        }
    }
    let new = Store::open(&disk.0.join("new.db")).await.map(|_| ());
    assert!(matches!(new, Err(StoreError::Full)), "{new:?}");
    parts.iter().for_each(|own| std::fs::remove_file(own).unwrap());
    let again = Store::open(&file).await.unwrap();
    assert_eq!(again.home(id).await.unwrap().home, busy_hen_demo::canal_terrace());
}

#[tokio::test]
async fn codes_are_listed_withdrawn_and_end_and_come_back_with_their_round() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id).await;
    let hour = SignedDuration::from_hours(1);
    let at = |hours: i64| NOW + SignedDuration::from_hours(hours);
    store.pair("first digest of a code", record.round.id, (at(0), at(12)), false).await.unwrap();
    store.pair("other digest of a code", record.round.id, (at(1), at(13)), true).await.unwrap();
    let codes = store.codes(record.round.id).await.unwrap();
    assert_eq!(codes.iter().map(|own| own.pairing.stand_in).collect::<Vec<_>>(), [true, false], "newest first");
    let code = |now: Timestamp| {
        let store = store.clone();
        async move { store.paired("first digest of a code").await.unwrap().unwrap().may_test(now) }
    };
    assert!(code(at(12)).await && !code(at(12) + hour).await, "it ends after twelve hours");
    store.delete_round(record.round.id, "delete", (&anna(), NOW)).await.unwrap();
    assert!(!code(at(2)).await, "or with its round");
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert!(code(at(2)).await, "and is back with it");
    store.withdraw(record.round.id, &codes[1].id, at(3)).await.unwrap();
    store.withdraw(record.round.id, &codes[1].id, at(9)).await.unwrap();
    let ended = store.paired("first digest of a code").await.unwrap().unwrap();
    assert_eq!(ended.ends_at(), at(3), "from when it was withdrawn first");
    assert!(!code(at(4)).await && store.paired("other digest of a code").await.unwrap().unwrap().may_test(at(4)));
    assert!(matches!(store.withdraw(record.round.id, "nothing", at(4)).await, Err(StoreError::NotFound("code"))));
}

#[tokio::test]
async fn only_addresses_that_somebody_here_said_are_the_kits() {
    let (_folder, store, id) = with_terrace().await;
    let mut record = begin(&store, id).await;
    let said = |home: HomeId| {
        let store = store.clone();
        async move { store.kit_address_is_said(home, "http://192.168.1.1/report.json").await.unwrap() }
    };
    record.round.id = RoundId::named("with kit");
    let kit_report = Some("http://192.168.1.1/report.json".to_owned());
    record.round.on_record = Some(OnRecord { kit_report, ..OnRecord::default() });
    let other = HomeId::named("from a file");
    let brought =
        RoundRecord { round: Round { id: RoundId::named("brought"), ..record.round.clone() }, ..record.clone() };
    let whole = Whole { rounds: vec![(brought, Vec::new())], ..Whole::new(busy_hen_demo::canal_terrace()) };
    store.import(other, &whole, NOW).await.unwrap();
    assert!(!said(other).await, "it came with a file");
    let revision = store.home(id).await.unwrap().revision;
    store.create_round(id, revision, &record, "begin", (&anna(), NOW)).await.unwrap();
    assert!(said(id).await && !said(other).await, "who begins a round says it, for that home");
    store.say_kit_address(other, "http://192.168.1.1/report.json").await.unwrap();
    assert!(said(other).await);
}

/// What is counted by triggers is what is there, whatever was done: added, struck, corrected, undone, deleted, brought back, thrown away for good.
#[tokio::test]
async fn what_is_counted_is_what_is_there_and_every_change_raises_the_number_of_its_round_alone() {
    let (folder, store, id) = with_terrace().await;
    let record = begin(&store, id).await;
    let other = begin_other(&store, id).await;
    let spot = SpotId::named("Study");
    let agrees = async |what: &str| {
        let file = folder.path().join("test.db");
        let mut own = SqliteConnection::connect(&format!("sqlite://{}", file.display())).await.unwrap();
        let rows = sqlx::query(
            "SELECT held.bytes, (SELECT coalesce(sum(octet_length(document) + octet_length(trace)), 0) FROM run
                                  WHERE run.round_id = held.round_id AND removed_in IS NULL) AS there FROM held",
        );
        for row in rows.fetch_all(&mut own).await.unwrap() {
            let (counted, there): (i64, i64) = (row.try_get(0).unwrap(), row.try_get(1).unwrap());
            assert_eq!(counted, there, "{what}");
        }
        own.close().await.unwrap();
    };
    let numbers = async || {
        let list = store.round_numbers(id).await.unwrap();
        let of = |round: RoundId| list.iter().find(|own| own.0 == round).map(|own| own.1);
        (of(record.round.id), of(other))
    };
    let mut before = numbers().await;
    let raised = async |what: &str, before: &mut (Option<i64>, Option<i64>)| {
        agrees(what).await;
        let now = numbers().await;
        assert!(now.0 > before.0 && now.1 == before.1, "{what}: {before:?} {now:?}");
        *before = now;
    };
    let typed: Vec<Run> = (1..6).map(|down| run(&record.round, spot, f64::from(down))).collect();
    store.add_runs(record.round.id, &typed, &[], Some(("runs", &anna(), NOW))).await.unwrap();
    raised("added", &mut before).await;
    let strike = |_: &RoundRecord, run: &mut Run| {
        run.void = Some("the phone slipped, and slid under the kiln".into());
        Ok::<(), StoreError>(())
    };
    store.change_run(typed[0].id, "strike", (&anna(), NOW), strike).await.unwrap();
    raised("struck", &mut before).await;
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    raised("counted again", &mut before).await;
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    raised("taken back", &mut before).await;
    store.redo(id, &by(&anna(), None)).await.unwrap();
    raised("brought back", &mut before).await;
    store
        .change_round(record.round.id, |own| {
            own.confirmed.clear();
            Ok::<(), StoreError>(())
        })
        .await
        .unwrap();
    raised("a round changed", &mut before).await;
    let held = store.held(id).await.unwrap().bytes;
    store.delete_round(record.round.id, "delete", (&anna(), NOW)).await.unwrap();
    agrees("deleted").await;
    assert!(store.held(id).await.unwrap().bytes < held);
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    agrees("the round back").await;
    assert_eq!(store.held(id).await.unwrap().bytes, held);
    store.delete(id).await.unwrap();
    store.throw_away(id).await.unwrap();
    agrees("gone for good").await;
}
