//! The long watch: knocks counted, drops and holes told, and what days of them show.
#![allow(clippy::unwrap_used, clippy::float_cmp)]

use busy_hen_home::{
    Answerer, HangsBy, Pings, ShortTransfer, WatchDrop, WatchHead, WatchId, WatchLine, WatchLog, WatchStretch, Watched,
};
use busy_hen_job::long_watch::{Tally, WatchReport, WatchShows, aways, holes, watch_report};
use busy_hen_predict::progress::Watch;
use busy_hen_units::Millis;
use jiff::civil::date;
use jiff::tz::TimeZone;
use jiff::{SignedDuration, Timestamp};

const EVERY: i64 = 10;

fn target(name: &str, way: HangsBy) -> Watched {
    Watched { name: name.into(), address: "192.0.2.1:80".into(), way }
}

/// Router, a node by radio, one by wire, and beyond the line.
fn head() -> WatchHead {
    let targets = [
        ("Router", HangsBy::Wire),
        ("Node", HangsBy::Radio),
        ("Point", HangsBy::Wire),
        ("Beyond the line", HangsBy::Line),
    ];
    WatchHead {
        id: WatchId::named("w"),
        made_up: true,
        by_wire: true,
        every_s: 10,
        targets: targets.map(|(name, way)| target(name, way)).into(),
    }
}

fn at(day: i8, hour: i8, minute: i8) -> Timestamp {
    TimeZone::UTC.to_timestamp(date(2026, 11, day).at(hour, minute, 0, 0)).unwrap()
}

fn minutes(count: i64) -> SignedDuration {
    SignedDuration::from_mins(count)
}

/// Pings every ten seconds over this many days; `away` says who does not answer when, `ms` how long an answer takes.
fn watched(
    head: WatchHead,
    days: std::ops::Range<i8>,
    away: impl Fn(usize, Timestamp) -> bool,
    ms: impl Fn(usize, Timestamp) -> f64,
) -> WatchLog {
    let mut log = WatchLog::new(head);
    let count = log.head.targets.len();
    let mut tally = Tally::new(count, SignedDuration::from_secs(EVERY));
    let mut now = at(days.start, 0, 0);
    while now < at(days.end, 0, 0) {
        let answers: Vec<_> = (0..count).map(|own| (!away(own, now)).then(|| Millis::new(ms(own, now)))).collect();
        tally.take(now, &answers).into_iter().for_each(|line| log.take(line));
        now += SignedDuration::from_secs(EVERY);
    }
    tally.close().into_iter().for_each(|line| log.take(line));
    log.check().unwrap();
    log
}

fn report(log: &WatchLog) -> WatchReport {
    watch_report(log, &TimeZone::UTC, &Watch::default())
}

fn shown(told: &WatchReport, shows: WatchShows) -> Vec<String> {
    told.findings.iter().filter(|own| own.shows == shows).map(|own| format!("{} {}", own.told, own.because)).collect()
}

/// Away from this moment for so many minutes.
fn between(now: Timestamp, from: Timestamp, length: i64) -> bool {
    from <= now && now < from + minutes(length)
}

#[test]
fn a_stretch_holds_each_knock_once_and_its_figures_are_those_of_the_answers() {
    let mut tally = Tally::new(1, SignedDuration::from_secs(EVERY));
    let mut log = WatchLog::new(WatchHead { targets: vec![target("Router", HangsBy::Wire)], ..head() });
    // Twenty minutes: 1, 2, ... 60 ms, then the same with every tenth lost.
    for number in 0..120_i64 {
        let lost = number >= 60 && number % 10 == 0;
        let answer = (!lost).then(|| Millis::new((number % 60) as f64 + 1.0));
        let lines = tally.take(at(2, 0, 0) + SignedDuration::from_secs(EVERY * number), &[answer]);
        lines.into_iter().for_each(|line| log.take(line));
    }
    tally.close().into_iter().for_each(|line| log.take(line));
    assert_eq!(log.stretches.len(), 2);
    assert_eq!((log.stretches[0].from, log.stretches[0].to), (at(2, 0, 0), at(2, 0, 10)));
    let [first, second] = [log.stretches[0].of[0], log.stretches[1].of[0]];
    assert_eq!((first.asked, first.lost, second.asked, second.lost), (60, 0, 60, 6));
    let took = first.took.unwrap();
    assert_eq!([took.min_ms, took.median_ms, took.max_ms].map(Millis::get), [1.0, 31.0, 60.0]);
    assert!(log.drops.is_empty(), "single knocks that are lost are no drops");
    assert!(holes(&log).is_empty());
}

