//! Phones: how they are let in, and what is taken from them.

use std::io::Read;

use actix_web::http::{Method, StatusCode};
use busy_hen_home::{RoundId, RunId};
use busy_hen_server::tokens::digest;
use busy_hen_testkit::raw::test_of;
use serde_json::{Value, json};
use uuid::Uuid;

use crate::rig::{Api, With, api};

macro_rules! service {
    () => { impl actix_web::dev::Service<
        actix_http::Request,
        Response = actix_web::dev::ServiceResponse<impl actix_web::body::MessageBody + 'static>,
        Error = actix_web::Error,
    > };
}

/// A round of internet tests and the token of a phone that was paired with it.
async fn paired(api: &Api<service!()>) -> (Value, String) {
    let setup = api.view().await["home"]["setups"][1]["id"].clone();
    let round = json!({
        "setup_id": setup, "client": "phone_ax", "band": null, "kind": "internet",
        "doors": "as_left", "situation": "alone", "runs_per_spot": 5
    });
    let (status, made) = api.send(Method::POST, &api.at("/rounds"), round).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let path = format!("/api/rounds/{}/phones", made["round"]["id"].as_str().unwrap());
    let (status, phone) = api.send(Method::POST, &path, json!({})).await;
    assert_eq!((status, &phone["open_to_network"]), (StatusCode::CREATED, &json!(false)), "{phone}");
    let door =
        phone["doors"].as_array().unwrap().iter().find(|door| door["interface"]["address"] == "127.0.0.1").unwrap();
    let (page, token) = door["url"].as_str().unwrap().split_once('#').unwrap();
    assert_eq!(page, "http://127.0.0.1:8080/phone");
    assert!(door["qr_svg"].as_str().unwrap().contains("<svg"));
    (made, token.to_owned())
}

async fn ask(
    api: &Api<service!()>,
    token: &str,
    method: Method,
    path: &str,
    body: Option<Value>,
) -> (StatusCode, Value) {
    let with = With { phone: Some(token), ..With::default() };
    let (status, _, text) = api.ask(method, path, body.map(|body| body.to_string()), with).await;
    (status, serde_json::from_str(&text).unwrap_or(Value::Null))
}

async fn send(api: &Api<service!()>, token: &str, run: &Value) -> (StatusCode, Value) {
    ask(api, token, Method::POST, "/api/phone/runs", Some(run.clone())).await
}

fn tested(spot: &Value, down: f64, up: f64) -> Value {
    let result = json!({ "kind": "tested", "test": Uuid::new_v4(), "raw": test_of(down, up) });
    json!({ "id": Uuid::new_v4(), "spot_id": spot, "at": jiff::Timestamp::now().to_string(), "result": result })
}

#[actix_web::test]
async fn what_a_phone_measured_is_kept_once_with_its_samples_and_as_a_local_test() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let (status, view) = ask(&api, &token, Method::GET, "/api/phone", None).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let spot = view["next"].clone();
    assert_eq!(view["spots"][0]["spot_id"], spot);
    assert_eq!(view["spots"][0]["enough"], json!({ "kind": "too_few", "more": 3 }));

    let run = tested(&spot, 90.0, 18.0);
    let (status, kept) = send(&api, &token, &run).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    assert!((kept["run"]["outcome"]["down_mbps"].as_f64().unwrap() - 90.0).abs() < 1.0);
    assert_eq!((&kept["run"]["source"], &kept["run"]["under"]["kind"]), (&json!("phone"), &json!("local")));
    let (status, again) = send(&api, &token, &run).await;
    assert_eq!((status, &again["run"]), (StatusCode::CREATED, &kept["run"]), "sent twice, kept once");
    let mut other = tested(&spot, 40.0, 18.0);
    other["id"] = run["id"].clone();
    assert_eq!(send(&api, &token, &other).await.0, StatusCode::CONFLICT);

    let id: RunId = run["id"].as_str().unwrap().parse().unwrap();
    let mut text = String::new();
    let samples = api.store.samples(id).await.unwrap().unwrap();
    flate2::read::GzDecoder::new(samples.as_slice()).read_to_string(&mut text).unwrap();
    assert_eq!(serde_json::from_str::<Value>(&text).unwrap(), run["result"]["raw"]);

    // The round is of internet tests: a local one stands beside and is no part of its figures.
    let seen = api.get(&format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap())).await;
    let row = &seen["spots"][0];
    assert_eq!((&row["summary"], &row["run_count"]), (&Value::Null, &json!(0)));
    assert_eq!(row["otherwise"][0]["words"], "local test");
    assert_eq!(row["otherwise"][0]["summary"]["runs"], 1);
}

