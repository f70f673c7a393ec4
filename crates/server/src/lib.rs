//! The HTTP interface: handlers parse, call the core and storage, and wrap the answer.
//!
//! No rule of the job lives here. Start reading at [`configure`], which lists every endpoint, and at [`error::ApiError`], which
//! maps every failure to a status and a stable code.

mod assets;
mod body;
mod compute;
pub mod error;
pub mod examples;
pub mod interfaces;
pub mod jobs;
mod kit;
pub mod live;
pub mod lock;
mod methods;
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
use actix_web::{App, HttpRequest, HttpResponse, HttpServer, web};
use utoipa::openapi::schema::AdditionalProperties;
use utoipa::openapi::{RefOr, Schema};
use utoipa_actix_web::AppExt;
use utoipa_actix_web::scope;
use utoipa_actix_web::service_config::ServiceConfig;

use busy_hen_measure::{Connection, HEAD_PATIENCE};
use error::ApiError;
use methods::nothing_here;
use network::{NetworkChange, Order};
use routes::phones;

pub use body::EDITOR;
pub use examples::Examples;
pub use origin::Names;
pub use routes::phones::FarEnd;
pub use state::AppState;
pub use walks::{Mishap, WalkOrder, Walker};

/// What pages may load: only what ships with the application.
const CONTENT_POLICY: &str = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; \
                              object-src 'none'; base-uri 'self'; frame-ancestors 'none'";

/// All endpoints, under `/api`. What is not declared open here lies behind the lock, also what is not there at all.
pub fn configure(config: &mut ServiceConfig<'_>) {
    config.service(
        scope("/api")
            .configure(open)
            .service(scope("/phone").configure(of_phones).wrap(from_fn(phones::only_paired)))
            .service(scope("").configure(locked).wrap(from_fn(lock::only_unlocked))),
    );
}

/// Open to whoever reaches the bench: the lock itself.
fn open(config: &mut ServiceConfig<'_>) {
    use routes::lock;
    config.service(lock::look_at_lock).service(lock::set_lock).service(lock::open_lock).service(lock::close_lock);
}

/// Open to phones, by their codes.
fn of_phones(config: &mut ServiceConfig<'_>) {
    config
        .service(phones::phone_view)
        .service(phones::phone_run)
        .service(phones::phone_picture)
        .service(routes::numbers::phone_numbers)
        .default_service(web::to(nothing));
}

