//! A stand-in home whose days go by as fast as they are asked for, to try the long watch out: evenings in which a node by radio drops,
//! a router that restarts, a line that fails once. All of it is made up, and known.

use busy_hen_home::{HangsBy, ShortTransfer, WatchHead, WatchId, WatchLine, WatchLog, Watched};
use busy_hen_job::long_watch::Tally;
use busy_hen_units::Millis;
use jiff::civil::{Date, DateTime, time};
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp, ToSpan};
use rand::{RngExt, SeedableRng};
use rand_chacha::ChaCha8Rng;

/// Part of knocks that get lost by chance.
const LOST: f64 = 0.002;
/// Rate of the line, Mb/s, and what an evening leaves of it.
const LINE: (f64, f64) = (90.0, 0.45);
/// Hours at which something short is transferred, and how much.
const TRANSFERS: [i8; 4] = [4, 10, 15, 20];
const TRANSFER_BYTES: u64 = 25_000_000;
/// Evening hours in which the neighbours are loud.
const LOUD: (i8, i8) = (19, 21);

/// A while in which an address does not answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Outage {
    /// The address, by its place in the list.
    pub target: usize,
    /// From when.
    pub from: Timestamp,
    /// Until when.
    pub to: Timestamp,
}

/// The days of a stand-in home.
#[derive(Debug, Clone)]
pub struct Days {
    seed: u64,
    zone: TimeZone,
    first: Date,
    count: u8,
    outages: Vec<Outage>,
}

impl Days {
    /// So many days from this one on, in this time zone.
    #[must_use]
    pub fn new(seed: u64, first: Date, count: u8, zone: &TimeZone) -> Self {
        let mut random = ChaCha8Rng::seed_from_u64(seed);
        let at =
            |day: Date, hour: i8, minute: i8| zone.to_timestamp(DateTime::from_parts(day, time(hour, minute, 0, 0)));
        let mut outages = Vec::new();
        let mut away = |targets: &[usize], from: Option<Timestamp>, seconds: i64| {
            let Some(from) = from else { return };
            let to = from + SignedDuration::from_secs(seconds);
            outages.extend(targets.iter().map(|target| Outage { target: *target, from, to }));
        };
        let quiet = u8::try_from(seed % u64::from(count.max(1))).unwrap_or_default();
        let mut day = first;
        for number in 0..count {
            if number != quiet {
                // Three in each loud hour, so that none touches the next.
                for (hour, third) in (LOUD.0..LOUD.1).flat_map(|hour| (0..3).map(move |third| (hour, third))) {
                    let minute = 20 * third + random.random_range(0..15);
                    away(&[1], at(day, hour, minute).ok(), random.random_range(40..150));
                }
            }
            if number == count / 3 {
                away(&[0, 1, 2, 3], at(day, 4, 12).ok(), 95);
            }
            if number == count * 2 / 3 {
                away(&[3], at(day, 10, 30).ok(), 12 * 60);
            }
            day = day.saturating_add(1.day());
        }
        Self { seed, zone: zone.clone(), first, count, outages }
    }

    /// What is knocked at.
    #[must_use]
    pub fn targets() -> Vec<Watched> {
        let target = |name: &str, address: &str, way| Watched { name: name.into(), address: address.into(), way };
        vec![
            target("Router", "192.0.2.1:80", HangsBy::Wire),
            target("Landing node", "192.0.2.2:80", HangsBy::Radio),
            target("Pottery point", "192.0.2.3:80", HangsBy::Wire),
            target("Beyond the line", "198.51.100.7:80", HangsBy::Line),
        ]
    }

    /// What does not answer, and when.
    #[must_use]
    pub fn outages(&self) -> &[Outage] {
        &self.outages
    }

    /// What a watch writes down of all its days, by this pause between two knocks, s.
    #[must_use]
    pub fn log(&self, id: WatchId, every_s: u32) -> WatchLog {
        let head = WatchHead { id, made_up: true, by_wire: true, every_s, targets: Self::targets() };
        let every = SignedDuration::from_secs(i64::from(every_s));
        let mut tally = Tally::new(head.targets.len(), every);
        let mut log = WatchLog::new(head);
        let Ok(mut at) = self.zone.to_timestamp(self.first.at(0, 0, 0, 0)) else { return log };
        log.take(WatchLine::Start { at });
        let end = at + SignedDuration::from_hours(24 * i64::from(self.count));
        let mut hour = None;
        while at < end {
            tally.take(at, &self.ping(at)).into_iter().for_each(|line| log.take(line));
            let now = self.zone.to_datetime(at).hour();
            if hour.replace(now) != Some(now) && TRANSFERS.contains(&now) {
                log.take(WatchLine::Transfer(self.transfer(at, TRANSFER_BYTES)));
            }
            at += every;
        }
        tally.close().into_iter().for_each(|line| log.take(line));
        log
    }

    /// Chance that belongs to this moment, address and draw alone, 0 to 1.
    fn chance(&self, at: Timestamp, target: usize, draw: u64) -> f64 {
        // splitmix64 (Steele, Lea and Flood 2014).
        let mut own = self.seed;
        for part in [at.as_second() as u64, target as u64, draw] {
            own = (own ^ part).wrapping_add(0x9e37_79b9_7f4a_7c15);
            own = (own ^ (own >> 30)).wrapping_mul(0xbf58_476d_1ce4_e5b9);
            own = (own ^ (own >> 27)).wrapping_mul(0x94d0_49bb_1331_11eb);
            own ^= own >> 31;
        }
        (own >> 11) as f64 / (1_u64 << 53) as f64
    }

    fn is_evening(&self, at: Timestamp) -> bool {
        (18..23).contains(&self.zone.to_datetime(at).hour())
    }

    /// How long each address takes to answer at this moment; none where it does not.
    #[must_use]
    pub fn ping(&self, at: Timestamp) -> Vec<Option<Millis>> {
        let evening = self.is_evening(at);
        // Quickest answer and how much longer some take, ms, at other hours and in the evening.
        let takes =
            [[(0.4, 0.3), (0.4, 0.4)], [(2.0, 3.0), (3.0, 9.0)], [(0.5, 0.3), (0.5, 0.4)], [(11.0, 3.0), (16.0, 30.0)]];
        let answer = |(target, own): (usize, &[(f64, f64); 2])| {
            let away = self.outages.iter().any(|own| own.target == target && own.from <= at && at < own.to);
            if away || self.chance(at, target, 0) < LOST {
                return None;
            }
            let (least, more) = own[usize::from(evening)];
            Some(Millis::new(least + more * self.chance(at, target, 1).powi(3)))
        };
        takes.iter().enumerate().map(answer).collect()
    }

    /// A short transfer of so many bytes.
    #[must_use]
    pub fn transfer(&self, at: Timestamp, bytes: u64) -> ShortTransfer {
        let rate = LINE.0 * if self.is_evening(at) { LINE.1 } else { 1.0 };
        let part = 0.85 + 0.15 * self.chance(at, 0, 2);
        ShortTransfer { at, bytes, took_ms: Millis::new(bytes as f64 * 8.0 / 1000.0 / (rate * part)), whole: true }
    }
}
