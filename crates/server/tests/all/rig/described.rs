//! Holds every answer against the interface's own description: what is not described there must not be answered.

use std::collections::HashMap;
use std::sync::{Arc, Mutex, OnceLock, PoisonError};

use actix_web::dev::ResourceDef;
use actix_web::http::{Method, StatusCode};
use jsonschema::Validator;
use serde_json::{Value, json};

struct Description {
    document: Value,
    addresses: Vec<(ResourceDef, String)>,
    validators: Mutex<HashMap<String, Arc<Validator>>>,
}

fn description() -> &'static Description {
    static DESCRIPTION: OnceLock<Description> = OnceLock::new();
    DESCRIPTION.get_or_init(|| {
        let document = serde_json::to_value(busy_hen_server::openapi()).unwrap();
        let paths = document["paths"].as_object().unwrap().keys();
        let addresses = paths.map(|path| (ResourceDef::new(path.as_str()), path.clone())).collect();
        Description { document, addresses, validators: Mutex::default() }
    })
}

/// # Panics
/// When an answer is not as described.
pub fn hold(method: &Method, path: &str, status: StatusCode, kind: &str, text: &str) {
    let told = description();
    let path = path.split('?').next().unwrap_or(path);
    let address = told.addresses.iter().find(|(address, _)| address.is_match(path));
    let Some((_, template)) = address.filter(|_| status != StatusCode::METHOD_NOT_ALLOWED) else {
        assert!(status.is_client_error() || !path.starts_with("/api/"), "{method} {path} is not described");
        return;
    };
    let operation = &told.document["paths"][template][method.as_str().to_lowercase()];
    let response = &operation["responses"][status.as_str()];
    assert!(response.is_object(), "{method} {template}: {status} is not described: {text}");
    assert!(response["description"].as_str().is_some_and(|words| !words.is_empty()), "{method} {template} {status}");
    let Some(content) = response["content"].as_object() else {
        assert!(text.is_empty(), "{method} {template} {status} has no body by its description: {text}");
        return;
    };
    let Some(media) = content.get(kind) else {
        panic!("{method} {template} {status}: {kind} is not described, {content:?}")
    };
    if !kind.ends_with("json") {
        return;
    }
    let value: Value = serde_json::from_str(text).unwrap();
    let key = format!("{method} {template} {status} {kind}");
    let mut validators = told.validators.lock().unwrap_or_else(PoisonError::into_inner);
    let validator = Arc::clone(validators.entry(key.clone()).or_insert_with(|| {
        let mut schema = media["schema"].clone();
        if let Some(object) = schema.as_object_mut() {
            object.insert("components".into(), told.document["components"].clone());
        }
        Arc::new(jsonschema::draft202012::new(&schema).unwrap_or_else(|error| panic!("{key}: {error}")))
    }));
    drop(validators);
    let errors: Vec<Value> =
        validator.iter_errors(&value).take(3).map(|e| json!(format!("{}: {e}", e.instance_path))).collect();
    assert!(errors.is_empty(), "{key} is not as described: {errors:?}");
}
