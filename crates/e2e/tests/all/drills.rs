//! Drills: timed by the bench against a stand-in device with outages of known times, by a stop-watch on a phone, and told.

use std::time::Duration;

use busy_hen_e2e::outage::{RUNNING, drills_of_b, file, run, time_outage};
use busy_hen_e2e::phones::{far_end_by, line};
use busy_hen_e2e::{Bench, DESK, PHONE};
use busy_hen_standins::device::Device;
use busy_hen_standins::line::Plug;
use jiff::Timestamp;

const HOME: &str = "Canal terrace with pottery";
/// What a mark may be off while other browsers take the machine's time, ms; on a quiet one it is held to half a second (`cargo xtask soak`).
const GOOD_TO_MS: f64 = 2000.0;
/// How long a page waits for a connection before it tries anew, and for the old one to answer beside the new, ms.
const ATTEMPT_MS: f64 = 2500.0;

/// The drills, from wherever the home is open.
async fn drills_after(bench: &Bench) {
    bench.click("//nav[@aria-label='Route of the job']//a[contains(., 'Drills')]").await;
    bench.see_in("h1", "Drills").await;
    bench.see_in(".cards", "Pull the line").await;
}

#[tokio::test]
async fn the_bench_times_an_outage_by_itself() {
    let bench = Bench::demo(DESK).await;
    let timed = time_outage(&bench).await;
    assert!(timed.loss_off_ms.abs() < GOOD_TO_MS && timed.life_off_ms.abs() < GOOD_TO_MS, "{timed:?}");
    bench.close().await;
}

#[tokio::test]
async fn a_second_line_is_heard_to_take_over_and_to_give_back() {
    let plug = Plug::default();
    let (_far, address) = far_end_by(line(40.0, 8.0, 6.0, 60.0, false), &plug).await;
    let bench = Bench::demo_with(DESK, &["--far-end", &address]).await;
    bench.open_home(HOME, "Brief").await;
    bench.press("There is a second line").await;
    bench.fill("Second line, plan 1 down", "12").await;
    bench.saved().await;
    drills_after(&bench).await;
    bench.see_in(".cards", "The second line takes over, and gives back: 12 down and 10 up").await;
    run(&bench, "pull the line").await;
    bench.see("This page holds a call and a small download meanwhile, beyond the line").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.press("Pull it now").await;
    bench.see_in(RUNNING, "Call beyond the line: answers.").await;
    let [after, dead, whole] = [1500, 9000, 25_000].map(Duration::from_millis);
    let asked = Timestamp::now();
    let hand = plug.clone();
    let pulled = tokio::spawn(async move { hand.pull(after, whole, Some(dead)).await });
    bench.see_in(&format!("{RUNNING} ol"), "Loss noticed").await;
    // A page that is loaded anew in the middle of it knows which line was the first.
    bench.driver.refresh().await.unwrap();
    bench.see_in(&format!("{RUNNING} ol"), "Second line carries").await;
    bench.driver.refresh().await.unwrap();
    pulled.await.unwrap();
    bench.see_in(&format!("{RUNNING} ol"), "First choice again").await;
    bench.press("All back").await;
    bench.press("Keep this drill").await;
    bench.see("broke.").await;
    let drill = file(&bench).await["drills"][0].clone();
    let begun: Timestamp = drill["begun"].as_str().unwrap().parse().unwrap();
    let gone = (asked.duration_since(begun).as_secs_f64() + after.as_secs_f64()) * 1000.0;
    let at = |kind: &str| {
        let own = drill["marks"].as_array().unwrap().iter().find(|own| own["seen"]["kind"] == kind);
        let own = own.unwrap_or_else(|| panic!("no {kind}: {drill}"));
        assert!(own["by_probe"] == true || kind == "all_back", "{drill}");
        own["after_ms"].as_f64().unwrap() - gone
    };
    assert!(at("loss_noticed").abs() < GOOD_TO_MS, "noticed {}: {drill}", at("loss_noticed"));
    // What a page tries anew finds the other line as soon as an attempt meets it: attempts last a second and a half.
    for (kind, later) in [("took_over", dead), ("first_choice", whole)] {
        let off = at(kind) - later.as_secs_f64() * 1000.0;
        assert!((-GOOD_TO_MS..ATTEMPT_MS + GOOD_TO_MS).contains(&off), "{kind} is off by {off} ms: {drill}");
    }
    assert!(at("session_broke") > 0.0, "the call could not go on by another line: {drill}");
    bench.close().await;
}

#[tokio::test]
async fn a_forgotten_network_is_a_drill_too_and_a_walk_leads_to_a_round_for_it() {
    let bench = Bench::demo(PHONE).await;
    drills_of_b(&bench).await;
    bench.see_in(".cards", "Leave the Wi-Fi of the old Router on").await;
    run(&bench, "leave the Wi-Fi of the old Router on").await;
    bench.press("It is on now").await;
    bench.press("A call broke").await;
    bench.fill("Note", "Gran’s phone went back to it").await;
    bench.press("All back").await;
    bench.press("Keep this drill").await;
    bench.see("1 run").await;
    let drill = file(&bench).await["drills"][0].clone();
    assert_eq!(drill["failure"]["what"], "old_network", "{drill}");
    bench.see_in(".cards", "Walk through the rooms with a call held").await;
    assert!(!bench.scrolls_sideways().await);
    bench.press("Begin such a walk …").await;
    bench.see_in("[aria-label='Begin a round']", "hand-over walk").await;
    bench.close().await;
}

