//! A bench that other machines reach: what is open without its pass phrase, and what a phone's token opens.

use std::net::SocketAddr;

use actix_web::dev::Service;
use actix_web::http::{Method, StatusCode};
use actix_web::test;
use actix_web::web::Data;
use busy_hen_server::{AppState, Names, application};
use busy_hen_store::Store;
use serde_json::{Value, json};

/// A machine of the network that is none of ours (RFC 5737).
const ELSEWHERE: &str = "203.0.113.9:5000";
const HERE: &str = "127.0.0.1:5000";

/// What a request carries.
#[derive(Default, Clone)]
struct Carries<'a> {
    from: &'a str,
    cookie: Option<&'a str>,
    phone: Option<&'a str>,
}

macro_rules! application {
    ($folder:expr) => {{
        let store = Store::open(&$folder.path().join("lock.db")).await.unwrap();
        let home = busy_hen_home::HomeId::named("terrace");
        store.create(home, &busy_hen_demo::canal_terrace(), busy_hen_testkit::runs::BEGUN).await.unwrap();
        let names = Names { open_to_network: true, more: Vec::new() };
        test::init_service(application(Data::new(AppState::new(store, None, names)))).await
    }};
}

/// Status, cookie and body of an answer.
async fn ask<B: actix_web::body::MessageBody>(
    service: &impl Service<actix_http::Request, Response = actix_web::dev::ServiceResponse<B>, Error = actix_web::Error>,
    method: Method,
    path: &str,
    body: Option<Value>,
    carries: Carries<'_>,
) -> (StatusCode, Option<String>, Value) {
    let peer: SocketAddr = carries.from.parse().unwrap();
    let mut request =
        test::TestRequest::with_uri(path).method(method).peer_addr(peer).insert_header(("host", "192.168.1.5:8080"));
    if let Some(cookie) = carries.cookie {
        request = request.insert_header(("cookie", cookie));
    }
    if let Some(phone) = carries.phone {
        request = request.insert_header(("busy-hen-phone", phone));
    }
    if let Some(body) = body {
        request = request.set_json(body);
    }
    match service.call(request.to_request()).await {
        Ok(answer) => {
            let cookie = answer.headers().get("set-cookie").map(|value| value.to_str().unwrap().to_owned());
            let status = answer.status();
            let body = test::read_body(answer).await;
            (status, cookie, serde_json::from_slice(&body).unwrap_or(Value::Null))
        }
        Err(error) => {
            let answer = error.as_response_error().error_response();
            let status = answer.status();
            let body = actix_web::body::to_bytes(answer.into_body()).await.ok().unwrap();
            (status, None, serde_json::from_slice(&body).unwrap_or(Value::Null))
        }
    }
}

#[actix_web::test]
async fn the_first_pass_phrase_is_set_on_the_machine_itself_and_then_asked_for() {
    let folder = tempfile::tempdir().unwrap();
    let service = application!(folder);
    let (elsewhere, here) =
        (Carries { from: ELSEWHERE, ..Carries::default() }, Carries { from: HERE, ..Carries::default() });
    let words = json!({ "pass_phrase": "clay, glaze and kiln" });

    let (_, _, view) = ask(&service, Method::GET, "/api/lock", None, elsewhere.clone()).await;
    assert_eq!(view, json!({ "locked": true, "set": false, "may_set": false }));
    let (status, _, _) = ask(&service, Method::PUT, "/api/lock", Some(words.clone()), elsewhere.clone()).await;
    assert_eq!(status, StatusCode::FORBIDDEN);
    let short = json!({ "pass_phrase": "clay" });
    let (status, _, _) = ask(&service, Method::PUT, "/api/lock", Some(short), here.clone()).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, cookie, _) = ask(&service, Method::PUT, "/api/lock", Some(words.clone()), here.clone()).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let cookie = cookie.unwrap();
    assert!(cookie.contains("HttpOnly") && cookie.contains("SameSite=Strict"), "{cookie}");
    let (status, _, _) = ask(&service, Method::PUT, "/api/lock", Some(words.clone()), here.clone()).await;
    assert_eq!(status, StatusCode::CONFLICT, "it is set once");

    // The machine itself is asked too.
    let (status, _, problem) = ask(&service, Method::GET, "/api/homes", None, here.clone()).await;
    assert_eq!((status, &problem["code"]), (StatusCode::UNAUTHORIZED, &json!("locked")));
    let own = cookie.split(';').next().unwrap();
    let inside = Carries { cookie: Some(own), ..elsewhere.clone() };
    let (status, _, homes) = ask(&service, Method::GET, "/api/homes", None, inside.clone()).await;
    assert_eq!((status, homes.as_array().unwrap().len()), (StatusCode::OK, 1));
    // Who opens and closes it to the network sits at the machine.
    for (method, body) in [(Method::PUT, Some(words.clone())), (Method::DELETE, None)] {
        let (status, _, _) = ask(&service, method, "/api/network", body, inside.clone()).await;
        assert_eq!(status, StatusCode::FORBIDDEN);
    }
    ask(&service, Method::DELETE, "/api/lock", None, inside.clone()).await;
    let (status, _, _) = ask(&service, Method::GET, "/api/homes", None, inside).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED, "it left");

    let (status, cookie, _) = ask(&service, Method::POST, "/api/lock", Some(words), elsewhere.clone()).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let inside = Carries { cookie: Some(cookie.as_deref().unwrap().split(';').next().unwrap()), ..elsewhere };
    let (status, _, _) = ask(&service, Method::GET, "/api/homes", None, inside).await;
    assert_eq!(status, StatusCode::OK);
}

