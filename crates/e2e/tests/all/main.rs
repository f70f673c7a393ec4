//! The interface by mouse, keyboard and finger, in a real browser.
#![allow(clippy::unwrap_used)] // also in what tests share

mod bad_input;
mod calibration;
mod drills;
mod fitting;
mod habits;
mod job;
mod kit;
mod measuring;
mod model;
mod nothing_lost;
mod numbers;
mod on_site;
mod opened;
mod pocket;
mod presses;
mod rounds;
mod typed_house;
mod views;
mod watch;
