//! What a watch shows, in sentences: drops at the same hours, restarts, slow evenings, and where it saw nothing.
//!
//! # Source
//! The thresholds are our own (engineering estimate): what would be put down to chance is not told.

use std::collections::{BTreeMap, BTreeSet};

use busy_hen_home::{HangsBy, WatchLog};
use busy_hen_predict::progress::Watch;
use busy_hen_units::words::counted;
use jiff::SignedDuration;
use jiff::civil::Date;
use jiff::tz::TimeZone;

use super::days::{WatchReport, local};
use super::finding::{WatchFinding, WatchShows};
use super::spans::Away;

/// Days on which an hour must have drops to be named, at least.
const DAYS_LEAST: usize = 3;
/// ... and part of the days watched in that hour.
const DAYS_PART: f64 = 0.5;
/// Drops inside of the named hours must be so many times as frequent as outside.
const OFTENER: f64 = 4.0;
/// A restart takes between this long ...
const RESTART_FROM: SignedDuration = SignedDuration::from_secs(30);
/// ... and this long (common practice: a device from cold takes minutes).
const RESTART_TO: SignedDuration = SignedDuration::from_secs(420);
/// Evenings are slow when answers take so many times as long as at night ...
const SLOWER: f64 = 1.5;
/// ... and so much longer, ms.
const SLOWER_MS: f64 = 5.0;
/// Part of the nightly speed under which an evening transfer is slow.
const LESS: f64 = 0.7;
/// Part of knocks lost outside of drops that is told.
const LOST_PART: f64 = 0.01;

/// What a log shows.
pub(super) fn findings(
    log: &WatchLog,
    told: &WatchReport,
    aways: &[Away],
    zone: &TimeZone,
    asked: &Watch,
) -> Vec<WatchFinding> {
    if log.stretches.is_empty() {
        return Vec::new();
    }
    let shown = Shown { log, told, aways, zone };
    let targets = (0..log.head.targets.len()).take_while(|_| !asked.is_stopped());
    let mut list: Vec<WatchFinding> = targets.flat_map(|target| shown.of(target)).collect();
    list.extend(shown.slow_evenings());
    list.extend(shown.others_answer());
    if list.is_empty() {
        let watched = told.days.iter().filter(|day| day.targets.iter().any(|own| own.asked > 0)).count();
        let told = format!("Nothing dropped in {}.", counted(watched, "day"));
        list.push(WatchFinding { shows: WatchShows::AllWell, target: None, told, because: String::new() });
    }
    list.extend(shown.not_watched());
    list.sort_by_key(|own| own.shows);
    list
}

struct Shown<'a> {
    log: &'a WatchLog,
    told: &'a WatchReport,
    aways: &'a [Away],
    zone: &'a TimeZone,
}

/// Hours of the day, from the first to before the last.
type Hours = std::ops::Range<u8>;

