//! Readings of other tests as a table: CSV (RFC 4180), or what a spreadsheet puts on the clipboard.

use busy_hen_home::{Fault, Faults, Outcome};
use busy_hen_units::typed::{Decimals, Quantity, has_unit, read_cell};
use busy_hen_units::{Dbm, MbitPerSec, Millis};
use jiff::Timestamp;
use jiff::civil::{Date, DateTime};
use jiff::tz::TimeZone;
use serde::{Deserialize, Serialize};
use utoipa::ToSchema;

/// Most lines that are read.
const LINES_LIMIT: usize = 1000;
/// Most columns.
const COLUMNS_LIMIT: usize = 60;

/// What a column holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum Column {
    /// Nothing that is wanted.
    Ignore,
    /// The spot, by its room's name.
    Spot,
    /// When it was taken.
    At,
    /// Download.
    Down,
    /// Upload.
    Up,
    /// Idle round trip, ms.
    Idle,
    /// Round trip under load, ms.
    Loaded,
    /// Jitter, ms.
    Jitter,
    /// Loss, percent.
    Loss,
    /// Signal, dBm.
    Signal,
    /// Negotiated link rate.
    LinkRate,
    /// What was noted.
    Note,
}

/// Unit of the rates of a table.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, ToSchema)]
#[serde(rename_all = "snake_case")]
pub enum RateUnit {
    /// Megabits per second.
    MegabitPerSecond,
    /// Megabytes per second: eight times as many megabits.
    MegabytePerSecond,
    /// Kilobits per second.
    KilobitPerSecond,
    /// Gigabits per second.
    GigabitPerSecond,
}

impl RateUnit {
    fn megabits(self) -> f64 {
        match self {
            Self::MegabitPerSecond => 1.0,
            Self::MegabytePerSecond => 8.0,
            Self::KilobitPerSecond => 1e-3,
            Self::GigabitPerSecond => 1e3,
        }
    }

    /// The unit that a heading names beyond doubt: a small b is a bit and a large one a byte only where the M before it is large too.
    fn named(heading: &str) -> Option<Self> {
        let has = |names: &[&str]| names.iter().any(|name| heading.contains(name));
        if has(&["MB/s", "MByte", "MBps"]) {
            Some(Self::MegabytePerSecond)
        } else if has(&["Mb/s", "Mbit", "Mbps"]) {
            Some(Self::MegabitPerSecond)
        } else if has(&["kb/s", "kbit", "kbps"]) {
            Some(Self::KilobitPerSecond)
        } else if has(&["Gb/s", "Gbit", "Gbps"]) {
            Some(Self::GigabitPerSecond)
        } else {
            // The tables of this product name it so.
            heading.ends_with("_mbps").then_some(Self::MegabitPerSecond)
        }
    }
}

/// A table as it was pasted.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Table {
    /// Its headings.
    pub headings: Vec<String>,
    /// Its lines, each with its number in the text.
    lines: Vec<(usize, Vec<String>)>,
    /// Whether semicolons part its cells, as programs do that write decimals with a comma.
    by_semicolons: bool,
}

/// How the numbers of a table are to be read.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Style {
    /// With these decimals.
    Known(Decimals),
    /// It has to be said; a cell that leaves doubt.
    Unclear(String),
}

/// A line of a table, read.
#[derive(Debug, Clone, PartialEq)]
pub struct TableRow {
    /// Number of the line in the text, from 1.
    pub line: usize,
    /// The spot as it is written.
    pub spot: String,
    /// What was read.
    pub reading: Reading,
}

/// What a line says.
#[derive(Debug, Clone, PartialEq)]
pub struct Reading {
    /// When; none where the table does not say.
    pub at: Option<Timestamp>,
    /// What came of it.
    pub outcome: Outcome,
    /// Signal.
    pub signal_dbm: Option<Dbm>,
    /// Negotiated link rate.
    pub link_rate_mbps: Option<MbitPerSec>,
    /// What was noted.
    pub note: Option<String>,
}

