//! The HTTP interface in process: every endpoint's good path, and what bad input gets.

use crate::rig::{With, api};
use actix_web::http::{Method, StatusCode};
use actix_web::test;
use busy_hen_demo::canal_terrace;
use busy_hen_home::{HomeId, RunId, SetupId, SpotId};
use serde_json::{Value, json};
use sqlx::{Connection, SqliteConnection};

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
    let based = |base| With { base: Some(base), ..With::default() };
    let (status, changed) = api.send_with(Method::PUT, &format!("{path}/brief"), edit.clone(), based("\"1\"")).await;
    assert_eq!((status, changed["revision"].as_i64()), (StatusCode::OK, Some(2)));
    let mut other = edit.clone();
    other["brief"]["complaint"] = "fast".into();
    let (status, late) = api.send_with(Method::PUT, &format!("{path}/brief"), other.clone(), based("\"1\"")).await;
    assert_eq!((status, late["code"].as_str()), (StatusCode::CONFLICT, Some("both_changed")));
    assert_eq!((&late["both"][0]["mine"], &late["both"][0]["theirs"]), (&json!("fast"), &json!("slow")));
    let (status, none) = api.send_with(Method::PUT, &format!("{path}/brief"), other.clone(), With::default()).await;
    assert_eq!((status.as_u16(), none["code"].as_str()), (428, Some("no_base")));
    let (status, future) = api.send_with(Method::PUT, &format!("{path}/brief"), other, based("\"99\"")).await;
    assert_eq!((status, future["code"].as_str()), (StatusCode::PRECONDITION_FAILED, Some("stale")));
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
        (Method::POST, api.at("/undo"), Some(json!({"to": "x"}).to_string()), 400, "bad_body"),
        (Method::PUT, api.at("/house"), Some(json!({"levels": 3}).to_string()), 400, "bad_body"),
        (Method::POST, api.at("/undo"), Some("{}".into()), 409, "conflict"),
        (Method::POST, api.at("/undo"), None, 415, "media_type"),
        (Method::PUT, "/api/homes".into(), None, 405, "method"),
        (Method::DELETE, api.at("/brief"), None, 405, "method"),
        (Method::GET, "/api/nowhere".into(), None, 404, "not_found"),
        (Method::GET, "/assets/nothing.js".into(), None, 404, "not_found"),
        (Method::GET, "/api/jobs/no-id".into(), None, 404, "not_found"),
        (Method::POST, api.at("/setups"), Some(json!({"name":""}).to_string()), 422, "faults"),
        (Method::DELETE, api.at(&format!("/setups/{}", SetupId::named("none"))), None, 404, "not_found"),
        (Method::POST, api.at(&format!("/setups/{setup}/grid")), Some(json!({"ask":ask(),"level_id":nothing,"cell_m":0.5,"moved":null}).to_string()), 404, "not_found"),
        (Method::POST, api.at(&format!("/setups/{setup}/coverage")), Some(json!({"ask":ask(),"layer":{"kind":"difference","setup_id":nothing},"moved":null}).to_string()), 404, "not_found"),
        (Method::POST, api.at(&format!("/setups/{setup}/grid")), Some(json!({"ask":ask(),"level_id":nothing,"cell_m":0.0,"moved":null}).to_string()), 422, "faults"),
        (Method::POST, api.at(&format!("/setups/{setup}/chain")), Some(json!({"ask":ask()}).to_string()), 422, "faults"),
        (Method::POST, api.at("/rounds"), Some(json!({"setup_id":nothing,"client":"phone_ax","kind":"local","doors":"open","situation":"alone","runs_per_spot":5}).to_string()), 422, "faults"),
    ];
    for (method, path, body, status, code) in cases {
        api.refused(method, &path, body, status, code).await;
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
async fn a_room_with_runs_stays_when_it_is_typed_away_and_goes_only_after_them() {
    let api = api().await;
    let round = api.round().await;
    let (status, _) = api.runs(&round, json!([run("Pottery", 5.0)])).await;
    assert_eq!(status, StatusCode::CREATED);
    let mut house = api.house().await;
    let lines = house["levels"][0]["lines"].as_str().unwrap().lines();
    house["levels"][0]["lines"] =
        lines.filter(|line| !line.starts_with("Pottery")).collect::<Vec<_>>().join("\n").into();
    let (status, view) = api.send(Method::PUT, &api.at("/house"), house).await;
    assert_eq!(status, StatusCode::OK);
    let rooms = view["home"]["house"]["rooms"].as_array().unwrap();
    let pottery = rooms.iter().find(|room| room["name"] == "Pottery").expect("it is kept").clone();
    let lacks = view["drawing"]["lacks"].as_array().unwrap();
    assert!(lacks.iter().any(|lack| lack["told"].as_str().unwrap().starts_with("Pottery has no line any more")));
    let mut house = api.house().await;
    house["let_go"] = json!([pottery["id"]]);
    let (status, problem) = api.send(Method::PUT, &api.at("/house"), house).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert_eq!(problem["code"], "holds_readings");
    assert!(problem["detail"].as_str().unwrap().contains("Pottery is part of 1 round of tests with 1 run"));
}

#[actix_web::test]
async fn where_nobody_says_the_first_stands_at_the_line_and_each_as_high_as_it_is_mounted() {
    let api = api().await;
    let (_, view) = api.send(Method::POST, &api.at("/setups"), json!({ "name": "bare", "copy_of": null })).await;
    let setup = view["home"]["setups"][3].clone();
    let path = api.at(&format!("/setups/{}/devices", setup["id"].as_str().unwrap()));
    let (_, view) = api.send(Method::POST, &path, json!({ "kit": "router_ax" })).await;
    let entry = view["drawing"]["sockets"].as_array().unwrap().iter().find(|own| own["kind"] == "line_entry").cloned();
    let router = view["home"]["setups"][3]["devices"][0]["at"].clone();
    let far = |of: &Value, name: &str| of[name].as_f64().unwrap() - router[name].as_f64().unwrap();
    let entry = entry.expect("the line's entry is drawn");
    assert!(far(&entry, "x_m").hypot(far(&entry, "y_m")) < 0.5, "{entry} and {router}");
    let room = view["home"]["house"]["rooms"].as_array().unwrap().iter().find(|own| own["name"] == "Kitchen").unwrap();
    let (_, view) = api.send(Method::POST, &path, json!({ "kit": "ap_ax", "room_id": room["id"] })).await;
    let mut setup = view["home"]["setups"][3].clone();
    let level = view["home"]["house"]["levels"].as_array().unwrap().iter();
    let storey = level.clone().find(|own| own["id"] == setup["devices"][1]["at"]["level_id"]).unwrap();
    let storey = storey["height_m"].as_f64().unwrap();
    assert!((setup["devices"][1]["at"]["height_m"].as_f64().unwrap() - (storey - 0.1)).abs() < 1e-9);
    setup["devices"][1]["at"]["height_m"] = json!(storey + 1.0);
    let put = api.at(&format!("/setups/{}", setup["id"].as_str().unwrap()));
    let (status, problem) = api.send(Method::PUT, &put, setup).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(problem["faults"][0]["pointer"], "/devices/1/at/height_m", "{problem}");
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
    // Beside a router of another family, which it most likely won't pair with, a node is put up as an access point.
    api.send(Method::POST, &path, json!({ "kit": "router_ax", "at": place })).await;
    let (status, view) = api.send(Method::POST, &path, json!({ "kit": "node_ax_tri", "at": place })).await;
    assert_eq!(status, StatusCode::CREATED);
    let node = &view["home"]["setups"][3]["devices"][1];
    assert_eq!((&node["mode"], &node["uplink"]["via"]["kind"]), (&json!("access_point"), &json!("cable")));
    for _ in 0..2 {
        api.send(Method::POST, &api.at("/undo"), json!({})).await;
    }
    api.send(Method::POST, &path, json!({ "kit": "node_ax_tri", "at": place })).await;
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
    let path = api.at(&format!("/setups/{}/coverage", SetupId::named("B")));
    let level = view["home"]["house"]["levels"][0]["id"].clone();
    let ask_for = |moved: Value| json!({ "ask": ask(), "moved": moved });
    let (status, still) = api.send(Method::POST, &path, ask_for(Value::Null)).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(still["ledger"].as_array().unwrap().len(), 12);
    assert_eq!(still["levels"].as_array().unwrap().len(), 3, "all levels at once");
    assert!(still["levels"].as_array().unwrap().iter().all(|level| !level["shaded"].as_array().unwrap().is_empty()));
    let device = &view["home"]["setups"][1]["devices"][1];
    let mut at = device["at"].clone();
    at["y_m"] = 8.0.into();
    let (_, moved) = api.send(Method::POST, &path, ask_for(json!({ "device": device["id"], "at": at }))).await;
    assert_ne!(moved["hops"][0]["down_mbps"], still["hops"][0]["down_mbps"]);
    let fine = json!({ "ask": ask(), "level_id": level, "cell_m": 0.5, "moved": null });
    let (status, job) = api.send(Method::POST, &path.replace("/coverage", "/grid"), fine).await;
    assert_eq!(status, StatusCode::ACCEPTED);
    let grid = api.result(&job).await;
    let places = grid.as_array().unwrap();
    assert!(places.len() > 300, "{} places", places.len());
    let limits = |kind: &str| places.iter().filter(|place| place["limiting"] == kind).count();
    let on_air = ["air", "neighbours", "sharing"].into_iter().map(limits).sum::<usize>();
    assert!(on_air > 0 && limits("plan") > 0, "{on_air} on the air, {} by the plan", limits("plan"));
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
    let view = api.compared(&[a, b]).await;
    let study = view["rows"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap();
    assert!((study["cells"][1]["against"]["ratio"].as_f64().unwrap() - 1.5).abs() < 1e-9);
    assert_eq!(study["cells"][1]["against"]["call"], json!({ "kind": "cant_tell", "more": 1 }));
    assert!(view["unlike"].to_string().contains("the test device was phone"));
    assert_eq!(view["columns"][0]["score"]["measured"], 1);
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

fn problem_code(answer: &(StatusCode, Value)) -> (u16, &str) {
    (answer.0.as_u16(), answer.1["code"].as_str().unwrap_or_default())
}

#[actix_web::test]
async fn what_two_people_change_in_one_home_is_brought_together_and_undone_by_each() {
    let api = api().await;
    let anna = With { base: Some("\"1\""), editor: Some("anna"), ..With::default() };
    let ben = With { editor: Some("ben"), ..anna.clone() };
    let mut setup = api.view().await["home"]["setups"][1].clone();
    setup["devices"][1]["at"]["x_m"] = 2.5.into();
    let path = api.at(&format!("/setups/{}", SetupId::named("B")));
    let (status, moved) = api.send_with(Method::PUT, &path, setup, anna.clone()).await;
    assert_eq!((status, moved["undo"][0]["what"].as_str()), (StatusCode::OK, Some("move Landing node")));
    let air = json!({ "air": [] });
    let (status, both) = api.send_with(Method::PUT, &api.at("/air"), air, ben.clone()).await;
    assert_eq!(status, StatusCode::OK, "{both}");
    assert_eq!(
        (&both["home"]["setups"][1]["devices"][1]["at"]["x_m"], &both["home"]["air"]),
        (&json!(2.5), &json!([]))
    );
    assert_eq!(
        (both["undo"].as_array().unwrap().len(), both["undo"][0]["what"].as_str()),
        (1, Some("edit of the neighbours"))
    );
    let (status, back) = api.send_with(Method::POST, &api.at("/undo"), json!({}), anna).await;
    assert_eq!((status, &back["home"]["air"]), (StatusCode::OK, &json!([])), "the other's edit stays");
    assert_ne!(back["home"]["setups"][1]["devices"][1]["at"]["x_m"], 2.5);
    assert_eq!(back["redo"]["what"], "move Landing node");
    let third = With { editor: Some("third"), ..With::default() };
    assert_eq!(problem_code(&api.send_with(Method::POST, &api.at("/undo"), json!({}), third).await), (409, "conflict"));
}

#[actix_web::test]
async fn a_round_is_told_from_what_it_was_taken_in_and_says_what_changed_since() {
    let api = api().await;
    let b = SetupId::named("B");
    let new = json!({ "setup_id": b, "client": "phone_ax", "band": null, "kind": "internet", "doors": "as_left",
                      "situation": "alone", "runs_per_spot": 5, "spots": [] });
    let (_, round) = api.send(Method::POST, &api.at("/rounds"), new).await;
    let id = round["round"]["id"].as_str().unwrap().to_owned();
    let node = round["tested"]["home"]["setups"][0]["devices"][1]["id"].clone();
    let mut served = run("Study", 120.0);
    served["serving"] = node.clone();
    assert_eq!(api.runs(&round, json!([served])).await.0, StatusCode::CREATED);
    let row =
        |view: &Value| view["spots"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap().clone();
    let before = api.get(&format!("/api/rounds/{id}")).await;
    assert_eq!((row(&before)["differs"].as_bool(), before["changed_since"].clone()), (Some(false), json!([])));
    assert!(row(&before)["forecast"]["down"]["middle"].as_f64().unwrap() > 0.0);
    // The node moves, then goes, and so do the needs; the round still says what it said.
    let mut setup = api.view().await["home"]["setups"][1].clone();
    let east = setup["devices"][1]["at"]["x_m"].as_f64().unwrap();
    setup["devices"][1]["at"]["x_m"] = json!(east + 2.1);
    api.send(Method::PUT, &api.at(&format!("/setups/{b}")), setup).await;
    let view = api.view().await;
    assert_eq!(view["tested"][0]["changed_since"], json!(["Landing node moved 2.1 m"]));
    let mut brief = view["home"]["brief"].clone();
    brief["uses"] = json!([]);
    let edit = json!({ "name": "x", "region": "GB", "units": "m", "brief": brief });
    api.send(Method::PUT, &api.at("/brief"), edit).await;
    let take_off = api.at(&format!("/setups/{b}/devices/{}", node.as_str().unwrap()));
    assert_eq!(api.raw(Method::DELETE, &take_off, None).await.0, StatusCode::OK);
    let after = api.get(&format!("/api/rounds/{id}")).await;
    assert_eq!(row(&after), row(&before));
    assert_eq!(after["changed_since"], json!(["Landing node was taken off"]));
    let (_, _, csv) = api.raw(Method::GET, &api.at("/readings.csv"), None).await;
    assert!(csv.contains("Landing node"), "{csv}");
    let told = api.compared(&[SetupId::named("A"), b]).await["unlike"].to_string();
    assert!(told.contains("tested before Landing node was taken off"), "{told}");
    // Going on in a copy puts the tested one back.
    let (status, view) =
        api.send(Method::POST, &api.at(&format!("/setups/{b}/go-on-in-a-copy")), json!({ "name": "without" })).await;
    assert_eq!(status, StatusCode::CREATED);
    let setups = view["home"]["setups"].as_array().unwrap();
    let devices = |setup: &Value| setup["devices"].as_array().unwrap().len();
    assert_eq!((devices(&setups[1]), devices(&setups[3]), setups[3]["letter"].as_str()), (2, 1, Some("D")));
    assert_eq!(view["tested"][0]["changed_since"], json!([]));
}

#[actix_web::test]
async fn whatever_was_taken_off_or_deleted_since_a_file_comes_in_again() {
    let api = api().await;
    let round = api.round().await;
    let device = round["tested"]["home"]["setups"][0]["devices"][0]["id"].clone();
    let mut served = run("Pottery", 5.0);
    served["serving"] = device;
    api.runs(&round, json!([served])).await;
    let a = SetupId::named("A");
    let mut setup = api.view().await["home"]["setups"][0].clone();
    setup["devices"] = json!([]);
    assert_eq!(api.send(Method::PUT, &api.at(&format!("/setups/{a}")), setup).await.0, StatusCode::OK);
    // A round that was deleted while its room went, and came back without it.
    let path = format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap());
    assert_eq!(api.raw(Method::DELETE, &path, None).await.0, StatusCode::NO_CONTENT);
    let deleted = api.view().await["undo"][0]["number"].clone();
    let mut house = api.house().await;
    let lines = house["levels"][0]["lines"].as_str().unwrap().to_owned();
    house["levels"][0]["lines"] =
        lines.lines().filter(|line| !line.starts_with("Pottery")).collect::<Vec<_>>().join("\n").into();
    let rooms = api.view().await["home"]["house"]["rooms"].clone();
    let pottery = rooms.as_array().unwrap().iter().find(|room| room["name"] == "Pottery").unwrap()["id"].clone();
    house["let_go"] = json!([pottery]);
    let keeps_only = With { base: Some(&api.revision(api.home).await), editor: Some("other"), ..With::default() };
    let (status, told) = api.send_with(Method::PUT, &api.at("/house"), house, keeps_only).await;
    assert_eq!(status, StatusCode::OK, "{told}");
    let (status, _) = api.send(Method::POST, &api.at("/undo"), json!({ "to": deleted })).await;
    assert_eq!(status, StatusCode::OK);
    let view = api.get(&path).await;
    let pottery = view["spots"].as_array().unwrap().iter().find(|row| row["name"] == "Pottery").unwrap().clone();
    assert_eq!((pottery["there"].as_bool(), pottery["run_count"].as_i64()), (Some(false), Some(1)));
    let (_, _, file) = api.raw(Method::GET, &api.at("/file"), None).await;
    let (status, _, told) = api.raw(Method::POST, "/api/home-files", Some(file)).await;
    assert_eq!(status, StatusCode::CREATED, "{told}");
}

#[actix_web::test]
async fn a_run_with_a_known_id_and_other_figures_is_a_conflict_and_a_spot_that_is_not_in_the_round_is_refused() {
    let api = api().await;
    let round = api.round().await;
    let mut one = run("Study", 60.0);
    one["id"] = json!(RunId::named("one"));
    let (status, kept) = api.runs(&round, json!([one])).await;
    assert_eq!((status, kept[0]["outcome"]["down_mbps"].as_f64()), (StatusCode::CREATED, Some(60.0)));
    assert_eq!(api.runs(&round, json!([one])).await, (StatusCode::CREATED, kept));
    one["outcome"]["down_mbps"] = 61.0.into();
    assert_eq!(problem_code(&api.runs(&round, json!([one])).await), (409, "conflict"));
    let nowhere = json!([run("Nowhere", 1.0)]);
    assert_eq!(problem_code(&api.runs(&round, nowhere).await), (422, "faults"));
    for (field, value) in [
        ("width_mhz", json!(-1)),
        ("width_mhz", json!(1e308)),
        ("at", json!("1970-01-01T00:00:00Z")),
        ("channel", json!(5000)),
    ] {
        let mut odd = run("Study", 60.0);
        odd[field] = value;
        assert_eq!(problem_code(&api.runs(&round, json!([odd])).await), (422, "faults"), "{field}");
    }
}

#[actix_web::test]
async fn more_than_plan_and_ports_let_through_is_asked_about() {
    let api = api().await;
    let round = api.round().await;
    let path = format!("/api/rounds/{}/runs", round["round"]["id"].as_str().unwrap());
    let fast = json!({ "runs": [run("Study", 933.0)] });
    let told = api.send(Method::POST, &path, fast.clone()).await;
    assert_eq!(problem_code(&told), (409, "over_ceiling"));
    assert!(
        told.1["detail"].as_str().unwrap().starts_with("933 Mb/s is more than the plan on record gives, 300 Mb/s."),
        "{told:?}"
    );
    let mut slipped = run("Study", 933.0);
    slipped["carried_by"] = "mobile_data".into();
    assert_eq!(api.send(Method::POST, &path, json!({ "runs": [slipped] })).await.0, StatusCode::CREATED);
    assert_eq!(
        api.send(Method::POST, &path, json!({ "runs": [run("Study", 320.0)] })).await.0,
        StatusCode::CREATED,
        "a little over is usual"
    );
    let confirmed = json!({ "runs": [run("Study", 933.0)], "over_ceiling_confirmed": true });
    assert_eq!(api.send(Method::POST, &path, confirmed).await.0, StatusCode::CREATED);
}

#[actix_web::test]
async fn a_typed_run_is_corrected_and_keeps_what_it_said_and_a_walkers_is_not() {
    let api = api().await;
    let round = api.round().await;
    let (_, kept) = api.runs(&round, json!([run("Study", 60.0)])).await;
    let path = format!("/api/runs/{}", kept[0]["id"].as_str().unwrap());
    let mut outcome = kept[0]["outcome"].clone();
    outcome["down_mbps"] = 66.0.into();
    let (status, corrected) = api.send(Method::PUT, &path, json!({ "outcome": outcome })).await;
    assert_eq!(status, StatusCode::OK, "{corrected}");
    assert_eq!(
        (&corrected["outcome"]["down_mbps"], &corrected["corrected"][0]["was"]["down_mbps"]),
        (&json!(66.0), &json!(60.0))
    );
    let (_, _, _) = api.raw(Method::POST, &api.at("/undo"), Some("{}".into())).await;
    let page = api.get(&format!("/api/rounds/{}/runs?most=10", round["round"]["id"].as_str().unwrap())).await;
    assert_eq!((&page[0]["outcome"]["down_mbps"], page[0].get("corrected")), (&json!(60.0), None));
    let mut walked = run("Hall", 60.0);
    walked["source"] = "walker".into();
    let (_, kept) = api.runs(&round, json!([walked])).await;
    let path = format!("/api/runs/{}", kept[0]["id"].as_str().unwrap());
    assert_eq!(
        problem_code(&api.send(Method::PUT, &path, json!({ "outcome": { "kind": "no_connection" } })).await),
        (409, "conflict")
    );
}

#[actix_web::test]
async fn a_run_without_idle_delay_is_judged_by_its_speeds() {
    let api = api().await;
    let round = api.round().await;
    let mut bare = run("Study", 90.0);
    bare["outcome"]["idle_ms"] = Value::Null;
    api.runs(&round, json!([bare])).await;
    let view = api.get(&format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap())).await;
    let row = view["spots"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap().clone();
    assert_eq!((row["verdict"].as_str(), row["summary"]["idle_ms"].clone()), (Some("met"), Value::Null));
}

#[actix_web::test]
async fn readings_that_were_made_up_are_told_and_count_for_nobody() {
    let api = api().await;
    for (setup, source, down) in [("A", "typed", 60.0), ("B", "walker", 90.0)] {
        let new = json!({ "setup_id": SetupId::named(setup), "client": "phone_ax", "band": null, "kind": "internet", "doors": "as_left",
                          "situation": "alone", "runs_per_spot": 3, "spots": [] });
        let (_, round) = api.send(Method::POST, &api.at("/rounds"), new).await;
        let mut one = run("Study", down);
        one["source"] = source.into();
        assert_eq!(api.runs(&round, json!([one.clone(), one.clone(), one])).await.0, StatusCode::CREATED);
        let view = api.get(&format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap())).await;
        assert_eq!(view["made_up"].as_bool(), Some(source == "walker"));
    }
    let view = api.compared(&[SetupId::named("A"), SetupId::named("B")]).await;
    let study = view["rows"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap().clone();
    assert_eq!((&study["cells"][1]["against"], &view["columns"][1]["made_up"]), (&Value::Null, &json!(true)));
    let measured = |column: usize| view["columns"][column]["score"]["measured"].as_i64();
    assert_eq!((measured(0), measured(1)), (Some(1), Some(0)));
    assert!(view["unlike"].to_string().contains("not set against each other"));
}

#[actix_web::test]
async fn a_setup_with_readings_goes_only_with_leave_and_comes_back_with_them() {
    let api = api().await;
    let round = api.round().await;
    api.runs(&round, json!([run("Study", 60.0)])).await;
    let path = api.at(&format!("/setups/{}", SetupId::named("A")));
    let (status, _, told) = api.raw(Method::DELETE, &path, None).await;
    assert_eq!(status, StatusCode::CONFLICT);
    assert!(told.contains("holds_readings") && told.contains("Setup A holds 1 round with 1 run"), "{told}");
    let (status, _, _) = api.raw(Method::DELETE, &format!("{path}?with_readings=true"), None).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(api.view().await["rounds"], json!([]));
    let (_, back) = api.send(Method::POST, &api.at("/undo"), json!({})).await;
    assert_eq!((back["rounds"][0]["runs"].as_i64(), back["home"]["setups"].as_array().unwrap().len()), (Some(1), 3));
}

#[actix_web::test]
async fn a_page_of_another_site_and_a_name_that_is_not_ours_are_refused_on_reads_too() {
    let api = api().await;
    let get = |with| api.ask(Method::GET, "/api/homes", None, with);
    let (status, _, _) = get(With { origin: Some("http://127.0.0.1:8080"), ..With::default() }).await;
    assert_eq!(status, StatusCode::OK);
    for with in [
        With { origin: Some("http://evil.example"), ..With::default() },
        With { host: Some("evil.example:8080"), ..With::default() },
        With { host: Some("evil.example:8080"), origin: Some("http://evil.example:8080"), ..With::default() },
        With { host: Some("192.168.1.9:8080"), ..With::default() },
    ] {
        let (status, kind, _) = get(with).await;
        assert_eq!((status, kind.as_str()), (StatusCode::FORBIDDEN, "application/problem+json"));
    }
}

#[actix_web::test]
async fn whole_numbers_may_be_written_with_a_fraction_of_zero_and_other_kinds_of_body_are_refused() {
    let api = api().await;
    let new = r#"{ "setup_id": "SETUP", "client": "phone_ax", "band": null, "kind": "internet", "doors": "as_left",
                   "situation": "alone", "runs_per_spot": 5.0, "spots": [] }"#;
    let new = new.replace("SETUP", &SetupId::named("A").to_string());
    let (status, _, told) = api.raw(Method::POST, &api.at("/rounds"), Some(new)).await;
    assert_eq!(status, StatusCode::CREATED, "{told}");
    let with = With { kind: Some("text/plain"), ..With::default() };
    let (status, _, _) = api.ask(Method::POST, "/api/homes", Some("{}".into()), with).await;
    assert_eq!(status, StatusCode::UNSUPPORTED_MEDIA_TYPE);
    let huge = format!("{{\"name\": \"{}\"}}", "x".repeat(5 << 20));
    let (status, _, _) = api.raw(Method::POST, "/api/homes", Some(huge)).await;
    assert_eq!(status, StatusCode::PAYLOAD_TOO_LARGE);
    let mut setup = api.view().await["home"]["setups"][1].clone();
    setup["devices"][1]["uplink"]["via"] = json!({ "kind": "radio", "radio": 18_446_744_073_709_551_615u64 });
    let (status, _) = api.send(Method::PUT, &api.at(&format!("/setups/{}", SetupId::named("B"))), setup).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn a_full_disk_is_told_and_writing_goes_on_when_there_is_space() {
    let api = api().await;
    api.store.limit(Some(1));
    let add = || api.send(Method::POST, "/api/homes", json!({ "name": "Mill", "region": "GB", "units": "m" }));
    // What is left of the last page may take a few more.
    for _ in 0..40 {
        if add().await.0 != StatusCode::CREATED {
            break;
        }
    }
    let kept = api.get("/api/homes").await.as_array().unwrap().len();
    for _ in 0..12 {
        assert_eq!(problem_code(&add().await), (507, "full"));
        assert_eq!(api.get("/api/homes").await.as_array().unwrap().len(), kept, "reading goes on");
    }
    api.store.limit(None);
    assert_eq!(add().await.0, StatusCode::CREATED);
}

#[actix_web::test]
async fn a_home_that_can_not_be_read_does_not_hide_the_others() {
    let api = api().await;
    let other = HomeId::named("other");
    api.store.create(other, &canal_terrace(), busy_hen_testkit::runs::BEGUN).await.unwrap();
    let file = api.folder.path().join("api.db");
    let mut raw = SqliteConnection::connect(&format!("sqlite://{}", file.display())).await.unwrap();
    let spoil = "UPDATE revision SET document = '{\"name\": 1}' WHERE home_id = ?";
    sqlx::query(spoil).bind(other.to_string()).execute(&mut raw).await.unwrap();
    let list = api.get("/api/homes").await;
    let of = |id: HomeId| list.as_array().unwrap().iter().find(|head| head["id"] == json!(id)).unwrap().clone();
    assert!(of(other)["problem"].as_str().unwrap().contains("can't be read"));
    assert_eq!(of(api.home)["summary"]["name"], "Canal terrace with pottery");
}

#[actix_web::test]
async fn a_long_computation_is_called_off() {
    let api = api().await;
    let level = api.view().await["home"]["house"]["levels"][0]["id"].clone();
    let path = api.at(&format!("/setups/{}/grid", SetupId::named("B")));
    let (_, job) =
        api.send(Method::POST, &path, json!({ "ask": ask(), "level_id": level, "cell_m": 0.05, "moved": null })).await;
    let at = format!("/api/jobs/{}", job["id"].as_str().unwrap());
    let (status, _, _) = api.raw(Method::GET, &format!("{at}/result"), None).await;
    assert_eq!(status, StatusCode::CONFLICT);
    api.raw(Method::DELETE, &at, None).await;
    loop {
        let state = api.get(&at).await["state"].clone();
        assert_ne!(state, "done", "0.05 m over a level takes longer than calling it off");
        if state == "called_off" {
            break;
        }
        actix_web::rt::task::yield_now().await;
    }
}

#[actix_web::test]
async fn a_name_in_any_script_names_the_exported_file() {
    let api = api().await;
    let (_, view) =
        api.send(Method::POST, "/api/homes", json!({ "name": "陶芸の家", "region": "GB", "units": "m" })).await;
    let path = format!("/api/homes/{}/file", view["id"].as_str().unwrap());
    let request = test::TestRequest::with_uri(&path).insert_header(("host", "localhost")).to_request();
    let answer = self::test::call_service(&api.service, request).await;
    let named = answer.headers().get("content-disposition").unwrap().to_str().unwrap().to_owned();
    assert!(named.contains("filename=\"home.json\"") && named.contains("filename*=UTF-8''%E9%99%B6"), "{named}");
}

#[actix_web::test]
async fn what_is_dragged_is_written_into_the_lines_and_nothing_is_saved() {
    let api = api().await;
    let before = api.view().await;
    let asked = async |change: Value| {
        let body = json!({ "house": api.house().await, "changes": [change], "snap": true });
        api.send(Method::POST, &api.at("/house/rewrite"), body).await
    };
    let wall = json!({ "what": "move_side", "room": "Pottery", "part": 0, "side": "south", "by_m": 0.52 });
    let (status, written) = asked(wall).await;
    assert_eq!(status, StatusCode::OK, "{written}");
    assert!(written["levels"][0]["lines"].as_str().unwrap().contains("Pottery 4.4 x 4.7 south of Garden"));
    let rooms = written["drawing"]["rooms"].as_array().unwrap();
    let pottery = rooms.iter().find(|room| room["name"] == "Pottery").unwrap();
    assert!((pottery["depth_m"].as_f64().unwrap() - 4.7).abs() < 1e-9);
    assert_eq!(api.view().await, before);
    for (change, told) in [
        (json!({ "what": "move_side", "room": "Pottery", "part": 0, "side": "south", "by_m": -4.1 }), "too narrow"),
        (json!({ "what": "move_room", "room": "Nowhere", "east_m": 1.0, "south_m": 0.0 }), "no line of a room"),
        (json!({ "what": "set_size", "room": "Pottery", "part": 0, "size": "4 by wide" }), "No size here"),
        (json!({ "what": "set_size", "room": "Pottery", "part": 7, "size": "4 x 4" }), "no such part"),
        (json!({ "what": "move_room", "room": "Pottery", "east_m": 1e9, "south_m": 0.0 }), "too far away"),
    ] {
        let (status, problem) = asked(change).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(problem["detail"].as_str().unwrap().contains(told), "{problem}");
    }
}

#[actix_web::test]
async fn a_house_goes_out_as_text_and_comes_in_and_a_bad_text_changes_nothing() {
    let api = api().await;
    let (status, kind, text) = api.raw(Method::GET, &api.at("/house.txt"), None).await;
    assert!(status.is_success() && kind.starts_with("text/plain"), "{kind}");
    assert!(text.lines().count() < 60, "the demo home in few lines");
    let before = api.view().await;
    let (status, same) = api.send(Method::PUT, &api.at("/house-text"), json!({ "text": text })).await;
    assert_eq!(status, StatusCode::OK, "{same}");
    assert_eq!(same["home"], before["home"], "without loss");
    let bad = text.replace("level First", "levels Frist");
    let bad = format!("{}\nlevel Ground, 2.7 high", bad);
    let (status, problem) = api.send(Method::PUT, &api.at("/house-text"), json!({ "text": bad })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["detail"].as_str().unwrap().contains("already a level called Ground"), "{problem}");
    assert_eq!(api.view().await["home"], before["home"]);
}

#[actix_web::test]
async fn a_change_of_unit_changes_no_length() {
    let api = api().await;
    let before = api.view().await;
    let home = &before["home"];
    let body = json!({ "name": home["name"], "region": home["region"], "units": "ft", "brief": home["brief"] });
    let (status, after) = api.send(Method::PUT, &api.at("/brief"), body).await;
    assert_eq!(status, StatusCode::OK);
    for part in ["rooms", "walls", "openings", "stairs", "faults"] {
        let without_places = |view: &Value| -> Vec<Value> {
            let mut list = view["drawing"][part].as_array().unwrap().clone();
            list.iter_mut().for_each(|own| drop(own.as_object_mut().unwrap().remove("said_by")));
            list
        };
        assert_eq!(without_places(&after), without_places(&before), "{part}");
    }
}

#[actix_web::test]
async fn lengths_are_read_and_drawings_go_out() {
    let api = api().await;
    let read = api.get("/api/length?typed=12%276&unit=ft").await;
    assert!((read["metres"].as_f64().unwrap() - 3.81).abs() < 1e-9);
    let (status, _, told) = api.raw(Method::GET, "/api/length?typed=wide&unit=m", None).await;
    assert!(status == StatusCode::UNPROCESSABLE_ENTITY && told.contains("is not a length"), "{told}");
    let collection = api.get(&api.at("/house.geojson")).await;
    assert_eq!(collection["type"], "FeatureCollection");
    assert!(collection["coordinates_are"].as_str().unwrap().contains("not longitude and latitude"));
    let features = collection["features"].as_array().unwrap();
    let count = |kind: &str| features.iter().filter(|own| own["properties"]["kind"] == kind).count();
    assert_eq!((count("room"), count("area"), count("line_entry")), (11, 1, 1));
    let level = api.view().await["home"]["house"]["levels"][0]["id"].as_str().unwrap().to_owned();
    let (status, kind, svg) = api.raw(Method::GET, &api.at(&format!("/house.svg?level={level}")), None).await;
    assert!(status.is_success() && kind.starts_with("image/svg+xml"), "{kind}");
    assert!(svg.contains("Pottery") && svg.contains("1 : 200"), "{svg}");
    let (status, _, _) = api.raw(Method::GET, &api.at(&format!("/house.svg?level={}", HomeId::random())), None).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn a_family_is_put_into_the_rooms_that_fit() {
    let api = api().await;
    let uses = |view: &Value| view["home"]["brief"]["uses"].as_array().unwrap().len();
    let before = uses(&api.view().await);
    let ask = json!({ "name": "family with school children" });
    let (status, view) = api.send(Method::POST, &api.at("/family"), ask).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    assert_eq!(uses(&view), before + 6);
    let rooms = view["home"]["house"]["rooms"].as_array().unwrap();
    let name = |id: &Value| rooms.iter().find(|room| room["id"] == *id).unwrap()["name"].as_str().unwrap().to_owned();
    let office =
        view["home"]["brief"]["uses"].as_array().unwrap()[before..].iter().find(|own| own["activity"] == "home_office");
    assert_eq!(name(&office.unwrap()["room_id"]), "Study");
    assert!(view["line"]["told"].as_str().unwrap().starts_with("busy evening "), "{}", view["line"]);
    let (status, _) = api.send(Method::POST, &api.at("/family"), json!({ "name": "the hens" })).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}
