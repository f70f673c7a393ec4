//! What storage promises: whole changes or none, undo and redo of one's own steps, and readings that never lose what they belong to.

use busy_hen_demo::canal_terrace;
use busy_hen_home::{Home, HomeId, Outcome, RoundId, Run, SetupId, Source, SpotId};
use busy_hen_store::{Editor, RoundRecord, Store, StoreError, Whole};
use busy_hen_testkit::runs::{BEGUN, round, run, tested};
use busy_hen_units::{MbitPerSec, Metres};
use jiff::{SignedDuration, Timestamp};

use crate::shared::{NOW, by, change, rename, rounds, store, with_terrace};

fn anna() -> Editor {
    Editor::new("anna")
}

fn ben() -> Editor {
    Editor::new("ben")
}

/// A round through these spots of the terrace, begun by anna in a setup.
async fn begin(store: &Store, id: HomeId, setup: &str, spots: &[SpotId]) -> RoundRecord {
    let stored = store.home(id).await.unwrap();
    let round = round(&format!("{setup} {}", spots.len()), SetupId::named(setup), spots.to_vec());
    let record = RoundRecord { tested: tested(&stored.home, &round), round };
    store.create_round(id, stored.revision, &record, "begin a round", (&anna(), NOW)).await.unwrap();
    record
}

fn study() -> SpotId {
    SpotId::named("Study")
}

fn walked(record: &RoundRecord, down: f64) -> Run {
    Run { source: Source::Walker, ..run(&record.round, record.round.spots[0], down) }
}

#[tokio::test]
async fn what_was_stored_comes_back_also_after_opening_again() {
    let (folder, store, id) = with_terrace().await;
    store.close().await;
    drop(store);
    let again = Store::open(&folder.path().join("test.db")).await.unwrap();
    let stored = again.home(id).await.unwrap();
    assert_eq!((stored.home, stored.revision), (canal_terrace(), 1));
    assert!(again.steps(id, &anna()).await.unwrap().undo.is_empty());
}

#[tokio::test]
async fn undo_and_redo_walk_through_ones_own_steps_and_numbers_are_never_used_again() {
    let (_folder, store, id) = with_terrace().await;
    rename(&store, id, &anna(), 1, "one").await.unwrap();
    let second = rename(&store, id, &anna(), 2, "two").await.unwrap();
    let back = store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert_eq!((back.home.name.as_str(), back.revision), ("one", 4));
    assert_eq!(store.redo(id, &by(&anna(), None)).await.unwrap().home.name, "two");
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    let third = rename(&store, id, &anna(), 6, "three").await.unwrap();
    assert!(third > second, "{third}");
    // A tab that still holds the revision of "two" must not be taken for one that holds "three".
    assert!(matches!(rename(&store, id, &ben(), second, "stale").await, Err(StoreError::BothChanged(_))));
    assert!(matches!(store.redo(id, &by(&anna(), None)).await, Err(StoreError::Conflict(_))), "a new step ends redo");
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert_eq!(store.undo(id, None, &by(&anna(), None)).await.unwrap().home.name, canal_terrace().name);
    assert!(matches!(store.undo(id, None, &by(&anna(), None)).await, Err(StoreError::Conflict(_))));
}

#[tokio::test]
async fn edits_of_different_things_on_one_revision_are_both_kept_and_of_the_same_thing_are_asked_about() {
    let (_folder, store, id) = with_terrace().await;
    change(&store, id, &anna(), 1, |home| home.brief.complaint = "slow".into()).await.unwrap();
    change(&store, id, &ben(), 1, |home| home.setups[0].devices[0].at.x_m = Metres::new(2.0)).await.unwrap();
    let both = store.home(id).await.unwrap().home;
    assert_eq!((both.brief.complaint.as_str(), both.setups[0].devices[0].at.x_m.get()), ("slow", 2.0));
    let told = change(&store, id, &ben(), 1, |home| home.brief.complaint = "fast".into()).await.unwrap_err();
    let StoreError::BothChanged(both) = told else { panic!("{told}") };
    assert_eq!((both[0].mine.clone(), both[0].theirs.clone()), (Some("fast".into()), Some("slow".into())));
    assert_eq!(store.home(id).await.unwrap().home.brief.complaint, "slow");
}

