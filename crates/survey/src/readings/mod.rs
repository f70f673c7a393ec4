//! Setups, rounds and walks side by side: what their runs say, and how surely.

pub mod compare;
pub mod findings;
pub mod interval;
pub mod marks;
pub mod rank_test;
pub mod ratio;
pub mod rush;
pub mod verdict;
pub mod walks;
pub mod words;

pub use compare::{Comparison, compare};
