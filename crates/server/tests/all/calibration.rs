//! What readings teach, what would teach more, dead zones, comparing and deciding over the interface; and what bad input gets there.

use actix_web::http::{Method, StatusCode};
use busy_hen_home::{RoomId, SetupId, SpotId};
use serde_json::{Value, json};

use crate::rig::api;

fn ask() -> Value {
    json!({ "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" })
}

fn heard(spot: &str, signal: f64) -> Value {
    json!({ "spot_id": SpotId::named(spot), "source": "typed", "carried_by": "home_wifi", "signal_dbm": signal,
            "band": "5", "outcome": { "kind": "heard" } })
}

fn down(spot: &str, down: f64) -> Value {
    json!({ "spot_id": SpotId::named(spot), "source": "typed", "carried_by": "home_wifi",
            "outcome": { "kind": "measured", "down_mbps": down, "up_mbps": 20.0, "idle_ms": 9.0, "loaded_ms": null,
                         "jitter_ms": null, "loss_percent": null } })
}

fn row<'a>(view: &'a Value, room: &str) -> &'a Value {
    view["ledger"].as_array().unwrap().iter().find(|row| row["name"] == room).unwrap()
}

#[actix_web::test]
async fn readings_change_what_is_predicted_and_can_be_switched_off_and_taken_back() {
    let api = api().await;
    let empty = api.get(&api.at("/calibration")).await;
    assert_eq!((empty["runs"].as_array().unwrap().len(), &empty["off_by_tables_db"]), (0, &Value::Null));
    let before = api.coverage(json!({ "kind": "works" })).await;
    let round = api.round().await;
    // All that was read is far weaker than predicted.
    let runs = ["Front room", "Back room", "Kitchen", "Study", "Landing"].map(|spot| heard(spot, -78.0));
    assert_eq!(api.runs(&round, json!(runs)).await.0, StatusCode::CREATED);
    let learnt = api.get(&api.at("/calibration")).await;
    assert_eq!((learnt["runs"].as_array().unwrap().len(), &learnt["made_up"]), (5, &json!(false)));
    assert_eq!(learnt["rounds"], json!([round["round"]["id"]]));
    assert!(learnt["off_by_tables_db"].as_f64().unwrap() > 8.0, "{learnt}");
    assert!(!learnt["lessons"].as_array().unwrap().is_empty());
    let after = api.coverage(json!({ "kind": "works" })).await;
    let signal = |view: &Value| row(view, "Kitchen")["predicted"]["served"]["signal_dbm"].as_f64().unwrap();
    assert!(signal(&after) < signal(&before) - 5.0, "{} {}", signal(&after), signal(&before));
    for layer in ["known", "learnt"] {
        let lit = api.coverage(json!({ "kind": layer })).await;
        assert_eq!(lit["shades"].as_array().unwrap().len(), 5);
        assert!(!lit["levels"][0]["shaded"].as_array().unwrap().is_empty());
    }
    let (status, view) = api.send(Method::PUT, &api.at("/tables-alone"), json!({ "tables_alone": true })).await;
    assert_eq!((status, &view["home"]["tables_alone"]), (StatusCode::OK, &json!(true)));
    assert_eq!(row(&api.coverage(json!({ "kind": "works" })).await, "Kitchen"), row(&before, "Kitchen"));
    api.send(Method::POST, &api.at("/undo"), json!({ "to": null })).await;
    assert_eq!(row(&api.coverage(json!({ "kind": "works" })).await, "Kitchen"), row(&after, "Kitchen"));
    // A reading that is taken back teaches nothing any more.
    let runs = api.get(&format!("/api/rounds/{}/runs", round["round"]["id"].as_str().unwrap())).await;
    for run in runs.as_array().unwrap() {
        let path = format!("/api/runs/{}/void", run["id"].as_str().unwrap());
        api.send(Method::POST, &path, json!({ "reason": "the phone lay in a drawer" })).await;
    }
    assert_eq!(api.get(&api.at("/calibration")).await["runs"], json!([]));
}

#[actix_web::test]
async fn what_would_teach_most_is_asked_for_and_told() {
    let api = api().await;
    let path = api.at(&format!("/setups/{}/next", SetupId::named("A")));
    let (status, view) = api.send(Method::POST, &path, json!({ "ask": ask(), "done": [SpotId::named("Study")] })).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let spots = view["spots"].as_array().unwrap();
    assert!(spots.len() > 5 && spots.iter().all(|own| own["spot_id"] != json!(SpotId::named("Study"))));
    assert!(spots.iter().all(|own| own["told"].as_str().unwrap().len() > 10));
}

