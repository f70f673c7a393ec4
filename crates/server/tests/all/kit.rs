//! Kit, parts, series and order of setups over the interface, and what bad input gets there.

use actix_web::http::{Method, StatusCode};
use busy_hen_home::{DeviceId, SetupId};
use serde_json::{Value, json};

use crate::rig::{With, api};

fn ask() -> Value {
    json!({ "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" })
}

type Change = fn(&mut Value);

fn letters(view: &Value) -> String {
    view["home"]["setups"].as_array().unwrap().iter().map(|own| own["letter"].as_str().unwrap()).collect()
}

#[actix_web::test]
async fn own_kit_comes_in_as_a_table_is_placed_counted_and_goes_out_again() {
    let api = api().await;
    let table = "name,modes,radios,uplink_port_mbps,lan_port_mbps,lan_ports,price,steers_with\n\
                 Barn node,mesh_node; access_point,5 ax 2 80 @36,1000,1000,2,88.50,barn\n";
    let (status, view) = api.send(Method::POST, &api.at("/own-kit/table"), json!({ "csv": table })).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(view["home"]["own_kit"][0]["key"], "own_barn_node");
    let setup = SetupId::named("A");
    let at = view["home"]["setups"][0]["devices"][0]["at"].clone();
    let place = json!({ "kit": "own_barn_node", "at": at });
    let (status, _) = api.send(Method::POST, &api.at(&format!("/setups/{setup}/devices")), place).await;
    assert_eq!(status, StatusCode::CREATED);
    let parts = api.get(&api.at(&format!("/setups/{setup}/parts"))).await;
    assert_eq!(parts["lines"].as_array().unwrap().len(), 1, "the router is there already: {parts}");
    assert_eq!((&parts["total"], &parts["lines"][0]["usual_price"]), (&json!(88.5), &json!(false)));
    let (_, kind, csv) = api.raw(Method::GET, &api.at(&format!("/setups/{setup}/parts.csv")), None).await;
    assert!(kind.starts_with("text/csv") && csv.contains("Barn node") && csv.contains("total"), "{csv}");
    let (_, _, out) = api.raw(Method::GET, &api.at("/own-kit.csv"), None).await;
    // The same table again, with another price, changes the kit and adds none.
    let cheaper = out.replace("88.5", "79");
    let (status, view) = api.send(Method::POST, &api.at("/own-kit/table"), json!({ "csv": cheaper })).await;
    assert_eq!((status, view["home"]["own_kit"].as_array().unwrap().len()), (StatusCode::OK, 1));
    assert_eq!(view["home"]["own_kit"][0]["facts"]["price"], 79.0);
    // A second of the same name gets a key of its own.
    let mut second = view["home"]["own_kit"][0].clone();
    second["key"] = "".into();
    let both = json!({ "kit": [view["home"]["own_kit"][0], second] });
    let (_, view) = api.send(Method::PUT, &api.at("/own-kit"), both).await;
    assert_eq!(view["home"]["own_kit"][1]["key"], "own_barn_node_2");
}

#[actix_web::test]
async fn the_tables_of_kit_and_their_schema_agree() {
    let api = api().await;
    let (_, _, table) = api.raw(Method::GET, "/api/kit.csv", None).await;
    let schema = api.get("/api/kit.schema.json").await;
    let names: Vec<&str> =
        schema["fields"].as_array().unwrap().iter().map(|field| field["name"].as_str().unwrap()).collect();
    assert_eq!(table.lines().next().unwrap(), names.join(","));
}

