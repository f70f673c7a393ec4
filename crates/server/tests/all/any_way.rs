//! Any home that the application can reach by its own commands goes out as a file and comes in again the same.

use actix_web::http::{Method, StatusCode};
use proptest::prelude::*;
use serde_json::{Value, json};

use crate::rig::api;

/// Something that someone does; numbers choose among what is there.
#[derive(Debug, Clone)]
enum Command {
    Place(usize, f64),
    Move(usize, usize),
    TakeOff(usize, usize),
    Rename(usize),
    NewSetup(usize),
    DeleteSetup(usize),
    GoOnInACopy(usize),
    LineAway(usize),
    LineChanged(usize),
    LineRenamed(usize),
    WallMoved(usize),
    OtherUnit,
    AirAway,
    PlanChanged,
    Begin(usize),
    Read(usize, usize, Option<usize>),
    Strike(usize),
    PutRight(usize),
    DeleteRound(usize),
    Undo,
    Redo,
}

fn command() -> impl Strategy<Value = Command> {
    let any = || 0..20_usize;
    prop_oneof![
        1 => (any(), 0.0..4.0).prop_map(|(kit, east)| Command::Place(kit, east)),
        1 => (any(), any()).prop_map(|(setup, device)| Command::Move(setup, device)),
        3 => (any(), any()).prop_map(|(setup, device)| Command::TakeOff(setup, device)),
        1 => any().prop_map(Command::Rename),
        1 => any().prop_map(Command::NewSetup),
        2 => any().prop_map(Command::DeleteSetup),
        1 => any().prop_map(Command::GoOnInACopy),
        2 => any().prop_map(Command::LineAway),
        1 => any().prop_map(Command::LineChanged),
        2 => any().prop_map(Command::LineRenamed),
        1 => any().prop_map(Command::WallMoved),
        1 => Just(Command::OtherUnit),
        1 => Just(Command::AirAway),
        1 => Just(Command::PlanChanged),
        3 => any().prop_map(Command::Begin),
        5 => (any(), any(), proptest::option::of(any())).prop_map(|(round, spot, device)| Command::Read(round, spot, device)),
        1 => any().prop_map(Command::Strike),
        1 => any().prop_map(Command::PutRight),
        1 => any().prop_map(Command::DeleteRound),
        3 => Just(Command::Undo),
        1 => Just(Command::Redo),
    ]
}

fn one(list: &Value, number: usize) -> Option<Value> {
    let list = list.as_array()?;
    list.get(number.checked_rem(list.len())?).cloned()
}

fn text(value: &Value) -> String {
    value.as_str().unwrap_or_default().to_owned()
}

