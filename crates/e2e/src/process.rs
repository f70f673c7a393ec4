//! Child processes that end with the test that started them.

use std::io::{BufRead, BufReader};
use std::net::TcpListener;
use std::os::unix::process::CommandExt;
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc;
use std::time::Duration;

/// Longest a process may take until it says that it is ready.
const PATIENCE: Duration = Duration::from_secs(60);

/// A server that has just been started, and the line in which it says where it is. Its output is read to its end.
///
/// # Panics
/// When it says nothing.
#[must_use]
pub fn listening(mut child: Child) -> (Child, String) {
    let mut output = BufReader::new(child.stdout.take().expect("its output is piped"));
    let mut line = String::new();
    output.read_line(&mut line).expect("a line");
    std::thread::spawn(move || output.lines().map_while(Result::ok).for_each(drop));
    (child, line)
}

/// A process that is killed and waited for when it goes out of scope.
pub struct Process(Child);

impl Process {
    /// Starts a command and waits for a line of its output that `ready` makes something of; none when it ends before that.
    ///
    /// # Panics
    /// When it can't be started.
    pub fn start<T: Send + 'static>(
        mut command: Command,
        ready: impl Fn(&str) -> Option<T> + Send + 'static,
    ) -> Option<(Self, T)> {
        let mut child = command
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .process_group(0)
            .spawn()
            .unwrap_or_else(|error| panic!("{command:?} could not be started: {error}"));
        let output = child.stdout.take().expect("its output is piped");
        let (sender, receiver) = mpsc::channel();
        // The output is read to its end, so that the process never waits for a reader.
        std::thread::spawn(move || {
            for line in BufReader::new(output).lines().map_while(Result::ok) {
                if let Some(found) = ready(&line) {
                    let _ = sender.send(found);
                }
            }
        });
        let process = Self(child);
        receiver.recv_timeout(PATIENCE).ok().map(|found| (process, found))
    }

    /// Kills it at once, as a power cut would, with all that it started.
    pub fn kill(&mut self) {
        let group = format!("-{}", self.0.id());
        let _ = Command::new("kill").args(["-KILL", "--", &group]).stderr(Stdio::null()).status();
        let _ = self.0.kill();
        let _ = self.0.wait();
    }
}

impl Drop for Process {
    fn drop(&mut self) {
        self.kill();
    }
}

/// The program, as built beside this test.
///
/// # Panics
/// When it was not built.
pub fn program() -> PathBuf {
    let own = std::env::current_exe().expect("a running test has a path");
    let folder = own.ancestors().find(|folder| folder.join("busy-hen").is_file());
    folder.expect("build the workspace first: `cargo xtask test` does").join("busy-hen")
}

/// ChromeDriver on a port of its own, and that port.
///
/// # Panics
/// When it does not start.
pub fn chromedriver() -> (Process, u16) {
    // Another process may take the port between its choice and its use: then the next is tried.
    for _ in 0..10 {
        let listener = TcpListener::bind(("127.0.0.1", 0)).expect("a free port");
        let port = listener.local_addr().expect("a bound socket has an address").port();
        drop(listener);
        let mut command = Command::new("chromedriver");
        command.arg(format!("--port={port}"));
        if let Some((process, ())) = Process::start(command, |line| line.contains("successfully").then_some(())) {
            return (process, port);
        }
    }
    panic!("ChromeDriver does not start; `cargo xtask test` installs it");
}
