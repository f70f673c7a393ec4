//! Refuses changes that a foreign web page asks for: the server listens where every page in the same browser can reach it.

use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::header;
use actix_web::middleware::Next;

use crate::error::ApiError;

/// Lets a request pass unless a browser says that a page of another origin sent it and it may change something.
pub async fn same_origin(
    request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let text = |name| request.headers().get(name).and_then(|value| value.to_str().ok());
    let from = text(header::ORIGIN).map(|origin| origin.split_once("://").map_or(origin, |(_, host)| host));
    if from.is_some() && from != text(header::HOST) && !request.method().is_safe() {
        return Err(ApiError::Foreign.into());
    }
    next.call(request).await
}