impl Table {
    /// Splits a text into headings and lines, by tabs, semicolons or commas, whichever its first line has most of.
    ///
    /// # Errors
    /// When there is no heading with a line under it, or quotes don't match.
    pub fn split(text: &str) -> Result<Self, Faults> {
        let text = text.trim_start_matches('\u{feff}');
        let first = text.lines().next().unwrap_or_default();
        let count = |mark: char| first.matches(mark).count();
        let mark = ['\t', ';', ','].into_iter().max_by_key(|mark| (count(*mark), *mark == '\t')).unwrap_or(',');
        let mut reader = csv::ReaderBuilder::new()
            .delimiter(u8::try_from(mark).unwrap_or(b','))
            .has_headers(false)
            .flexible(true)
            .trim(csv::Trim::All)
            .from_reader(text.as_bytes());
        let mut lines = Vec::new();
        for record in reader.records() {
            let record = record.map_err(|error| Faults::one("/text", format!("The table can’t be read: {error}.")))?;
            let line = record.position().map_or(0, |position| usize::try_from(position.line()).unwrap_or(0));
            if record.iter().any(|cell| !cell.is_empty()) {
                lines.push((line, record.iter().map(str::to_owned).collect::<Vec<_>>()));
            }
        }
        if lines.len() < 2 {
            return Err(Faults::one("/text", "A table has a line of headings and at least one line of readings."));
        }
        let (_, headings) = lines.remove(0);
        if lines.len() > LINES_LIMIT || headings.len() > COLUMNS_LIMIT {
            let message = format!("At most {LINES_LIMIT} lines of {COLUMNS_LIMIT} columns are read at once.");
            return Err(Faults::one("/text", message));
        }
        Ok(Self { headings, lines, by_semicolons: mark == ';' })
    }

    /// What the columns seem to hold, by their headings.
    #[must_use]
    pub fn guess(&self) -> Vec<Column> {
        let mut taken: Vec<Column> = Vec::new();
        let columns = self.headings.iter().map(|heading| {
            let found = guess(&heading.to_lowercase());
            if found == Column::Ignore || taken.contains(&found) {
                return Column::Ignore;
            }
            taken.push(found);
            found
        });
        columns.collect()
    }

    /// The unit of the rates, where every heading of a rate names one and the same; else it is asked for, never guessed.
    #[must_use]
    pub fn unit(&self, columns: &[Column]) -> Option<RateUnit> {
        let is_rate = |column: Column| quantity(column) == Some(Quantity::Speed);
        let rates = columns.iter().zip(&self.headings).filter(|(column, _)| is_rate(**column));
        if self.cells(columns).all(|(of, cell)| of != Quantity::Speed || has_unit(cell, of)) {
            // Every cell says it; what a bare one would be does not matter.
            return Some(RateUnit::MegabitPerSecond);
        }
        let mut units = rates.map(|(_, heading)| RateUnit::named(heading));
        let first = units.next()??;
        units.all(|unit| unit == Some(first)).then_some(first)
    }

