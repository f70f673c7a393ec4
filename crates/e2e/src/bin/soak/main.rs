//! The long run: attacks and loads that take minutes, against the release build, each held to its bar. `cargo xtask soak` runs it; it ends with a failure
//! when a bar is missed. To be run on a machine that does nothing else.

mod rig;

use std::io::{Cursor, Read, Write};
use std::net::TcpStream;
use std::path::Path;
use std::time::{Duration, Instant};

use busy_hen_e2e::outage::time_outage;
use busy_hen_e2e::{Bench, DESK};
use futures_util::StreamExt;
use futures_util::future::join_all;
use image::codecs::jpeg::JpegEncoder;
use image::codecs::png::PngEncoder;
use image::{ExtendedColorType, ImageEncoder};
use reqwest::{Client, Response};
use rig::{Bars, Server};
use serde_json::{Value, json};
use tokio_tungstenite::connect_async;
use uuid::Uuid;

/// Most memory that the bench may take, MB.
const MEMORY_MB: u64 = 400;
/// Longest that a page may take to be answered, warm and cold, s, and while hundreds of connections say nothing.
const WARM_S: f64 = 0.3;
const COLD_S: f64 = 2.0;
const BESIEGED_S: f64 = 1.0;
/// Farthest that a mark of the bench's own may be from what it marks, ms.
const MARK_MS: f64 = 500.0;
/// Runs of the largest home, and homes of the longest list.
const RUNS: usize = 100_000;
const HOMES: usize = 2_000;

#[tokio::main]
async fn main() {
    let mut bars = Bars::default();
    let folder = tempfile::tempdir().expect("a folder");
    let database = |name: &str| folder.path().join(name).with_extension("db");
    // Parts may be named, to be tried by themselves.
    let named: Vec<String> = std::env::args().skip(1).collect();
    let asked = |name: &str| named.is_empty() || named.iter().any(|own| own == name);
    if asked("pictures") {
        pictures(&mut bars, &database("pictures")).await;
    }
    if asked("runs") {
        many_runs(&mut bars, &database("runs")).await;
    }
    if asked("full") {
        full_home(&mut bars, &database("full")).await;
    }
    if asked("homes") {
        many_homes(&mut bars, &database("homes")).await;
    }
    if asked("phones") {
        phones(&mut bars, &database("phones")).await;
    }
    if asked("silent") {
        silent(&mut bars, &database("silent")).await;
    }
    if asked("outage") {
        outage(&mut bars).await;
    }
    if asked("largest") {
        largest(&mut bars, &database("largest")).await;
    }
    if bars.0.is_empty() {
        println!("all bars held");
    } else {
        println!("missed: {}", bars.0.join("; "));
        std::process::exit(1);
    }
}

/// What the bench marks of an outage by itself.
async fn outage(bars: &mut Bars) {
    println!("outage");
    let bench = Bench::demo(DESK).await;
    let timed = time_outage(&bench).await;
    bench.close().await;
    bars.hold("a loss is marked within", timed.loss_off_ms.abs(), MARK_MS, "ms");
    bars.hold("the first sign of life is marked within", timed.life_off_ms.abs(), MARK_MS, "ms");
}

/// The first made-up home, and its view.
async fn demo_home(server: &Server) -> (String, Value) {
    let homes = server.get("/api/homes").await;
    let terrace = |home: &&Value| home["summary"]["name"].as_str().is_some_and(|name| name.starts_with("Canal"));
    let head = homes.as_array().expect("homes").iter().find(terrace).expect("the terrace").clone();
    let home = format!("/api/homes/{}", head["id"].as_str().expect("an id"));
    let view = server.get(&home).await;
    (home, view)
}

