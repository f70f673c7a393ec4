//! The interface keeps to its own description: what it calls required may not be left out, and what its schemas allow is read, and refused only
//! as it says.

use std::collections::BTreeSet;

use actix_web::http::{Method, StatusCode};
use busy_hen_home::SetupId;
use proptest::prelude::*;
use proptest::test_runner::TestRng;
use serde_json::{Map, Value, json};
use uuid::Uuid;

use crate::rig::{With, api};

/// Deepest that made-up values go beyond what is required.
const DEEP: usize = 5;

/// An operation of the description.
struct Operation {
    method: Method,
    path: String,
    told: Value,
}

fn operations(document: &Value) -> Vec<Operation> {
    let paths = document["paths"].as_object().unwrap();
    let of = |(path, own): (&String, &Value)| {
        let methods = own.as_object().unwrap().clone().into_iter().filter(|(_, told)| told["responses"].is_object());
        let path = path.clone();
        methods
            .map(move |(method, told)| Operation {
                method: method.to_uppercase().parse().unwrap(),
                path: path.clone(),
                told,
            })
            .collect::<Vec<_>>()
    };
    paths.iter().flat_map(of).collect()
}

/// What somebody makes up who knows the description alone.
struct MadeUp<'a> {
    rng: TestRng,
    schemas: &'a Value,
    /// Identities that there are, by what they are of.
    known: Vec<(&'static str, String)>,
}

