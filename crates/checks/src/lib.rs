//! Checks of the core against the world outside it. Everything is under `tests`: this crate ships nothing.