#[actix_web::test]
async fn a_page_on_another_machine_may_listen_to_the_bench_and_one_on_the_bench_need_not() {
    let folder = tempfile::tempdir().unwrap();
    let service = application!(folder);
    let (elsewhere, here) =
        (Carries { from: ELSEWHERE, ..Carries::default() }, Carries { from: HERE, ..Carries::default() });
    let words = json!({ "pass_phrase": "clay, glaze and kiln" });
    let (_, cookie, _) = ask(&service, Method::PUT, "/api/lock", Some(words), here.clone()).await;
    let cookie = cookie.unwrap().split(';').next().unwrap().to_owned();
    let asked = |from| Carries { cookie: Some(&cookie), ..from };
    let (_, _, own) = ask(&service, Method::POST, "/api/listening", None, asked(here)).await;
    assert_eq!(own, json!({ "bench_token": null, "far_end": null }));
    let (status, _, _) = ask(&service, Method::GET, "/measure/seen?token=guessed", None, elsewhere.clone()).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
    let (_, _, other) = ask(&service, Method::POST, "/api/listening", None, asked(elsewhere.clone())).await;
    let path = format!("/measure/seen?token={}", other["bench_token"].as_str().unwrap());
    let (status, _, _) = ask(&service, Method::GET, &path, None, elsewhere).await;
    assert_eq!(status, StatusCode::OK);
}

#[actix_web::test]
async fn guessing_is_slowed_down() {
    let folder = tempfile::tempdir().unwrap();
    let service = application!(folder);
    let here = Carries { from: HERE, ..Carries::default() };
    ask(&service, Method::PUT, "/api/lock", Some(json!({ "pass_phrase": "clay, glaze and kiln" })), here.clone()).await;
    let mut answers = Vec::new();
    for guess in 0..7 {
        let guess = json!({ "pass_phrase": format!("guess {guess}") });
        answers.push(ask(&service, Method::POST, "/api/lock", Some(guess), here.clone()).await.0);
    }
    assert_eq!(answers[..5], [StatusCode::FORBIDDEN; 5]);
    assert_eq!(answers[5..], [StatusCode::TOO_MANY_REQUESTS; 2]);
}

