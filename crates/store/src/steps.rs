//! Changes of a home as steps: each has a number never used before, says what it was made on, and can be undone by its editor.
//!
//! Two edits of one home are brought together thing by thing (see [`merge`]); undo is the same: what a step changed is changed back,
//! and what others did since stays. So nobody's undo takes back what somebody else did, or a run that has arrived meanwhile.

use busy_hen_home::{Faults, Home, HomeId, RoundId, Run, RunId, SetupId, SpotId, merge};
use jiff::{SignedDuration, Timestamp};
use serde::{Deserialize, Serialize};
use sqlx::{Row, SqliteConnection};

use crate::editor::Editor;
use crate::room::has_room;
use crate::rows::homes::{Stored, count_readings, read};
use crate::rows::parsed;
use crate::rows::rounds::{drop_unused_frozen, rounds_of, set_deleted};
use crate::rows::runs::{run_if_there, set_removed, update_run};
use crate::{RoundRecord, Store, StoreError};

/// Revisions kept for bringing edits together, and of each editor for undo ...
const KEPT: i64 = 200;
/// ... for so long: windows that are closed never come back for theirs.
const KEPT_FOR: SignedDuration = SignedDuration::from_hours(24 * 30);
/// Newest revisions among which those that the next one carried on are kept too.
const CARRIED_ON_KEPT: i64 = 30;
/// Steps that are listed.
const LISTED: i64 = 30;
/// A pause between two edits of one thing by one editor that does not make two steps of them.
const PAUSE: SignedDuration = SignedDuration::from_secs(20);

/// What goes with a change of a home: what it was made on, by whom, when, and the rules that storage does not know.
pub struct Change<'a> {
    /// Revision that the change was made on; none when it fits any.
    pub base: Option<i64>,
    /// Who makes it.
    pub editor: &'a Editor,
    /// When.
    pub now: Timestamp,
    /// Whether rounds of a setup that goes may go with it.
    pub with_readings: bool,
    /// The sitting of typing that it belongs to; empty for none. Its steps, while nothing comes between, are one to undo.
    pub typing: &'a str,
    /// Names the step by what differs.
    pub name: &'a dyn Fn(&Home, &Home) -> String,
    /// Checks what comes of bringing it together with what others did.
    pub check: &'a dyn Fn(&Home) -> Result<(), Faults>,
}

/// A step that can be gone back to.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Step {
    /// Its number.
    pub number: i64,
    /// What it did.
    pub what: String,
    /// When.
    pub at: Option<Timestamp>,
}

/// What an editor can undo and redo.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Steps {
    /// Steps that can be undone, newest first.
    pub undo: Vec<Step>,
    /// The undone step that redo brings back.
    pub redo: Option<Step>,
}

/// What a step did besides changing the home's document.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
#[serde(rename_all = "snake_case")]
pub(crate) enum Effect {
    /// A round was begun.
    RoundBegun { round: RoundId },
    /// A round was deleted, with its runs.
    RoundDeleted { round: RoundId },
    /// Runs were typed in.
    RunsTyped { runs: Vec<RunId> },
    /// A run was struck, counted again or corrected.
    RunChanged { before: Box<Run>, after: Box<Run> },
}

/// A revision as undo and redo need it.
struct Revision {
    number: i64,
    what: String,
    since: i64,
    undoes: Option<i64>,
    effects: Vec<Effect>,
}

