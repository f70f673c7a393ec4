//! The HTTP interface in process: every endpoint's good path, and what bad input gets.
#![allow(clippy::unwrap_used)] // also in what tests share

use std::future::Future;
use std::pin::Pin;

use actix_web::dev::{Service, ServiceResponse};
use actix_web::http::{Method, StatusCode};
use actix_web::web::Data;
use actix_web::{App, test};
use busy_hen_demo::canal_terrace;
use busy_hen_home::{HomeId, SetupId, SpotId};
use busy_hen_server::{AppState, WalkOrder, Walker, configure, extractors};
use busy_hen_store::Store;
use serde_json::{Value, json};
use utoipa_actix_web::AppExt;

/// A walker that is told where to go and fails there.
struct LostWalker;

impl Walker for LostWalker {
    fn walk(&self, order: WalkOrder) -> Pin<Box<dyn Future<Output = Result<(), String>> + Send>> {
        Box::pin(async move { Err(format!("lost with seed {}", order.seed)) })
    }
}

struct Api<S> {
    service: S,
    home: HomeId,
    _folder: tempfile::TempDir,
}

async fn api() -> Api<impl Service<actix_http::Request, Response = ServiceResponse, Error = actix_web::Error>> {
    let folder = tempfile::tempdir().unwrap();
    let store = Store::open(&folder.path().join("api.db")).await.unwrap();
    let home = HomeId::named("terrace");
    store.create(home, &canal_terrace(), jiff::Timestamp::UNIX_EPOCH).await.unwrap();
    let state = Data::new(AppState::new(store, Some(Box::new(LostWalker))));
    let (app, _) = App::new()
        .into_utoipa_app()
        .app_data(state)
        .map(|app| app.configure(extractors))
        .configure(configure)
        .split_for_parts();
    Api { service: test::init_service(app).await, home, _folder: folder }
}

impl<S: Service<actix_http::Request, Response = ServiceResponse, Error = actix_web::Error>> Api<S> {
    async fn raw(&self, method: Method, path: &str, body: Option<String>) -> (StatusCode, String, String) {
        let mut request = test::TestRequest::with_uri(path).method(method);
        if let Some(body) = body {
            request = request.insert_header(("content-type", "application/json")).set_payload(body);
        }
        let answer = test::call_service(&self.service, request.to_request()).await;
        let status = answer.status();
        let kind = answer.headers().get("content-type").and_then(|kind| kind.to_str().ok()).unwrap_or("").to_owned();
        let text = String::from_utf8(test::read_body(answer).await.to_vec()).unwrap();
        (status, kind, text)
    }

    async fn send(&self, method: Method, path: &str, body: Value) -> (StatusCode, Value) {
        let (status, _, text) = self.raw(method, path, Some(body.to_string())).await;
        (status, serde_json::from_str(&text).unwrap_or(Value::Null))
    }

    async fn get(&self, path: &str) -> Value {
        let (status, _, text) = self.raw(Method::GET, path, None).await;
        assert_eq!(status, StatusCode::OK, "{path}: {text}");
        serde_json::from_str(&text).unwrap()
    }

    fn at(&self, rest: &str) -> String {
        format!("/api/homes/{}{rest}", self.home)
    }

    async fn view(&self) -> Value {
        self.get(&self.at("")).await
    }

    async fn house(&self) -> Value {
        let mut house = self.view().await["home"]["house"].clone();
        house.as_object_mut().unwrap().remove("rooms");
        house
    }

    async fn round(&self) -> Value {
        let body = json!({
            "setup_id": SetupId::named("A"), "client": "phone_ax", "band": null, "kind": "internet",
            "doors": "as_left", "situation": "alone", "runs_per_spot": 5, "spots": []
        });
        let (status, round) = self.send(Method::POST, &self.at("/rounds"), body).await;
        assert_eq!(status, StatusCode::CREATED, "{round}");
        round
    }

    async fn runs(&self, round: &Value, runs: Value) -> (StatusCode, Value) {
        let path = format!("/api/rounds/{}/runs", round["round"]["id"].as_str().unwrap());
        self.send(Method::POST, &path, json!({ "runs": runs })).await
    }
}

