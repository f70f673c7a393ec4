//! Tests and readings that come in from outside: from a shell, and from thirty phones at once.
//!
//! `BUSY_HEN_PHONES_SECONDS` makes the second run longer.

use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use assert_cmd::cargo::cargo_bin;
use busy_hen_standins::line::{Direction, Line};
use busy_hen_testkit::raw::test_of;
use busy_hen_units::{MbitPerSec, Millis};
use futures_util::StreamExt;
use serde_json::{Value, json};
use uuid::Uuid;

use crate::rig::{Server, serve};

async fn ask(request: reqwest::RequestBuilder) -> Value {
    request.send().await.unwrap().error_for_status().unwrap().json().await.unwrap()
}

/// A round of local tests in the demo terrace, and the link of a phone for it.
async fn paired(folder: &Path) -> (Server, reqwest::Client, String, String) {
    let server = serve(&folder.join("phones.db"), &["--demo"]);
    let http = reqwest::Client::builder().no_proxy().build().unwrap();
    let at = |path: &str| format!("{}{path}", server.address);
    let homes = ask(http.get(at("/api/homes"))).await;
    let terrace = |home: &&Value| home["summary"]["name"].as_str().unwrap().starts_with("Canal");
    let home = homes.as_array().unwrap().iter().find(terrace).unwrap()["id"].as_str().unwrap().to_owned();
    let setup = ask(http.get(at(&format!("/api/homes/{home}")))).await["home"]["setups"][1]["id"].clone();
    let round = json!({
        "setup_id": setup, "client": "phone_ax", "band": null, "kind": "local",
        "doors": "as_left", "situation": "alone", "runs_per_spot": 30
    });
    let round = ask(http.post(at(&format!("/api/homes/{home}/rounds"))).json(&round)).await["round"]["id"].clone();
    let round = round.as_str().unwrap().to_owned();
    let link =
        ask(http.post(at(&format!("/api/rounds/{round}/phones"))).json(&json!({}))).await["doors"][0]["url"].clone();
    let link = link.as_str().unwrap().to_owned();
    (server, http, round, link)
}