#[actix_web::test]
async fn what_is_wrong_with_kit_is_told_and_nothing_is_changed() {
    let api = api().await;
    let before = api.view().await;
    let kit = |change: Change| {
        let mut kit = json!({ "key": "own_x", "name": "x", "modes": ["router"], "radios": [],
                              "uplink_port_mbps": 1000, "lan_port_mbps": 1000 });
        change(&mut kit);
        json!({ "kit": [kit] })
    };
    let refused: [(Change, &str); 6] = [
        (|own| own["facts"] = json!({ "price": -3 }), "The price of x must be 0"),
        (|own| own["facts"] = json!({ "lan_ports": 2, "feeding_ports": 3 }), "no more of them feed"),
        (|own| own["facts"] = json!({ "mains_v": { "from_v": 240, "to_v": 100 } }), "10 to 500 V"),
        (|own| own["facts"] = json!({ "packs": [{ "count": 1, "price": 10 }] }), "number in a pack"),
        (|own| own["key"] = "router_ax".into(), "has a “router_ax” already"),
        (|own| own["modes"] = json!([]), "needs a mode"),
    ];
    for (change, told) in refused {
        let (status, problem) = api.send(Method::PUT, &api.at("/own-kit"), kit(change)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
        assert!(problem["faults"][0]["message"].as_str().unwrap().contains(told), "{told}: {problem}");
    }
    let wrong = json!({ "csv": "name,modes\nx,router\n" });
    let (status, problem) = api.send(Method::POST, &api.at("/own-kit/table"), wrong).await;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY);
    assert!(problem["faults"][0]["message"].as_str().unwrap().contains("is missing"), "{problem}");
    assert_eq!(api.view().await, before);
}

#[actix_web::test]
async fn a_series_is_made_in_one_step_shown_side_by_side_and_undone() {
    let api = api().await;
    let setup = SetupId::named("A");
    let body = json!({ "ask": ask(), "kit": "node_ax_tri" });
    let (status, view) = api.send(Method::POST, &api.at(&format!("/setups/{setup}/usual-series")), body).await;
    assert_eq!((status, letters(&view)), (StatusCode::CREATED, "ABCDEFG".into()));
    let first = view["home"]["setups"][3]["id"].as_str().unwrap().to_owned();
    let path = api.at(&format!("/setups/{first}/series"));
    let (status, series) = api.send(Method::POST, &path, json!({ "ask": ask() })).await;
    assert_eq!((status, series["setups"].as_array().unwrap().len()), (StatusCode::OK, 4));
    let rooms = series["rooms"].as_array().unwrap();
    assert_eq!((rooms.len(), rooms[0]["cells"].as_array().unwrap().len()), (12, 4));
    let pottery = rooms.iter().find(|room| room["name"] == "Pottery").unwrap();
    let gets = |index: usize| pottery["cells"][index]["predicted_mbps"].as_f64().unwrap();
    assert!(gets(0) < 1.0 && gets(1) >= gets(0), "alone it does not reach the pottery: {pottery}");
    let (_, undone) = api.send(Method::POST, &api.at("/undo"), json!({})).await;
    assert_eq!(letters(&undone), "ABC", "one step");
    let path = api.at(&format!("/setups/{setup}/series"));
    let (status, none) = api.send(Method::POST, &path, json!({ "ask": ask() })).await;
    assert_eq!((status, none["code"].as_str()), (StatusCode::NOT_FOUND, Some("not_found")));
    let body = json!({ "ask": ask(), "kit": "switch_1g" });
    let (status, _) = api.send(Method::POST, &api.at(&format!("/setups/{setup}/usual-series")), body).await;
    assert_eq!(status, StatusCode::CONFLICT);
}

#[actix_web::test]
async fn setups_are_put_in_order_away_and_in_force() {
    let api = api().await;
    let [a, b, c] = ["A", "B", "C"].map(SetupId::named);
    let order = json!({ "setup_ids": [c, a] });
    let (status, view) = api.send(Method::PUT, &api.at("/setup-order"), order).await;
    assert_eq!((status, letters(&view)), (StatusCode::OK, "CAB".into()), "what is left out comes last");
    let (_, view) = api.send(Method::PUT, &api.at("/in-force"), json!({ "setup_id": b })).await;
    assert_eq!(view["home"]["in_force"], json!(b));
    let (_, view) = api.send(Method::DELETE, &api.at(&format!("/setups/{b}")), Value::Null).await;
    assert!(view["home"]["in_force"].is_null(), "what is gone is not in force");
    let (status, _) = api.send(Method::PUT, &api.at("/in-force"), json!({ "setup_id": b })).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    let (_, view) = api.send(Method::PUT, &api.at("/archived"), json!({ "archived": true })).await;
    assert_eq!(view["home"]["archived"], true);
    let listed = api.get("/api/homes").await;
    let summary = &listed[0]["summary"];
    assert_eq!((&summary["archived"], summary["example"].is_string()), (&json!(true), true));
    assert_eq!(summary["in_force"]["letter"], "A", "the last that is left: {}", summary["in_force"]);
    assert!(summary["in_force"]["needing"].as_u64().unwrap() >= summary["in_force"]["met"].as_u64().unwrap());
    assert!(!summary["thumb"]["shaded"].as_array().unwrap().is_empty());
}

