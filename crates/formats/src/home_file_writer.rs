//! A home file written piece by piece, so that the whole of it need never be in memory.

use std::io::{self, Write};

use busy_hen_home::{AsTested, DeviceNote, Drill, Home, Picture, Round, Run, Tick, WatchLog};
use serde::Serialize;

use crate::PictureRecord;
use crate::home_file::{FORMAT, VERSION};

/// The lists of a file, in their order.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum List {
    Rounds,
    Pictures,
    Ticks,
    Drills,
    Watches,
    DeviceNotes,
}

impl List {
    const ALL: [Self; 6] = [Self::Rounds, Self::Pictures, Self::Ticks, Self::Drills, Self::Watches, Self::DeviceNotes];

    fn name(self) -> &'static str {
        match self {
            Self::Rounds => "rounds",
            Self::Pictures => "pictures",
            Self::Ticks => "ticks",
            Self::Drills => "drills",
            Self::Watches => "watches",
            Self::DeviceNotes => "device_notes",
        }
    }
}

/// Writes what [`crate::HomeFile`] is, compact: the home, then rounds each with its runs, then pictures, ticks, drills, watches and notes, in this order.
#[derive(Debug)]
pub struct HomeFileWriter<W> {
    to: W,
    list: List,
    /// Entries of the list so far.
    entries: usize,
    /// Runs of the round that is open; none where none is.
    runs: Option<usize>,
}

impl<W: Write> HomeFileWriter<W> {
    /// Begins a file with the home itself.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn begin(mut to: W, home: &Home) -> io::Result<Self> {
        write!(to, "{{\"format\":\"{FORMAT}\",\"version\":{VERSION},\"home\":")?;
        json(&mut to, home)?;
        write!(to, ",\"{}\":[", List::Rounds.name())?;
        Ok(Self { to, list: List::Rounds, entries: 0, runs: None })
    }

    /// A round; its runs follow.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn round(&mut self, round: &Round, tested: &AsTested) -> io::Result<()> {
        self.entry(List::Rounds)?;
        write!(self.to, "{{\"round\":")?;
        json(&mut self.to, round)?;
        write!(self.to, ",\"tested\":")?;
        json(&mut self.to, tested)?;
        write!(self.to, ",\"runs\":[")?;
        self.runs = Some(0);
        Ok(())
    }

    /// A run of the round before.
    ///
    /// # Errors
    /// When it can't be written, or no round is open.
    pub fn run(&mut self, run: &Run) -> io::Result<()> {
        let runs = self.runs.as_mut().ok_or_else(|| io::Error::other("a run without a round"))?;
        if *runs > 0 {
            write!(self.to, ",")?;
        }
        *runs += 1;
        json(&mut self.to, run)
    }

    /// A picture.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn picture(&mut self, picture: Picture, jpeg: &[u8]) -> io::Result<()> {
        self.put(List::Pictures, &PictureRecord::new(picture, jpeg))
    }

    /// What became of a step of a run sheet.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn tick(&mut self, tick: &Tick) -> io::Result<()> {
        self.put(List::Ticks, tick)
    }

    /// A drill that was run.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn drill(&mut self, drill: &Drill) -> io::Result<()> {
        self.put(List::Drills, drill)
    }

    /// A long watch.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn watch(&mut self, log: &WatchLog) -> io::Result<()> {
        self.put(List::Watches, log)
    }

    /// What was noted of a device.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn device_note(&mut self, note: &DeviceNote) -> io::Result<()> {
        self.put(List::DeviceNotes, note)
    }

    /// Ends the file, and gives back what it was written to.
    ///
    /// # Errors
    /// When it can't be written.
    pub fn end(mut self) -> io::Result<W> {
        if self.list == List::Rounds {
            self.go_on_to(List::Pictures)?;
        }
        self.close_round()?;
        writeln!(self.to, "]}}")?;
        self.to.flush()?;
        Ok(self.to)
    }

    fn put(&mut self, list: List, entry: &impl Serialize) -> io::Result<()> {
        self.entry(list)?;
        json(&mut self.to, entry)
    }

    /// Begins an entry of a list.
    fn entry(&mut self, list: List) -> io::Result<()> {
        self.go_on_to(list)?;
        self.close_round()?;
        if self.entries > 0 {
            write!(self.to, ",")?;
        }
        self.entries += 1;
        Ok(())
    }

    fn close_round(&mut self) -> io::Result<()> {
        if self.runs.take().is_some() { write!(self.to, "]}}") } else { Ok(()) }
    }

    /// Ends the list that is open and begins another, with those between that stand in every file.
    fn go_on_to(&mut self, list: List) -> io::Result<()> {
        let place = |list: List| List::ALL.iter().position(|own| *own == list);
        if place(list) < place(self.list) {
            return Err(io::Error::other("an entry out of its order"));
        }
        if list == self.list {
            return Ok(());
        }
        self.close_round()?;
        if self.list == List::Rounds && list != List::Pictures {
            write!(self.to, "],\"{}\":[", List::Pictures.name())?;
        }
        write!(self.to, "],\"{}\":[", list.name())?;
        (self.list, self.entries) = (list, 0);
        Ok(())
    }
}

fn json(to: &mut impl Write, own: &impl Serialize) -> io::Result<()> {
    serde_json::to_writer(to, own).map_err(io::Error::from)
}