#[tokio::test]
async fn several_devices_are_all_back_when_the_last_of_them_answers() {
    let devices = [(); 2].map(|()| Device::begin("127.0.0.1:0".parse().unwrap()).unwrap());
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Drills").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'pottery wired')]").await;
    bench.see_in("h1", "Drills, setup C").await;
    run(&bench, "pull the power of all nodes at once").await;
    for (name, device) in ["Landing node", "Pottery point"].iter().zip(&devices) {
        let label = format!("Address of {name}, to be timed by the bench (may be left empty)");
        bench.fill(&label, &device.address().to_string()).await;
    }
    bench.press("Pull it now").await;
    bench.see_in(RUNNING, "Landing node answers.").await;
    bench.see_in(RUNNING, "Pottery point answers.").await;
    let (after, during) = (Duration::from_millis(500), [2000, 4000].map(Duration::from_millis));
    let asked = Timestamp::now();
    for (device, during) in devices.iter().zip(during) {
        device.off(after, during);
    }
    bench.see_in(&format!("{RUNNING} ol"), "All back").await;
    bench.press("Keep this drill").await;
    bench.see("1 run").await;
    let drill = file(&bench).await["drills"][0].clone();
    let begun: Timestamp = drill["begun"].as_str().unwrap().parse().unwrap();
    let gone = (asked.duration_since(begun).as_secs_f64() + after.as_secs_f64()) * 1000.0;
    let expected = [("loss_noticed", 0), ("first_life", during[0].as_millis()), ("all_back", during[1].as_millis())];
    for (kind, later) in expected {
        let mark = drill["marks"].as_array().unwrap().iter().find(|own| own["seen"]["kind"] == kind).unwrap();
        let off = mark["after_ms"].as_f64().unwrap() - gone - later as f64;
        assert!(off.abs() < GOOD_TO_MS && mark["by_probe"] == true, "{kind} is off by {off} ms: {drill}");
    }
    bench.close().await;
}

#[tokio::test]
async fn a_stop_watch_on_a_phone_goes_on_over_a_reload_and_without_a_network() {
    let bench = Bench::demo(PHONE).await;
    drills_of_b(&bench).await;
    assert!(!bench.scrolls_sideways().await);
    run(&bench, "pull the line").await;
    bench.press("Pull it now").await;
    bench.see_in(RUNNING, "Break it off").await;
    assert!(!bench.scrolls_sideways().await);
    bench.press("Loss noticed").await;
    bench.press("A call broke").await;
    bench.driver.refresh().await.unwrap();
    bench.see_in(&format!("{RUNNING} ol"), "A call broke").await;
    bench.press("Put back").await;
    // A wrong press is taken back.
    bench.press("First choice again").await;
    bench.click("//section[@aria-label='The drill that runs']//li[contains(., 'First choice again')]//button").await;
    bench.press("All back").await;
    bench.offline(true).await;
    bench.press("Keep this drill").await;
    bench.see("1 kept here, not sent yet").await;
    bench.offline(false).await;
    bench.see("A call or download broke.").await;
    bench.no_longer(".drills", "not sent yet").await;
    let drills = file(&bench).await["drills"].clone();
    assert_eq!(drills.as_array().unwrap().len(), 1, "{drills}");
    let kinds: Vec<&str> =
        drills[0]["marks"].as_array().unwrap().iter().map(|own| own["seen"]["kind"].as_str().unwrap()).collect();
    assert_eq!(kinds, ["loss_noticed", "session_broke", "put_back", "all_back"]);
    assert_eq!((&drills[0]["stopped"], &drills[0]["failure"]["what"]), (&false.into(), &"line".into()));
    bench.see_in("nav[aria-label='Route of the job']", "Drills").await;
    bench.close().await;
}

#[tokio::test]
async fn a_drill_of_a_setup_that_is_gone_waits_until_it_is_back_or_thrown_away() {
    let bench = Bench::demo(DESK).await;
    drills_of_b(&bench).await;
    let path = bench.path().await;
    let home = path.split('/').nth(2).unwrap().to_owned();
    run(&bench, "pull the line").await;
    bench.press("Pull it now").await;
    bench.press("Loss noticed").await;
    // Somebody else deletes the setup meanwhile; undo of theirs brings it back.
    let view = bench.ask(&format!("/api/homes/{home}")).await;
    let setup = view["home"]["setups"][1]["id"].as_str().unwrap();
    let client = reqwest::Client::builder().no_proxy().build().unwrap();
    let address = format!("{}/api/homes/{home}", bench.address);
    let gone = client.delete(format!("{address}/setups/{setup}?with_readings=true"));
    let gone = gone.header("if-match", format!("\"{}\"", view["revision"])).send().await.unwrap();
    assert!(gone.status().is_success(), "{}", gone.text().await.unwrap());
    bench.press("Break it off and keep what was seen").await;
    bench.see("1 kept here, not sent yet").await;
    bench.see("Throw them away").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    client.post(format!("{address}/undo")).json(&serde_json::json!({ "to": null })).send().await.unwrap();
    bench.no_longer(".drills", "not sent yet").await;
    assert_eq!(file(&bench).await["drills"][0]["stopped"], true);
    bench.close().await;
}
