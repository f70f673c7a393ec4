//! A log as days: one strip a day, evenings against nights.

use std::collections::BTreeMap;

use busy_hen_home::{Pings, Took, WatchHead, WatchLog};
use busy_hen_predict::progress::Watch;
use busy_hen_predict::summary::Figures;
use busy_hen_units::{MbitPerSec, Millis};
use jiff::Timestamp;
use jiff::civil::Date;
use jiff::tz::TimeZone;
use serde::Serialize;
use utoipa::ToSchema;

use super::finding::WatchFinding;
use super::spans::{Away, Hole, holes};

/// Hours of the evening, when families and neighbours are at home (common practice).
const EVENING: std::ops::Range<u8> = 18..23;
/// Hours of the night.
const NIGHT: std::ops::Range<u8> = 1..6;

/// What a watch saw, told by days.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct WatchReport {
    /// How it is set up.
    pub head: WatchHead,
    /// From when; none where nothing was seen yet.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub from: Option<Timestamp>,
    /// Until when.
    #[schema(value_type = Option<String>, format = DateTime)]
    pub to: Option<Timestamp>,
    /// What it shows, what matters most first.
    pub findings: Vec<WatchFinding>,
    /// A day after the other.
    pub days: Vec<DayStrip>,
    /// Evenings against nights, of each address.
    pub parts: Vec<PartsOfDay>,
    /// Middle speed of short transfers in the evening.
    pub evening_mbps: Option<MbitPerSec>,
    /// ... and at all other hours.
    pub else_mbps: Option<MbitPerSec>,
    /// Where nobody watched.
    pub holes: Vec<Hole>,
}

/// One day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct DayStrip {
    /// The local day.
    #[schema(value_type = String, format = Date)]
    pub day: Date,
    /// Each address.
    pub targets: Vec<TargetDay>,
    /// Where nobody watched, from the first to the last moment of the watch.
    pub holes: Vec<HourSpan>,
    /// Short transfers.
    pub transfers: Vec<TransferSeen>,
}

/// One address on one day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct TargetDay {
    /// Pings.
    pub asked: u64,
    /// Pings that nobody answered.
    pub lost: u64,
    /// Quickest, median and slowest answer; the median is that of the stretches' medians, each by its answers.
    pub took: Option<Took>,
    /// Where it did not answer.
    pub drops: Vec<HourSpan>,
    /// How long it did not, s.
    pub away_s: f64,
    /// Hours that were watched.
    pub hours: Vec<HourCell>,
}

/// One address in one hour of one day.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct HourCell {
    /// The local hour, 0 to 23.
    #[schema(maximum = 23)]
    pub hour: u8,
    /// Part of the knocks that nobody answered, 0 to 1.
    pub lost_part: f64,
    /// Median answer; none where nobody answered.
    pub median_ms: Option<Millis>,
}

/// A while of a day, in hours from midnight by the clock on the wall.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct HourSpan {
    /// From when, h.
    pub from_h: f64,
    /// Until when, h; never before it began, also where clocks were put back meanwhile.
    pub to_h: f64,
    /// How long it truly was, s: on a day when clocks change this is not what the two say.
    pub length_s: f64,
}

/// A short transfer of a day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct TransferSeen {
    /// When, in hours from midnight.
    pub at_h: f64,
    /// How fast; none where it broke.
    pub speed_mbps: Option<MbitPerSec>,
}

/// Evenings against nights, of one address.
#[derive(Debug, Clone, PartialEq, Serialize, ToSchema)]
pub struct PartsOfDay {
    /// 18 to 23 h.
    pub evening: Option<DayPart>,
    /// 1 to 6 h.
    pub night: Option<DayPart>,
}

/// An address in some hours of all days.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, ToSchema)]
pub struct DayPart {
    /// Median answer.
    pub median_ms: Option<Millis>,
    /// Part of the knocks that nobody answered, 0 to 1.
    pub lost_part: f64,
    /// Drops that began in these hours.
    pub drops: usize,
}

