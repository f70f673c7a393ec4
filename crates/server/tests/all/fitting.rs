//! The run sheet over the interface: ticking, two at once, taking back, in and out as a file; passwords that are kept nowhere; failures.

use actix_web::http::{Method, StatusCode};
use busy_hen_home::SetupId;
use serde_json::{Value, json};

use crate::rig::api;

fn of(letter: &str, what: &str) -> String {
    format!("/setups/{}/{what}", SetupId::named(letter))
}

/// The step whose words begin like this.
fn step(view: &Value, what: &str) -> String {
    let steps = view["sheet"]["steps"].as_array().unwrap();
    let found = steps.iter().find(|own| own["what"].as_str().unwrap().starts_with(what));
    found.unwrap_or_else(|| panic!("no step {what}"))["key"].as_str().unwrap().to_owned()
}

fn done(step: &str) -> Value {
    json!({ "step": step, "outcome": { "kind": "done" }, "by": "Wren", "note": "" })
}

/// Says what is refused, with the place that is named.
fn named(answer: (StatusCode, Value), pointer: &str) {
    let (status, problem) = answer;
    assert_eq!(status, StatusCode::UNPROCESSABLE_ENTITY, "{problem}");
    assert_eq!(problem["faults"][0]["pointer"], pointer, "{problem}");
}

#[actix_web::test]
async fn steps_are_ticked_by_two_at_once_taken_back_and_told_in_the_report() {
    let api = api().await;
    let path = api.at(&of("B", "ticks"));
    let begun = api.get(&api.at(&of("B", "sheet"))).await;
    let steps = begun["report"]["steps"].as_u64().unwrap();
    assert!(steps > 15 && begun["report"]["answered"] == 0);
    let (name, pair) = (step(&begun, "Name it"), step(&begun, "Pair Landing node"));
    // Neither knows of the other's: each tick is by itself.
    let (one, two) = (done(&name), done(&pair));
    let (first, second) = tokio::join!(api.send(Method::PUT, &path, one), api.send(Method::PUT, &path, two));
    assert_eq!((first.0, second.0), (StatusCode::OK, StatusCode::OK));
    let view = api.get(&api.at(&of("B", "sheet"))).await;
    assert_eq!(view["report"]["answered"], 2);
    assert_eq!(view["ticks"][0]["by"], "Wren");
    let skip = json!({ "step": pair, "outcome": { "kind": "skipped", "because": "node is at the client's sister" } });
    let (_, view) = api.send(Method::PUT, &path, skip).await;
    assert_eq!(view["report"]["answered"], 2, "the newest word on a step is the one");
    let left = view["report"]["not_done"].as_array().unwrap();
    assert!(left.iter().any(|own| own.as_str().unwrap().contains("node is at the client's sister")), "{left:?}");
    let (_, view) = api.send(Method::PUT, &path, json!({ "step": pair, "outcome": null })).await;
    assert_eq!(view["report"]["answered"], 1);
    // What was said earlier and arrives later does not outdo what was said since; a clock that goes ahead outdoes nobody.
    let said = |at: &str, kind: &str| json!({ "step": name, "outcome": { "kind": kind }, "at": at });
    let (_, view) = api.send(Method::PUT, &path, said("2026-01-01T08:00:00Z", "not_seen")).await;
    assert_eq!(view["ticks"][0]["outcome"]["kind"], "done");
    let back = json!({ "step": name, "outcome": null, "at": "2026-01-01T08:00:00Z" });
    let (_, view) = api.send(Method::PUT, &path, back).await;
    assert_eq!(view["report"]["answered"], 1, "taken back before it was said");
    api.send(Method::PUT, &path, said("2999-01-01T08:00:00Z", "not_seen")).await;
    let (_, view) = api.send(Method::PUT, &path, done(&name)).await;
    assert_eq!(view["ticks"][0]["outcome"]["kind"], "done");
    // Ticks of one setup are none of another's.
    assert_eq!(api.get(&api.at(&of("C", "sheet"))).await["report"]["answered"], 0);
}