    /// The cells that hold numbers, with what they are of.
    fn cells<'a>(&'a self, columns: &'a [Column]) -> impl Iterator<Item = (Quantity, &'a str)> {
        self.lines.iter().flat_map(move |(_, cells)| cells.iter().zip(columns)).filter_map(|(cell, column)| {
            let cell = cell.trim();
            quantity(*column).filter(|_| !cell.is_empty()).map(|of| (of, cell))
        })
    }

    /// How its numbers are written, where home and table leave no doubt of it; one question a table, never one a cell.
    #[must_use]
    pub fn style(&self, columns: &[Column], home: Decimals) -> Style {
        let other = if home == Decimals::Point { Decimals::Comma } else { Decimals::Point };
        let all = |decimals| {
            let read = self.cells(columns).map(|(of, cell)| read_cell(cell, of, decimals, 1.0).ok());
            read.collect::<Option<Vec<_>>>()
        };
        let sides = |cell: &str| cell.contains('.') && cell.contains(',');
        // What this product writes is written with points everywhere.
        if self.headings.iter().any(|heading| heading.ends_with("_mbps")) {
            return Style::Known(Decimals::Point);
        }
        let doubt = || {
            let differs = |(of, cell): &(Quantity, &str)| {
                read_cell(cell, *of, home, 1.0).ok() != read_cell(cell, *of, other, 1.0).ok()
            };
            let cell = self.cells(columns).find(differs);
            Style::Unclear(cell.map(|(_, cell)| cell.to_owned()).unwrap_or_default())
        };
        match (all(home), all(other)) {
            (Some(own), Some(foreign)) if own == foreign => Style::Known(home),
            (Some(_), Some(_)) if self.by_semicolons && home == Decimals::Point => doubt(),
            (Some(_), _) => Style::Known(home),
            (None, Some(_)) => {
                let sure =
                    self.by_semicolons && other == Decimals::Comma || self.cells(columns).any(|(_, cell)| sides(cell));
                if sure { Style::Known(other) } else { doubt() }
            }
            (None, None) => Style::Known(home),
        }
    }

    /// Reads the lines.
    ///
    /// # Errors
    /// Every cell that is no such value, with its line and heading.
    pub fn read(&self, columns: &[Column], unit: RateUnit, decimals: Decimals) -> Result<Vec<TableRow>, Faults> {
        let mut faults = Vec::new();
        if columns.len() != self.headings.len() {
            return Err(Faults::one("/columns", format!("The table has {} columns.", self.headings.len())));
        }
        for wanted in [Column::Spot, Column::Down, Column::Up] {
            if columns.iter().filter(|own| **own == wanted).count() != 1 {
                let name = match wanted {
                    Column::Spot => "the spot",
                    Column::Down => "the download",
                    _ => "the upload",
                };
                faults
                    .push(Fault { pointer: "/columns".into(), message: format!("Say which one column holds {name}.") });
            }
        }
        Faults::check(std::mem::take(&mut faults))?;
        let mut rows = Vec::new();
        for (line, cells) in &self.lines {
            match self.row((*line, cells), columns, unit, decimals) {
                Ok(row) => rows.push(row),
                Err(mut found) => faults.append(&mut found),
            }
        }
        Faults::check(faults)?;
        Ok(rows)
    }

    fn row(
        &self,
        (line, cells): (usize, &[String]),
        columns: &[Column],
        unit: RateUnit,
        decimals: Decimals,
    ) -> Result<TableRow, Vec<Fault>> {
        let mut faults = Vec::new();
        let cell = |wanted: Column| {
            let index = columns.iter().position(|own| *own == wanted)?;
            let text = cells.get(index).map_or("", |text| text.trim());
            (!text.is_empty()).then_some((self.headings[index].as_str(), text))
        };
        let mut wrong = |heading: &str, text: &str, is: &str| {
            let message = format!("Line {line}, {heading}: “{text}” is no {is}.");
            faults.push(Fault { pointer: "/text".into(), message });
        };
        let mut figure = |column: Column, is: &str| {
            let (heading, text) = cell(column)?;
            let of = quantity(column)?;
            let bare = if of == Quantity::Speed { unit.megabits() } else { 1.0 };
            let read = read_cell(text, of, decimals, bare).ok();
            if read.is_none() {
                wrong(heading, text, is);
            }
            read
        };
        let down = figure(Column::Down, "speed");
        let up = figure(Column::Up, "speed");
        let idle = figure(Column::Idle, "delay in ms").map(Millis::new);
        let loaded = figure(Column::Loaded, "delay in ms").map(Millis::new);
        let jitter = figure(Column::Jitter, "jitter in ms").map(Millis::new);
        let loss = figure(Column::Loss, "loss in percent");
        let signal = figure(Column::Signal, "signal in dBm").map(Dbm::new);
        let link = figure(Column::LinkRate, "link rate");
        let at = cell(Column::At).and_then(|(heading, text)| {
            let read = moment(text);
            if read.is_none() {
                wrong(heading, text, "moment such as 2026-11-25 14:03");
            }
            read
        });
        let spot = cell(Column::Spot).map(|(_, text)| text.to_owned());
        if spot.is_none() {
            faults.push(Fault { pointer: "/text".into(), message: format!("Line {line} does not say at which spot.") });
        }
        let outcome = match (down, up) {
            (Some(down), Some(up)) => Outcome::Measured {
                down_mbps: MbitPerSec::new(down),
                up_mbps: MbitPerSec::new(up),
                idle_ms: idle,
                loaded_ms: loaded,
                jitter_ms: jitter,
                loss_percent: loss,
            },
            (None, None) if cell(Column::Down).is_none() && cell(Column::Up).is_none() => Outcome::NoConnection,
            _ => {
                let message = format!("Line {line} has one of down and up only; leave both empty for no connection.");
                faults.push(Fault { pointer: "/text".into(), message });
                Outcome::NoConnection
            }
        };
        let note = cell(Column::Note).map(|(_, text)| text.to_owned());
        let reading = Reading { at, outcome, signal_dbm: signal, link_rate_mbps: link.map(MbitPerSec::new), note };
        if faults.is_empty() { Ok(TableRow { line, spot: spot.unwrap_or_default(), reading }) } else { Err(faults) }
    }
}

