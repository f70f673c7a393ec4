//! Open formats in and out: the home file as JSON, readings as CSV, tables of other tests, pictures, what kit reports of itself, the log
//! of a long watch, plans as drawings and GeoJSON.

mod home_file;
mod home_file_writer;
mod kit_report;
mod parts_csv;
mod picture;
mod plan_geojson;
mod plan_svg;
mod readings_csv;
mod readings_table;
mod watch_log;

pub use home_file::{HomeFile, PictureRecord, RoundRecord, home_file_schema, not_too_large};
pub use home_file_writer::HomeFileWriter;
pub use kit_report::{KIT_REPORT_LIMIT, KitReport, Station};
pub use parts_csv::parts_csv;
pub use picture::{NoPicture, PICTURE_LIMIT, kept_jpeg, plain_jpeg};
pub use plan_geojson::plan_geojson;
pub use plan_svg::plan_svg;
pub use readings_csv::{Line, READINGS_TABLE_SCHEMA, readings_csv};
/// What the columns of a table of kit hold: a table schema of the Frictionless specifications (Table Schema, version 1), as JSON.
pub const KIT_TABLE_SCHEMA: &str = include_str!("kit-table-schema.json");
pub use readings_table::{Column, RateUnit, Reading, Style, Table, TableRow};
pub use watch_log::{read_watch_log, watch_log_line};
