//! Every failure as `application/problem+json` (RFC 9457) with a stable code.

use actix_web::error::JsonPayloadError;
use actix_web::http::{StatusCode, header};
use actix_web::{HttpResponse, ResponseError};
use busy_hen_formats::NoPicture;
use busy_hen_home::{BothChanged, Fault, Faults};
use busy_hen_store::StoreError;
use busy_hen_survey::measuring::Spoiled;
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
    /// The body is of another kind than is read.
    #[error("Send JSON, with content type application/json.")]
    MediaType,
    /// The body is no picture.
    #[error(transparent)]
    NoPicture(#[from] NoPicture),
    /// The body is larger than is read.
    #[error("What was sent is larger than {0} MB; send less at once.")]
    TooLarge(usize),
    /// The body did not arrive in time.
    #[error("What was sent did not arrive within {0} s; send it again.")]
    TooSlow(u64),
    /// The query or a header is not of the expected shape.
    #[error("The address or a header holds a value that is not understood: {0}.")]
    Query(String),
    /// The change does not say what it is based on.
    #[error("Say in If-Match which revision of the home the change was made on, as its ETag says.")]
    NoBase,
    /// A page of another origin asks.
    #[error("A page of another site asked for this; open Busy Hen itself.")]
    Foreign,
    /// There is no such page.
    #[error("There is nothing at this address.")]
    NoSuchPage,
    /// There is something at this address, but not for this method.
    #[error("This address takes {0} only.")]
    Method(String),
    /// A thing that the request names is not there.
    #[error("This {0} does not exist; it may have been deleted.")]
    NotFound(&'static str),
    /// The request does not fit what is going on.
    #[error("{0}")]
    Conflict(String),
    /// A reading is over what plan and ports let through.
    #[error("{0}")]
    OverCeiling(String),
    /// Numbers that may mean two.
    #[error("{}", asked_in_words(.0))]
    Unclear(Vec<Asked>),
    /// Numbers that mean none, each with its place.
    #[error("{0}")]
    Unreadable(Faults),
    /// A phone that no bench let in.
    #[error("This phone is not paired, or its code is not known here; scan a new one at the bench.")]
    NotPaired,
    /// A phone whose time is over.
    #[error(
        "The code that this phone was paired by has ended; scan a new one at the bench. What it had measured before is taken."
    )]
    PairingOver,
    /// A test that shows nothing of the link.
    #[error("{0}")]
    Spoiled(Spoiled),
    /// The bench is locked.
    #[error("This bench is locked; open it with its pass phrase.")]
    Locked,
    /// Not the pass phrase, or not from where it may be set.
    #[error("{0}")]
    WrongPassPhrase(&'static str),
    /// Too many wrong pass phrases.
    #[error("Too many wrong tries; try again in {0} s.")]
    TooManyTries(u64),
    /// Too much is being computed already.
    #[error("{0}")]
    Busy(String),
    /// Whoever asked has gone, or called it off.
    #[error("This was called off.")]
    CalledOff,
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
    /// What was changed differently here and elsewhere, with both; empty for other problems.
    pub both: Vec<BothChanged>,
    /// What is asked about numbers that may mean two; empty for other problems.
    pub asked: Vec<Asked>,
}

/// A number that may mean two, and what is asked about it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, ToSchema)]
pub struct Asked {
    /// Where it stands in what was sent, as a JSON pointer (RFC 6901).
    pub pointer: String,
    /// What is asked.
    pub message: String,
    /// What may be meant, each as it is typed without doubt.
    pub choices: Vec<String>,
}

fn asked_in_words(asked: &[Asked]) -> String {
    asked.iter().map(|own| own.message.as_str()).collect::<Vec<_>>().join(" ")
}

impl ApiError {
    /// The problem of a body that can't be read.
    #[must_use]
    pub fn body(error: &JsonPayloadError) -> Self {
        match error {
            JsonPayloadError::Overflow { limit } | JsonPayloadError::OverflowKnownLength { limit, .. } => {
                Self::TooLarge(limit >> 20)
            }
            JsonPayloadError::ContentType => Self::MediaType,
            JsonPayloadError::Deserialize(error) => Self::Body(format!("What was sent is not understood: {error}.")),
            other => Self::Body(format!("What was sent could not be read: {other}.")),
        }
    }

