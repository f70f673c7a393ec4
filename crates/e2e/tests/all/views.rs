//! Every view: no serious fault by axe-core, no sideways scrolling; and the phone's view.

use busy_hen_e2e::{Bench, DESK, PHONE};

const HOME: &str = "Canal terrace with pottery";
/// What each stop shows once it is there.
const STOPS: [(&str, &str); 8] = [
    ("Brief", "Busy evening"),
    ("House", "indoors,"),
    ("Setups", "put away"),
    ("Rounds", "median down"),
    ("Compare", "What counts how much"),
    ("Fit", "Labels"),
    ("Drills", "Run this drill"),
    ("Watch", "Leave one behind"),
];

#[tokio::test]
async fn every_view_is_usable_by_everyone_and_fits_the_window() {
    let bench = Bench::demo(DESK).await;
    bench.see(HOME).await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new(), "homes");
    for (stop, words) in STOPS {
        bench.open_home(HOME, stop).await;
        bench.see(words).await;
        // The others fill the page themselves; the ledger stands beside these.
        if ["Brief", "Setups", "Rounds"].contains(&stop) {
            bench.see_in("aside", "Pottery").await;
        }
        assert_eq!(bench.serious_faults().await, Vec::<String>::new(), "{stop}");
        assert!(!bench.scrolls_sideways().await, "{stop}");
    }
    // The sheets under the drawing of the house, with a room chosen.
    bench.open_home(HOME, "House").await;
    bench.click("//*[name()='g'][starts-with(@aria-label,'Kitchen,')]").await;
    for sheet in ["Kitchen", "Made of", "How to type it", "Over a picture", "In and out", "Neighbours"] {
        bench.click(&format!("//button[@role='tab'][normalize-space(.)='{sheet}']")).await;
        assert_eq!(bench.serious_faults().await, Vec::<String>::new(), "{sheet}");
    }
    // With a room and a device chosen, and with a dialog open.
    bench.open_home(HOME, "Setups").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.click("//aside//button[normalize-space(.)='Garden']").await;
    bench.see("limiting link").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new(), "chain");
    bench.click("//*[@data-device='Landing node']").await;
    bench.see("Backhaul:").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new(), "device");
    bench.close().await;
}

#[tokio::test]
async fn readings_are_typed_in_on_a_phone() {
    let bench = Bench::demo(PHONE).await;
    bench.open_home(HOME, "Rounds").await;
    bench.see("Type in").await;
    assert!(!bench.scrolls_sideways().await);
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    let button = bench.find("[aria-label='Type in a run at Study']").await;
    assert!(button.rect().await.unwrap().height >= 48.0, "large enough for a thumb");
    button.click().await.unwrap();
    bench.press("No connection here").await;
    bench.see("1 run kept.").await;
    bench.press("Done").await;
    bench.see_in("[aria-label='Runs at Study: 6']", "×").await;
    bench.close().await;
}