#[actix_web::test]
async fn a_sheet_goes_out_and_comes_in_with_its_home() {
    let api = api().await;
    let name = step(&api.get(&api.at(&of("B", "sheet"))).await, "Name it");
    api.send(Method::PUT, &api.at(&of("B", "ticks")), done(&name)).await;
    let file = api.get(&api.at("/file")).await;
    assert_eq!(file["ticks"][0]["step"], json!(name));
    let (status, view) = api.send(Method::POST, "/api/home-files", file.clone()).await;
    assert_eq!(status, StatusCode::CREATED, "{view}");
    let again = api.get(&format!("/api/homes/{}/file", view["id"].as_str().unwrap())).await;
    assert_eq!(again["ticks"], file["ticks"]);
    let mut wrong = file;
    wrong["ticks"][0]["setup_id"] = json!("00000000-0000-4000-8000-000000000000");
    named(api.send(Method::POST, "/api/home-files", wrong).await, "/ticks/0/setup_id");
}

#[actix_web::test]
async fn what_is_wrong_with_a_tick_is_told_and_nothing_is_kept() {
    let api = api().await;
    let path = api.at(&of("B", "ticks"));
    let name = step(&api.get(&api.at(&of("B", "sheet"))).await, "Name it");
    let long = "x".repeat(501);
    for (tick, pointer) in [
        (json!({ "step": "", "outcome": { "kind": "done" } }), "/step"),
        (json!({ "step": "stroke the hen", "outcome": { "kind": "done" } }), "/step"),
        (json!({ "step": name, "outcome": { "kind": "skipped", "because": "  " } }), "/outcome/because"),
        (json!({ "step": name, "outcome": { "kind": "skipped", "because": long } }), "/outcome/because"),
        (json!({ "step": name, "outcome": { "kind": "done" }, "note": long }), "/note"),
    ] {
        named(api.send(Method::PUT, &path, tick).await, pointer);
    }
    let perhaps = json!({ "step": name, "outcome": { "kind": "perhaps" } }).to_string();
    api.refused(Method::PUT, &path, Some(perhaps), 400, "bad_body").await;
    let nobody = api.at(&of("Z", "ticks"));
    let (status, _) = api.send(Method::PUT, &nobody, done(&name)).await;
    assert_eq!(status, StatusCode::NOT_FOUND);
    assert_eq!(api.get(&api.at(&of("B", "sheet"))).await["ticks"], json!([]));
}

#[actix_web::test]
async fn a_password_is_shown_once_and_kept_nowhere() {
    let api = api().await;
    let (status, guests) = api.send(Method::POST, "/api/new-password", json!({ "network": "Kiln guests" })).await;
    assert_eq!(status, StatusCode::OK);
    let password = guests["password"].as_str().unwrap().to_owned();
    assert!(guests["qr_svg"].as_str().unwrap().contains("<svg"));
    let (_, admin) = api.send(Method::POST, "/api/new-password", json!({ "network": "" })).await;
    assert_eq!(admin["qr_svg"], Value::Null);
    named(api.send(Method::POST, "/api/new-password", json!({ "network": "x".repeat(33) })).await, "/network");
    // Neither the file of the home nor the database knows of it.
    assert!(!api.get(&api.at("/file")).await.to_string().contains(&password));
    assert!(!database_holds(api.folder.path(), &password));
}

/// Whether some file of the database holds these words.
fn database_holds(folder: &std::path::Path, words: &str) -> bool {
    let files: Vec<Vec<u8>> =
        std::fs::read_dir(folder).unwrap().map(|entry| std::fs::read(entry.unwrap().path()).unwrap()).collect();
    assert!(files.iter().map(Vec::len).sum::<usize>() > 1000, "the database lies elsewhere");
    files.iter().any(|bytes| bytes.windows(words.len()).any(|own| own == words.as_bytes()))
}