impl MadeUp<'_> {
    fn below(&mut self, most: usize) -> usize {
        (self.rng.random::<u32>() as usize) % most
    }

    fn any_text(&mut self) -> String {
        const TEXTS: [&str; 13] = [
            "clay, glaze and kiln",
            "phone_ax",
            "router_ax",
            "GB",
            "",
            "a",
            "Hall 2 x 5",
            "1,5",
            "Küche",
            " ",
            "0",
            "http://127.0.0.1:9#t",
            "\u{1F414}\n\t\"/~",
        ];
        TEXTS[self.below(TEXTS.len())].to_owned()
    }

    fn id(&mut self) -> String {
        let at = self.below(self.known.len() + 1);
        self.known.get(at).map_or_else(|| Uuid::from_u128(self.rng.random()).to_string(), |(_, id)| id.clone())
    }

    fn number(&mut self, schema: &Value, whole: bool) -> Value {
        let bound = |name: &str, other: f64| schema[name].as_f64().unwrap_or(other);
        let large = if schema["format"] == "int32" { 2_147_483_647.0 } else { 9_007_199_254_740_991.0 };
        let (least, most) = (bound("minimum", -large), bound("maximum", large));
        let chosen = match self.below(7) {
            _ if schema["format"] == "double" && self.below(8) == 0 => 1e300,
            0 => least,
            1 => most,
            2 => 0.0,
            3 => 1.0,
            4 => 36.0,
            _ => 1000.0 * self.rng.random::<f32>() as f64,
        };
        let chosen = chosen.clamp(least, most);
        if whole { json!(chosen as i64) } else { json!(chosen) }
    }

    fn value(&mut self, schema: &Value, depth: usize) -> Value {
        if let Some(name) = schema["$ref"].as_str() {
            let schema = self.schemas[name.rsplit('/').next().unwrap()].clone();
            return self.value(&schema, depth);
        }
        for choice in ["oneOf", "anyOf"] {
            if let Some(own) = schema[choice].as_array() {
                // Where it gets deep, what ends soonest.
                let null = own.iter().find(|own| own["type"] == "null").filter(|_| depth > DEEP);
                let at = self.below(own.len());
                return self.value(null.unwrap_or(&own[at]), depth + 1);
            }
        }
        if let Some(all) = schema["allOf"].as_array() {
            let mut whole = Map::new();
            for own in all {
                if let Value::Object(part) = self.value(own, depth) {
                    whole.extend(part);
                }
            }
            return Value::Object(whole);
        }
        if let Some(own) = schema["enum"].as_array() {
            return own[self.below(own.len())].clone();
        }
        let kind = match &schema["type"] {
            Value::Array(kinds) => kinds[self.below(kinds.len())].as_str().unwrap().to_owned(),
            own => own.as_str().unwrap_or("null").to_owned(),
        };
        match kind.as_str() {
            "object" => self.object(schema, depth),
            "array" => {
                let least = schema["minItems"].as_u64().unwrap_or(0) as usize;
                let most = schema["maxItems"].as_u64().map_or(least + 2, |most| most as usize);
                let count = if depth > DEEP { least } else { least + self.below(most - least + 1) };
                (0..count).map(|_| self.value(&schema["items"], depth + 1)).collect()
            }
            "boolean" => json!(self.below(2) == 0),
            "integer" => self.number(schema, true),
            "number" => self.number(schema, false),
            "string" => match schema["format"].as_str() {
                Some("uuid") => json!(self.id()),
                Some("date-time") => json!("2026-12-01T10:00:00Z"),
                Some("date") => json!("2026-12-01"),
                Some("ipv4") => json!("192.168.1.1"),
                Some("ip") => json!("fd00::7"),
                _ if schema["pattern"].is_string() => json!("\"1\""),
                _ => json!(self.any_text()),
            },
            _ => Value::Null,
        }
    }

    fn object(&mut self, schema: &Value, depth: usize) -> Value {
        let required = schema["required"].as_array().cloned().unwrap_or_default();
        let mut own = Map::new();
        for (name, schema) in schema["properties"].as_object().cloned().unwrap_or_default() {
            if required.contains(&json!(name)) || depth <= DEEP && self.below(2) == 0 {
                own.insert(name, self.value(&schema, depth + 1));
            }
        }
        if schema["additionalProperties"].is_object() && depth <= DEEP {
            // The keys of maps are the catalogue's or identities.
            let key = if schema["propertyNames"]["format"] == "uuid" { self.id() } else { self.any_text() };
            own.insert(key, self.value(&schema["additionalProperties"], depth + 1));
        }
        Value::Object(own)
    }

    /// The address of an operation, with its query.
    fn address(&mut self, operation: &Operation) -> String {
        let (mut path, mut query) = (operation.path.clone(), Vec::new());
        for told in operation.told["parameters"].as_array().into_iter().flatten() {
            let name = told["name"].as_str().unwrap();
            let wanted = told["required"] == true || self.below(2) == 0;
            let there = self.known.iter().find(|(of, _)| *of == name).map(|(_, id)| id.clone());
            let value = match self.value(&told["schema"], 0) {
                Value::String(_) if there.is_some() && self.below(8) > 0 => there.unwrap_or_default(),
                Value::String(text) => text,
                Value::Null => continue,
                other => other.to_string(),
            };
            match told["in"].as_str().unwrap() {
                "path" => {
                    // A place in an address holds something.
                    let part = if value.is_empty() { "x".to_owned() } else { value };
                    path = path.replace(&format!("{{{name}}}"), &encoded(&part));
                }
                "query" if wanted => query.push(format!("{name}={}", encoded(&value))),
                _ => {}
            }
        }
        if query.is_empty() { path } else { format!("{path}?{}", query.join("&")) }
    }
}

/// What stands in an address, escaped (RFC 3986).
fn encoded(text: &str) -> String {
    let byte = |byte: u8| match byte {
        b'a'..=b'z' | b'A'..=b'Z' | b'0'..=b'9' | b'-' | b'.' | b'_' => char::from(byte).to_string(),
        other => format!("%{other:02X}"),
    };
    text.bytes().map(byte).collect()
}

fn json_body(operation: &Operation) -> Option<&Value> {
    operation.told["requestBody"]["content"].get("application/json").map(|media| &media["schema"])
}

