//! Stand-in kit: reports over HTTP who serves a phone and how, as controllers of home kit may. What it reports is made up by the hidden
//! house, and says so. Each device may have an address of its own, where it has a page and a light and can be switched off, and kit may
//! be given faults.

use std::net::{IpAddr, SocketAddr, TcpListener};
use std::sync::{Arc, Mutex, PoisonError};
use std::time::Duration;

use actix_web::web::{Data, Query};
use actix_web::{App, HttpResponse, HttpServer, web};
use busy_hen_catalogue::clients;
use busy_hen_home::{Band, Device, DeviceId, Doors, Home, RadioSetting, Setup, Situation, SpotId, TestKind, local_day};
use busy_hen_predict::Question;
use jiff::Timestamp;
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;
use serde::Deserialize;
use serde_json::{Value, json};
use thiserror::Error;
use uuid::Uuid;

use crate::device::{Device as PoweredDevice, Light, Times};
use crate::fault::Fault;
use crate::truth::{Met, Run, Truth};

/// Kit of one setup in a hidden house.
pub struct Kit {
    home: Home,
    setup: Setup,
    truth: Truth,
    seed: u64,
    faults: Vec<Fault>,
    /// Each device as it has power; empty where it only reports.
    powered: Vec<(DeviceId, PoweredDevice)>,
    phone: Mutex<Option<Joined>>,
}

