//! What people do that used to cost them their work: two windows, no network, a reload too early, a wrong press.

use busy_hen_e2e::{Bench, DESK};
use serde_json::{Value, json};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";
const COMPLAINT: &str = "Complaint, in their words";

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

    bench.open_home(HOME, "Rounds").await;
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    bench.fill("Download, Mb/s (needed)", "84.5").await;
    bench.driver.refresh().await.unwrap();
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    bench.see("Typed before and not kept yet.").await;
    assert_eq!(held(&bench, "Download, Mb/s (needed)").await, "84.5");
    bench.fill("Upload, Mb/s (needed)", "20").await;
    bench.press("Keep this run").await;
    bench.see("1 run kept.").await;
    bench.press("Done").await;
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    assert_eq!(held(&bench, "Download, Mb/s (needed)").await, "", "what was kept is not offered again");
    bench.close().await;
}

#[tokio::test]
async fn without_a_network_typing_goes_on_and_is_stored_later() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "Brief").await;
    bench.find("textarea").await;
    bench.offline(true).await;
    bench.fill(COMPLAINT, "Typed in the cellar.").await;
    bench.see("Not saved").await;
    assert_ne!(stored(&bench, "/home/brief/complaint").await, json!("Typed in the cellar."));
    bench.offline(false).await;
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
    bench.offline(true).await;
    bench.fill(COMPLAINT, "Mine.").await;
    bench.see("Not saved").await;
    bench.driver.switch_to_window(second).await.unwrap();
    bench.fill(COMPLAINT, "Theirs.").await;
    bench.saved().await;
    wait_stored(&bench, "/home/brief/complaint", json!("Theirs.")).await;
    bench.driver.switch_to_window(first).await.unwrap();
    bench.offline(false).await;
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
    bench.dock("Setup A").await;
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
    bench.press("Delete…").await;
    bench.see("Undo brings them back").await;
    bench.press("Keep it").await;
    let before = stored(&bench, "/rounds").await;
    bench.press("Delete…").await;
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
    bench.dock("Setup A").await;
    bench.see("changing it makes them readings of something else").await;
    let tested = stored(&bench, "/home/setups/0/devices/0/at").await;
    bench.find("[data-device=Router]").await.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Right + "").perform().await.unwrap();
    bench.dock("Setup A").await;
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
    bench.see_in("ol[aria-label='What the shades stand for']", "HD film").await;
    bench.find(".dock ol li").await;
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
async fn quick_nudges_of_two_devices_are_both_kept_without_a_network_too() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    let nudge = async |device: &str| {
        let script = format!("document.querySelector(\"[data-device='{device}']\").focus(); return 1");
        bench.number(&script).await;
        bench.driver.active_element().await.unwrap().send_keys(Key::Shift + Key::Right).await.unwrap();
    };
    let places = async || {
        let devices = stored(&bench, "/home/setups/1/devices").await;
        [0, 1].map(|index| devices[index]["at"].clone())
    };
    bench.find("[data-device='Landing node']").await;
    for there in [true, false] {
        let [router, node] = places().await;
        bench.offline(!there).await;
        nudge("Router").await;
        nudge("Landing node").await;
        if !there {
            bench.see("Not saved: no answer; kept here and tried again").await;
            assert_eq!(places().await, [router.clone(), node.clone()]);
            bench.offline(false).await;
        }
        bench
            .wait("both to be stored", || async {
                let [own, other] = places().await;
                (own != router && other != node).then_some(())
            })
            .await;
    }
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

/// Types a run at a spot with the keyboard alone, Enter at its end, once the first field has the focus and is empty.
async fn type_run(bench: &Bench, figures: [&str; 2]) {
    let script = "const at = document.activeElement; return at?.labels?.[0]?.innerText.startsWith('Download') && !at.value ? 1 : 0";
    bench
        .wait("the focus in the first field, empty", || async { (bench.number(script).await > 0.5).then_some(()) })
        .await;
    for (index, figure) in figures.iter().enumerate() {
        let end = if index == 0 { Key::Tab } else { Key::Enter };
        bench.driver.active_element().await.unwrap().send_keys(*figure + end).await.unwrap();
    }
}

