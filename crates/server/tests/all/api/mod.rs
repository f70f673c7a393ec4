//! The HTTP interface in process: every endpoint's good path, and what bad input gets.

mod house;
mod readings;

use actix_web::http::{Method, StatusCode};
use busy_hen_demo::canal_terrace;
use busy_hen_home::{HomeId, SetupId, SpotId};
use serde_json::{Value, json};
use sqlx::{Connection, SqliteConnection};

use crate::rig::{With, api};

pub(crate) fn run(spot: &str, down: f64) -> Value {
    json!({
        "spot_id": SpotId::named(spot), "source": "typed", "carried_by": "home_wifi",
        "outcome": { "kind": "measured", "down_mbps": down, "up_mbps": 20.0, "idle_ms": 12.0,
                     "loaded_ms": null, "jitter_ms": null, "loss_percent": null }
    })
}

pub(crate) fn ask() -> Value {
    json!({ "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" })
}

pub(crate) fn problem_code(answer: &(StatusCode, Value)) -> (u16, &str) {
    (answer.0.as_u16(), answer.1["code"].as_str().unwrap_or_default())
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
