//! Open formats in and out: the home file as JSON, readings as CSV, tables of other tests.

mod home_file;
mod readings_csv;
mod readings_table;

pub use home_file::{HomeFile, RoundRecord, SIZE_LIMIT, home_file_schema};
pub use readings_csv::{Line, READINGS_TABLE_SCHEMA, readings_csv};
pub use readings_table::{Column, RateUnit, Reading, Table, TableRow};
