//! What people do that used to cost them their work: two windows, no network, a reload too early, a wrong press.
#![allow(clippy::unwrap_used)] // also in what tests share

use busy_hen_e2e::{Bench, DESK};
use serde_json::{Value, json};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";
const COMPLAINT: &str = "Complaint, in their words";

/// Takes the network from the window, or gives it back.
async fn network(bench: &Bench, there: bool) {
    let devtools = bench.driver.cdp();
    devtools.send_raw("Network.enable", json!({})).await.unwrap();
    let conditions = json!({ "offline": !there, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1 });
    devtools.send_raw("Network.emulateNetworkConditions", conditions).await.unwrap();
}

async fn home_path(bench: &Bench) -> String {
    let path = bench.path().await;
    format!("/api/homes/{}", path.split('/').nth(2).unwrap())
}

async fn stored(bench: &Bench, pointer: &str) -> Value {
    let home = home_path(bench).await;
    bench.ask(&home).await.pointer(pointer).cloned().unwrap_or(Value::Null)
}

async fn wait_stored(bench: &Bench, pointer: &str, wanted: Value) {
    bench
        .wait(&format!("{wanted} to be stored"), || async { (stored(bench, pointer).await == wanted).then_some(()) })
        .await;
}

async fn held(bench: &Bench, label: &str) -> String {
    let xpath = format!("//*[self::input or self::textarea][@id=//label[.='{label}']/@for]");
    bench.find_xpath(&xpath).await.value().await.unwrap().unwrap_or_default()
}

/// A second window on the same page; gives back both, the new one in front.
async fn second_window(bench: &Bench) -> (WindowHandle, WindowHandle) {
    let path = bench.path().await;
    let first = bench.driver.window().await.unwrap();
    let second = bench.driver.new_tab().await.unwrap();
    bench.driver.switch_to_window(second.clone()).await.unwrap();
    bench.goto(&path).await;
    (first, second)
}

#[tokio::test]
async fn a_reload_in_the_middle_of_typing_loses_nothing() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "Brief").await;
    bench.fill(COMPLAINT, "Stalls at nine, every evening, in the workroom.").await;
    bench.driver.refresh().await.unwrap();
    bench.find("textarea").await;
    assert_eq!(held(&bench, COMPLAINT).await, "Stalls at nine, every evening, in the workroom.");
    bench.saved().await;
    wait_stored(&bench, "/home/brief/complaint", json!("Stalls at nine, every evening, in the workroom.")).await;
    bench.close().await;
}

#[tokio::test]
async fn without_a_network_typing_goes_on_and_is_stored_later() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "Brief").await;
    bench.find("textarea").await;
    network(&bench, false).await;
    bench.fill(COMPLAINT, "Typed in the cellar.").await;
    bench.see("Not saved").await;
    assert_ne!(stored(&bench, "/home/brief/complaint").await, json!("Typed in the cellar."));
    network(&bench, true).await;
    bench.saved().await;
    wait_stored(&bench, "/home/brief/complaint", json!("Typed in the cellar.")).await;
    bench.close().await;
}

#[tokio::test]
async fn two_windows_follow_one_another_and_ask_where_both_changed_the_same() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "Brief").await;
    bench.find("textarea").await;
    let (first, second) = second_window(&bench).await;

    // What is typed here shows there.
    bench.fill(COMPLAINT, "Typed in the second window.").await;
    bench.saved().await;
    bench.driver.switch_to_window(first.clone()).await.unwrap();
    bench
        .wait("the first window to follow", || async {
            (held(&bench, COMPLAINT).await == "Typed in the second window.").then_some(())
        })
        .await;

    // Both type into one field, one of them without a network.
    network(&bench, false).await;
    bench.fill(COMPLAINT, "Mine.").await;
    bench.see("Not saved").await;
    bench.driver.switch_to_window(second).await.unwrap();
    bench.fill(COMPLAINT, "Theirs.").await;
    bench.saved().await;
    wait_stored(&bench, "/home/brief/complaint", json!("Theirs.")).await;
    bench.driver.switch_to_window(first).await.unwrap();
    network(&bench, true).await;
    bench.see("Changed here and elsewhere").await;
    bench.see_in(".v-dialog", "Mine.").await;
    bench.see_in(".v-dialog", "Theirs.").await;
    bench.press("Keep what I typed").await;
    wait_stored(&bench, "/home/brief/complaint", json!("Mine.")).await;
    bench.close().await;
}

