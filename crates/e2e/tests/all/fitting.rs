//! The run sheet, worked through with one thumb, without a network on the way, and by two at once; passwords and labels.

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
async fn a_password_that_is_kept_opens_to_its_pass_phrase_alone() {
    let bench = Bench::demo(PHONE).await;
    sheet_of_b(&bench).await;
    let code = "section[aria-label='Passwords'] code";
    bench.fill("Name of the network", "Kiln guests").await;
    bench.press("For this network").await;
    let password = bench.wait("a password", || async { bench.text(code).await }).await;
    bench.press("Keep it under a pass phrase …").await;
    bench.fill("Pass phrase", "clay").await;
    bench.press("Keep it").await;
    // What is refused stays as it was typed.
    bench.see("A pass phrase has 8 to 200 characters").await;
    bench.fill("Pass phrase", "clay, glaze and kiln").await;
    bench.press("Keep it").await;
    bench.see("Kept under the pass phrase.").await;
    assert!(!bench.scrolls_sideways().await);
    bench.driver.refresh().await.unwrap();
    bench.click("//button[starts-with(@aria-label, 'open …')]").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.fill("Its pass phrase", "clay, glaze and kilns").await;
    bench.press("Show it").await;
    bench.see("This pass phrase does not open it").await;
    assert!(!bench.text("body").await.unwrap().contains(&password));
    bench.fill("Its pass phrase", "clay, glaze and kiln").await;
    bench.press("Show it").await;
    bench.see_in(code, &password).await;
    let home = bench.path().await.split('/').nth(2).unwrap().to_owned();
    assert!(!bench.ask(&format!("/api/homes/{home}/file")).await.to_string().contains(&password));
    bench.press("Hide it").await;
    bench.click("//button[starts-with(@aria-label, 'throw it away')]").await;
    bench
        .wait("none kept", || async { bench.text("ul[aria-label='Kept passwords']").await.is_none().then_some(()) })
        .await;
    bench.close().await;
}

#[tokio::test]
async fn too_sticky_is_seen_on_the_map_and_thresholds_are_taken_into_the_plan() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'tri-band')]").await;
    bench.dock("Setup C").await;
    bench.choose("Phones find a device by", "one name, not guided").await;
    bench.saved().await;
    bench.dock("Hand-over").await;
    bench.see_in("section[aria-label='The walk']", "Too sticky for").await;
    // How much of the walk is drawn so, px: short pieces stay, which nobody feels.
    let drawn = "return [...document.querySelectorAll('g.walk .too_sticky')].reduce((sum, own) => sum + own.getTotalLength(), 0)";
    bench.wait("it on the map", || async { (bench.number(drawn).await > 0.0).then_some(()) }).await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.see_in("section[aria-label='Hand-over']", "hand over below").await;
    let open = "return document.querySelectorAll(\"section[aria-label='Hand-over'] button\").length";
    let before = bench.number(open).await;
    while bench.number(open).await > 0.0 {
        let now = bench.number(open).await;
        bench.click("(//section[@aria-label='Hand-over']//button[.='Plan it so'])[1]").await;
        bench.wait("one less", || async { (bench.number(open).await < now).then_some(()) }).await;
    }
    bench.see_in("section[aria-label='Hand-over']", "as it is set will do.").await;
    // What a phone does that keeps to one band is asked by itself.
    bench.choose("The phone", "keeps to 2.4 GHz").await;
    bench.see_in("section[aria-label='The walk']", "hand-over").await;
    // Each is a step of the home, to be undone, and stands in the sheet.
    bench.open_home(HOME, "Fit").await;
    bench.see_in("h1", "Fit setup C").await;
    bench.see_in("nav[aria-label='Steps']", "on channel").await;
    bench.undo().await;
    bench.open_home(HOME, "Fit").await;
    bench.wait("one is open again", || async { (bench.number(open).await > 0.0).then_some(()) }).await;
    assert!(before > 0.0);
    bench.close().await;
}
