//! Simulated outside devices that ship with the product and answer over the same interfaces as the real thing.
//!
//! The [`walker`], a stand-in phone that walks a round in a hidden house ([`truth`]) and sends made-up [`samples`] as phones send theirs, the [`kit`], which reports who serves that phone, with [`fault`]s where it is given some, each [`device`] with a page and a light, and the [`line`], which carries real
//! tests as an access line would, with a [`plug`] that is pulled; a home whose days go by quickly, for the [`long_watch`]. Nothing here measures.

pub mod device;
pub mod fault;
pub mod kit;
pub mod line;
pub mod long_watch;
pub mod other_model;
pub mod plug;
pub mod samples;
pub mod truth;
pub mod walker;