/// Times of a device that starts, s: common practice of mesh nodes, a start of half a minute and as much again until they have joined.
const STARTS_S: std::ops::Range<f64> = 25.0..45.0;
const LOOKS_S: std::ops::Range<f64> = 15.0..60.0;
/// Says of an answer that it is stand-in kit's: on its own machine the bench reads no other.
const SAYS_SO: (&str, &str) = ("busy-hen-stand-in", "kit");
/// Firmware that the kit comes with, and what it updates itself to.
const FIRMWARE: [&str; 2] = ["1.4.2", "1.5.0"];

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
        Ok(Self {
            truth: Truth::new(home.clone(), seed),
            home,
            setup,
            seed,
            faults: Vec::new(),
            powered: Vec::new(),
            phone: Mutex::default(),
        })
    }

    /// The same with these faults; which device each is of goes by the seed.
    #[must_use]
    pub fn with_faults(self, faults: &[Fault]) -> Self {
        Self { faults: faults.to_vec(), ..self }
    }

    /// The same with each device on an address of its own, from this one upwards, so many times quicker than real kit.
    ///
    /// # Errors
    /// When an address can't be listened at.
    pub fn with_devices(mut self, first: SocketAddr, quick: f64) -> std::io::Result<Self> {
        let mut rng = ChaCha8Rng::seed_from_u64(self.seed);
        for (index, device) in (0u16..).zip(&self.setup.devices) {
            let mut span = |range: std::ops::Range<f64>| Duration::from_secs_f64(rng.random_range(range) / quick);
            let times = Times { starts: span(STARTS_S), looks: span(LOOKS_S) };
            let port = if first.port() == 0 { 0 } else { first.port().saturating_add(index) };
            self.powered.push((device.id, PoweredDevice::begin_with(SocketAddr::new(first.ip(), port), times)?));
        }
        Ok(self)
    }

    /// Name and address of each device that has one.
    pub fn devices(&self) -> impl Iterator<Item = (&str, &PoweredDevice)> {
        self.powered.iter().filter_map(|(id, own)| Some((self.setup.device(*id)?.name.as_str(), own)))
    }

    /// Gives each device its settings page.
    pub fn show_pages(self: &Arc<Self>) {
        for (id, powered) in &self.powered {
            let (kit, id) = (Arc::downgrade(self), *id);
            powered.show(move || kit.upgrade().and_then(|kit| kit.page(id)).unwrap_or_default());
        }
    }

    fn powered(&self, id: DeviceId) -> Option<&PoweredDevice> {
        self.powered.iter().find(|(own, _)| *own == id).map(|(_, powered)| powered)
    }

    fn light(&self, id: DeviceId) -> Light {
        self.powered(id).map_or(Light::Steady, PoweredDevice::light)
    }

    fn was_off(&self, id: DeviceId) -> bool {
        self.powered(id).is_some_and(PoweredDevice::was_off)
    }

    /// Whether a fault is of this device: one of those that it can be of, by the seed.
    fn fails(&self, fault: Fault, device: &Device) -> bool {
        let able = |own: &&Device| match fault {
            Fault::WrongParent => own.uplink.as_ref().is_some_and(|up| up.via.is_radio()),
            Fault::GuestsRefused => !own.guest_network.is_empty(),
            Fault::ChannelMoved => own.radios.iter().any(|radio| radio.on),
        };
        let list: Vec<&Device> = self.setup.devices.iter().filter(able).collect();
        let which = usize::try_from(self.seed).unwrap_or_default().checked_rem(list.len());
        self.faults.contains(&fault) && which.is_some_and(|which| list[which].id == device.id)
    }

    /// What a device hangs on now, and whether by radio; none for the one at the line, and for one that finds nothing.
    fn hangs_on(&self, device: &Device) -> Option<(&Device, bool)> {
        let up = device.uplink.as_ref()?;
        let planned = self.setup.device(up.to)?;
        let lost = self.was_off(device.id) || self.was_off(planned.id);
        let wrong = lost && self.fails(Fault::WrongParent, device);
        if self.light(planned.id) == Light::Steady && !wrong {
            return Some((planned, up.via.is_radio()));
        }
        let far = |other: &Device| {
            let level = |of: &Device| self.home.house.levels.iter().position(|own| own.id == of.at.level_id);
            let storeys = level(device).zip(level(other)).map_or(0, |(a, b)| a.abs_diff(b));
            (device.at.x_m - other.at.x_m).get().hypot((device.at.y_m - other.at.y_m).get()) + 3.0 * storeys as f64
        };
        let others = self.setup.devices.iter().filter(|other| {
            other.id != device.id && self.light(other.id) == Light::Steady && !self.is_under(other, device)
        });
        let others = others.filter(|other| !(other.radios.is_empty() || wrong && other.id == planned.id));
        let by_way = |a: &&Device, b: &&Device| far(a).total_cmp(&far(b));
        let to = if wrong { others.max_by(by_way) } else { others.min_by(by_way) };
        // Where nothing wrong is there to go to, even faulty kit goes right.
        let to = to.or_else(|| Some(planned).filter(|own| self.light(own.id) == Light::Steady));
        to.map(|to| (to, true))
    }

    /// Whether a device hangs on another, at however many hops.
    fn is_under(&self, device: &Device, over: &Device) -> bool {
        let mut at = device;
        for _ in 0..self.setup.devices.len() {
            let Some(up) = at.uplink.as_ref().and_then(|up| self.setup.device(up.to)) else { return false };
            if up.id == over.id {
                return true;
            }
            at = up;
        }
        false
    }

    /// The channel that a radio is on now.
    fn channel(&self, device: &Device, radio: &RadioSetting) -> u16 {
        if !(self.was_off(device.id) && self.fails(Fault::ChannelMoved, device)) {
            return radio.channel;
        }
        // Another of its band, as kit that chooses for itself would.
        match (radio.band, radio.channel) {
            (Band::Ghz2_4, 1) => 6,
            (Band::Ghz2_4, 6) => 11,
            (Band::Ghz2_4, _) => 1,
            (Band::Ghz5, 36) => 44,
            (Band::Ghz5, _) => 36,
            (Band::Ghz6, 37) => 53,
            (Band::Ghz6, _) => 37,
        }
    }

    fn firmware(&self, device: &Device) -> &'static str {
        let updated = self.was_off(device.id) && self.fails(Fault::ChannelMoved, device);
        FIRMWARE[usize::from(updated)]
    }

    /// Names of the networks that a device serves.
    fn networks(&self, device: &Device) -> Vec<String> {
        let own = if device.network_name.is_empty() { "home" } else { device.network_name.as_str() };
        let guests =
            Some(&device.guest_network).filter(|name| !name.is_empty() && !self.fails(Fault::GuestsRefused, device));
        [own.to_owned()].into_iter().chain(guests.cloned()).collect()
    }

    /// The settings page of a device, for people.
    fn page(&self, id: DeviceId) -> Option<String> {
        let device = self.setup.device(id)?;
        let radios = device.radios.iter().filter(|radio| radio.on);
        let radios: Vec<String> =
            radios.map(|radio| format!("{} on channel {}", radio.band, self.channel(device, radio))).collect();
        let hangs = match (&device.uplink, self.hangs_on(device)) {
            (None, _) => "the line".to_owned(),
            (_, Some((to, radio))) => format!("{}, {}", to.name, if radio { "by radio" } else { "by wire" }),
            (_, None) => "nothing".to_owned(),
        };
        let rows = [
            ("light", self.light(id).words().to_owned()),
            ("hangs on", hangs),
            ("radios", radios.join(", ")),
            ("networks", self.networks(device).join(", ")),
            ("firmware", self.firmware(device).to_owned()),
        ];
        let rows: String = rows.iter().map(|(name, value)| format!("<dt>{name}<dd>{}", escaped(value))).collect();
        let name = escaped(&device.name);
        Some(format!(
            "<!doctype html><meta charset=utf-8><title>{name}</title><h1>{name}</h1><p>Stand-in kit: all of this is made up.<dl>{rows}</dl>"
        ))
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
                    // A phone is on the home's own network, which leads.
                    let network = |(index, name): (usize, String)| {
                        let joined = if index == 0 { &stations[..] } else { &[] };
                        json!({ "BSSID": address_of(device), "SSID": name, "Enabled": true, "STAList": joined })
                    };
                    let networks: Vec<Value> = self.networks(device).into_iter().enumerate().map(network).collect();
                    json!({
                        "ID": address_of(device), "Enabled": true,
                        "CurrentOperatingClasses":
                            classes(radio.band, radio.width_mhz.get(), self.channel(device, radio)),
                        "BSSList": networks,
                    })
                })
                .collect();
            let mut own =
                json!({ "ID": address_of(device), "SoftwareVersion": self.firmware(device), "RadioList": radios });
            if let Some((to, by_radio)) = self.hangs_on(device) {
                let link = if by_radio { "Wi-Fi" } else { "Ethernet" };
                own["MultiAPDevice"] = json!({ "Backhaul": { "LinkType": link, "BackhaulDeviceID": address_of(to) } });
            }
            own
        };
        // What has not found its way is not in the network.
        let there = |own: &&Device| {
            self.light(own.id) == Light::Steady && (own.uplink.is_none() || self.hangs_on(own).is_some())
        };
        let devices: Vec<Value> = self.setup.devices.iter().filter(there).map(device).collect();
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
    /// Name of the device; all of them when left out.
    device: Option<String>,
    /// How long from now, ms.
    #[serde(default)]
    after_ms: u64,
    /// For how long, ms.
    for_ms: u64,
}