/// Twelve pictures of a few kilobytes that unpack to gigabytes, and phone photos of 50 megapixels, all at once.
async fn pictures(bars: &mut Bars, database: &Path) {
    println!("pictures");
    let server = Server::start(database, &["--demo"]);
    let (home, view) = demo_home(&server).await;
    let spot = view["home"]["house"]["spots"][0]["id"].as_str().expect("a spot").to_owned();
    server.forget_peak();
    let send = |bytes: Vec<u8>, kind: &str| {
        let path = format!("{home}/pictures?id={}&spot={spot}&at=2026-11-02T03:00:00Z", Uuid::new_v4());
        server.http.post(server.at(&path)).header("content-type", kind).body(bytes).send()
    };
    let flat = |width: u32, height: u32| {
        let mut png = Vec::new();
        let encoder = PngEncoder::new(Cursor::new(&mut png));
        encoder.write_image(&vec![7; (width * height) as usize], width, height, ExtendedColorType::L8).expect("a PNG");
        png
    };
    let photo = {
        let mut jpeg = Vec::new();
        let pixels: Vec<u8> =
            (0..8160u32 * 6120).map(|at| (at / 8160 % 251) as u8).flat_map(|own| [own, 90, 200]).collect();
        JpegEncoder::new_with_quality(&mut jpeg, 90)
            .write_image(&pixels, 8160, 6120, ExtendedColorType::Rgb8)
            .expect("a JPEG");
        jpeg
    };
    println!("  a photo of 50 megapixels is {:.1} MB", photo.len() as f64 / 1e6);
    let claims = |width: u16, height: u16, marker: u8| {
        let mut jpeg = Vec::new();
        JpegEncoder::new(&mut jpeg).write_image(&[0; 256], 16, 16, ExtendedColorType::L8).expect("a JPEG");
        let frame = jpeg.windows(2).position(|two| two == [0xff, 0xc0]).expect("a frame");
        jpeg[frame + 1] = marker;
        jpeg[frame + 5..frame + 7].copy_from_slice(&height.to_be_bytes());
        jpeg[frame + 7..frame + 9].copy_from_slice(&width.to_be_bytes());
        jpeg
    };
    let wide = flat(16_000, 12_000);
    let hostile: Vec<_> = (0..12)
        .map(|number| match number % 4 {
            0 => send(claims(16_000, 16_000, 0xc0), "image/jpeg"),
            1 => send(claims(8000, 6000, 0xc2), "image/jpeg"),
            2 => send(wide.clone(), "image/png"),
            _ => send(claims(12_000, 16_000, 0xc1), "image/jpeg"),
        })
        .collect();
    let photos: Vec<_> = (0..4).map(|_| send(photo.clone(), "image/jpeg")).collect();
    let (hostile, photos) = tokio::join!(join_all(hostile), join_all(photos));
    let refused = |own: &Result<Response, _>| own.as_ref().is_ok_and(|answer| answer.status() == 415);
    let kept = |own: &Result<Response, _>| own.as_ref().is_ok_and(|answer| answer.status() == 201);
    bars.is("twelve hostile pictures are refused", hostile.iter().all(refused));
    bars.is("photos of 50 megapixels go in", photos.iter().all(kept));
    bars.hold("memory through them", server.peak_mb(), MEMORY_MB as f64, "MB");
}

/// A home file of many runs in fifty rounds of the made-up home.
fn with_runs(file: &Value, count: usize) -> Value {
    let mut large = file.clone();
    let record = &file["rounds"][0];
    let spots = record["round"]["spots"].as_array().expect("spots").clone();
    let rounds = 50;
    let run = |round: &Value, index: usize| {
        let second = index * 37;
        let at = format!(
            "2026-{:02}-{:02}T{:02}:{:02}:{:02}Z",
            1 + second / 2_160_000 % 10,
            1 + second / 86_400 % 25,
            second / 3600 % 24,
            second / 60 % 60,
            second % 60
        );
        let down = 40.0 + (index * 7919 % 1000) as f64 / 17.0;
        json!({
            "id": Uuid::new_v4(), "round_id": round, "spot_id": spots[index % spots.len()], "at": at, "source": "typed",
            "carried_by": "home_wifi", "trace_mbps": (0..24).map(|own| down + f64::from(own) / 3.0).collect::<Vec<f64>>(),
            "outcome": { "kind": "measured", "down_mbps": down, "up_mbps": down / 3.0, "idle_ms": 12.0, "loaded_ms": 60.0,
                         "jitter_ms": 1.5, "loss_percent": null }
        })
    };
    large["rounds"] = (0..rounds)
        .map(|number| {
            let mut own = record.clone();
            let id = json!(Uuid::new_v4());
            own["round"]["id"] = id.clone();
            own["runs"] = (0..count / rounds).map(|index| run(&id, number * (count / rounds) + index)).collect();
            own
        })
        .collect();
    large
}

