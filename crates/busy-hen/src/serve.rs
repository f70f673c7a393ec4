//! Serving the workbench.

use std::future::Future;
use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;
use std::pin::Pin;
use std::time::Duration;

use actix_web::web::Data;
use busy_hen_server::lock::{Lock, own_cookie};
use busy_hen_server::tokens::fresh;
use busy_hen_server::{AppState, Doors, FarEnd, Mishap, Names, WalkOrder, Walker};
use busy_hen_standins::walker::{self, Manner, Phone};
use busy_hen_store::{Store, StoreError};
use tokio::sync::watch;

use crate::demo;

/// How to serve.
pub struct Options {
    /// Database file.
    pub data: PathBuf,
    /// Where to listen.
    pub listen: SocketAddr,
    /// Whether an empty database gets the demo homes.
    pub demo: bool,
    /// Time between two runs of the stand-in phone.
    pub walk_pace: Duration,
    /// Whether other machines may reach it.
    pub open_to_network: bool,
    /// Whether the pass phrase is to be set anew.
    pub forget_pass_phrase: bool,
    /// Where internet tests go.
    pub far_end: Option<FarEnd>,
    /// Files of certificate and key; none where the link is not encrypted.
    pub tls: Option<(PathBuf, PathBuf)>,
    /// Names that it may be called by, besides `localhost` and addresses.
    pub names: Vec<String>,
}

/// The stand-in phone as the server sends it out.
struct StandInPhone(Phone);

impl Walker for StandInPhone {
    fn walk(
        &self,
        order: WalkOrder,
        called_back: watch::Receiver<bool>,
    ) -> Pin<Box<dyn Future<Output = Result<(), String>> + Send>> {
        let phone = self.0.clone();
        let manner = Manner { seed: order.seed, mishaps: order.mishaps.iter().map(|own| mishap(*own)).collect() };
        Box::pin(async move {
            phone.walk(order.home, order.round, &manner, called_back).await.map_err(|error| error.to_string())
        })
    }
}

fn mishap(asked: Mishap) -> walker::Mishap {
    match asked {
        Mishap::Covered => walker::Mishap::Covered,
        Mishap::DropOut => walker::Mishap::DropOut,
        Mishap::BusyEvening => walker::Mishap::BusyEvening,
        Mishap::MobileData => walker::Mishap::MobileData,
    }
}

/// Serves until interrupted.
pub fn serve(options: &Options) -> Result<(), String> {
    if !options.listen.ip().is_loopback() && !options.open_to_network {
        return Err(format!(
            "{} can be reached from other machines, over a link that is encrypted only with --tls-cert. Say --open-to-network as well if you mean \
             it (the bench then asks for a pass phrase), or listen on 127.0.0.1",
            options.listen
        ));
    }
    crate::terminal::take_connections();
    actix_web::rt::System::new().block_on(async {
        let file = &options.data;
        let store = Store::open(file)
            .await
            .map_err(|error| match error {
                StoreError::Full => format!("the disk of {} is full; make some space and start again", file.display()),
                error => format!("the database {} can't be used: {error}", file.display()),
            })?;
        if options.demo {
            demo::fill(&store).await.map_err(|error| format!("the demo homes could not be stored: {error}"))?;
        }
        let listener = TcpListener::bind(options.listen)
            .map_err(|error| format!("can't listen on {}: {error}; choose another with --listen", options.listen))?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        let tls = options.tls.as_ref().map(|(cert, key)| busy_hen_server::tls::read(cert, key));
        let tls = tls.transpose().map_err(|error| format!("{error}; see --tls-cert and --tls-key"))?;
        // The stand-in phone reaches a server that listens everywhere over the loopback address, and an encrypted one by a door of its
        // own: it trusts no certificate.
        let own_door = tls.as_ref().map(|_| TcpListener::bind(("127.0.0.1", 0))).transpose();
        let own_door = own_door.map_err(|error| format!("can't listen on 127.0.0.1: {error}"))?;
        let inside = own_door.as_ref().map(TcpListener::local_addr).transpose().map_err(|error| error.to_string())?;
        let reachable = match inside {
            Some(inside) => inside,
            None if address.ip().is_unspecified() => SocketAddr::from(([127, 0, 0, 1], address.port())),
            None => address,
        };
        let names = Names { open_to_network: options.open_to_network, more: options.names.clone() };
        let own = fresh();
        let server = format!("http://{reachable}");
        let phone = Phone { server, pace: options.walk_pace, cookie: Some(own_cookie(&own)) };
        if options.forget_pass_phrase {
            store.forget_lock().await.map_err(|error| format!("the pass phrase could not be forgotten: {error}"))?;
        }
        let unset = store.lock().await.map_err(|error| error.to_string())?.is_none();
        let mut state = AppState::new(store.clone(), Some(Box::new(StandInPhone(phone))), names);
        state.lock = Lock::with_own(own);
        state.encrypted = tls.is_some();
        state.examples = Some(Box::new(demo::DemoHomes));
        let noted = store.far_end().await.map_err(|error| error.to_string())?;
        state.set_far_end(options.far_end.clone().or(noted.map(|(url, token)| FarEnd { url, token })));
        let state = Data::new(state);
        let scheme = if tls.is_some() { "https" } else { "http" };
        crate::terminal::tell(format_args!("Busy Hen is at {scheme}://{address}"));
        if options.open_to_network {
            if tls.is_some() {
                crate::terminal::tell("Other machines reach it, over an encrypted link.");
            } else {
                crate::terminal::tell("Other machines reach it. The link is not encrypted: whoever listens in that network can read along.");
            }
            if unset {
                crate::terminal::tell("No pass phrase is set yet: open the page on this machine and set one; until then nobody gets in.");
            }
        }
        busy_hen_server::serve(Doors { listener, tls, own: own_door }, state).await.map_err(|error| format!("serving failed: {error}"))?;
        store.close().await;
        Ok(())
    })
}