/// Serves the report at `/report.json` until interrupted; `PUT /phone?address=..&spot=..` carries the phone to a spot, and
/// `PUT /off?device=..&after_ms=..&for_ms=..` takes the power of a device away, or of all.
///
/// # Errors
/// When the socket can't be used.
pub async fn serve(listener: TcpListener, kit: Arc<Kit>) -> std::io::Result<()> {
    kit.show_pages();
    let kit = Data::from(kit);
    HttpServer::new(move || {
        App::new()
            .app_data(kit.clone())
            .route(
                "/report.json",
                web::get().to(async |kit: Data<Kit>| HttpResponse::Ok().insert_header(SAYS_SO).json(kit.report())),
            )
            .route("/phone", web::put().to(carry))
            .route("/off", web::put().to(switch_off))
    })
    .workers(1)
    .listen(listener)?
    .run()
    .await
}

async fn switch_off(kit: Data<Kit>, off: Query<Off>) -> HttpResponse {
    let named = |name: &str| off.device.as_ref().is_none_or(|own| own == name);
    let mut found = false;
    for (_, device) in kit.devices().filter(|(name, _)| named(name)) {
        device.off(Duration::from_millis(off.after_ms), Duration::from_millis(off.for_ms));
        found = true;
    }
    if found {
        HttpResponse::NoContent().finish()
    } else {
        HttpResponse::NotFound().body("There is no such stand-in device; start with --devices.")
    }
}

async fn carry(kit: Data<Kit>, to: Query<Carried>) -> HttpResponse {
    match web::block(move || kit.carry(&to)).await {
        Ok(Ok(())) => HttpResponse::NoContent().finish(),
        Ok(Err(words)) => HttpResponse::UnprocessableEntity().body(words),
        Err(_) => HttpResponse::ServiceUnavailable().finish(),
    }
}

/// A text as HTML.
fn escaped(text: &str) -> String {
    text.replace('&', "&amp;").replace('<', "&lt;").replace('>', "&gt;")
}
