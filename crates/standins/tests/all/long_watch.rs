//! What the watch finds in the days of the stand-in home is what was done to them.

use busy_hen_home::WatchId;
use busy_hen_job::long_watch::{WatchShows, aways, watch_report};
use busy_hen_predict::progress::Watch;
use busy_hen_standins::long_watch::Days;
use jiff::SignedDuration;
use jiff::civil::date;
use jiff::tz::TimeZone;

#[test]
fn every_outage_is_found_to_a_knock_and_nothing_else() {
    let (zone, first) = (TimeZone::UTC, date(2026, 11, 2));
    for seed in [3, 5, 11] {
        let days = Days::new(seed, first, 7, &zone);
        let log = days.log(WatchId::named("w"), 10);
        let found = aways(&log);
        // Two knocks lost by chance in a row are found too: of 240 000 knocks, each lost with 0.002, one is expected.
        let true_ones = days.outages();
        let within =
            |a: jiff::Timestamp, b: jiff::Timestamp| a.duration_since(b).abs() <= SignedDuration::from_secs(20);
        for own in true_ones {
            assert!(
                found
                    .iter()
                    .any(|seen| seen.target == own.target && within(seen.from, own.from) && within(seen.to, own.to)),
                "{own:?} was not found with seed {seed}"
            );
        }
        assert!(found.len() <= true_ones.len() + 5, "{} of {}", found.len(), true_ones.len());
        let told = watch_report(&log, &zone, &Watch::default());
        let hours: Vec<_> = told.findings.iter().filter(|own| own.shows == WatchShows::DropsAtHours).collect();
        assert_eq!(hours.len(), 1, "{:?}", told.findings);
        assert!(hours[0].told.contains("Landing node drops at 19 to 21 h, on 6 of 7 days"), "{}", hours[0].told);
        let restart = told.findings.iter().find(|own| own.shows == WatchShows::Restarts).unwrap();
        assert!(restart.told.starts_with("Router was away") && restart.told.contains("4 Nov 04:12"), "{restart:?}");
    }
}
