//! From typed lines to rooms, walls and the lines of sight between places.

pub mod line;
pub mod plan;
pub mod ray;
pub mod settle;
pub mod typed;
mod walls;

pub use plan::{Floor, Plan, PlanLevel, PlanRoom, Point, Rect, Wall};
pub use ray::Sight;
pub use settle::{HouseEdit, settle};
pub use typed::{LineFault, Typed, draw};
