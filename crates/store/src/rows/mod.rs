//! Rows: what the tables hold, and how it is read from and written to them. Below everything else of this crate but the errors.

pub(crate) mod documents;
pub(crate) mod homes;
pub(crate) mod pictures;
pub(crate) mod rounds;
pub(crate) mod runs;
pub(crate) mod ticks;
pub(crate) mod watches;

use jiff::Timestamp;

use crate::StoreError;

/// Reads a value that this program itself wrote as text.
pub(crate) fn parsed<T: std::str::FromStr>(text: &str) -> Result<T, StoreError>
where
    T::Err: std::error::Error + Send + Sync + 'static,
{
    text.parse().map_err(|error: T::Err| StoreError::Database(sqlx::Error::Decode(Box::new(error))))
}

/// A time as text that sorts as the times do: always nine digits behind the second.
pub(crate) fn sortable(at: Timestamp) -> String {
    format!("{at:.9}")
}