impl Store {
    /// Changes a home by a function, as one step, in one transaction.
    ///
    /// The function changes the home as it was at the base, and checks what it made. When the home has changed since, the two are
    /// brought together. A change that alters nothing makes no step.
    ///
    /// # Errors
    /// [`StoreError::NotFound`]; [`StoreError::Stale`] when the base is too old; [`StoreError::BothChanged`];
    /// [`StoreError::HoldsReadings`] when rounds would lose their setup or spots; or the refusal of `change` or of the check.
    pub async fn change<E: From<StoreError>>(
        &self,
        id: HomeId,
        with: &Change<'_>,
        change: impl FnOnce(&mut Home) -> Result<(), E>,
    ) -> Result<Stored, E> {
        let stored = self
            .writer
            .write(async |connection| {
                let current = read(connection, id).await?;
                let base = with.base.unwrap_or(current.revision);
                let home = if base == current.revision {
                    let mut home = current.home.clone();
                    change(&mut home)?;
                    home
                } else {
                    let before = document(connection, id, base).await?.ok_or(StoreError::Stale)?;
                    let mut mine = before.clone();
                    change(&mut mine)?;
                    let merged = merge(&before, &mine, &current.home).map_err(StoreError::BothChanged)?;
                    (with.check)(&merged).map_err(StoreError::from)?;
                    merged
                };
                if home == current.home {
                    return Ok(current);
                }
                let deleted = held_readings(connection, id, &current.home, &home, with.with_readings).await?;
                let effects = deleted.iter().map(|round| Effect::RoundDeleted { round: *round }).collect();
                let what = (with.name)(&current.home, &home);
                let by = By { editor: with.editor, now: with.now, typing: with.typing };
                let number = append(connection, &current, &home, &what, by, effects).await?;
                for round in &deleted {
                    set_deleted(connection, *round, Some(number)).await?;
                }
                if !deleted.is_empty() {
                    count_readings(connection, id).await?;
                }
                Ok::<_, E>(read(connection, id).await?)
            })
            .await?;
        self.tell(id);
        Ok(stored)
    }

    /// Takes back an editor's own last step; or all of them back to a step, that one included.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when there is nothing of theirs to undo; [`StoreError::BothChanged`] when others have changed the same
    /// since; then nothing is undone.
    pub async fn undo(&self, id: HomeId, to: Option<i64>, with: &Change<'_>) -> Result<Stored, StoreError> {
        let stored = self
            .writer
            .write(async |connection| {
                loop {
                    let nothing = || StoreError::Conflict("There is nothing of yours to undo.".into());
                    let step = undoable(connection, id, with.editor, 1).await?.pop().ok_or_else(nothing)?;
                    if to.is_some_and(|to| step.number < to) {
                        break;
                    }
                    turn(connection, id, &step, "undo", with).await?;
                    if to.is_none_or(|to| step.number == to) {
                        break;
                    }
                }
                read(connection, id).await
            })
            .await?;
        self.tell(id);
        Ok(stored)
    }

    /// Brings back the step that an editor undid last.
    ///
    /// # Errors
    /// As [`Store::undo`].
    pub async fn redo(&self, id: HomeId, with: &Change<'_>) -> Result<Stored, StoreError> {
        let stored = self
            .writer
            .write(async |connection| {
                let nothing = || StoreError::Conflict("There is nothing of yours to redo.".into());
                let undone = redoable(connection, id, with.editor).await?.ok_or_else(nothing)?;
                turn(connection, id, &undone, "redo", with).await?;
                read(connection, id).await
            })
            .await?;
        self.tell(id);
        Ok(stored)
    }

    /// What an editor can undo and redo in a home.
    ///
    /// # Errors
    /// [`StoreError::Database`] or [`StoreError::Document`].
    pub async fn steps(&self, id: HomeId, editor: &Editor) -> Result<Steps, StoreError> {
        let connection = &mut *self.readers.acquire().await?;
        let undo = undoable(connection, id, editor, LISTED).await?;
        let redo = redoable(connection, id, editor).await?;
        let mut listed = Vec::with_capacity(undo.len());
        for one in undo.iter().chain(&redo) {
            let at: String = sqlx::query("SELECT at FROM revision WHERE home_id = ? AND number = ?")
                .bind(id.to_string())
                .bind(one.number)
                .fetch_one(&mut *connection)
                .await?
                .try_get(0)?;
            listed.push(Step { number: one.number, what: one.what.clone(), at: parsed(&at).ok() });
        }
        let redo = redo.and_then(|_| listed.pop());
        Ok(Steps { undo: listed, redo })
    }
}