#[actix_web::test]
async fn the_busy_evening_and_a_finding_put_aside_and_mended() {
    let api = api().await;
    let setup = SetupId::named("C");
    let path = |what: &str| api.at(&format!("/setups/{setup}/{what}"));
    let (status, evening) = api.send(Method::POST, &path("evening"), json!({ "ask": ask() })).await;
    assert_eq!(status, StatusCode::OK);
    assert_eq!(evening["rooms"].as_array().unwrap().len(), 9);
    let (_, found) = api.send(Method::POST, &path("findings"), json!({ "ask": ask() })).await;
    let queue = found.as_array().unwrap().iter().find(|own| own["rule"] == "long_queue").unwrap().clone();
    let view = api.view().await;
    let mut edited = view["home"]["setups"][2].clone();
    edited["put_aside"] = json!([{ "rule": "long_queue", "device_id": queue["device_id"], "because": "nobody calls" }]);
    let (status, _) = api.send(Method::PUT, &api.at(&format!("/setups/{setup}")), edited).await;
    assert_eq!(status, StatusCode::OK);
    let (_, found) = api.send(Method::POST, &path("findings"), json!({ "ask": ask() })).await;
    assert_eq!(found.as_array().unwrap().last().unwrap()["put_aside"], "nobody calls");
    let mend = json!({ "ask": ask(), "rule": "long_queue", "device_id": queue["device_id"], "copy_named": null });
    let (status, view) = api.send(Method::POST, &path("mend"), mend.clone()).await;
    assert_eq!((status, &view["home"]["setups"][2]["devices"][0]["managed_queue"]), (StatusCode::OK, &json!(true)));
    let (status, gone) = api.send(Method::POST, &path("mend"), mend).await;
    assert_eq!((status, gone["code"].as_str()), (StatusCode::CONFLICT, Some("conflict")));
    let mut other =
        json!({ "ask": ask(), "rule": "over_budget", "device_id": DeviceId::named("none"), "copy_named": "x" });
    let (status, _) = api.send(Method::POST, &path("mend"), other.clone()).await;
    assert_eq!(status, StatusCode::CONFLICT);
    other["rule"] = "no_such_rule".into();
    let (status, _) = api.send(Method::POST, &path("mend"), other).await;
    assert_eq!(status, StatusCode::BAD_REQUEST);
}

