//! Simulated outside devices that ship with the product and answer over the same interfaces as the real thing.
//!
//! So far: the [`walker`], a stand-in phone that walks a round and posts made-up readings over HTTP. Nothing here measures.

pub mod truth;
pub mod walker;
