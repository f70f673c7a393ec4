//! Phones that measure: paired over the interface, behind lines of one's own.
#![allow(clippy::missing_panics_doc)] // the rig fails where the test is to fail

use std::time::Duration;

use busy_hen_standins::line::{Direction, Line, Plug};
use busy_hen_units::{MbitPerSec, Millis};
use serde_json::{Value, json};
use tokio::net::TcpListener;

use crate::Bench;
use crate::process::{Process, program};

/// The home that they measure.
pub const HOME: &str = "Canal terrace with pottery";

/// A round of these tests in setup B of the terrace; its id. The phone's class is known already.
pub async fn begin_round(bench: &Bench, kind: &str, runs: u32) -> String {
    begin_round_for(bench, "rooms", kind, runs, &[]).await
}

/// A round for a purpose, at the spots of these rooms, or of all.
pub async fn begin_round_for(bench: &Bench, purpose: &str, kind: &str, runs: u32, rooms: &[&str]) -> String {
    known(bench).await;
    let homes = bench.ask("/api/homes").await;
    let home = homes
        .as_array()
        .expect("as the rig made it")
        .iter()
        .find(|home| home["summary"]["name"] == HOME)
        .expect("as the rig made it")["id"]
        .clone();
    let home = home.as_str().expect("as the rig made it");
    let view = bench.ask(&format!("/api/homes/{home}")).await;
    let setup = view["home"]["setups"][1]["id"].clone();
    let list = |part: &str| view["home"]["house"][part].as_array().expect("as the rig made it").clone();
    let spot = |name: &&str| {
        let room =
            list("rooms").into_iter().find(|room| room["name"] == *name).expect("as the rig made it")["id"].clone();
        list("spots").into_iter().find(|spot| spot["room_id"] == room).expect("as the rig made it")["id"].clone()
    };
    let spots: Vec<Value> = rooms.iter().map(spot).collect();
    let round = json!({
        "purpose": purpose, "spots": spots,
        "setup_id": setup, "client": "phone_ax", "band": null, "kind": kind,
        "doors": "as_left", "situation": "alone", "runs_per_spot": runs
    });
    let made = post(&format!("{}/api/homes/{home}/rounds", bench.address), &round).await;
    made["round"]["id"].as_str().expect("as the rig made it").to_owned()
}

/// Answers the question that a phone asks once, as a phone that was asked before.
pub async fn known(bench: &Bench) {
    let script = "try { localStorage.setItem('busy-hen phone class', 'phone_ax') } catch {}";
    let devtools = bench.driver.cdp();
    devtools.send_raw("Page.enable", json!({})).await.expect("as the rig made it");
    let ask = json!({ "source": script });
    devtools.send_raw("Page.addScriptToEvaluateOnNewDocument", ask).await.expect("as the rig made it");
}

async fn post(address: &str, body: &Value) -> Value {
    let client = reqwest::Client::builder().no_proxy().build().expect("as the rig made it");
    client
        .post(address)
        .json(body)
        .send()
        .await
        .expect("as the rig made it")
        .error_for_status()
        .expect("as the rig made it")
        .json()
        .await
        .expect("as the rig made it")
}

/// The page of a newly paired phone, without the server's address.
pub async fn pair(bench: &Bench, round: &str) -> String {
    let made = post(&format!("{}/api/rounds/{round}/phones", bench.address), &json!({})).await;
    let url = made["doors"][0]["url"].as_str().expect("as the rig made it");
    format!("/phone#{}", url.split_once('#').expect("as the rig made it").1)
}

/// The runs of a round.
pub async fn runs(bench: &Bench, round: &str) -> Vec<Value> {
    bench.ask(&format!("/api/rounds/{round}/runs")).await.as_array().expect("as the rig made it").clone()
}

/// Waits until the round has so many runs.
pub async fn wait_runs(bench: &Bench, round: &str, count: usize) -> Vec<Value> {
    for _ in 0..3 {
        // A test takes longer than one look at a page may.
        for _ in 0..100 {
            let there = runs(bench, round).await;
            if there.len() >= count {
                return there;
            }
            tokio::time::sleep(Duration::from_millis(200)).await;
        }
    }
    panic!(
        "never saw {count} runs; the page says:\n{}",
        bench.find("body").await.text().await.expect("as the rig made it")
    );
}