#[tokio::test]
async fn undo_takes_back_ones_own_step_and_leaves_what_others_did_since() {
    let (_folder, store, id) = with_terrace().await;
    change(&store, id, &anna(), 1, |home| home.brief.complaint = "slow".into()).await.unwrap();
    change(&store, id, &ben(), 2, |home| home.setups[0].devices[0].at.x_m = Metres::new(2.0)).await.unwrap();
    let back = store.undo(id, None, &by(&anna(), None)).await.unwrap().home;
    assert_eq!((back.brief.complaint, back.setups[0].devices[0].at.x_m.get()), (canal_terrace().brief.complaint, 2.0));
    assert_eq!(store.steps(id, &anna()).await.unwrap().redo.unwrap().what, "edit");
    // Somebody else's edit of the same thing is not undone with one's own.
    change(&store, id, &anna(), 4, |home| home.brief.complaint = "mine".into()).await.unwrap();
    change(&store, id, &ben(), 5, |home| home.brief.complaint = "theirs".into()).await.unwrap();
    assert!(matches!(store.undo(id, None, &by(&anna(), None)).await, Err(StoreError::BothChanged(_))));
    assert_eq!(store.home(id).await.unwrap().home.brief.complaint, "theirs");
}

#[tokio::test]
async fn pauses_in_typing_are_one_step_and_nudges_of_two_devices_are_two() {
    let (_folder, store, id) = with_terrace().await;
    let before = canal_terrace();
    for (revision, text) in [(1, "s"), (2, "sl"), (3, "slow")] {
        change(&store, id, &anna(), revision, |home| home.brief.complaint = text.into()).await.unwrap();
    }
    assert_eq!(store.steps(id, &anna()).await.unwrap().undo.len(), 1);
    let move_one = |index: usize| move |home: &mut Home| home.setups[1].devices[index].at.x_m = Metres::new(2.5);
    let named = |index: usize| format!("move {index}");
    for index in [0, 1] {
        let what = named(index);
        let name = |_: &Home, _: &Home| what.clone();
        let editor = anna();
        let with = busy_hen_store::Change { name: &name, ..by(&editor, Some(4 + index as i64)) };
        let step = |home: &mut Home| {
            move_one(index)(home);
            Ok::<(), StoreError>(())
        };
        store.change(id, &with, step).await.unwrap();
    }
    let steps = store.steps(id, &anna()).await.unwrap().undo;
    assert_eq!(steps.iter().map(|step| step.what.as_str()).collect::<Vec<_>>(), ["move 1", "move 0", "edit"]);
    let to = steps[1].number;
    let back = store.undo(id, Some(to), &by(&anna(), None)).await.unwrap().home;
    assert_eq!((back.setups, back.brief.complaint.as_str()), (before.setups, "slow"), "back to one step of the list");
    assert_eq!(store.undo(id, None, &by(&anna(), None)).await.unwrap().home.brief, before.brief);
}

#[tokio::test]
async fn a_refused_change_leaves_everything_as_it_was_and_one_that_alters_nothing_makes_no_step() {
    let (_folder, store, id) = with_terrace().await;
    let refuse = |home: &mut Home| {
        home.name = "half done".into();
        Err::<(), _>(StoreError::Conflict("no".into()))
    };
    assert!(store.change(id, &by(&anna(), Some(1)), refuse).await.is_err());
    assert_eq!(rename(&store, id, &anna(), 1, &canal_terrace().name).await.unwrap(), 1);
    assert_eq!(store.home(id).await.unwrap().home, canal_terrace());
}