#[actix_web::test]
async fn a_stranger_who_guesses_keeps_the_installer_out_nowhere() {
    let folder = tempfile::tempdir().unwrap();
    let service = application!(folder);
    let words = json!({ "pass_phrase": "clay, glaze and kiln" });
    let from = |from| Carries { from, ..Carries::default() };
    let (_, cookie, _) = ask(&service, Method::PUT, "/api/lock", Some(words.clone()), from(HERE)).await;
    let cookie = cookie.unwrap().split(';').next().unwrap().to_owned();
    let mut last = StatusCode::OK;
    for guess in 0..20 {
        let guess = json!({ "pass_phrase": format!("guess {guess}") });
        last = ask(&service, Method::POST, "/api/lock", Some(guess), from(ELSEWHERE)).await.0;
    }
    assert_eq!(last, StatusCode::TOO_MANY_REQUESTS);
    for (peer, status) in [
        (HERE, StatusCode::NO_CONTENT),
        ("203.0.113.10:5000", StatusCode::NO_CONTENT),
        ("[2001:db8::1]:5000", StatusCode::NO_CONTENT),
    ] {
        let got = ask(&service, Method::POST, "/api/lock", Some(words.clone()), from(peer)).await.0;
        assert_eq!(got, status, "{peer}");
    }
    let inside = Carries { from: ELSEWHERE, cookie: Some(&cookie), phone: None };
    let (status, _, _) = ask(&service, Method::GET, "/api/homes", None, inside).await;
    assert_eq!(status, StatusCode::OK, "whoever is in stays in");
}

/// What README and threat model say of a restart: the pass phrase and paired phones are kept, pages enter again, and counts begin anew.
#[actix_web::test]
async fn a_restart_keeps_the_pass_phrase_and_the_phones_and_nothing_of_who_was_in_or_guessed() {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("lock.db")).await.unwrap();
    let home = busy_hen_home::HomeId::named("terrace");
    let terrace = busy_hen_demo::canal_terrace();
    store.create(home, &terrace, busy_hen_testkit::runs::BEGUN).await.unwrap();
    let round = busy_hen_testkit::runs::round("r", terrace.setups[0].id, vec![terrace.house.spots[0].id]);
    let record = busy_hen_store::RoundRecord { tested: busy_hen_testkit::runs::tested(&terrace, &round), round };
    let now = jiff::Timestamp::now();
    let editor = busy_hen_store::Editor::default();
    store.create_round(home, 1, &record, "begin", (&editor, now)).await.unwrap();
    let code = busy_hen_server::tokens::digest("a phone");
    store.pair(&code, record.round.id, (now, now + jiff::SignedDuration::from_hours(1)), false).await.unwrap();
    let names = Names { open_to_network: true, more: Vec::new() };
    let start = || test::init_service(application(Data::new(AppState::new(store.clone(), None, names.clone()))));
    let words = json!({ "pass_phrase": "clay, glaze and kiln" });
    let from = |from| Carries { from, ..Carries::default() };
    let before = start().await;
    let (_, cookie, _) = ask(&before, Method::PUT, "/api/lock", Some(words.clone()), from(HERE)).await;
    let cookie = cookie.unwrap().split(';').next().unwrap().to_owned();
    for guess in 0..8 {
        let guess = json!({ "pass_phrase": format!("guess {guess}") });
        ask(&before, Method::POST, "/api/lock", Some(guess), from(ELSEWHERE)).await;
    }
    let after = start().await;
    let inside = Carries { from: ELSEWHERE, cookie: Some(&cookie), phone: None };
    assert_eq!(ask(&after, Method::GET, "/api/homes", None, inside).await.0, StatusCode::UNAUTHORIZED);
    let phone = Carries { from: ELSEWHERE, cookie: None, phone: Some("a phone") };
    assert_eq!(ask(&after, Method::GET, "/api/phone", None, phone).await.0, StatusCode::OK);
    let (status, _, view) = ask(&after, Method::GET, "/api/lock", None, from(HERE)).await;
    assert_eq!((status, &view["set"], &view["may_set"]), (StatusCode::OK, &json!(true), &json!(false)));
    let (status, _, _) = ask(&after, Method::POST, "/api/lock", Some(words), from(ELSEWHERE)).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "counts begin anew");
}

