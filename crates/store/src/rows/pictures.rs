//! Rows of pictures.

use busy_hen_home::{HomeId, Picture, PictureId};
use sqlx::{Row, SqliteConnection};

use super::sortable;
use crate::StoreError;

pub(crate) async fn insert_picture(
    connection: &mut SqliteConnection,
    home: HomeId,
    picture: &Picture,
    jpeg: &[u8],
) -> Result<(), StoreError> {
    sqlx::query("INSERT INTO picture (id, home_id, at, document, jpeg) VALUES (?, ?, ?, ?, ?)")
        .bind(picture.id.to_string())
        .bind(home.to_string())
        .bind(sortable(picture.at))
        .bind(serde_json::to_string(picture)?)
        .bind(jpeg)
        .execute(connection)
        .await?;
    Ok(())
}

/// What is known of a home's pictures, in the order they were taken.
pub(crate) async fn pictures_of(connection: &mut SqliteConnection, home: HomeId) -> Result<Vec<Picture>, StoreError> {
    let rows = sqlx::query("SELECT document FROM picture WHERE home_id = ? ORDER BY at, id")
        .bind(home.to_string())
        .fetch_all(connection)
        .await?;
    rows.iter().map(|row| Ok(serde_json::from_str(row.try_get("document")?)?)).collect()
}

pub(crate) async fn jpeg_of(connection: &mut SqliteConnection, picture: PictureId) -> Result<Vec<u8>, StoreError> {
    let row =
        sqlx::query("SELECT jpeg FROM picture JOIN home ON home.id = home_id AND deleted = 0 WHERE picture.id = ?")
            .bind(picture.to_string())
            .fetch_optional(connection)
            .await?;
    Ok(row.ok_or(StoreError::NotFound("picture"))?.try_get("jpeg")?)
}