#[test]
fn a_drop_is_one_whatever_stretches_it_crosses_and_is_told_even_if_the_power_goes_meanwhile() {
    // 25 minutes over three borders of stretches.
    let log = watched(head(), 2..3, |own, now| own == 1 && between(now, at(2, 9, 5), 25), |_, _| 1.0);
    let all = aways(&log);
    assert_eq!(all.len(), 1, "{all:?}");
    assert_eq!((all[0].target, all[0].from, all[0].to, all[0].ended), (1, at(2, 9, 5), at(2, 9, 30), true));
    let lost: u32 = log.stretches.iter().map(|own| own.of[1].lost).sum();
    assert_eq!(lost, 25 * 6);
    // Cut off at half past nine less a minute: the drop is known up to the last border.
    let mut cut = log.clone();
    cut.drops.retain(|own| own.to <= at(2, 9, 20));
    let all = aways(&cut);
    assert_eq!((all.len(), all[0].to, all[0].ended), (1, at(2, 9, 20), false));
}

#[test]
fn where_nobody_watched_is_a_hole_and_what_was_away_is_not_taken_to_have_stayed_so() {
    let mut tally = Tally::new(1, SignedDuration::from_secs(EVERY));
    let mut log = WatchLog::new(WatchHead { targets: vec![target("Router", HangsBy::Wire)], ..head() });
    let ping = |from: Timestamp, count: i64, answers: bool, tally: &mut Tally, log: &mut WatchLog| {
        for number in 0..count {
            let answer = answers.then(|| Millis::new(1.0));
            let lines = tally.take(from + SignedDuration::from_secs(EVERY * number), &[answer]);
            lines.into_iter().for_each(|line| log.take(line));
        }
    };
    ping(at(2, 1, 0), 30, true, &mut tally, &mut log);
    ping(at(2, 1, 5), 6, false, &mut tally, &mut log);
    // The machine slept for an hour and woke while all was well.
    ping(at(2, 2, 6), 30, true, &mut tally, &mut log);
    tally.close().into_iter().for_each(|line| log.take(line));
    let all = holes(&log);
    assert_eq!((all.len(), all[0].to), (1, at(2, 2, 6)));
    assert!(all[0].length() > minutes(59) && all[0].length() <= minutes(61), "{all:?}");
    let away = aways(&log);
    assert_eq!(away.len(), 1);
    assert!(!away[0].ended && away[0].to < at(2, 1, 7), "{away:?}");
    let told = report(&log);
    assert!(shown(&told, WatchShows::NotWatched)[0].contains("Not watched for 60 min in sum, once"), "{told:?}");
    assert_eq!(told.days[0].holes.len(), 1);
    assert!((told.days[0].holes[0].to_h - 2.1).abs() < 1e-9, "{:?}", told.days[0].holes);
}

