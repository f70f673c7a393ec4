//! What a request carries: its body as JSON, what it is based on, and who sends it.

use std::fs::File;
use std::future::{Ready, ready};
use std::io::Read;
use std::ops::Deref;
use std::pin::Pin;
use std::time::Duration;

use actix_web::dev::Payload;
use actix_web::http::header;
use actix_web::web::Bytes;
use actix_web::{FromRequest, HttpMessage, HttpRequest};
use busy_hen_formats::PICTURE_LIMIT;
use busy_hen_store::Editor;
use serde::de::DeserializeOwned;
use serde_json::{Number, Value};
use utoipa::IntoParams;

use crate::error::ApiError;
use crate::spool;

/// Largest JSON body that is read, bytes.
const LIMIT: usize = 4 * 1024 * 1024;
/// Longest that a JSON body may take to arrive.
const PATIENCE: Duration = Duration::from_secs(30);
/// Largest whole number that JSON's doubles hold exactly.
const EXACT: f64 = 9_007_199_254_740_992.0;

/// Header that names who edits.
pub const EDITOR: &str = "Busy-Hen-Editor";
/// Header that names the sitting of typing.
pub const TYPING: &str = "Busy-Hen-Typing";

/// A JSON body.
///
/// Whole numbers may be written with a fraction of zero, as JSON and its schemas have them.
#[derive(Debug)]
pub struct Body<T>(pub T);

impl<T> Body<T> {
    /// What was sent.
    pub fn into_inner(self) -> T {
        self.0
    }
}

impl<T> Deref for Body<T> {
    type Target = T;
    fn deref(&self) -> &T {
        &self.0
    }
}

impl<T: DeserializeOwned + 'static> FromRequest for Body<T> {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        if request.content_type() != "application/json" {
            return Box::pin(ready(Err(ApiError::MediaType)));
        }
        let bytes = read(request, payload, LIMIT, PATIENCE);
        Box::pin(async move { Ok(Self(json(&bytes.await?)?)) })
    }
}

fn json<T: DeserializeOwned>(bytes: &[u8]) -> Result<T, ApiError> {
    let mut value: Value = serde_json::from_slice(bytes)
        .map_err(|error| ApiError::Body(format!("What was sent is not understood: {error}.")))?;
    whole_numbers(&mut value);
    serde_path_to_error::deserialize(value).map_err(|error| {
        let path = error.path().to_string();
        let place = if path == "." { String::new() } else { format!(" at {path}") };
        ApiError::Body(format!("What was sent is not understood{place}: {}.", error.into_inner()))
    })
}

/// A body that should be a picture; on the disk until it is its turn to be unpacked.
#[derive(Debug)]
pub struct Image(File);

impl Image {
    /// Its bytes.
    ///
    /// # Errors
    /// What the disk says.
    pub fn bytes(mut self) -> Result<Vec<u8>, ApiError> {
        let mut bytes = Vec::new();
        self.0.read_to_end(&mut bytes)?;
        Ok(bytes)
    }
}

impl FromRequest for Image {
    type Error = ApiError;
    type Future = Pin<Box<dyn Future<Output = Result<Self, ApiError>>>>;

    fn from_request(request: &HttpRequest, payload: &mut Payload) -> Self::Future {
        if announced(request).is_some_and(|length| length > PICTURE_LIMIT as u64) {
            return Box::pin(ready(Err(ApiError::TooLarge(PICTURE_LIMIT >> 20))));
        }
        let body = actix_web::web::Payload::from_request(request, payload).into_inner();
        Box::pin(async move {
            let body = body.map_err(|error| ApiError::Body(format!("What was sent could not be read: {error}.")))?;
            Ok(Self(spool::take(body, PICTURE_LIMIT as u64, PATIENCE).await?.0))
        })
    }
}

/// How long a request says that its body is.
pub fn announced(request: &HttpRequest) -> Option<u64> {
    request.headers().get(header::CONTENT_LENGTH)?.to_str().ok()?.parse().ok()
}

/// What is read of whoever has not shown that they may: little, and soon.
const UNKNOWN_LIMIT: usize = 4096;
const UNKNOWN_PATIENCE: Duration = Duration::from_secs(10);

/// The small JSON body of whoever has not shown yet that they may send any.
pub async fn of_unknown<T: DeserializeOwned>(
    request: &HttpRequest,
    body: actix_web::web::Payload,
) -> Result<T, ApiError> {
    if request.content_type() != "application/json" {
        return Err(ApiError::MediaType);
    }
    let bytes = read(request, &mut body.into_inner(), UNKNOWN_LIMIT, UNKNOWN_PATIENCE).await?;
    json(&bytes)
}