#[tokio::test]
async fn a_typed_run_is_put_right_a_struck_one_counts_again_and_both_are_undone() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.find("#begin-round").await.click().await.unwrap();
    bench.fill("Runs at each spot", "2").await;
    bench.press("Begin").await;
    bench.see("2 runs a spot").await;
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    bench.see("Study: run 1 of 2").await;
    // Enter keeps a run and leaves the focus where the next one begins.
    type_run(&bench, ["80", "22"]).await;
    bench.see("1 run kept.").await;
    type_run(&bench, ["90", "23"]).await;
    bench.see("2 runs kept.").await;
    bench.see("Study: run 3, beyond the 2 wanted").await;
    bench.press("Done").await;

    bench.click("//button[@aria-label='Runs at Study: 2']").await;
    bench.click("//tr[contains(.,'90 / 23')]//button[normalize-space(.)='Put right']").await;
    bench.see("It said 90 / 23 Mb/s; that is kept with it.").await;
    bench.fill("Download, Mb/s (needed)", "70").await;
    bench.press("Put it right").await;
    bench.see_in(".v-dialog tbody", "70 / 23").await;
    bench.see_in(".v-dialog tbody", "was 90 / 23").await;

    bench.click("//tr[contains(.,'80 / 22')]//button[normalize-space(.)='Don’t count']").await;
    bench.fill("Why this run does not count", "a call came in").await;
    bench.press("Leave it out").await;
    bench.see_in(".v-dialog tbody", "no: a call came in").await;
    bench.press("Count it").await;
    bench.no_longer(".v-dialog tbody", "a call came in").await;
    bench.press("Close").await;

    // Step by step back: counts again, left out, put right.
    for _ in 0..3 {
        let before = bench.find("#undo").await.attr("title").await.unwrap();
        bench.undo().await;
        bench
            .wait("the step to be taken back", || async {
                (bench.find("#undo").await.attr("title").await.ok()? != before).then_some(())
            })
            .await;
    }
    bench.click("//button[@aria-label='Runs at Study: 2']").await;
    bench.see_in(".v-dialog tbody", "90 / 23").await;
    bench.no_longer(".v-dialog tbody", "was ").await;
    bench.close().await;
}

#[tokio::test]
async fn undo_takes_back_a_dropdown_and_not_the_typed_room_and_goes_to_where_it_acts() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "House").await;
    let lines = bench.find("#house-lines").await;
    lines.send_keys(Key::Control + Key::End).await.unwrap();
    lines.send_keys("\nLarder 4 x 5 west of Workroom").await.unwrap();
    bench.see_in("svg[aria-label='The level as drawn']", "Larder").await;
    bench.saved().await;
    let outer = stored(&bench, "/home/house/outer_wall").await;
    bench.click("//button[@role='tab'][normalize-space(.)='Made of']").await;
    bench.choose("Outer walls", "brick 8½\"").await;
    bench.saved().await;
    bench
        .wait("the choice to be stored", || async {
            (stored(&bench, "/home/house/outer_wall").await != outer).then_some(())
        })
        .await;
    // The focus is still on the list: the keys go to the home all the same.
    bench.driver.active_element().await.unwrap().send_keys(Key::Control + "z").await.unwrap();
    wait_stored(&bench, "/home/house/outer_wall", outer.clone()).await;
    bench.see_in("svg[aria-label='The level as drawn']", "Larder").await;
    assert!(bench.find("#house-lines").await.text().await.unwrap().contains("Larder"));

    // From another screen, undo shows what it took.
    bench.click("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='Setups']]").await;
    bench.undo().await;
    bench.wait("the stop it acts at", || async { bench.path().await.ends_with("/house").then_some(()) }).await;
    bench.see("Undone:").await;
    bench.no_longer("svg[aria-label='The level as drawn']", "Larder").await;
    bench.close().await;
}

#[tokio::test]
async fn a_run_whose_answer_was_lost_is_sent_again_and_kept_once() {
    let bench = Bench::demo(DESK).await;
    let script = "const real = window.fetch; let lost = false;
        window.fetch = async (...asked) => {
            const answer = await real(...asked);
            const request = asked[0];
            if (!lost && request.method === 'POST' && request.url.endsWith('/runs')) {
                lost = true;
                throw new TypeError('the answer was lost on the way');
            }
            return answer;
        }";
    let devtools = bench.driver.cdp();
    devtools.send_raw("Page.enable", json!({})).await.unwrap();
    devtools.send_raw("Page.addScriptToEvaluateOnNewDocument", json!({ "source": script })).await.unwrap();
    bench.open_home(HOME, "Rounds").await;
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    bench.see("Study: run 6").await;
    type_run(&bench, ["31", "12"]).await;
    bench.see("The server does not answer.").await;
    bench.press("Keep this run").await;
    bench.see("1 run kept.").await;
    bench.press("Done").await;
    bench.find("[aria-label='Runs at Study: 6']").await;
    bench.close().await;
}
