//! Made-up homes that ship with the product: to look around in, and for tests and benches. Nothing here was measured.

mod build;
mod canal_terrace;
mod flat;
mod lock_house;

pub use canal_terrace::canal_terrace;
pub use flat::gasworks_flat;
pub use lock_house::lock_house;
