//! The application in process, as a page asks it, with every answer held against its description.

mod described;

use std::future::Future;
use std::pin::Pin;

use actix_web::dev::{Service, ServiceResponse};
use actix_web::http::{Method, StatusCode};
use actix_web::test;
use actix_web::web::Data;
use busy_hen_demo::canal_terrace;
use busy_hen_home::{HomeId, SetupId};
use busy_hen_server::{AppState, Names, WalkOrder, Walker, application};
use busy_hen_store::Store;
use serde_json::{Value, json};
use tokio::sync::watch;

/// A walker that is told where to go and fails there.
pub struct LostWalker;

impl Walker for LostWalker {
    fn walk(
        &self,
        order: WalkOrder,
        _called_back: watch::Receiver<bool>,
    ) -> Pin<Box<dyn Future<Output = Result<(), String>> + Send>> {
        Box::pin(async move { Err(format!("lost with seed {}", order.seed)) })
    }
}

pub struct Api<S> {
    pub service: S,
    pub home: HomeId,
    pub store: Store,
    pub folder: tempfile::TempDir,
}

/// The application as it is served, with every answer held against its own description.
pub async fn api() -> Api<
    impl Service<
        actix_http::Request,
        Response = ServiceResponse<impl actix_web::body::MessageBody + 'static>,
        Error = actix_web::Error,
    >,
> {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("api.db")).await.unwrap();
    let home = HomeId::named("terrace");
    store.create(home, &canal_terrace(), busy_hen_testkit::runs::BEGUN).await.unwrap();
    let state = Data::new(AppState::new(store.clone(), Some(Box::new(LostWalker)), Names::default()));
    Api { service: test::init_service(application(state)).await, home, store, folder }
}

/// What goes with a request besides its body.
#[derive(Default, Clone)]
pub struct With<'a> {
    pub base: Option<&'a str>,
    pub editor: Option<&'a str>,
    pub host: Option<&'a str>,
    pub origin: Option<&'a str>,
    pub kind: Option<&'a str>,
    pub phone: Option<&'a str>,
}

