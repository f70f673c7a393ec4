//! Stand-in kit: reports over HTTP who serves a phone and how, as controllers of home kit may. What it reports is made up by the hidden
//! house, and says so.

use std::net::{IpAddr, TcpListener};
use std::sync::{Mutex, PoisonError};
use std::time::Duration;

use actix_web::web::{Data, Query};
use actix_web::{App, HttpResponse, HttpServer, web};
use busy_hen_engine::catalogue::clients;
use busy_hen_engine::predict::Question;
use busy_hen_home::{Band, Device, Doors, Home, Setup, Situation, SpotId, TestKind, local_day};
use jiff::Timestamp;
use serde::Deserialize;
use serde_json::{Value, json};
use thiserror::Error;
use uuid::Uuid;

use crate::device::Device as PoweredDevice;
use crate::truth::{Met, Run, Truth};

/// Kit of one setup in a hidden house.
pub struct Kit {
    home: Home,
    setup: Setup,
    truth: Truth,
    phone: Mutex<Option<Joined>>,
}

/// A phone that is joined.
#[derive(Debug, Clone)]
struct Joined {
    address: IpAddr,
    met: Option<Met>,
}

/// Where a phone is carried to.
#[derive(Debug, Deserialize)]
struct Carried {
    /// Its address.
    address: IpAddr,
    /// The spot, by its id.
    spot: SpotId,
    /// Key of its class.
    #[serde(default = "usual")]
    client: String,
}

fn usual() -> String {
    "phone_ax".to_owned()
}

/// Why there is no such kit.
#[derive(Debug, Error)]
#[error("The home has no setup {0}; name one by its letter.")]
pub struct NoSetup(String);

impl Kit {
    /// The kit of the setup with this letter.
    ///
    /// # Errors
    /// [`NoSetup`].
    pub fn new(home: Home, letter: &str, seed: u64) -> Result<Self, NoSetup> {
        let setup = home.setups.iter().find(|own| own.letter == letter).cloned();
        let setup = setup.ok_or_else(|| NoSetup(letter.to_owned()))?;
        Ok(Self { truth: Truth::new(home.clone(), seed), home, setup, phone: Mutex::default() })
    }

    /// Name and hardware address of each device, to be typed in at the bench.
    pub fn addresses(&self) -> impl Iterator<Item = (&str, String)> {
        self.setup.devices.iter().map(|own| (own.name.as_str(), address_of(own)))
    }

    fn carry(&self, to: &Carried) -> Result<(), String> {
        let client = clients::find(&to.client).ok_or_else(|| format!("There is no class {}.", to.client))?;
        if !self.home.house.spots.iter().any(|own| own.id == to.spot) {
            return Err("This home has no such spot.".to_owned());
        }
        let question = Question {
            client,
            band: None,
            situation: Situation::Alone,
            doors: Doors::AsLeft,
            reach: TestKind::Local,
            day: local_day(Timestamp::now()),
        };
        let met = self.truth.meets(&self.setup, &question, Run { spot: to.spot, round: Uuid::nil(), number: 0 });
        *self.phone.lock().unwrap_or_else(PoisonError::into_inner) = Some(Joined { address: to.address, met });
        Ok(())
    }

    fn report(&self) -> Value {
        let phone = self.phone.lock().unwrap_or_else(PoisonError::into_inner).clone();
        let device = |device: &Device| {
            let radios: Vec<Value> = device
                .radios
                .iter()
                .filter(|radio| radio.on)
                .map(|radio| {
                    let here = phone.iter().filter_map(|own| Some((own, own.met?)));
                    let here = here.filter(|(_, met)| met.serving == device.id && met.band == radio.band);
                    let stations: Vec<Value> = here.map(|(own, met)| station(own.address, &met)).collect();
                    json!({
                        "ID": address_of(device), "Enabled": true,
                        "CurrentOperatingClasses": classes(radio.band, radio.width_mhz.get(), radio.channel),
                        "BSSList": [{ "BSSID": address_of(device), "Enabled": true, "STAList": stations }],
                    })
                })
                .collect();
            json!({ "ID": address_of(device), "RadioList": radios })
        };
        let devices: Vec<Value> = self.setup.devices.iter().map(device).collect();
        json!({
            "busy-hen:StandIn": true,
            "wfa-dataelements:Network": { "ID": "stand-in", "TimeStamp": Timestamp::now(), "DeviceList": devices },
        })
    }
}

