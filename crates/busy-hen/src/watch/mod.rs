//! The long watch: knocks at the devices of a home and beyond its line for days, and writes down what it sees.

mod log;
mod world;

use std::path::PathBuf;
use std::str::FromStr;

use busy_hen_home::{Answerer, HangsBy, WatchHead, WatchId, WatchLine, WatchLog, Watched};
use busy_hen_job::long_watch::Tally;
use busy_hen_probe::Place;
use busy_hen_standins::long_watch::Days;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};

use log::Log;
use world::World;

/// Port that a settings page is at when none is named.
const USUAL_PORT: u16 = 80;

/// What to watch.
#[derive(Debug, clap::Args)]
pub struct Options {
    /// A device by its name and address, with ",radio" where it hangs on the router by radio; the router first. May be given several times.
    #[arg(long = "device", value_name = "NAME=ADDRESS[,radio]", required_unless_present = "stand_in")]
    devices: Vec<Device>,
    /// The far end, as `busy-hen far-end` prints it: knocked at too, and where short transfers come from.
    #[arg(long, value_name = "URL#TOKEN")]
    far_end: Option<Place>,
    /// The log; gone on with when it is there.
    #[arg(long, value_name = "FILE", default_value = "busy-hen-watch.jsonl")]
    keep: PathBuf,
    /// Seconds between two knocks.
    #[arg(long, value_name = "S", default_value_t = 10, value_parser = clap::value_parser!(u32).range(1..=600))]
    every: u32,
    /// This machine hangs on the network by radio; a watch by wire tells more.
    #[arg(long)]
    by_radio: bool,
    /// Hours of the day at which something short is transferred.
    #[arg(long, value_name = "HOURS", value_delimiter = ',', default_values_t = [4, 10, 15, 20], value_parser = clap::value_parser!(u8).range(0..=23))]
    at: Vec<u8>,
    /// Megabytes that short transfers may take in a day, all together.
    #[arg(long, value_name = "MB", default_value_t = 100)]
    megabytes_a_day: u64,
    /// Watch a stand-in home instead, made up by this seed, whose days go by quickly; to try things out.
    #[arg(long, value_name = "SEED", conflicts_with_all = ["devices", "far_end"])]
    stand_in: Option<u64>,
    /// Days of the stand-in home.
    #[arg(long, value_name = "COUNT", default_value_t = 7, requires = "stand_in", value_parser = clap::value_parser!(u8).range(1..=60))]
    days: u8,
    /// First day of the stand-in home.
    #[arg(long, value_name = "DATE", default_value = "2026-11-02", requires = "stand_in")]
    first_day: Date,
}

/// A device as it is named on the command line.
#[derive(Debug, Clone, PartialEq, Eq)]
struct Device(Watched);

impl FromStr for Device {
    type Err = String;

    fn from_str(text: &str) -> Result<Self, String> {
        let told =
            || format!("“{text}” is no device: say its name and address, such as \"Landing node=192.168.1.3,radio\"");
        let (name, rest) = text.split_once('=').ok_or_else(told)?;
        let (address, way) = match rest.split_once(',') {
            None => (rest, HangsBy::Wire),
            Some((address, "wire")) => (address, HangsBy::Wire),
            Some((address, "radio")) => (address, HangsBy::Radio),
            Some(_) => return Err(told()),
        };
        let (name, address) = (name.trim(), address.trim());
        if name.is_empty() || address.is_empty() || address.contains(char::is_whitespace) {
            return Err(told());
        }
        let has_port = address.rsplit_once(':').is_some_and(|(_, port)| port.parse::<u16>().is_ok());
        let address = if has_port { address.to_owned() } else { format!("{address}:{USUAL_PORT}") };
        Ok(Self(Watched { name: name.to_owned(), address, way }))
    }
}

/// Watches until interrupted; a stand-in, until its days are over.
pub fn watch(options: &Options) -> Result<(), String> {
    let zone = TimeZone::system();
    let mut targets: Vec<Watched> = options.devices.iter().map(|own| own.0.clone()).collect();
    if let Some(place) = &options.far_end {
        place.check().map_err(|error| error.to_string())?;
        let address = place.origin.trim_start_matches("http://").to_owned();
        let address = if address.contains(':') { address } else { format!("{address}:{USUAL_PORT}") };
        targets.push(Watched { name: "Beyond the line".into(), address, way: HangsBy::Line });
    }
    let first = zone.to_timestamp(options.first_day.at(0, 0, 0, 0)).map_err(|error| error.to_string())?;
    let days = options.stand_in.map(|seed| Days::new(seed, options.first_day, options.days, &zone));
    if days.is_some() {
        targets = Days::targets();
    }
    let (made_up, by_wire, every_s) = (days.is_some(), !options.by_radio, options.every);
    let head = WatchHead { id: WatchId::random(), made_up, by_wire, every_s, targets };
    WatchLog::new(head.clone()).check().map_err(|faults| faults.to_string())?;
    let (log, until) = Log::open(&options.keep, &head)?;
    let end = made_up.then(|| first + SignedDuration::from_hours(24 * i64::from(options.days)));
    let world = match days {
        Some(days) => world::stand_in(days, first, until),
        None => World::Here { transfers: options.far_end.clone() },
    };
    crate::terminal::tell(format_args!(
        "Watching {} addresses every {} s; the log is {}. Bring it to the bench at the stop Watch.",
        head.targets.len(),
        options.every,
        options.keep.display()
    ));
    if made_up {
        crate::terminal::tell("What it sees is made up.");
    }
    let hours = Hours {
        zone,
        at: options.at.clone(),
        bytes: options.megabytes_a_day * 1_000_000 / options.at.len().max(1) as u64,
    };
    let watcher = Watcher { world, log, head, hours, seen: Vec::new(), unwritten: false };
    let runtime = tokio::runtime::Runtime::new().map_err(|error| error.to_string())?;
    runtime.block_on(watcher.run(end));
    Ok(())
}

