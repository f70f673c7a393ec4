//! The main job as a person does it: from a new home to a verdict, by mouse and keyboard.

use busy_hen_e2e::{Bench, DESK};
use thirtyfour::prelude::*;

const GROUND: &str = "Hall 2 x 6\nKitchen 4 x 3 east of Hall\nLounge 4 x 3 east of Hall flush south\n\
                      Yard 6 x 8 south of Hall outdoors";
const FIRST: &str = "Landing 2 x 6 above Hall\nBedroom 4 x 6 east of Landing";

async fn stop(bench: &Bench, name: &str) {
    bench.click(&format!("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='{name}']]")).await;
}

async fn new_setup(bench: &Bench, name: &str) {
    bench.find("#new-setup").await.click().await.unwrap();
    bench.fill("What is different in it", name).await;
    bench.press("Make it").await;
    bench.see_in("nav[aria-label='Setups']", name).await;
}

/// Begins a round as it is offered and has the stand-in phone walk it.
async fn walked_round(bench: &Bench) {
    bench.find("#begin-round").await.click().await.unwrap();
    bench.press("Begin").await;
    bench.see("6 runs a spot").await;
    bench.press("Send the stand-in phone").await;
    bench
        .wait("every spot to have its six runs", || async {
            let traces = bench.driver.find_all(By::Css("button.runs svg")).await.ok()?;
            let walking = bench.driver.find_all(By::Id("stop-walk")).await.ok()?;
            (traces.len() == 36 && walking.is_empty()).then_some(())
        })
        .await;
}

#[tokio::test]
async fn from_a_new_home_to_a_verdict() {
    let bench = Bench::empty(DESK).await;
    bench.see("See light in a minute").await;
    bench.press("New home").await;
    bench.fill("Name of the job", "Ferry cottage").await;
    bench.press("Make it").await;
    bench.see("Type the rooms under House first").await;

    // The house, typed as it is paced, drawn as typed.
    stop(&bench, "House").await;
    bench.press("Begin with an empty level").await;
    bench.find("#house-lines").await.send_keys(GROUND).await.unwrap();
    bench.see_in("svg[aria-label='The level as drawn']", "Lounge").await;
    bench.saved().await;
    bench.press("+ level").await;
    bench.find("#house-lines").await.send_keys(FIRST).await.unwrap();
    bench.see_in("svg[aria-label='The level as drawn']", "Bedroom").await;
    bench.saved().await;
    bench.click("//*[name()='g'][starts-with(@aria-label,'Bedroom,')]").await;
    bench.click("//button[@role='tab'][normalize-space(.)='Bedroom']").await;
    bench.choose("west side", "stone 400 mm").await;
    bench
        .wait("the line to say it", || async {
            let text = bench.find("#house-lines").await.text().await.ok()?;
            text.contains("- west stone").then_some(())
        })
        .await;
    bench.saved().await;

    // The brief: plan and needs add up.
    stop(&bench, "Brief").await;
    bench.press("Add a plan").await;
    bench.fill("Plan 1 down", "500").await;
    bench.fill("Plan 1 up", "50").await;
    bench.press("Add a use").await;
    bench.choose("Use 1 room", "Bedroom").await;
    bench.choose("Use 1 activity", "4K film").await;
    bench.fill("Use 1 people", "2").await;
    bench.saved().await;
    bench.see("Busy evening 50 of 500 down, 1 of 50 up: enough.").await;

    // Setup A: the router, dragged to where the line enters.
    stop(&bench, "Setups").await;
    bench.see("No setup yet").await;
    new_setup(&bench, "as found").await;
    let kit = bench.find("[data-kit=node_ax_dual]").await;
    let hall = bench.find("svg[aria-label^='Map'] path[aria-label^='Hall']").await;
    bench
        .driver
        .action_chain()
        .move_to_element_center(&kit)
        .click_and_hold()
        .move_to_element_center(&hall)
        .release()
        .perform()
        .await
        .unwrap();
    bench.see("At the line: it has no uplink").await;
    let alone = bench.ledger("Bedroom", 1).await;
    assert!(alone.parse::<f64>().unwrap() > 0.0, "the bedroom gets something: {alone}");

    // Setup B: the same and a node upstairs; the map and ledger follow the drag, and the drop is kept.
    new_setup(&bench, "node upstairs").await;
    bench.click("//aside//button[normalize-space(.)='Landing']").await;
    bench.place("node_ax_dual").await;
    let node = bench.find("[data-device=Node]").await;
    bench.see_in("section[aria-label='Settings of Node']", "Backhaul").await;
    let told = || async {
        let mut all = String::new();
        for room in ["Landing", "Bedroom", "Hall", "Kitchen", "Yard"] {
            all += &bench.ledger(room, 1).await;
        }
        all
    };
    let before = told().await;
    let chain = bench.driver.action_chain();
    chain.move_to_element_center(&node).click_and_hold().move_by_offset(60, -30).perform().await.unwrap();
    bench.wait("the ledger to follow the drag", || async { (told().await != before).then_some(()) }).await;
    let place = |view: &serde_json::Value| view["home"]["setups"][1]["devices"][1]["at"].clone();
    let home = bench.path().await.replace("/homes/", "/api/homes/").replace("/setups", "");
    let stored = place(&bench.ask(&home).await);
    bench.driver.action_chain().release().perform().await.unwrap();
    bench.wait("the drop to be stored", || async { (place(&bench.ask(&home).await) != stored).then_some(()) }).await;

    // The chain names the link that limits.
    bench.click("//aside//button[normalize-space(.)='Bedroom']").await;
    bench.see_in("section[aria-label='Chain to the room']", "limiting link").await;

    // A round in each setup, walked by the stand-in phone.
    stop(&bench, "Rounds").await;
    walked_round(&bench).await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'as found')]").await;
    bench.see("Nothing was tested in this setup yet").await;
    walked_round(&bench).await;

    // The verdict.
    stop(&bench, "Compare").await;
    bench.see_in("section[aria-label='Which to keep']", "no verdict until it is measured").await;
    bench.see_in("section[aria-label='Which to keep']", "made up and prove nothing").await;
    bench.see_in("main thead", "made up by the stand-in").await;
    let row = bench.find_xpath("//main//tr[th[starts-with(normalize-space(.),'Bedroom')]]").await.text().await.unwrap();
    // What the stand-in phone made up is never called measured.
    let said = ["×", "not shown", "can’t tell"];
    assert!(said.iter().any(|words| row.contains(words)) && !row.contains("measured"), "{row}");
    bench.no_longer("main", "Not like for like").await;
    bench.close().await;
}

