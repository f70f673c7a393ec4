//! The first minute, kit of one's own, what a setup takes, its evening, its series, and homes and setups put in order.

use busy_hen_e2e::{Bench, DESK};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";

/// From an empty application to light on a map: what is pressed is counted.
#[tokio::test]
async fn an_empty_application_shows_light_within_a_minute_and_twelve_actions() {
    let bench = Bench::empty(DESK).await;
    bench.see("See light in a minute").await;
    let begun = std::time::Instant::now();
    let mut actions = 0;
    for lines in
        ["Hall 2 x\nKitchen 4 x 3 east of Hall", "Hall 2 x 5\nKitchen 4 x 3 east of Hall\nShed 2 x 2 9 east of Kitchen"]
    {
        if actions > 0 {
            bench.see_in("[role=alert]", "Line 1").await;
        }
        bench.fill_area("Rooms, one a line", lines).await;
        bench.press("See the light").await;
        actions += 2;
    }
    bench.see_in("svg[aria-label^='Map']", "Shed").await;
    let gets = || async { bench.ledger("Kitchen", 1).await.parse::<f64>().ok().filter(|own| *own > 0.0) };
    bench.wait("light in the kitchen", gets).await;
    let took = begun.elapsed();
    println!("{actions} actions, a wrong press among them, {:.1} s", took.as_secs_f64());
    assert!(actions < 12 && took.as_secs() < 60, "{actions} actions, {took:?}");
    // It is in the list from then on.
    bench.goto("/").await;
    bench.see("My first home").await;
    bench.close().await;
}

#[tokio::test]
async fn made_up_homes_open_from_an_empty_application_and_say_where_to_begin() {
    let bench = Bench::empty(DESK).await;
    bench.press("Open the made-up homes").await;
    bench.see("Begin at Brief: the complaint about large files is explained there.").await;
    bench.see("made-up").await;
    bench.see("Worst").await;
    // Looked for, put away, and taken out again.
    bench.find("input[aria-label='Look for a home']").await.send_keys("lock").await.unwrap();
    bench.no_longer("main", "Gasworks flat").await;
    bench.click("//button[@aria-label='Put away Lock house']").await;
    bench.see("No home is found by that").await;
    bench.press("Show all of them").await;
    bench.see("put away").await;
    bench.click("//button[@aria-label='Take out Lock house']").await;
    bench
        .wait("the house among the others", || async {
            bench.driver.find(By::Css("button[aria-label='Put away Lock house']")).await.ok().map(|_| ())
        })
        .await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.close().await;
}

#[tokio::test]
async fn kit_of_ones_own_is_described_placed_priced_and_put_through_its_series() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.key("B").await;
    bench.find("[data-device='Landing node']").await;
    bench.find(".dock ol li").await;
    bench.key("a").await;
    bench.find("input[aria-label='Look for kit']").await.send_keys("ax tri-band backhaul 2.5G").await.unwrap();
    bench.click("//button[starts-with(@aria-label,'more about tri-band ax node, radio')]").await;
    bench.see_in(".drawer", "In the box").await;
    bench.press("describe my own like it").await;
    bench.fill("What it is", "barn node").await;
    bench.fill("Price of one", "eighty").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see("“eighty” can’t be read; type a sum of money").await;
    bench.fill("Price of one", "79,50").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see("“79,50” can be 79.5 or 7950: which is meant?").await;
    bench.press("79.5").await;
    bench.no_longer("body", "which is meant").await;
    bench.press("Keep it").await;
    bench.no_longer("body", "What the family may want").await;
    let sought = bench.find("input[aria-label='Look for kit']").await;
    sought.clear().await.unwrap();
    sought.send_keys("barn").await.unwrap();
    bench.see_in(".drawer", "my own").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.click("//button[@data-kit='own_barn_node']").await;
    bench.see_in("section[aria-label^='Settings']", "Mode").await;
    bench.saved().await;
    bench.dock("Parts").await;
    bench.see_in("section[aria-label='Parts']", "79.50").await;
    bench.see_in("section[aria-label='Parts']", "of 420 that the family will spend").await;
    // Its usual series: four setups, one of them on the bench, side by side in one table.
    bench.press("Its usual series").await;
    bench.see_in("section[aria-label='Series']", "second by loose cable").await;
    bench.see_in("section[aria-label='Series']", "Pottery").await;
    bench.undo().await;
    bench.no_longer("nav[aria-label='Setups']", "alone").await;
    // One is back at the setup that it was opened from, and nothing complains of the setups that are gone.
    bench.see_in("nav[aria-label='Setups'] [aria-pressed='true']", "dual-band pair").await;
    bench.find("[data-device='Landing node']").await;
    assert_eq!(bench.text("[role='alert']").await, None);
    bench.close().await;
}