fn run(spot: &str, down: f64) -> Value {
    json!({
        "spot_id": SpotId::named(spot), "source": "typed", "carried_by": "home_wifi",
        "outcome": { "kind": "measured", "down_mbps": down, "up_mbps": 20.0, "idle_ms": 12.0,
                     "loaded_ms": null, "jitter_ms": null, "loss_percent": null }
    })
}

fn ask() -> Value {
    json!({ "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" })
}

#[actix_web::test]
async fn a_home_is_made_opened_changed_undone_and_deleted() {
    let api = api().await;
    let new = json!({ "name": " Weir house ", "region": "DE", "units": "m" });
    let (status, view) = api.send(Method::POST, "/api/homes", new).await;
    assert_eq!((status, view["home"]["name"].as_str()), (StatusCode::CREATED, Some("Weir house")));
    let path = format!("/api/homes/{}", view["id"].as_str().unwrap());
    let mut brief = view["home"]["brief"].clone();
    brief["complaint"] = "slow".into();
    let edit = json!({ "name": "Weir house", "region": "DE", "units": "ft", "brief": brief });
    let (status, changed) = api.send(Method::PUT, &format!("{path}/brief?revision=1"), edit.clone()).await;
    assert_eq!((status, changed["revision"].as_i64()), (StatusCode::OK, Some(2)));
    let (status, late) = api.send(Method::PUT, &format!("{path}/brief?revision=1"), edit).await;
    assert_eq!((status, late["code"].as_str()), (StatusCode::CONFLICT, Some("stale")));
    let (_, undone) = api.send(Method::POST, &format!("{path}/undo"), json!({})).await;
    assert_eq!(undone["home"]["brief"]["complaint"], "");
    let (_, redone) = api.send(Method::POST, &format!("{path}/redo"), json!({})).await;
    assert_eq!(redone["home"]["brief"]["complaint"], "slow");
    assert_eq!(api.get("/api/homes").await.as_array().unwrap().len(), 2);
    let (status, _, _) = api.raw(Method::DELETE, &path, None).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    assert_eq!(api.get("/api/homes").await.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn every_refusal_is_a_problem_with_a_code_and_leaves_the_home_as_it_was() {
    let api = api().await;
    let before = api.view().await;
    let setup = SetupId::named("A");
    let nothing = HomeId::named("nothing");
    let cases = [
        (Method::GET, "/api/homes/not-an-id".to_owned(), None, 404, "not_found"),
        (Method::GET, format!("/api/homes/{nothing}"), None, 404, "not_found"),
        (Method::POST, "/api/homes".into(), Some("{".to_owned()), 400, "bad_body"),
        (Method::POST, "/api/homes".into(), Some(json!({"name":"x"}).to_string()), 400, "bad_body"),
        (Method::POST, "/api/homes".into(), Some(json!({"name":" ","region":"GB","units":"m"}).to_string()), 422, "faults"),
        (Method::POST, "/api/homes".into(), Some(json!({"name":"x","region":"ZZ","units":"m"}).to_string()), 422, "faults"),
        (Method::PUT, api.at("/brief?revision=x"), Some("{}".into()), 400, "bad_query"),
        (Method::PUT, api.at("/house"), Some(json!({"levels": 3}).to_string()), 400, "bad_body"),
        (Method::POST, api.at("/undo"), None, 409, "conflict"),
        (Method::POST, api.at("/setups"), Some(json!({"name":""}).to_string()), 422, "faults"),
        (Method::DELETE, api.at(&format!("/setups/{}", SetupId::named("none"))), None, 404, "not_found"),
        (Method::POST, api.at(&format!("/setups/{setup}/light")), Some(json!({"ask":ask(),"level_id":nothing,"cell_m":0.5,"moved":null}).to_string()), 404, "not_found"),
        (Method::POST, api.at(&format!("/setups/{setup}/light")), Some(json!({"ask":ask(),"level_id":nothing,"cell_m":0.0,"moved":null}).to_string()), 422, "faults"),
        (Method::POST, api.at(&format!("/setups/{setup}/chain")), Some(json!({"ask":ask()}).to_string()), 422, "faults"),
        (Method::POST, api.at("/rounds"), Some(json!({"setup_id":nothing,"client":"phone_ax","kind":"local","doors":"open","situation":"alone","runs_per_spot":5}).to_string()), 422, "faults"),
        (Method::GET, api.at(&format!("/compare?reference={setup}&other={setup}&kind=upside&client=phone_ax&situation=alone")), None, 400, "bad_query"),
        (Method::GET, api.at(&format!("/compare?reference={setup}&other={setup}&kind=local&client=abacus&situation=alone")), None, 422, "faults"),
    ];
    for (method, path, body, status, code) in cases {
        let (got, kind, text) = api.raw(method.clone(), &path, body).await;
        assert_eq!(got.as_u16(), status, "{method} {path}: {text}");
        assert!(kind.starts_with("application/problem+json"), "{path}: {kind}");
        let problem: Value = serde_json::from_str(&text).unwrap();
        assert_eq!(problem["code"], code, "{path}");
        assert!(problem["detail"].as_str().unwrap().len() > 10, "{path}");
    }
    assert_eq!(api.view().await, before);
}

#[actix_web::test]
async fn a_house_is_drawn_before_it_is_saved_and_wrong_lines_lose_nothing() {
    let api = api().await;
    let mut house = api.house().await;
    let lines = house["levels"][0]["lines"].as_str().unwrap().replace("Kitchen 4.8", "Kitchen 4.8 by mistake");
    house["levels"][0]["lines"] = lines.into();
    let (status, drawn) = api.send(Method::POST, &api.at("/drawing"), house.clone()).await;
    assert_eq!(status, StatusCode::OK);
    assert!(drawn["faults"][0]["message"].as_str().unwrap().contains("No size here"));
    assert_eq!(api.view().await["drawing"]["rooms"].as_array().unwrap().len(), 12, "nothing was saved");
    let (status, saved) = api.send(Method::PUT, &api.at("/house"), house).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(saved["home"]["house"]["rooms"].as_array().unwrap().len(), 12, "unplaced, but not lost");
    assert_eq!(saved["home"]["brief"]["uses"].as_array().unwrap().len(), 12);
}

#[actix_web::test]
async fn a_room_with_runs_can_not_be_typed_away() {
    let api = api().await;
    let round = api.round().await;
    let (status, _) = api.runs(&round, json!([run("Pottery", 5.0)])).await;
    assert_eq!(status, StatusCode::CREATED);
    let mut house = api.house().await;
    let lines = house["levels"][0]["lines"].as_str().unwrap().lines();
    house["levels"][0]["lines"] =
        lines.filter(|line| !line.starts_with("Pottery")).collect::<Vec<_>>().join("\n").into();
    let (status, problem) = api.send(Method::PUT, &api.at("/house"), house).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(problem["detail"].as_str().unwrap().contains("1 test run(s) would be lost"));
}

#[actix_web::test]
async fn a_device_is_placed_as_its_kit_usually_is_and_a_setup_is_copied() {
    let api = api().await;
    let (_, view) = api.send(Method::POST, &api.at("/setups"), json!({ "name": "bare", "copy_of": null })).await;
    let setup = view["home"]["setups"][3].clone();
    assert_eq!(setup["letter"], "D");
    let place =
        json!({ "level_id": view["home"]["house"]["levels"][0]["id"], "x_m": 1.0, "y_m": 1.0, "height_m": 1.0 });
    let path = api.at(&format!("/setups/{}/devices", setup["id"].as_str().unwrap()));
    let (status, problem) = api.send(Method::POST, &path, json!({ "kit": "repeater_ac", "at": place })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().unwrap().contains("place a router first"));
    api.send(Method::POST, &path, json!({ "kit": "router_ax", "at": place })).await;
    let (status, view) = api.send(Method::POST, &path, json!({ "kit": "node_ax_tri", "at": place })).await;
    assert_eq!(status, StatusCode::CREATED);
    let devices = view["home"]["setups"][3]["devices"].clone();
    assert_eq!((devices[0]["name"].as_str(), devices[1]["mode"].as_str()), (Some("Router"), Some("mesh_node")));
    assert_eq!(devices[1]["uplink"], json!({ "to": devices[0]["id"], "via": { "kind": "radio", "radio": 2 } }));
    let take_off = |device: &Value| format!("{path}/{}", device["id"].as_str().unwrap());
    let (status, problem) = api.send(Method::DELETE, &take_off(&devices[0]), json!({})).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().unwrap().contains("take those off first"));
    let copy = json!({ "name": "again", "copy_of": setup["id"] });
    let (_, view) = api.send(Method::POST, &api.at("/setups"), copy).await;
    let copies = view["home"]["setups"][4]["devices"].clone();
    assert_ne!(copies[1]["id"], devices[1]["id"]);
    assert_eq!(copies[1]["uplink"]["to"], copies[0]["id"], "hangs on the copy, not on the original");
    let (status, view) = api.send(Method::DELETE, &take_off(&devices[1]), json!({})).await;
    assert_eq!((status, view["home"]["setups"][3]["devices"].as_array().unwrap().len()), (StatusCode::OK, 1));
    let (status, _) = api.send(Method::DELETE, &take_off(&devices[1]), json!({})).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn an_illegal_channel_is_refused_with_its_place() {
    let api = api().await;
    let mut setup = api.view().await["home"]["setups"][0].clone();
    setup["devices"][0]["radios"][1]["channel"] = 200.into();
    let path = api.at(&format!("/setups/{}", SetupId::named("A")));
    let (status, problem) = api.send(Method::PUT, &path, setup).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["faults"][0]["pointer"], "/setups/0/devices/0/radios/1/channel");
}

#[actix_web::test]
async fn the_map_is_lit_and_follows_a_dragged_device_without_saving_it() {
    let api = api().await;
    let view = api.view().await;
    let path = api.at(&format!("/setups/{}/light", SetupId::named("B")));
    let level = view["home"]["house"]["levels"][0]["id"].clone();
    let ask_for = |moved: Value| json!({ "ask": ask(), "level_id": level, "cell_m": 0.5, "moved": moved });
    let (status, still) = api.send(Method::POST, &path, ask_for(Value::Null)).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(still["ledger"].as_array().unwrap().len(), 12);
    assert!(!still["map"]["bands"].as_array().unwrap().is_empty());
    let device = &view["home"]["setups"][1]["devices"][1];
    let mut at = device["at"].clone();
    at["y_m"] = 8.0.into();
    let (_, moved) = api.send(Method::POST, &path, ask_for(json!({ "device": device["id"], "at": at }))).await;
    assert_ne!(moved["hops"][0]["down_mbps"], still["hops"][0]["down_mbps"]);
    let (_, grid) = api.send(Method::POST, &path.replace("/light", "/grid"), ask_for(Value::Null)).await;
    let places = grid.as_array().unwrap();
    assert!(places.len() > 300, "{} places", places.len());
    assert!(
        places.iter().any(|place| place["limiting"] == "air") && places.iter().any(|place| place["limiting"] == "plan")
    );
    assert_eq!(api.view().await, view);
}

#[actix_web::test]
async fn runs_carry_the_plan_of_their_day_are_judged_and_can_be_left_out() {
    let api = api().await;
    let round = api.round().await;
    let mut early = run("Study", 60.0);
    early["at"] = "2024-05-01T12:00:00Z".into();
    let (status, runs) = api.runs(&round, json!([early, run("Study", 90.0), run("Study", 20.0)])).await;
    assert_eq!(status, StatusCode::CREATED);
    let plans = api.view().await["home"]["brief"]["plans"].clone();
    assert_eq!((&runs[0]["plan_id"], &runs[1]["plan_id"]), (&plans[0]["id"], &plans[1]["id"]));
    let path = format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap());
    let study = |view: &Value| {
        let rows = view["spots"].as_array().unwrap().clone();
        rows.into_iter().find(|row| row["name"] == "Study").unwrap()
    };
    let row = study(&api.get(&path).await);
    assert_eq!(
        (row["summary"]["down_mbps"]["median"].as_f64(), row["verdict"].as_str()),
        (Some(60.0), Some("just_met"))
    );
    let low = format!("/api/runs/{}/void", runs[2]["id"].as_str().unwrap());
    let (status, _) = api.send(Method::POST, &low, json!({ "reason": "a call came in" })).await;
    assert_eq!(status, StatusCode::OK);
    let row = study(&api.get(&path).await);
    assert_eq!((row["summary"]["runs"].as_i64(), row["verdict"].as_str()), (Some(2), Some("met")));
    let (status, _) = api.send(Method::POST, &low, json!({ "reason": " " })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let (_, kind, text) = api.raw(Method::GET, &api.at("/readings.csv"), None).await;
    assert!(kind.starts_with("text/csv"));
    assert_eq!(text.lines().count(), 4, "a heading and three runs:\n{text}");
}

#[actix_web::test]
async fn of_runs_sent_together_all_are_kept_or_none() {
    let api = api().await;
    let round = api.round().await;
    let (status, problem) = api.runs(&round, json!([run("Study", 60.0), run("Study", -1.0)])).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["faults"][0]["pointer"], "/runs/1/outcome/down_mbps");
    let (_, _, text) = api.raw(Method::GET, &api.at("/readings.csv"), None).await;
    assert_eq!(text.lines().count(), 1);
}