#[tokio::test]
async fn runs_sent_twice_are_kept_once_and_other_figures_under_a_known_id_are_a_conflict() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    let mut one = walked(&record, 80.0);
    one.trace_mbps = vec![MbitPerSec::new(79.0)];
    let send = |runs: Vec<Run>| {
        let (store, round) = (store.clone(), record.round.id);
        async move { store.add_runs(round, &runs, &[], Some(("run", &anna(), NOW))).await }
    };
    send(vec![one.clone()]).await.unwrap();
    let later = Run { at: one.at + SignedDuration::from_secs(1), ..one.clone() };
    assert_eq!(send(vec![later]).await.unwrap(), [one.clone()], "as it is kept");
    let other = Run { outcome: Outcome::NoConnection, ..one.clone() };
    assert!(matches!(send(vec![walked(&record, 1.0), other]).await, Err(StoreError::Conflict(_))));
    assert_eq!(
        store.runs(record.round.id, None, None, 10).await.unwrap(),
        [one.clone()],
        "and none of that lot is kept"
    );
    let elsewhere = begin(&store, id, "B", &[study(), SpotId::named("Hall")]).await;
    let moved = Run { round_id: elsewhere.round.id, ..one.clone() };
    let refused = store.add_runs(elsewhere.round.id, &[moved], &[], Some(("run", &anna(), NOW))).await;
    assert!(matches!(refused, Err(StoreError::Conflict(_))));
    assert!(store.runs_of_round(record.round.id).await.unwrap()[0].trace_mbps.is_empty());
}

#[tokio::test]
async fn typed_runs_are_steps_and_runs_that_arrived_are_nobodys_to_undo() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    let round = record.round.id;
    let typed = run(&record.round, study(), 50.0);
    store.add_runs(round, std::slice::from_ref(&typed), &[], Some(("run at Study", &anna(), NOW))).await.unwrap();
    store.add_runs(round, &[walked(&record, 60.0)], &[], Some(("walk", &Editor::default(), NOW))).await.unwrap();
    assert_eq!(store.steps(id, &anna()).await.unwrap().undo[0].what, "run at Study");
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    let left = store.runs(round, None, None, 10).await.unwrap();
    assert!(left.len() == 1 && left[0].source == Source::Walker);
    assert!(store.steps(id, &anna()).await.unwrap().undo.is_empty(), "the round has runs that arrived: it stays");
    store.redo(id, &by(&anna(), None)).await.unwrap();
    assert_eq!(store.runs(round, None, None, 10).await.unwrap().len(), 2);
}

#[tokio::test]
async fn struck_and_corrected_runs_go_back_to_what_they_were() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    let typed = run(&record.round, study(), 50.0);
    store.add_runs(record.round.id, std::slice::from_ref(&typed), &[], Some(("run", &anna(), NOW))).await.unwrap();
    let strike = |_: &RoundRecord, run: &mut Run| {
        run.void = Some("door".into());
        Ok::<(), StoreError>(())
    };
    let (_, struck) = store.change_run(typed.id, "strike", (&anna(), NOW), strike).await.unwrap();
    assert!(!struck.counts());
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert_eq!(store.runs(record.round.id, None, None, 1).await.unwrap(), std::slice::from_ref(&typed));
    // When the run was changed again meanwhile, undo says so and takes nothing back.
    store.redo(id, &by(&anna(), None)).await.unwrap();
    let again = |_: &RoundRecord, run: &mut Run| {
        run.void = Some("call".into());
        Ok::<(), StoreError>(())
    };
    store.change_run(typed.id, "strike", (&ben(), NOW), again).await.unwrap();
    assert!(matches!(store.undo(id, None, &by(&anna(), None)).await, Err(StoreError::Conflict(_))));
}

#[tokio::test]
async fn a_deleted_round_is_gone_until_undo_brings_it_back_with_its_runs() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    store
        .add_runs(record.round.id, &[walked(&record, 9.0)], &[], Some(("walk", &Editor::default(), NOW)))
        .await
        .unwrap();
    store.delete_round(record.round.id, "delete a round", (&anna(), NOW)).await.unwrap();
    assert!(matches!(store.round(record.round.id).await, Err(StoreError::NotFound("round"))));
    assert!(rounds(&store, id).await.is_empty() && store.round_numbers(id).await.unwrap().is_empty());
    let refused =
        store.add_runs(record.round.id, &[walked(&record, 9.0)], &[], Some(("walk", &Editor::default(), NOW))).await;
    assert!(matches!(refused, Err(StoreError::NotFound("round"))));
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert_eq!(store.runs_of_round(record.round.id).await.unwrap().len(), 1);
    store.redo(id, &by(&anna(), None)).await.unwrap();
    assert!(rounds(&store, id).await.is_empty());
}