#[tokio::test]
async fn cables_are_laid_out_and_the_evening_is_told() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.key("C").await;
    bench.find("[data-device='Pottery point']").await;
    bench.dock("Parts").await;
    bench.see_in("section[aria-label='Parts']", "drip loop").await;
    bench.see_in("section[aria-label='Parts']", "over the family's 420").await;
    bench
        .wait("the way on the map", || async { bench.driver.find(By::Css(".ways path.under")).await.ok().map(|_| ()) })
        .await;
    // Through a floor of one's choice it must be drilled, and that is marked.
    bench.click("//*[name()='g'][@data-device='Landing node']").await;
    bench.choose("By", "cable, Cat 6").await;
    bench.saved().await;
    bench.choose("From storey to storey", "through the floor of Front room").await;
    bench.saved().await;
    bench.dock("Parts").await;
    bench.see_in("section[aria-label='Parts']", "floor between Front room and").await;
    bench
        .wait("the hole on the map", || async {
            bench.driver.find(By::Css(".ways .hole circle")).await.ok().map(|_| ())
        })
        .await;
    bench.dock("Busy evening").await;
    bench.see_in("section[aria-label='Busy evening']", "of the download").await;
    bench.see_in("section[aria-label='Busy evening']", "of its time").await;
    bench.close().await;
}

/// Waits until the setups stand in this order.
async fn order(bench: &Bench, wanted: &str) {
    let letters = "return [...document.querySelectorAll('nav[aria-label=Setups] button b')].map((own) => own.textContent.trim()).join('')";
    let stands = || async {
        let told = bench.driver.execute(letters, vec![]).await.ok()?.convert::<String>().ok()?;
        (told == wanted).then_some(())
    };
    bench.wait(wanted, stands).await;
}

#[tokio::test]
async fn setups_have_a_reason_an_order_and_one_in_force_and_findings_are_put_aside_with_a_reason() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.key("B").await;
    bench.dock("Setup B").await;
    bench.fill("Why it is tried", "cheapest pair").await;
    bench.click("//label[contains(., 'in force')]").await;
    bench.see_in("nav[aria-label='Setups']", "✓").await;
    bench.press("move it left").await;
    order(&bench, "BAC").await;
    // The dock stays where it was.
    bench.key("C").await;
    bench.see_in("section[aria-label='The setup']", "Delete setup C").await;
    bench.click("//label[contains(., 'put away')]").await;
    bench.saved().await;
    bench.key("A").await;
    order(&bench, "BA").await;
    bench.press("1 put away").await;
    order(&bench, "BAC").await;
    bench.key("B").await;
    bench.dock("Findings").await;
    bench.find(".dock ol li").await;
    bench.click("(//section[@aria-label='Findings']//button[normalize-space(.)='put aside'])[1]").await;
    bench.find("input[aria-label='Why it is put aside']").await.send_keys("it is only for a week").await.unwrap();
    bench.press("Put it aside").await;
    bench.see_in("section[aria-label='Findings']", "1 put aside").await;
    bench.saved().await;
    let path = bench.path().await;
    bench.goto(&path).await;
    bench.key("B").await;
    bench.see_in("section[aria-label='Findings']", "1 put aside").await;
    bench.click("//section[@aria-label='Findings']//summary").await;
    bench.see_in("section[aria-label='Findings']", "it is only for a week").await;
    bench.press("take it up again").await;
    bench.no_longer("section[aria-label='Findings']", "1 put aside").await;
    bench.close().await;
}

#[tokio::test]
async fn an_aerial_is_turned_on_the_map() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.click("//aside//button[normalize-space(.)='Garden']").await;
    bench.place("ap_out_sector").await;
    let arrow = bench.find("[role=slider]").await;
    let now = || async { arrow.attr("aria-valuenow").await.ok().flatten() };
    let before = now().await;
    arrow.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Right + "").perform().await.unwrap();
    bench.wait("the aerial to turn", || async { (now().await != before).then_some(()) }).await;
    bench.saved().await;
    bench.close().await;
}
