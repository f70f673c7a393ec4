//! The long watch as a program: seven days of a stand-in home, killed twenty times.

use std::path::Path;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use assert_cmd::cargo::cargo_bin;
use busy_hen_formats::read_watch_log;
use busy_hen_job::long_watch::{WatchShows, holes, watch_report};
use busy_hen_predict::progress::Watch;
use jiff::tz::TimeZone;

/// How often it is killed.
const KILLS: u64 = 20;
/// A log of seven days with nothing left out is about this large, bytes.
const WHOLE: u64 = 300_000;
/// Most memory that it may ever hold, kB.
const MEMORY_MOST: u64 = 40_000;

fn begin(log: &Path) -> Child {
    let arguments = ["watch", "--stand-in", "7", "--keep"];
    Command::new(cargo_bin("busy-hen")).args(arguments).arg(log).env("TZ", "UTC").stdout(Stdio::null()).spawn().unwrap()
}

fn size(log: &Path) -> u64 {
    std::fs::metadata(log).map_or(0, |own| own.len())
}

/// Most memory that a process has held so far, kB; none where the machine does not tell.
fn memory(process: &Child) -> Option<u64> {
    let status = std::fs::read_to_string(format!("/proc/{}/status", process.id())).ok()?;
    let line = status.lines().find(|line| line.starts_with("VmHWM:"))?;
    line.split_whitespace().nth(1)?.parse().ok()
}

#[test]
fn seven_days_are_watched_through_twenty_kills_and_every_gap_is_told() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("watch.jsonl");
    let mut held = Vec::new();
    for kill in 1..=KILLS {
        // Half of the log is left to those kills that come late on a busy machine.
        let until = size(&log) + WHOLE / (2 * KILLS);
        let mut process = begin(&log);
        let begun = Instant::now();
        while size(&log) < until {
            held.extend(memory(&process));
            assert!(begun.elapsed() < Duration::from_secs(60), "it stands still at {} bytes", size(&log));
            assert!(process.try_wait().unwrap().is_none(), "it was over before kill {kill}, at {} bytes", size(&log));
            std::thread::sleep(Duration::from_millis(1));
        }
        process.kill().unwrap();
        process.wait().unwrap();
    }
    let mut last = begin(&log);
    assert!(last.wait().unwrap().success());
    let text = std::fs::read(&log).unwrap();
    assert!(text.len() < 5 * 1024 * 1024, "{} bytes", text.len());
    if let Some(most) = held.iter().max() {
        assert!(*most < MEMORY_MOST, "{most} kB");
    }
    let log = read_watch_log(&text).unwrap();
    assert_eq!(log.starts.len() as u64, KILLS + 1);
    // Between a kill and the next start lie seven minutes and what of a stretch was not written yet.
    let all = holes(&log);
    assert_eq!(all.len() as u64, KILLS, "{all:?}");
    assert!(all.iter().all(|own| (7..=18).contains(&own.length().as_mins())), "{all:?}");
    let told = watch_report(&log, &TimeZone::UTC, &Watch::default());
    assert_eq!(told.days.len(), 7);
    let of =
        |shows| told.findings.iter().find(|own| own.shows == shows).map(|own| own.told.clone()).unwrap_or_default();
    assert!(
        of(WatchShows::DropsAtHours).contains("Landing node drops at 19 to 21 h, on 6 of 7 days"),
        "{:?}",
        told.findings
    );
    assert!(of(WatchShows::NotWatched).contains("20 times"), "{:?}", told.findings);
    assert!(told.head.made_up, "what a stand-in made up is said to be so");
    // Four short transfers a day, less those whose hour began in a gap; never more than the budget.
    for day in &told.days {
        assert!(day.transfers.len() <= 4, "{:?}", day.transfers);
    }
    let bytes: u64 = log.transfers.iter().map(|own| own.bytes).sum();
    assert!(bytes <= 7 * 100_000_000 && log.transfers.len() >= 14, "{bytes} bytes in {}", log.transfers.len());
}

#[test]
fn a_watch_that_can_not_be_begun_says_so_in_a_sentence() {
    let folder = tempfile::tempdir().unwrap();
    let log = folder.path().join("watch.jsonl");
    let told = |arguments: &[&str]| {
        let out =
            Command::new(cargo_bin("busy-hen")).arg("watch").args(arguments).arg("--keep").arg(&log).output().unwrap();
        assert_eq!(out.status.code(), Some(2));
        String::from_utf8(out.stderr).unwrap()
    };
    assert!(told(&[]).contains("--device"), "no device");
    assert!(told(&["--device", "192.168.1.1"]).contains("is no device"));
    assert!(told(&["--device", "Router=192.168.1.1", "--every", "0"]).contains("--every"));
    std::fs::write(&log, "a shopping list\n").unwrap();
    assert!(told(&["--device", "Router=192.168.1.1"]).contains("no log of a watch"));
}