#[tokio::test]
async fn the_keyboard_reaches_everything() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Canal terrace with pottery", "Brief").await;
    bench.see_in("aside", "Pottery").await;
    bench.key("3").await;
    bench.see("Findings").await;
    bench.find("aside th button").await.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Down + "").send_keys(Key::Up + "").perform().await.unwrap();
    bench.see_in("section[aria-label='Chain to the room']", "No radio of this setup is heard here").await;
    bench.key("B").await;
    bench.see_in("aside", "B predicted").await;
    bench.key("?").await;
    bench.see("move it 10 cm or 4 in").await;
    bench.key("?").await;

    // Find the node, move it with the arrows, take it back with undo.
    bench.key(Key::Control + "k").await;
    bench.fill("Find a room, setup, device or stop", "landing node").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Enter + "").await.unwrap();
    let node = bench.find("[data-device='Landing node']").await;
    let label = || async { node.attr("aria-label").await.unwrap().unwrap() };
    let at = label().await;
    node.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Right + "").send_keys(Key::Right + "").perform().await.unwrap();
    bench.wait("the node to move", || async { (label().await != at).then_some(()) }).await;
    let undo = bench.find_xpath("//button[@id='undo']").await;
    bench.wait("the move to be stored", || async { undo.is_enabled().await.ok()?.then_some(()) }).await;
    bench.key(Key::Control + "z").await;
    bench.wait("the node to be back", || async { (label().await == at).then_some(()) }).await;
    bench.close().await;
}

#[tokio::test]
async fn what_was_acknowledged_survives_a_power_cut() {
    let mut bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "Brief").await;
    bench.fill("Complaint, in their words", "Nothing works when the kiln is on.").await;
    bench.saved().await;
    bench.power_cut().await;
    let field = bench.find_xpath("//textarea[@id=//label[.='Complaint, in their words']/@for]").await;
    bench
        .wait("the complaint", || async {
            (field.value().await.ok()?? == "Nothing works when the kiln is on.").then_some(())
        })
        .await;
    bench.close().await;
}