/// The request that a command comes to in a home as its page shows it; none where there is nothing to do it to.
fn request(command: &Command, view: &Value, runs: &Value) -> Option<(Method, String, Value)> {
    let home = &view["home"];
    let at = |rest: String| format!("/api/homes/{}{rest}", text(&view["id"]));
    let setup = |number| one(&home["setups"], number);
    let setup_at = |own: &Value, rest: &str| at(format!("/setups/{}{rest}", text(&own["id"])));
    let round = |number| Some(one(&view["rounds"], number)?["round"].clone());
    let house = |change: &dyn Fn(&mut Value)| {
        let mut house = home["house"].clone();
        let fields = house.as_object_mut()?;
        for follows in ["rooms", "walls", "openings", "stairwells", "obstacles", "corrections"] {
            fields.remove(follows);
        }
        change(&mut house);
        Some((Method::PUT, at("/house".into()), house))
    };
    match *command {
        Command::Place(number, east) => {
            let keys = ["router_ac", "router_ax", "node_ax_dual", "node_ax_tri", "repeater_ac", "switch_1g"];
            let position =
                json!({ "level_id": home["house"]["levels"][0]["id"], "x_m": east, "y_m": 1.0, "height_m": 1.0 });
            let body = json!({ "kit": keys[number % keys.len()], "at": position });
            Some((Method::POST, setup_at(&setup(number)?, "/devices"), body))
        }
        Command::Move(number, device) => {
            let mut own = setup(number)?;
            let count = own["devices"].as_array()?.len();
            own["devices"].get_mut(device.checked_rem(count)?)?["at"]["x_m"] = json!(2.5);
            Some((Method::PUT, setup_at(&own, ""), own))
        }
        Command::TakeOff(number, device) => {
            let own = setup(number)?;
            let device = text(&one(&own["devices"], device)?["id"]);
            Some((Method::DELETE, setup_at(&own, &format!("/devices/{device}")), Value::Null))
        }
        Command::Rename(number) => {
            let mut own = setup(number)?;
            own["name"] = json!("named anew");
            Some((Method::PUT, setup_at(&own, ""), own))
        }
        Command::NewSetup(number) => {
            let body = json!({ "name": "another", "copy_of": setup(number)?["id"] });
            Some((Method::POST, at("/setups".into()), body))
        }
        Command::DeleteSetup(number) => {
            Some((Method::DELETE, setup_at(&setup(number)?, "?confirmed=true"), Value::Null))
        }
        Command::GoOnInACopy(number) => {
            Some((Method::POST, setup_at(&setup(number)?, "/go-on-in-a-copy"), json!({ "name": "a copy" })))
        }
        Command::LineAway(number) => house(&|house| {
            let lines = text(&house["levels"][0]["lines"]);
            let mut lines: Vec<&str> = lines.lines().collect();
            if !lines.is_empty() {
                lines.remove(number % lines.len());
            }
            house["levels"][0]["lines"] = json!(lines.join("\n"));
        }),
        Command::LineChanged(number) => house(&|house| {
            let lines = text(&house["levels"][0]["lines"]);
            house["levels"][0]["lines"] = json!(format!("{lines}\nShed {number} x 2"));
        }),
        Command::LineRenamed(number) => house(&|house| {
            let lines = text(&house["levels"][0]["lines"]);
            let mut lines: Vec<String> = lines.lines().map(str::to_owned).collect();
            let count = lines.len().max(1);
            if let Some(line) = lines.get_mut(number % count) {
                line.insert_str(0, "New ");
            }
            house["levels"][0]["lines"] = json!(lines.join("\n"));
        }),
        Command::WallMoved(number) => {
            let rooms = view["drawing"]["rooms"].clone();
            let room = one(&rooms, number)?;
            let sides = ["north", "east", "south", "west"];
            let mut house = home["house"].clone();
            let fields = house.as_object_mut()?;
            for follows in ["rooms", "walls", "openings", "stairwells", "obstacles", "corrections"] {
                fields.remove(follows);
            }
            let change = json!({
                "what": "move_side", "room": room["name"], "part": 0, "side": sides[number % 4], "by_m": 0.3
            });
            let body = json!({ "house": house, "changes": [change], "snap": number % 2 == 0 });
            Some((Method::POST, at("/house/rewrite".into()), body))
        }
        Command::OtherUnit => {
            let units = if home["units"] == "m" { "ft" } else { "m" };
            let body =
                json!({ "name": home["name"], "region": home["region"], "units": units, "brief": home["brief"] });
            Some((Method::PUT, at("/brief".into()), body))
        }
        Command::AirAway => Some((Method::PUT, at("/air".into()), json!({ "air": [] }))),
        Command::PlanChanged => {
            let mut brief = home["brief"].clone();
            brief["plans"] = json!([]);
            let body =
                json!({ "name": home["name"], "region": home["region"], "units": home["units"], "brief": brief });
            Some((Method::PUT, at("/brief".into()), body))
        }
        Command::Begin(number) => Some((
            Method::POST,
            at("/rounds".into()),
            json!({
                "setup_id": setup(number)?["id"], "client": "phone_ax", "band": null, "kind": "internet",
                "doors": "as_left", "situation": "alone", "runs_per_spot": 2, "spots": []
            }),
        )),
        Command::Read(number, spot, device) => {
            let own = round(number)?;
            let of = home["setups"].as_array()?.iter().find(|setup| setup["id"] == own["setup_id"]);
            let serving = of.and_then(|of| Some(one(&of["devices"], device?)?["id"].clone())).unwrap_or(Value::Null);
            let run = json!({
                "id": null, "spot_id": one(&own["spots"], spot)?, "at": null, "source": "typed",
                "outcome": { "kind": "measured", "down_mbps": 40.0 + spot as f64, "up_mbps": 9.5, "idle_ms": null, "loaded_ms": null },
                "carried_by": "home_wifi", "serving": serving, "band": "5", "channel": 36, "width_mhz": 80.0,
                "signal_dbm": -61.5, "link_rate_mbps": null, "trace_mbps": [1.0, 2.5]
            });
            Some((Method::POST, format!("/api/rounds/{}/runs", text(&own["id"])), json!({ "runs": [run] })))
        }
        Command::Strike(number) => {
            let run = one(runs, number)?;
            Some((Method::POST, format!("/api/runs/{}/void", text(&run)), json!({ "reason": "a call came in" })))
        }
        Command::PutRight(number) => {
            let run = one(runs, number)?;
            Some((Method::PUT, format!("/api/runs/{}", text(&run)), json!({ "outcome": { "kind": "no_connection" } })))
        }
        Command::DeleteRound(number) => {
            Some((Method::DELETE, format!("/api/rounds/{}", text(&round(number)?["id"])), Value::Null))
        }
        Command::Undo => Some((Method::POST, at("/undo".into()), json!({}))),
        Command::Redo => Some((Method::POST, at("/redo".into()), json!({}))),
    }
}

