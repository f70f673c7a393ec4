//! From typed lines to rooms, walls, openings and the insides of rooms.

pub mod line;
mod openings;
pub mod plan;
pub mod settle;
pub mod surfaces;
pub mod typed;
mod walls;

pub use plan::{Floor, Plan, PlanLevel, PlanRoom, Point, Rect, Upright, Wall};
pub use settle::{HouseEdit, settle};
pub use surfaces::{Surfaces, View};
pub use typed::{LineFault, Typed, draw};
