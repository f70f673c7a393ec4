//! The stand-ins against what they stand in for.
#![allow(clippy::unwrap_used, dead_code, unreachable_pub, missing_docs)] // also in what tests share

mod calibration;
mod long_watch;
mod study;
