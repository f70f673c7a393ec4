//! What the model knows, entered at the bench: doors, what stands in the way, neighbours, aerials, pairs of adapters; home files.

use busy_hen_e2e::{Bench, DESK, PHONE};
use serde_json::Value;
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";

/// How many things a CSS selector finds.
async fn count(bench: &Bench, css: &str) -> f64 {
    bench.number(&format!("return document.querySelectorAll(\"{css}\").length")).await
}

/// Leaves the field that was typed into.
async fn tab(bench: &Bench) {
    let field = bench.driver.active_element().await.expect("a field has the focus");
    field.send_keys(Key::Tab + "").await.expect("the field takes keys");
}

/// What is predicted for a room, as the ledger beside the setups shows it.
async fn predicted(bench: &Bench, room: &str) -> f64 {
    bench.click("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='Setups']]").await;
    let figure = bench.ledger(room, 1).await.parse().expect("a figure");
    bench.click("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='House']]").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    figure
}

#[tokio::test]
async fn a_door_is_put_in_lets_more_through_and_says_what_is_wrong_with_it() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    let before = predicted(&bench, "Bathroom").await;
    bench.press("First").await;
    bench.click("//*[name()='g'][starts-with(@aria-label,'Bathroom,')]").await;
    bench.click("//button[@role='tab'][normalize-space(.)='Bathroom']").await;
    let drawn = "svg g:not(.assumed) > .door";
    let doors = count(&bench, drawn).await;
    bench.press("+ door").await;
    bench.wait("the door", || async { (count(&bench, drawn).await > doors).then_some(()) }).await;
    let lines = bench.find("#house-lines").await;
    lines.send_keys(Key::Control + Key::End).await.unwrap();
    assert!(lines.text().await.unwrap().ends_with("- door north"), "what is put in stands in the lines");
    lines.send_keys(" 40 wide").await.unwrap();
    bench.see_in("#house-faults", "A door 40.00 m wide does not go into a side of 4.80 m.").await;
    for _ in 0.."40 wide".len() {
        lines.send_keys(Key::Backspace + "").await.unwrap();
    }
    lines.send_keys("3 wide open").await.unwrap();
    bench.no_longer("#house-faults", "does not go").await;
    bench.press("+ stairs up").await;
    bench.wait("the stairs", || async { (count(&bench, "svg .stairs.said").await > 0.0).then_some(()) }).await;
    bench.saved().await;
    bench.press("Ground").await;
    assert!(predicted(&bench, "Bathroom").await > before);
    bench.close().await;
}

#[tokio::test]
async fn what_stands_in_the_way_and_who_shares_the_air_count() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    let solids = count(&bench, "svg .solid").await;
    let lines = bench.find("#house-lines").await;
    lines.send_keys(Key::Control + Key::End).await.unwrap();
    lines.send_keys("\nGarden: garden wall west").await.unwrap();
    bench.wait("one more in the way", || async { (count(&bench, "svg .solid").await > solids).then_some(()) }).await;
    bench.saved().await;
    bench.click("//button[@role='tab'][normalize-space(.)='Neighbours']").await;
    bench.click("//summary[contains(., 'Neighbours’ networks')]").await;
    bench.press("+ neighbour").await;
    bench.saved().await;
    let channel = bench.find("fieldset[aria-label='Neighbour 4'] input[inputmode=decimal]").await;
    channel.send_keys(Key::Control + "a").await.unwrap();
    channel.send_keys("35").await.unwrap();
    tab(&bench).await;
    bench.see_in("[role=alert]", "There is no 20 MHz channel at 35 in 2.4 GHz; look again.").await;
    bench.click("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='Setups']]").await;
    bench.see_in("aside", "with 4 neighbours’ networks in the air").await;
    bench.close().await;
}

#[tokio::test]
async fn pairs_and_aerials_are_set_with_their_cautions() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.click("//*[@data-device='Landing node']").await;
    bench.choose("By", "power line, by a pair of adapters").await;
    bench.see("hangs on the mains: use sound wall outlets and open none").await;
    bench.see("Backhaul:").await;
    bench.choose("Power strips", "2").await;
    bench.see_in("section[aria-label^='Settings']", "hangs on 2 power strips").await;
    bench.wait("a zigzag", || async { (count(&bench, "svg .hop path.power_line").await > 0.0).then_some(()) }).await;
    bench.choose("By", "coax, by a pair of adapters").await;
    bench.see("needs a filter where the line enters").await;
    bench.choose("Aerials", "rods").await;
    bench.fill("Gain, dBi", "40").await;
    tab(&bench).await;
    bench.see_in("[role=alert]", "gain in dBi of Landing node's aerial is 40; it must be 1.5 to 12").await;
    bench.fill("Gain, dBi", "5").await;
    tab(&bench).await;
    bench.choose("Stands", "in a metal cabinet").await;
    bench.see_in("section[aria-label^='Settings']", "stands in a metal cabinet.").await;
    // With its radios off there is nothing to move out.
    for radio in ["1", "2"] {
        bench
            .click(&format!(
                "(//section[starts-with(@aria-label,'Settings')]//label[normalize-space(.)='on'])[{radio}]"
            ))
            .await;
        bench.saved().await;
    }
    bench.no_longer("section[aria-label^='Settings']", "stands in a metal cabinet.").await;
    bench.close().await;
}

