//! Every failure as `application/problem+json` (RFC 9457) with a stable code.

use actix_web::error::JsonPayloadError;
use actix_web::http::StatusCode;
use actix_web::{HttpResponse, ResponseError};
use busy_hen_home::{Fault, Faults};
use busy_hen_store::StoreError;
use serde::Serialize;
use thiserror::Error;
use utoipa::ToSchema;

/// A request that was not carried out.
#[derive(Debug, Error)]
pub enum ApiError {
    /// What was sent breaks rules, each told with its place.
    #[error("{0}")]
    Faults(#[from] Faults),
    /// Storage refused or failed.
    #[error(transparent)]
    Store(#[from] StoreError),
    /// The body is no JSON of the expected shape.
    #[error("{0}")]
    Body(String),
    /// The body is larger than is read.
    #[error("What was sent is larger than 4 MB; send less at once.")]
    TooLarge,
    /// The query is not of the expected shape.
    #[error("The address holds a value that is not understood: {0}.")]
    Query(String),
    /// A page of another origin asks for a change.
    #[error("A page of another site asked for this change; open Busy Hen itself to make it.")]
    Foreign,
    /// There is no such page.
    #[error("There is nothing at this address.")]
    NoSuchPage,
    /// A thing that the request names is not there.
    #[error("This {0} does not exist; it may have been deleted.")]
    NotFound(&'static str),
    /// The request does not fit what is going on.
    #[error("{0}")]
    Conflict(String),
    /// The program failed.
    #[error("an answer could not be made: {0}")]
    Internal(String),
}

/// A problem as it is sent.
#[derive(Debug, Serialize, ToSchema)]
pub struct Problem {
    /// HTTP status.
    pub status: u16,
    /// Stable code for programs.
    pub code: &'static str,
    /// What kind of problem it is.
    pub title: &'static str,
    /// One sentence: what, where, what to do.
    pub detail: String,
    /// Each fault with its place; empty when there is only the one sentence.
    pub faults: Vec<Fault>,
}

impl ApiError {
    /// The problem of a body that can't be read.
    #[must_use]
    pub fn body(error: &JsonPayloadError) -> Self {
        match error {
            JsonPayloadError::Overflow { .. } | JsonPayloadError::OverflowKnownLength { .. } => Self::TooLarge,
            JsonPayloadError::ContentType => Self::Body("Send JSON, with content type application/json.".into()),
            JsonPayloadError::Deserialize(error) => Self::Body(format!("What was sent is not understood: {error}.")),
            other => Self::Body(format!("What was sent could not be read: {other}.")),
        }
    }

    fn kind(&self) -> (StatusCode, &'static str, &'static str) {
        match self {
            Self::Faults(_) => (StatusCode::UNPROCESSABLE_ENTITY, "faults", "Something is not right yet"),
            Self::Body(_) => (StatusCode::BAD_REQUEST, "bad_body", "Not understood"),
            Self::Foreign => (StatusCode::FORBIDDEN, "foreign", "Not from here"),
            Self::TooLarge => (StatusCode::PAYLOAD_TOO_LARGE, "too_large", "Too large"),
            Self::Query(_) => (StatusCode::BAD_REQUEST, "bad_query", "Not understood"),
            Self::NoSuchPage | Self::NotFound(_) | Self::Store(StoreError::NotFound(_)) => {
                (StatusCode::NOT_FOUND, "not_found", "Not there")
            }
            Self::Store(StoreError::Stale) => (StatusCode::CONFLICT, "stale", "Changed meanwhile"),
            Self::Conflict(_) | Self::Store(StoreError::Conflict(_)) => {
                (StatusCode::CONFLICT, "conflict", "Does not fit")
            }
            Self::Store(StoreError::Database(_) | StoreError::Migration(_) | StoreError::Document(_))
            | Self::Internal(_) => (StatusCode::INTERNAL_SERVER_ERROR, "internal", "The program failed"),
        }
    }
}

impl ResponseError for ApiError {
    fn status_code(&self) -> StatusCode {
        self.kind().0
    }

    fn error_response(&self) -> HttpResponse {
        let (status, code, title) = self.kind();
        let detail = if status == StatusCode::INTERNAL_SERVER_ERROR {
            tracing::error!(error = %self, "request failed");
            "The program failed at this; nothing was changed. Try again, and tell its makers if it fails again.".into()
        } else {
            self.to_string()
        };
        let faults = match self {
            Self::Faults(faults) => faults.list().to_vec(),
            _ => Vec::new(),
        };
        HttpResponse::build(status).content_type("application/problem+json").json(Problem {
            status: status.as_u16(),
            code,
            title,
            detail,
            faults,
        })
    }
}
