//! Home files of every age and shape, read and written.
#![allow(clippy::unwrap_used)] // also in what tests share

mod home_file;
mod home_file_writer;
