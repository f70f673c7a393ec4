//! The HTTP interface: handlers parse, call the core and storage, and wrap the answer.
//!
//! No rule of the job lives here. Start reading at [`configure`], which lists every endpoint, and at [`error::ApiError`], which
//! maps every failure to a status and a stable code.

pub mod api;
mod assets;
mod body;
mod compute;
pub mod drawing;
pub mod error;
pub mod examples;
mod far_end;
mod gate;
pub mod interfaces;
pub mod jobs;
mod kit;
pub mod live;
pub mod lock;
pub mod network;
pub mod origin;
mod problems;
pub mod routes;
mod sealing;
mod spool;
pub mod state;
pub mod thumb;
pub mod tls;
pub mod tokens;
mod tries;
pub mod views;
pub mod walks;

use std::any::Any;
use std::sync::Arc;
use std::time::Duration;

use actix_tls::accept::rustls_0_23::TlsStream;
use actix_web::dev::{Extensions, Server, ServerHandle, ServiceFactory, ServiceRequest, ServiceResponse};
use actix_web::http::header;
use actix_web::middleware::{Compress, DefaultHeaders, from_fn};
use actix_web::rt::net::TcpStream;
use actix_web::{App, HttpServer, web};
use utoipa_actix_web::AppExt;

use busy_hen_measure::{Connection, HEAD_PATIENCE};
use network::{NetworkChange, Order};

pub use api::{configure, openapi};
use assets::CONTENT_POLICY;
pub use body::EDITOR;
pub use examples::Examples;
pub use far_end::FarEnd;
pub use origin::Names;
pub use state::AppState;
pub use walks::{Mishap, WalkOrder, Walker};

/// Extractors that answer bad input with a problem document.
fn extractors(config: &mut web::ServiceConfig) {
    config.app_data(web::PathConfig::default().error_handler(|_, _| error::ApiError::NoSuchPage.into())).app_data(
        web::QueryConfig::default().error_handler(|error, _| error::ApiError::Query(error.to_string()).into()),
    );
}

/// The whole application: interface, front end, and what every request passes through.
pub fn application(
    state: web::Data<AppState>,
) -> App<
    impl ServiceFactory<
        ServiceRequest,
        Config = (),
        Response = ServiceResponse<impl actix_web::body::MessageBody>,
        Error = actix_web::Error,
        InitError = (),
    >,
> {
    let far_side = web::Data::from(Arc::clone(&state.far_side));
    let (app, _) = App::new()
        .service(web::scope("/measure").app_data(far_side).configure(busy_hen_measure::configure))
        .into_utoipa_app()
        .app_data(state)
        .map(|app| app.configure(extractors))
        .configure(configure)
        .split_for_parts();
    app.default_service(web::to(assets::asset)).wrap(from_fn(gate::own_pages_only)).wrap(Compress::default()).wrap(
        DefaultHeaders::new()
            .add((header::CONTENT_SECURITY_POLICY, CONTENT_POLICY))
            .add((header::X_CONTENT_TYPE_OPTIONS, "nosniff"))
            .add((header::REFERRER_POLICY, "no-referrer")),
    )
}

/// How often it is looked whether an open bench should close by itself.
const LOOK: Duration = Duration::from_secs(2);
/// How long connections from outside have to end when the bench closes, seconds.
const CLOSING_S: u64 = 1;

/// Serves the interface and the front end on a socket that is already bound, until the process is told to stop.
///
/// # Errors
/// When the socket can't be used.
pub async fn serve(doors: Doors, state: web::Data<AppState>) -> std::io::Result<()> {
    let mut orders = state.network.serves_at(doors.listener.local_addr()?.port());
    let own = doors.own.map(|own| (own, None));
    let first = [(doors.listener, doors.tls.clone())].into_iter().chain(own).collect();
    let mut main = run(first, &state, true)?;
    let mut outside: Vec<ServerHandle> = Vec::new();
    let mut look = tokio::time::interval(LOOK);
    loop {
        tokio::select! {
            ended = &mut main => {
                stop(&mut outside).await;
                return ended;
            }
            Some(order) = orders.recv() => match order {
                Order::Serve(listeners) => {
                    let more = listeners.into_iter().map(|own| (own, doors.tls.clone())).collect();
                    match run(more, &state, false) {
                        Ok(server) => {
                            outside.push(server.handle());
                            actix_web::rt::spawn(server);
                        }
                        Err(error) => {
                            tracing::error!(%error, "could not serve on the network");
                            close(&mut outside, &state, NetworkChange::Closed).await;
                        }
                    }
                }
                Order::Close(done) => {
                    close(&mut outside, &state, NetworkChange::Closed).await;
                    let _ = done.send(());
                }
            },
            _ = look.tick(), if state.network.is_open() => {
                let code = state.store.last_code_ends(state.now()).await;
                // While storage fails, nothing is known against the codes.
                if let Ok(code) = code && let Some(why) = state.network.should_close(code.is_some()) {
                    close(&mut outside, &state, why).await;
                }
            }
        }
    }
}

/// Closes the bench to other machines: nothing of theirs is served any more when this comes back.
async fn close(outside: &mut Vec<ServerHandle>, state: &AppState, why: NetworkChange) {
    stop(outside).await;
    state.lock.empty();
    state.network.has_closed(why, state.now());
}

async fn stop(outside: &mut Vec<ServerHandle>) {
    futures_util::future::join_all(outside.drain(..).map(|server| server.stop(true))).await;
}

/// A server on these sockets, each with its certificate where it is encrypted. The first one of the program heeds its signals.
fn run(
    sockets: Vec<(std::net::TcpListener, Option<rustls::ServerConfig>)>,
    state: &web::Data<AppState>,
    first: bool,
) -> std::io::Result<Server> {
    let state = state.clone();
    // The last part of an answer does not wait for the other end to acknowledge the part before it (40 ms at every tenth key).
    let mut server = HttpServer::new(move || application(state.clone()))
        .client_request_timeout(HEAD_PATIENCE)
        // Whoever has hung up waits for no answer: what was computed for them ends.
        .h1_allow_half_closed(false)
        .on_connect(note_connection)
        .tcp_nodelay(true);
    for (socket, tls) in sockets {
        server = match tls {
            // WebSockets go over HTTP/1.1 here, so nothing else is offered.
            Some(tls) => server.listen_rustls_0_23(socket, tls)?,
            None => server.listen(socket)?,
        };
    }
    Ok(if first { server.shutdown_timeout(5) } else { server.shutdown_timeout(CLOSING_S).disable_signals() }.run())
}

/// Notes a connection, so that a transfer that stalls can be cut.
fn note_connection(connection: &dyn Any, notes: &mut Extensions) {
    match connection.downcast_ref::<TlsStream<TcpStream>>() {
        Some(encrypted) => Connection::note_stream(encrypted.get_ref().0, notes),
        None => Connection::note(connection, notes),
    }
}

/// Where the application listens.
#[derive(Debug)]
pub struct Doors {
    /// The socket that was asked for.
    pub listener: std::net::TcpListener,
    /// Certificate and key of it; none where it is not encrypted.
    pub tls: Option<rustls::ServerConfig>,
    /// A socket of this machine alone, not encrypted, for what ships with the program.
    pub own: Option<std::net::TcpListener>,
}