/// Every operation of the interface's own description, so that a new one is covered by itself.
#[actix_web::test]
async fn a_phones_token_and_no_token_open_nothing_but_what_is_the_phones() {
    let folder = tempfile::tempdir().unwrap();
    let service = application!(folder);
    let here = Carries { from: HERE, ..Carries::default() };
    let (_, cookie, _) =
        ask(&service, Method::PUT, "/api/lock", Some(json!({ "pass_phrase": "clay, glaze and kiln" })), here).await;
    let cookie = cookie.unwrap().split(';').next().unwrap().to_owned();
    let inside = Carries { from: ELSEWHERE, cookie: Some(&cookie), phone: None };
    let (_, _, homes) = ask(&service, Method::GET, "/api/homes", None, inside.clone()).await;
    let home = homes[0]["id"].as_str().unwrap().to_owned();
    let (_, _, view) = ask(&service, Method::GET, &format!("/api/homes/{home}"), None, inside.clone()).await;
    let setup = view["home"]["setups"][1]["id"].as_str().unwrap().to_owned();
    let round = json!({
        "setup_id": setup, "client": "phone_ax", "band": null, "kind": "local",
        "doors": "as_left", "situation": "alone", "runs_per_spot": 5
    });
    let path = format!("/api/homes/{home}/rounds");
    let (_, _, made) = ask(&service, Method::POST, &path, Some(round), inside.clone()).await;
    let round = made["round"]["id"].as_str().unwrap().to_owned();
    let path = format!("/api/rounds/{round}/phones");
    let (status, _, phone) = ask(&service, Method::POST, &path, Some(json!({})), inside).await;
    assert_eq!(status, StatusCode::CREATED);
    assert_eq!(phone["open_to_network"], true);
    let token = match phone["doors"][0]["url"].as_str() {
        Some(url) => url.split_once('#').unwrap().1.to_owned(),
        // A machine without a network of its own has no address to show; the token is then of no account here.
        None => String::new(),
    };

    let document = serde_json::to_value(busy_hen_server::openapi()).unwrap();
    let mut tried = 0;
    for (path, operations) in document["paths"].as_object().unwrap() {
        let open = path == "/api/lock" || path == "/api/phone" || path.starts_with("/api/phone/");
        let path = path
            .replace("{home}", &home)
            .replace("{setup}", &setup)
            .replace("{round}", &round)
            .replace("{device}", &setup)
            .replace("{run}", &round)
            .replace("{picture}", &round)
            .replace("{drill}", &round)
            .replace("{watch}", &round)
            .replace("{note}", &round)
            .replace("{password}", &round)
            .replace("{job}", &round)
            .replace("{code}", "0123456789abcdef");
        assert!(!path.contains('{'), "{path}");
        for method in ["get", "post", "put", "delete"].iter().filter(|method| operations[**method].is_object()) {
            let method = Method::from_bytes(method.to_uppercase().as_bytes()).unwrap();
            for phone in [None, Some(token.as_str())] {
                for cookie in [None, Some("busy-hen-session=guessed")] {
                    let carries = Carries { from: ELSEWHERE, cookie, phone };
                    let (status, _, problem) = ask(&service, method.clone(), &path, Some(json!({})), carries).await;
                    let locked = status == StatusCode::UNAUTHORIZED && problem["code"] == "locked";
                    assert_eq!(locked, !open, "{method} {path}: {status} {problem}");
                    tried += 1;
                }
            }
        }
    }
    assert!(tried > 100, "{tried}");
}

#[actix_web::test]
async fn of_whoever_is_not_known_little_is_read() {
    let folder = tempfile::tempdir().unwrap();
    let service = application!(folder);
    let from = |from| Carries { from, ..Carries::default() };
    ask(&service, Method::PUT, "/api/lock", Some(json!({ "pass_phrase": "clay, glaze and kiln" })), from(HERE)).await;
    let endless = json!({ "pass_phrase": "x".repeat(5000) });
    for method in [Method::PUT, Method::POST] {
        let (status, _, problem) = ask(&service, method.clone(), "/api/lock", Some(endless.clone()), from(HERE)).await;
        assert_eq!((status, &problem["code"]), (StatusCode::PAYLOAD_TOO_LARGE, &json!("too_large")), "{method}");
    }
    // Who may not set it is told so before anything is read.
    let (status, _, problem) = ask(&service, Method::PUT, "/api/lock", Some(endless), from(ELSEWHERE)).await;
    assert_eq!((status, &problem["code"]), (StatusCode::FORBIDDEN, &json!("wrong_pass_phrase")));
    for wrong in [json!({}), json!({ "pass_phrase": 7 }), json!({ "pass_phrase": "a", "more": 1 }), json!([])] {
        let (status, _, _) = ask(&service, Method::POST, "/api/lock", Some(wrong), from(ELSEWHERE)).await;
        assert_eq!(status, StatusCode::BAD_REQUEST);
    }
}
