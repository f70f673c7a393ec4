//! The far end of internet tests, as it was given when the program was started.

use std::net::IpAddr;

use busy_hen_engine::measuring::same_line;
use busy_hen_probe::{Place, seen_from};
use serde::Serialize;
use utoipa::ToSchema;

/// The far end beyond the line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct FarEnd {
    /// Its address, as `http://far.example:8090`.
    pub url: String,
    /// The token it asks for.
    pub token: String,
}

impl FarEnd {
    /// Whether a phone that the far end saw at this address came by the line of this machine; none where that can't be told.
    pub(super) async fn by_our_line(&self, phone: IpAddr) -> Option<bool> {
        let own = seen_from(&Place { origin: self.url.clone(), token: self.token.clone() }).await?;
        same_line(own, phone)
    }
}

impl std::str::FromStr for FarEnd {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (url, token) = text.split_once('#').ok_or("the token is missing; the far end prints it behind a #")?;
        let host = url.split_once("://").filter(|(scheme, _)| ["http", "https"].contains(scheme));
        let sound = host.is_some_and(|(_, host)| {
            !host.is_empty() && host.chars().all(|own| own.is_ascii_alphanumeric() || ".:-[]".contains(own))
        });
        if !sound || token.is_empty() {
            return Err(format!("{text} is no address of a far end, such as http://far.example:8090#token"));
        }
        Ok(Self { url: url.to_owned(), token: token.to_owned() })
    }
}