/// The home as it was at a revision; none when that is no longer kept.
async fn document(connection: &mut SqliteConnection, id: HomeId, number: i64) -> Result<Option<Home>, StoreError> {
    let row = sqlx::query("SELECT document FROM revision WHERE home_id = ? AND number = ?")
        .bind(id.to_string())
        .bind(number)
        .fetch_optional(connection)
        .await?;
    row.map(|row| serde_json::from_str(row.try_get("document")?).map_err(StoreError::from)).transpose()
}

/// An editor's steps that can be undone, newest first, at most so many.
async fn undoable(
    connection: &mut SqliteConnection,
    id: HomeId,
    editor: &Editor,
    most: i64,
) -> Result<Vec<Revision>, StoreError> {
    // A sitting of typing that was taken back in the text has nothing left to undo.
    // Beginning a round is no longer undone once runs have arrived in it: they are not the editor's to take back.
    let rows = sqlx::query(
        "SELECT number, what, since, undoes, effects FROM revision AS own
          WHERE home_id = ?1 AND editor = ?2 AND kind = 'step' AND joined = 0 AND undone_by IS NULL AND since IS NOT NULL
            AND EXISTS (SELECT 1 FROM revision AS before WHERE before.home_id = ?1 AND before.number = own.since
                           AND (own.effects <> '[]' OR before.document <> own.document))
            AND NOT EXISTS (SELECT 1 FROM json_each(own.effects) AS effect
                              JOIN run ON run.round_id = json_extract(effect.value, '$.round_begun.round')
                             WHERE run.removed_in IS NULL)
          ORDER BY number DESC LIMIT ?3",
    )
    .bind(id.to_string())
    .bind(editor.to_string())
    .bind(most)
    .fetch_all(connection)
    .await?;
    rows.iter().map(revision).collect()
}

/// The undo that an editor made last and can take back; none after a step of theirs that came later.
async fn redoable(
    connection: &mut SqliteConnection,
    id: HomeId,
    editor: &Editor,
) -> Result<Option<Revision>, StoreError> {
    let row = sqlx::query(
        "SELECT number, what, since, undoes, effects FROM revision AS own
          WHERE home_id = ?1 AND editor = ?2 AND kind = 'undo' AND undone_by IS NULL
            AND EXISTS (SELECT 1 FROM revision AS before WHERE before.home_id = ?1 AND before.number = own.since)
            AND NOT EXISTS (SELECT 1 FROM revision AS later WHERE later.home_id = ?1 AND later.editor = ?2
                               AND later.kind = 'step' AND later.number > own.number)
          ORDER BY number DESC LIMIT 1",
    )
    .bind(id.to_string())
    .bind(editor.to_string())
    .fetch_optional(connection)
    .await?;
    row.as_ref().map(revision).transpose()
}

fn revision(row: &sqlx::sqlite::SqliteRow) -> Result<Revision, StoreError> {
    Ok(Revision {
        number: row.try_get("number")?,
        what: row.try_get("what")?,
        since: row.try_get("since")?,
        undoes: row.try_get("undoes")?,
        effects: serde_json::from_str(row.try_get("effects")?)?,
    })
}

/// Changes back what a step, or an undo of one, changed.
async fn turn(
    connection: &mut SqliteConnection,
    id: HomeId,
    step: &Revision,
    kind: &str,
    with: &Change<'_>,
) -> Result<(), StoreError> {
    let current = read(connection, id).await?;
    let gone = || StoreError::Conflict("That is too long ago to be undone.".into());
    let before = document(connection, id, step.since).await?.ok_or_else(gone)?;
    let after = document(connection, id, step.number).await?.ok_or_else(gone)?;
    let home = merge(&after, &before, &current.home).map_err(StoreError::BothChanged)?;
    (with.check)(&home)?;
    held_readings(connection, id, &current.home, &home, false).await?;
    let number = next_number(connection, id).await?;
    let mut turned = Vec::new();
    for effect in &step.effects {
        turned.push(turn_effect(connection, effect, number).await?);
    }
    if !turned.is_empty() {
        // What was added since may have taken the room of what comes back.
        has_room(connection, id).await?;
        count_readings(connection, id).await?;
    }
    let row = Written { kind, since: current.revision, undoes: Some(step.number), effects: &turned };
    write_revision(connection, id, number, &step.what, &home, By::of(with.editor, with.now), &row).await?;
    let mark = "UPDATE revision SET undone_by = ? WHERE home_id = ? AND number = ?";
    sqlx::query(mark).bind(number).bind(id.to_string()).bind(step.number).execute(&mut *connection).await?;
    if let Some(original) = step.undoes {
        // Brought back, the original step can be undone again.
        sqlx::query(mark).bind(None::<i64>).bind(id.to_string()).bind(original).execute(connection).await?;
    }
    Ok(())
}

