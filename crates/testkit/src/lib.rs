//! What the tests of several crates share; never part of the product.

pub mod checks;
pub mod dwellings;
pub mod homes;
pub mod practice;
pub mod raw;
pub mod regulatory;
pub mod runs;
pub mod traced;
