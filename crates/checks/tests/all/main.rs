//! The core against the world outside: published values (`reference`), traced houses, situations from practice, laws as properties, and the
//! demo home from end to end.
#![allow(clippy::unwrap_used)] // also in what tests share

mod calibration;
mod cautions;
mod changes;
mod check;
mod checks_of_use;
mod compare;
mod dead_zones;
mod drills;
mod evening;
mod findings;
mod fitting;
mod kit_record;
mod kit_table;
mod layers;
mod line;
mod listening;
mod long_watch;
mod measuring;
mod network;
mod parts;
mod parts_properties;
mod practice;
mod predict;
mod properties;
mod reading_findings;
mod reference;
mod route;
mod second_opinion;
mod sensitivity;
mod sharing;
mod side_by_side;
mod sight;
mod snapshot;
mod statistics;
mod summary;
mod surfaces;
mod typed_house;
mod walks;
mod wanted;
mod watch_command;
