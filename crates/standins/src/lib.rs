//! Simulated outside devices that ship with the product and answer over the same interfaces as the real thing.
//!
//! The [`walker`], a stand-in phone that walks a round and posts made-up readings over HTTP, and the [`line`], which carries real
//! tests as an access line would. Nothing here measures.

pub mod line;
pub mod truth;
pub mod walker;