#[actix_web::test]
async fn a_password_that_is_kept_is_read_by_nobody_without_the_pass_phrase() {
    const PASSWORD: &str = "q52y-mpu7-wwty-4hhu";
    const PHRASE: &str = "clay, glaze and kiln";
    let api = api().await;
    let path = api.at("/passwords");
    let ask = |pass_phrase: &str| json!({ "what": "network Kiln", "network": "Kiln", "password": PASSWORD, "pass_phrase": pass_phrase });
    named(api.send(Method::POST, &path, ask("short")).await, "/pass_phrase");
    let empty = json!({ "what": "network Kiln", "password": "", "pass_phrase": PHRASE });
    named(api.send(Method::POST, &path, empty).await, "/password");
    let (status, view) = api.send(Method::POST, &path, ask(PHRASE)).await;
    assert_eq!(status, StatusCode::CREATED, "{view}");
    named(api.send(Method::POST, &path, ask("another pass phrase")).await, "/pass_phrase");
    let kept = view["home"]["passwords"].as_array().unwrap();
    assert_eq!((kept.len(), &kept[0]["what"]), (1, &json!("network Kiln")));
    let file = api.get(&api.at("/file")).await;
    for words in [PASSWORD, PHRASE] {
        assert!(!file.to_string().contains(words) && !view.to_string().contains(words));
        assert!(!database_holds(api.folder.path(), words), "{words}");
    }
    assert!(database_holds(api.folder.path(), "network Kiln"), "the database holds what is said of it");
    // It opens to whoever knows the pass phrase, also where the home came in as a file.
    let (status, copy) = api.send(Method::POST, "/api/home-files", file).await;
    assert_eq!(status, StatusCode::CREATED, "{copy}");
    for home in [api.home.to_string(), copy["id"].as_str().unwrap().to_owned()] {
        let open = format!("/api/homes/{home}/passwords/{}/open", kept[0]["id"].as_str().unwrap());
        named(api.send(Method::POST, &open, json!({ "pass_phrase": "Clay, glaze and kiln" })).await, "/pass_phrase");
        let (status, shown) = api.send(Method::POST, &open, json!({ "pass_phrase": PHRASE })).await;
        assert_eq!((status, &shown["password"]), (StatusCode::OK, &json!(PASSWORD)));
        assert!(shown["qr_svg"].as_str().unwrap().contains("<svg"));
    }
    let one = format!("{path}/{}", kept[0]["id"].as_str().unwrap());
    let (status, view) = api.send(Method::DELETE, &one, Value::Null).await;
    assert_eq!((status, &view["home"]["passwords"]), (StatusCode::OK, &Value::Null));
    api.refused(Method::DELETE, &one, None, 404, "not_found").await;
}

#[actix_web::test]
async fn what_a_page_heard_is_told_as_marks_and_the_line_of_the_home_decides_what_they_are() {
    let api = api().await;
    let heard = json!({
        "within": null,
        "beyond": {
            "trips": [
                { "at_ms": 100.0, "took_ms": 9.0, "far_ms": 1.0 }, { "at_ms": 5000.0, "took_ms": 9.0, "far_ms": 2.0 },
                { "at_ms": 9000.0, "took_ms": 9.0, "far_ms": 3.0 },
            ],
            "lost": [1000.0, 2000.0], "broken": [], "arrived": [], "broken_downloads": [],
            "ways": [{ "at_ms": 100, "address": "203.0.113.9" }, { "at_ms": 5050, "address": "198.51.100.7" }],
            "until_ms": 9500.0,
        },
    });
    let ask = json!({ "failure": { "what": "line" }, "marks": [], "heard": heard });
    let path = api.at(&of("B", "drill-marks"));
    let kinds = |marks: &Value| -> Vec<String> {
        marks.as_array().unwrap().iter().map(|own| own["seen"]["kind"].as_str().unwrap().to_owned()).collect()
    };
    let (_, alone) = api.send(Method::POST, &path, ask.clone()).await;
    assert_eq!(kinds(&alone), ["loss_noticed", "first_life", "all_back", "took_over"]);
    let mut brief = api.view().await["home"]["brief"].clone();
    let mut plan = brief["plans"][0].clone();
    plan["id"] = json!("00000000-0000-4000-8000-000000000002");
    brief["second_line"] = json!({ "carries": "takes_over", "plans": [plan] });
    let view = api.view().await;
    let edit = json!({ "name": view["home"]["name"], "region": "GB", "units": "m", "brief": brief });
    let (status, view) = api.send(Method::PUT, &api.at("/brief"), edit).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let (_, both) = api.send(Method::POST, &path, ask.clone()).await;
    assert_eq!(kinds(&both), ["loss_noticed", "took_over"]);
    api.refused(Method::POST, &api.at(&of("Z", "drill-marks")), Some(ask.to_string()), 404, "not_found").await;
}