/// The bytes of a body of at most this size, when they arrive in time.
pub fn read(
    request: &HttpRequest,
    payload: &mut Payload,
    limit: usize,
    patience: Duration,
) -> Pin<Box<dyn Future<Output = Result<Bytes, ApiError>>>> {
    if announced(request).is_some_and(|length| length > limit as u64) {
        return Box::pin(ready(Err(ApiError::TooLarge(limit >> 20))));
    }
    let body = actix_web::web::Payload::from_request(request, payload).into_inner();
    Box::pin(async move {
        let body = body.map_err(|error| ApiError::Body(format!("What was sent could not be read: {error}.")))?;
        let arrives = tokio::time::timeout(patience, body.to_bytes_limited(limit));
        match arrives.await {
            Ok(Ok(Ok(bytes))) => Ok(bytes),
            Ok(Ok(Err(error))) => Err(ApiError::Body(format!("What was sent could not be read: {error}."))),
            Ok(Err(_)) => Err(ApiError::TooLarge(limit >> 20)),
            Err(_) => Err(ApiError::TooSlow(patience.as_secs())),
        }
    })
}

/// Turns whole numbers that were written with a fraction of zero into plain ones.
fn whole_numbers(value: &mut Value) {
    match value {
        Value::Number(number) if number.is_f64() => {
            if let Some(whole) = number.as_f64().filter(|n| n.fract() == 0.0 && n.abs() < EXACT) {
                *number = Number::from(whole as i64);
            }
        }
        Value::Array(list) => list.iter_mut().for_each(whole_numbers),
        Value::Object(object) => object.values_mut().for_each(whole_numbers),
        _ => {}
    }
}

/// What goes with a change: who makes it, and the revision it was made on.
#[derive(Debug, Clone, IntoParams)]
#[into_params(parameter_in = Header)]
pub struct EditHeaders {
    /// The revision that the change was made on, as the home's ETag says: `"12"`.
    #[param(rename = "If-Match", pattern = r#"^(W/)?"\d{1,18}"$"#)]
    #[allow(dead_code)] // for the description only
    if_match: String,
    /// Who edits: undo takes back one's own steps.
    #[param(rename = "Busy-Hen-Editor")]
    #[allow(dead_code)] // for the description only
    editor: Option<String>,
}

/// Who makes a change that fits any revision.
#[derive(Debug, Clone, IntoParams)]
#[into_params(parameter_in = Header)]
pub struct EditorHeader {
    /// Who edits: undo takes back one's own steps.
    #[param(rename = "Busy-Hen-Editor")]
    #[allow(dead_code)] // for the description only
    editor: Option<String>,
}

/// The revision that a change was made on.
#[derive(Debug, Clone, Copy)]
pub struct Base(pub i64);

impl FromRequest for Base {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let Some(value) = request.headers().get(header::IF_MATCH) else { return ready(Err(ApiError::NoBase)) };
        let number = value.to_str().ok().and_then(|text| {
            text.trim().strip_prefix("W/").unwrap_or(text.trim()).strip_prefix('"')?.strip_suffix('"')?.parse().ok()
        });
        ready(number.map(Self).ok_or_else(|| ApiError::Query("If-Match is no revision of a home".into())))
    }
}

/// The sitting of typing that a change belongs to; empty for none.
#[derive(Debug, Clone, Default)]
pub struct Typing(pub String);

impl FromRequest for Typing {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let sitting = request.headers().get(TYPING).and_then(|value| value.to_str().ok()).unwrap_or_default();
        ready(Ok(Self(sitting.chars().take(64).collect())))
    }
}

/// What says in which sitting of typing a change was made.
#[derive(Debug, Clone, IntoParams)]
#[into_params(parameter_in = Header)]
pub struct TypingHeader {
    /// The sitting of typing: changes of one sitting that follow each other are one step to undo.
    #[param(rename = "Busy-Hen-Typing")]
    #[allow(dead_code)] // for the description only
    typing: Option<String>,
}

/// Who sends a request; nobody by name when it does not say.
#[derive(Debug, Clone, Default)]
pub struct Sender(pub Editor);

impl FromRequest for Sender {
    type Error = ApiError;
    type Future = Ready<Result<Self, ApiError>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let name = request.headers().get(EDITOR).and_then(|value| value.to_str().ok()).unwrap_or_default();
        ready(Ok(Self(Editor::new(name))))
    }
}
