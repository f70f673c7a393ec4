//! Rounds, runs and home files by the interface.

use actix_web::http::{Method, StatusCode};
use actix_web::test;
use busy_hen_home::{RunId, SetupId};
use serde_json::{Value, json};

use super::*;
use crate::rig::{With, api};

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
