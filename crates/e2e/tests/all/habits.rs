//! What people do besides the main job: other units, other questions, renaming, testing by key, throwing away.

use busy_hen_e2e::{Bench, DESK};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";

#[tokio::test]
async fn a_home_in_feet_is_shown_and_typed_in_feet() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "18' x 14'").await;
    bench.see("ft² indoors").await;
    bench.click("//summary[contains(., 'floor to floor')]").await;
    bench.fill("Floor to floor, ft", "10").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.saved().await;
    let home = bench.path().await.replace("/homes/", "/api/homes/").replace("/house", "");
    bench
        .wait("ten feet to be kept as metres", || async {
            let height = bench.ask(&home).await["home"]["house"]["levels"][0]["height_m"].as_f64()?;
            ((height - 3.048).abs() < 1e-9).then_some(())
        })
        .await;
    bench.click("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='Setups']]").await;
    bench.click("//aside//button[normalize-space(.)='Workroom']").await;
    bench.see_in("section[aria-label='Chain to the room']", " ft, ").await;
    bench.close().await;
}

#[tokio::test]
async fn the_question_changes_what_is_predicted() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.see_in("aside", "nothing else busy").await;
    let alone: f64 = bench.ledger("Study", 1).await.parse().unwrap();
    bench.word("Household", "in the busy evening").await;
    bench.see_in("aside", "busy evening").await;
    bench
        .wait("less on a busy evening", || async {
            (bench.ledger("Study", 1).await.parse::<f64>().ok()? < alone).then_some(())
        })
        .await;
    bench.word("Household", "nothing else busy").await;
    bench.word("Test to", "local").await;
    bench
        .wait("more than the plan in a local test", || async {
            (bench.ledger("Front room", 1).await.parse::<f64>().ok()? > 301.0).then_some(())
        })
        .await;
    bench.close().await;
}

#[tokio::test]
async fn a_setup_is_renamed_and_that_is_undone_and_done_again() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.dock("Setup A").await;
    bench.fill("Name of setup A", "before the visit").await;
    bench.driver.active_element().await.unwrap().send_keys(Key::Tab + "").await.unwrap();
    bench.see_in("nav[aria-label='Setups']", "before the visit").await;
    bench.undo().await;
    bench.see_in("nav[aria-label='Setups']", "as found").await;
    bench.press("Redo").await;
    bench.see_in("nav[aria-label='Setups']", "before the visit").await;
    bench.close().await;
}

#[tokio::test]
async fn t_opens_the_run_of_the_chosen_room() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Brief").await;
    bench.click("//aside//button[normalize-space(.)='Kitchen']").await;
    bench.key("t").await;
    bench.see("Kitchen: run 6, beyond the 5 wanted").await;
    bench.close().await;
}

#[tokio::test]
async fn a_home_is_thrown_away_only_after_asking() {
    let bench = Bench::demo(DESK).await;
    bench.click("//button[@aria-label='Delete Lock house']").await;
    bench.see("You can restore it until Busy Hen is stopped").await;
    bench.press("Keep it").await;
    // What goes with it is said.
    bench.click("//button[@aria-label='Delete Canal terrace with pottery']").await;
    bench.see("5 rounds, 260 runs, 1 monitor").await;
    bench.press("Keep it").await;
    bench.see_in("main", "Lock house").await;
    bench.click("//button[@aria-label='Delete Lock house']").await;
    bench.press("Delete it").await;
    bench.no_longer("main ul:not(.deleted)", "Lock house").await;
    bench.click("//button[@aria-label='Restore Lock house']").await;
    bench.see_in("main ul:not(.deleted)", "Lock house").await;
    bench.no_longer("main", "gone for good").await;
    bench.close().await;
}
