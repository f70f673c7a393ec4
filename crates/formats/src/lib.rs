//! Open formats in and out: the home file as JSON, readings as CSV.

mod home_file;
mod readings_csv;

pub use home_file::{HomeFile, RoundRecord, SIZE_LIMIT, home_file_schema};
pub use readings_csv::{Line, readings_csv};
