//! A password that the installer wants kept: encrypted, never readable.

use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

use crate::id::PasswordId;

/// A password that is kept, under a pass phrase that nobody keeps.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(deny_unknown_fields)]
pub struct KeptPassword {
    /// Identifies it.
    pub id: PasswordId,
    /// What it is for: "network Kiln", "admin page of the router".
    pub what: String,
    /// Name of the network that it joins; empty where it joins none.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub network: String,
    /// The password, encrypted: salt, nonce and ciphertext, in base64 (RFC 4648).
    pub sealed: String,
}
