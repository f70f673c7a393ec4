//! Rows of rounds, and of the homes frozen with them.

use busy_hen_home::{AsTested, Forecast, Home, HomeId, Round, RoundId};
use jiff::Timestamp;
use serde::{Deserialize, Serialize};
use sha2::{Digest, Sha256};
use sqlx::sqlite::SqliteRow;
use sqlx::{Row, SqliteConnection};

use super::{parsed, sortable};
use crate::StoreError;

/// A round with what it was taken in.
#[derive(Debug, Clone, PartialEq)]
pub struct RoundRecord {
    /// The round.
    pub round: Round,
    /// What it was taken in.
    pub tested: AsTested,
}

/// What is kept of [`AsTested`] beside the frozen home.
#[derive(Serialize, Deserialize)]
struct TestedRow {
    kept_at: Timestamp,
    law: Option<String>,
    forecasts: Vec<Forecast>,
}

const SELECT: &str = "SELECT round.id, round.home_id, round.document, round.tested, frozen.document AS frozen
                        FROM round JOIN frozen ON frozen.id = round.frozen_id
                             JOIN home ON home.id = round.home_id AND home.deleted = 0
                       WHERE round.deleted_in IS NULL";

pub(crate) async fn record_of(
    connection: &mut SqliteConnection,
    id: RoundId,
) -> Result<(HomeId, RoundRecord), StoreError> {
    let row = sqlx::query(sqlx::AssertSqlSafe(format!("{SELECT} AND round.id = ?")))
        .bind(id.to_string())
        .fetch_optional(connection)
        .await?
        .ok_or(StoreError::NotFound("round"))?;
    Ok((parsed(row.try_get("home_id")?)?, record(&row)?))
}

pub(crate) async fn rounds_of(connection: &mut SqliteConnection, home: HomeId) -> Result<Vec<RoundRecord>, StoreError> {
    let rows =
        sqlx::query(sqlx::AssertSqlSafe(format!("{SELECT} AND round.home_id = ? ORDER BY round.begun, round.id")))
            .bind(home.to_string())
            .fetch_all(connection)
            .await?;
    rows.iter().map(record).collect()
}

/// Ids of the rounds of a home, first begun first.
pub(crate) async fn round_ids(connection: &mut SqliteConnection, home: HomeId) -> Result<Vec<RoundId>, StoreError> {
    let rows = sqlx::query("SELECT id FROM round WHERE home_id = ? AND deleted_in IS NULL ORDER BY begun, id")
        .bind(home.to_string())
        .fetch_all(connection)
        .await?;
    rows.iter().map(|row| parsed(row.try_get("id")?)).collect()
}

fn record(row: &SqliteRow) -> Result<RoundRecord, StoreError> {
    let round: Round = serde_json::from_str(row.try_get("document")?)?;
    let TestedRow { kept_at, law, forecasts } = serde_json::from_str(row.try_get("tested")?)?;
    let mut home: Home = serde_json::from_str(row.try_get("frozen")?)?;
    home.setups.retain(|setup| setup.id == round.setup_id);
    Ok(RoundRecord { round, tested: AsTested { kept_at, law, home, forecasts } })
}

pub(crate) async fn insert(
    connection: &mut SqliteConnection,
    home: HomeId,
    record: &RoundRecord,
) -> Result<(), StoreError> {
    let RoundRecord { round, tested } = record;
    let frozen = serde_json::to_string(&tested.home)?;
    // The id is that of the state, so that rounds taken in one state share it.
    let id: String = Sha256::digest(&frozen).iter().map(|byte| format!("{byte:02x}")).collect();
    sqlx::query("INSERT INTO frozen (id, document) VALUES (?, ?) ON CONFLICT (id) DO NOTHING")
        .bind(&id)
        .bind(frozen)
        .execute(&mut *connection)
        .await?;
    let told = TestedRow { kept_at: tested.kept_at, law: tested.law.clone(), forecasts: tested.forecasts.clone() };
    let done = sqlx::query(
        "INSERT INTO round (id, home_id, setup_id, begun, document, frozen_id, tested) VALUES (?, ?, ?, ?, ?, ?, ?)
         ON CONFLICT (id) DO NOTHING",
    )
    .bind(round.id.to_string())
    .bind(home.to_string())
    .bind(round.setup_id.to_string())
    .bind(sortable(round.begun))
    .bind(serde_json::to_string(round)?)
    .bind(id)
    .bind(serde_json::to_string(&told)?)
    .execute(connection)
    .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Conflict("A round of this id is already there.".into()));
    }
    Ok(())
}

/// Stores a round anew; what it was taken in stays.
pub(crate) async fn update(connection: &mut SqliteConnection, round: &Round) -> Result<(), StoreError> {
    sqlx::query("UPDATE round SET document = ? WHERE id = ?")
        .bind(serde_json::to_string(round)?)
        .bind(round.id.to_string())
        .execute(connection)
        .await?;
    Ok(())
}

pub(crate) async fn set_deleted(
    connection: &mut SqliteConnection,
    id: RoundId,
    step: Option<i64>,
) -> Result<(), StoreError> {
    sqlx::query("UPDATE round SET deleted_in = ? WHERE id = ?")
        .bind(step)
        .bind(id.to_string())
        .execute(connection)
        .await?;
    Ok(())
}

pub(crate) async fn drop_unused_frozen(connection: &mut SqliteConnection) -> Result<(), StoreError> {
    sqlx::query("DELETE FROM frozen WHERE NOT EXISTS (SELECT 1 FROM round WHERE round.frozen_id = frozen.id)")
        .execute(connection)
        .await?;
    Ok(())
}
