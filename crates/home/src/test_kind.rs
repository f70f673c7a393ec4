//! How far a test reaches.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// How far a test reaches.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum TestKind {
    /// To a machine wired to the router: shows what the kit can do.
    Local,
    /// To a far end beyond the line: capped by the plan.
    Internet,
    /// The same, carried by the second line: capped by the plan of that.
    SecondLine,
}

impl TestKind {
    /// Whether it goes beyond a line, by whichever.
    #[must_use]
    pub fn is_internet(self) -> bool {
        self != Self::Local
    }
}
