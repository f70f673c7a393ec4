//! Whether other machines reach the bench: for as long as it runs, as it was started, or opened and closed from its own page.
//!
//! A bench that is opened listens on the machine's own addresses besides, at the port of its own door: what phones have not sent yet lies with
//! the address of their page, so it must be the same each time.

use std::collections::{HashMap, HashSet, VecDeque};
use std::net::{IpAddr, SocketAddr, TcpListener};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Mutex, OnceLock, PoisonError};
use std::time::{Duration, Instant};

use busy_hen_home::RoundId;
use jiff::Timestamp;
use serde::Serialize;
use tokio::sync::{mpsc, oneshot};
use utoipa::ToSchema;

use crate::error::ApiError;
use crate::interfaces::{Interface, interfaces};

/// How long it stays open when the last code has run out: who withdraws one may be about to make another.
const LINGERS: Duration = Duration::from_secs(60);
/// How long it stays open while no code is made.
const UNUSED: Duration = Duration::from_secs(3600);
/// Changes that are remembered.
const EVENTS_MOST: usize = 20;
/// Phones that are remembered.
const PHONES_MOST: usize = 200;

/// What the bench's own loop is to do.
#[derive(Debug)]
pub enum Order {
    /// Serve on these sockets too.
    Serve(Vec<TcpListener>),
    /// Serve on none but its own any more, and say when that is so.
    Close(oneshot::Sender<()>),
}

/// A way in which the bench was opened or closed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum NetworkChange {
    /// It was opened from its page.
    Opened,
    /// It was closed from its page.
    Closed,
    /// It closed by itself: the last code had run out.
    CodesRanOut,
    /// It closed by itself: no code was made.
    Unused,
}

/// That the bench was opened or closed.
#[derive(Debug, Clone, Copy, Serialize, ToSchema)]
pub struct NetworkEvent {
    /// When.
    #[schema(value_type = String, format = DateTime)]
    pub at: Timestamp,
    /// What was done.
    pub change: NetworkChange,
}

/// A phone that was heard from another address than the machine's own loopback.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct HeardPhone {
    /// Where it came from.
    pub address: IpAddr,
    /// The round of its code.
    pub round: RoundId,
    /// When it was heard last.
    pub at: Timestamp,
    /// How many runs and pictures it then said it had not sent; none when it did not say.
    pub waiting: Option<u32>,
}

/// Whether other machines reach the bench.
#[derive(Debug)]
pub struct Network {
    /// Whether they do for as long as it runs.
    always: bool,
    /// How long it stays open when the last code has run out.
    pub lingers: Duration,
    open: AtomicBool,
    served: OnceLock<Served>,
    now: Mutex<Now>,
}

#[derive(Debug)]
struct Served {
    port: u16,
    orders: mpsc::UnboundedSender<Order>,
}

#[derive(Debug, Default)]
struct Now {
    doors: HashSet<IpAddr>,
    /// Whether a code was open since it was opened, and since when none is.
    had_code: bool,
    none_since: Option<Instant>,
    events: VecDeque<NetworkEvent>,
    phones: HashMap<(String, IpAddr), HeardPhone>,
}

impl Network {
    /// A bench that other machines reach for as long as it runs, or that is closed until it is opened.
    #[must_use]
    pub fn new(always: bool) -> Self {
        Self { always, lingers: LINGERS, open: AtomicBool::new(always), served: OnceLock::new(), now: Mutex::default() }
    }

    /// Whether other machines reach it for as long as it runs.
    #[must_use]
    pub fn is_always_open(&self) -> bool {
        self.always
    }

    /// Whether other machines reach it now.
    #[must_use]
    pub fn is_open(&self) -> bool {
        self.open.load(Ordering::SeqCst)
    }

    /// Takes over: the orders of a bench whose own door is at this port.
    pub fn serves_at(&self, port: u16) -> mpsc::UnboundedReceiver<Order> {
        let (orders, taken) = mpsc::unbounded_channel();
        // One bench serves once.
        let _ = self.served.set(Served { port, orders });
        taken
    }