#[actix_web::test]
async fn setups_stand_side_by_side_with_a_warning_when_not_alike() {
    let api = api().await;
    let (a, b) = (SetupId::named("A"), SetupId::named("B"));
    let round = api.round().await;
    api.runs(&round, json!([run("Study", 60.0), run("Study", 62.0), run("Study", 58.0)])).await;
    let other = json!({
        "setup_id": b, "client": "laptop_ax", "band": null, "kind": "internet",
        "doors": "as_left", "situation": "alone", "runs_per_spot": 5, "spots": []
    });
    let (_, round) = api.send(Method::POST, &api.at("/rounds"), other).await;
    api.runs(&round, json!([run("Study", 90.0), run("Study", 90.0), run("Study", 90.0)])).await;
    let path = format!("/compare?reference={a}&other={b}&kind=internet&client=phone_ax&situation=alone");
    let view = api.get(&api.at(&path)).await;
    let rooms = view["rooms"].as_array().unwrap();
    let study = rooms.iter().find(|room| room["name"] == "Study").unwrap();
    assert!((study["measured_change_percent"].as_f64().unwrap() - 50.0).abs() < 1e-9);
    assert!(view["warnings"][0].as_str().unwrap().contains("the test device was phone"));
    assert_eq!(view["reference_score"]["measured"], 1);
}