#[test]
fn drops_at_the_same_hours_are_named_with_what_they_speak_for() {
    // On six of seven days, a minute and a half three times between 19 and 21 h.
    let evening = |now: Timestamp| {
        (2..9).filter(|day| *day != 5).any(|day| {
            [(19, 10), (19, 50), (20, 30)].iter().any(|(hour, minute)| between(now, at(day, *hour, *minute), 2))
        })
    };
    let found = report(&watched(head(), 2..9, |own, now| own == 1 && evening(now), |_, _| 1.0));
    let all = shown(&found, WatchShows::DropsAtHours);
    assert_eq!(all.len(), 1, "{:?}", found.findings);
    assert!(all[0].contains("Node drops at 19 to 21 h, on 6 of 7 days"), "{}", all[0]);
    assert!(all[0].contains("by wire answers meanwhile") && all[0].contains("neighbours"), "{}", all[0]);
    assert_eq!(found.findings.len(), 1, "{:?}", found.findings);
    assert_eq!(found.parts[1].evening.unwrap().drops, 18);
    assert_eq!(
        (found.days.len(), found.days[0].targets[1].drops.len(), found.days[3].targets[1].drops.len()),
        (7, 3, 0)
    );
    // A week later it is begun again: the days between have their strips, and are days on which nobody watched.
    let mut log = watched(head(), 2..4, |own, now| own == 1 && evening(now), |_, _| 1.0);
    let later = watched(head(), 7..9, |_, _| false, |_, _| 1.0);
    log.stretches.extend(later.stretches);
    let gap = report(&log);
    assert_eq!(gap.days.len(), 7);
    let day = &gap.days[3];
    assert_eq!((day.targets[0].asked, day.holes[0].from_h, day.holes[0].to_h), (0, 0.0, 24.0));
    // Two days are no habit: then they are drops like any.
    let few = report(&watched(head(), 2..4, |own, now| own == 1 && evening(now), |_, _| 1.0));
    assert!(shown(&few, WatchShows::DropsAtHours).is_empty(), "{:?}", few.findings);
    // What hangs by wire drops as well: not the air alone.
    let both = report(&watched(head(), 2..9, |own, now| (own == 1 || own == 2) && evening(now), |_, _| 1.0));
    let all = shown(&both, WatchShows::DropsAtHours);
    assert!(all[0].contains("not the air alone") && all[1].contains("by wire, so not the air"), "{all:?}");
    // The line by itself.
    let line = report(&watched(head(), 2..9, |own, now| own == 3 && evening(now), |_, _| 1.0));
    assert!(
        shown(&line, WatchShows::DropsAtHours)[0].contains("the line, or what is beyond it"),
        "{:?}",
        line.findings
    );
    // Watched by radio, nobody can tell whose air it is.
    let by_radio = WatchHead { by_wire: false, ..head() };
    let radio = report(&watched(by_radio, 2..9, |own, now| own == 1 && evening(now), |_, _| 1.0));
    assert!(shown(&radio, WatchShows::DropsAtHours)[0].contains("watch by wire"), "{:?}", radio.findings);
}

#[test]
fn drops_around_the_clock_are_no_habit_of_some_hours() {
    // Every hour of every day.
    let found = report(&watched(head(), 2..9, |own, now| own == 1 && now.as_second() % 3600 < 60, |_, _| 1.0));
    let all = shown(&found, WatchShows::DropsAtHours);
    assert!(all.is_empty() || all[0].contains("0 to 24 h"), "{all:?}");
}

#[test]
fn a_restart_of_the_router_is_told_once_and_not_of_all_that_is_behind_it() {
    let log = watched(head(), 2..4, |_, now| between(now, at(3, 4, 12), 2), |_, _| 1.0);
    let found = report(&log);
    let all = shown(&found, WatchShows::Restarts);
    assert_eq!((all.len(), found.findings.len()), (1, 1), "{:?}", found.findings);
    assert!(all[0].contains("Router was away for 2 min, once: 3 Nov 04:12"), "{}", all[0]);
    // A node alone.
    let node = report(&watched(head(), 2..4, |own, now| own == 1 && between(now, at(3, 4, 12), 2), |_, _| 1.0));
    assert!(shown(&node, WatchShows::Restarts)[0].contains("the router answered meanwhile"), "{:?}", node.findings);
    // Away for an hour is no restart.
    let long = report(&watched(head(), 2..4, |own, now| own == 1 && between(now, at(3, 4, 12), 60), |_, _| 1.0));
    assert!(shown(&long, WatchShows::Restarts).is_empty());
    assert!(shown(&long, WatchShows::Drops)[0].contains("for 60 min"), "{:?}", long.findings);
}