#[tokio::test]
async fn undo_takes_back_ones_own_step_and_leaves_the_others_work() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.fill("Name of setup A", "mine").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see_in("nav[aria-label='Setups']", "mine").await;

    // Someone else, by the interface, renames another setup.
    let mut setups = stored(&bench, "/home/setups").await;
    let own = setups[1].as_object_mut().unwrap();
    own.insert("name".into(), json!("theirs"));
    let body = Value::Object(own.clone());
    let address = format!("{}{}/setups/{}", bench.address, home_path(&bench).await, body["id"].as_str().unwrap());
    let revision = stored(&bench, "/revision").await;
    let answer = reqwest::Client::new()
        .put(address)
        .header("If-Match", format!("\"{revision}\""))
        .json(&body)
        .send()
        .await
        .unwrap();
    assert!(answer.status().is_success(), "{}", answer.text().await.unwrap());

    // The window follows by itself, undo names one's own step, and the other's stays.
    bench.see_in("nav[aria-label='Setups']", "theirs").await;
    bench.see_in("#undo", "Undo: rename setup A").await;
    bench.undo().await;
    bench.see_in("nav[aria-label='Setups']", "as found").await;
    bench.see_in("nav[aria-label='Setups']", "theirs").await;
    bench.close().await;
}

#[tokio::test]
async fn a_deleted_round_comes_back_by_undo() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.see("Made-up readings.").await;
    bench.press("Delete round…").await;
    bench.see("Undo brings them back").await;
    bench.press("Keep it").await;
    let before = stored(&bench, "/rounds").await;
    bench.press("Delete round…").await;
    bench.press("Delete it").await;
    bench.wait("the round to go", || async { (stored(&bench, "/rounds").await != before).then_some(()) }).await;
    bench.undo().await;
    wait_stored(&bench, "/rounds", before).await;
    bench.see("Made-up readings.").await;
    bench.close().await;
}

#[tokio::test]
async fn a_tested_setup_goes_on_in_a_copy_and_keeps_what_was_tested() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.see("changing it makes them readings of something else").await;
    let tested = stored(&bench, "/home/setups/0/devices/0/at").await;
    bench.find("[data-device=Router]").await.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Right + "").perform().await.unwrap();
    bench.see_in("[aria-label=Tested]", "taken before").await;
    bench.press("Go on in a copy").await;
    bench.fill("What is different in the copy", "router moved").await;
    bench.press("Make the copy").await;
    bench.see_in("nav[aria-label='Setups']", "router moved").await;
    assert_eq!(stored(&bench, "/home/setups/0/devices/0/at").await, tested, "A is what was tested");
    assert_ne!(stored(&bench, "/home/setups/3/devices/0/at").await, tested, "the copy is what was drawn");
    bench.close().await;
}

#[tokio::test]
async fn pressing_a_device_does_not_move_what_is_under_the_pointer() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    let device = bench.find("[data-device=Router]").await;
    let place = || bench.number("return document.querySelector('[data-device=Router]').getBoundingClientRect().top");
    // Everything that is shown with the map has come.
    bench.see_in("ol[aria-label='Steps of service']", "made-up readings").await;
    bench.find("[aria-label=Tested]").await;
    let before = place().await;
    let at = stored(&bench, "/home/setups/0/devices/0/at").await;
    bench.driver.action_chain().move_to_element_center(&device).click_and_hold().perform().await.unwrap();
    assert!((place().await - before).abs() < 0.5, "the map stays while a device is held");
    bench.driver.action_chain().release().perform().await.unwrap();
    bench.see_in("section[aria-label='Settings of Router']", "Mode").await;
    assert_eq!(stored(&bench, "/home/setups/0/devices/0/at").await, at, "a press is no move");
    bench.close().await;
}

#[tokio::test]
async fn a_reading_above_what_can_be_is_asked_about() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.click("//button[@aria-label='Type in a run at Kitchen']").await;
    bench.fill("Download, Mb/s (needed)", "845").await;
    bench.fill("Upload, Mb/s (needed)", "20").await;
    bench.press("Keep this run").await;
    bench.see("Another network carried it").await;
    bench.press("Correct it").await;
    // The focus is back in the first field, so that the figure can be typed at once.
    let keys = Key::Control + "a";
    bench.driver.active_element().await.unwrap().send_keys(keys).await.unwrap();
    bench.driver.active_element().await.unwrap().send_keys("284.5" + Key::Enter).await.unwrap();
    bench.see("1 run kept.").await;
    bench.close().await;
}