/// What the numbers of a column are of; none where it holds none.
fn quantity(column: Column) -> Option<Quantity> {
    Some(match column {
        Column::Down | Column::Up | Column::LinkRate => Quantity::Speed,
        Column::Idle | Column::Loaded | Column::Jitter => Quantity::Delay,
        Column::Loss => Quantity::Percent,
        Column::Signal => Quantity::Signal,
        Column::Ignore | Column::Spot | Column::At | Column::Note => return None,
    })
}

fn guess(heading: &str) -> Column {
    let has = |names: &[&str]| names.iter().any(|name| heading.contains(name));
    if has(&["link"]) {
        Column::LinkRate
    } else if has(&["down"]) || heading == "dl" {
        Column::Down
    } else if has(&["upload", "up_", "up "]) || ["up", "ul"].contains(&heading) {
        Column::Up
    } else if has(&["jitter"]) {
        Column::Jitter
    } else if has(&["load", "busy"]) {
        Column::Loaded
    } else if has(&["idle", "ping", "latency", "delay"]) {
        Column::Idle
    } else if has(&["loss"]) {
        Column::Loss
    } else if has(&["dbm", "signal", "rssi"]) {
        Column::Signal
    } else if has(&["room", "spot", "place", "where"]) {
        Column::Spot
    } else if has(&["time", "date", "when"]) || heading == "at" {
        Column::At
    } else if has(&["note", "comment", "remark"]) {
        Column::Note
    } else {
        Column::Ignore
    }
}