#[actix_web::test]
async fn a_round_by_the_second_line_needs_one_and_its_runs_say_which_carried_them() {
    let api = api().await;
    let view = api.view().await;
    let setup = view["home"]["setups"][1]["id"].clone();
    let new = json!({ "setup_id": setup, "client": "phone_ax", "band": null, "kind": "second_line", "doors": "as_left",
        "situation": "alone", "runs_per_spot": 1, "spots": [] });
    named(api.send(Method::POST, &api.at("/rounds"), new.clone()).await, "/kind");
    let mut brief = view["home"]["brief"].clone();
    let second = json!({ "id": "00000000-0000-4000-8000-000000000002", "from": "2026-01-01", "down_mbps": 30.0,
        "up_mbps": 8.0, "line": "mobile" });
    brief["second_line"] = json!({ "carries": "takes_over", "plans": [second] });
    let edit = json!({ "name": view["home"]["name"], "region": "GB", "units": "m", "brief": brief });
    api.send(Method::PUT, &api.at("/brief"), edit).await;
    let (status, round) = api.send(Method::POST, &api.at("/rounds"), new).await;
    assert_eq!(status, StatusCode::CREATED, "{round}");
    let most = round["tested"]["forecasts"].as_array().unwrap().iter();
    let most = most.map(|own| own["down"]["good"].as_f64().unwrap()).fold(0.0, f64::max);
    assert!((20.0..=33.0).contains(&most), "forecast by the plan of the second line: {most}");
    let spot = round["round"]["spots"][0].clone();
    let run = |down: f64| {
        json!([{ "spot_id": spot, "source": "typed", "carried_by": "home_wifi",
        "outcome": { "kind": "measured", "down_mbps": down, "up_mbps": 6.0, "idle_ms": null, "loaded_ms": null,
            "jitter_ms": null, "loss_percent": null } }])
    };
    let (status, problem) = api.runs(&round, run(250.0)).await;
    assert_eq!((status, &problem["code"]), (StatusCode::CONFLICT, &json!("over_ceiling")), "{problem}");
    let (status, runs) = api.runs(&round, run(24.0)).await;
    assert_eq!(status, StatusCode::CREATED, "{runs}");
    assert_eq!(runs[0]["plan_id"], "00000000-0000-4000-8000-000000000002");
}

