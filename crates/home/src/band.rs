//! Frequency bands.

use std::fmt;

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// A frequency band.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, ToSchema)]
pub enum Band {
    /// 2.4 GHz.
    #[serde(rename = "2.4")]
    Ghz2_4,
    /// 5 GHz.
    #[serde(rename = "5")]
    Ghz5,
    /// 6 GHz.
    #[serde(rename = "6")]
    Ghz6,
}

impl fmt::Display for Band {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Ghz2_4 => "2.4 GHz",
            Self::Ghz5 => "5 GHz",
            Self::Ghz6 => "6 GHz",
        })
    }
}
