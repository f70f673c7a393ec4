//! From typed lines to rooms, walls, openings and the insides of rooms.

//!
//! From the bottom up: [`shapes`], [`parts`], what a room sees of itself ([`surfaces`]), the whole to ask ([`plan`]); beside it
//! the typed lines ([`line`], [`typed`], [`settle`]); on top, a plan made from a house (`build`).

mod build;
mod exchange;
mod glimpse;
mod guide;
pub mod line;
mod openings;
pub mod parts;
pub mod plan;
pub mod settle;
pub mod shapes;
pub mod surfaces;
pub mod typed;
mod walls;

pub use parts::{Floor, PlanLevel, PlanRoom, Upright, Wall};
pub use plan::Plan;
pub use settle::{HouseEdit, settle};
pub use shapes::{Point, Rect};
pub use surfaces::{Surfaces, View};
pub use typed::{LineFault, Typed, draw};