#[actix_web::test]
async fn a_home_begun_from_lines_has_a_router_and_wrong_lines_make_none() {
    let api = api().await;
    let new = |lines: &str| json!({ "name": "First", "region": "GB", "units": "ft", "lines": lines });
    let (status, view) =
        api.send(Method::POST, "/api/homes", new("Hall 6'6\" x 16'\nKitchen 13' x 11' east of Hall")).await;
    assert_eq!(status, StatusCode::CREATED);
    assert_eq!(view["home"]["setups"][0]["devices"][0]["mode"], "router");
    let homes = api.get("/api/homes").await.as_array().unwrap().len();
    for wrong in ["Hall", "Hall 2 x 4 east of Nowhere", "# nothing"] {
        let (status, problem) = api.send(Method::POST, "/api/homes", new(wrong)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{wrong}: {problem}");
        assert_eq!(problem["faults"][0]["pointer"], "/lines");
    }
    assert_eq!(api.get("/api/homes").await.as_array().unwrap().len(), homes);
    // No made-up homes ship with this server.
    let (status, _) = api.send_with(Method::POST, "/api/examples", Value::Null, With::default()).await;
    assert_eq!(status, StatusCode::CONFLICT);
}

#[actix_web::test]
async fn every_refusal_of_kit_parts_and_series_is_a_problem_and_changes_nothing() {
    let api = api().await;
    let before = api.view().await;
    let (setup, nothing) = (SetupId::named("A"), SetupId::named("nothing"));
    let at = |rest: String| api.at(&rest);
    let cases = [
        (Method::GET, at(format!("/setups/{nothing}/parts")), None, 404, "not_found"),
        (Method::GET, at(format!("/setups/{nothing}/parts.csv")), None, 404, "not_found"),
        (Method::POST, at(format!("/setups/{nothing}/evening")), Some(json!({ "ask": ask() })), 404, "not_found"),
        (Method::POST, at(format!("/setups/{setup}/evening")), Some(json!({ "ask": 3 })), 400, "bad_body"),
        (Method::POST, at(format!("/setups/{nothing}/series")), Some(json!({ "ask": ask() })), 404, "not_found"),
        (
            Method::POST,
            at(format!("/setups/{nothing}/usual-series")),
            Some(json!({ "ask": ask(), "kit": "router_ax" })),
            404,
            "not_found",
        ),
        (
            Method::POST,
            at(format!("/setups/{setup}/usual-series")),
            Some(json!({ "ask": ask(), "kit": "abacus" })),
            409,
            "conflict",
        ),
        (Method::POST, at(format!("/setups/{setup}/usual-series")), Some(json!({ "ask": ask() })), 400, "bad_body"),
        (Method::PUT, at("/setup-order".into()), Some(json!({ "setup_ids": "all" })), 400, "bad_body"),
        (Method::PUT, at("/in-force".into()), Some(json!({ "setup_id": nothing })), 404, "not_found"),
        (Method::PUT, at("/archived".into()), Some(json!({})), 400, "bad_body"),
        (Method::PUT, at("/own-kit".into()), Some(json!({ "kit": [{ "key": "x" }] })), 400, "bad_body"),
        (Method::POST, at("/own-kit/table".into()), Some(json!({ "csv": "" })), 422, "faults"),
        (Method::POST, at("/own-kit/table".into()), Some(json!({ "csv": "\u{0}\u{1}" })), 422, "faults"),
    ];
    for (method, path, body, status, code) in cases {
        api.refused(method, &path, body.map(|body| body.to_string()), status, code).await;
    }
    assert_eq!(api.view().await, before);
}

#[actix_web::test]
async fn a_setup_of_facts_that_cannot_be_is_refused_at_its_place() {
    let api = api().await;
    let view = api.view().await;
    let setup = &view["home"]["setups"][2];
    let path = api.at(&format!("/setups/{}", setup["id"].as_str().unwrap()));
    let refused: [(Change, &str, &str); 6] = [
        (|own| own["devices"][0]["network_name"] = "n".repeat(33).into(), "/devices/0/network_name", "32 bytes"),
        (
            |own| own["devices"][0]["guest_network"] = "\u{1f426}".repeat(9).into(),
            "/devices/0/guest_network",
            "32 bytes",
        ),
        (|own| own["devices"][0]["radios"][0]["turned_down_db"] = json!(-2), "/turned_down_db", "0 to 30 dB"),
        (|own| own["devices"][0]["radios"][1]["hand_over_dbm"] = json!(-20), "/hand_over_dbm", "-95 to -40 dBm"),
        (|own| own["devices"][2]["uplink"]["port"] = json!(0), "/uplink/port", "1 to 64"),
        (
            |own| own["put_aside"] = json!([{ "rule": " ", "device_id": null, "because": "" }]),
            "/put_aside/0/rule",
            "needs a name",
        ),
    ];
    for (change, pointer, told) in refused {
        let mut edit = setup.clone();
        change(&mut edit);
        let (status, problem) = api.send(Method::PUT, &path, edit).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{pointer}: {problem}");
        let fault = &problem["faults"][0];
        assert!(fault["pointer"].as_str().unwrap().ends_with(pointer), "{fault}");
        assert!(fault["message"].as_str().unwrap().contains(told), "{fault}");
    }
    assert_eq!(api.view().await, view);
}

/// A round of setup A whose kit reports at this address.
fn with_report(address: &str) -> Value {
    json!({
        "setup_id": SetupId::named("A"), "client": "phone_ax", "band": null, "kind": "local", "doors": "as_left", "situation": "alone",
        "runs_per_spot": 5, "spots": [], "kit_report": address
    })
}

#[actix_web::test]
async fn nothing_of_this_machine_is_fetched_but_stand_in_kit_and_no_error_repeats_what_was_read() {
    let secret = "a word that nobody outside may read";
    let served = move |path: &'static str, says_so: bool| {
        let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
        let port = listener.local_addr().unwrap().port();
        std::thread::spawn(move || {
            for mut stream in listener.incoming().flatten() {
                let mut head = [0; 2048];
                let read = std::io::Read::read(&mut stream, &mut head).unwrap_or(0);
                let asked = String::from_utf8_lossy(&head[..read]).starts_with(&format!("GET {path} "));
                let status = if asked { "200 OK" } else { "404 Not Found" };
                let header = if says_so { "busy-hen-stand-in: kit\r\n" } else { "" };
                let body = format!("{{\"wfa-dataelements:Network\": \"{secret}\"}}");
                let answer = format!(
                    "HTTP/1.1 {status}\r\n{header}content-length: {}\r\nconnection: close\r\n\r\n{body}",
                    body.len()
                );
                let _ = std::io::Write::write_all(&mut stream, answer.as_bytes());
            }
        });
        port
    };
    let api = api().await;
    let (plain, stand_in) = (served("/report.json", false), served("/report.json", true));
    let closed = std::net::TcpListener::bind("127.0.0.1:0").unwrap().local_addr().unwrap().port();
    let mut told = Vec::new();
    for address in [
        format!("http://127.0.0.1:{plain}/report.json"),
        format!("http://127.0.0.1:{closed}/report.json"),
        format!("http://127.0.0.1:{stand_in}/report.json"),
        format!("http://127.0.0.1:{plain}/other"),
        format!("http://127.0.0.1:{plain}/report.json?x=1"),
        "http://127.0.0.1:22/report.json".to_owned(),
        format!("http://0.0.0.0:{plain}/report.json"),
        format!("http://[::ffff:127.0.0.1]:{plain}/secret"),
        format!("http://localhost:{plain}/report.json"),
    ] {
        let (status, problem) = api.send(Method::POST, &api.at("/rounds"), with_report(&address)).await;
        assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{address}: {problem}");
        assert!(!problem.to_string().contains(secret), "{problem}");
        told.push(problem["faults"][0]["message"].as_str().unwrap().replace(&address, ""));
    }
    assert!(told[..3].iter().all(|own| *own == told[0]), "whether a port is open here is nobody's to learn: {told:?}");
}