/// A moment as standards or people write it; where the machine stands when it names no place on earth.
fn moment(text: &str) -> Option<Timestamp> {
    let here = |at: DateTime| TimeZone::system().to_timestamp(at).ok();
    text.parse::<Timestamp>()
        .ok()
        .or_else(|| here(text.parse::<DateTime>().ok()?))
        .or_else(|| here(text.parse::<Date>().ok()?.to_datetime(jiff::civil::Time::midnight())))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> Result<Vec<TableRow>, Faults> {
        let table = Table::split(text)?;
        let columns = table.guess();
        let unit = table.unit(&columns).ok_or_else(|| Faults::one("/unit", "asked"))?;
        match table.style(&columns, Decimals::Point) {
            Style::Known(decimals) => table.read(&columns, unit, decimals),
            Style::Unclear(cell) => Err(Faults::one("/decimals", cell)),
        }
    }

    fn rates(row: &TableRow) -> (f64, f64) {
        match &row.reading.outcome {
            Outcome::Measured { down_mbps, up_mbps, .. } => (down_mbps.get(), up_mbps.get()),
            other => panic!("{other:?}"),
        }
    }

    #[test]
    fn commas_semicolons_and_what_a_spreadsheet_copies_are_read() {
        let comma = read("Room,Download Mb/s,Upload Mb/s,Ping\n\"Study, north\",81.5,18,12\n").unwrap();
        assert_eq!((comma[0].spot.as_str(), rates(&comma[0]), comma[0].line), ("Study, north", (81.5, 18.0), 2));
        let semicolon = read("Raum/room;Down Mbit/s;Up Mbit/s\nKüche;81,5;18\n").unwrap();
        assert_eq!(rates(&semicolon[0]), (81.5, 18.0));
        let tabs = read("where\tdown Mbps\tup Mbps\tnote\nHall\t40\t9\t4,5 m away\n").unwrap();
        assert_eq!(tabs[0].reading.note.as_deref(), Some("4,5 m away"));
    }

    #[test]
    fn megabytes_are_eight_times_as_many_megabits_and_an_unclear_unit_is_asked_for() {
        let bytes = read("Room,Down MB/s,Up MB/s\nHall,10,2\n").unwrap();
        assert_eq!(rates(&bytes[0]), (80.0, 16.0));
        for unclear in ["down,up", "down mbps,up mbps", "Down Mb/s,Up MB/s", "DOWN MBIT,UP"] {
            let table = Table::split(&format!("room,{unclear}\nHall,10,2\n")).unwrap();
            assert_eq!(table.unit(&table.guess()), None, "{unclear}");
        }
    }

    #[test]
    fn every_cell_that_can_t_be_read_is_named() {
        let faults =
            read("Room,Down Mb/s,Up Mb/s,when\nHall,fast,9,yesterday\n,1,2,\nLoft,\"1,23,4\",3,\n").unwrap_err();
        let words: Vec<&str> = faults.list().iter().map(|fault| fault.message.as_str()).collect();
        let all = words.join("\n");
        for wanted in
            ["Line 2, Down Mb/s: “fast”", "Line 2, when", "Line 3 does not say", "Line 4, Down Mb/s: “1,23,4”"]
        {
            assert!(all.contains(wanted), "{wanted} in\n{all}");
        }
        assert!(read("Room,Down Mb/s,Up Mb/s\nHall,10,\n").is_err(), "half a reading");
        assert!(read("").is_err() && read("Room,Down Mb/s,Up Mb/s\n").is_err());
    }

    #[test]
    fn thousands_and_decimals_are_those_of_home_and_table_and_doubt_is_asked_about_once() {
        let style = |cells: &[&str], home| {
            let lines: Vec<String> = cells.iter().map(|cell| format!("Hall\t{cell}\t9")).collect();
            let table = Table::split(&format!("Room\tDown Mb/s\tUp Mb/s\n{}\n", lines.join("\n"))).unwrap();
            (table.style(&table.guess(), home), table)
        };
        let known = |decimals| Style::Known(decimals);
        let (point, comma) = (Decimals::Point, Decimals::Comma);
        assert_eq!(style(&["1,000", "84.5"], point).0, known(point));
        assert_eq!(style(&["1,000"], point).0, known(point));
        assert_eq!(style(&["1.000", "84,5"], comma).0, known(comma));
        assert_eq!(style(&["70", "20"], comma).0, known(comma));
        assert_eq!(style(&["1,5", "2,25"], point).0, Style::Unclear("1,5".into()));
        assert_eq!(style(&["84.5"], comma).0, Style::Unclear("84.5".into()));
        assert_eq!(style(&["1.234,5", "2,25"], point).0, known(comma), "one cell leaves no doubt");
        let (_, table) = style(&["1,000"], point);
        let rows = table.read(&table.guess(), RateUnit::MegabitPerSecond, point).unwrap();
        assert_eq!(rates(&rows[0]), (1000.0, 9.0));
    }

    #[test]
    fn a_cell_that_names_its_unit_is_read_in_it() {
        let rows = read("Room\tDown\tUp\nHall\t18 Mbps\t2 MB/s\n").unwrap();
        assert_eq!(rates(&rows[0]), (18.0, 16.0));
    }

    #[test]
    fn a_line_without_figures_is_no_connection_and_moments_are_read_as_written() {
        let rows =
            read("Room,Down Mb/s,Up Mb/s,time\nShed,,,2026-11-20T10:00:00Z\nHall,5,1,2026-11-20 10:00\n").unwrap();
        assert_eq!(rows[0].reading.outcome, Outcome::NoConnection);
        assert_eq!(rows[0].reading.at, Some("2026-11-20T10:00:00Z".parse().unwrap()));
        assert!(rows[1].reading.at.is_some());
    }

    #[test]
    fn what_this_product_writes_it_reads() {
        use busy_hen_home::{SetupId, SpotId};
        use busy_hen_testkit::runs;
        let round = runs::round("r", SetupId::named("A"), vec![SpotId::named("s")]);
        let run = runs::run(&round, SpotId::named("s"), 80.0);
        let line = crate::Line { setup: "A", room: "Study", spot: "", serving: "Router", round: &round, run: &run };
        let rows = read(&crate::readings_csv(&[line]).unwrap()).unwrap();
        assert_eq!(
            (rows[0].spot.as_str(), &rows[0].reading.outcome),
            (
                "Study",
                &Outcome::Measured {
                    down_mbps: MbitPerSec::new(80.0),
                    up_mbps: MbitPerSec::new(8.0),
                    idle_ms: Some(Millis::new(12.0)),
                    loaded_ms: Some(Millis::new(60.0)),
                    jitter_ms: None,
                    loss_percent: None
                }
            )
        );
        assert_eq!(rows[0].reading.at, Some(run.at));
    }
}
