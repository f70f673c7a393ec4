//! Numbers typed as people write them, at the desk and on a phone: read as meant, asked about, kept until they are read.

use busy_hen_e2e::phones::{begin_round_for, pair, runs, wait_runs};
use busy_hen_e2e::{Bench, DESK, PHONE};
use serde_json::Value;
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";

async fn plan(bench: &Bench) -> Value {
    let home = bench.path().await.split('/').nth(2).unwrap().to_owned();
    bench.ask(&format!("/api/homes/{home}")).await["home"]["brief"]["plans"][1]["down_mbps"].clone()
}

#[tokio::test]
async fn a_plan_is_typed_with_thousands_and_a_doubt_outlasts_a_reload_and_changes_nothing() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Brief").await;
    bench.fill("Plan 2 down", "1,000").await;
    bench.saved().await;
    assert_eq!(plan(&bench).await, 1000.0);
    bench.fill("Budget, in the family’s currency", "£1,600").await;
    bench.saved().await;
    bench.fill("Plan 2 down", "1,5").await;
    bench.see_in("[role=alert]", "“1,5” can be 1.5 or 15: which is meant?").await;
    bench.see("Not saved: see the marked field").await;
    assert_eq!(plan(&bench).await, 1000.0, "what is not read changes nothing");
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.driver.refresh().await.unwrap();
    bench.see_in("[role=alert]", "“1,5” can be 1.5 or 15: which is meant?").await;
    assert_eq!(plan(&bench).await, 1000.0);
    bench.press("15").await;
    bench.no_longer("body", "which is meant").await;
    bench.saved().await;
    assert_eq!(plan(&bench).await, 15.0);
    bench.offline(true).await;
    bench.fill("Plan 2 down", "1,200").await;
    bench.see("Not read yet: no answer. It is kept here.").await;
    bench.offline(false).await;
    bench.saved().await;
    assert_eq!(plan(&bench).await, 1200.0);
    bench.close().await;
}

#[tokio::test]
async fn a_run_is_typed_by_two_numbers_and_enter_and_nothing_is_asked() {
    let bench = Bench::demo(DESK).await;
    let round = begin_round_for(&bench, "rooms", "local", 3, &["Study"]).await;
    let home = bench.ask(&format!("/api/rounds/{round}")).await["home_id"].as_str().unwrap().to_owned();
    bench.goto(&format!("/homes/{home}/rounds/{round}")).await;
    bench.click("//button[@aria-label='Type in a run at Study']").await;
    bench
        .wait("the first field to have the focus", || async {
            let field = bench.driver.active_element().await.ok()?;
            (field.tag_name().await.ok()? == "input").then_some(())
        })
        .await;
    for _ in 0..2 {
        let before = bench.driver.active_element().await.unwrap();
        before.send_keys("70" + Key::Tab + "20" + Key::Enter).await.unwrap();
        bench
            .wait("the field to be empty for the next", || async {
                before.value().await.ok()?.is_none_or(|held| held.is_empty()).then_some(())
            })
            .await;
    }
    bench.see("2 runs kept.").await;
    // What is typed when "Done" is pressed is kept too.
    bench.fill("Download, Mb/s (needed)", "1,000 kbps").await;
    bench.fill("Upload, Mb/s (needed)", "0.9").await;
    bench.press("Done").await;
    let kept = wait_runs(&bench, &round, 3).await;
    let downs: Vec<f64> = kept.iter().map(|run| run["outcome"]["down_mbps"].as_f64().unwrap()).collect();
    assert_eq!(downs, [70.0, 70.0, 1.0]);
    bench.close().await;
}

#[tokio::test]
async fn a_run_typed_on_the_phone_without_a_network_waits_as_it_was_typed() {
    let bench = Bench::demo(PHONE).await;
    let round = begin_round_for(&bench, "rooms", "local", 2, &["Kitchen", "Study"]).await;
    bench.goto(&pair(&bench, &round).await).await;
    bench.see_in("h1", "Kitchen").await;
    bench.click("//button[small='tested by']").await;
    bench.offline(true).await;
    bench.fill("Down, Mb/s", "1,5").await;
    bench.fill("Up, Mb/s", "0.9").await;
    bench.press("Keep what it showed").await;
    bench.see("1 run kept on this phone, not sent yet.").await;
    bench.offline(false).await;
    bench.see_in("[role=alert]", "“1,5” can be 1.5 or 15: which is meant?").await;
    assert_eq!(runs(&bench, &round).await, Vec::<Value>::new());
    bench.driver.refresh().await.unwrap();
    bench.see_in("[role=alert]", "“1,5” can be 1.5 or 15: which is meant?").await;
    bench.press("1.5").await;
    bench.press("Keep it so").await;
    let kept = wait_runs(&bench, &round, 1).await;
    assert_eq!(kept[0]["outcome"]["down_mbps"], 1.5);
    bench.close().await;
}