    /// The machine's addresses under which the bench answers now.
    #[must_use]
    pub fn doors(&self) -> Vec<Interface> {
        let mut own = interfaces(self.is_open());
        if self.is_open() && !self.always {
            let now = self.now();
            own.retain(|interface| now.doors.contains(&interface.address));
        }
        own
    }

    fn may_change(&self) -> Result<(), ApiError> {
        let told = "Busy Hen was started open to the network. Stop it to close it.";
        if self.always { Err(ApiError::Conflict(told.into())) } else { Ok(()) }
    }

    /// Whether it could be opened.
    ///
    /// # Errors
    /// [`ApiError::Conflict`] when it is open for as long as it runs, or the machine is in no network.
    pub fn may_open(&self) -> Result<(), ApiError> {
        self.may_change()?;
        if interfaces(true).is_empty() {
            let none = "This computer is in no network. Plug in its cable or join the home’s Wi-Fi, then try again.";
            return Err(ApiError::Conflict(none.into()));
        }
        Ok(())
    }

    /// Opens it on every address that the machine has now.
    ///
    /// # Errors
    /// [`ApiError::Conflict`] when it can't be.
    pub fn open(&self, at: Timestamp) -> Result<(), ApiError> {
        self.may_open()?;
        let served = self.served.get().ok_or_else(|| ApiError::Conflict("This bench is not being served.".into()))?;
        let mut now = self.now();
        let (mut bound, mut refused) = (Vec::new(), Vec::new());
        for own in interfaces(true).into_iter().filter(|own| !now.doors.contains(&own.address)) {
            match TcpListener::bind(SocketAddr::new(own.address, served.port)) {
                Ok(listener) => bound.push((own.address, listener)),
                Err(error) => refused.push(format!("{}: {error}", own.address)),
            }
        }
        if bound.is_empty() && now.doors.is_empty() {
            let (port, why) = (served.port, refused.join(", "));
            let taken = format!(
                "Port {port} can’t be used on this computer’s network ({why}). Stop the other program, then try again."
            );
            return Err(ApiError::Conflict(taken));
        }
        if !self.is_open() {
            now.tell(NetworkEvent { at, change: NetworkChange::Opened });
            (now.had_code, now.none_since) = (false, None);
        }
        // The lock goes on before anything is let in.
        self.open.store(true, Ordering::SeqCst);
        if bound.is_empty() {
            return Ok(());
        }
        let addresses: Vec<IpAddr> = bound.iter().map(|(address, _)| *address).collect();
        tracing::info!(?addresses, port = served.port, "opened to the network");
        now.doors.extend(addresses);
        let listeners = bound.into_iter().map(|(_, listener)| listener).collect();
        let gone = |_| ApiError::Internal("the bench takes no orders any more".into());
        served.orders.send(Order::Serve(listeners)).map_err(gone)
    }

    /// A code is made for a phone: that is what it is open for. Opens it on addresses that the machine has got since, too.
    pub fn code_is_made(&self, at: Timestamp) {
        self.now().had_code = true;
        if self.is_open()
            && !self.always
            && let Err(error) = self.open(at)
        {
            tracing::warn!(%error, "new addresses could not be opened");
        }
    }

    /// Closes it, and waits until nothing from outside is served any more.
    ///
    /// # Errors
    /// [`ApiError::Conflict`] when it is open for as long as it runs.
    pub async fn close(&self) -> Result<(), ApiError> {
        self.may_change()?;
        let Some(served) = self.served.get().filter(|_| self.is_open()) else { return Ok(()) };
        let gone = || ApiError::Internal("the bench takes no orders any more".into());
        let (done, closed) = oneshot::channel();
        served.orders.send(Order::Close(done)).map_err(|_| gone())?;
        closed.await.map_err(|_| gone())
    }

