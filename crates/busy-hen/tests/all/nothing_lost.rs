//! Several clients on one home, and a server that is killed under them: nothing acknowledged is lost, nothing is there twice.
//!
//! `BUSY_HEN_KILLS` and `BUSY_HEN_EDIT_SECONDS` make both run longer.

use std::collections::{BTreeMap, HashMap};
use std::sync::atomic::{AtomicBool, Ordering};
use std::sync::{Arc, Mutex};
use std::time::{Duration, Instant};

use serde_json::{Value, json};

use crate::rig::serve;

/// One tab or phone.
#[derive(Clone)]
struct Client {
    http: reqwest::Client,
    name: String,
    address: String,
}

impl Client {
    fn new(name: &str, address: &str) -> Self {
        let http = reqwest::Client::builder().no_proxy().timeout(Duration::from_secs(20)).build().unwrap();
        Self { http, name: name.to_owned(), address: address.to_owned() }
    }

    /// Status and body; none when the server did not answer.
    async fn send(&self, method: reqwest::Method, path: &str, base: Option<i64>, body: Value) -> Option<(u16, Value)> {
        let mut request =
            self.http.request(method, format!("{}{path}", self.address)).header("busy-hen-editor", &self.name);
        if let Some(base) = base {
            request = request.header("if-match", format!("\"{base}\""));
        }
        let answer = request.json(&body).send().await.ok()?;
        let status = answer.status().as_u16();
        Some((status, answer.json().await.ok()?))
    }

    async fn get(&self, path: &str) -> Option<Value> {
        self.http.get(format!("{}{path}", self.address)).send().await.ok()?.json().await.ok()
    }

    async fn terrace(&self) -> Value {
        let homes = self.get("/api/homes").await.unwrap();
        let head = homes
            .as_array()
            .unwrap()
            .iter()
            .find(|home| home["summary"]["name"].as_str().unwrap().starts_with("Canal"));
        self.get(&format!("/api/homes/{}", head.unwrap()["id"].as_str().unwrap())).await.unwrap()
    }
}

/// What clients were told is stored.
#[derive(Default)]
struct Acknowledged {
    /// Runs by id, with their download.
    runs: HashMap<String, f64>,
    /// Revisions with what the field of the client that made each held then, by client.
    edits: BTreeMap<i64, (String, Value)>,
    /// What fields may hold as well: changes without an answer since the last one that had one, by client; null for an undo.
    unanswered: HashMap<String, Vec<Value>>,
}

/// The field that each client edits: things of their own, so that none stands in the way of another.
fn field(view: &Value, client: &str) -> Value {
    if client == "edits" {
        view["home"]["brief"]["complaint"].clone()
    } else {
        view["home"]["setups"][1]["devices"][1]["at"]["x_m"].clone()
    }
}

async fn run_stream(client: Client, round: String, spot: Value, seen: Arc<Mutex<Acknowledged>>, from: usize) {
    for number in from.. {
        let id = uuid::Uuid::new_v4().to_string();
        let down = number as f64 + 1.0;
        let run = json!({ "runs": [{ "id": id, "spot_id": spot, "source": "walker", "carried_by": "home_wifi",
            "outcome": { "kind": "measured", "down_mbps": down, "up_mbps": 1.0, "idle_ms": 5.0, "loaded_ms": null,
                         "jitter_ms": null, "loss_percent": null } }] });
        let path = format!("/api/rounds/{round}/runs");
        let Some((status, told)) = client.send(reqwest::Method::POST, &path, None, run.clone()).await else { return };
        assert_eq!(status, 201, "{told}");
        seen.lock().unwrap().runs.insert(id, down);
        // Sent twice, as a phone does whose answer got lost.
        let Some((status, told)) = client.send(reqwest::Method::POST, &path, None, run).await else { return };
        assert_eq!(status, 201, "{told}");
    }
}