/// What was counted of some stretches of an address.
#[derive(Debug, Clone, Default)]
struct Sum {
    asked: u64,
    lost: u64,
    least: Option<f64>,
    most: Option<f64>,
    /// Medians, with how many answers each stands for.
    medians: Vec<(f64, u64)>,
}

impl Sum {
    fn add(&mut self, knocks: &Pings) {
        self.asked += u64::from(knocks.asked);
        self.lost += u64::from(knocks.lost);
        if let Some(took) = knocks.took {
            let (min, max) = (took.min_ms.get(), took.max_ms.get());
            self.least = Some(self.least.map_or(min, |own| own.min(min)));
            self.most = Some(self.most.map_or(max, |own| own.max(max)));
            self.medians.push((took.median_ms.get(), u64::from(knocks.asked.saturating_sub(knocks.lost))));
        }
    }

    fn median(&self) -> Option<Millis> {
        let mut list = self.medians.clone();
        list.sort_by(|a, b| a.0.total_cmp(&b.0));
        let half = list.iter().map(|own| own.1).sum::<u64>().div_ceil(2);
        let mut below = 0;
        let middle = list.iter().find(|own| {
            below += own.1;
            below >= half
        });
        middle.map(|own| Millis::new(own.0))
    }

    fn took(&self) -> Option<Took> {
        Some(Took { min_ms: Millis::new(self.least?), median_ms: self.median()?, max_ms: Millis::new(self.most?) })
    }

    fn lost_part(&self) -> f64 {
        if self.asked == 0 { 0.0 } else { self.lost as f64 / self.asked as f64 }
    }
}

/// The local day, and the hours from midnight by the clock on the wall.
pub(super) fn local(at: Timestamp, zone: &TimeZone) -> (Date, f64) {
    let local = zone.to_datetime(at);
    let time = local.time();
    let hour = f64::from(time.hour()) + f64::from(time.minute()) / 60.0 + f64::from(time.second()) / 3600.0;
    (local.date(), hour)
}

/// Puts a while to the days it falls on.
fn by_day((from, to): (Timestamp, Timestamp), zone: &TimeZone, days: &mut BTreeMap<Date, Vec<HourSpan>>) {
    let ((first, from_h), (last, to_h)) = (local(from, zone), local(to, zone));
    let (mut day, mut since) = (first, from);
    while day <= last {
        let next = day.tomorrow().ok().filter(|_| day < last);
        let begins = next.and_then(|next| zone.to_timestamp(next.at(0, 0, 0, 0)).ok());
        let until = begins.unwrap_or(to);
        let length_s = until.duration_since(since).as_secs_f64();
        let from_h = if day == first { from_h } else { 0.0 };
        let to_h = if day == last { to_h } else { 24.0 };
        // Clocks that were put back meanwhile show less than when it began.
        let to_h = if to_h < from_h { (from_h + length_s / 3600.0).min(24.0) } else { to_h };
        days.entry(day).or_default().push(HourSpan { from_h, to_h, length_s });
        let Some(next) = next else { break };
        (day, since) = (next, until);
    }
}

