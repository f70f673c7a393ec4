//! A home, a setup and a question in; predictions, map, ledger and explanation out.
//!
//! Three layers, each to be asked by itself: the house prepared for a frequency ([`busy_hen_radio::propagation::PropagationModel`]), losses from any
//! place to any places ([`losses`]), and a network over ready losses ([`evaluator`], [`ready`]). [`Model`] puts them together.

pub mod calibration;
pub mod conditions;
pub mod evaluator;
pub mod evening;
pub mod explained;
pub mod forecast;
mod grid;
pub mod handover;
mod knowledge;
pub mod layers;
pub mod ledger;
mod link_calibration;
pub mod losses;
pub mod map;
mod model;
pub mod needs;
pub mod palette;
pub mod path;
mod prediction;
pub mod progress;
mod question;
pub mod ready;
mod signals;
pub mod summary;
mod uncertainty;
pub mod unknowns;

pub use busy_hen_home::Range;
pub use evaluator::{Evaluator, Losses, Middle};
pub use knowledge::Knowledge;
pub use model::{Model, network_of};
pub use prediction::{Prediction, Served};
pub use question::Question;
pub use uncertainty::of_house;
