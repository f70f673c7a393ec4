//! The interface from outside: every address with good and bad input, over the application as it is served.
#![allow(clippy::unwrap_used, dead_code, unreachable_pub, missing_docs)] // also in what tests share

mod agree;
mod any_way;
mod api;
mod calibration;
mod described;
mod fitting;
mod kit;
mod lock;
mod network;
mod numbers;
mod phone;
mod pictures;
mod rig;
mod rounds;
mod watches;