#[actix_web::test]
async fn a_lost_walker_is_told_and_a_deleted_round_is_gone() {
    let api = api().await;
    let round = api.round().await;
    let path = format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap());
    let (status, _) = api.send(Method::POST, &format!("{path}/walk"), json!({ "seed": 7 })).await;
    assert_eq!(status, StatusCode::ACCEPTED);
    let told = loop {
        let view = api.get(&path).await;
        if view["walking"] == false {
            break view["walk_error"].clone();
        }
        actix_web::rt::task::yield_now().await;
    };
    assert_eq!(told, "lost with seed 7");
    let (status, _, _) = api.raw(Method::DELETE, &format!("{path}/walk"), None).await;
    assert_eq!(status, StatusCode::NO_CONTENT);
    api.raw(Method::DELETE, &path, None).await;
    let (status, _, _) = api.raw(Method::GET, &path, None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn every_operation_has_a_name_of_its_own_and_says_how_it_fails() {
    let description = serde_json::to_value(busy_hen_server::openapi()).unwrap();
    let mut names = Vec::new();
    for (path, operations) in description["paths"].as_object().unwrap() {
        for (method, operation) in operations.as_object().unwrap() {
            names.push(operation["operationId"].as_str().unwrap().to_owned());
            let answers = operation["responses"].as_object().unwrap();
            let may_fail = path.contains('{') || method == "post";
            assert!(!may_fail || answers.keys().any(|status| status.starts_with('4')), "{method} {path}");
        }
    }
    let count = names.len();
    names.sort();
    names.dedup();
    assert_eq!(names.len(), count);
    assert!(count >= 24, "{count}");
}

#[actix_web::test]
async fn a_home_goes_out_as_a_file_and_comes_in_as_a_new_home_with_its_runs() {
    let api = api().await;
    let round = api.round().await;
    let spot = round["round"]["spots"][0].as_str().unwrap().to_owned();
    let mut sent = run("Hall", 80.0);
    sent["spot_id"] = spot.into();
    sent["trace_mbps"] = json!([70.0, 80.0]);
    assert_eq!(api.runs(&round, json!([sent])).await.0, StatusCode::CREATED);
    let (status, kind, text) = api.raw(Method::GET, &api.at("/file"), None).await;
    assert_eq!((status, kind.as_str()), (StatusCode::OK, "application/json"));
    let (status, _, view) = api.raw(Method::POST, "/api/home-files", Some(text.clone())).await;
    assert_eq!(status, StatusCode::CREATED, "{view}");
    let view: Value = serde_json::from_str(&view).unwrap();
    assert_ne!(view["id"], json!(api.home));
    let again = api.get(&format!("/api/homes/{}/file", view["id"].as_str().unwrap())).await;
    let first: Value = serde_json::from_str(&text).unwrap();
    assert_eq!(again["home"], first["home"]);
    let (sent, came) = (&first["rounds"][0]["runs"][0], &again["rounds"][0]["runs"][0]);
    assert_eq!((&came["outcome"], &came["trace_mbps"]), (&sent["outcome"], &sent["trace_mbps"]));
    assert_ne!(came["id"], sent["id"], "the file can come in twice");
}

#[actix_web::test]
async fn a_file_that_is_none_leaves_nothing_behind() {
    let api = api().await;
    let (_, _, text) = api.raw(Method::GET, &api.at("/file"), None).await;
    let mut wrong: Value = serde_json::from_str(&text).unwrap();
    wrong["home"]["setups"][0]["devices"][0]["radios"][0]["channel"] = 15.into();
    for (body, pointer) in [
        ("shopping list".to_owned(), ""),
        (text[..text.len() / 2].to_owned(), ""),
        (wrong.to_string(), "/home/setups/0/devices/0/radios/0/channel"),
    ] {
        let (status, kind, told) = api.raw(Method::POST, "/api/home-files", Some(body)).await;
        assert_eq!((status, kind.as_str()), (StatusCode::UNPROCESSABLE_ENTITY, "application/problem+json"), "{told}");
        let told: Value = serde_json::from_str(&told).unwrap();
        assert!(told["faults"][0]["pointer"].as_str().unwrap().starts_with(pointer), "{told}");
    }
    assert_eq!(api.get("/api/homes").await.as_array().unwrap().len(), 1);
}

#[actix_web::test]
async fn neighbours_take_their_share_and_impossible_ones_are_refused() {
    let api = api().await;
    let heard = |channel: u16, busy: f64| {
        json!({ "air": [{ "id": SetupId::named("n"), "band": "5", "channel": channel, "width_mhz": 80, "signal_dbm": -55.0,
                          "busy_part": busy }] })
    };
    let (status, view) = api.send(Method::PUT, &api.at("/air"), heard(36, 0.5)).await;
    assert_eq!((status, view["home"]["air"].as_array().unwrap().len()), (StatusCode::OK, 1));
    let (status, told) = api.send(Method::PUT, &api.at("/air"), heard(35, 0.5)).await;
    assert_eq!(
        (status, told["faults"][0]["pointer"].as_str()),
        (StatusCode::UNPROCESSABLE_ENTITY, Some("/air/0/channel"))
    );
    let (status, _) = api.send(Method::PUT, &api.at("/air"), heard(36, 1.5)).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(api.view().await["home"]["air"][0]["busy_part"], 0.5);
    let (status, undone) = api.send(Method::POST, &api.at("/undo"), json!({})).await;
    assert_eq!((status, undone["home"]["air"].as_array().unwrap().len()), (StatusCode::OK, 3));
}
