//! The computation of the job: from a home and a setup to predictions with their reasons, from runs to verdicts.
//!
//! No I/O, no clock and no ambient randomness here: everything comes in as an argument, so the same input gives the same
//! answer everywhere. Start reading at [`predict`], the facade; below it, in the order a signal goes:
//! [`geometry`] (walls from typed lines), [`propagation`] (loss), [`phy`] (rates), [`airtime`] (what TCP gets of them),
//! [`path`] (the chain and its limiting link), [`needs`] (what it is good for), [`measuring`] (what a test comes to) and [`readings`]
//! (what the runs come to).
//! The model and its sources are told in `docs/MODEL.md`.

pub mod airtime;
pub mod catalogue;
pub mod cautions;
pub mod changes;
pub mod check;
mod counted;
pub mod dead_zones;
pub mod drills;
pub mod findings;
pub mod fitting;
pub mod geometry;
pub mod kept;
pub mod kit_record;
pub mod learning;
pub mod long_watch;
pub mod measuring;
pub mod needs;
pub mod parts;
pub mod path;
pub mod phy;
pub mod placing;
pub mod predict;
pub mod propagation;
pub mod readings;
pub mod rounds;
pub mod route;
pub mod series;
pub mod side_by_side;
pub mod spectrum;
pub mod watch;
