//! The server under attack, and the bars that it is held to.

use busy_hen_e2e::process::listening;
use reqwest::Client;
use serde_json::Value;
use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::Instant;

/// Bars that were missed.
#[derive(Default)]
pub(super) struct Bars(pub Vec<String>);

impl Bars {
    pub fn hold(&mut self, what: &str, got: f64, most: f64, unit: &str) {
        let missed = got > most;
        println!("  {} {what}: {got:.2} {unit} of {most} {unit}", if missed { "MISSED" } else { "ok    " });
        if missed {
            self.0.push(what.to_owned());
        }
    }

    pub fn is(&mut self, what: &str, so: bool) {
        println!("  {} {what}", if so { "ok    " } else { "MISSED" });
        if !so {
            self.0.push(what.to_owned());
        }
    }
}

/// A bench of the release build, ended with the value.
pub(super) struct Server {
    pub process: Child,
    pub address: String,
    pub http: Client,
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

impl Server {
    pub fn start(database: &Path, more: &[&str]) -> Self {
        let program = std::env::current_exe().expect("this program").with_file_name("busy-hen");
        let process = Command::new(program)
            .args(["serve", "--listen", "127.0.0.1:0", "--data"])
            .arg(database)
            .args(more)
            .stdout(Stdio::piped())
            .spawn()
            .expect("the release build");
        let (process, line) = listening(process);
        let address = line.trim().strip_prefix("Busy Hen is at ").expect("its address").to_owned();
        Self { process, address, http: Client::builder().no_proxy().build().expect("a client") }
    }

    pub fn at(&self, path: &str) -> String {
        format!("{}{path}", self.address)
    }

    pub async fn get(&self, path: &str) -> Value {
        let answer = self.http.get(self.at(path)).send().await.expect("an answer");
        assert!(answer.status().is_success(), "{path}: {}", answer.status());
        answer.json().await.expect("JSON")
    }

    pub async fn post(&self, path: &str, body: &Value) -> Value {
        let answer = self.http.post(self.at(path)).json(body).send().await.expect("an answer");
        let status = answer.status();
        let text = answer.text().await.expect("text");
        assert!(status.is_success(), "{path}: {status} {text}");
        serde_json::from_str(&text).unwrap_or(Value::Null)
    }

    /// How long an address takes to be answered, s.
    pub async fn takes(&self, path: &str) -> f64 {
        let began = Instant::now();
        let answer = self.http.get(self.at(path)).send().await.expect("an answer");
        assert!(answer.status().is_success(), "{path}: {}", answer.status());
        answer.bytes().await.expect("a body");
        began.elapsed().as_secs_f64()
    }

    /// Most memory since it was last asked to forget, MB.
    pub fn peak_mb(&self) -> f64 {
        let status = std::fs::read_to_string(format!("/proc/{}/status", self.process.id())).expect("its status");
        let line = status.lines().find_map(|line| line.strip_prefix("VmHWM:")).expect("its peak");
        let kib: f64 = line.trim().trim_end_matches(" kB").parse().expect("a number");
        kib / 1024.0
    }

    pub fn forget_peak(&self) {
        std::fs::write(format!("/proc/{}/clear_refs", self.process.id()), "5").expect("its peak forgotten");
    }

    /// Processor time so far, s.
    pub fn busy_s(&self) -> f64 {
        let stat = std::fs::read_to_string(format!("/proc/{}/stat", self.process.id())).expect("its state");
        let fields: Vec<&str> = stat.rsplit_once(") ").expect("fields").1.split(' ').collect();
        let ticks = |index: usize| fields[index].parse::<f64>().expect("ticks");
        (ticks(11) + ticks(12)) / 100.0
    }
}