fn station(address: IpAddr, met: &Met) -> Value {
    // RCPI: half decibels over -110 dBm (IEEE 802.11-2020, 9.4.2.37).
    let rcpi = ((met.signal_dbm.get() + 110.0) * 2.0).round().clamp(1.0, 220.0);
    json!({
        "MACAddress": "02:00:00:00:00:01", if address.is_ipv4() { "IPV4Address" } else { "IPV6Address" }: address,
        "SignalStrength": rcpi as u8, "LastDataDownlinkRate": (met.link_rate_mbps.get() * 1000.0) as u64,
    })
}

/// The primary channel as a class of 20 MHz, and the whole one where it is wider (IEEE 802.11-2020, table E-4; 137 of 802.11be).
fn classes(band: Band, width: f64, channel: u16) -> Value {
    let (narrow, wide) = match (band, width as u32) {
        (Band::Ghz2_4, 40) => (81, Some(83)),
        (Band::Ghz2_4, _) => (81, None),
        (Band::Ghz5, 40) => (115, Some(116)),
        (Band::Ghz5, 80) => (115, Some(128)),
        (Band::Ghz5, 160) => (115, Some(129)),
        (Band::Ghz5, _) => (115, None),
        (Band::Ghz6, 40) => (131, Some(132)),
        (Band::Ghz6, 80) => (131, Some(133)),
        (Band::Ghz6, 160) => (131, Some(134)),
        (Band::Ghz6, 320) => (131, Some(137)),
        (Band::Ghz6, _) => (131, None),
    };
    let class = |class: u8| json!({ "Class": class, "Channel": channel, "TxPower": 20 });
    Value::Array([Some(narrow), wide].into_iter().flatten().map(class).collect())
}

/// The address that was noted at the bench, or one of its own that no maker gives (IEEE 802: locally administered).
fn address_of(device: &Device) -> String {
    device.hardware_address.clone().unwrap_or_else(|| {
        let id = device.id.0.as_bytes();
        let pairs = id[..5].iter().map(|byte| format!(":{byte:02x}"));
        format!("02{}", pairs.collect::<String>())
    })
}

/// An outage that is asked for.
#[derive(Debug, Deserialize)]
struct Off {
    /// How long from now, ms.
    #[serde(default)]
    after_ms: u64,
    /// For how long, ms.
    for_ms: u64,
}

/// Serves the report at `/report.json` until interrupted; `PUT /phone?address=..&spot=..` carries the phone to a spot, and
/// `PUT /off?after_ms=..&for_ms=..` takes the power of the stand-in device away.
///
/// # Errors
/// When the socket can't be used.
pub async fn serve(listener: TcpListener, kit: Kit, device: Option<PoweredDevice>) -> std::io::Result<()> {
    let (kit, device) = (Data::new(kit), Data::new(device));
    HttpServer::new(move || {
        App::new()
            .app_data(kit.clone())
            .app_data(device.clone())
            .route("/report.json", web::get().to(async |kit: Data<Kit>| HttpResponse::Ok().json(kit.report())))
            .route("/phone", web::put().to(carry))
            .route("/off", web::put().to(switch_off))
    })
    .workers(1)
    .listen(listener)?
    .run()
    .await
}

async fn switch_off(device: Data<Option<PoweredDevice>>, off: Query<Off>) -> HttpResponse {
    let Some(device) = device.as_ref() else { return HttpResponse::NotFound().body("There is no stand-in device.") };
    device.off(Duration::from_millis(off.after_ms), Duration::from_millis(off.for_ms));
    HttpResponse::NoContent().finish()
}

async fn carry(kit: Data<Kit>, to: Query<Carried>) -> HttpResponse {
    match web::block(move || kit.carry(&to)).await {
        Ok(Ok(())) => HttpResponse::NoContent().finish(),
        Ok(Err(words)) => HttpResponse::UnprocessableEntity().body(words),
        Err(_) => HttpResponse::ServiceUnavailable().finish(),
    }
}