    /// Notes that nothing from outside is served any more.
    pub fn has_closed(&self, change: NetworkChange, at: Timestamp) {
        let mut now = self.now();
        now.doors.clear();
        now.tell(NetworkEvent { at, change });
        self.open.store(false, Ordering::SeqCst);
        tracing::info!(?change, "closed to the network");
    }

    /// Why it should close by itself now, by whether a code is open; none while it should not.
    pub fn should_close(&self, code_is_open: bool) -> Option<NetworkChange> {
        if !self.is_open() || self.always {
            return None;
        }
        let mut now = self.now();
        if code_is_open {
            (now.had_code, now.none_since) = (true, None);
            return None;
        }
        let waited = now.none_since.get_or_insert_with(Instant::now).elapsed();
        match now.had_code {
            true if waited >= self.lingers => Some(NetworkChange::CodesRanOut),
            false if waited >= UNUSED => Some(NetworkChange::Unused),
            _ => None,
        }
    }

    /// Notes that a phone was heard, by the digest of its code.
    pub fn hear(&self, code: &str, phone: HeardPhone) {
        if phone.address.is_loopback() {
            return;
        }
        let mut now = self.now();
        now.phones.insert((code.to_owned(), phone.address), phone);
        if now.phones.len() > PHONES_MOST
            && let Some(oldest) = now.phones.iter().min_by_key(|(_, own)| own.at).map(|(key, _)| key.clone())
        {
            now.phones.remove(&oldest);
        }
    }

    /// Phones that were heard since the program was started, heard last first.
    #[must_use]
    pub fn phones(&self) -> Vec<HeardPhone> {
        let mut phones: Vec<HeardPhone> = self.now().phones.values().copied().collect();
        phones.sort_by_key(|own| std::cmp::Reverse(own.at));
        phones
    }

    /// When it was opened and closed since the program was started, newest first.
    #[must_use]
    pub fn events(&self) -> Vec<NetworkEvent> {
        self.now().events.iter().rev().copied().collect()
    }

    fn now(&self) -> std::sync::MutexGuard<'_, Now> {
        self.now.lock().unwrap_or_else(PoisonError::into_inner)
    }
}

impl Now {
    fn tell(&mut self, event: NetworkEvent) {
        if self.events.len() == EVENTS_MOST {
            self.events.pop_front();
        }
        self.events.push_back(event);
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn it_closes_by_itself_once_the_last_code_has_run_out_and_not_before_one_was_made() {
        let network = Network { open: AtomicBool::new(true), lingers: Duration::ZERO, ..Network::new(false) };
        assert_eq!(network.should_close(false), None, "a code is still to be made");
        assert_eq!(network.should_close(true), None);
        assert_eq!(network.should_close(false), Some(NetworkChange::CodesRanOut));
        let always = Network { lingers: Duration::ZERO, ..Network::new(true) };
        assert_eq!((always.should_close(true), always.should_close(false)), (None, None));
        assert_eq!(Network::new(false).should_close(false), None, "it is not open");
    }

    #[test]
    fn a_phone_is_remembered_by_its_code_and_address_as_it_was_heard_last() {
        let network = Network::new(true);
        let phone = |address: &str, second, waiting| HeardPhone {
            address: address.parse().expect("an address"),
            round: RoundId::named("one"),
            at: Timestamp::from_second(second).expect("a time"),
            waiting,
        };
        for heard in [phone("192.168.1.7", 1, Some(2)), phone("192.168.1.7", 2, Some(1)), phone("127.0.0.1", 3, None)] {
            network.hear("code", heard);
        }
        assert_eq!(network.phones(), [phone("192.168.1.7", 2, Some(1))]);
        for number in 0..2 * PHONES_MOST {
            network.hear(&number.to_string(), phone("192.168.1.8", 10 + number as i64, None));
        }
        assert_eq!(network.phones().len(), PHONES_MOST);
    }
}