impl<S, B> Api<S>
where
    S: Service<actix_http::Request, Response = ServiceResponse<B>, Error = actix_web::Error>,
    B: actix_web::body::MessageBody + 'static,
{
    pub async fn ask(
        &self,
        method: Method,
        path: &str,
        body: Option<String>,
        with: With<'_>,
    ) -> (StatusCode, String, String) {
        let (status, kind, bytes) = self.ask_bytes(method, path, body.map(String::into_bytes), with).await;
        (status, kind, String::from_utf8(bytes).unwrap())
    }

    /// The same for what is no text.
    pub async fn ask_bytes(
        &self,
        method: Method,
        path: &str,
        body: Option<Vec<u8>>,
        with: With<'_>,
    ) -> (StatusCode, String, Vec<u8>) {
        let mut request = test::TestRequest::with_uri(path).method(method.clone());
        request = request.insert_header(("host", with.host.unwrap_or("127.0.0.1:8080")));
        for (name, value) in [
            ("if-match", with.base),
            (busy_hen_server::EDITOR, with.editor),
            ("origin", with.origin),
            ("busy-hen-phone", with.phone),
        ] {
            if let Some(value) = value {
                request = request.insert_header((name, value));
            }
        }
        if let Some(body) = body {
            request =
                request.insert_header(("content-type", with.kind.unwrap_or("application/json"))).set_payload(body);
        }
        let answer = match self.service.call(request.to_request()).await {
            Ok(answer) => answer.map_into_boxed_body(),
            Err(error) => ServiceResponse::new(
                test::TestRequest::default().to_http_request(),
                error.as_response_error().error_response(),
            ),
        };
        let status = answer.status();
        let kind = answer.headers().get("content-type").and_then(|kind| kind.to_str().ok()).unwrap_or("").to_owned();
        let bytes = test::read_body(answer).await.to_vec();
        described::hold(&method, path, status, &kind, std::str::from_utf8(&bytes).unwrap_or_default());
        (status, kind, bytes)
    }

    /// Revision of a home as its ETag has it.
    pub async fn revision(&self, home: HomeId) -> String {
        self.store.home(home).await.map_or_else(|_| "\"1\"".into(), |stored| format!("\"{}\"", stored.revision))
    }

    /// As a page that holds the newest state.
    pub async fn raw(&self, method: Method, path: &str, body: Option<String>) -> (StatusCode, String, String) {
        let home = path.split('/').nth(3).and_then(|id| id.split('?').next()?.parse().ok()).unwrap_or(self.home);
        let base = self.revision(home).await;
        self.ask(method, path, body, With { base: Some(&base), ..With::default() }).await
    }

    /// Holds a refusal to its status and code, and to be a problem document that says something.
    pub async fn refused(&self, method: Method, path: &str, body: Option<String>, status: u16, code: &str) {
        let (got, kind, text) = self.raw(method.clone(), path, body).await;
        assert_eq!(got.as_u16(), status, "{method} {path}: {text}");
        assert!(kind.starts_with("application/problem+json"), "{path}: {kind}");
        let problem: Value = serde_json::from_str(&text).unwrap();
        assert_eq!(problem["code"], code, "{path}");
        assert!(problem["detail"].as_str().unwrap().len() > 10, "{path}");
    }

    pub async fn send_with(&self, method: Method, path: &str, body: Value, with: With<'_>) -> (StatusCode, Value) {
        let (status, _, text) = self.ask(method, path, Some(body.to_string()), with).await;
        (status, serde_json::from_str(&text).unwrap_or(Value::Null))
    }

    pub async fn send(&self, method: Method, path: &str, body: Value) -> (StatusCode, Value) {
        let (status, _, text) = self.raw(method, path, Some(body.to_string())).await;
        (status, serde_json::from_str(&text).unwrap_or(Value::Null))
    }

    pub async fn get(&self, path: &str) -> Value {
        let (status, _, text) = self.raw(Method::GET, path, None).await;
        assert_eq!(status, StatusCode::OK, "{path}: {text}");
        serde_json::from_str(&text).unwrap()
    }

    pub fn at(&self, rest: &str) -> String {
        format!("/api/homes/{}{rest}", self.home)
    }

    /// What a computation comes to.
    pub async fn result(&self, job: &Value) -> Value {
        let path = format!("/api/jobs/{}", job["id"].as_str().unwrap());
        loop {
            let state = self.get(&path).await["state"].clone();
            assert!(state != "failed" && state != "called_off", "{state}");
            if state == "done" {
                return self.get(&format!("{path}/result")).await;
            }
            actix_web::rt::task::yield_now().await;
        }
    }

    pub async fn view(&self) -> Value {
        self.get(&self.at("")).await
    }

    pub async fn house(&self) -> Value {
        let mut house = self.view().await["home"]["house"].clone();
        let fields = house.as_object_mut().unwrap();
        for follows in ["rooms", "walls", "openings", "stairwells", "obstacles", "corrections"] {
            fields.remove(follows);
        }
        house
    }

    pub async fn round(&self) -> Value {
        let body = json!({
            "setup_id": SetupId::named("A"), "client": "phone_ax", "band": null, "kind": "internet",
            "doors": "as_left", "situation": "alone", "runs_per_spot": 5, "spots": []
        });
        let (status, round) = self.send(Method::POST, &self.at("/rounds"), body).await;
        assert_eq!(status, StatusCode::CREATED, "{round}");
        round
    }

    /// Setup A lit for a phone in a quiet home by internet tests.
    pub async fn coverage(&self, layer: Value) -> Value {
        let ask = json!({ "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" });
        let path = self.at(&format!("/setups/{}/coverage", SetupId::named("A")));
        let asked = json!({ "ask": ask, "layer": layer, "moved": null });
        let (status, view) = self.send(Method::POST, &path, asked).await;
        assert_eq!(status, StatusCode::OK, "{view}");
        view
    }

    /// Setups side by side by internet tests, the first as the reference.
    pub async fn compared(&self, setups: &[SetupId]) -> Value {
        let columns: Vec<Value> = setups.iter().map(|setup| json!({ "setup_id": setup })).collect();
        self.compared_columns(json!(columns)).await
    }

    /// Setups or single rounds side by side, the first as the reference.
    pub async fn compared_columns(&self, columns: Value) -> Value {
        let asked = json!({
            "columns": columns, "reference": 0, "kind": "internet", "client": "phone_ax", "situation": "alone"
        });
        let (status, view) = self.send(Method::POST, &self.at("/compare"), asked).await;
        assert_eq!(status, StatusCode::OK, "{view}");
        view
    }

    pub async fn runs(&self, round: &Value, runs: Value) -> (StatusCode, Value) {
        let path = format!("/api/rounds/{}/runs", round["round"]["id"].as_str().unwrap());
        self.send(Method::POST, &path, json!({ "runs": runs })).await
    }
}
