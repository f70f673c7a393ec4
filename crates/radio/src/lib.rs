//! What a signal loses on its way ([`propagation`]), and what the medium makes of what is left ([`airtime`]).

pub mod airtime;
pub mod cache;
pub mod propagation;