/// Does the opposite of an effect, and gives back what that is.
async fn turn_effect(connection: &mut SqliteConnection, effect: &Effect, number: i64) -> Result<Effect, StoreError> {
    match effect {
        Effect::RoundBegun { round } => {
            set_deleted(connection, *round, Some(number)).await?;
            Ok(Effect::RoundDeleted { round: *round })
        }
        Effect::RoundDeleted { round } => {
            set_deleted(connection, *round, None).await?;
            Ok(Effect::RoundBegun { round: *round })
        }
        Effect::RunsTyped { runs } => {
            let mut back = Vec::new();
            for run in runs {
                let there = run_if_there(connection, *run).await?.is_some();
                set_removed(connection, *run, there.then_some(number)).await?;
                back.push(*run);
            }
            Ok(Effect::RunsTyped { runs: back })
        }
        Effect::RunChanged { before, after } => {
            let now = run_if_there(connection, after.id).await?.ok_or(StoreError::NotFound("run"))?;
            if now != **after {
                return Err(StoreError::Conflict("This run was changed again since; change it there.".into()));
            }
            update_run(connection, before).await?;
            Ok(Effect::RunChanged { before: after.clone(), after: before.clone() })
        }
    }
}

/// What a revision is besides its document.
struct Written<'a> {
    kind: &'a str,
    since: i64,
    undoes: Option<i64>,
    effects: &'a [Effect],
}

/// Who makes a revision, when, and in which sitting of typing.
#[derive(Clone, Copy)]
pub(crate) struct By<'a> {
    pub editor: &'a Editor,
    pub now: Timestamp,
    pub typing: &'a str,
}

impl<'a> By<'a> {
    pub fn of(editor: &'a Editor, now: Timestamp) -> Self {
        Self { editor, now, typing: "" }
    }
}

/// Adds a step to a home; it carries on the last one when the same editor did the same a moment ago, or in the same sitting of typing.
pub(crate) async fn append(
    connection: &mut SqliteConnection,
    current: &Stored,
    home: &Home,
    what: &str,
    by: By<'_>,
    effects: Vec<Effect>,
) -> Result<i64, StoreError> {
    let id = current.id;
    let mut since = current.revision;
    if effects.is_empty() {
        let last = sqlx::query(
            "SELECT since, at, typing FROM revision WHERE home_id = ?1 AND number = ?2 AND kind = 'step' AND editor = ?3
                AND (what = ?4 OR typing = ?5 AND typing <> '')
                AND effects = '[]' AND undone_by IS NULL AND since IS NOT NULL",
        )
        .bind(id.to_string())
        .bind(current.revision)
        .bind(by.editor.to_string())
        .bind(what)
        .bind(by.typing)
        .fetch_optional(&mut *connection)
        .await?;
        if let Some(last) = last
            && let Ok(at) = parsed::<Timestamp>(last.try_get("at")?)
            && (by.now.duration_since(at).abs() <= PAUSE
                || !by.typing.is_empty() && last.try_get::<String, _>("typing")? == by.typing)
        {
            since = last.try_get("since")?;
            sqlx::query("UPDATE revision SET joined = 1 WHERE home_id = ? AND number = ?")
                .bind(id.to_string())
                .bind(current.revision)
                .execute(&mut *connection)
                .await?;
        }
    }
    let number = next_number(connection, id).await?;
    let row = Written { kind: "step", since, undoes: None, effects: &effects };
    write_revision(connection, id, number, what, home, by, &row).await?;
    Ok(number)
}