#[test]
fn evenings_are_set_against_nights() {
    let hour = |now: Timestamp| now.as_second().rem_euclid(86_400) / 3600;
    let busy = move |now| (18..23).contains(&hour(now));
    let mut log = watched(head(), 2..5, |_, _| false, |own, now| if own == 3 && busy(now) { 40.0 } else { 12.0 });
    for (hour, ms) in [(4, 1000.0), (10, 1100.0), (20, 2500.0)] {
        let at = at(3, hour, 0);
        log.transfers.push(ShortTransfer { at, bytes: 10_000_000, took_ms: Millis::new(ms), whole: true });
    }
    log.transfers.push(ShortTransfer { at: at(3, 21, 0), bytes: 10, took_ms: Millis::new(20_000.0), whole: false });
    let found = report(&log);
    let part = &found.parts[3];
    assert_eq!(part.evening.unwrap().median_ms.unwrap().get().round(), 40.0);
    assert_eq!(part.night.unwrap().median_ms.unwrap().get().round(), 12.0);
    let all = shown(&found, WatchShows::SlowEvenings);
    assert!(all[0].contains("Beyond the line answers in 40 ms in the evening, in 12 ms at night"), "{all:?}");
    assert!(all[1].contains("32 Mb/s in the evening, 76 Mb/s at other hours") && all.len() == 2, "{all:?}");
    // 10 MB in 1 s are 80 Mb/s; one that broke is none.
    let seen: Vec<_> = found.days[1].transfers.iter().map(|own| own.speed_mbps.map(|own| own.get().round())).collect();
    assert_eq!(seen, [Some(80.0), Some(73.0), Some(32.0), None]);
}

#[test]
fn who_never_answers_and_who_answers_in_anothers_place_is_said() {
    let mut log = watched(head(), 2..3, |own, _| own == 2, |_, _| 1.0);
    let hardware = |hour, hardware: &str| Answerer { target: 1, at: at(2, hour, 0), hardware: hardware.into() };
    log.answerers = vec![hardware(0, "02:00:5e:00:53:01"), hardware(9, "02:00:5e:00:53:07")];
    let found = report(&log);
    assert!(shown(&found, WatchShows::NeverAnswered)[0].contains("Point never answered"), "{:?}", found.findings);
    let all = shown(&found, WatchShows::OtherAnswers);
    assert!(all[0].contains("02:00:5e:00:53:07 answers since 2 Nov 09:00"), "{all:?}");
    let well = report(&watched(head(), 2..4, |_, _| false, |_, _| 1.0));
    assert_eq!(shown(&well, WatchShows::AllWell), ["Nothing dropped in 2 days. "]);
    assert!(report(&WatchLog::new(head())).findings.is_empty(), "nothing seen, nothing said");
}

#[test]
fn an_older_state_of_a_log_is_kept_where_the_newer_has_let_its_days_go() {
    let whole = watched(head(), 2..5, |own, now| own == 1 && between(now, at(2, 9, 5), 5), |_, _| 1.0);
    let mut early = whole.clone();
    early.stretches.retain(|own| own.from < at(4, 0, 0));
    let mut late = whole.clone();
    late.stretches.retain(|own| own.from >= at(3, 0, 0));
    late.drops.clear();
    let both = late.with(&early);
    assert_eq!(both, whole);
    assert_eq!(whole.clone().with(&whole), whole, "brought twice it is the same");
    let lines: Vec<WatchLine> = whole.lines().collect();
    let mut again = WatchLog::new(whole.head.clone());
    lines.into_iter().for_each(|line| again.take(line));
    assert_eq!(again, whole);
}

