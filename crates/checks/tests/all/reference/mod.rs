//! The model against the world outside: published tables, standards and open data. Each check value stands in
//! `crates/testkit/data/checks.csv` with its source; values that are only the project's own reference text are in
//! `regression.rs` and count as regression, not as outside truth.

mod aerials;
mod calls_and_delay;
mod count;
mod edges;
mod ethernet;
mod free_space;
mod noise_and_sharing;
mod ranks;
mod rates;
mod regression;
mod regulatory;
mod slabs;
mod spectrum;