async fn many_runs(bars: &mut Bars, database: &Path) {
    println!("{RUNS} runs");
    let server = Server::start(database, &["--demo"]);
    let (home, _) = demo_home(&server).await;
    let file = with_runs(&server.get(&format!("{home}/file")).await, RUNS);
    let body = serde_json::to_vec_pretty(&file).expect("JSON");
    println!("  its file is {:.0} MB", body.len() as f64 / 1e6);
    server.forget_peak();
    let began = Instant::now();
    let import = |body: Vec<u8>| {
        server.http.post(server.at("/api/home-files")).header("content-type", "application/json").body(body).send()
    };
    let answer = import(body).await.expect("an answer");
    bars.is("it comes in", answer.status() == 201);
    let view: Value = answer.json().await.expect("a view");
    println!("  it came in within {:.1} s, at {:.0} MB", began.elapsed().as_secs_f64(), server.peak_mb());
    let own = format!("/api/homes/{}", view["id"].as_str().expect("an id"));
    let out = server
        .http
        .get(server.at(&format!("{own}/file")))
        .send()
        .await
        .expect("an answer")
        .bytes()
        .await
        .expect("a file");
    println!("  it goes out with {:.0} MB", out.len() as f64 / 1e6);
    let again = import(out.to_vec()).await.expect("an answer");
    bars.is("what goes out comes in again", again.status() == 201);
    let again: Value = again.json().await.expect("a view");
    bars.is("with all its runs", again["holds"]["runs"] == view["holds"]["runs"] && view["holds"]["runs"] == RUNS);
    bars.hold("memory through export and import", server.peak_mb(), MEMORY_MB as f64, "MB");
    server.takes(&own).await;
    bars.hold("opening it, warm", server.takes(&own).await, WARM_S, "s");
    // A phone of one of its rounds posts, and looks.
    let round = view["rounds"][0]["round"]["id"].as_str().expect("a round").to_owned();
    let made = server.post(&format!("/api/rounds/{round}/phones"), &json!({})).await;
    let url = made["doors"][0]["url"].as_str().expect("a door").to_owned();
    let token = url.split_once('#').expect("a token").1.to_owned();
    let look = || async {
        let began = Instant::now();
        let answer =
            server.http.get(server.at("/api/phone")).header("busy-hen-phone", &token).send().await.expect("an answer");
        assert!(answer.status().is_success(), "{}", answer.status());
        answer.bytes().await.expect("a view");
        began.elapsed().as_secs_f64()
    };
    look().await;
    let spot = view["rounds"][0]["round"]["spots"][0].clone();
    let mut slowest: f64 = 0.0;
    for _ in 0..10 {
        let run = json!({ "id": Uuid::new_v4(), "spot_id": spot, "at": jiff::Timestamp::now().to_string(), "result": { "kind": "no_connection" } });
        let sent = server
            .http
            .post(server.at("/api/phone/runs"))
            .header("busy-hen-phone", &token)
            .json(&run)
            .send()
            .await
            .expect("an answer");
        assert!(sent.status().is_success(), "{}", sent.status());
        slowest = slowest.max(look().await);
    }
    bars.hold("the phone's view after each of its posts", slowest, WARM_S, "s");
    bars.hold("opening it after a post", server.takes(&own).await, WARM_S, "s");
    let setups = view["home"]["setups"].as_array().expect("setups");
    let ask = json!({ "columns": setups.iter().map(|own| json!({ "setup_id": own["id"] })).collect::<Vec<_>>(), "reference": 0, "kind": "internet", "client": "phone_ax", "situation": "alone" });
    let began = Instant::now();
    server.post(&format!("{own}/compare"), &ask).await;
    println!("  comparing its setups took {:.1} s", began.elapsed().as_secs_f64());
    drop(server);
    let cold = Server::start(database, &[]);
    bars.hold("opening it, cold", cold.takes(&own).await, COLD_S, "s");
}

