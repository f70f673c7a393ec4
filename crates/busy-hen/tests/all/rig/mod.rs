//! The program as a server, ended with the test.

use std::io::{BufRead, BufReader};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use assert_cmd::cargo::cargo_bin;

pub struct Server {
    pub process: Child,
    pub address: String,
}

impl Drop for Server {
    fn drop(&mut self) {
        let _ = self.process.kill();
        let _ = self.process.wait();
    }
}

/// Starts the program on a free port and waits until it says where it is.
pub fn serve(database: &Path, more: &[&str]) -> Server {
    let mut process = Command::new(cargo_bin("busy-hen"))
        .args(["serve", "--listen", "127.0.0.1:0", "--data"])
        .arg(database)
        .args(more)
        .stdout(Stdio::piped())
        .stderr(Stdio::null())
        .spawn()
        .unwrap();
    let mut line = String::new();
    BufReader::new(process.stdout.take().unwrap()).read_line(&mut line).unwrap();
    let address = line.trim().strip_prefix("Busy Hen is at ").unwrap_or_else(|| panic!("{line}")).to_owned();
    Server { process, address }
}
