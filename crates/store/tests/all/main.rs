//! Storage: what is acknowledged is kept, whole or not at all, and every earlier database opens.
#![allow(clippy::unwrap_used, dead_code, unreachable_pub, missing_docs)] // also in what tests share

mod bounds;
mod file;
mod shared;
mod store;