impl Shown<'_> {
    fn name(&self, target: usize) -> &str {
        &self.log.head.targets[target].name
    }

    /// Whiles in which an address was away though the router, behind which it is, was not.
    fn own_aways(&self, target: usize) -> Vec<Away> {
        // Whiles of one address stand in the order of time and never overlap: the first of the router's that ends later tells.
        let routers = &self.aways[..self.aways.partition_point(|own| own.target == 0)];
        let with_router = |own: &Away| {
            let next = routers.get(routers.partition_point(|router| router.to <= own.from));
            next.is_some_and(|router| router.from < own.to)
        };
        let alone = |own: &&Away| target == 0 || !with_router(own);
        self.aways.iter().filter(|own| own.target == target).filter(alone).copied().collect()
    }

    fn of(&self, target: usize) -> Vec<WatchFinding> {
        let (name, mut list) = (self.name(target), Vec::new());
        let mut say = |shows, told: String, because: String| {
            list.push(WatchFinding { shows, target: Some(target), told, because });
        };
        let of_days = || self.told.days.iter().filter_map(|day| day.targets.get(target));
        if of_days().all(|day| day.took.is_none()) {
            let because = "its address, or the port of its page, may be another".to_owned();
            say(WatchShows::NeverAnswered, format!("{name} never answered."), because);
            return list;
        }
        let own = self.own_aways(target);
        let hours = self.hours(target, &own);
        if let Some(hours) = &hours {
            let days = self.hit_in(&own, hours).len();
            let told = format!(
                "{name} drops at {} to {} h, on {days} of {}.",
                hours.start,
                hours.end,
                counted(self.watched_in(hours).len(), "day")
            );
            say(WatchShows::DropsAtHours, told, self.cause(target, hours));
        }
        let inside = |away: &&Away| hours.as_ref().is_some_and(|hours| hours.contains(&self.hour(away)));
        let others: Vec<&Away> = own.iter().filter(|away| !inside(away)).collect();
        let is_restart = |away: &&&Away| {
            away.ended
                && (RESTART_FROM..=RESTART_TO).contains(&away.length())
                && self.log.head.targets[target].way != HangsBy::Line
        };
        let restarts: Vec<&&Away> = others.iter().filter(is_restart).collect();
        if !restarts.is_empty() {
            let told = format!("{name} was away for {}: {}.", lengths(&restarts), self.dates(&restarts));
            let because = if target == 0 {
                "as long as a restart takes: by itself, by its power, or somebody pressed"
            } else {
                "as long as a restart takes, and the router answered meanwhile"
            };
            say(WatchShows::Restarts, told, because.to_owned());
        }
        let rest: Vec<&&Away> = others.iter().filter(|away| !is_restart(away)).collect();
        if !rest.is_empty() {
            let told = format!("{name} did not answer for {}: {}.", lengths(&rest), self.dates(&rest));
            let because = if rest.len() > 1 { "at no hour in particular" } else { "" };
            say(WatchShows::Drops, told, because.to_owned());
        }
        let (asked, lost) = of_days().fold((0, 0), |sum: (u64, u64), day| (sum.0 + day.asked, sum.1 + day.lost));
        let dropped = of_days().map(|day| day.away_s).sum::<f64>() / f64::from(self.log.head.every_s.max(1));
        let part = (lost as f64 - dropped).max(0.0) / asked.max(1) as f64;
        if part > LOST_PART {
            let told = format!("{name} leaves {:.1} % of the knocks unanswered, apart from drops.", part * 100.0);
            say(WatchShows::Losses, told, String::new());
        }
        list
    }

    fn hour(&self, away: &Away) -> u8 {
        local(away.from, self.zone).1 as u8
    }

    /// Days on which one of these began in one of these hours.
    fn hit_in(&self, aways: &[Away], hours: &Hours) -> BTreeSet<Date> {
        let hit = aways.iter().filter(|own| hours.contains(&self.hour(own)));
        hit.map(|own| local(own.from, self.zone).0).collect()
    }

    /// Days on which somebody watched in one of these hours.
    fn watched_in(&self, hours: &Hours) -> BTreeSet<Date> {
        let watched = |hour: u8| hours.contains(&hour);
        let days = self.told.days.iter();
        days.filter(|day| day.targets.iter().any(|own| own.hours.iter().any(|cell| watched(cell.hour))))
            .map(|day| day.day)
            .collect()
    }

    /// The hours that most drops fall into, where that is no chance; none where there are no such.
    fn hours(&self, target: usize, own: &[Away]) -> Option<Hours> {
        let mut days: BTreeMap<u8, BTreeSet<Date>> = BTreeMap::new();
        for away in own {
            days.entry(self.hour(away)).or_default().insert(local(away.from, self.zone).0);
        }
        let often = |hour: &u8| {
            let hit = days.get(hour).map_or(0, BTreeSet::len);
            let watched = self.watched_in(&(*hour..*hour + 1)).len();
            hit >= DAYS_LEAST && hit as f64 >= DAYS_PART * watched as f64
        };
        let mut best: Option<(usize, Hours)> = None;
        let mut hour = 0;
        while hour < 24 {
            let end = (hour..24).find(|own| !often(own)).unwrap_or(24);
            if end > hour {
                let hours = hour..end;
                let hits = own.iter().filter(|away| hours.contains(&self.hour(away))).count();
                if best.as_ref().is_none_or(|best| hits > best.0) {
                    best = Some((hits, hours));
                }
            }
            hour = end + 1;
        }
        let (hits, hours) = best?;
        let watched = |inside: bool| {
            let cells = self.told.days.iter().filter_map(|day| day.targets.get(target)).flat_map(|own| &own.hours);
            cells.filter(|cell| hours.contains(&cell.hour) == inside).count().max(1) as f64
        };
        let outside = (own.len() - hits) as f64 / watched(false);
        (hits as f64 / watched(true) >= OFTENER * outside).then_some(hours)
    }

    /// What drops at the same hours speak for: by what else dropped then.
    fn cause(&self, target: usize, hours: &Hours) -> String {
        let targets = &self.log.head.targets;
        let drops_too = |other: usize| self.hit_in(&self.own_aways(other), hours).len() >= DAYS_LEAST;
        let wired = || (0..targets.len()).filter(|own| targets[*own].way == HangsBy::Wire);
        match targets[target].way {
            HangsBy::Line if wired().any(drops_too) => {
                "what hangs by wire in the home drops too: look at that first".to_owned()
            }
            HangsBy::Line => "all in the home answers meanwhile: the line, or what is beyond it".to_owned(),
            HangsBy::Wire => "by wire, so not the air: its power, its cable, or itself".to_owned(),
            HangsBy::Radio if !self.log.head.by_wire => {
                "the machine that watches hangs by radio itself: watch by wire to tell whose air it is".to_owned()
            }
            HangsBy::Radio if wired().any(drops_too) => "what hangs by wire drops too, so not the air alone".to_owned(),
            HangsBy::Radio => {
                "what hangs by wire answers meanwhile: the air, such as neighbours' networks or an oven".to_owned()
            }
        }
    }

    fn dates(&self, list: &[&&Away]) -> String {
        let date = |own: &&&Away| self.zone.to_datetime(own.from).strftime("%-d %b %H:%M").to_string();
        let mut dates: Vec<String> = list.iter().take(4).map(date).collect();
        if list.len() > dates.len() {
            dates.push(format!("{} more", list.len() - dates.len()));
        }
        dates.join(", ")
    }

    fn slow_evenings(&self) -> Vec<WatchFinding> {
        let mut list = Vec::new();
        let because = |way: HangsBy| match way {
            HangsBy::Line => "the line, or what is beyond it, is busy in the evening",
            HangsBy::Radio => "the air is busy in the evening",
            HangsBy::Wire => "it has much to do in the evening",
        };
        for (target, own) in self.told.parts.iter().enumerate() {
            let middle = |part: Option<super::days::DayPart>| Some(part?.median_ms?.get());
            let Some((evening, night)) = middle(own.evening).zip(middle(own.night)) else { continue };
            if evening > SLOWER * night && evening > night + SLOWER_MS {
                let name = self.name(target);
                let told = format!("{name} answers in {evening:.0} ms in the evening, in {night:.0} ms at night.");
                let because = because(self.log.head.targets[target].way).to_owned();
                list.push(WatchFinding { shows: WatchShows::SlowEvenings, target: Some(target), told, because });
            }
        }
        let speeds = self.told.evening_mbps.zip(self.told.else_mbps);
        if let Some((evening, other)) = speeds.filter(|(evening, other)| *evening < *other * LESS) {
            let told = format!("Short transfers carry {evening:.0} in the evening, {other:.0} at other hours.");
            let because = because(HangsBy::Line).to_owned();
            list.push(WatchFinding { shows: WatchShows::SlowEvenings, target: None, told, because });
        }
        list
    }

    fn others_answer(&self) -> Vec<WatchFinding> {
        let targets = 0..self.log.head.targets.len();
        let each = targets.filter_map(|target| {
            let mut seen: Vec<_> = self.log.answerers.iter().filter(|own| own.target as usize == target).collect();
            seen.sort_by_key(|own| own.at);
            let (first, last) = (seen.first()?, seen.iter().find(|own| own.hardware != seen[0].hardware)?);
            let since = self.zone.to_datetime(last.at).strftime("%-d %b %H:%M").to_string();
            let name = self.name(target);
            let told =
                format!("At the address of {name}, {} answers since {since}, not {}.", last.hardware, first.hardware);
            let because = "another device has its address: two address servers, or it was given out anew".to_owned();
            Some(WatchFinding { shows: WatchShows::OtherAnswers, target: Some(target), told, because })
        });
        each.collect()
    }

    fn not_watched(&self) -> Option<WatchFinding> {
        let holes = &self.told.holes;
        let sum = holes.iter().map(super::spans::Hole::length).fold(SignedDuration::ZERO, |sum, own| sum + own);
        let told = format!("Not watched for {} in sum, {}.", length(sum), times(holes.len()));
        let because = "the machine or the program was off; what happened then is not known".to_owned();
        (!holes.is_empty()).then_some(WatchFinding { shows: WatchShows::NotWatched, target: None, told, because })
    }
}

/// "40 s", "12 min", "3 h 10 min".
fn length(own: SignedDuration) -> String {
    let (seconds, minutes) = (own.as_secs(), own.as_mins());
    match (seconds, minutes) {
        (..=119, _) => format!("{seconds} s"),
        (_, ..=119) => format!("{minutes} min"),
        _ if minutes % 60 == 0 => format!("{} h", minutes / 60),
        _ => format!("{} h {} min", minutes / 60, minutes % 60),
    }
}

fn times(count: usize) -> String {
    if count == 1 { "once".to_owned() } else { format!("{count} times") }
}

fn lengths(list: &[&&Away]) -> String {
    let all = list.iter().map(|own| own.length());
    let (Some(least), Some(most)) = (all.clone().min(), all.max()) else { return String::new() };
    let times = times(list.len());
    if least == most {
        format!("{}, {times}", length(least))
    } else {
        format!("{} to {}, {times}", length(least), length(most))
    }
}
