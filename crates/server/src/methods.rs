//! Addresses that are there, for telling a wrong method from a wrong address.

use std::sync::OnceLock;

use actix_web::HttpRequest;
use actix_web::dev::ResourceDef;

use crate::error::ApiError;

/// What a request to an address that no handler took comes to.
#[must_use]
pub fn nothing_here(request: &HttpRequest) -> ApiError {
    let list = addresses().iter().find(|(address, _)| address.is_match(request.match_info().as_str()));
    list.map_or(ApiError::NoSuchPage, |(_, methods)| ApiError::Method(methods.clone()))
}

fn addresses() -> &'static [(ResourceDef, String)] {
    static LIST: OnceLock<Vec<(ResourceDef, String)>> = OnceLock::new();
    LIST.get_or_init(|| {
        let methods = |item: &utoipa::openapi::PathItem| {
            [(&item.get, "GET"), (&item.put, "PUT"), (&item.post, "POST"), (&item.delete, "DELETE")]
                .into_iter()
                .filter(|(operation, _)| operation.is_some())
                .map(|(_, name)| name)
                .collect::<Vec<_>>()
                .join(", ")
        };
        crate::openapi()
            .paths
            .paths
            .iter()
            .map(|(path, item)| (ResourceDef::new(path.as_str()), methods(item)))
            .collect()
    })
}