/// A log by the days and hours of this time zone, before anybody looked what it shows.
pub(super) fn by_days(log: &WatchLog, aways: &[Away], zone: &TimeZone, asked: &Watch) -> WatchReport {
    let wanted = || !asked.is_stopped();
    let count = log.head.targets.len();
    let holes = holes(log);
    let mut hours: BTreeMap<Date, Vec<BTreeMap<u8, Sum>>> = BTreeMap::new();
    for stretch in log.stretches.iter().take_while(|_| wanted()) {
        let (day, hour) = local(stretch.from, zone);
        let of_day = hours.entry(day).or_insert_with(|| vec![BTreeMap::new(); count]);
        for (own, knocks) in of_day.iter_mut().zip(&stretch.of) {
            own.entry(hour as u8).or_default().add(knocks);
        }
    }
    let mut drops: Vec<BTreeMap<Date, Vec<HourSpan>>> = vec![BTreeMap::new(); count];
    for own in aways.iter().take_while(|_| wanted()) {
        by_day((own.from, own.to), zone, &mut drops[own.target]);
    }
    let mut unwatched: BTreeMap<Date, Vec<HourSpan>> = BTreeMap::new();
    holes.iter().for_each(|own| by_day((own.from, own.to), zone, &mut unwatched));
    // A day on which nobody watched at all has its strip too.
    for day in unwatched.keys() {
        hours.entry(*day).or_insert_with(|| vec![BTreeMap::new(); count]);
    }
    let mut transfers: BTreeMap<Date, Vec<TransferSeen>> = BTreeMap::new();
    for own in &log.transfers {
        let (day, at_h) = local(own.at, zone);
        let speed = MbitPerSec::new(own.bytes as f64 * 8.0 / 1000.0 / own.took_ms.get());
        let seen = TransferSeen { at_h, speed_mbps: own.whole.then_some(speed) };
        transfers.entry(day).or_default().push(seen);
    }
    let days = hours.iter().map(|(day, targets)| {
        let targets = targets.iter().zip(&mut drops);
        let targets = targets.map(|(hours, drops)| target_day(hours, drops.remove(day).unwrap_or_default())).collect();
        let holes = unwatched.remove(day).unwrap_or_default();
        DayStrip { day: *day, targets, holes, transfers: transfers.remove(day).unwrap_or_default() }
    });
    let days: Vec<DayStrip> = days.collect();
    let part = |target: usize, of: std::ops::Range<u8>| {
        let mut sum = Sum::default();
        let stretches = log.stretches.iter().take_while(|_| wanted());
        for stretch in stretches.filter(|own| of.contains(&(local(own.from, zone).1 as u8))) {
            stretch.of.get(target).into_iter().for_each(|knocks| sum.add(knocks));
        }
        let began = |own: &&Away| own.target == target && of.contains(&(local(own.from, zone).1 as u8));
        let drops = aways.iter().filter(began).count();
        (sum.asked > 0).then(|| DayPart { median_ms: sum.median(), lost_part: sum.lost_part(), drops })
    };
    let parts: Vec<PartsOfDay> =
        (0..count).map(|target| PartsOfDay { evening: part(target, EVENING), night: part(target, NIGHT) }).collect();
    let speed = |evening: bool| {
        let seen = days.iter().flat_map(|day| &day.transfers);
        let seen = seen.filter(|own| EVENING.contains(&(own.at_h as u8)) == evening);
        Figures::of(seen.filter_map(|own| Some(own.speed_mbps?.get())).collect()).map(|own| MbitPerSec::new(own.median))
    };
    WatchReport {
        head: log.head.clone(),
        from: log.stretches.first().map(|own| own.from),
        to: log.stretches.iter().map(|own| own.to).max(),
        findings: Vec::new(),
        parts,
        evening_mbps: speed(true),
        else_mbps: speed(false),
        days,
        holes,
    }
}

fn target_day(hours: &BTreeMap<u8, Sum>, drops: Vec<HourSpan>) -> TargetDay {
    let mut day = Sum::default();
    for own in hours.values() {
        day.asked += own.asked;
        day.lost += own.lost;
        day.least = day.least.into_iter().chain(own.least).reduce(f64::min);
        day.most = day.most.into_iter().chain(own.most).reduce(f64::max);
        day.medians.extend(&own.medians);
    }
    TargetDay {
        asked: day.asked,
        lost: day.lost,
        took: day.took(),
        away_s: drops.iter().map(|own| own.length_s).sum(),
        drops,
        hours: hours
            .iter()
            .map(|(hour, own)| HourCell { hour: *hour, lost_part: own.lost_part(), median_ms: own.median() })
            .collect(),
    }
}
