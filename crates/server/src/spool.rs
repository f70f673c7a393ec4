//! A file that is on its way in or out: kept on the disk meanwhile, so that none of any size is ever in memory.

use std::fs::File;
use std::io::{self, Read, Seek, Write};
use std::time::Duration;

use actix_web::body::SizedStream;
use actix_web::web::{self, Bytes, Payload};
use busy_hen_store::StoreError;
use futures_util::{StreamExt, stream};

use crate::error::ApiError;

/// Bytes that are read or written at once.
const PART: usize = 256 * 1024;

/// A new one, that nobody else sees and that is gone when it is dropped.
///
/// # Errors
/// When the disk takes none.
pub fn new() -> Result<File, ApiError> {
    tempfile::tempfile().map_err(ApiError::from)
}

/// Takes a body in, when it arrives in time and is no larger; the file at its beginning, and its length.
///
/// # Errors
/// [`ApiError::TooLarge`], [`ApiError::TooSlow`], or what the disk says.
pub async fn take(mut body: Payload, limit: u64, patience: Duration) -> Result<(File, u64), ApiError> {
    let arrives = async move {
        let (mut file, mut length) = (new()?, 0);
        let mut part = Vec::new();
        while let Some(bytes) = body.next().await {
            let bytes = bytes.map_err(|error| ApiError::Body(format!("What was sent could not be read: {error}.")))?;
            length += bytes.len() as u64;
            if length > limit {
                return Err(ApiError::TooLarge(usize::try_from(limit >> 20).unwrap_or(usize::MAX)));
            }
            part.extend_from_slice(&bytes);
            if part.len() >= PART {
                file = written(file, std::mem::take(&mut part)).await?;
            }
        }
        let mut file = written(file, part).await?;
        file.rewind()?;
        Ok((file, length))
    };
    tokio::time::timeout(patience, arrives).await.map_err(|_| ApiError::TooSlow(patience.as_secs()))?
}

async fn written(mut file: File, part: Vec<u8>) -> Result<File, ApiError> {
    let write = move || file.write_all(&part).map(|()| file);
    Ok(web::block(write).await.map_err(|error| ApiError::Internal(error.to_string()))??)
}

/// Sends a file from its beginning.
///
/// # Errors
/// What the disk says.
pub fn send(mut file: File) -> Result<SizedStream<impl futures_util::Stream<Item = io::Result<Bytes>>>, ApiError> {
    file.rewind()?;
    let length = file.metadata()?.len();
    let parts = stream::try_unfold((file, length), |(mut file, left)| async move {
        if left == 0 {
            return Ok(None);
        }
        let read = move || {
            let mut part = vec![0; PART.min(usize::try_from(left).unwrap_or(PART))];
            file.read_exact(&mut part).map(|()| (file, part))
        };
        let (file, part) = web::block(read).await.map_err(io::Error::other)??;
        let left = left - part.len() as u64;
        Ok(Some((Bytes::from(part), (file, left))))
    });
    Ok(SizedStream::new(length, Box::pin(parts)))
}

impl From<io::Error> for ApiError {
    fn from(error: io::Error) -> Self {
        match error.kind() {
            io::ErrorKind::StorageFull => Self::Store(StoreError::Full),
            _ => Self::Internal(error.to_string()),
        }
    }
}