/// A home is filled until nothing more goes in; that is told before, and what goes out comes in again.
async fn full_home(bars: &mut Bars, database: &Path) {
    println!("a home as full as its file may be");
    let server = Server::start(database, &["--demo"]);
    let (home, _) = demo_home(&server).await;
    let mut told = None;
    let mut refused = String::new();
    for number in 0..40 {
        let answer = server
            .http
            .post(server.at(&format!("{home}/watches")))
            .body(watch_log(number))
            .send()
            .await
            .expect("an answer");
        if answer.status() == 409 {
            refused = answer.text().await.expect("text");
            break;
        }
        assert!(answer.status().is_success(), "{}", answer.status());
        let holds = server.get(&home).await["holds"].clone();
        let part = holds["bytes"].as_f64().expect("bytes") / holds["bytes_most"].as_f64().expect("bytes");
        told = told.or((part > 0.8).then_some(number));
    }
    bars.is("that it is nearly full is told before", told.is_some());
    bars.is("then nothing more goes in, with a sentence", refused.contains("This home is full"));
    let out = server
        .http
        .get(server.at(&format!("{home}/file")))
        .send()
        .await
        .expect("an answer")
        .bytes()
        .await
        .expect("a file");
    println!("  it goes out with {:.0} MB", out.len() as f64 / 1e6);
    let again = server
        .http
        .post(server.at("/api/home-files"))
        .header("content-type", "application/json")
        .body(out.to_vec())
        .send()
        .await
        .expect("an answer");
    bars.is("what goes out comes in again", again.status() == 201);
}

/// A log of a watch of twenty megabytes.
fn watch_log(number: usize) -> String {
    let targets: Vec<Value> = (0..20)
        .map(|own| json!({ "name": format!("device {own}"), "address": format!("192.168.1.{own}:80"), "way": "wire" }))
        .collect();
    let head = json!({ "line": "watch", "id": Uuid::new_v4(), "made_up": false, "by_wire": true, "every_s": 5, "targets": targets });
    let mut text = format!("{head}\n");
    let start: jiff::Timestamp = "2024-01-01T00:00:00Z".parse().expect("a time");
    for index in 0..11_000i64 {
        let at = |own: i64| start + jiff::SignedDuration::from_mins(5 * own);
        let took = json!({ "min_ms": 0.4 + number as f64 / 7.0, "median_ms": 11.5, "max_ms": 19.25 });
        let of: Vec<Value> = (0..20).map(|_| json!({ "asked": 60, "lost": 0, "took": took })).collect();
        text += &json!({ "line": "stretch", "from": at(index).to_string(), "to": at(index + 1).to_string(), "of": of })
            .to_string();
        text.push('\n');
    }
    text
}

async fn many_homes(bars: &mut Bars, database: &Path) {
    println!("{HOMES} homes");
    let server = Server::start(database, &[]);
    let lines = "Hall 2 x 4\nKitchen 4 x 3 east of Hall\nLiving room 4 x 4 south of Kitchen";
    for number in 0..HOMES {
        server
            .post(
                "/api/homes",
                &json!({ "name": format!("Home {number}"), "region": "GB", "units": "m", "lines": lines }),
            )
            .await;
    }
    server.forget_peak();
    let first = server.takes("/api/homes").await;
    let length = server.get("/api/homes").await.to_string().len();
    println!("  listed for the first time of all in {first:.2} s, {:.1} MB", length as f64 / 1e6);
    bars.hold("the list, warm", server.takes("/api/homes").await, WARM_S, "s");
    bars.hold("memory through it", server.peak_mb(), MEMORY_MB as f64, "MB");
    drop(server);
    let cold = Server::start(database, &[]);
    bars.hold("the list, cold", cold.takes("/api/homes").await, COLD_S, "s");
}