#[actix_web::test]
async fn each_failure_tells_which_way_nodes_go_and_drills_of_it_are_kept_once() {
    let api = api().await;
    let ask = json!({ "ask": { "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" } });
    let path = api.at(&of("C", "drills"));
    let (status, list) = api.send(Method::POST, &path, ask.clone()).await;
    assert_eq!(status, StatusCode::OK, "{list}");
    let find = |list: &Value, doing: &str| -> Value {
        let mut own = list.as_array().unwrap().iter().filter(|own| own["predicted"]["doing"] == doing);
        own.next().unwrap_or_else(|| panic!("{doing}")).clone()
    };
    let cable = find(&list, "pull the cable that feeds Pottery point");
    let predicted = &cable["predicted"];
    assert!(predicted["told"].to_string().contains("Pottery point finds no other way"), "{cable}");
    let pottery = &predicted["rooms"][0];
    assert_eq!(pottery["name"], "Pottery", "what loses most comes first");
    let rate = |what: &str| pottery[what].as_f64().unwrap();
    assert!(rate("left_mbps") < 0.7 * rate("before_mbps"), "{pottery}");
    assert_eq!(find(&list, "pull the line")["predicted"]["rooms"][0]["left_mbps"], 0.0);
    assert!(!cable["usual"].as_array().unwrap().is_empty());

    let drill = |id: &str, failure: &Value, back: u32| {
        json!({ "id": id, "setup_id": SetupId::named("C"), "failure": failure, "begun": "2026-11-27T09:00:00Z",
                "marks": [{ "seen": { "kind": "loss_noticed" }, "after_ms": 1500, "by_probe": true },
                          { "seen": { "kind": "put_back" }, "after_ms": 9000 },
                          { "seen": { "kind": "all_back" }, "after_ms": 9000 + back }] })
    };
    let line = json!({ "what": "line" });
    let one = drill("5b0c2a66-3a0f-4f5e-9f5e-0b8d6a1f2c3d", &line, 6000);
    for _ in 0..2 {
        assert_eq!(api.send(Method::POST, &api.at("/drills"), one.clone()).await.0, StatusCode::CREATED);
    }
    let two = drill("5b0c2a66-3a0f-4f5e-9f5e-0b8d6a1f2c3e", &line, 8000);
    api.send(Method::POST, &api.at("/drills"), two).await;
    let (_, list) = api.send(Method::POST, &path, ask.clone()).await;
    let own = find(&list, "pull the line");
    assert_eq!(own["drills"].as_array().unwrap().len(), 2, "sent twice, kept once");
    let back = own["timed"].as_array().unwrap().iter().find(|own| own["part"] == "all_back").unwrap().clone();
    assert_eq!((&back["took_s"]["median"], &back["drills"]), (&json!(7.0), &json!(2)));
    assert!(find(&list, "pull the power of Front node")["drills"].as_array().unwrap().is_empty());
    // Out and in with the home; taken away for good.
    let file = api.get(&api.at("/file")).await;
    assert_eq!(file["drills"].as_array().unwrap().len(), 2);
    assert_eq!(api.send(Method::POST, "/api/home-files", file).await.0, StatusCode::CREATED);
    let gone = "/api/drills/5b0c2a66-3a0f-4f5e-9f5e-0b8d6a1f2c3d";
    assert_eq!(api.raw(Method::DELETE, gone, None).await.0, StatusCode::NO_CONTENT);
    api.refused(Method::DELETE, gone, None, 404, "not_found").await;
    // Other marks under an id that is taken are another drill.
    let other = drill("5b0c2a66-3a0f-4f5e-9f5e-0b8d6a1f2c3e", &line, 1);
    api.refused(Method::POST, &api.at("/drills"), Some(other.to_string()), 409, "conflict").await;
    let mut wrong = drill("5b0c2a66-3a0f-4f5e-9f5e-0b8d6a1f2c4f", &line, 10);
    wrong["marks"][1]["after_ms"] = json!(10);
    named(api.send(Method::POST, &api.at("/drills"), wrong).await, "/marks/1/after_ms");
    let nobody = api.at(&of("Z", "drills"));
    assert_eq!(api.send(Method::POST, &nobody, ask).await.0, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn a_probe_sees_whether_a_device_of_this_home_answers_and_knocks_nowhere_else() {
    let api = api().await;
    let listener = std::net::TcpListener::bind("127.0.0.1:0").unwrap();
    let address = listener.local_addr().unwrap().to_string();
    let ask = |address: &str| json!({ "address": address });
    let (_, seen) = api.send(Method::POST, "/api/probe", ask(&address)).await;
    assert_eq!(seen["answers"], true);
    drop(listener);
    let (_, seen) = api.send(Method::POST, "/api/probe", ask(&address)).await;
    assert_eq!(seen["answers"], false);
    for elsewhere in ["8.8.8.8", "example.org", "", "192.168.1", "1.1.1.1:53"] {
        named(api.send(Method::POST, "/api/probe", ask(elsewhere)).await, "/address");
    }
}

#[actix_web::test]
async fn thresholds_are_proposed_where_several_serve_and_nowhere_else() {
    let api = api().await;
    let ask = json!({ "ask": { "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" } });
    let (status, list) = api.send(Method::POST, &api.at(&of("C", "hand-overs")), ask.clone()).await;
    assert_eq!(status, StatusCode::OK, "{list}");
    for own in list.as_array().unwrap() {
        let proposed = own["proposed_dbm"].as_f64().unwrap();
        assert!((-95.0..=-40.0).contains(&proposed), "what a setup takes: {own}");
        assert!(own["told"].as_str().unwrap().ends_with('.'));
    }
    assert!(!list.as_array().unwrap().is_empty());
    let (_, alone) = api.send(Method::POST, &api.at(&of("A", "hand-overs")), ask.clone()).await;
    assert_eq!(alone, json!([]));
    assert_eq!(api.send(Method::POST, &api.at(&of("Z", "hand-overs")), ask).await.0, StatusCode::NOT_FOUND);
}

#[actix_web::test]
async fn what_drills_took_in_one_home_stands_beside_those_of_another_and_in_the_record_of_the_kit() {
    let api = api().await;
    assert_eq!(api.get("/api/kit-record").await, json!([]));
    let setup = SetupId::named("C");
    let device = api.view().await["home"]["setups"][2]["devices"][2].clone();
    let drill = json!({ "id": "5b0c2a66-3a0f-4f5e-9f5e-0b8d6a1f2c4d", "setup_id": setup,
        "failure": { "what": "power", "device": device["id"] }, "begun": "2026-11-27T09:00:00Z",
        "marks": [{ "seen": { "kind": "all_back" }, "after_ms": 95_000 }] });
    assert_eq!(api.send(Method::POST, &api.at("/drills"), drill).await.0, StatusCode::CREATED);
    let mut file = api.get(&api.at("/file")).await;
    api.send(Method::POST, "/api/home-files", file.clone()).await;
    let record = api.get("/api/kit-record").await;
    assert_eq!(
        (&record[0]["homes"], record.as_array().unwrap().len()),
        (&json!(1), 1),
        "a copy of it is no other home"
    );
    file["drills"][0]["begun"] = json!("2026-11-26T09:00:00Z");
    let (_, other) = api.send(Method::POST, "/api/home-files", file).await;
    let ask = json!({ "ask": { "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" } });
    let path = format!("/api/homes/{}/setups/{setup}/drills", other["id"].as_str().unwrap());
    let (_, list) = api.send(Method::POST, &path, ask).await;
    let own = list.as_array().unwrap().iter().find(|own| own["predicted"]["failure"]["device"] == device["id"]);
    let elsewhere = own.unwrap()["elsewhere"][0].clone();
    // Its own drill is not told twice.
    assert_eq!((&elsewhere["took_s"]["count"], &elsewhere["took_s"]["homes"]), (&json!(1), &json!(1)), "{elsewhere}");
    assert_eq!(elsewhere["took_s"]["figures"]["median"], 95.0);
    let record = api.get("/api/kit-record").await;
    assert_eq!((&record[0]["kit"], &record[0]["homes"]), (&device["kit"], &json!(2)), "{record}");
    assert!(record[0]["told"].as_str().unwrap().contains("too few"), "{record}");
}
