//! How long a home of 12 rooms, 4 setups and 5,000 runs takes to show its map and ledger: `cargo xtask bench` prints it.

use busy_hen_e2e::{Bench, DESK};
use serde_json::{Value, json};

const RUNS: usize = 5000;
const LOADS: usize = 7;

#[tokio::main]
async fn main() {
    let bench = Bench::demo(DESK).await;
    let homes = bench.ask("/api/homes").await;
    let heads = homes.as_array().expect("a list of homes");
    let terrace =
        heads.iter().find(|home| home["summary"]["name"] == "Canal terrace with pottery").expect("the demo home");
    let home = format!("/api/homes/{}", terrace["id"].as_str().expect("an id"));
    let view = bench.ask(&home).await;
    let setup = view["home"]["setups"][2]["id"].clone();
    bench.send(&format!("{home}/setups"), &json!({ "name": "fourth", "copy_of": setup })).await;
    fill(&bench, &view).await;

    let page = home.replace("/api", "") + "/setups";
    let mut shown = Vec::new();
    let mut painted = Vec::new();
    for _ in 0..LOADS {
        bench.goto(&page).await;
        bench.see_in("aside", "Pottery").await;
        shown.push(bench.number("return performance.now()").await);
        let first = "return performance.getEntriesByName('first-contentful-paint')[0].startTime";
        painted.push(bench.number(first).await);
    }
    let middle = |mut times: Vec<f64>| {
        times.sort_by(f64::total_cmp);
        times[LOADS / 2]
    };
    println!("{RUNS} runs, median of {LOADS} loads in a headless browser:");
    println!("  first contentful paint   {:.0} ms", middle(painted));
    println!("  map and ledger are there {:.0} ms (looked for every 40 ms)", middle(shown));
    bench.close().await;
}

/// Types runs in until the home has as many as it should.
async fn fill(bench: &Bench, view: &Value) {
    let rounds = view["rounds"].as_array().expect("rounds");
    let there: usize = rounds.iter().filter_map(|round| round["runs"].as_u64()).map(|runs| runs as usize).sum();
    let round = &rounds[0];
    let spots = round["spots"].as_array().expect("spots");
    let run = |index: usize| {
        json!({
            "spot_id": spots[index % spots.len()], "source": "typed", "carried_by": "home_wifi",
            "trace_mbps": vec![50.0; 24],
            "outcome": { "kind": "measured", "down_mbps": 50.0, "up_mbps": 20.0, "idle_ms": 12.0,
                         "loaded_ms": 60.0, "jitter_ms": null, "loss_percent": null }
        })
    };
    let runs: Vec<Value> = (there..RUNS).map(run).collect();
    let path = format!("/api/rounds/{}/runs", round["id"].as_str().expect("an id"));
    for some in runs.chunks(1000) {
        bench.send(&path, &json!({ "runs": some })).await;
    }
}