/// Thirty phones behind one address begin at the same moment, each with four streams.
async fn phones(bars: &mut Bars, database: &Path) {
    println!("thirty phones");
    let server = Server::start(database, &["--demo"]);
    let (home, view) = demo_home(&server).await;
    let setup = view["home"]["setups"][0]["id"].clone();
    let round = json!({ "setup_id": setup, "client": "phone_ax", "band": null, "kind": "local", "doors": "as_left", "situation": "alone", "runs_per_spot": 5 });
    let round =
        server.post(&format!("{home}/rounds"), &round).await["round"]["id"].as_str().expect("a round").to_owned();
    let mut tokens = Vec::new();
    for _ in 0..3 {
        let made = server.post(&format!("/api/rounds/{round}/phones"), &json!({})).await;
        let url = made["doors"][0]["url"].as_str().expect("a door").to_owned();
        tokens.push(url.split_once('#').expect("a token").1.to_owned());
    }
    server.forget_peak();
    let phone = |number: usize| {
        let (token, test) = (&tokens[number % tokens.len()], Uuid::new_v4());
        let server = &server;
        async move {
            let socket = format!(
                "{}/measure/line?token={token}&test={test}&turn=beside",
                server.address.replacen("http", "ws", 1)
            );
            let (mut line, _) = connect_async(socket).await.ok()?;
            line.next().await?.ok()?;
            let streams = (0..4).map(|_| async {
                let path = format!("/measure/down?token={token}&test={test}&bytes=20000000");
                server.http.get(server.at(&path)).send().await.ok()?.bytes().await.ok().map(|own| own.len())
            });
            join_all(streams).await.into_iter().sum::<Option<usize>>()
        }
    };
    let took = Instant::now();
    let got = join_all((0..30).map(phone)).await;
    println!("  {:.1} s", took.elapsed().as_secs_f64());
    bars.is("all of them test", got.iter().all(|own| *own == Some(80_000_000)));
    bars.hold("memory through it", server.peak_mb(), MEMORY_MB as f64, "MB");
}

/// 1,100 connections that say nothing, or a byte now and then, without a token.
async fn silent(bars: &mut Bars, database: &Path) {
    println!("1,100 slow or silent connections");
    let server = Server::start(database, &["--open-to-network"]);
    let address = server.address.split_once("://").expect("an address").1.to_owned();
    let stop = std::sync::Arc::new(std::sync::atomic::AtomicBool::new(false));
    let holds = {
        let stop = stop.clone();
        std::thread::spawn(move || {
            let mut streams: Vec<Option<TcpStream>> = (0..1100).map(|_| None).collect();
            while !stop.load(std::sync::atomic::Ordering::Relaxed) {
                for (number, own) in streams.iter_mut().enumerate() {
                    let alive = own.as_mut().is_some_and(|stream| {
                        let mut byte = [0];
                        stream.set_nonblocking(true).is_ok()
                            && (number % 3 == 0 || stream.write(b"x").is_ok())
                            && !matches!(stream.read(&mut byte), Ok(0))
                    });
                    if alive {
                        continue;
                    }
                    // Begun again as soon as it was ended.
                    *own = TcpStream::connect(&address).ok().inspect(|mut stream| {
                        let begins = match number % 3 {
                            0 => "",
                            1 => "GET / HTTP/1.1\r\nx-slow: ",
                            _ => "POST /api/lock HTTP/1.1\r\nhost: 127.0.0.1\r\ncontent-type: application/json\r\ncontent-length: 4000\r\n\r\n{",
                        };
                        let _ = stream.write_all(begins.as_bytes());
                    });
                }
                std::thread::sleep(Duration::from_millis(100));
            }
        })
    };
    tokio::time::sleep(Duration::from_secs(3)).await;
    let mut slowest: f64 = 0.0;
    for _ in 0..40 {
        let fresh = Client::builder().no_proxy().pool_max_idle_per_host(0).build().expect("a client");
        let began = Instant::now();
        let answered = fresh.get(server.at("/api/lock")).timeout(Duration::from_secs(20)).send().await;
        slowest = slowest.max(if answered.is_ok() { began.elapsed().as_secs_f64() } else { f64::INFINITY });
        tokio::time::sleep(Duration::from_millis(500)).await;
    }
    stop.store(true, std::sync::atomic::Ordering::Relaxed);
    holds.join().expect("the thread");
    bars.hold("the slowest of forty answers meanwhile", slowest, BESIEGED_S, "s");
}