async fn next_number(connection: &mut SqliteConnection, id: HomeId) -> Result<i64, StoreError> {
    // Revisions are only added, and the one in force is never dropped: the highest number is the last one used.
    let row = sqlx::query("SELECT coalesce(max(number), 0) + 1 FROM revision WHERE home_id = ?")
        .bind(id.to_string())
        .fetch_one(connection)
        .await?;
    Ok(row.try_get(0)?)
}

async fn write_revision(
    connection: &mut SqliteConnection,
    id: HomeId,
    number: i64,
    what: &str,
    home: &Home,
    by: By<'_>,
    row: &Written<'_>,
) -> Result<(), StoreError> {
    sqlx::query(
        "INSERT INTO revision (home_id, number, what, document, kind, editor, at, since, undoes, effects, typing)
         VALUES (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(id.to_string())
    .bind(number)
    .bind(what)
    .bind(serde_json::to_string(home)?)
    .bind(row.kind)
    .bind(by.editor.to_string())
    .bind(by.now.to_string())
    .bind((row.since > 0).then_some(row.since))
    .bind(row.undoes)
    .bind(serde_json::to_string(row.effects)?)
    .bind(by.typing)
    .execute(&mut *connection)
    .await?;
    sqlx::query("UPDATE home SET revision = ?, changed_at = ? WHERE id = ?")
        .bind(number)
        .bind(by.now.to_string())
        .bind(id.to_string())
        .execute(&mut *connection)
        .await?;
    prune(connection, id, by.now).await
}

/// Writes the first revision of a home.
pub(crate) async fn write_first(
    connection: &mut SqliteConnection,
    id: HomeId,
    home: &Home,
    now: Timestamp,
) -> Result<(), StoreError> {
    let row = Written { kind: "step", since: 0, undoes: None, effects: &[] };
    write_revision(connection, id, 1, "new home", home, By::of(&Editor::default(), now), &row).await
}

/// Drops revisions that nobody can go back to any more, and for good what only they could have brought back. Each editor's own newest are kept for a
/// month, whatever others do meanwhile; and of those that were carried on by the next one only the newest, which open pages may still build on.
async fn prune(connection: &mut SqliteConnection, id: HomeId, now: Timestamp) -> Result<(), StoreError> {
    sqlx::query(
        "DELETE FROM revision WHERE home_id = ?1 AND joined = 1
            AND number <= (SELECT max(number) - ?2 FROM revision WHERE home_id = ?1)
            AND number NOT IN (SELECT since FROM revision WHERE home_id = ?1 AND since IS NOT NULL)",
    )
    .bind(id.to_string())
    .bind(CARRIED_ON_KEPT)
    .execute(&mut *connection)
    .await?;
    let dropped = sqlx::query(
        "WITH own AS (SELECT number, since, at, row_number() OVER (PARTITION BY editor ORDER BY number DESC) AS of_editor,
                             row_number() OVER (ORDER BY number DESC) AS of_all
                        FROM revision WHERE home_id = ?1 AND joined = 0),
              kept AS (SELECT number, since FROM own WHERE of_all <= ?2 OR of_editor <= ?2 AND at >= ?3)
         DELETE FROM revision WHERE home_id = ?1
            AND (SELECT count(*) FROM own) > ?2
            AND number < (SELECT min(number) FROM own WHERE of_all <= ?2)
            AND number NOT IN (SELECT number FROM kept)
            AND number NOT IN (SELECT since FROM kept WHERE since IS NOT NULL)",
    )
    .bind(id.to_string())
    .bind(KEPT)
    .bind(now.saturating_sub(KEPT_FOR).unwrap_or(Timestamp::MIN).to_string())
    .execute(&mut *connection)
    .await?;
    if dropped.rows_affected() == 0 {
        return Ok(());
    }
    let rounds = sqlx::query(
        "DELETE FROM round WHERE home_id = ?1 AND deleted_in IS NOT NULL
            AND deleted_in NOT IN (SELECT number FROM revision WHERE home_id = ?1)",
    )
    .bind(id.to_string())
    .execute(&mut *connection)
    .await?;
    sqlx::query(
        "DELETE FROM run WHERE removed_in IS NOT NULL AND round_id IN (SELECT id FROM round WHERE home_id = ?1)
            AND removed_in NOT IN (SELECT number FROM revision WHERE home_id = ?1)",
    )
    .bind(id.to_string())
    .execute(&mut *connection)
    .await?;
    if rounds.rows_affected() > 0 {
        drop_unused_frozen(connection).await?;
    }
    Ok(())
}

/// Rounds that go because their setup does.
///
/// # Errors
/// [`StoreError::HoldsReadings`] when a change takes a spot from under a round, or a setup without leave.
async fn held_readings(
    connection: &mut SqliteConnection,
    id: HomeId,
    before: &Home,
    after: &Home,
    with_readings: bool,
) -> Result<Vec<RoundId>, StoreError> {
    let gone_setups: Vec<SetupId> =
        before.setups.iter().map(|setup| setup.id).filter(|setup| after.setup(*setup).is_none()).collect();
    let there = |spot: SpotId, home: &Home| home.house.spots.iter().any(|own| own.id == spot);
    let gone_spots: Vec<SpotId> =
        before.house.spots.iter().map(|spot| spot.id).filter(|spot| !there(*spot, after)).collect();
    if gone_setups.is_empty() && gone_spots.is_empty() {
        return Ok(Vec::new());
    }
    let rounds = rounds_of(connection, id).await?;
    let of_gone = |setup: SetupId| gone_setups.contains(&setup);
    let going: Vec<RoundId> = rounds.iter().filter(|own| of_gone(own.round.setup_id)).map(|own| own.round.id).collect();
    if let Some(first) = rounds.iter().find(|own| of_gone(own.round.setup_id))
        && !with_readings
    {
        let name = before.setup(first.round.setup_id).map_or("The setup", |setup| setup.letter.as_str());
        let runs = count_runs(connection, &going).await?;
        return Err(StoreError::HoldsReadings(format!(
            "Setup {name} holds {} with {}; they would go with it.",
            counted(going.len(), "round"),
            counted(runs, "run")
        )));
    }
    let spot_gone = |record: &&RoundRecord| record.round.spots.iter().any(|spot| gone_spots.contains(spot));
    let holding: Vec<&RoundRecord> =
        rounds.iter().filter(|own| !of_gone(own.round.setup_id)).filter(spot_gone).collect();
    if let Some(first) = holding.first() {
        let spot = first.round.spots.iter().find(|spot| gone_spots.contains(spot));
        let room = spot.and_then(|spot| {
            let spot = before.house.spots.iter().find(|own| own.id == *spot)?;
            before.house.room(spot.room_id)
        });
        let runs = count_runs(connection, &holding.iter().map(|own| own.round.id).collect::<Vec<_>>()).await?;
        return Err(StoreError::HoldsReadings(format!(
            "{} is part of {} of tests with {}; keep its line, or delete what was tested there first.",
            room.map_or("A spot", |room| room.name.as_str()),
            counted(holding.len(), "round"),
            counted(runs, "run")
        )));
    }
    Ok(going)
}

async fn count_runs(connection: &mut SqliteConnection, rounds: &[RoundId]) -> Result<usize, StoreError> {
    let mut runs = 0;
    for round in rounds {
        let count: i64 = sqlx::query("SELECT count(*) FROM run WHERE round_id = ? AND removed_in IS NULL")
            .bind(round.to_string())
            .fetch_one(&mut *connection)
            .await?
            .try_get(0)?;
        runs += usize::try_from(count).unwrap_or(0);
    }
    Ok(runs)
}

fn counted(count: usize, what: &str) -> String {
    format!("{count} {what}{}", if count == 1 { "" } else { "s" })
}
