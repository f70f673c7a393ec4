//! The real test: headless Chromium as the phone, over loopback and through a stand-in line.
#![allow(clippy::unwrap_used)] // also in what tests share

use std::time::Duration;

use busy_hen_e2e::{Bench, PHONE};
use busy_hen_standins::line::{Direction, Line};
use busy_hen_units::{MbitPerSec, Millis};
use serde_json::{Value, json};
use tokio::net::TcpListener;

const HOME: &str = "Canal terrace with pottery";

/// A round of these tests in setup B of the terrace; its id.
async fn begin_round(bench: &Bench, kind: &str, runs: u32) -> String {
    let homes = bench.ask("/api/homes").await;
    let home = homes.as_array().unwrap().iter().find(|home| home["summary"]["name"] == HOME).unwrap()["id"].clone();
    let home = home.as_str().unwrap();
    let setup = bench.ask(&format!("/api/homes/{home}")).await["home"]["setups"][1]["id"].clone();
    let round = json!({
        "setup_id": setup, "client": "phone_ax", "band": null, "kind": kind,
        "doors": "as_left", "situation": "alone", "runs_per_spot": runs
    });
    let made = post(&format!("{}/api/homes/{home}/rounds", bench.address), &round).await;
    made["round"]["id"].as_str().unwrap().to_owned()
}

async fn post(address: &str, body: &Value) -> Value {
    let client = reqwest::Client::builder().no_proxy().build().unwrap();
    client.post(address).json(body).send().await.unwrap().error_for_status().unwrap().json().await.unwrap()
}

/// The page of a newly paired phone, without the server's address.
async fn pair(bench: &Bench, round: &str) -> String {
    let made = post(&format!("{}/api/rounds/{round}/phones", bench.address), &json!({})).await;
    let url = made["doors"][0]["url"].as_str().unwrap();
    format!("/phone#{}", url.split_once('#').unwrap().1)
}

async fn runs(bench: &Bench, round: &str) -> Vec<Value> {
    bench.ask(&format!("/api/rounds/{round}/runs")).await.as_array().unwrap().clone()
}

/// Waits until the round has so many runs.
async fn wait_runs(bench: &Bench, round: &str, count: usize) -> Vec<Value> {
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
    panic!("never saw {count} runs; the page says:\n{}", bench.find("body").await.text().await.unwrap());
}

/// Puts a line before the server; its address as the phone sees it.
async fn behind(bench: &Bench, line: Line) -> String {
    let listener = TcpListener::bind("127.0.0.1:0").await.unwrap();
    let address = listener.local_addr().unwrap();
    let server = bench.address.strip_prefix("http://").unwrap().parse().unwrap();
    tokio::spawn(line.relay(listener, server));
    format!("http://{address}")
}

fn line(down: f64, up: f64, delay: f64, queue: f64, managed: bool) -> Line {
    let direction = |rate| Direction { rate: MbitPerSec::new(rate), queue: Millis::new(queue) };
    Line { down: direction(down), up: direction(up), delay: Millis::new(delay), managed }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn what_a_line_lets_through_is_what_is_measured() {
    let bench = Bench::demo(PHONE).await;
    let mut wrong = Vec::new();
    for (down, up, delay, queue, managed) in [
        (5.0, 1.0, 20.0, 200.0, false),
        (5.0, 1.0, 20.0, 200.0, true),
        (25.0, 5.0, 10.0, 150.0, false),
        (60.0, 20.0, 8.0, 80.0, false),
        (60.0, 20.0, 8.0, 80.0, true),
        (150.0, 40.0, 5.0, 60.0, false),
        (400.0, 100.0, 5.0, 50.0, false),
        (900.0, 300.0, 3.0, 40.0, false),
    ] {
        let phone = behind(&bench, line(down, up, delay, queue, managed)).await;
        let round = begin_round(&bench, "local", 1).await;
        let page = pair(&bench, &round).await;
        bench.driver.goto("about:blank").await.unwrap();
        bench.driver.goto(format!("{phone}{page}")).await.unwrap();
        bench.press("Test here").await;
        let run = wait_runs(&bench, &round, 1).await.remove(0);
        let got = |name: &str| run["outcome"][name].as_f64().unwrap();
        let (idle, loaded) = (2.0 * delay, 2.0 * delay + if managed { 0.0 } else { queue });
        println!(
            "{down}/{up} Mb/s, {idle} ms, queue {queue} ms{}: {}/{} Mb/s, idle {} ms, loaded {} ms",
            if managed { " managed" } else { "" },
            got("down_mbps"),
            got("up_mbps"),
            got("idle_ms"),
            got("loaded_ms")
        );
        let mut hold = |what: &str, got: f64, wanted: f64, within: f64| {
            if (got - wanted).abs() > within {
                wrong.push(format!("{down}/{up}{}: {what} {got}, not {wanted}", if managed { " managed" } else { "" }));
            }
        };
        hold("down", got("down_mbps"), down, 0.05 * down);
        hold("up", got("up_mbps"), up, 0.05 * up);
        hold("idle", got("idle_ms"), idle, 2.0);
        hold("loaded", got("loaded_ms"), loaded, (0.1 * loaded).max(10.0));
    }
    assert!(wrong.is_empty(), "{wrong:#?}");
    bench.close().await;
}
