//! Kinds of round, what goes with a run, rounds once more, and tables of other tests.

use actix_web::http::{Method, StatusCode};
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

/// The spot of a room of the terrace.
async fn spot(api: &Api<service!()>, room: &str) -> Value {
    let view = api.view().await;
    let rooms = view["home"]["house"]["rooms"].as_array().unwrap();
    let room = rooms.iter().find(|own| own["name"] == room).unwrap()["id"].clone();
    let spots = view["home"]["house"]["spots"].as_array().unwrap();
    spots.iter().find(|own| own["room_id"] == room).unwrap()["id"].clone()
}

/// A round of local tests in a setup of the terrace.
async fn round(api: &Api<service!()>, purpose: &str, spots: &[Value]) -> Value {
    let setup = api.view().await["home"]["setups"][1]["id"].clone();
    let new = json!({
        "setup_id": setup, "client": "phone_ax", "band": null, "kind": "local", "doors": "as_left",
        "situation": "alone", "runs_per_spot": 2, "purpose": purpose, "spots": spots
    });
    let (status, made) = api.send(Method::POST, &api.at("/rounds"), new).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    made
}

fn path(round: &Value) -> String {
    format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap())
}

async fn pair(api: &Api<service!()>, round: &Value, stand_in: bool) -> String {
    let ask = json!({ "stand_in": stand_in });
    let (_, phone) = api.send(Method::POST, &format!("{}/phones", path(round)), ask).await;
    phone["doors"][0]["url"].as_str().unwrap().split_once('#').unwrap().1.to_owned()
}

async fn send(api: &Api<service!()>, token: &str, spot: &Value, result: Value, details: Value) -> (StatusCode, Value) {
    let run = json!({
        "id": Uuid::new_v4(), "spot_id": spot, "at": jiff::Timestamp::now().to_string(), "result": result, "details": details
    });
    let with = With { phone: Some(token), ..With::default() };
    let (status, _, text) = api.ask(Method::POST, "/api/phone/runs", Some(run.to_string()), with).await;
    (status, serde_json::from_str(&text).unwrap_or(Value::Null))
}

async fn look(api: &Api<service!()>, token: &str, query: &str) -> Value {
    let with = With { phone: Some(token), ..With::default() };
    let (status, _, text) = api.ask(Method::GET, &format!("/api/phone{query}"), None, with).await;
    assert_eq!(status, StatusCode::OK, "{text}");
    serde_json::from_str(&text).unwrap()
}

fn speed(down: f64) -> Value {
    json!({ "kind": "tested", "test": Uuid::new_v4(), "raw": test_of(down, down / 5.0) })
}

#[actix_web::test]
async fn a_run_carries_the_conditions_of_its_spot_and_counts_beside_its_like() {
    let api = api().await;
    let (hall, study) = (spot(&api, "Hall").await, spot(&api, "Study").await);
    let made = round(&api, "rooms", &[hall.clone(), study.clone()]).await;
    let token = pair(&api, &made, false).await;
    let mut under = made["round"].clone();
    under = json!({
        "kind": "local", "client": "phone_ac", "band": "5", "doors": "shut", "situation": under["situation"]
    });
    let details = json!({ "under": under, "signal_dbm": -61.0, "link_rate_mbps": 433.0, "note": " by the door " });
    let (status, kept) = send(&api, &token, &hall, speed(60.0), details).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    let run = &kept["run"];
    assert_eq!(
        (&run["note"], &run["signal_dbm"], &run["under"]["doors"]),
        (&json!("by the door"), &json!(-61.0), &json!("shut"))
    );
    assert_eq!(look(&api, &token, "").await["spots"][0]["runs"], 0, "not as the round says");
    let own = look(&api, &token, "?client=phone_ac&band=5&doors=shut&situation=alone").await;
    assert_eq!(own["spots"][0]["runs"], 1, "{}", own["words"]);
    let seen = api.get(&path(&made)).await;
    assert_eq!(seen["spots"][0]["otherwise"][0]["words"], "older phone, ac, one stream, 80 MHz, 5 GHz, doors shut");
    let bad = json!({ "under": { "kind": "local", "client": "abacus", "doors": "shut", "situation": "alone" } });
    assert_eq!(send(&api, &token, &hall, speed(60.0), bad).await.0, StatusCode::UNPROCESSABLE_ENTITY);

    // Passed over: no reading, and not the next one any more, until it is tested after all.
    let (status, _) = send(&api, &token, &study, json!({ "kind": "skipped" }), json!({ "note": "locked" })).await;
    assert_eq!(status, StatusCode::CREATED);
    let view = look(&api, &token, "").await;
    assert_eq!(
        (&view["spots"][1]["skipped"], &view["next"], &view["spots"][1]["summary"]),
        (&json!(true), &hall, &Value::Null)
    );
    send(&api, &token, &study, speed(80.0), json!({})).await;
    assert_eq!(look(&api, &token, "").await["spots"][1]["skipped"], false);
}

