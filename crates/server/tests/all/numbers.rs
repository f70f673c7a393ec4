//! Numbers as they are typed: read alike wherever one is taken, in three countries. The table and its source stand with the reader.

use actix_web::http::{Method, StatusCode};
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

const SPELLINGS: &str = include_str!("../../../units/tests/spellings.csv");

/// Each spelling with what it is of and what is meant in a country.
fn spellings(country: &str) -> Vec<(&'static str, &'static str, &'static str)> {
    let mut lines = SPELLINGS.lines();
    let at = lines.next().unwrap().split(';').position(|own| own == country).unwrap();
    lines
        .map(|line| {
            let cells: Vec<&str> = line.split(';').collect();
            (cells[0], cells[1], cells[at])
        })
        .collect()
}

/// The home moves to another country.
async fn move_to(api: &Api<service!()>, country: &str) {
    let home = api.view().await["home"].clone();
    let edit = json!({ "name": home["name"], "region": country, "units": home["units"], "brief": home["brief"] });
    let (status, answer) = api.send(Method::PUT, &api.at("/brief"), edit).await;
    assert_eq!(status, StatusCode::OK, "{answer}");
}

fn summed(read: &Value) -> String {
    match (&read["value"], &read["asked"], &read["problem"]) {
        (Value::Number(value), Value::Null, Value::Null) => value.as_f64().unwrap().to_string(),
        (Value::Null, Value::Object(_), Value::Null) => "?".into(),
        (Value::Null, Value::Null, Value::String(words)) if !words.is_empty() => "!".into(),
        _ => panic!("not one of the three: {read}"),
    }
}

/// What a phone's typed run comes to: its download as it is kept, a question, or a refusal; a run that is not taken is not there.
async fn by_phone(api: &Api<service!()>, token: &str, spot: &Value, typed: &str) -> String {
    let under = json!({
        "kind": "internet", "client": "phone_ax", "band": null, "doors": "as_left", "situation": "alone", "tool": "its own test"
    });
    let result = json!({
        "kind": "shown", "down_mbps": typed, "up_mbps": "20", "reach": "internet", "over_ceiling_confirmed": true
    });
    let run = json!({
        "id": Uuid::new_v4(), "spot_id": spot, "at": jiff::Timestamp::now().to_string(), "result": result,
        "details": { "under": under }
    });
    let with = With { phone: Some(token), ..With::default() };
    let (status, _, text) = api.ask(Method::POST, "/api/phone/runs", Some(run.to_string()), with).await;
    let answer: Value = serde_json::from_str(&text).unwrap();
    match (status, answer["code"].as_str()) {
        (StatusCode::CREATED, _) => answer["run"]["outcome"]["down_mbps"].as_f64().unwrap().to_string(),
        (StatusCode::CONFLICT, Some("unclear_number")) => {
            let asked = &answer["asked"][0];
            assert_eq!(asked["pointer"], "/result/down_mbps");
            format!("?{}", asked["choices"].as_array().unwrap().len())
        }
        (StatusCode::UNPROCESSABLE_ENTITY, Some("unreadable_number" | "faults")) => "!".into(),
        _ => panic!("{typed}: {answer}"),
    }
}

#[actix_web::test]
async fn every_way_in_reads_a_spelling_as_meant_asks_or_refuses() {
    let api = api().await;
    let round = api.round().await;
    let spot = round["spots"][0]["spot_id"].clone();
    let path = format!("/api/rounds/{}/phones", round["round"]["id"].as_str().unwrap());
    let (_, phone) = api.send(Method::POST, &path, json!({})).await;
    let token = phone["doors"][0]["url"].as_str().unwrap().split_once('#').unwrap().1.to_owned();
    for country in ["GB", "DE", "FR"] {
        move_to(&api, country).await;
        let spellings = spellings(country);
        for part in spellings.chunks(60) {
            let numbers: Vec<Value> = part.iter().map(|(typed, of, _)| json!({ "typed": typed, "of": of })).collect();
            let (status, read) = api.send(Method::POST, &api.at("/numbers"), json!({ "numbers": numbers })).await;
            assert_eq!(status, StatusCode::OK, "{read}");
            for ((typed, _, meant), read) in part.iter().zip(read.as_array().unwrap()) {
                let meant = if meant.starts_with('?') { "?" } else { meant };
                assert_eq!(summed(read), meant, "{country}: {typed}");
            }
        }
        for (typed, _, meant) in spellings.iter().filter(|(_, of, _)| *of == "speed") {
            // More than a reading can be is refused by its own rule.
            let too_much = meant.parse::<f64>().is_ok_and(|value| value > 100_000.0);
            let meant = if too_much {
                "!"
            } else if meant.starts_with('?') {
                "?2"
            } else {
                meant
            };
            assert_eq!(by_phone(&api, &token, &spot, typed).await, meant, "{country}: {typed}");
        }
    }
}