#[actix_web::test]
async fn the_next_spot_is_the_first_that_has_not_enough() {
    let api = api().await;
    let (_, token) = paired(&api).await;
    let (_, view) = ask(&api, &token, Method::GET, "/api/phone", None).await;
    let (first, second) = (&view["spots"][0]["spot_id"], &view["spots"][1]["spot_id"]);
    for down in [90.0, 91.0, 90.5] {
        send(&api, &token, &tested(first, down, 18.0)).await;
    }
    let (_, view) = ask(&api, &token, Method::GET, "/api/phone", None).await;
    assert_eq!((&view["spots"][0]["enough"]["kind"], &view["next"]), (&json!("enough"), second));
    for _ in 0..3 {
        let mut run = tested(second, 1.0, 1.0);
        run["result"] = json!({ "kind": "no_connection" });
        let (status, kept) = send(&api, &token, &run).await;
        assert_eq!((status, &kept["run"]["outcome"]["kind"]), (StatusCode::CREATED, &json!("no_connection")));
    }
    let (_, view) = ask(&api, &token, Method::GET, "/api/phone", None).await;
    assert_eq!(
        (&view["spots"][1]["done"], &view["spots"][1]["summary"]["without_connection"]),
        (&json!(true), &json!(3))
    );
}

#[actix_web::test]
async fn a_spoiled_test_is_refused_with_its_reason_and_leaves_nothing() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let spot = round["spots"][0]["spot_id"].clone();
    let mut run = tested(&spot, 90.0, 18.0);
    run["result"]["raw"]["interruptions"] = json!(["hidden"]);
    let (status, problem) = send(&api, &token, &run).await;
    assert_eq!((status, &problem["code"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("spoiled")));
    assert!(problem["detail"].as_str().unwrap().contains("covered or the screen locked"), "{problem}");
    let mut run = tested(&json!(Uuid::new_v4()), 90.0, 18.0);
    let (status, problem) = send(&api, &token, &run).await;
    assert_eq!((status, &problem["faults"][0]["pointer"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("/spot_id")));
    let claimed = json!({ "runs": [{
        "spot_id": spot, "source": "phone", "carried_by": "home_wifi",
        "outcome": { "kind": "measured", "down_mbps": 900.0, "up_mbps": 900.0 }
    }] });
    let path = format!("/api/rounds/{}/runs", round["round"]["id"].as_str().unwrap());
    let (status, problem) = api.send(Method::POST, &path, claimed).await;
    assert_eq!(
        (status, &problem["faults"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/runs/0/source"))
    );
    run["result"]["raw"]["down"] = json!("fast");
    assert_eq!(send(&api, &token, &run).await.0, StatusCode::BAD_REQUEST);
    let runs = api.get(&format!("/api/rounds/{}/runs", round["round"]["id"].as_str().unwrap())).await;
    assert_eq!(runs, json!([]));
}

#[actix_web::test]
async fn a_code_that_is_not_known_is_refused_and_an_expired_one_still_sends_what_was_saved() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let spot = round["spots"][0]["spot_id"].clone();
    let (status, problem) = ask(&api, "nobody", Method::GET, "/api/phone", None).await;
    assert_eq!((status, &problem["code"]), (StatusCode::UNAUTHORIZED, &json!("not_paired")));
    let (status, _, _) = api.ask(Method::GET, "/api/phone", None, With::default()).await;
    assert_eq!(status, StatusCode::UNAUTHORIZED);
    assert_eq!(send(&api, &token[1..], &tested(&spot, 90.0, 18.0)).await.0, StatusCode::UNAUTHORIZED);

    let now = jiff::Timestamp::now();
    let (before, over) = (now - jiff::SignedDuration::from_hours(2), now - jiff::SignedDuration::from_hours(1));
    let id: RoundId = round["round"]["id"].as_str().unwrap().parse().unwrap();
    api.store.pair(&digest("old"), id, (before, over), false).await.unwrap();
    let (status, problem) = ask(&api, "old", Method::GET, "/api/phone", None).await;
    assert_eq!((status, &problem["code"]), (StatusCode::FORBIDDEN, &json!("pairing_over")), "it reads nothing");
    let mut run = tested(&spot, 90.0, 18.0);
    let (status, problem) = send(&api, "old", &run).await;
    assert_eq!((status, &problem["code"]), (StatusCode::FORBIDDEN, &json!("pairing_over")));
    run["at"] = json!(before.to_string());
    assert_eq!(send(&api, "old", &run).await.0, StatusCode::CREATED, "it was measured in time");
    // By a clock that is 13 hours ahead, or behind, it is told by what the clock shows as it sends.
    let hours = jiff::SignedDuration::from_hours;
    for ahead in [hours(13), hours(-13)] {
        let mut run = tested(&spot, 90.0, 18.0);
        run["sent_at"] = json!((now + ahead).to_string());
        run["at"] = json!((before + ahead).to_string());
        let (status, kept) = send(&api, "old", &run).await;
        assert_eq!(status, StatusCode::CREATED, "{kept}");
        let at: jiff::Timestamp = kept["run"]["at"].as_str().unwrap().parse().unwrap();
        assert!(at.duration_since(before).abs() < jiff::SignedDuration::from_secs(60), "{at} is {before}");
        run = json!({ "id": Uuid::new_v4(), "spot_id": spot, "at": (now + ahead).to_string(),
                      "sent_at": (now + ahead).to_string(), "result": { "kind": "no_connection" } });
        assert_eq!(send(&api, "old", &run).await.0, StatusCode::FORBIDDEN, "measured after it had ended");
        assert_eq!(send(&api, &token, &run).await.0, StatusCode::CREATED, "but not after another has");
    }
    let (status, _, text) = api
        .ask(Method::GET, "/measure/line?token=old&test=00000000-0000-0000-0000-000000000001", None, With::default())
        .await;
    assert_eq!(status, StatusCode::UNAUTHORIZED, "{text}");
}

#[actix_web::test]
async fn bytes_are_sent_and_taken_only_for_a_test_that_has_its_line() {
    let api = api().await;
    let (_, token) = paired(&api).await;
    for (method, path) in [(Method::GET, "down"), (Method::POST, "up")] {
        let path = format!("/measure/{path}?token={token}&test={}&bytes=100", Uuid::new_v4());
        let (status, _, text) = api.ask(method, &path, None, With::default()).await;
        assert_eq!((status, text.contains("open its line first")), (StatusCode::NOT_FOUND, true), "{text}");
    }
}

#[actix_web::test]
async fn a_phone_of_a_round_that_was_deleted_is_told_so() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let path = format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap());
    api.ask(Method::DELETE, &path, None, With::default()).await;
    assert_eq!(ask(&api, &token, Method::GET, "/api/phone", None).await.0, StatusCode::NOT_FOUND);
    assert_eq!(send(&api, &token, &tested(&round["spots"][0]["spot_id"], 1.0, 1.0)).await.0, StatusCode::NOT_FOUND);
    assert_eq!(api.send(Method::POST, &format!("{path}/phones"), json!({})).await.0, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn what_another_test_showed_is_typed_on_the_phone_and_stands_by_itself() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let spot = round["spots"][0]["spot_id"].clone();
    let under = json!({
        "kind": "internet", "client": "phone_ax", "band": null, "doors": "as_left", "situation": "alone"
    });
    let mut run = json!({
        "id": Uuid::new_v4(), "spot_id": spot, "at": jiff::Timestamp::now().to_string(),
        "result": { "kind": "shown", "down_mbps": 88.0, "up_mbps": 20.0, "reach": "internet" },
        "details": { "under": under }
    });
    let (status, problem) = send(&api, &token, &run).await;
    let fault = &problem["faults"][0]["pointer"];
    assert_eq!((status, fault), (StatusCode::UNPROCESSABLE_ENTITY, &json!("/details/under/tool")));
    run["details"]["under"]["tool"] = json!("the TV’s own test");
    let (status, kept) = send(&api, &token, &run).await;
    assert_eq!((status, &kept["run"]["source"]), (StatusCode::CREATED, &json!("typed")), "{kept}");
    let (_, view) = ask(&api, &token, Method::GET, "/api/phone", None).await;
    assert_eq!(view["spots"][0]["checks"], json!(["the TV’s own test: 88 / 20 Mb/s"]));
    assert_eq!(view["spots"][0]["runs"], 0, "not mixed with this page's own");

    run["id"] = json!(Uuid::new_v4());
    run["result"]["down_mbps"] = json!(9000.0);
    let (status, problem) = send(&api, &token, &run).await;
    assert_eq!((status, &problem["code"]), (StatusCode::CONFLICT, &json!("over_ceiling")));
    run["result"]["over_ceiling_confirmed"] = json!(true);
    assert_eq!(send(&api, &token, &run).await.0, StatusCode::CREATED);
}

#[actix_web::test]
async fn codes_are_listed_and_a_withdrawn_one_does_no_more_than_send_what_was_measured_before() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let codes = format!("/api/rounds/{}/phones", round["round"]["id"].as_str().unwrap());
    api.send(Method::POST, &codes, json!({ "stand_in": true })).await;
    let list = api.get(&codes).await;
    assert_eq!(list.as_array().unwrap().len(), 2);
    assert_eq!((&list[0]["stand_in"], &list[1]["open"]), (&json!(true), &json!(true)));
    let measured = tested(&round["spots"][0]["spot_id"], 90.0, 18.0);
    let code = format!("{codes}/{}", list[1]["id"].as_str().unwrap());
    let (status, _, _) = api.ask(Method::DELETE, &code, None, With::default()).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    let list = api.get(&codes).await;
    assert_eq!(
        (&list[1]["open"], &list[1]["withdrawn"], &list[0]["open"]),
        (&json!(false), &json!(true), &json!(true))
    );
    let (status, problem) = ask(&api, &token, Method::GET, "/api/phone", None).await;
    assert_eq!((status, &problem["code"]), (StatusCode::FORBIDDEN, &json!("pairing_over")));
    assert!(!problem.to_string().contains("far_end"));
    assert_eq!(send(&api, &token, &measured).await.0, StatusCode::CREATED);
    assert_eq!(send(&api, &token, &tested(&round["spots"][0]["spot_id"], 80.0, 18.0)).await.0, StatusCode::FORBIDDEN);
    for what in ["seen", "line", "down", "up"] {
        let path = format!("/measure/{what}?token={token}&test={}&bytes=9", Uuid::new_v4());
        let method = if what == "up" { Method::POST } else { Method::GET };
        assert_eq!(api.ask(method, &path, None, With::default()).await.0, StatusCode::UNAUTHORIZED, "{what}");
    }
    let (status, _, _) = api.ask(Method::DELETE, &format!("{codes}/nothing"), None, With::default()).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn what_a_phone_typed_is_no_step_of_the_bench() {
    let api = api().await;
    let (round, token) = paired(&api).await;
    let under = json!({ "kind": "internet", "client": "phone_ax", "band": null, "doors": "as_left", "situation": "alone", "tool": "the TV’s own test" });
    let run = json!({
        "id": Uuid::new_v4(), "spot_id": round["spots"][0]["spot_id"], "at": jiff::Timestamp::now().to_string(),
        "result": { "kind": "shown", "down_mbps": 88.0, "up_mbps": 20.0, "reach": "internet" }, "details": { "under": under }
    });
    let before = api.view().await["revision"].clone();
    assert_eq!(send(&api, &token, &run).await.0, StatusCode::CREATED);
    assert_eq!(api.view().await["revision"], before);
}