/// Findings and drills of the largest home, asked for and left: others are answered meanwhile, and soon nothing is computed any more.
async fn largest(bars: &mut Bars, database: &Path) {
    println!("the largest home");
    let server = Server::start(database, &["--demo"]);
    let (small, view) = demo_home(&server).await;
    let new = json!({ "name": "Largest", "region": "GB", "units": "m", "lines": "Hall 3 x 3" });
    let made = server.post("/api/homes", &new).await;
    let home = format!("/api/homes/{}", made["id"].as_str().expect("an id"));
    let level = made["home"]["house"]["levels"][0].clone();
    let levels: Vec<Value> = (0..10)
        .map(|number| {
            let line = |room: usize| match (room, room % 6) {
                (0, _) => format!("R{number} 0 3 x 3\n"),
                (_, 0) => format!("R{number} {room} 3 x 3 south of R{number} {}\n", room - 6),
                _ => format!("R{number} {room} 3 x 3 east of R{number} {}\n", room - 1),
            };
            let mut own = level.clone();
            // The router stands on the first.
            if number > 0 {
                own["id"] = json!(Uuid::new_v4());
            }
            own["name"] = json!(format!("Level {number}"));
            own["lines"] = json!((0..40).map(line).collect::<String>());
            own
        })
        .collect();
    let mut house = made["home"]["house"].clone();
    for follows in ["rooms", "walls", "openings", "stairwells", "obstacles", "corrections"] {
        house.as_object_mut().expect("a house").remove(follows);
    }
    house["levels"] = json!(levels);
    house["spots"] = json!([]);
    let put = |path: String, base: String, body: Value| {
        server.http.put(server.at(&path)).header("if-match", base).json(&body).send()
    };
    let answer = put(format!("{home}/house"), format!("\"{}\"", made["revision"]), house).await.expect("an answer");
    assert!(answer.status().is_success(), "{}", answer.text().await.expect("text"));
    let now: Value = server.get(&home).await;
    let mut setup = now["home"]["setups"][0].clone();
    let node = view["home"]["setups"][1]["devices"][1].clone();
    let rooms = now["drawing"]["levels"].as_array().expect("levels").clone();
    let mut devices = setup["devices"].as_array().expect("devices").clone();
    devices[0]["at"] = json!({ "level_id": rooms[0]["level_id"], "x_m": 1.0, "y_m": 1.2, "height_m": 1.0 });
    for number in 1..40usize {
        let mut own = node.clone();
        own["id"] = json!(Uuid::new_v4());
        own["name"] = json!(format!("Node {number}"));
        own["at"] = json!({ "level_id": rooms[number % rooms.len()]["level_id"], "x_m": (number % 6) as f64 * 3.0 + 1.0, "y_m": (number % 5) as f64 * 3.0 + 1.2, "height_m": 1.0 });
        own["uplink"] = json!({ "to": devices[number / 2]["id"], "via": { "kind": "best_radio" } });
        for once in ["hardware_address", "settings_address"] {
            own.as_object_mut().expect("a device").remove(once);
        }
        devices.push(own);
    }
    setup["devices"] = json!(devices);
    let id = setup["id"].as_str().expect("an id").to_owned();
    let answer =
        put(format!("{home}/setups/{id}"), format!("\"{}\"", now["revision"]), setup).await.expect("an answer");
    assert!(answer.status().is_success(), "{}", answer.text().await.expect("text"));
    let ask = json!({ "ask": { "client": "phone_ax", "band": null, "situation": "alone", "kind": "internet" } });
    let leaves = |what: &'static str| {
        let request = server
            .http
            .post(server.at(&format!("{home}/setups/{id}/{what}")))
            .json(&ask)
            .timeout(Duration::from_secs(4))
            .send();
        async move { request.await.is_err() }
    };
    let asked: Vec<_> =
        ["findings", "drills", "findings", "drills", "hand-overs", "evening"].into_iter().map(leaves).collect();
    let setup = view["home"]["setups"][0]["id"].as_str().expect("an id").to_owned();
    let others = async {
        let mut slowest: f64 = 0.0;
        for _ in 0..6 {
            tokio::time::sleep(Duration::from_millis(500)).await;
            let began = Instant::now();
            server.post(&format!("{small}/setups/{setup}/findings"), &ask).await;
            slowest = slowest.max(began.elapsed().as_secs_f64());
        }
        slowest
    };
    let (left, slowest) = tokio::join!(join_all(asked), others);
    bars.is("findings and drills of it take longer than anyone waits here", left[..2].iter().all(|own| *own));
    bars.hold("findings of another home meanwhile", slowest, COLD_S, "s");
    // Whoever asked is gone: what is under way ends.
    tokio::time::sleep(Duration::from_secs(6)).await;
    let before = server.busy_s();
    tokio::time::sleep(Duration::from_secs(4)).await;
    bars.hold("processor time in 4 s after all have left", server.busy_s() - before, 0.4, "s");
}
