//! Serving the workbench.

use std::future::Future;
use std::net::{SocketAddr, TcpListener};
use std::path::PathBuf;
use std::pin::Pin;
use std::time::Duration;

use actix_web::web::Data;
use busy_hen_server::{AppState, Names, WalkOrder, Walker};
use busy_hen_standins::walker::Phone;
use busy_hen_store::Store;

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
    /// Names that it may be called by, besides `localhost` and addresses.
    pub names: Vec<String>,
}

/// The stand-in phone as the server sends it out.
struct StandInPhone(Phone);

impl Walker for StandInPhone {
    fn walk(&self, order: WalkOrder) -> Pin<Box<dyn Future<Output = Result<(), String>> + Send>> {
        let phone = self.0.clone();
        Box::pin(
            async move { phone.walk(order.home, order.round, order.seed).await.map_err(|error| error.to_string()) },
        )
    }
}

/// Serves until interrupted.
pub fn serve(options: &Options) -> Result<(), String> {
    if !options.listen.ip().is_loopback() && !options.open_to_network {
        return Err(format!(
            "{} can be reached from other machines, and nothing asks them who they are: everyone in the network could read and \
             change all homes. Say --open-to-network as well if you mean it, or listen on 127.0.0.1",
            options.listen
        ));
    }
    actix_web::rt::System::new().block_on(async {
        let file = &options.data;
        let store = Store::open(file)
            .await
            .map_err(|error| format!("the database {} can't be used: {error}", file.display()))?;
        if options.demo {
            demo::fill(&store).await.map_err(|error| format!("the demo homes could not be stored: {error}"))?;
        }
        let listener = TcpListener::bind(options.listen)
            .map_err(|error| format!("can't listen on {}: {error}; choose another with --listen", options.listen))?;
        let address = listener.local_addr().map_err(|error| error.to_string())?;
        // The stand-in phone reaches a server that listens everywhere over the loopback address.
        let reachable =
            if address.ip().is_unspecified() { SocketAddr::from(([127, 0, 0, 1], address.port())) } else { address };
        let names = Names { open_to_network: options.open_to_network, more: options.names.clone() };
        let phone = Phone { server: format!("http://{reachable}"), pace: options.walk_pace };
        let state = Data::new(AppState::new(store.clone(), Some(Box::new(StandInPhone(phone))), names));
        println!("Busy Hen is at http://{address}");
        if options.open_to_network {
            println!("Every machine that reaches this address can read and change all homes: there is no lock yet.");
        }
        busy_hen_server::serve(listener, state).await.map_err(|error| format!("serving failed: {error}"))?;
        store.close().await;
        Ok(())
    })
}
