//! The long watch: a log is brought, read by day and hour, and what a hand felt is noted; on a desk and a phone.

use busy_hen_e2e::{Bench, DESK, PHONE};
use busy_hen_home::WatchId;
use busy_hen_standins::long_watch::Days;
use jiff::civil::date;
use jiff::tz::TimeZone;
use thirtyfour::Key;

const HOME: &str = "Canal terrace with pottery";
const SHOWN: &str = "section[aria-label='What was watched']";

/// The log of seven days of a stand-in home, as a file.
fn log(folder: &std::path::Path, name: &str) -> std::path::PathBuf {
    let days = Days::new(5, date(2026, 11, 2), 7, &TimeZone::system());
    let text: String =
        days.log(WatchId::named(name), 30).lines().map(|line| serde_json::to_string(&line).unwrap() + "\n").collect();
    let path = folder.join("busy-hen-watch.jsonl");
    std::fs::write(&path, text).unwrap();
    path
}

#[tokio::test]
async fn a_log_is_brought_and_tells_the_hours_at_which_a_node_drops() {
    let folder = tempfile::tempdir().unwrap();
    let bench = Bench::demo(DESK).await;
    // The demo brings a watch of its own, and says that it is made up.
    bench.open_home(HOME, "Watch").await;
    bench.see_in(SHOWN, "Made up by a stand-in home").await;
    // Another home has none: what to do stands there.
    bench.open_home("Gasworks flat", "Watch").await;
    bench.see("Leave one behind").await;
    bench.see_in("pre", "busy-hen watch --device").await;
    let wrong = folder.path().join("shopping.jsonl");
    std::fs::write(&wrong, "bread\nmilk\n").unwrap();
    bench.hand_over(&wrong).await;
    bench.see("was not taken in, nothing was changed").await;
    bench.hand_over(&log(folder.path(), "first")).await;
    bench.see_in(SHOWN, "Landing node drops at 19 to 21 h, on 6 of 7 days").await;
    bench.see_in(SHOWN, "what hangs by wire answers meanwhile").await;
    assert!((bench.number("return document.querySelectorAll('.strips tbody tr').length").await - 7.0).abs() < 0.5);
    // The address that something is told of is the one that is drawn; another by the keyboard.
    bench.see_in(".which[aria-pressed='true']", "Landing node").await;
    let drops = || bench.number("return document.querySelectorAll('.strips .drop').length");
    assert!(drops().await > 30.0);
    bench.find(".which").await.send_keys(Key::Enter + "").await.unwrap();
    bench.see_in(".which[aria-pressed='true']", "Router").await;
    assert!(drops().await < 10.0);
    // Brought again it is there once, and a reload shows the same.
    bench.hand_over(&log(folder.path(), "first")).await;
    bench.see("was taken in").await;
    bench.goto(&bench.path().await).await;
    bench.see_in(SHOWN, "drops at 19 to 21 h").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.press("throw it away …").await;
    bench.press("Keep it").await;
    bench.press("throw it away …").await;
    bench.press("Throw it away").await;
    bench.no_longer(".watch", "drops at 19 to 21 h").await;
    bench.close().await;
}

#[tokio::test]
async fn what_a_hand_felt_is_noted_on_a_phone_and_waits_where_there_is_no_network() {
    let bench = Bench::demo(PHONE).await;
    bench.open_home(HOME, "Watch").await;
    bench.see_in(SHOWN, "drops at 19 to 21 h").await;
    assert!(!bench.scrolls_sideways().await);
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.choose("Device", "Router").await;
    bench.choose("Its case is", "too hot to hold").await;
    bench.offline(true).await;
    bench.press("Note it").await;
    bench.see_in("section[aria-label='Seen by hand and eye'] ul", "too hot to hold").await;
    bench.see("not sent yet").await;
    bench.offline(false).await;
    bench.no_longer(".watch", "not sent yet").await;
    bench.goto(&bench.path().await).await;
    bench.see_in("section[aria-label='Seen by hand and eye'] ul", "too hot to hold").await;
    // It stands in the record of that kit, which says that one home says little.
    bench.goto("/").await;
    bench.press("Kit record").await;
    bench.see_in(".cards", "One home: it says how it was there").await;
    bench.see_in(".cards", "hot").await;
    assert!(!bench.scrolls_sideways().await);
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.close().await;
}