#[tokio::test]
async fn shut_doors_and_clinging_phones_change_what_is_predicted() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    let now = || async { bench.ledger("Bathroom", 1).await.parse::<f64>().ok() };
    let open = bench.wait("a prediction", now).await;
    bench.word("Doors", "all shut").await;
    bench.wait("less behind shut doors", || async { now().await.filter(|shut| *shut < open) }).await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.dock("Setup B").await;
    bench.choose("Phones find a device by", "a name for each device").await;
    bench.dock("Findings").await;
    bench.see("phones stay on the one they know").await;
    bench.close().await;
}

#[tokio::test]
async fn a_home_goes_out_as_a_file_and_comes_in_again() {
    let bench = Bench::demo(DESK).await;
    let export = bench.find("a[aria-label='Export Canal terrace with pottery']").await;
    let path = export.attr("href").await.unwrap().unwrap();
    let mut file: Value = bench.ask(path.trim_start_matches(&bench.address)).await;
    assert!(!file["rounds"].as_array().unwrap().is_empty(), "with its runs");
    file["home"]["name"] = "Terrace from a file".into();
    let folder = tempfile::tempdir().unwrap();
    let good = folder.path().join("terrace.json");
    std::fs::write(&good, file.to_string()).unwrap();
    file["home"]["setups"][1]["devices"][0]["mode"] = "toaster".into();
    let bad = folder.path().join("toaster.json");
    std::fs::write(&bad, file.to_string()).unwrap();
    bench.hand_over(&bad).await;
    bench.see_in("[role=alert]", "toaster.json at /home/setups/1/devices/0/mode: This does not fit there").await;
    bench.hand_over(&good).await;
    bench.see("Terrace from a file").await;
    bench.see_in("nav[aria-label='Route of the job']", "2 setups tested throughout").await;
    bench.goto("/").await;
    bench.see("Terrace from a file").await;
    bench.close().await;
}

#[tokio::test]
async fn the_new_fields_fit_a_phone() {
    let bench = Bench::demo(PHONE).await;
    bench.open_home(HOME, "House").await;
    bench.click("//button[@role='tab'][normalize-space(.)='Neighbours']").await;
    bench.click("//summary[contains(., 'Neighbours’ networks')]").await;
    bench.see("Only what sharing the air needs is kept").await;
    assert!(!bench.scrolls_sideways().await);
    bench.close().await;
}

#[tokio::test]
async fn advice_is_of_what_is_set_and_the_ledger_and_the_map_judge_alike() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    // The same room, the same area without its need, on both.
    let told = "const row = [...document.querySelectorAll('aside tbody tr')].find((own) => own.innerText.includes('Pottery')); \
                const area = /not in ([0-9.]+)/.exec(row?.innerText ?? '')?.[1]; \
                const map = [...document.querySelectorAll('svg')].map((own) => own.textContent).join(' '); \
                return area && map.includes(area) && row.innerText.includes('not met') ? 1 : 0";
    bench.key("d").await;
    bench.wait("one area for both", || async { (bench.number(told).await > 0.5).then_some(()) }).await;
    // What is put beside it serves on channels of its own.
    bench.place("router_ac").await;
    bench.find("[data-device='Access point']").await;
    bench.saved().await;
    bench.no_longer(".dock", "serve on one channel").await;
    bench.place("ap_ax").await;
    bench.see("Its cable feeds it: it needs an injector").await;
    bench.no_longer("section[aria-label^='Settings']", "Plug it straight into a wall outlet").await;
    // A radio that carries the uplink follows the router's channel: nothing is said of its own.
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.click("//*[@data-device='Landing node']").await;
    bench.see("carries the uplink: works on the channel of the device upstream").await;
    bench.no_longer("section[aria-label^='Settings']", "radar has first call").await;
    bench.close().await;
}
