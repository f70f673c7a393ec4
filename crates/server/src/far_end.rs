//! The far end of internet tests.

use std::net::IpAddr;

use busy_hen_probe::{Place, Unseen, look_at, seen_from};
use busy_hen_survey::measuring::same_line;
use busy_hen_units::Millis;
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
    fn place(&self) -> Place {
        Place { origin: self.url.clone(), token: self.token.clone() }
    }

    /// What it says when it is asked now.
    ///
    /// # Errors
    /// Why it does not.
    pub async fn try_now(&self) -> Result<(IpAddr, Millis), Unseen> {
        look_at(&self.place()).await
    }

    /// Whether a phone that the far end saw at this address came by the line of this machine; none where that can't be told.
    pub(super) async fn by_our_line(&self, phone: IpAddr) -> Option<bool> {
        let own = seen_from(&self.place()).await?;
        same_line(own, phone)
    }
}

impl std::str::FromStr for FarEnd {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let (url, token) = text
            .split_once('#')
            .ok_or("The token is missing: copy the whole address, such as http://far.example:8090#token.")?;
        let host = url.split_once("://").filter(|(scheme, _)| ["http", "https"].contains(scheme));
        let sound = host.is_some_and(|(_, host)| {
            !host.is_empty() && host.chars().all(|own| own.is_ascii_alphanumeric() || ".:-[]".contains(own))
        });
        if !sound || token.is_empty() {
            return Err(format!("“{text}” is no address of a test server, such as http://far.example:8090#token."));
        }
        Ok(Self { url: url.to_owned(), token: token.to_owned() })
    }
}