    fn kind(&self) -> (StatusCode, &'static str, &'static str) {
        use StatusCode as S;
        match self {
            Self::Faults(_) | Self::Store(StoreError::Faults(_)) => {
                (S::UNPROCESSABLE_ENTITY, "faults", "Something is not right yet")
            }
            Self::Body(_) => (S::BAD_REQUEST, "bad_body", "Not understood"),
            Self::Query(_) => (S::BAD_REQUEST, "bad_query", "Not understood"),
            Self::Foreign => (S::FORBIDDEN, "foreign", "Not from here"),
            Self::Method(_) => (S::METHOD_NOT_ALLOWED, "method", "Not that way"),
            Self::NoPicture(_) => (S::UNSUPPORTED_MEDIA_TYPE, "no_picture", "No picture"),
            Self::MediaType => (S::UNSUPPORTED_MEDIA_TYPE, "media_type", "Not understood"),
            Self::TooLarge(_) => (S::PAYLOAD_TOO_LARGE, "too_large", "Too large"),
            Self::TooSlow(_) => (S::REQUEST_TIMEOUT, "too_slow", "Too slow"),
            Self::NoBase => (S::PRECONDITION_REQUIRED, "no_base", "Based on what?"),
            Self::NoSuchPage | Self::NotFound(_) | Self::Store(StoreError::NotFound(_)) => {
                (S::NOT_FOUND, "not_found", "Not there")
            }
            Self::Store(StoreError::Stale) => (S::PRECONDITION_FAILED, "stale", "Changed meanwhile"),
            Self::Store(StoreError::BothChanged(_)) => (S::CONFLICT, "both_changed", "Changed here and elsewhere"),
            Self::Store(StoreError::HoldsReadings(_)) => (S::CONFLICT, "holds_readings", "Holds readings"),
            Self::Unclear(_) => (S::CONFLICT, "unclear_number", "Which number is meant?"),
            Self::Unreadable(_) => (S::UNPROCESSABLE_ENTITY, "unreadable_number", "Not a number"),
            Self::OverCeiling(_) => (S::CONFLICT, "over_ceiling", "More than there can be"),
            Self::Conflict(_) | Self::Store(StoreError::Conflict(_)) => (S::CONFLICT, "conflict", "Does not fit"),
            Self::NotPaired => (S::UNAUTHORIZED, "not_paired", "Not paired"),
            Self::PairingOver => (S::FORBIDDEN, "pairing_over", "Expired"),
            Self::Spoiled(_) => (S::UNPROCESSABLE_ENTITY, "spoiled", "Spoiled"),
            Self::Locked => (S::UNAUTHORIZED, "locked", "Locked"),
            Self::WrongPassPhrase(_) => (S::FORBIDDEN, "wrong_pass_phrase", "Not let in"),
            Self::TooManyTries(_) => (S::TOO_MANY_REQUESTS, "too_many_tries", "Too many tries"),
            Self::Busy(_) => (S::SERVICE_UNAVAILABLE, "busy", "Busy"),
            Self::CalledOff => (S::SERVICE_UNAVAILABLE, "called_off", "Called off"),
            Self::Store(StoreError::Full) => (S::INSUFFICIENT_STORAGE, "full", "No space"),
            Self::Store(_) | Self::Internal(_) => (S::INTERNAL_SERVER_ERROR, "internal", "The program failed"),
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
            Self::Faults(faults) | Self::Unreadable(faults) | Self::Store(StoreError::Faults(faults)) => {
                faults.list().to_vec()
            }
            _ => Vec::new(),
        };
        let both = match self {
            Self::Store(StoreError::BothChanged(both)) => both.clone(),
            _ => Vec::new(),
        };
        let asked = match self {
            Self::Unclear(asked) => asked.clone(),
            _ => Vec::new(),
        };
        let mut answer = HttpResponse::build(status);
        if let Self::TooManyTries(seconds) = self {
            answer.insert_header((header::RETRY_AFTER, seconds.to_string()));
        }
        if let Self::Method(allowed) = self {
            answer.insert_header((header::ALLOW, allowed.clone()));
        }
        answer.content_type("application/problem+json").json(Problem {
            status: status.as_u16(),
            code,
            title,
            detail,
            faults,
            both,
            asked,
        })
    }
}
