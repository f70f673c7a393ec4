//! From typed lines to rooms, walls, openings and the insides of rooms.
//!
//! From the bottom up: [`shapes`], [`parts`], what a room sees of itself ([`surfaces`]), the whole to ask ([`plan`]); beside it
//! the typed lines ([`lines`], [`settle`]); on top, a plan made from a house (`build`).

mod adopt;
mod build;
pub mod cell;
mod exchange;
pub mod lines;
pub mod missing;
mod openings;
pub mod parts;
pub mod plan;
pub mod settle;
pub mod shapes;
pub mod starts;
pub mod surface;
pub mod surfaces;
mod visible_part;
mod walls;
mod waveguide;

pub use adopt::adopt;
pub use lines::{LineFault, Typed, draw};
pub use parts::{Floor, PlanLevel, PlanRoom, Upright, Wall};
pub use plan::Plan;
pub use settle::{HouseEdit, settle};
pub use shapes::{Point, Rect};
pub use surfaces::{Surfaces, View};