/// Puts a line before the server; its address as the phone sees it.
pub async fn behind(bench: &Bench, line: Line) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("as the rig made it");
    let address = listener.local_addr().expect("as the rig made it");
    let server =
        bench.address.strip_prefix("http://").expect("as the rig made it").parse().expect("as the rig made it");
    tokio::spawn(line.relay(listener, server));
    format!("http://{address}")
}

/// Waits for a word on the page for as long as tests take.
pub async fn see_in_time(bench: &Bench, words: &str) {
    for _ in 0..600 {
        let text = bench.find("body").await.text().await.unwrap_or_default();
        if text.contains(words) {
            return;
        }
        tokio::time::sleep(Duration::from_millis(100)).await;
    }
    bench.see(words).await;
}

/// A line of these rates (Mb/s), this delay one way and this queue (ms) in both directions.
#[must_use]
pub fn line(down: f64, up: f64, delay: f64, queue: f64, managed: bool) -> Line {
    let direction = |rate| Direction { rate: MbitPerSec::new(rate), queue: Millis::new(queue) };
    Line { down: direction(down), up: direction(up), delay: Millis::new(delay), managed, evening: 1.0 }
}

/// A far end, and its address behind a line as the home reaches it.
pub async fn far_end(line: Line) -> (Process, String) {
    far_end_by(line, &Plug::default()).await
}

/// The same, with a hand at the plug of the line.
pub async fn far_end_by(line: Line, plug: &Plug) -> (Process, String) {
    let mut command = std::process::Command::new(program());
    command.args(["far-end", "--listen", "127.0.0.1:0"]);
    let told = |words: &str| words.strip_prefix("The far end is at http://").map(str::to_owned);
    let (process, address) = Process::start(command, told).expect("as the rig made it");
    let (address, token) = address.split_once('#').expect("as the rig made it");
    let listener = TcpListener::bind("127.0.0.1:0").await.expect("as the rig made it");
    let reached = listener.local_addr().expect("as the rig made it");
    let (plug, address) = (plug.clone(), address.parse().expect("as the rig made it"));
    tokio::spawn(async move { line.relay_by(listener, address, &plug).await });
    (process, format!("http://{reached}#{token}"))
}

/// Waits until this machine wakes its tasks in time again; half a minute at most, since some machines never do.
pub async fn calm() {
    for _ in 0..100 {
        let mut late = Vec::new();
        for _ in 0..50 {
            let asleep = std::time::Instant::now();
            tokio::time::sleep(Duration::from_millis(5)).await;
            late.push(asleep.elapsed().saturating_sub(Duration::from_millis(5)));
        }
        late.sort();
        if late[40] < Duration::from_millis(2) {
            return;
        }
    }
}

/// Part of the processors' time that other guests of the same machine have taken since a moment, 0 to 1; nothing where the system does
/// not tell.
#[derive(Debug, Clone, Copy)]
pub struct Stolen(Option<(u64, u64)>);

impl Stolen {
    /// From now on.
    #[must_use]
    pub fn since_now() -> Self {
        // The first line of /proc/stat: user, nice, system, idle, iowait, irq, softirq, steal (proc(5)).
        let text = std::fs::read_to_string("/proc/stat").unwrap_or_default();
        let times: Vec<u64> =
            text.lines().next().unwrap_or_default().split_whitespace().skip(1).take(8).flat_map(str::parse).collect();
        Self(times.get(7).map(|steal| (*steal, times.iter().sum())))
    }

    /// Up to now.
    #[must_use]
    pub fn part(&self) -> f64 {
        let (Some((before, all)), Some((now, total))) = (self.0, Self::since_now().0) else { return 0.0 };
        now.saturating_sub(before) as f64 / total.saturating_sub(all).max(1) as f64
    }
}
