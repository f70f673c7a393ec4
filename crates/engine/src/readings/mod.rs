//! From runs to figures: summaries of a spot, and setups side by side.

pub mod compare;
pub mod conditions;
pub mod findings;
pub mod interval;
pub mod marks;
pub mod rank_test;
pub mod ratio;
pub mod rush;
pub mod summary;
pub mod verdict;
pub mod walks;
pub mod words;

pub use compare::{Comparison, compare};
pub use conditions::{Conditions, Group};
pub use summary::{Figures, Summary, outliers, summarise};
