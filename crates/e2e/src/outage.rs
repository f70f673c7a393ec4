//! A drill whose outage has known times, timed by the bench itself: for the browser tests and the long run.

use std::time::Duration;

use busy_hen_standins::device::Device;
use jiff::Timestamp;
use serde_json::Value;

use crate::Bench;

const HOME: &str = "Canal terrace with pottery";
/// The drill that runs, on its page.
pub const RUNNING: &str = "section[aria-label='The drill that runs']";

/// How far the marks of the bench were off, ms.
#[derive(Debug)]
pub struct Timed {
    /// The loss, later than it was.
    pub loss_off_ms: f64,
    /// The first sign of life, later than it was.
    pub life_off_ms: f64,
}

/// The drills of the demo's second setup.
pub async fn drills_of_b(bench: &Bench) {
    bench.open_home(HOME, "Drills").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'dual-band pair')]").await;
    bench.see_in("h1", "Drills, setup B").await;
    bench.see_in(".cards", "Pull the power of Landing node").await;
}

/// Begins a drill.
pub async fn run(bench: &Bench, doing: &str) {
    bench.click(&format!("//li[h2[.='{doing}']]//button[contains(., 'Run this drill')]")).await;
    bench.see("Say it in the home first").await;
}

/// The home file of the home on the page.
///
/// # Panics
/// When the page shows no home.
pub async fn file(bench: &Bench) -> Value {
    let path = bench.path().await;
    let home = path.split('/').nth(2).expect("a home on the page");
    bench.ask(&format!("/api/homes/{home}/file")).await
}

/// Takes the power of a stand-in device for three seconds in a drill, and keeps it.
///
/// # Panics
/// When the page or the drill's marks are not as they should be.
pub async fn time_outage(bench: &Bench) -> Timed {
    let device = Device::begin("127.0.0.1:0".parse().expect("an address")).expect("a device");
    drills_of_b(bench).await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    run(bench, "pull the power of Landing node").await;
    let label = "Address of Landing node, to be timed by the bench (may be left empty)";
    bench.fill(label, &device.address().to_string()).await;
    bench.press("Pull it now").await;
    bench.see_in(RUNNING, "Landing node answers.").await;
    let (after, during) = (Duration::from_millis(1500), Duration::from_millis(3000));
    device.off(after, during);
    let asked = Timestamp::now();
    bench.see_in(RUNNING, "Loss noticed").await;
    bench.see_in(&format!("{RUNNING} ol"), "First sign of life").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.press("All back").await;
    bench.press("Keep this drill").await;
    bench.see("quicker than usual").await;
    let drill = file(bench).await["drills"][0].clone();
    let begun: Timestamp = drill["begun"].as_str().expect("when it began").parse().expect("a time");
    let seen = |kind: &str| {
        let own = drill["marks"].as_array().and_then(|marks| marks.iter().find(|own| own["seen"]["kind"] == kind));
        let own = own.unwrap_or_else(|| panic!("no {kind}: {drill}"));
        assert_eq!(own["by_probe"], true, "{drill}");
        own["after_ms"].as_f64().expect("when it was")
    };
    let gone = (asked.duration_since(begun).as_secs_f64() + after.as_secs_f64()) * 1000.0;
    let back = gone + during.as_secs_f64() * 1000.0;
    Timed { loss_off_ms: seen("loss_noticed") - gone, life_off_ms: seen("first_life") - back }
}