fn probe(words: &[&str]) -> (bool, String, String) {
    let done = Command::new(cargo_bin("busy-hen")).arg("probe").args(words).output().unwrap();
    (done.status.success(), String::from_utf8(done.stdout).unwrap(), String::from_utf8(done.stderr).unwrap())
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_test_from_a_shell_reads_what_the_line_lets_through_and_is_kept_at_its_spot() {
    let folder = tempfile::tempdir().unwrap();
    let (server, http, round, link) = paired(folder.path()).await;
    let token = link.split_once('#').unwrap().1;
    let listener = tokio::net::TcpListener::bind("127.0.0.1:0").await.unwrap();
    let reached = listener.local_addr().unwrap();
    let direction = |rate| Direction { rate: MbitPerSec::new(rate), queue: Millis::new(60.0) };
    let line =
        Line { down: direction(80.0), up: direction(25.0), delay: Millis::new(5.0), managed: false, evening: 1.0 };
    tokio::spawn(line.relay(listener, server.address.strip_prefix("http://").unwrap().parse().unwrap()));

    let address = format!("http://{reached}/phone#{token}");
    let (good, text, error) =
        tokio::task::spawn_blocking(move || probe(&[&address, "--json", "--spot", "study"])).await.unwrap();
    assert!(good, "{error}");
    let found: Value = serde_json::from_str(&text).unwrap();
    let near = |got: &Value, wanted: f64, within: f64| (got.as_f64().unwrap() - wanted).abs() <= within;
    // How near is for a machine that does nothing else: the long run asks.
    if std::env::var_os("QUIET_MACHINE").is_some() {
        assert!(near(&found["down"]["rate_mbps"], 80.0, 4.0) && near(&found["up"]["rate_mbps"], 25.0, 1.25), "{text}");
        assert!(near(&found["idle_ms"], 10.0, 2.0) && near(&found["down"]["loaded_ms"], 70.0, 10.0), "{text}");
    }
    assert!(near(&found["down"]["rate_mbps"], 80.0, 20.0) && near(&found["up"]["rate_mbps"], 25.0, 10.0), "{text}");
    assert!(found["idle_ms"].as_f64().unwrap() < found["down"]["loaded_ms"].as_f64().unwrap(), "{text}");
    let runs = ask(http.get(format!("{}/api/rounds/{round}/runs", server.address))).await;
    assert_eq!((runs.as_array().unwrap().len(), &runs[0]["source"]), (1, &json!("phone")));

    let link = link.clone();
    let wrong = tokio::task::spawn_blocking(move || {
        [
            probe(&[&link, "--spot", "Cellar"]),
            probe(&[&format!("{link}x")]),
            probe(&["http://127.0.0.1:9#x"]),
            probe(&["nowhere"]),
        ]
    });
    let words = [
        "no spot called Cellar; it has Front room",
        "can't be tested to",
        "can't be tested to",
        "is no address with its token",
    ];
    for ((good, _, error), words) in wrong.await.unwrap().into_iter().zip(words) {
        assert!(!good && error.contains(words) && error.trim_end().lines().count() == 1, "{error}");
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn thirty_phones_post_at_once_and_none_is_lost_while_the_bench_stays_live() {
    let folder = tempfile::tempdir().unwrap();
    let (server, http, round, link) = paired(folder.path()).await;
    let token = link.split_once('#').unwrap().1.to_owned();
    let seconds = std::env::var("BUSY_HEN_PHONES_SECONDS").ok().and_then(|text| text.parse().ok()).unwrap_or(3);
    let view = ask(http.get(format!("{}/api/phone", server.address)).header("busy-hen-phone", &token)).await;
    let spots: Vec<Value> = view["spots"].as_array().unwrap().iter().map(|spot| spot["spot_id"].clone()).collect();
    let until = Instant::now() + Duration::from_secs(seconds);
    // Nobody tests faster than once a second; tests end one after the other, since they wait for one another.
    let pause = Duration::from_secs(1);
    let phones = (0..30_usize).map(|phone| {
        let (http, token, address) = (http.clone(), token.clone(), format!("{}/api/phone/runs", server.address));
        let spot = spots[phone % spots.len()].clone();
        tokio::spawn(async move {
            let (mut kept, mut took) = (Vec::new(), Vec::new());
            tokio::time::sleep(pause * u32::try_from(phone).unwrap() / 30).await;
            while Instant::now() < until {
                let id = Uuid::new_v4();
                let result = json!({ "kind": "tested", "test": Uuid::new_v4(), "raw": test_of(90.0, 18.0) });
                let run =
                    json!({ "id": id, "spot_id": spot, "at": jiff::Timestamp::now().to_string(), "result": result });
                let begun = Instant::now();
                let answer = http.post(&address).header("busy-hen-phone", &token).json(&run).send().await.unwrap();
                took.push(begun.elapsed());
                assert_eq!(answer.status(), 201);
                kept.push(id.to_string());
                tokio::time::sleep(pause).await;
            }
            (kept, took)
        })
    });
    let phones: Vec<_> = phones.collect();
    let mut bench = Vec::new();
    while Instant::now() < until {
        let begun = Instant::now();
        ask(http.get(format!("{}/api/rounds/{round}", server.address))).await;
        bench.push(begun.elapsed());
        tokio::time::sleep(Duration::from_millis(200)).await;
    }
    let (mut kept, mut took) = (Vec::new(), Vec::new());
    for phone in phones {
        let (own, times) = phone.await.unwrap();
        kept.extend(own);
        took.extend(times);
    }
    took.sort();
    bench.sort();
    let p99 = took[(took.len() * 99 / 100).min(took.len() - 1)];
    println!("{} runs, p99 {p99:?}; the bench at worst {:?}", took.len(), bench.last().unwrap());
    let mut there = Vec::new();
    loop {
        let before = there.first().map(|id| format!("&before={id}")).unwrap_or_default();
        let page = ask(http.get(format!("{}/api/rounds/{round}/runs?most=500{before}", server.address))).await;
        let page: Vec<String> =
            page.as_array().unwrap().iter().map(|run| run["id"].as_str().unwrap().to_owned()).collect();
        if page.is_empty() {
            break;
        }
        there.splice(0..0, page);
    }
    kept.sort();
    there.sort();
    assert_eq!(kept, there, "each that was acknowledged is there once");
}

/// Stand-in kit of a home file, and where it reports.
fn stand_in_kit(file: &Path, letter: &str) -> (std::process::Child, String) {
    let mut child = std::process::Command::new(env!("CARGO_BIN_EXE_busy-hen"))
        .args(["stand-in-kit", file.to_str().unwrap(), "--setup", letter, "--listen", "127.0.0.1:0"])
        .stdout(std::process::Stdio::piped())
        .spawn()
        .unwrap();
    let mut lines = std::io::BufRead::lines(std::io::BufReader::new(child.stdout.take().unwrap()));
    let first = lines.next().unwrap().unwrap();
    (child, first.split_once("reports at ").unwrap().1.to_owned())
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn the_kits_own_report_says_who_served_and_a_stand_ins_is_taken_for_the_stand_in_alone() {
    let folder = tempfile::tempdir().unwrap();
    let (server, http, round, _) = paired(folder.path()).await;
    let opened = ask(http.get(format!("{}/api/rounds/{round}", server.address))).await;
    let home = opened["home_id"].as_str().unwrap();
    let at = |rest: &str| format!("{}/api/homes/{home}{rest}", server.address);
    let mut file = ask(http.get(at("/file"))).await;
    let setup = opened["round"]["setup_id"].clone();
    let setups = file["home"]["setups"].as_array_mut().unwrap();
    let own = setups.iter_mut().find(|own| own["id"] == setup).unwrap();
    let letter = own["letter"].as_str().unwrap().to_owned();
    for (index, device) in own["devices"].as_array_mut().unwrap().iter_mut().enumerate() {
        device["hardware_address"] = json!(format!("02:1a:9f:00:3c:{index:02x}"));
    }
    let changed = own.clone();
    let path = folder.path().join("home.json");
    std::fs::write(&path, file.to_string()).unwrap();
    let etag = http.get(at("")).send().await.unwrap().headers()["etag"].clone();
    ask(http.put(at(&format!("/setups/{}", setup.as_str().unwrap()))).header("if-match", etag).json(&changed)).await;
    let (mut kit, report) = stand_in_kit(&path, &letter);

    let begin = |report: &str| {
        json!({ "setup_id": setup, "client": "phone_ax", "band": null, "kind": "local", "doors": "as_left",
                "situation": "alone", "runs_per_spot": 1, "spots": [], "kit_report": report })
    };
    let silent = "http://127.0.0.1:9/x";
    for wrong in ["http://93.184.216.34/x", "https://127.0.0.1/x", "file:///etc/passwd", "http://kit.example/x", silent]
    {
        let answer = http.post(at("/rounds")).json(&begin(wrong)).send().await.unwrap();
        assert_eq!(answer.status(), 422, "{wrong}");
    }
    let made = ask(http.post(at("/rounds")).json(&begin(&report))).await;
    let round = made["round"]["id"].as_str().unwrap().to_owned();
    let walk = format!("{}/api/rounds/{round}/walk", server.address);
    assert!(http.post(walk).json(&json!({ "seed": 14, "mishaps": [] })).send().await.unwrap().status().is_success());
    let address = format!("{}/api/rounds/{round}", server.address);
    let walked = loop {
        let view = ask(http.get(&address)).await;
        assert_eq!(view["walk_error"], Value::Null);
        if view["walking"] == json!(false) {
            break view;
        }
    };
    let ids: Vec<&Value> = changed["devices"].as_array().unwrap().iter().map(|own| &own["id"]).collect();
    let runs: Vec<&Value> =
        walked["spots"].as_array().unwrap().iter().flat_map(|spot| spot["runs"].as_array().unwrap()).collect();
    let served: Vec<_> = runs.iter().filter(|run| run["outcome"]["kind"] == "measured").collect();
    assert!(served.len() > 5, "{}", served.len());
    for run in served {
        assert!(ids.contains(&&run["serving"]) && run["channel"].is_u64() && run["signal_dbm"].is_number(), "{run}");
    }

    // A phone that is no stand-in gets nothing from it, and is told why.
    let made = ask(http.post(at("/rounds")).json(&begin(&report))).await;
    let phones = format!("{}/api/rounds/{}/phones", server.address, made["round"]["id"].as_str().unwrap());
    let phone = ask(http.post(phones).json(&json!({}))).await;
    let token = phone["doors"][0]["url"].as_str().unwrap().split_once('#').unwrap().1;
    let test = Uuid::new_v4();
    http.get(format!("{}/measure/line?token={token}&test={test}", server.address)).send().await.unwrap();
    let result = json!({ "kind": "tested", "test": test, "raw": test_of(90.0, 18.0) });
    let run = json!({ "id": Uuid::new_v4(), "spot_id": made["spots"][0]["spot_id"], "at": jiff::Timestamp::now().to_string(), "result": result });
    let kept =
        ask(http.post(format!("{}/api/phone/runs", server.address)).header("busy-hen-phone", token).json(&run)).await;
    assert_eq!(
        (&kept["run"]["serving"], &kept["kit"]),
        (&Value::Null, &json!("The kit’s report is a stand-in’s; nothing was taken from it."))
    );
    kit.kill().unwrap();
    kit.wait().unwrap();
}

/// What a line says, word for word, until it has said to begin.
async fn gathered(address: &str) -> (String, Instant) {
    let (mut line, _) = tokio_tungstenite::connect_async(address).await.unwrap();
    loop {
        let said = line.next().await.unwrap().unwrap().into_text().unwrap().to_string();
        match said.split_once(' ') {
            Some(("go", together)) => return (together.to_owned(), Instant::now()),
            Some(("wait", left)) => assert!(left.parse::<u64>().unwrap() <= 10_000, "{said}"),
            _ => panic!("{said}"),
        }
    }
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn phones_that_gather_begin_at_the_same_moment_under_one_name() {
    let folder = tempfile::tempdir().unwrap();
    let (server, _, _, link) = paired(folder.path()).await;
    let token = link.split_once('#').unwrap().1;
    let line = |token: &str| {
        let server = server.address.replacen("http", "ws", 1);
        format!("{server}/measure/line?token={token}&test={}&turn=gather", Uuid::new_v4())
    };
    let (first, second) = (line(token), line(token));
    let late = async {
        tokio::time::sleep(Duration::from_millis(1500)).await;
        gathered(&second).await
    };
    let (first, second) = tokio::join!(gathered(&first), late);
    assert_eq!(first.0, second.0, "by one name");
    let apart = first.1.max(second.1) - first.1.min(second.1);
    assert!(apart < Duration::from_millis(200), "{apart:?}");
    assert_ne!(gathered(&line(token)).await.0, first.0, "who comes afterwards waits for others");
    assert!(tokio_tungstenite::connect_async(line("nobody")).await.is_err(), "not without a token");
}