/// When something short is transferred, and how much.
struct Hours {
    zone: TimeZone,
    at: Vec<u8>,
    bytes: u64,
}

impl Hours {
    /// Whether an hour for it began between these moments: never for one that began before the program, so that restarts cost no bytes.
    fn due(&self, after: Timestamp, now: Timestamp) -> bool {
        let began = self.zone.to_datetime(now).with().minute(0).second(0).subsec_nanosecond(0).build();
        let began = began.ok().and_then(|began| self.zone.to_timestamp(began).ok());
        let hour = u8::try_from(self.zone.to_datetime(now).hour()).unwrap_or_default();
        self.bytes > 0 && self.at.contains(&hour) && began.is_some_and(|began| after < began)
    }
}

struct Watcher {
    world: World,
    log: Log,
    head: WatchHead,
    hours: Hours,
    /// Who answered last at each address.
    seen: Vec<Option<String>>,
    /// Whether it was told that nothing can be written.
    unwritten: bool,
}

impl Watcher {
    async fn run(mut self, end: Option<Timestamp>) {
        let every = SignedDuration::from_secs(i64::from(self.head.every_s));
        let mut tally = Tally::new(self.head.targets.len(), every);
        let mut at = self.world.now();
        let mut transferred = at;
        self.write(&[WatchLine::Start { at }]);
        let mut stopped = std::pin::pin!(stop_asked());
        while end.is_none_or(|end| at < end) {
            let answers = self.world.ping(&self.head.targets).await;
            let mut lines = tally.take(at, &answers);
            if !lines.is_empty() {
                lines.extend(self.who_answers(at));
            }
            if self.world.transfers() && self.hours.due(transferred, at) {
                transferred = at;
                lines.extend(self.world.transfer(self.hours.bytes).await.map(WatchLine::Transfer));
            }
            self.write(&lines);
            // Pings keep to their times; those that a transfer or a slept-through night left out are not made up for.
            let now = self.world.now();
            at = (at + every).max(now);
            let stop = tokio::select! {
                () = &mut stopped => true,
                () = self.world.wait(at) => false,
            };
            at = self.world.now();
            if stop {
                break;
            }
        }
        let lines = tally.close();
        self.write(&lines);
    }

    /// Addresses at which another piece of hardware answers than before.
    fn who_answers(&mut self, at: Timestamp) -> Vec<WatchLine> {
        let now = self.world.answerers(&self.head.targets);
        self.seen.resize(now.len(), None);
        let mut lines = Vec::new();
        for (target, (seen, now)) in (0..).zip(self.seen.iter_mut().zip(now)) {
            if let Some(hardware) = now.filter(|now| seen.as_ref() != Some(now)) {
                *seen = Some(hardware.clone());
                lines.push(WatchLine::Answerer(Answerer { target, at, hardware }));
            }
        }
        lines
    }

    fn write(&mut self, lines: &[WatchLine]) {
        match self.log.write(lines) {
            Ok(()) => self.unwritten = false,
            Err(error) if !self.unwritten => {
                self.unwritten = true;
                eprintln!("busy-hen: the log can't be written: {error}; what is seen waits until it can");
            }
            Err(_) => {}
        }
    }
}

/// Ends when somebody asks the program to.
async fn stop_asked() {
    #[cfg(unix)]
    if let Ok(mut ended) = tokio::signal::unix::signal(tokio::signal::unix::SignalKind::terminate()) {
        tokio::select! {
            _ = tokio::signal::ctrl_c() => {}
            _ = ended.recv() => {}
        }
        return;
    }
    let _ = tokio::signal::ctrl_c().await;
}

#[cfg(test)]
#[allow(clippy::unwrap_used)]
mod tests {
    use super::*;

    #[test]
    fn a_device_is_named_as_people_write_it() {
        let of = |text: &str| text.parse::<Device>().map(|own| (own.0.name, own.0.address, own.0.way));
        assert_eq!(of("Router=192.168.1.1").unwrap(), ("Router".into(), "192.168.1.1:80".into(), HangsBy::Wire));
        assert_eq!(
            of("Node = node.home:8080,radio").unwrap(),
            ("Node".into(), "node.home:8080".into(), HangsBy::Radio)
        );
        for text in ["192.168.1.1", "=192.168.1.1", "Router=", "Router=192.168.1.1,carrier pigeon", "A=b c"] {
            assert!(of(text).unwrap_err().contains("is no device"), "{text}");
        }
    }

    #[test]
    fn an_hour_is_due_once_and_never_for_a_program_that_began_within_it() {
        let hours = Hours { zone: TimeZone::UTC, at: vec![4, 20], bytes: 1 };
        let at = |text: &str| text.parse::<Timestamp>().unwrap();
        assert!(hours.due(at("2026-11-02T03:50:00Z"), at("2026-11-02T04:00:05Z")));
        assert!(!hours.due(at("2026-11-02T04:00:05Z"), at("2026-11-02T04:30:00Z")), "once");
        assert!(!hours.due(at("2026-11-02T20:10:00Z"), at("2026-11-02T20:20:00Z")), "began within it");
        assert!(!hours.due(at("2026-11-02T03:50:00Z"), at("2026-11-02T05:00:05Z")));
        assert!(hours.due(at("2026-11-02T04:00:05Z"), at("2026-11-03T04:00:05Z")), "the next day");
        assert!(!Hours { bytes: 0, ..hours }.due(at("2026-11-02T03:50:00Z"), at("2026-11-02T04:00:05Z")), "no budget");
    }
}
