//! Faults in a home: what is wrong, where, and what to do, all of them at once.

use std::fmt;

use serde::Serialize;
use utoipa::ToSchema;

/// One thing that is wrong.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Fault {
    /// JSON pointer (RFC 6901) to the value at fault.
    pub pointer: String,
    /// One sentence: what is wrong and what to do.
    pub message: String,
}

/// Everything that is wrong; never empty.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Faults(Vec<Fault>);

impl Faults {
    /// `Ok` when the list is empty.
    ///
    /// # Errors
    /// The faults, when there are any.
    pub fn check(list: Vec<Fault>) -> Result<(), Self> {
        if list.is_empty() { Ok(()) } else { Err(Self(list)) }
    }

    /// A single fault.
    #[must_use]
    pub fn one(pointer: impl Into<String>, message: impl Into<String>) -> Self {
        Self(vec![Fault { pointer: pointer.into(), message: message.into() }])
    }

    /// The faults, in the order they were found.
    #[must_use]
    pub fn list(&self) -> &[Fault] {
        &self.0
    }
}

impl fmt::Display for Faults {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, fault) in self.0.iter().enumerate() {
            if index > 0 {
                f.write_str(" ")?;
            }
            f.write_str(&fault.message)?;
        }
        Ok(())
    }
}

impl std::error::Error for Faults {}
