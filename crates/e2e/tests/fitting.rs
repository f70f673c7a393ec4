//! The run sheet, worked through with one thumb, without a network on the way, and by two at once; passwords and labels.
#![allow(clippy::unwrap_used)] // also in what tests share

use busy_hen_e2e::{Bench, DESK, PHONE};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";
const CARD: &str = "section[aria-label='The step at hand']";
const LEFT: &str = "section[aria-label='What was not done']";

async fn sheet_of_b(bench: &Bench) {
    bench.open_home(HOME, "Fit").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'dual-band pair')]").await;
    bench.see_in("h1", "Fit setup B").await;
    bench.see_in(CARD, "step 1 of").await;
}

async fn at_hand(bench: &Bench) -> String {
    bench.text(&format!("{CARD} h2")).await.unwrap_or_default()
}

/// Presses a button of the step at hand, and waits until another step is.
async fn answer(bench: &Bench, word: &str) {
    let step = at_hand(bench).await;
    bench.click(&format!("//section[@aria-label='The step at hand']//button[normalize-space(.)='{word}']")).await;
    bench.wait("the next step", || async { (at_hand(bench).await != step).then_some(()) }).await;
}

#[tokio::test]
async fn the_whole_sheet_is_worked_through_on_a_phone_and_the_report_tells_what_was_not_done() {
    let bench = Bench::demo(PHONE).await;
    sheet_of_b(&bench).await;
    assert!(!bench.scrolls_sideways().await);
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.fill("Ticked by", "Wren").await;
    let place = bench.text(&format!("{CARD} p")).await.unwrap();
    let steps: usize = place.rsplit(' ').next().unwrap().parse().unwrap();
    assert!(steps > 20, "{place}");
    // The last one stays at hand, since none is open then.
    for number in 1..=steps {
        let step = at_hand(&bench).await;
        let last = number == steps;
        match step.as_str() {
            "Switch the Wi-Fi of the old Router off" => {
                bench.press("Skip …").await;
                bench.fill("Why it is left out", "kiln day: nothing off").await;
                answer(&bench, "Leave it out").await;
            }
            "Nothing of the old Router is on the air" => answer(&bench, "Not so").await,
            "Pair Landing node with Router, by the radio that holds best"
            | "Pair Landing node with Router, on 5 GHz" => {
                // The network is down while it is fitted: what is ticked waits here, also over a reload.
                bench.offline(true).await;
                answer(&bench, "Done").await;
                bench.see("kept here, not sent yet").await;
                bench.offline(false).await;
                bench.no_longer("header", "not sent yet").await;
            }
            _ if last => {
                bench.click("//section[@aria-label='The step at hand']//button[contains(@class, 'main')]").await
            }
            _ => {
                let word = bench.text(&format!("{CARD} .main")).await.unwrap();
                answer(&bench, &word).await;
            }
        }
    }
    bench.see(&format!("{steps} of {steps} steps answered, none open; 2 answered with something left to say.")).await;
    bench.see_in(LEFT, "Left out: Switch the Wi-Fi of the old Router off, because kiln day: nothing off.").await;
    bench.see_in(LEFT, "Not so: Nothing of the old Router is on the air.").await;
    // It is of the home, not of this page; and the route knows.
    bench.driver.refresh().await.unwrap();
    bench.see_in("h1", "Fit setup B").await;
    bench.see_in(LEFT, "kiln day").await;
    bench.see_in(".steps", "Wren").await;
    bench.close().await;
}

#[tokio::test]
async fn two_tick_at_once_and_a_tick_is_taken_back_by_keys() {
    let bench = Bench::demo(DESK).await;
    sheet_of_b(&bench).await;
    let first = bench.driver.window().await.unwrap();
    let path = bench.path().await;
    let second = bench.driver.new_tab().await.unwrap();
    bench.driver.switch_to_window(second).await.unwrap();
    bench.goto(&path).await;
    bench.see_in("h1", "Fit setup B").await;
    answer(&bench, "Done").await;
    bench.see("1 of").await;
    bench.driver.switch_to_window(first).await.unwrap();
    // The other's tick shows here without a reload, and one's own does not undo it.
    bench.see("1 of").await;
    bench.click("//nav[@aria-label='Steps']//button[contains(., 'Label Router')]").await;
    answer(&bench, "Done").await;
    bench.see("2 of").await;
    bench.click("//nav[@aria-label='Steps']//button[contains(., 'Label Router')]").await;
    let back = "//section[@aria-label='The step at hand']//button[.='Take back']";
    bench.find_xpath(back).await.send_keys(Key::Enter + "").await.unwrap();
    bench.see("1 of").await;
    bench.close().await;
}

#[tokio::test]
async fn a_password_is_shown_once_with_a_code_to_join_by() {
    let bench = Bench::demo(DESK).await;
    sheet_of_b(&bench).await;
    bench.fill("Name of the network", "Kiln guests").await;
    bench.press("For this network").await;
    let code = "section[aria-label='Passwords'] code";
    let password = bench.wait("a password", || async { bench.text(code).await }).await;
    assert_eq!(password.len(), 19, "{password}");
    bench.find("section[aria-label='Passwords'] [role=img] svg").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    let stored = bench.number("return Object.values(localStorage).join(' ').length").await;
    assert!(stored < 20_000.0);
    let kept = format!("return Object.values(localStorage).some((own) => own.includes('{password}')) ? 1 : 0");
    assert!(bench.number(&kept).await < 0.5, "the page keeps it");
    bench.press("It is written down: forget it").await;
    bench.wait("nothing of it", || async { bench.text(code).await.is_none().then_some(()) }).await;
    bench.driver.refresh().await.unwrap();
    bench.see_in("h1", "Fit setup B").await;
    let page = bench.text("body").await.unwrap();
    assert!(!page.contains(&password));
    bench.close().await;
}

#[tokio::test]
async fn a_threshold_is_proposed_taken_into_the_plan_and_stands_in_the_sheet() {
    let bench = Bench::demo(DESK).await;
    sheet_of_b(&bench).await;
    bench.see_in("section[aria-label='Hand-over']", "hand over below").await;
    let open = "return document.querySelectorAll(\"section[aria-label='Hand-over'] button\").length";
    let before = bench.number(open).await;
    bench.click("(//section[@aria-label='Hand-over']//button[.='Plan it so'])[1]").await;
    bench.wait("one less", || async { (bench.number(open).await < before).then_some(()) }).await;
    bench.see_in("section[aria-label='Hand-over']", "as it is set will do.").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    // It is a step of the home, to be undone.
    bench.undo().await;
    bench.open_home(HOME, "Fit").await;
    bench.wait("as many as before", || async { (bench.number(open).await >= before).then_some(()) }).await;
    bench.close().await;
}