async fn edit_stream(client: Client, home: String, seen: Arc<Mutex<Acknowledged>>, from: usize) {
    for number in from.. {
        let Some(view) = client.get(&format!("/api/homes/{home}")).await else { return };
        let base = view["revision"].as_i64();
        let mut wanted = Value::Null;
        let sent = if client.name == "edits" {
            let mut brief = view["home"]["brief"].clone();
            wanted = json!(format!("{number}"));
            brief["complaint"] = wanted.clone();
            let edit = json!({ "name": view["home"]["name"], "region": "GB", "units": "m", "brief": brief });
            client.send(reqwest::Method::PUT, &format!("/api/homes/{home}/brief"), base, edit).await
        } else if number % 3 == 2 {
            client.send(reqwest::Method::POST, &format!("/api/homes/{home}/undo"), None, json!({})).await
        } else {
            let mut setup = view["home"]["setups"][1].clone();
            // Never where it stands already: what changes nothing makes no step.
            wanted = json!(1.0 + number as f64 / 1e5);
            setup["devices"][1]["at"]["x_m"] = wanted.clone();
            let path = format!("/api/homes/{home}/setups/{}", setup["id"].as_str().unwrap());
            client.send(reqwest::Method::PUT, &path, base, setup).await
        };
        let Some((status, told)) = sent else {
            seen.lock().unwrap().unanswered.entry(client.name.clone()).or_default().push(wanted);
            return;
        };
        assert!(status == 200 || (status == 409 && told["code"] == "conflict"), "{status} {told}");
        if status == 200 {
            let revision = told["revision"].as_i64().unwrap();
            let made = (client.name.clone(), field(&told, &client.name));
            let mut seen = seen.lock().unwrap();
            seen.unanswered.remove(&client.name);
            let before = seen.edits.insert(revision, made.clone());
            assert!(before.is_none_or(|before| before == made), "revision {revision} was used twice");
        }
    }
}

/// Runs, edits and undo from three clients while the server is killed under them, again and again.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_server_killed_at_any_moment_loses_nothing_that_it_acknowledged_and_doubles_nothing() {
    let kills: u64 = std::env::var("BUSY_HEN_KILLS").ok().and_then(|count| count.parse().ok()).unwrap_or(6);
    let folder = tempfile::tempdir().unwrap();
    let database = folder.path().join("killed.db");
    let mut server = serve(&database, &["--demo"]);
    let setup = Client::new("setup", &server.address);
    let view = setup.terrace().await;
    let home = view["id"].as_str().unwrap().to_owned();
    let new = json!({ "setup_id": view["home"]["setups"][0]["id"], "client": "phone_ax", "kind": "local", "doors": "as_left",
                      "situation": "alone", "runs_per_spot": 30 });
    let (status, round) =
        setup.send(reqwest::Method::POST, &format!("/api/homes/{home}/rounds"), None, new).await.unwrap();
    assert_eq!(status, 201, "{round}");
    let round_id = round["round"]["id"].as_str().unwrap().to_owned();
    let spot = round["round"]["spots"][0].clone();
    let seen = Arc::new(Mutex::new(Acknowledged::default()));
    for kill in 0..kills {
        let client = |name: &str| Client::new(name, &server.address);
        let from = 1000 * usize::try_from(kill).unwrap();
        let streams = vec![
            tokio::spawn(run_stream(client("phone"), round_id.clone(), spot.clone(), Arc::clone(&seen), from)),
            tokio::spawn(edit_stream(client("edits"), home.clone(), Arc::clone(&seen), from)),
            tokio::spawn(edit_stream(client("moves"), home.clone(), Arc::clone(&seen), from)),
        ];
        let wanted = seen.lock().unwrap().runs.len() + 2 + usize::try_from(kill % 7).unwrap();
        while seen.lock().unwrap().runs.len() < wanted {
            tokio::time::sleep(Duration::from_millis(3)).await;
        }
        tokio::time::sleep(Duration::from_micros(700 * (kill * 37 % 23))).await;
        server.process.kill().unwrap();
        server.process.wait().unwrap();
        for stream in streams {
            stream.await.unwrap();
        }
        server = serve(&database, &["--demo"]);
        let now = Client::new("looks", &server.address).get(&format!("/api/homes/{home}")).await.unwrap();
        let seen = seen.lock().unwrap();
        let stored = now["revision"].as_i64().unwrap();
        for name in ["edits", "moves"] {
            let Some((revision, (_, value))) = seen.edits.iter().rfind(|(_, (client, _))| client == name) else {
                continue;
            };
            assert!(stored >= *revision, "kill {kill}: revision {revision} was acknowledged, {stored} is stored");
            let (held, others) = (field(&now, name), seen.unanswered.get(name));
            let unanswered = others.is_some_and(|own| own.iter().any(|one| one.is_null() || *one == held));
            assert!(held == *value || unanswered, "kill {kill}: {name} said {value}, stored is {held}");
        }
    }
    let looks = Client::new("looks", &server.address);
    let mut stored: HashMap<String, f64> = HashMap::new();
    let mut before = String::new();
    loop {
        let page = looks.get(&format!("/api/rounds/{round_id}/runs?most=500{before}")).await.unwrap();
        let runs = page.as_array().unwrap();
        let Some(first) = runs.first() else { break };
        before = format!("&before={}", first["id"].as_str().unwrap());
        for run in runs {
            let twice =
                stored.insert(run["id"].as_str().unwrap().to_owned(), run["outcome"]["down_mbps"].as_f64().unwrap());
            assert!(twice.is_none(), "a run is there twice");
        }
    }
    for (id, down) in &seen.lock().unwrap().runs {
        assert_eq!(stored.get(id), Some(down), "an acknowledged run");
    }
    let view = looks.get(&format!("/api/rounds/{round_id}")).await.unwrap();
    assert_eq!(view["spots"][0]["run_count"].as_u64(), Some(stored.len() as u64), "views hold every run");
    let seen = seen.lock().unwrap();
    println!("{kills} kills: {} runs and {} edits acknowledged, all there", seen.runs.len(), seen.edits.len());
}