#[actix_web::test]
async fn a_table_that_leaves_doubt_is_asked_about_once_and_then_read() {
    let api = api().await;
    let round = api.round().await;
    let at = format!("/api/rounds/{}/table", round["round"]["id"].as_str().unwrap());
    let spot = round["spots"][0]["name"].as_str().unwrap().to_owned();
    let text = format!("room\tdown Mb/s\tup Mb/s\n{spot}\t1,5\t0,9\n{spot}\t2,25\t0,8\n");
    let ask = |more: Value| {
        let mut ask = json!({ "text": text, "tool": "another test" });
        ask.as_object_mut().unwrap().extend(more.as_object().unwrap().clone());
        ask
    };
    let (_, read) = api.send(Method::POST, &at, ask(json!({ "keep": true }))).await;
    assert_eq!((&read["decimals"], &read["unclear"], &read["kept"]), (&Value::Null, &json!("1,5"), &json!(false)));
    let (_, read) = api.send(Method::POST, &at, ask(json!({ "decimals": "comma" }))).await;
    assert_eq!(read["rows"][0]["outcome"]["down_mbps"], 1.5, "{read}");
    let (_, read) = api.send(Method::POST, &at, ask(json!({ "decimals": "point" }))).await;
    assert!(read["problems"][0].as_str().unwrap().contains("1,5"), "{read}");
    move_to(&api, "DE").await;
    let (_, read) = api.send(Method::POST, &at, ask(json!({}))).await;
    assert_eq!((&read["decimals"], &read["rows"][0]["outcome"]["down_mbps"]), (&json!("comma"), &json!(1.5)));
}

#[actix_web::test]
async fn how_far_it_was_is_read_by_the_bench_in_the_homes_unit() {
    let api = api().await;
    let view = api.view().await;
    let garden = view["home"]["house"]["rooms"].as_array().unwrap().iter().find(|own| own["name"] == "Garden");
    let garden = garden.unwrap()["id"].clone();
    let spot = view["home"]["house"]["spots"].as_array().unwrap().iter().find(|own| own["room_id"] == garden).unwrap();
    let ask = json!({
        "setup_id": view["home"]["setups"][0]["id"], "client": "phone_ax", "band": null, "kind": "local", "doors": "as_left",
        "situation": "alone", "runs_per_spot": 1, "purpose": "range_walk", "spots": [spot["id"]]
    });
    let (status, made) = api.send(Method::POST, &api.at("/rounds"), ask).await;
    assert_eq!(status, StatusCode::CREATED, "{made}");
    let path = format!("/api/rounds/{}/phones", made["round"]["id"].as_str().unwrap());
    let (_, phone) = api.send(Method::POST, &path, json!({})).await;
    let token = phone["doors"][0]["url"].as_str().unwrap().split_once('#').unwrap().1.to_owned();
    let send = async |far: Value| {
        let run = json!({
            "id": Uuid::new_v4(), "spot_id": spot["id"], "at": jiff::Timestamp::now().to_string(),
            "result": { "kind": "no_connection" }, "details": { "mark": { "name": "" }, "far": far }
        });
        let with = With { phone: Some(&token), ..With::default() };
        let (status, _, text) = api.ask(Method::POST, "/api/phone/runs", Some(run.to_string()), with).await;
        (status, serde_json::from_str::<Value>(&text).unwrap())
    };
    let metres = |answer: &Value| answer["run"]["mark"]["distance_m"].as_f64().unwrap();
    let (_, kept) = send(json!({ "length": "12.5" })).await;
    assert!((metres(&kept) - 12.5).abs() < 1e-9, "{kept}");
    let (_, kept) = send(json!({ "length": "40 ft" })).await;
    assert!((metres(&kept) - 12.192).abs() < 1e-9);
    let (_, kept) = send(json!({ "paces": "20", "stride": "0.8" })).await;
    assert!((metres(&kept) - 16.0).abs() < 1e-9);
    let (status, problem) = send(json!({ "length": "1,000" })).await;
    assert_eq!((status, &problem["code"]), (StatusCode::CONFLICT, &json!("unclear_number")));
    let (status, problem) = send(json!({ "length": "far" })).await;
    assert_eq!((status, &problem["code"]), (StatusCode::UNPROCESSABLE_ENTITY, &json!("unreadable_number")));
    assert_eq!(problem["faults"][0]["pointer"], "/details/far/length");
}