#[actix_web::test]
async fn dead_zones_are_told_with_their_cause_and_a_remedy_is_tried_as_a_copy() {
    let api = api().await;
    let setup = SetupId::named("A");
    let (status, zones) =
        api.send(Method::POST, &api.at(&format!("/setups/{setup}/dead-zones")), json!({ "ask": ask() })).await;
    assert_eq!(status, StatusCode::OK, "{zones}");
    let pottery = zones.as_array().unwrap().iter().find(|own| own["name"] == "Pottery").unwrap();
    assert_eq!(pottery["known_by"], "tables");
    assert!(pottery["likely_part"].as_f64().unwrap() > 0.5 && !pottery["cause"].as_str().unwrap().is_empty());
    let asked = json!({ "ask": ask(), "room_id": RoomId::named("Pottery") });
    let (status, list) = api.send(Method::POST, &api.at(&format!("/setups/{setup}/remedies")), asked).await;
    assert_eq!(status, StatusCode::OK, "{list}");
    let list = list.as_array().unwrap();
    let place = |free: bool| list.iter().position(|own| own["free"] == free);
    assert!(place(true).is_none_or(|free| place(false).is_none_or(|paid| free < paid)), "free ones first: {list:?}");
    let cable = list.iter().find(|own| own["what"] == "an access point more in Pottery, by cable").unwrap();
    assert!(cable["then_mbps"].as_f64().unwrap() > 50.0 && cable["likely_part"].as_f64().unwrap() > 0.9, "{cable}");
    assert!(cable["costs"].as_f64().unwrap() > 0.0);
    let tried = json!({ "ask": ask(), "room_id": RoomId::named("Pottery"), "what": cable["what"] });
    let (status, view) = api.send(Method::POST, &api.at(&format!("/setups/{setup}/try-remedy")), tried).await;
    assert_eq!(status, StatusCode::OK, "{view}");
    let copy = view["home"]["setups"].as_array().unwrap().last().unwrap();
    assert_eq!((&copy["name"], copy["devices"].as_array().unwrap().len()), (&cable["what"], 2));
    // A measured room is a zone by its measurement.
    let round = api.round().await;
    api.runs(&round, json!([down("Study", 2.0), down("Study", 2.1), down("Study", 1.9)])).await;
    let path = api.at(&format!("/setups/{setup}/dead-zones"));
    let (_, zones) = api.send(Method::POST, &path, json!({ "ask": ask() })).await;
    let study = zones.as_array().unwrap().iter().find(|own| own["name"] == "Study").unwrap();
    assert_eq!((&study["known_by"], &study["likely_part"]), (&json!("measured"), &json!(1.0)));
}