/// Revision, what it was based on, the device, and where it then stood.
type Edit = (i64, i64, usize, Value);

/// Three tabs change one home as fast as they can; each acknowledged change is in the end state, or a later one knew of it.
#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn of_three_tabs_on_one_home_no_acknowledged_edit_is_lost() {
    let seconds: u64 = std::env::var("BUSY_HEN_EDIT_SECONDS").ok().and_then(|text| text.parse().ok()).unwrap_or(4);
    let folder = tempfile::tempdir().unwrap();
    let server = serve(&folder.path().join("tabs.db"), &["--demo"]);
    let view = Client::new("looks", &server.address).terrace().await;
    let home = view["id"].as_str().unwrap().to_owned();
    let devices = view["home"]["setups"][2]["devices"].as_array().unwrap().len();
    let over = Arc::new(AtomicBool::new(false));
    let edits: Arc<Mutex<Vec<Edit>>> = Arc::default();
    let mut tabs = Vec::new();
    for tab in 0..3usize {
        let (client, home) = (Client::new(&format!("tab {tab}"), &server.address), home.clone());
        let (over, edits) = (Arc::clone(&over), Arc::clone(&edits));
        tabs.push(tokio::spawn(async move {
            let mut held = client.get(&format!("/api/homes/{home}")).await.unwrap();
            let (mut taken, mut asked) = (0, 0);
            for number in 0.. {
                if over.load(Ordering::Relaxed) {
                    break;
                }
                // Mostly things of one's own, now and then the same device as another tab; each on what this tab holds.
                let device = if number % 4 == 3 { 0 } else { tab % devices };
                let mut setup = held["home"]["setups"][2].clone();
                // Never where it stands already: what changes nothing makes no step.
                setup["devices"][device]["at"]["x_m"] = json!(0.5 + (number * 3 + tab) as f64 / 1e5);
                let at = setup["devices"][device]["at"]["x_m"].clone();
                let base = held["revision"].as_i64().unwrap();
                let path = format!("/api/homes/{home}/setups/{}", setup["id"].as_str().unwrap());
                let (status, told) = client.send(reqwest::Method::PUT, &path, Some(base), setup).await.unwrap();
                if status == 200 {
                    taken += 1;
                    edits.lock().unwrap().push((told["revision"].as_i64().unwrap(), base, device, at));
                    held = told;
                } else {
                    asked += 1;
                    assert_eq!((status, told["code"].as_str()), (409, Some("both_changed")), "{told}");
                    held = client.get(&format!("/api/homes/{home}")).await.unwrap();
                }
            }
            (taken, asked)
        }));
    }
    let begun = Instant::now();
    while begun.elapsed() < Duration::from_secs(seconds) {
        tokio::time::sleep(Duration::from_millis(50)).await;
    }
    over.store(true, Ordering::Relaxed);
    let (mut taken, mut asked) = (0, 0);
    for tab in tabs {
        let (own, both) = tab.await.unwrap();
        taken += own;
        asked += both;
    }
    let last = Client::new("looks", &server.address).get(&format!("/api/homes/{home}")).await.unwrap();
    let mut edits = edits.lock().unwrap().clone();
    edits.sort_by_key(|edit| edit.0);
    for (index, (revision, _, device, at)) in edits.iter().enumerate() {
        let next = edits[index + 1..].iter().find(|(_, _, other, _)| other == device);
        match next {
            // Whoever changed this device next held this change, or made the same one.
            Some((later, base, _, same)) => {
                assert!(base >= revision || same == at, "{later} on {base} went over {revision}")
            }
            None => assert_eq!(last["home"]["setups"][2]["devices"][*device]["at"]["x_m"], *at, "revision {revision}"),
        }
    }
    assert!(taken > 20 && asked > 0, "{taken} taken, {asked} asked about");
    println!("{seconds} s: {taken} edits acknowledged, {asked} asked about, none lost");
}
