//! The log of a watch as a file: what was written is there after a power cut, and it does not grow for ever.

use std::fs::{File, OpenOptions};
use std::io::{Seek, SeekFrom, Write};
use std::path::{Path, PathBuf};

use busy_hen_formats::{read_watch_log, watch_log_line};
use busy_hen_home::{WatchHead, WatchLine, WatchLog};
use jiff::Timestamp;

/// A log larger than this is thinned ...
const LARGEST: u64 = 4 * 1024 * 1024;
/// ... to this much, of its newest days.
const THINNED: usize = 3 * 1024 * 1024;
/// Lines that wait at most while nothing can be written.
const WAITING_MOST: usize = 2000;

/// A log that is written.
pub struct Log {
    path: PathBuf,
    file: File,
    /// How much of it is known to be whole lines.
    size: u64,
    /// Lines that could not be written yet.
    waiting: Vec<String>,
}

impl Log {
    /// Goes on with the log at this place, or begins one. Gives back when it was last known to watch.
    pub fn open(path: &Path, head: &WatchHead) -> Result<(Self, Option<Timestamp>), String> {
        let at = path.display();
        let told = |error: std::io::Error| format!("the log {at} can't be used: {error}; name another with --keep");
        let mut file = OpenOptions::new().read(true).append(true).create(true).open(path).map_err(told)?;
        file.try_lock().map_err(|_| format!("another watch writes to {at} already; name another log with --keep"))?;
        let text = std::fs::read(path).map_err(told)?;
        // A last line without its end was being written when the power went.
        let size = text.iter().rposition(|byte| *byte == b'\n').map_or(0, |end| end as u64 + 1);
        file.set_len(size).map_err(told)?;
        file.seek(SeekFrom::End(0)).map_err(told)?;
        let mut log = Self { path: path.to_owned(), file, size, waiting: Vec::new() };
        if size == 0 {
            log.write(&[WatchLine::Watch(head.clone())]).map_err(told)?;
            return Ok((log, None));
        }
        let before = read_watch_log(&text).map_err(|faults| format!("{at}: {faults}; name another log with --keep"))?;
        if before.head != (WatchHead { id: before.head.id, ..head.clone() }) {
            return Err(format!(
                "{at} is the log of a watch over other addresses, or at another pace; name another with --keep"
            ));
        }
        Ok((log, watched_until(&before)))
    }

    /// Adds lines. What can't be written waits for the next time, as much as is reasonable.
    pub fn write(&mut self, lines: &[WatchLine]) -> std::io::Result<()> {
        for line in lines {
            self.waiting.push(watch_log_line(line)?);
        }
        let most = self.waiting.len().saturating_sub(WAITING_MOST);
        self.waiting.drain(..most);
        if self.waiting.is_empty() {
            return Ok(());
        }
        let text = self.waiting.concat();
        let written = self.file.write_all(text.as_bytes()).and_then(|()| self.file.sync_data());
        if let Err(error) = written {
            // Half a line must not stay before the next.
            self.file.set_len(self.size)?;
            return Err(error);
        }
        self.waiting.clear();
        self.size += text.len() as u64;
        if self.size > LARGEST { self.thin() } else { Ok(()) }
    }

    /// Lets the oldest days go. The new file takes the place of the old one at once, so that one of them is always whole.
    fn thin(&mut self) -> std::io::Result<()> {
        let text = std::fs::read(&self.path)?;
        let after =
            |from: usize| text[from..].iter().position(|byte| *byte == b'\n').map_or(text.len(), |end| from + end + 1);
        let (head, kept) = (after(0), after(text.len().saturating_sub(THINNED)));
        let beside = self.path.with_extension("thinned");
        let mut file = OpenOptions::new().read(true).write(true).create(true).truncate(true).open(&beside)?;
        file.write_all(&text[..head])?;
        file.write_all(&text[kept.max(head)..])?;
        file.sync_all()?;
        std::fs::rename(&beside, &self.path)?;
        self.file = OpenOptions::new().read(true).append(true).open(&self.path)?;
        self.size = self.file.metadata()?.len();
        self.file.try_lock().map_err(std::io::Error::from)
    }
}

fn watched_until(log: &WatchLog) -> Option<Timestamp> {
    log.stretches.iter().map(|own| own.to).chain(log.starts.iter().copied()).max()
}

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests {
    use super::*;
    use busy_hen_home::{HangsBy, Pings, WatchId, WatchStretch, Watched};
    use jiff::SignedDuration;

    fn head() -> WatchHead {
        let router = Watched { name: "Router".into(), address: "192.0.2.1:80".into(), way: HangsBy::Wire };
        WatchHead { id: WatchId::named("w"), made_up: true, by_wire: true, every_s: 10, targets: vec![router] }
    }

    /// 2026-01-01.
    const BEGAN: Timestamp = Timestamp::constant(1_767_225_600, 0);

    fn stretch(number: i64) -> WatchLine {
        let from = BEGAN + SignedDuration::from_mins(10 * number);
        let of = vec![Pings { asked: 60, lost: 60, took: None }];
        WatchLine::Stretch(WatchStretch { from, to: from + SignedDuration::from_mins(10), of })
    }

    #[test]
    fn half_a_line_is_cut_off_and_the_log_goes_on() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log.jsonl");
        let (mut log, before) = Log::open(&path, &head()).unwrap();
        assert!(before.is_none());
        log.write(&[stretch(0)]).unwrap();
        assert!(Log::open(&path, &head()).err().unwrap().contains("another watch"), "two at one log");
        drop(log);
        OpenOptions::new().append(true).open(&path).unwrap().write_all(b"{\"line\":\"stretch\",\"fr").unwrap();
        let (mut log, before) = Log::open(&path, &head()).unwrap();
        assert_eq!(before, Some(BEGAN + SignedDuration::from_mins(10)));
        log.write(&[stretch(1)]).unwrap();
        drop(log);
        assert_eq!(read_watch_log(&std::fs::read(&path).unwrap()).unwrap().stretches.len(), 2);
        let other = WatchHead { every_s: 20, ..head() };
        assert!(Log::open(&path, &other).err().unwrap().contains("another pace"));
        std::fs::write(&path, "a shopping list\n").unwrap();
        assert!(Log::open(&path, &head()).err().unwrap().contains("no log of a watch"));
    }

    #[test]
    fn it_never_grows_past_its_limit_and_keeps_the_newest_days() {
        let folder = tempfile::tempdir().unwrap();
        let path = folder.path().join("log.jsonl");
        let (mut log, _) = Log::open(&path, &head()).unwrap();
        let (mut number, mut largest) = (0, 0);
        // Three times what it may hold, many lines at once so that the disk is not what is tested.
        for _ in 0..60 {
            let lines: Vec<WatchLine> = (0..2000).map(|own| stretch(number + own)).collect();
            number += 2000;
            log.write(&lines).unwrap();
            largest = largest.max(std::fs::metadata(&path).unwrap().len());
        }
        assert!(largest < 5 * 1024 * 1024, "{largest}");
        drop(log);
        let kept = read_watch_log(&std::fs::read(&path).unwrap()).unwrap();
        assert_eq!(WatchLine::Stretch(kept.stretches.last().unwrap().clone()), stretch(number - 1));
        assert!(kept.stretches.len() > 10_000 && kept.stretches.len() < 60_000, "{}", kept.stretches.len());
    }
}
