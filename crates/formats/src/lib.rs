//! Open formats in and out. So far: readings as CSV.

mod readings_csv;

pub use readings_csv::{Line, readings_csv};
