//! Nothing of the product: checks of the core from outside of it.