#[actix_web::test]
async fn setups_are_compared_decided_on_and_tried_by_turns() {
    let api = api().await;
    let (a, b, c) = (SetupId::named("A"), SetupId::named("B"), SetupId::named("C"));
    let trial = "5d1c4f8a-6f27-4b39-9ad1-0e3c5b7f2a11";
    let mut rounds = Vec::new();
    for setup in [a, b] {
        let new = json!({ "setup_id": setup, "client": "phone_ax", "band": null, "kind": "internet", "doors": "as_left",
                          "situation": "alone", "runs_per_spot": 6, "spots": [SpotId::named("Study")], "trial": trial });
        let (status, round) = api.send(Method::POST, &api.at("/rounds"), new).await;
        assert_eq!(status, StatusCode::CREATED, "{round}");
        rounds.push(round);
    }
    for pair in 0..6 {
        let step = f64::from(pair);
        api.runs(&rounds[0], json!([down("Study", 50.0 + step)])).await;
        let view = api.compared(&[a, b]).await;
        assert_eq!(view["trials"][0]["turn"], 1, "now the other");
        api.runs(&rounds[1], json!([down("Study", 80.0 + 2.0 * step)])).await;
    }
    let view = api.compared(&[a, b, c]).await;
    let own = &view["trials"][0];
    assert_eq!((own["pairs"].as_array().unwrap().len(), &own["turn"]), (6, &Value::Null));
    assert!((own["against"]["p"].as_f64().unwrap() - 2.0 / 64.0).abs() < 1e-12);
    assert_eq!(own["against"]["call"]["kind"], "beyond");
    assert_eq!(view["columns"].as_array().unwrap().len(), 3);
    let study = view["rows"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap();
    let cell = &study["cells"][1];
    assert_eq!((cell["values"].as_array().unwrap().len(), &cell["against"]["call"]["kind"]), (6, &json!("beyond")));
    assert!(cell["share_of_ceiling"].as_f64().unwrap() > 0.2);
    assert!(view["choice"]["keep"].is_string() && view["choice"]["sentences"].as_array().unwrap().len() == 4);
    let decision = json!({ "decision": { "setup_id": c, "because": "the family wants no cable in the hall" } });
    let (status, home) = api.send(Method::PUT, &api.at("/decision"), decision).await;
    assert_eq!(status, StatusCode::OK, "{home}");
    assert_eq!(home["home"]["in_force"], json!(c));
    assert_eq!(api.compared(&[a, b]).await["decision"]["setup_id"], json!(c));
    // It goes with its setup.
    api.raw(Method::DELETE, &api.at(&format!("/setups/{c}?with_readings=true")), None).await;
    assert_eq!(api.compared(&[a, b]).await["decision"], Value::Null);
}

#[actix_web::test]
async fn two_rounds_of_one_setup_stand_side_by_side() {
    let api = api().await;
    let mut columns = Vec::new();
    for factor in [1.0, 1.6] {
        let round = api.round().await;
        let runs: Vec<Value> = (0..6).map(|step| down("Study", factor * (50.0 + f64::from(step)))).collect();
        assert_eq!(api.runs(&round, json!(runs)).await.0, StatusCode::CREATED);
        columns.push(json!({ "setup_id": SetupId::named("A"), "round_id": round["round"]["id"] }));
    }
    let view = api.compared_columns(json!(columns)).await;
    let study = view["rows"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap();
    assert_eq!(study["cells"][0]["values"].as_array().unwrap().len(), 6, "each round alone: {study}");
    assert!((study["cells"][1]["against"]["ratio"].as_f64().unwrap() - 1.6).abs() < 0.05);
    assert_eq!(view["columns"][1]["round_id"], columns[1]["round_id"]);
    assert!(view["columns"][1]["begun"].is_string());
    // Together with all that was measured of the setup.
    columns.push(json!({ "setup_id": SetupId::named("A") }));
    let view = api.compared_columns(json!(columns)).await;
    let study = view["rows"].as_array().unwrap().iter().find(|row| row["name"] == "Study").unwrap();
    assert_eq!(study["cells"][2]["values"].as_array().unwrap().len(), 12);
}

#[actix_web::test]
async fn bad_input_is_refused_and_changes_nothing() {
    let api = api().await;
    let before = api.view().await;
    let (a, none) = (SetupId::named("A"), SetupId::named("none"));
    let compare = |change: fn(&mut Value)| {
        let mut asked = json!({ "columns": [{ "setup_id": SetupId::named("A") }], "reference": 0, "kind": "internet",
                                "client": "phone_ax", "situation": "alone" });
        change(&mut asked);
        Some(asked.to_string())
    };
    let cases = [
        (Method::POST, api.at("/compare"), compare(|own| own["columns"] = json!([])), 422, "faults"),
        (Method::POST, api.at("/compare"), compare(|own| own["reference"] = json!(3)), 422, "faults"),
        (
            Method::POST,
            api.at("/compare"),
            compare(|own| own["columns"][0]["round_id"] = json!(SetupId::named("B"))),
            404,
            "not_found",
        ),
        (Method::POST, api.at("/compare"), compare(|own| own["client"] = json!("abacus")), 422, "faults"),
        (Method::POST, api.at("/compare"), compare(|own| own["kind"] = json!("upside")), 400, "bad_body"),
        (
            Method::POST,
            api.at("/compare"),
            compare(|own| own["columns"][0]["setup_id"] = json!(SetupId::named("none"))),
            404,
            "not_found",
        ),
        (
            Method::PUT,
            api.at("/decision"),
            Some(json!({ "decision": { "setup_id": none, "because": "x" } }).to_string()),
            404,
            "not_found",
        ),
        (
            Method::PUT,
            api.at("/decision"),
            Some(json!({ "decision": { "setup_id": a, "because": "x".repeat(9000) } }).to_string()),
            422,
            "faults",
        ),
        (Method::PUT, api.at("/tables-alone"), Some(json!({ "tables_alone": "perhaps" }).to_string()), 400, "bad_body"),
        (
            Method::POST,
            api.at(&format!("/setups/{none}/next")),
            Some(json!({ "ask": ask(), "done": [] }).to_string()),
            404,
            "not_found",
        ),
        (
            Method::POST,
            api.at(&format!("/setups/{none}/dead-zones")),
            Some(json!({ "ask": ask() }).to_string()),
            404,
            "not_found",
        ),
        (
            Method::POST,
            api.at(&format!("/setups/{a}/remedies")),
            Some(json!({ "ask": ask(), "room_id": RoomId::named("none") }).to_string()),
            404,
            "not_found",
        ),
        (
            Method::POST,
            api.at(&format!("/setups/{a}/try-remedy")),
            Some(json!({ "ask": ask(), "room_id": RoomId::named("Pottery"), "what": "pray" }).to_string()),
            409,
            "conflict",
        ),
    ];
    for (method, path, body, status, code) in cases {
        api.refused(method, &path, body, status, code).await;
    }
    assert_eq!(api.view().await, before);
}
