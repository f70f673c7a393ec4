//! A bench that is opened to the network from its own page, on real sockets, and closed again.

use std::net::TcpListener;
use std::time::Duration;

use actix_web::web::Data;
use busy_hen_home::HomeId;
use busy_hen_server::{AppState, Doors, Names};
use busy_hen_store::Store;
use reqwest::{Client, Method, RequestBuilder, StatusCode};
use serde_json::{Value, json};

const WORDS: &str = "clay, glaze and kiln";

/// A bench that listens on its own machine alone, and who asks it.
struct Bench {
    here: String,
    client: Client,
    _folder: tempfile::TempDir,
}

impl Bench {
    async fn start() -> Self {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(&folder.path().join("bench.db")).await.unwrap();
        let home = HomeId::named("terrace");
        store.create(home, &busy_hen_demo::canal_terrace(), busy_hen_testkit::runs::BEGUN).await.unwrap();
        let mut state = AppState::new(store, None, Names::default());
        state.network.lingers = Duration::ZERO;
        let listener = TcpListener::bind("127.0.0.1:0").unwrap();
        let here = format!("http://{}", listener.local_addr().unwrap());
        actix_web::rt::spawn(busy_hen_server::serve(Doors { listener, tls: None, own: None }, Data::new(state)));
        Self { here, client: Client::builder().no_proxy().build().unwrap(), _folder: folder }
    }

    fn ask(&self, method: Method, path: &str) -> RequestBuilder {
        self.client.request(method, format!("{}{path}", self.here))
    }

    async fn open(&self, body: Value) -> (StatusCode, Option<String>, Value) {
        let answer = self.ask(Method::PUT, "/api/network").json(&body).send().await.unwrap();
        let cookie = answer.headers().get("set-cookie").map(|own| own.to_str().unwrap().to_owned());
        (answer.status(), cookie, answer.json().await.unwrap())
    }

    async fn view(&self, cookie: &str) -> Value {
        let asked = self.ask(Method::GET, "/api/network").header("cookie", cookie).send().await.unwrap();
        asked.json().await.unwrap()
    }

    /// How an address answers; none when nothing does.
    async fn at(&self, url: &str) -> Option<StatusCode> {
        Some(self.client.get(url).timeout(Duration::from_secs(3)).send().await.ok()?.status())
    }
}

/// A round of the terrace and a code for it: the phone's page outside.
async fn code(bench: &Bench, cookie: &str) -> (String, String) {
    let home = HomeId::named("terrace");
    let view: Value = bench
        .ask(Method::GET, &format!("/api/homes/{home}"))
        .header("cookie", cookie)
        .send()
        .await
        .unwrap()
        .json()
        .await
        .unwrap();
    let round = json!({
        "setup_id": view["home"]["setups"][1]["id"], "client": "phone_ax", "band": null, "kind": "local",
        "doors": "as_left", "situation": "alone", "runs_per_spot": 5
    });
    let send = async |path: &str, body: &Value| -> Value {
        let asked = bench.ask(Method::POST, path).header("cookie", cookie).json(body).send().await.unwrap();
        asked.error_for_status().unwrap().json().await.unwrap()
    };
    let made = send(&format!("/api/homes/{home}/rounds"), &round).await;
    let path = format!("/api/rounds/{}/phones", made["round"]["id"].as_str().unwrap());
    let phone = send(&path, &json!({})).await;
    assert_eq!(phone["open_to_network"], true);
    let url = phone["doors"][0]["url"].as_str().unwrap().to_owned();
    let codes: Value =
        bench.ask(Method::GET, &path).header("cookie", cookie).send().await.unwrap().json().await.unwrap();
    (url, format!("{path}/{}", codes[0]["id"].as_str().unwrap()))
}