#[tokio::test]
async fn a_round_keeps_what_it_was_taken_in_whatever_is_done_to_the_home() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "B", &[study()]).await;
    let revision = store.home(id).await.unwrap().revision;
    change(&store, id, &anna(), revision, |home| home.setups[1].devices.clear()).await.unwrap();
    let (_, kept) = store.round(record.round.id).await.unwrap();
    assert_eq!(kept, record);
    assert_eq!(kept.tested.home.setups.len(), 1);
    assert_eq!(kept.tested.home.setups[0].devices, canal_terrace().setups[1].devices);
    // Rounds taken in one state share what is kept of it.
    begin(&store, id, "A", &[study(), SpotId::named("Hall")]).await;
}

#[tokio::test]
async fn a_round_protects_its_setup_and_its_spots_and_deleting_it_frees_them() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "B", &[study()]).await;
    let revision = store.home(id).await.unwrap().revision;
    let drop_spot = |home: &mut Home| home.house.spots.retain(|own| own.id != study());
    let told = change(&store, id, &anna(), revision, drop_spot).await.unwrap_err();
    assert!(matches!(told, StoreError::HoldsReadings(_)) && told.to_string().contains("Study"), "{told}");
    let drop_setup = |home: &mut Home| home.setups.retain(|own| own.id != SetupId::named("B"));
    let told = change(&store, id, &anna(), revision, drop_setup).await.unwrap_err();
    assert!(told.to_string().contains("Setup B holds 1 round with 0 runs"), "{told}");
    // With leave, the setup goes with its rounds, and comes back with them.
    let editor = anna();
    let with = busy_hen_store::Change { with_readings: true, ..by(&editor, Some(revision)) };
    let gone = |home: &mut Home| {
        drop_setup(home);
        Ok::<(), StoreError>(())
    };
    store.change(id, &with, gone).await.unwrap();
    assert!(rounds(&store, id).await.is_empty());
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert_eq!(rounds(&store, id).await.len(), 1);
    store.delete_round(record.round.id, "delete", (&anna(), NOW)).await.unwrap();
    let revision = store.home(id).await.unwrap().revision;
    change(&store, id, &anna(), revision, drop_spot).await.unwrap();
    // Brought back, the round still means what it meant, and blocks no edit of anything else.
    store.undo(id, Some(revision), &by(&anna(), None)).await.unwrap();
    let revision = store.home(id).await.unwrap().revision;
    change(&store, id, &anna(), revision, |home| home.brief.complaint = "on".into()).await.unwrap();
}

#[tokio::test]
async fn a_round_is_made_for_the_home_as_it_stands_or_not_at_all() {
    let (_folder, store, id) = with_terrace().await;
    let stored = store.home(id).await.unwrap();
    rename(&store, id, &ben(), 1, "meanwhile").await.unwrap();
    let round = round("r", SetupId::named("A"), vec![study()]);
    let record = RoundRecord { tested: tested(&stored.home, &round), round };
    let begun = store.create_round(id, stored.revision, &record, "begin", (&anna(), NOW)).await;
    assert!(matches!(begun, Err(StoreError::Stale)));
}

#[tokio::test]
async fn times_sort_as_they_were_whatever_their_precision() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    let at = |nanos: i32| Run { at: Timestamp::new(BEGUN.as_second(), nanos).unwrap(), ..walked(&record, 1.0) };
    let runs = [at(0), at(500_000_000), at(1), at(250)];
    store.add_runs(record.round.id, &runs, &[], Some(("walk", &anna(), NOW))).await.unwrap();
    let order: Vec<i32> = store
        .runs(record.round.id, None, None, 10)
        .await
        .unwrap()
        .iter()
        .map(|run| run.at.subsec_nanosecond())
        .collect();
    assert_eq!(order, [0, 1, 250, 500_000_000]);
    let newest = store.runs(record.round.id, None, None, 2).await.unwrap();
    assert_eq!(newest.iter().map(|run| run.at.subsec_nanosecond()).collect::<Vec<_>>(), [250, 500_000_000]);
    let before = store.runs(record.round.id, Some(study()), Some(newest[0].id), 9).await.unwrap();
    assert_eq!(before.iter().map(|run| run.at.subsec_nanosecond()).collect::<Vec<_>>(), [0, 1], "and on by pages");
}

