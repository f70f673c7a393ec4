//! What readings teach, where to read next, dead zones, and setups side by side, by mouse and keyboard.

use busy_hen_e2e::{Bench, DESK, PHONE};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";
const LEARNT: &str = "section[aria-label='What was learnt']";
const ZONES: &str = "section[aria-label='Dead zones']";
const KEEP: &str = "section[aria-label='Which to keep']";
const TURNS: &str = "section[aria-label='Trial by turns']";

#[tokio::test]
async fn what_readings_taught_is_told_shown_and_switched_off() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.dock("Learnt").await;
    bench.see_in(LEARNT, "The stand-in made them up").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    // A lesson points out its walls on the map.
    bench.click("//section[@aria-label='What was learnt']//li/button[1]").await;
    // A line along a wall has no width of its own, so it is looked for and not looked at.
    bench.wait("the wall pointed out", || async { bench.driver.find(By::Css("svg .pointed")).await.ok() }).await;
    // Layers: how well places are known, and what was changed.
    bench.press("how well places are known").await;
    bench.see("sure to 2.5 dB").await;
    bench.press("what it changed").await;
    bench.see("twice the tables and more").await;
    let learnt = bench.ledger("Attic bedroom", 1).await;
    bench.click("//label[contains(., 'the tables alone')]/input").await;
    bench
        .wait("other predictions", || async { (bench.ledger("Attic bedroom", 1).await != learnt).then_some(()) })
        .await;
    // It is of the home: it stays after a reload, and is one step to undo.
    bench.driver.refresh().await.unwrap();
    bench.dock("Learnt").await;
    bench
        .wait("the choice kept", || async {
            let own = bench.driver.find(By::XPath("//label[contains(., 'the tables alone')]/input")).await.ok()?;
            own.is_selected().await.ok()?.then_some(())
        })
        .await;
    bench.undo().await;
    bench
        .wait("the predictions of before", || async {
            (bench.ledger("Attic bedroom", 1).await == learnt).then_some(())
        })
        .await;
    bench.close().await;
}

#[tokio::test]
async fn a_dead_zone_is_explained_and_a_remedy_tried() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.dock("Dead zones").await;
    bench.see_in(ZONES, "Pottery").await;
    bench.see_in(ZONES, "likely").await;
    bench.click("//section[@aria-label='Dead zones']//button[contains(., 'What would mend it?')]").await;
    bench.see_in(ZONES, "an access point more in Pottery, by cable").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.click("//li[contains(., 'an access point more in Pottery, by cable')]//button").await;
    bench.see_in("nav[aria-label='Setups']", "an access point more in").await;
    bench.see_in("aside", "Pottery").await;
    bench.close().await;
}

#[tokio::test]
async fn a_round_says_where_to_read_next_and_moves_on_once_that_is_read() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.find("#begin-round").await.click().await.unwrap();
    bench.see("12 spots, about").await;
    bench.press("Begin").await;
    let told = || async { bench.text("[aria-label='What would teach most']").await };
    let first =
        bench.wait("a proposal", || async { told().await.filter(|own| own.contains("Type a run there")) }).await;
    bench.press("Type a run there").await;
    bench.fill("Download, Mb/s (needed)", "61").await;
    bench.fill("Upload, Mb/s (needed)", "18").await;
    bench.press("Keep this run").await;
    bench.see("1 run kept.").await;
    bench.press("Done").await;
    bench.wait("another proposal", || async { told().await.filter(|own| *own != first) }).await;
    bench.close().await;
}

async fn turn(bench: &Bench, down: &str) {
    bench.fill("Down, Mb/s", down).await;
    bench.fill("Up, Mb/s", "20").await;
    bench.press("Keep").await;
}

