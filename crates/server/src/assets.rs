//! The front end, embedded in the program.

use actix_web::http::{Method, header};
use actix_web::web::Data;
use actix_web::{HttpRequest, HttpResponse, HttpResponseBuilder};
use rust_embed::RustEmbed;

use crate::error::ApiError;
use crate::state::AppState;

/// What pages may load: only what ships with the application.
pub const CONTENT_POLICY: &str = "default-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; \
                              object-src 'none'; base-uri 'self'; frame-ancestors 'none'";

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Assets;

/// A file of the front end; the phone's page, or the bench's start page for every other address, which the front end routes itself.
pub async fn asset(state: Data<AppState>, request: HttpRequest) -> Result<HttpResponse, ApiError> {
    let path = request.path().trim_start_matches('/');
    if path == "api" || path.starts_with("api/") {
        return Err(ApiError::NoSuchPage);
    }
    if *request.method() != Method::GET && *request.method() != Method::HEAD {
        return Err(ApiError::Method("GET".into()));
    }
    if let Some(file) = Assets::get(path) {
        // A worker goes by the policy that its own script comes with: it is asked for anew each time, since a far end may be noted later.
        let worker = path.starts_with("assets/worker-");
        // Built files carry a hash of their content in their name.
        let kept = path.starts_with("assets/") && !worker;
        let caching = if kept { "public, max-age=31536000, immutable" } else { "no-cache" };
        let mut answer = HttpResponse::Ok();
        if worker {
            let_out(&mut answer, &state);
        }
        return Ok(answer
            .content_type(file.metadata.mimetype())
            .insert_header((header::CACHE_CONTROL, caching))
            .body(file.data));
    }
    // Built files have no address that the front end would route.
    if path.starts_with("assets/") {
        return Err(ApiError::NoSuchPage);
    }
    let page = Assets::get(if path == "phone" { "phone.html" } else { "index.html" }).ok_or(ApiError::NoSuchPage)?;
    let mut answer = HttpResponse::Ok();
    let_out(&mut answer, &state);
    Ok(answer
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CACHE_CONTROL, "no-cache"))
        .body(page.data))
}

/// Lets the pages and the phone's worker talk to the far end, and to nothing else.
fn let_out(answer: &mut HttpResponseBuilder, state: &AppState) {
    let Some(far) = state.far_end() else { return };
    let socket = far.url.replacen("http", "ws", 1);
    let policy = format!("{CONTENT_POLICY}; connect-src 'self' {} {socket}", far.url);
    answer.insert_header((header::CONTENT_SECURITY_POLICY, policy));
}