#[test]
fn a_drop_over_a_change_of_clocks_has_its_true_length() {
    // Clocks in Berlin were put back at 01:00 UTC on 25 October 2026, and forward at that hour on 29 March.
    let zone = TimeZone::get("Europe/Berlin").unwrap();
    for (from, to, s, hours) in [
        ("2026-10-25T00:50:00Z", "2026-10-25T01:10:00Z", 1200.0, (2.83, 3.17)),
        ("2026-10-24T23:50:00Z", "2026-10-25T02:10:00Z", 8400.0, (1.83, 3.17)),
        ("2026-03-29T00:50:00Z", "2026-03-29T01:10:00Z", 1200.0, (1.83, 3.17)),
    ] {
        let (from, to): (Timestamp, Timestamp) = (from.parse().unwrap(), to.parse().unwrap());
        let mut log = WatchLog::new(head());
        let knocks = Pings { asked: 60, lost: 60, took: None };
        log.stretches = vec![WatchStretch { from, to, of: vec![knocks; log.head.targets.len()] }];
        log.drops = vec![WatchDrop { target: 1, from, to, ended: true }];
        log.check().unwrap();
        let told = watch_report(&log, &zone, &Watch::default());
        let own = &told.days[0].targets[1];
        assert_eq!((own.away_s, own.drops[0].length_s), (s, s), "{from}");
        let drawn = (own.drops[0].from_h, own.drops[0].to_h);
        let (near, ends_after) = (|a: f64, b: f64| (a - b).abs() < 0.01, drawn.0 < drawn.1);
        assert!(near(drawn.0, hours.0) && near(drawn.1, hours.1) && ends_after, "{from}: {drawn:?}");
    }
    // Over midnight each day has its own part.
    let mut log = WatchLog::new(head());
    let (from, to): (Timestamp, Timestamp) =
        ("2026-10-24T21:00:00Z".parse().unwrap(), "2026-10-26T00:00:00Z".parse().unwrap());
    let knocks = Pings { asked: 60, lost: 60, took: None };
    log.stretches = vec![WatchStretch { from, to, of: vec![knocks; log.head.targets.len()] }];
    log.drops = vec![WatchDrop { target: 1, from, to, ended: true }];
    let told = watch_report(&log, &zone, &Watch::default());
    let away: f64 = told.days.iter().map(|day| day.targets[1].away_s).sum();
    assert_eq!(away, told.days[0].targets[1].away_s, "only the day that was watched is told here");
    assert_eq!(away, 3600.0, "an hour before midnight");
}

#[test]
fn a_log_as_full_as_one_may_be_is_told_and_ends_when_nobody_waits() {
    let mut log = watched(head(), 2..4, |_, _| false, |_, _| 1.0);
    let first = log.stretches[0].from;
    let second = |own: i64| first + SignedDuration::from_secs(own);
    // Drops of two addresses every other second, and some that last for months: all of them overlap.
    log.drops = (0..60_000)
        .map(|own| WatchDrop { target: 0, from: second(own * 2), to: second(own * 2 + 1), ended: true })
        .chain((0..60_000).map(|own| WatchDrop {
            target: 1,
            from: second(own * 2 + 1),
            to: second(own * 2 + 2),
            ended: true,
        }))
        .chain((0..60_000).map(|own| WatchDrop {
            target: 2,
            from: second(own),
            to: second(own + 40_000_000),
            ended: true,
        }))
        .collect();
    log.check().unwrap();
    let all = aways(&log);
    assert_eq!(all.iter().filter(|own| own.target == 2).count(), 1, "those that overlap are one");
    assert_eq!(all.iter().filter(|own| own.target == 0).count(), 60_000);
    let whole = report(&log);
    assert!(!whole.findings.is_empty());
    let stopped = Watch::default();
    stopped.stop();
    assert!(watch_report(&log, &TimeZone::UTC, &stopped).days.len() <= whole.days.len());
}
