//! The plug of a stand-in line, pulled over HTTP.

use std::net::TcpListener;
use std::time::Duration;

use actix_web::web::{Data, Query};
use actix_web::{App, HttpResponse, HttpServer, web};
use serde::Deserialize;

use crate::line::Plug;

/// How the line is pulled.
#[derive(Debug, Deserialize)]
struct Pull {
    /// How long from now, ms.
    #[serde(default)]
    after_ms: u64,
    /// For how long, ms.
    for_ms: u64,
    /// How long after the pull a second line takes over, ms; none does when left out.
    second_after_ms: Option<u64>,
}

/// Serves `PUT /pull?after_ms=..&for_ms=..&second_after_ms=..` until interrupted.
///
/// # Errors
/// When the socket can't be used.
pub async fn serve(listener: TcpListener, plug: Plug) -> std::io::Result<()> {
    let plug = Data::new(plug);
    HttpServer::new(move || App::new().app_data(plug.clone()).route("/pull", web::put().to(pull)))
        .workers(1)
        .listen(listener)?
        .run()
        .await
}

async fn pull(plug: Data<Plug>, asked: Query<Pull>) -> HttpResponse {
    let Pull { after_ms, for_ms, second_after_ms } = asked.into_inner();
    let [after, during] = [after_ms, for_ms].map(Duration::from_millis);
    actix_web::rt::spawn(async move { plug.pull(after, during, second_after_ms.map(Duration::from_millis)).await });
    HttpResponse::NoContent().finish()
}