#[actix_web::test]
async fn it_opens_from_its_own_page_and_closes_by_a_press_or_when_the_last_code_has_run_out() {
    let bench = Bench::start().await;
    let (status, _, short) = bench.open(json!({ "pass_phrase": "clay" })).await;
    let in_a_network = !busy_hen_server::interfaces::interfaces(true).is_empty();
    if !in_a_network {
        assert_eq!((status, &short["code"]), (StatusCode::CONFLICT, &json!("conflict")), "{short}");
        return;
    }
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{short}");
    assert_eq!(bench.view("").await["open"], false);

    let (status, cookie, view) = bench.open(json!({ "pass_phrase": WORDS })).await;
    assert_eq!((status, &view["open"]), (StatusCode::OK, &json!(true)), "{view}");
    let cookie = cookie.unwrap();
    assert!(!cookie.contains("Secure"), "this door is not encrypted: {cookie}");
    let cookie = cookie.split(';').next().unwrap().to_owned();
    let outside = view["doors"][0]["url"].as_str().unwrap().to_owned();
    let port = |url: &str| url.rsplit(':').next().unwrap().to_owned();
    assert_eq!(port(&outside), port(&bench.here), "what phones keep lies with the address of their page");
    // All but the page that pressed are asked, outside and here.
    assert_eq!(bench.at(&format!("{outside}/api/homes")).await, Some(StatusCode::UNAUTHORIZED));
    assert_eq!(bench.at(&format!("{}/api/homes", bench.here)).await, Some(StatusCode::UNAUTHORIZED));
    assert_eq!(bench.at(&format!("{outside}/phone")).await, Some(StatusCode::OK));
    let inside = bench.ask(Method::GET, "/api/homes").header("cookie", &cookie).send().await.unwrap();
    assert_eq!(inside.status(), StatusCode::OK);

    // A phone that was heard may hold runs, and is named; a page of the machine itself does not go away.
    let (url, withdrawn_at) = code(&bench, &cookie).await;
    let (page, token) = url.split_once("/phone#").unwrap();
    for (from, waiting) in [(bench.here.as_str(), "9"), (page, "2")] {
        let phone = bench.client.get(format!("{from}/api/phone")).header("busy-hen-phone", token);
        let shown = phone.header("busy-hen-waiting", waiting).send().await.unwrap();
        assert_eq!(shown.status(), StatusCode::OK);
    }
    let view = bench.view(&cookie).await;
    let phones = view["phones"].as_array().unwrap();
    assert_eq!((phones.len(), &phones[0]["waiting"]), (1, &json!(2)), "{view}");
    assert!(phones[0]["setup"].as_str().unwrap().starts_with("B "), "{view}");
    assert!(view["closes_at"].is_string(), "{view}");

    let gone = bench.ask(Method::DELETE, &withdrawn_at).header("cookie", &cookie).send().await.unwrap();
    assert_eq!(gone.status(), StatusCode::NO_CONTENT);
    let begun = std::time::Instant::now();
    while bench.at(&format!("{outside}/phone")).await.is_some() {
        assert!(begun.elapsed() < Duration::from_secs(30), "the last code has run out");
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    let told =
        |view: &Value| view["events"].as_array().unwrap().iter().map(|own| own["change"].clone()).collect::<Vec<_>>();
    // Nothing of the machine is asked any more.
    assert_eq!(told(&bench.view("").await), ["codes_ran_out", "opened"]);

    // Again at the same address, by the pass phrase that was set; who was in before is out.
    let (status, _, wrong) = bench.open(json!({ "pass_phrase": "another phrase" })).await;
    assert_eq!((status, &wrong["code"]), (StatusCode::FORBIDDEN, &json!("wrong_pass_phrase")));
    let (_, again, view) = bench.open(json!({ "pass_phrase": WORDS })).await;
    assert_eq!(view["doors"][0]["url"], outside);
    let before = bench.ask(Method::GET, "/api/homes").header("cookie", &cookie).send().await.unwrap();
    assert_eq!(before.status(), StatusCode::UNAUTHORIZED);
    let again = again.unwrap().split(';').next().unwrap().to_owned();
    let other = json!({ "pass_phrase": "another phrase", "anew": true });
    let refused = bench.ask(Method::PUT, "/api/network").header("cookie", &again).json(&other).send().await.unwrap();
    assert_eq!(refused.status(), StatusCode::CONFLICT, "not while others know the one of before");
    // Something that is under way outside does not keep it open.
    let slow = tokio::net::TcpStream::connect(outside.strip_prefix("http://").unwrap()).await.unwrap();
    let closed = bench.ask(Method::DELETE, "/api/network").header("cookie", &again).send().await.unwrap();
    assert_eq!(closed.status(), StatusCode::NO_CONTENT);
    assert_eq!(bench.at(&format!("{outside}/phone")).await, None);
    drop(slow);
    let (status, _, _) = bench.open(other).await;
    assert_eq!(status, StatusCode::OK, "one that nobody remembers is set anew on the machine itself");
}
