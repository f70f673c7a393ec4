//! The front end, embedded in the program.

use actix_web::http::header;
use actix_web::{HttpRequest, HttpResponse};
use rust_embed::RustEmbed;

use crate::error::ApiError;

#[derive(RustEmbed)]
#[folder = "../../web/dist"]
#[allow_missing = true]
struct Assets;

/// A file of the front end; its start page for every other address, which the front end routes itself.
pub async fn asset(request: HttpRequest) -> Result<HttpResponse, ApiError> {
    let path = request.path().trim_start_matches('/');
    if path.starts_with("api/") {
        return Err(ApiError::NoSuchPage);
    }
    if let Some(file) = Assets::get(path) {
        // Built files carry a hash of their content in their name.
        let caching = if path.starts_with("assets/") { "public, max-age=31536000, immutable" } else { "no-cache" };
        return Ok(HttpResponse::Ok()
            .content_type(file.metadata.mimetype())
            .insert_header((header::CACHE_CONTROL, caching))
            .body(file.data));
    }
    let page = Assets::get("index.html").ok_or(ApiError::NoSuchPage)?;
    Ok(HttpResponse::Ok()
        .content_type("text/html; charset=utf-8")
        .insert_header((header::CACHE_CONTROL, "no-cache"))
        .body(page.data))
}