#[tokio::test]
async fn setups_are_compared_weighed_tried_by_turns_and_decided_on() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Compare").await;
    bench.see_in(KEEP, "no verdict until it is measured").await;
    // Columns by choice, the reference by a press, delay in place of speed.
    bench.click("//label[contains(., 'C tri-band, pottery wired')]/input").await;
    bench.no_longer("main thead", "C tri-band").await;
    bench.press("set the others against it").await;
    bench
        .wait("B as the reference", || async {
            let head = bench.text("main thead th:nth-child(3)").await?;
            head.contains("the others are set against it").then_some(())
        })
        .await;
    bench.press("Delay, idle").await;
    bench.see_in("main thead", "ms").await;
    bench.press("Download").await;
    bench.click("//main//tr[th[starts-with(normalize-space(.),'Garden')]]").await;
    bench.see_in("main .key", "of the most that can come through").await;
    // Weights by keyboard; what counts is kept on this machine.
    let price = bench.find_xpath("//label[contains(., 'price')]/input").await;
    price.focus().await.unwrap();
    for _ in 0..2 {
        price.send_keys(Key::Right + "").await.unwrap();
    }
    bench.see_in(KEEP, "most").await;
    // By turns, with a wrong figure first.
    bench.press("Begin a trial by turns …").await;
    bench.choose("Against the reference", "A as found").await;
    bench.choose("Spot", "Study").await;
    bench.press("Begin").await;
    bench.see_in(TURNS, "0 of 6 pairs").await;
    bench.see_in(TURNS, "Now B").await;
    turn(&bench, "fast").await;
    bench.see_in(TURNS, "“fast” can’t be read").await;
    turn(&bench, "90").await;
    bench.see_in(TURNS, "Now A").await;
    turn(&bench, "52").await;
    bench.see_in(TURNS, "1 of 6 pairs").await;
    bench.see_in(TURNS, "can’t tell with one run").await;
    // Decided otherwise, with a reason, and still so after a reload.
    bench.press("Decide, also otherwise …").await;
    bench.choose("Keep", "A as found").await;
    bench.fill("Why", "the family moves in March").await;
    bench.press("Keep it").await;
    bench.see_in(KEEP, "Decided: A, as found.").await;
    bench.driver.refresh().await.unwrap();
    bench.see_in(KEEP, "the family moves in March").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.press("Show the lamplight maps side by side").await;
    bench.see("against the reference").await;
    assert!(!bench.scrolls_sideways().await);
    bench.close().await;
}

#[tokio::test]
async fn setups_side_by_side_fit_a_phone() {
    let bench = Bench::demo(PHONE).await;
    bench.open_home(HOME, "Compare").await;
    bench.see_in(KEEP, "What counts how much").await;
    assert!(!bench.scrolls_sideways().await);
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.close().await;
}

#[tokio::test]
async fn what_readings_taught_of_a_wall_stands_on_the_house_drawing() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "House").await;
    bench.click("//*[@role='tab' and .='Learnt']").await;
    bench.see_in(LEARNT, "The stand-in made them up").await;
    // Pressed, a lesson brings up the level of its walls; each says what the table has and what it takes here.
    bench.click("//section[@aria-label='What was learnt']//li/button[1]").await;
    let drawn = "g[aria-label='What readings taught of the walls']";
    bench.wait("the wall", || async { bench.driver.find(By::Css(format!("{drawn} .pointed"))).await.ok() }).await;
    bench.see_in(drawn, "dB").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.click("//*[@role='tab' and .='Made of']").await;
    bench
        .wait("the drawing without", || async {
            bench.driver.find_all(By::Css(format!("{drawn} line"))).await.ok()?.is_empty().then_some(())
        })
        .await;
    bench.close().await;
}

#[tokio::test]
async fn a_page_loaded_anew_goes_on_with_the_setup_it_was_at_and_escape_puts_a_run_by() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'dual-band pair')]").await;
    bench.see_in("h1", "setup B").await;
    bench.driver.refresh().await.unwrap();
    bench.see_in("h1", "setup B").await;
    bench.click("(//button[starts-with(@aria-label, 'Type in a run at')])[1]").await;
    bench.fill("Download, Mb/s (needed)", "61").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Escape + "").await.unwrap();
    bench
        .wait("no dialog", || async {
            bench.driver.find_all(By::Css("[role=dialog]")).await.ok()?.is_empty().then_some(())
        })
        .await;
    bench.click("(//button[starts-with(@aria-label, 'Type in a run at')])[1]").await;
    bench.see("Typed before and not kept yet.").await;
    bench.close().await;
}