#[actix_web::test]
async fn an_address_that_came_with_a_file_is_not_asked_before_somebody_says_so() {
    let api = api().await;
    let round = api.round().await;
    let mut file = api.get(&api.at("/file")).await;
    file["rounds"][0]["round"]["on_record"]["kit_report"] = json!("http://127.0.0.1:8095/report.json");
    let (status, home) = api.send(Method::POST, "/api/home-files", file).await;
    assert_eq!(status, StatusCode::CREATED, "{home}");
    let own = format!("/api/rounds/{}", home["rounds"][0]["round"]["id"].as_str().unwrap());
    let view = api.get(&own).await;
    assert_eq!(
        (&view["kit_report_unsaid"], &view["round"]["on_record"]["kit_report"]),
        (&json!(true), &json!("http://127.0.0.1:8095/report.json"))
    );
    let (status, _, text) = api.raw(Method::PUT, &format!("{own}/kit-report"), None).await;
    assert_eq!(status, StatusCode::NO_CONTENT, "{text}");
    assert_eq!(api.get(&own).await["kit_report_unsaid"], false);
    // A round without one has nothing to say.
    let other = format!("/api/rounds/{}", round["round"]["id"].as_str().unwrap());
    assert_eq!(api.get(&other).await["kit_report_unsaid"], false);
    api.refused(Method::PUT, &format!("{other}/kit-report"), None, 409, "conflict").await;
}