#[actix_web::test]
async fn what_is_called_required_may_not_be_left_out() {
    let api = api().await;
    let document = serde_json::to_value(busy_hen_server::openapi()).unwrap();
    let rng = TestRng::deterministic_rng(proptest::test_runner::RngAlgorithm::ChaCha);
    let known = vec![("home", api.home.to_string()), ("setup", SetupId::named("A").to_string())];
    let mut made_up = MadeUp { rng, schemas: &document["components"]["schemas"], known };
    let (mut tried, mut wrong) = (0, Vec::new());
    for operation in operations(&document) {
        let parameters = operation.told["parameters"].as_array().cloned().unwrap_or_default();
        let headers: Vec<&str> = parameters
            .iter()
            .filter(|own| own["in"] == "header" && own["required"] == true)
            .map(|own| own["name"].as_str().unwrap())
            .collect();
        for left_out in &headers {
            tried += 1;
            let body = json_body(&operation).map(|schema| made_up.value(schema, 0).to_string());
            let path = made_up.address(&operation);
            let with =
                |name: &str, value: &'static str| (headers.contains(&name) && name != *left_out).then_some(value);
            let with =
                With { base: with("If-Match", "\"1\""), phone: with("Busy-Hen-Phone", "none"), ..With::default() };
            let (status, _, text) = api.ask(operation.method.clone(), &path, body, with).await;
            let code = serde_json::from_str::<Value>(&text).map(|own| own["code"].clone()).unwrap_or_default();
            if code != "no_base" && code != "not_paired" {
                wrong.push(format!("{} {} without {left_out}: {status} {text}", operation.method, operation.path));
            }
        }
    }
    assert!(tried > 20, "{tried} headers are called required");
    assert!(wrong.is_empty(), "{wrong:#?}");
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 8, max_shrink_iters: 0, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_the_schemas_allow_is_read_and_refused_only_as_described(seed in any::<[u8; 32]>()) {
        actix_web::rt::System::new().block_on(async {
            let api = api().await;
            let document = serde_json::to_value(busy_hen_server::openapi()).unwrap();
            let rng = TestRng::from_seed(proptest::test_runner::RngAlgorithm::ChaCha, &seed);
            let round = api.round().await["round"]["id"].as_str().unwrap().to_owned();
            let spot = api.view().await["home"]["house"]["spots"][0]["id"].as_str().unwrap().to_owned();
            let level = api.house().await["levels"][0]["id"].as_str().unwrap().to_owned();
            let setup = SetupId::named("A").to_string();
            let known = vec![("home", api.home.to_string()), ("setup", setup), ("round", round), ("spot", spot), ("level", level)];
            let mut made_up = MadeUp { rng, schemas: &document["components"]["schemas"], known };
            let mut wrong = BTreeSet::new();
            // Who asks a WebSocket for a page is told so.
            let mut of_pages = operations(&document);
            of_pages.retain(|own| own.told["responses"]["101"].is_null());
            // What takes away comes last, the home at the very end.
            of_pages.sort_by_key(|own| (own.method == Method::DELETE, own.path == "/api/homes/{home}"));
            for operation in of_pages {
                let body = json_body(&operation).map(|schema| made_up.value(schema, 0).to_string());
                let path = made_up.address(&operation);
                // The rig holds every answer to the description.
                let (status, _, text) = api.raw(operation.method.clone(), &path, body.clone()).await;
                let misread = [StatusCode::BAD_REQUEST, StatusCode::METHOD_NOT_ALLOWED, StatusCode::UNSUPPORTED_MEDIA_TYPE];
                let of_json = body.is_some() || operation.told["requestBody"].is_null();
                if status.is_server_error() || of_json && misread.contains(&status) {
                    wrong.insert(format!("{} {path} {}: {status} {text}", operation.method, body.unwrap_or_default()));
                }
            }
            assert!(wrong.is_empty(), "{} of them: {wrong:#?}", wrong.len());
        });
    }
}