#[actix_web::test]
async fn marks_are_told_apart_and_the_best_place_and_the_round_before_stand_beside() {
    let api = api().await;
    let attic = spot(&api, "Attic bedroom").await;
    let mut told = Vec::new();
    for (stairs, landing) in [(20.0, 45.0), (22.0, 60.0)] {
        let made = round(&api, "placement_trial", std::slice::from_ref(&attic)).await;
        let token = pair(&api, &made, false).await;
        let at =
            |name: &str, beside: bool| json!({ "mark": { "name": name, "beside_node": beside }, "kit_status": "good" });
        for (mark, down) in
            [(at("stairs", true), 300.0), (at("stairs", false), stairs), (at("landing", false), landing)]
        {
            let (status, kept) = send(&api, &token, &attic, speed(down), mark).await;
            assert_eq!(status, StatusCode::CREATED, "{kept}");
        }
        told.push(api.get(&path(&made)).await);
    }
    let now = &told[1];
    assert_eq!((&now["best"]["name"], now["marks"].as_array().unwrap().len()), (&json!("landing"), 3));
    assert_eq!(now["beside"]["round_id"], told[0]["round"]["id"]);
    let first = format!("{}?beside={}", path(&told[0]), now["round"]["id"].as_str().unwrap());
    assert_eq!(told[0]["beside"], Value::Null, "nothing earlier stands beside the first by itself");
    assert_eq!(api.get(&first).await["beside"]["round_id"], now["round"]["id"], "any other of its kind when asked for");
    let landing = now["marks"].as_array().unwrap().iter().find(|row| row["mark"]["name"] == "landing").unwrap();
    assert!((landing["other"]["summary"]["down_mbps"]["median"].as_f64().unwrap() - 45.0).abs() < 1.0);
    let beside = &now["marks"][0];
    assert_eq!((&beside["kit_status"], &beside["against_status"]), (&json!("good"), &Value::Null), "{beside}");
    // What was tried there is no reading of the room.
    assert_eq!((&now["spots"][0]["summary"], &now["spots"][0]["run_total"]), (&Value::Null, &json!(3)));
    let stops = api.view().await["route"].clone();
    assert!(!stops.to_string().contains("setup measured"), "a trial measures no room: {stops}");
    let csv = api.ask(Method::GET, &api.at("/readings.csv"), None, With::default()).await.2;
    assert!(csv.contains("placement_trial") && csv.contains("\"stairs, beside the node\""), "{csv}");
}

