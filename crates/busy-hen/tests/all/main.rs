//! The program as it is started from a shell.
#![allow(clippy::unwrap_used, dead_code, unreachable_pub, missing_docs)] // also in what tests share

mod attacks;
mod cli;
mod kit;
mod live;
mod nothing_lost;
mod phones;
mod rig;
mod walk;
mod watch;
