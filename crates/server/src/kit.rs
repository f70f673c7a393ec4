//! The kit's own report, fetched from where a round says that it is.

use std::net::IpAddr;
use std::time::Duration;

use busy_hen_formats::{KIT_REPORT_LIMIT, KitReport};
use busy_hen_home::{Device, Faults};
use reqwest::Url;

use crate::interfaces::of_home;

/// Longest that a report may take.
const PATIENCE: Duration = Duration::from_secs(2);

/// Checks the address of a report: plain HTTP to something of the home, by its number, so that nothing else is asked in this machine's name.
///
/// # Errors
/// What is wrong with it.
pub fn check_address(address: &str) -> Result<(), Faults> {
    let told = "The kit’s report has an address of this home, such as http://192.168.1.1/report.json; type that, or leave it empty.";
    let sound = Url::parse(address).ok().filter(|url| url.scheme() == "http" && url.username().is_empty());
    let host = sound.and_then(|url| url.host_str()?.trim_matches(['[', ']']).parse::<IpAddr>().ok());
    if host.is_some_and(of_home) {
        return Ok(());
    }
    Err(Faults::one("/kit_report", told))
}

/// Sees that a report can be read where it is said to be, so that a wrong address is told before anyone walks with it.
///
/// # Errors
/// What is wrong with the address, or with what is there.
pub async fn see(address: &str) -> Result<KitReport, Faults> {
    check_address(address)?;
    let told =
        |why| format!("The kit’s report at {address} can’t be read: {why}; correct the address, or leave it empty.");
    report(address).await.map_err(|why| Faults::one("/kit_report", told(why)))
}

/// Fetches a report.
///
/// # Errors
/// What kept it from being read, in words.
pub async fn report(address: &str) -> Result<KitReport, String> {
    // Asked again: a round may have come in with a file from another home.
    check_address(address).map_err(|faults| faults.to_string())?;
    let client = reqwest::Client::builder().no_proxy().redirect(reqwest::redirect::Policy::none()).timeout(PATIENCE);
    let told = |_| "it does not answer".to_owned();
    let mut answer = client.build().map_err(told)?.get(address).send().await.map_err(told)?;
    if !answer.status().is_success() {
        return Err(format!("it answers {}", answer.status().as_u16()));
    }
    let mut bytes = Vec::new();
    while let Some(part) = answer.chunk().await.map_err(told)? {
        bytes.extend_from_slice(&part);
        if bytes.len() > KIT_REPORT_LIMIT {
            return Err("it is too large".to_owned());
        }
    }
    KitReport::read(&bytes).map_err(|error| format!("it is not understood: {error}"))
}

/// The device that has this hardware address.
#[must_use]
pub fn device<'a>(devices: &'a [Device], address: &str) -> Option<&'a Device> {
    devices.iter().find(|own| own.hardware_address.as_deref() == Some(address))
}