/// Open to whoever is in.
fn locked(config: &mut ServiceConfig<'_>) {
    use routes::{
        catalogue, compare, drills, far_end, files, fitting, homes, house, jobs, kit_record, learning, network,
        numbers, parts, passwords, pictures, predict, rounds, setups, watches, zones,
    };
    config
        .service(catalogue::catalogue)
        .service(homes::list_homes)
        .service(homes::create_home)
        .service(homes::open_home)
        .service(homes::delete_home)
        .service(homes::list_deleted_homes)
        .service(homes::bring_home_back)
        .service(homes::throw_home_away)
        .service(homes::put_brief)
        .service(homes::archive_home)
        .service(homes::open_examples)
        .service(homes::undo)
        .service(homes::redo)
        .service(live::live)
        .service(homes::add_family)
        .service(house::draw)
        .service(house::put_house)
        .service(house::rewrite_lines)
        .service(house::length)
        .service(numbers::read_numbers)
        .service(house::house_text)
        .service(house::put_house_text)
        .service(house::house_geojson)
        .service(house::house_svg)
        .service(house::put_air)
        .service(files::export_home)
        .service(files::import_home)
        .service(setups::create_setup)
        .service(setups::put_setup)
        .service(setups::delete_setup)
        .service(setups::go_on_in_a_copy)
        .service(setups::add_device)
        .service(setups::take_off_device)
        .service(predict::light)
        .service(predict::grid)
        .service(predict::chain)
        .service(predict::complaints)
        .service(predict::finding)
        .service(predict::evening)
        .service(predict::series)
        .service(setups::mend)
        .service(setups::make_series)
        .service(setups::order_setups)
        .service(setups::put_in_force)
        .service(zones::dead_zones)
        .service(zones::room_remedies)
        .service(zones::try_remedy)
        .service(learning::learnt)
        .service(learning::put_tables_alone)
        .service(learning::next)
        .service(fitting::run_sheet)
        .service(fitting::put_tick)
        .service(passwords::make_password)
        .service(passwords::keep_password)
        .service(passwords::open_password)
        .service(passwords::forget_password)
        .service(fitting::kit_looks)
        .service(fitting::hand_overs)
        .service(fitting::hand_over_walk)
        .service(drills::listening)
        .service(drills::drill_marks)
        .service(drills::setup_drills)
        .service(drills::add_drill)
        .service(drills::remove_drill)
        .service(drills::probe)
        .service(far_end::look_at_far_end)
        .service(far_end::try_far_end)
        .service(far_end::note_far_end)
        .service(far_end::forget_far_end)
        .service(network::look_at_network)
        .service(network::open_network)
        .service(network::close_network)
        .service(kit_record::kit_record)
        .service(watches::list_watches)
        .service(watches::bring_watch)
        .service(watches::open_watch)
        .service(watches::watch_log)
        .service(watches::remove_watch)
        .service(watches::add_device_note)
        .service(watches::remove_device_note)
        .service(parts::setup_parts)
        .service(parts::setup_parts_csv)
        .service(parts::put_own_kit)
        .service(parts::add_own_kit)
        .service(parts::own_kit_table)
        .service(parts::kit_table)
        .service(parts::kit_table_schema)
        .service(rounds::create_round)
        .service(rounds::open_round)
        .service(rounds::delete_round)
        .service(rounds::allow_kit_report)
        .service(rounds::way)
        .service(rounds::again)
        .service(rounds::look_at_changes)
        .service(rounds::see_effect)
        .service(rounds::add_runs)
        .service(rounds::list_runs)
        .service(rounds::correct_run)
        .service(rounds::void_run)
        .service(rounds::walk)
        .service(rounds::stop_walk)
        .service(rounds::readings_csv)
        .service(rounds::readings_schema)
        .service(rounds::read_table)
        .service(rounds::samples)
        .service(phones::pair_phone)
        .service(phones::list_codes)
        .service(phones::withdraw_code)
        .service(pictures::list_pictures)
        .service(pictures::add_picture)
        .service(pictures::show_picture)
        .service(pictures::remove_picture)
        .service(compare::compare_setups)
        .service(compare::put_decision)
        .service(jobs::look_at_job)
        .service(jobs::result_of_job)
        .service(jobs::call_off_job)
        .default_service(web::to(nothing));
}

/// What an address under `/api` that no handler took comes to.
async fn nothing(request: HttpRequest) -> Result<HttpResponse, ApiError> {
    Err(nothing_here(&request))
}

/// The OpenAPI description of the interface, made from the handlers themselves.
#[must_use]
pub fn openapi() -> utoipa::openapi::OpenApi {
    let (_, mut api) = App::new().into_utoipa_app().configure(configure).split_for_parts();
    let components = api.components.get_or_insert_default();
    components.schemas.extend(problems::schemas());
    components.schemas.insert("Standings".into(), <live::Standings as utoipa::PartialSchema>::schema());
    components.schemas.insert("HomeSummary".into(), <routes::homes::HomeSummary as utoipa::PartialSchema>::schema());
    components.schemas.values_mut().for_each(close_variants);
    api.info = utoipa::openapi::InfoBuilder::new()
        .title("Busy Hen")
        .version(env!("CARGO_PKG_VERSION"))
        .description(Some("Homes, their setups, predictions, rounds of tests and comparisons."))
        .build();
    api
}

/// Says of a tagged enum's variants with fields that they take no others: their readers refuse them, which the derive does not tell.
fn close_variants(schema: &mut RefOr<Schema>) {
    let RefOr::T(Schema::OneOf(one_of)) = schema else { return };
    for item in &mut one_of.items {
        if let RefOr::T(Schema::Object(variant)) = item
            && variant.properties.len() > 1
        {
            variant.additional_properties = Some(Box::new(AdditionalProperties::FreeForm(false)));
        }
    }
}

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
    app.default_service(web::to(assets::asset)).wrap(from_fn(origin::own_pages_only)).wrap(Compress::default()).wrap(
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
