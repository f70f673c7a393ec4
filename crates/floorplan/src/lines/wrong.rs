//! What is wrong with a typed line: where, in words, and what one press would make of it.

use serde::Serialize;
use utoipa::ToSchema;

/// What is wrong with a line: which characters, what to do, and what may be meant.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Wrong {
    /// First character at fault, counted from 0.
    pub from: usize,
    /// After the last character at fault.
    pub to: usize,
    /// One sentence: what is wrong and what to do.
    pub message: String,
    /// What may be meant, each to take the place of a piece of the line.
    pub fixes: Vec<Fix>,
}

/// A piece of a line and what may stand there instead.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Fix {
    /// First character that goes, counted from 0.
    pub from: usize,
    /// After the last character that goes.
    pub to: usize,
    /// What comes in its place.
    pub with: String,
}

impl Wrong {
    /// A fault of these characters.
    #[must_use]
    pub fn new(from: usize, to: usize, message: impl Into<String>) -> Self {
        Self { from, to, message: message.into(), fixes: Vec::new() }
    }

    /// The same, with what may be meant instead of the characters at fault.
    #[must_use]
    pub fn or(self, with: &str) -> Self {
        let (from, to) = (self.from, self.to);
        self.or_at(from, to, with)
    }

    /// The same, with what may be meant instead of other characters of the line.
    #[must_use]
    pub fn or_at(mut self, from: usize, to: usize, with: &str) -> Self {
        self.fixes.push(Fix { from, to, with: with.to_owned() });
        self
    }
}
