//! Child processes that end with the test that started them.

use std::io::{BufRead, BufReader};
use std::path::PathBuf;
use std::process::{Child, Command, Stdio};
use std::sync::mpsc;
use std::time::Duration;

/// Longest a process may take until it says that it is ready.
const PATIENCE: Duration = Duration::from_secs(60);

/// A process that is killed and waited for when it goes out of scope.
pub struct Process(Child);

impl Process {
    /// Starts a command and waits for a line of its output that `ready` makes something of.
    ///
    /// # Panics
    /// When it can't be started or ends before that.
    pub fn start<T: Send + 'static>(
        mut command: Command,
        ready: impl Fn(&str) -> Option<T> + Send + 'static,
    ) -> (Self, T) {
        let mut child = command
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
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
        let found = receiver.recv_timeout(PATIENCE).unwrap_or_else(|_| panic!("{command:?} did not get ready"));
        (Self(child), found)
    }

    /// Kills it at once, as a power cut would.
    pub fn kill(&mut self) {
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
