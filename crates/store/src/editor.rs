//! Who edits a home.

use std::fmt;

/// Who edits: undo takes back one's own steps.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct Editor(String);

impl Editor {
    /// The editor of this name, shortened to 64 characters.
    #[must_use]
    pub fn new(name: &str) -> Self {
        Self(name.chars().take(64).collect())
    }
}

impl fmt::Display for Editor {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(&self.0)
    }
}
