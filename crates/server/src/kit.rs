//! The kit's own report, fetched from where a round says that it is.

use std::net::IpAddr;
use std::time::Duration;

use busy_hen_formats::{KIT_REPORT_LIMIT, KitReport};
use busy_hen_home::{Device, Faults};
use reqwest::{Response, Url};

use crate::interfaces::of_home;
use crate::lock::from_here;

/// Longest that a report may take.
const PATIENCE: Duration = Duration::from_secs(2);
/// Where stand-in kit reports; of this machine itself nothing else is asked ...
const STAND_IN_PATH: &str = "/report.json";
/// ... and nothing is read of an answer that does not say by this header that it is stand-in kit's.
const STAND_IN: &str = "busy-hen-stand-in";
/// Ports below this are of the system's own services.
const PORT_LEAST: u16 = 1024;

/// Checks the address of a report: plain HTTP to something of the home, by its number, so that nothing else is asked in this machine's name.
///
/// # Errors
/// What is wrong with it.
pub fn check_address(address: &str) -> Result<(), Faults> {
    let told = "The kit’s report has an address of this home, such as http://192.168.1.1/report.json; type that, or leave it empty.";
    if sound(address).is_some() { Ok(()) } else { Err(Faults::one("/kit_report", told)) }
}

/// A report's address, and whether it is on this machine.
fn sound(address: &str) -> Option<(Url, bool)> {
    let url = Url::parse(address).ok().filter(|url| url.scheme() == "http" && url.username().is_empty())?;
    let host = url.host_str()?.trim_matches(['[', ']']).parse::<IpAddr>().ok()?.to_canonical();
    if host.is_unspecified() || !(of_home(host) || from_here(Some(host))) {
        return None;
    }
    let here = from_here(Some(host));
    let of_stand_in = url.path() == STAND_IN_PATH
        && url.query().is_none()
        && url.port_or_known_default().is_some_and(|port| port >= PORT_LEAST);
    (!here || of_stand_in).then_some((url, here))
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

/// Fetches a report. What is told of a failure never repeats what was read, and of this machine itself not even what kind of failure it was.
///
/// # Errors
/// What kept it from being read, in words.
pub async fn report(address: &str) -> Result<KitReport, &'static str> {
    let (url, here) = sound(address).ok_or("it is no address of this home")?;
    let found = fetched(url, here).await;
    if here { found.map_err(|_| "on this machine only stand-in kit is asked, and there is none") } else { found }
}

async fn fetched(url: Url, here: bool) -> Result<KitReport, &'static str> {
    let client = reqwest::Client::builder().no_proxy().redirect(reqwest::redirect::Policy::none()).timeout(PATIENCE);
    let silent = |_| "it does not answer";
    let mut answer: Response = client.build().map_err(silent)?.get(url).send().await.map_err(silent)?;
    if !answer.status().is_success() {
        return Err("it answers that there is nothing to read");
    }
    if here && !answer.headers().contains_key(STAND_IN) {
        return Err("it is no stand-in kit");
    }
    let mut bytes = Vec::new();
    while let Some(part) = answer.chunk().await.map_err(silent)? {
        bytes.extend_from_slice(&part);
        if bytes.len() > KIT_REPORT_LIMIT {
            return Err("it is too large");
        }
    }
    KitReport::read(&bytes).map_err(|_| "what it answers is no report of a network (Wi-Fi Data Elements)")
}

/// The device that has this hardware address.
#[must_use]
pub fn device<'a>(devices: &'a [Device], address: &str) -> Option<&'a Device> {
    devices.iter().find(|own| own.hardware_address.as_deref() == Some(address))
}