/// A file without the identities that are made anew at each import.
fn without_new_ids(mut file: Value) -> Value {
    for record in file["rounds"].as_array_mut().into_iter().flatten() {
        record["round"]["id"] = Value::Null;
        for run in record["runs"].as_array_mut().into_iter().flatten() {
            run["id"] = Value::Null;
            run["round_id"] = Value::Null;
        }
    }
    file
}

proptest! {
    #![proptest_config(ProptestConfig { cases: 24, failure_persistence: None, ..ProptestConfig::default() })]

    #[test]
    fn what_the_application_can_reach_goes_out_and_comes_in_again(commands in proptest::collection::vec(command(), 4..24)) {
        actix_web::rt::System::new().block_on(async {
            let api = api().await;
            let mut runs = json!([]);
            let mut done = 0;
            for command in &commands {
                let before = api.view().await;
                let Some((method, path, body)) = request(command, &before, &runs) else { continue };
                let body = (!body.is_null()).then(|| body.to_string());
                let (status, _, answer) = api.raw(method, &path, body).await;
                assert!(!status.is_server_error(), "{command:?}: {answer}");
                assert_ne!(status, StatusCode::BAD_REQUEST, "the test asks nonsense: {command:?}: {answer}");
                done += usize::from(status.is_success());
                let edits_the_house = matches!(
                    command,
                    Command::LineAway(_) | Command::LineChanged(_) | Command::LineRenamed(_) | Command::OtherUnit
                );
                if edits_the_house {
                    let counted = |view: &Value| -> u64 {
                        view["rounds"].as_array().into_iter().flatten().filter_map(|own| own["runs"].as_u64()).sum()
                    };
                    assert!(status.is_success(), "no line is refused: {command:?}: {answer}");
                    assert_eq!(counted(&api.view().await), counted(&before), "{command:?} loses no reading");
                }
                if let (Command::Read(..), true) = (command, status.is_success()) {
                    let answer: Value = serde_json::from_str(&answer).unwrap();
                    let kept = answer["runs"].as_array().or(answer.as_array()).cloned().unwrap_or_default();
                    runs.as_array_mut().unwrap().extend(kept.iter().map(|run| run["id"].clone()));
                }
            }
            let out = api.get(&api.at("/file")).await;
            let (status, view) = api.send(Method::POST, "/api/home-files", out.clone()).await;
            assert_eq!(status, StatusCode::CREATED, "after {done} steps: {view}");
            let again = api.get(&format!("/api/homes/{}/file", text(&view["id"]))).await;
            assert_eq!(without_new_ids(again), without_new_ids(out));
        });
    }
}