#[tokio::test]
async fn the_state_of_readings_has_a_number_that_every_change_raises() {
    let (_folder, store, id) = with_terrace().await;
    let number = || async { store.standing(id).await.unwrap().readings };
    let mut seen = vec![number().await];
    let record = begin(&store, id, "A", &[study()]).await;
    seen.push(number().await);
    let one = walked(&record, 1.0);
    for _ in 0..2 {
        store.add_runs(record.round.id, std::slice::from_ref(&one), &[], Some(("walk", &anna(), NOW))).await.unwrap();
        seen.push(number().await);
    }
    store.delete_round(record.round.id, "delete", (&anna(), NOW)).await.unwrap();
    seen.push(number().await);
    store.undo(id, None, &by(&anna(), None)).await.unwrap();
    seen.push(number().await);
    assert_eq!(seen, [1, 2, 3, 3, 4, 5], "the same run twice is no change");
}

#[tokio::test]
async fn whoever_listens_hears_of_every_change() {
    let (_folder, store, id) = with_terrace().await;
    let mut heard = store.listen();
    rename(&store, id, &anna(), 1, "one").await.unwrap();
    assert_eq!(heard.recv().await.unwrap(), id);
}

#[tokio::test]
async fn nothing_hangs_on_what_is_not_there() {
    let (_folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    store.add_runs(record.round.id, &[walked(&record, 1.0)], &[], Some(("walk", &anna(), NOW))).await.unwrap();
    assert!(matches!(store.round(RoundId::named("none")).await, Err(StoreError::NotFound("round"))));
    store.delete(id).await.unwrap();
    assert!(matches!(store.round(record.round.id).await, Err(StoreError::NotFound("round"))), "deleted with its home");
    assert!(matches!(store.delete(id).await, Err(StoreError::NotFound("home"))));
    let orphan = store.create_round(id, 1, &record, "begin", (&anna(), NOW)).await;
    assert!(matches!(orphan, Err(StoreError::NotFound("home"))));
}

#[tokio::test]
async fn a_deleted_home_comes_back_whole_until_the_program_ends() {
    let (folder, store, id) = with_terrace().await;
    let record = begin(&store, id, "A", &[study()]).await;
    store.add_runs(record.round.id, &[walked(&record, 1.0)], &[], Some(("walk", &anna(), NOW))).await.unwrap();
    let later = NOW + jiff::SignedDuration::from_hours(1);
    store.pair("code", record.round.id, (NOW, later), false).await.unwrap();
    let (before, steps) = (store.home(id).await.unwrap(), store.steps(id, &anna()).await.unwrap());
    let standing = store.standing(id).await.unwrap();
    store.delete(id).await.unwrap();
    assert!(matches!(store.standing(id).await, Err(StoreError::NotFound("home"))));
    assert!(store.heads(jiff::civil::date(2026, 12, 1), "").await.unwrap().is_empty());
    assert_eq!(store.deleted_homes().await.unwrap(), [(id, before.home.name.clone())]);
    assert!(!store.paired("code").await.unwrap().unwrap().may_test(NOW), "its codes open nothing");
    assert_eq!(store.last_code_ends(NOW).await.unwrap(), None);
    assert!(matches!(store.pair("another", record.round.id, (NOW, later), false).await, Err(StoreError::NotFound(_))));
    assert!(store.all_drills().await.unwrap().is_empty());
    store.bring_back(id).await.unwrap();
    assert!(matches!(store.bring_back(id).await, Err(StoreError::NotFound("home"))));
    assert_eq!((store.home(id).await.unwrap(), store.steps(id, &anna()).await.unwrap()), (before, steps));
    assert_eq!(store.standing(id).await.unwrap(), standing);
    assert_eq!(store.runs_of_round(record.round.id).await.unwrap().len(), 1);
    assert_eq!(store.last_code_ends(NOW).await.unwrap(), Some(later));
    assert!(matches!(store.throw_away(id).await, Err(StoreError::NotFound("home"))), "only what was deleted");
    store.delete(id).await.unwrap();
    store.close().await;
    drop(store);
    let again = Store::open(&folder.path().join("test.db")).await.unwrap();
    assert!(again.deleted_homes().await.unwrap().is_empty());
    assert!(matches!(again.bring_back(id).await, Err(StoreError::NotFound("home"))));
}

#[tokio::test]
async fn many_runs_come_in_piece_by_piece_and_others_write_meanwhile() {
    let (_folder, store) = store().await;
    let home = canal_terrace();
    let round = round("r", SetupId::named("A"), vec![study()]);
    let runs: Vec<Run> = (0..9000).map(|_| run(&round, study(), 5.0)).collect();
    let record = RoundRecord { tested: tested(&home, &round), round };
    let (large, small) = (HomeId::named("large"), HomeId::named("small"));
    let whole = Whole { rounds: vec![(record.clone(), runs)], ..Whole::new(home.clone()) };
    store.create(small, &home, NOW).await.unwrap();
    let mut during = 0;
    let (arrived, ()) = tokio::join!(store.import(large, &whole, NOW), async {
        for number in 0..6 {
            if rename(&store, small, &anna(), 1 + number, &format!("name {number}")).await.is_ok()
                && store.home(large).await.is_err()
            {
                during += 1;
            }
        }
    });
    assert_eq!(arrived.unwrap().revision, 1);
    assert!(during >= 2, "{during} changes got their turn before all had arrived");
    assert_eq!(store.runs_of_round(record.round.id).await.unwrap().len(), 9000);
    // Of a file whose round is there already nothing is kept.
    let again = store.import(HomeId::named("again"), &whole, NOW).await;
    assert!(matches!(again, Err(StoreError::Conflict(_))));
    assert!(matches!(store.home(HomeId::named("again")).await, Err(StoreError::NotFound(_))));
}

#[tokio::test]
async fn a_sitting_of_typing_is_one_step_and_none_once_it_is_taken_back() {
    let (_folder, store, id) = with_terrace().await;
    rename(&store, id, &anna(), 1, "before").await.unwrap();
    let mut revision = 2;
    let hour = |hours: i64| NOW + SignedDuration::from_hours(hours);
    let before = store.home(id).await.unwrap().home.house.levels[0].lines.clone();
    let named = |_: &Home, _: &Home| "typed".to_owned();
    let mut lines = before.clone();
    for n in 0..260 {
        lines.push('\n');
        let (lines, editor) = (lines.clone(), anna());
        let with =
            busy_hen_store::Change { typing: "sitting", now: hour(n), name: &named, ..by(&editor, Some(revision)) };
        let typed = store.change(id, &with, |home| -> Result<(), StoreError> {
            home.house.levels[0].lines = lines;
            Ok(())
        });
        revision = typed.await.unwrap().revision;
    }
    let steps = async || -> Vec<String> {
        store.steps(id, &anna()).await.unwrap().undo.into_iter().map(|step| step.what).collect()
    };
    assert_eq!(steps().await, ["typed", "rename to before"], "one step, though an hour lay between each");
    let (editor, text) = (anna(), before.clone());
    let with = busy_hen_store::Change { typing: "sitting", name: &named, ..by(&editor, None) };
    let taken_back = store.change(id, &with, |home| -> Result<(), StoreError> {
        home.house.levels[0].lines = text;
        Ok(())
    });
    taken_back.await.unwrap();
    assert_eq!(steps().await, ["rename to before"], "what was taken back in the text is not undone once more");
    let with = busy_hen_store::Change { typing: "sitting", name: &named, ..by(&editor, None) };
    let typed = store.change(id, &with, |home| -> Result<(), StoreError> {
        home.house.levels[0].lines = lines;
        Ok(())
    });
    typed.await.unwrap();
    let back = store.undo(id, None, &by(&anna(), None)).await.unwrap();
    assert_eq!((back.home.house.levels[0].lines.as_str(), back.home.name.as_str()), (before.as_str(), "before"));
}
