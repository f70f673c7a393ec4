//! What each form says to bad input, and that nothing entered before is lost.

use busy_hen_e2e::{Bench, DESK};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";

#[tokio::test]
async fn the_form_of_a_new_home() {
    let bench = Bench::empty(DESK).await;
    bench.press("New home").await;
    bench.press("Make it").await;
    bench.see_in("[role=dialog], .v-overlay--active", "The home needs a name.").await;
    bench.fill("Name of the job", "Ferry cottage").await;
    bench.press("Make it").await;
    bench.see("No one’s needs are noted yet").await;
    bench.close().await;
}

#[tokio::test]
async fn the_brief() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Brief").await;
    bench.fill("Plan 2 down", "fast").await;
    bench.see_in("[role=alert]", "“fast” can’t be read; type a speed, as in 84.5 Mb/s.").await;
    bench.see("Not saved").await;
    bench.fill("Use 1 people", "90").await;
    bench.see_in("[role=alert]", "90 people at once cannot be right").await;
    let field = bench.find("[aria-label='Plan 2 down']").await;
    assert_eq!(field.value().await.unwrap().unwrap(), "fast", "what was typed stays");
    bench.fill("Plan 2 down", "310").await;
    bench.fill("Use 1 people", "2").await;
    bench.saved().await;
    bench.see("of 310 down").await;
    bench.close().await;
}

#[tokio::test]
async fn the_house() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    let lines = bench.find("#house-lines").await;
    lines.send_keys(Key::Control + Key::End).await.unwrap();
    lines.send_keys("\nShed 2 x 2 eats of Garden\nBath 4.4 by").await.unwrap();
    bench.see_in("#house-faults", "“eats” is not understood here").await;
    bench.see_in("#house-faults", "No size here").await;
    bench.see_in("#house-faults", "line 18").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    bench.saved().await;
    bench.see_in("nav[aria-label='Route of the job']", "2 lines to mend").await;
    // One press mends the first.
    bench.press("east").await;
    bench.no_longer("#house-faults", "“eats”").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Shed").await;
    lines.click().await.unwrap();
    lines.send_keys(Key::Control + Key::End).await.unwrap();
    for _ in 0.."Bath 4.4 by".len() + 1 {
        lines.send_keys(Key::Backspace + "").await.unwrap();
    }
    bench.no_longer("#house-faults", "line 18").await;
    bench.click("//summary[contains(., 'floor to floor')]").await;
    bench.fill("Floor to floor, m", "high").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see("“high” is not a length; type it as in “3.8”.").await;
    bench.fill("Floor to floor, m", "27").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see_in("[role=alert]", "Ground is 27.0 m high; a level is 1.8 m to 8.0 m").await;
    bench.close().await;
}

#[tokio::test]
async fn a_room_with_readings_stays_until_somebody_says_what_became_of_it() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    let runs = async || bench.ask(&bench.path().await.replace("/homes/", "/api/homes/").replace("/house", "")).await;
    let count = |view: &serde_json::Value| -> u64 {
        view["rounds"].as_array().unwrap().iter().map(|round| round["runs"].as_u64().unwrap()).sum()
    };
    let before = count(&runs().await);
    let lines = bench.find("#house-lines").await;
    lines.send_keys(Key::Control + "a").await.unwrap();
    lines.send_keys("Salon 3 x 3\nNook 2 x 2 east of Salon").await.unwrap();
    bench.see_in("#house-faults", "Kitchen has no line any more; what was noted or measured there is kept.").await;
    bench.saved().await;
    let kitchen = "//li[contains(., 'Kitchen has no line any more')]//button[contains(., 'it is Salon now')]";
    bench.click(kitchen).await;
    bench.no_longer("#house-faults", "Kitchen has no line any more").await;
    let view = runs().await;
    assert_eq!(count(&view), before);
    let rooms = view["home"]["house"]["rooms"].as_array().unwrap();
    assert!(rooms.iter().any(|room| room["name"] == "Salon") && rooms.iter().all(|room| room["name"] != "Kitchen"));
    bench.close().await;
}

#[tokio::test]
async fn setups_and_devices() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.dock("Setup A").await;
    bench.press("Delete setup A").await;
    bench.see("It holds 2 rounds with 120 runs; they go with it. Undo brings all of it back.").await;
    bench.press("Keep it").await;
    bench.click("//*[@data-device='Router']").await;
    bench.press("Take off").await;
    bench.see("Place the router first").await;
    bench.undo().await;
    bench.click("//*[@data-device='Router']").await;
    bench.fill("Name", " ").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see_in("[role=alert]", "A device needs a name.").await;
    // A setup without a router refuses anything else first.
    bench.find("#new-setup").await.click().await.unwrap();
    bench.fill("What is different in it", "empty").await;
    bench.click("//label[contains(., 'Begin with the devices')]").await;
    bench.press("Make it").await;
    bench.see("Place the router first").await;
    bench.find("[data-kit=repeater_ac]").await.click().await.unwrap();
    bench.see_in("[role=alert]", "The first device is where the line enters; place a router first.").await;
    bench.close().await;
}

#[tokio::test]
async fn rounds_and_typed_runs() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.find("#begin-round").await.click().await.unwrap();
    bench.fill("Runs at each spot", "none").await;
    bench.press("Begin").await;
    bench.see("“none” can’t be read; type a whole number, as in 3.").await;
    bench.fill("Runs at each spot", "40").await;
    bench.press("Begin").await;
    bench.see("A spot gets 1 to 30 runs a round").await;
    bench.fill("Runs at each spot", "1").await;
    bench.press("Begin").await;
    bench.see("1 runs a spot").await;
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    bench.press("Keep this run").await;
    bench.see("Download and upload are needed").await;
    bench.fill("Download, Mb/s (needed)", "eighty").await;
    bench.press("Keep this run").await;
    bench.see("“eighty” can’t be read; type a speed, as in 84.5 Mb/s.").await;
    bench.fill("Download, Mb/s (needed)", "80,5").await;
    bench.fill("Upload, Mb/s (needed)", "22").await;
    bench.fill("Idle delay, ms", "11").await;
    bench.fill("Signal, dBm", "167").await;
    bench.press("Keep this run").await;
    bench.see("“80,5” can be 80.5 or 805: which is meant?").await;
    bench.press("80.5").await;
    bench.press("Keep this run").await;
    bench.see("Signal must be -120 to 10 dBm; it is a negative number.").await;
    bench.fill("Signal, dBm", "67").await;
    bench.press("Keep this run").await;
    bench.see("1 run kept.").await;
    bench.press("Done").await;
    bench.click("//button[@aria-label='Runs at Study: 1']").await;
    bench.see("81 / 22").await;
    bench.press("Don’t count").await;
    bench.press("Leave it out").await;
    bench.see("Say in a few words why the run does not count.").await;
    bench.fill("Why this run does not count", "a call came in").await;
    bench.press("Leave it out").await;
    bench.see("no: a call came in").await;
    bench.close().await;
}

#[tokio::test]
async fn columns_that_are_not_like_for_like() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Compare").await;
    bench.see("Not like for like: the test device was phone, ax").await;
    bench.close().await;
}

#[tokio::test]
async fn a_home_that_is_not_there() {
    let bench = Bench::empty(DESK).await;
    bench.goto("/homes/8b0e5b5e-0000-4000-8000-000000000000/brief").await;
    bench.see_in("[role=alert]", "This home does not exist; it may have been deleted.").await;
    bench.close().await;
}
