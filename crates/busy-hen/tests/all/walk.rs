//! The stand-in phone against the real program: sent out over HTTP, posting over HTTP.

use std::io::{BufRead, BufReader};
use std::process::{Child, Command, Stdio};
use std::time::Duration;

use assert_cmd::cargo::cargo_bin;
use serde_json::{Value, json};

struct Program {
    process: Child,
    address: String,
    client: reqwest::Client,
    _folder: tempfile::TempDir,
}

impl Drop for Program {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

impl Program {
    fn start(pace_ms: &str) -> Self {
        let folder = tempfile::tempdir().unwrap();
        let mut process = Command::new(cargo_bin("busy-hen"))
            .args(["serve", "--demo", "--listen", "127.0.0.1:0", "--walk-pace", pace_ms, "--data"])
            .arg(folder.path().join("walk.db"))
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut line = String::new();
        BufReader::new(process.stdout.take().unwrap()).read_line(&mut line).unwrap();
        let address = line.trim().strip_prefix("Busy Hen is at ").unwrap().to_owned();
        Self { process, address, client: reqwest::Client::new(), _folder: folder }
    }

    async fn get(&self, path: &str) -> Value {
        self.client.get(format!("{}{path}", self.address)).send().await.unwrap().json().await.unwrap()
    }

    async fn post(&self, path: &str, body: Value) -> (u16, Value) {
        let answer = self.client.post(format!("{}{path}", self.address)).json(&body).send().await.unwrap();
        (answer.status().as_u16(), answer.json().await.unwrap_or(Value::Null))
    }

    /// A new round of setup C in the demo terrace; its path.
    async fn round(&self) -> String {
        self.round_of(3).await
    }

    async fn round_of(&self, runs: u32) -> String {
        self.round_with("phone_ax", runs).await
    }

    async fn round_with(&self, client: &str, runs: u32) -> String {
        let homes = self.get("/api/homes").await;
        let terrace = homes
            .as_array()
            .unwrap()
            .iter()
            .find(|home| home["summary"]["name"] == "Canal terrace with pottery")
            .unwrap();
        let home = format!("/api/homes/{}", terrace["id"].as_str().unwrap());
        let setup = self.get(&home).await["home"]["setups"][2]["id"].clone();
        let round = json!({
            "setup_id": setup, "client": client, "band": null, "kind": "local",
            "doors": "as_left", "situation": "alone", "runs_per_spot": runs
        });
        let (status, view) = self.post(&format!("{home}/rounds"), round).await;
        assert_eq!(status, 201, "{view}");
        format!("/api/rounds/{}", view["round"]["id"].as_str().unwrap())
    }

    async fn until(&self, round: &str, done: impl Fn(&Value) -> bool) -> Value {
        for _ in 0..2000 {
            let view = self.get(round).await;
            if done(&view) {
                return view;
            }
            tokio::time::sleep(Duration::from_millis(10)).await;
        }
        panic!("the walk never came to that: {}", self.get(round).await["walk_error"]);
    }
}

fn downs(view: &Value) -> Vec<f64> {
    let spots = view["spots"].as_array().unwrap();
    // Within the home comes with it, under conditions of its own.
    let runs = spots.iter().flat_map(|spot| spot["runs"].as_array().unwrap()).filter(|run| run["under"].is_null());
    runs.map(|run| run["outcome"]["down_mbps"].as_f64().unwrap_or(0.0)).collect()
}

#[tokio::test]
async fn it_fills_a_round_with_readings_that_carry_their_conditions() {
    let program = Program::start("0");
    let round = program.round().await;
    let (status, _) = program.post(&format!("{round}/walk"), json!({ "seed": 5 })).await;
    assert_eq!(status, 202);
    let view = program.until(&round, |view| view["walking"] == false).await;
    assert_eq!(view["walk_error"], Value::Null);
    assert_eq!(downs(&view).len(), 36, "three runs at each of twelve spots");
    let run = &view["spots"][0]["runs"][0];
    assert_eq!(run["source"], "walker");
    assert!(run["serving"].is_string() && run["plan_id"].is_string() && run["signal_dbm"].is_number());
    assert!(run["trace_mbps"].as_array().unwrap().len() > 30, "as the engine reads it from the samples");
    assert!(view["spots"][0]["gap_percent"].is_number());
}

#[tokio::test]
async fn it_does_not_go_where_the_round_is_for_a_cable() {
    let program = Program::start("0");
    let round = program.round_with("laptop_wired", 1).await;
    let (status, told) = program.post(&format!("{round}/walk"), json!({ "seed": 5 })).await;
    assert_eq!(status, 409, "{told}");
    assert!(told["detail"].as_str().unwrap().contains("by cable"), "{told}");
    assert_eq!(downs(&program.get(&round).await), Vec::<f64>::new());
}

#[tokio::test]
async fn the_same_seed_measures_the_same_house_and_another_one_another() {
    let program = Program::start("0");
    let mut medians = Vec::new();
    for seed in [5, 5, 6] {
        let round = program.round_of(15).await;
        program.post(&format!("{round}/walk"), json!({ "seed": seed })).await;
        let view = program.until(&round, |view| view["walking"] == false).await;
        let spots = view["spots"].as_array().unwrap().iter();
        medians.push(spots.map(|spot| spot["summary"]["down_mbps"]["median"].as_f64().unwrap()).collect::<Vec<_>>());
    }
    let apart = |a: &[f64], b: &[f64]| a.iter().zip(b).map(|(a, b)| (a / b).ln().abs()).sum::<f64>();
    let (same, other) = (apart(&medians[0], &medians[1]), apart(&medians[0], &medians[2]));
    assert!(same < other, "rounds in the same house differ by {same}, in different ones by {other}");
}

#[tokio::test]
async fn it_can_be_called_back_and_goes_on_where_it_was() {
    let program = Program::start("30");
    let round = program.round().await;
    program.post(&format!("{round}/walk"), json!({ "seed": 5 })).await;
    let (status, again) = program.post(&format!("{round}/walk"), json!({ "seed": 5 })).await;
    assert_eq!((status, again["code"].as_str()), (409, Some("conflict")), "one phone walks a round at a time");
    program.until(&round, |view| downs(view).len() >= 3).await;
    program.client.delete(format!("{}{round}/walk", program.address)).send().await.unwrap();
    let stopped = program.until(&round, |view| view["walking"] == false).await;
    assert!(downs(&stopped).len() < 36);
    program.post(&format!("{round}/walk"), json!({ "seed": 5 })).await;
    let view = program.until(&round, |view| view["walking"] == false).await;
    assert_eq!(downs(&view).len(), 36, "what was there already is not taken twice");
}

#[tokio::test]
async fn what_goes_wrong_on_the_way_is_refused_and_tried_again() {
    let program = Program::start("0");
    let round = program.round().await;
    let (status, _) =
        program.post(&format!("{round}/walk"), json!({ "seed": 5, "mishaps": ["covered", "mobile_data"] })).await;
    assert_eq!(status, 202);
    let view = program.until(&round, |view| view["walking"] == false).await;
    assert_eq!(view["walk_error"], Value::Null);
    assert_eq!(downs(&view).len(), 36, "a spoiled run is none, and is run again");
    let round = program.round().await;
    program.post(&format!("{round}/walk"), json!({ "seed": 5, "mishaps": ["drop_out"] })).await;
    let view = program.until(&round, |view| view["walking"] == false).await;
    let lost = view["spots"][0]["summary"]["without_connection"].as_u64().unwrap();
    assert_eq!(lost, 1, "the second of three");
}
