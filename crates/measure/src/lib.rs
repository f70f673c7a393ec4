//! The far side of a test: sends bytes, counts what arrives, answers exchanges. It computes nothing: what was seen goes to the core.
//!
//! One test is one [`line`](test::line), a WebSocket that is open while it runs; downloads and uploads name the test they belong to.
//! Two tests at once would spoil each other, so a line waits until it is its turn. All addresses take a token, also the WebSocket,
//! and lie outside of compression and caching.

mod connection;
mod far_side;
mod guests;
mod test;
mod traffic;
mod turns;

use actix_web::http::header;
use actix_web::middleware::DefaultHeaders;
use actix_web::{App, HttpServer, web};
pub use connection::Connection;
pub use far_side::{FarSide, HEAD_PATIENCE, OneToken, Tokens};

/// Serves nothing but tests, to pages of any origin that know a token: a far end beyond the line.
///
/// # Errors
/// When the socket can't be used.
pub async fn serve_far_end(listener: std::net::TcpListener, far_side: FarSide) -> std::io::Result<()> {
    let far_side = web::Data::new(far_side);
    HttpServer::new(move || {
        // The token is what lets in, not where the page comes from; nothing here is read by a cookie.
        let any_origin = DefaultHeaders::new()
            .add((header::ACCESS_CONTROL_ALLOW_ORIGIN, "*"))
            .add((header::X_CONTENT_TYPE_OPTIONS, "nosniff"));
        App::new().wrap(any_origin).service(web::scope("/measure").app_data(far_side.clone()).configure(configure))
    })
    // A delay that is measured must be the line's, not that of small packets held back.
    .tcp_nodelay(true)
    .client_request_timeout(HEAD_PATIENCE)
    .h1_allow_half_closed(false)
    .on_connect(Connection::note)
    .listen(listener)?
    .shutdown_timeout(5)
    .run()
    .await
}

/// The addresses, to be put under `/measure`.
pub fn configure(config: &mut web::ServiceConfig) {
    config
        .route("/line", web::get().to(test::line))
        .route("/seen", web::get().to(test::seen))
        .route("/down", web::get().to(traffic::down))
        .route("/up", web::post().to(traffic::up));
}