#[actix_web::test]
async fn a_film_a_call_and_a_walk_are_judged_by_their_samples_and_a_spoiled_one_is_refused() {
    let api = api().await;
    let (hall, landing) = (spot(&api, "Hall").await, spot(&api, "Landing").await);
    let made = round(&api, "application_check", &[hall.clone(), landing.clone()]).await;
    let token = pair(&api, &made, false).await;
    let parts: Vec<Value> = (0..30)
        .map(|index| json!({ "asked_ms": f64::from(index) * 900.0, "arrived_ms": f64::from(index + 1) * 900.0 }))
        .collect();
    let raw = json!({ "rate_mbps": 25.0, "part_ms": 2000.0, "parts": parts, "sought": 5, "interruptions": [] });
    let film = |raw: &Value| json!({ "kind": "film", "reach": "local", "raw": raw });
    let (status, kept) = send(&api, &token, &hall, film(&raw), json!({})).await;
    assert_eq!(status, StatusCode::CREATED, "{kept}");
    assert!(kept["told"].as_str().unwrap().starts_with("film at 25 Mb/s: picture after 0.9 s, 0.9 s after a seek"));
    let mut covered = raw.clone();
    covered["interruptions"] = json!(["hidden"]);
    let (status, problem) = send(&api, &token, &hall, film(&covered), json!({})).await;
    assert_eq!((status, &problem["code"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("spoiled")));
    let trips: Vec<Value> = (0..100)
        .map(|index| json!({ "at_ms": f64::from(index) * 50.0, "took_ms": 12.0, "far_ms": f64::from(index) * 50.0 }))
        .collect();
    let raw = json!({
        "trips": trips, "walked_ms": 8000.0, "interruptions": ["broken"],
        "passed": [{ "spot_id": hall, "at_ms": 0.0 }, { "spot_id": landing, "at_ms": 4000.0 }]
    });
    let (status, kept) = send(&api, &token, &hall, json!({ "kind": "walked", "raw": raw }), json!({})).await;
    assert_eq!(
        (status, &kept["run"]["outcome"]["check"]["gaps"][0]["after"]),
        (StatusCode::CREATED, &landing),
        "{kept}"
    );
    let seen = api.get(&path(&made)).await;
    let holds: Vec<&Value> = seen["spots"][0]["checks"].as_array().unwrap().iter().map(|own| &own["holds"]).collect();
    assert_eq!(holds, [&json!(false), &json!(true)], "the walk, then the film");
    let id = seen["spots"][0]["checks"][0]["run_id"].as_str().unwrap();
    assert_eq!(api.get(&format!("/api/runs/{id}/samples.json")).await, raw);
}

#[actix_web::test]
async fn what_the_stand_in_sends_is_called_made_up_whatever_it_says() {
    let api = api().await;
    let hall = spot(&api, "Hall").await;
    let made = round(&api, "rooms", std::slice::from_ref(&hall)).await;
    let token = pair(&api, &made, true).await;
    let (status, kept) = send(&api, &token, &hall, speed(60.0), json!({})).await;
    assert_eq!((status, &kept["run"]["source"]), (StatusCode::CREATED, &json!("walker")));
    assert_eq!(api.get(&path(&made)).await["made_up"], true);
}

#[actix_web::test]
async fn a_wired_ceiling_comes_by_cable_and_is_no_reading_of_the_room() {
    let api = api().await;
    let hall = spot(&api, "Hall").await;
    let made = round(&api, "wired_ceiling", std::slice::from_ref(&hall)).await;
    let token = pair(&api, &made, false).await;
    let (_, kept) = send(&api, &token, &hall, speed(930.0), json!({ "mark": { "name": "the router" } })).await;
    assert_eq!(kept["run"]["carried_by"], "cable");
    let seen = api.get(&path(&made)).await;
    assert_eq!((&seen["spots"][0]["summary"], &seen["marks"][0]["runs"]), (&Value::Null, &json!(1)));
}

#[actix_web::test]
async fn the_same_round_goes_on_in_another_setup_with_what_was_seen_to_take_effect() {
    let api = api().await;
    let spots = [spot(&api, "Study").await, spot(&api, "Hall").await];
    let made = round(&api, "baseline", &spots).await;
    let view = api.view().await;
    let setups = view["home"]["setups"].as_array().unwrap();
    let ask = format!("{}/to-confirm", api.at(&format!("/setups/{}", setups[2]["id"].as_str().unwrap())));
    let told = api.get(&ask).await;
    assert!(told["tested_last"].as_str().unwrap().starts_with('B'), "{told}");
    let list = told["list"].as_array().unwrap();
    assert!(list.iter().any(|own| own.as_str().unwrap().contains("is silent at")), "{told}");
    let confirmed: Vec<Value> =
        list.iter().enumerate().map(|(index, own)| json!({ "what": own, "seen": index > 0 })).collect();
    let again = json!({ "setup_id": setups[2]["id"], "confirmed": confirmed });
    let (status, next) = api.send(Method::POST, &format!("{}/again", path(&made)), again).await;
    assert_eq!(status, StatusCode::CREATED, "{next}");
    let round = &next["round"];
    assert_eq!(round["spots"], json!(spots), "in the same order");
    assert_eq!((&round["purpose"], &round["setup_id"]), (&json!("after"), &setups[2]["id"]));
    assert_eq!((&round["confirmed"][0]["seen"], &round["confirmed"][1]["seen"]), (&json!(false), &json!(true)));
    assert!(!round["on_record"]["radios"].as_array().unwrap().is_empty());
    // What is seen later is kept as seen later; what was seen before stays.
    let put = |what: &Value, seen: bool| (path(&next) + "/confirmed", json!({ "what": what, "seen": seen }));
    let (at, body) = put(&list[0], true);
    let (status, kept) = api.send(Method::PUT, &at, body).await;
    assert_eq!((status, &kept["confirmed"][0]["seen"]), (StatusCode::OK, &json!(true)), "{kept}");
    assert!(kept["confirmed"][0]["seen_later"].is_string() && kept["confirmed"][1]["seen_later"].is_null());
    let (at, body) = put(&list[1], false);
    assert_eq!(api.send(Method::PUT, &at, body).await.1["confirmed"][1]["seen"], true);
    let (at, body) = put(&json!("never heard of"), true);
    assert_eq!(api.send(Method::PUT, &at, body).await.0, StatusCode::UNPROCESSABLE_ENTITY);
    let gone = json!({ "setup_id": Uuid::new_v4() });
    let (status, _) = api.send(Method::POST, &format!("{}/again", path(&made)), gone).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
}

#[actix_web::test]
async fn the_way_is_told_before_anything_is_begun() {
    let api = api().await;
    let spots = [spot(&api, "Attic bedroom").await, spot(&api, "Hall").await, spot(&api, "Box room").await];
    let setup = api.view().await["home"]["setups"][0]["id"].clone();
    let ask = |order: &str| {
        json!({
            "setup_id": setup, "client": "phone_ax", "band": null, "kind": "internet", "doors": "as_left",
            "situation": "alone", "runs_per_spot": 2, "spots": spots, "order": order
        })
    };
    let (status, first) = api.send(Method::POST, &api.at("/way"), ask("worst_first")).await;
    assert_eq!(status, StatusCode::OK, "{first}");
    let (_, last) = api.send(Method::POST, &api.at("/way"), ask("worst_last")).await;
    let reversed: Vec<&Value> = first["spots"].as_array().unwrap().iter().rev().collect();
    assert_eq!(last["spots"].as_array().unwrap().iter().collect::<Vec<_>>(), reversed);
    assert_eq!(api.view().await["rounds"], json!([]));
}

#[actix_web::test]
async fn a_table_is_read_first_and_kept_once_and_megabytes_are_asked_about() {
    let api = api().await;
    let made = round(&api, "rooms", &[spot(&api, "Hall").await, spot(&api, "Study").await]).await;
    let at = format!("{}/table", path(&made));
    let ask = |text: &str, more: Value| {
        let mut ask = json!({ "text": text, "tool": "another test" });
        ask.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        ask
    };
    let text = "room;down;up;ping\nHall;81,5;18;12\nstudy;;;\n";
    let (status, read) = api.send(Method::POST, &at, ask(text, json!({}))).await;
    assert_eq!((status, &read["unit"], &read["rows"]), (StatusCode::OK, &Value::Null, &json!([])), "{read}");
    assert_eq!(read["columns"], json!(["spot", "down", "up", "idle"]));
    let unit = json!({ "unit": "megabyte_per_second" });
    let (_, read) = api.send(Method::POST, &at, ask(text, unit.clone())).await;
    assert_eq!(read["rows"][0]["outcome"]["down_mbps"], 652.0);
    assert_eq!((&read["problems"], &read["kept"]), (&json!([]), &json!(false)));
    assert_eq!(api.get(&format!("{}/runs", path(&made))).await, json!([]), "only read so far");
    let keep = json!({ "unit": "megabyte_per_second", "keep": true });
    for _ in 0..2 {
        let (status, read) = api.send(Method::POST, &at, ask(text, keep.clone())).await;
        assert_eq!((status, &read["kept"]), (StatusCode::OK, &json!(true)), "{read}");
    }
    let runs = api.get(&format!("{}/runs", path(&made))).await;
    assert_eq!(runs.as_array().unwrap().len(), 2, "the same table twice is there once");
    assert_eq!((&runs[0]["under"]["tool"], &runs[0]["source"]), (&json!("another test"), &json!("typed")));
    let wrong = "room,down Mb/s,up Mb/s\nCellar,5,1\nHall,99999,1\n";
    let (_, read) = api.send(Method::POST, &at, ask(wrong, json!({}))).await;
    let problems = read["problems"].to_string();
    assert!(problems.contains("no spot “Cellar”") && problems.contains("Line 3"), "{problems}");
    let (status, _) = api.send(Method::POST, &at, ask(wrong, json!({ "keep": true }))).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    let (status, _) = api.send(Method::POST, &at, ask("nothing", json!({}))).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert_eq!(api.get(&format!("{}/runs", path(&made))).await.as_array().unwrap().len(), 2, "nothing half-written");
    let schema = api.get("/api/readings.schema.json").await;
    assert!(schema["fields"].as_array().unwrap().len() > 25);
}

#[actix_web::test]
async fn a_distance_is_worked_out_from_where_the_phone_is_and_the_place_is_not_kept() {
    let api = api().await;
    let garden = spot(&api, "Garden").await;
    let made = round(&api, "range_walk", std::slice::from_ref(&garden)).await;
    let token = pair(&api, &made, false).await;
    // A thousandth of a degree of latitude is 111 m on the mean sphere.
    let walked = json!({
        "from": { "latitude": 51.0, "longitude": 4.0 }, "to": { "latitude": 51.001, "longitude": 4.0 }
    });
    let details = json!({ "mark": { "returning": true }, "walked": walked });
    let (status, kept) = send(&api, &token, &garden, json!({ "kind": "no_connection" }), details).await;
    assert_eq!((status, &kept["run"]["mark"]["distance_m"]), (StatusCode::CREATED, &json!(111.0)), "{kept}");
    let whole = api.ask(Method::GET, &api.at("/file"), None, With::default()).await.2;
    assert!(whole.contains("\"distance_m\":111.0") && !whole.contains("51.001"), "where somebody lives is not kept");
    let nowhere =
        json!({ "mark": {}, "walked": { "from": { "latitude": 91.0, "longitude": 4.0 }, "to": walked["to"] } });
    let (status, problem) = send(&api, &token, &garden, json!({ "kind": "no_connection" }), nowhere).await;
    assert_eq!(
        (status, &problem["faults"][0]["pointer"]),
        (StatusCode::UNPROCESSABLE_ENTITY, &json!("/details/walked"))
    );
}

#[actix_web::test]
async fn a_run_far_off_the_others_is_shown_as_such() {
    let api = api().await;
    let hall = spot(&api, "Hall").await;
    let made = round(&api, "rooms", std::slice::from_ref(&hall)).await;
    let token = pair(&api, &made, false).await;
    let mut last = Value::Null;
    for down in [90.0, 92.0, 91.0, 93.0, 20.0] {
        last = send(&api, &token, &hall, speed(down), json!({})).await.1["run"]["id"].clone();
    }
    let row = api.get(&path(&made)).await["spots"][0].clone();
    assert_eq!((&row["outliers"], &row["summary"]["runs"]), (&json!([last]), &json!(5)));
}
