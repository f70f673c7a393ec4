//! Rounds at the bench: planned on the drawing, repeated in another setup, filled from the table of another test.
#![allow(clippy::unwrap_used)] // also in what tests share

use busy_hen_e2e::phones::{HOME, begin_round};
use busy_hen_e2e::{Bench, DESK};
use serde_json::{Value, json};
use thirtyfour::prelude::*;

fn number_of(value: &Value) -> usize {
    value.as_array().unwrap().len()
}

#[tokio::test]
async fn a_way_is_planned_on_the_drawing_and_spots_are_added_and_moved() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Rounds").await;
    bench.find("#begin-round").await.click().await.unwrap();
    bench.see("12 spots, about").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.choose("Walked", "as I press them").await;
    bench.press("None").await;
    bench.see("0 spots").await;
    bench.press("Begin").await;
    bench.see("Choose at least one spot").await;
    // By key as well as by press; a second press takes a spot out again.
    for name in ["Study", "Kitchen", "Hall", "Kitchen"] {
        let spot = bench.find(&format!("[aria-label='Begin a round'] svg [aria-label*='{name}']")).await;
        spot.focus().await.unwrap();
        spot.send_keys(Key::Enter).await.unwrap();
    }
    bench.find("[aria-label='Begin a round'] [aria-label='1: Study']").await;
    let hall = bench.find("[aria-label='Begin a round'] [aria-label='2: Hall']").await;
    let home = bench.path().await.replace("/homes/", "/api/homes/").replace("/rounds", "");
    let spots = async || bench.ask(&home).await["home"]["house"]["spots"].clone();
    let before = spots().await;
    hall.focus().await.unwrap();
    hall.send_keys(Key::Right).await.unwrap();
    bench.wait("the spot to be moved", || async { (spots().await != before).then_some(()) }).await;
    bench.press("Add a spot").await;
    let plan = bench.find("[aria-label='Begin a round'] svg[aria-label='Spots on First']").await;
    plan.click().await.unwrap();
    bench.see("3 spots").await;
    assert_eq!(number_of(&spots().await), number_of(&before) + 1, "a second one in a room");
    bench.press("Begin").await;
    bench.find("[aria-label='Runs at Study: 0']").await;
    let round = bench.path().await.rsplit('/').next().unwrap().to_owned();
    let view = bench.ask(&format!("/api/rounds/{round}")).await;
    let names: Vec<&str> =
        view["spots"].as_array().unwrap().iter().map(|spot| spot["name"].as_str().unwrap()).collect();
    assert_eq!((names.len(), names[0], names[1]), (3, "Study", "Hall"), "{names:?}");
    assert!(names[2].ends_with(", 2"), "{names:?}");
    bench.close().await;
}

#[tokio::test]
async fn a_round_is_repeated_in_another_setup_by_one_press_and_tells_what_was_not_seen() {
    let bench = Bench::demo(DESK).await;
    let round = begin_round(&bench, "local", 2).await;
    let before = bench.ask(&format!("/api/rounds/{round}")).await;
    let home = before["home_id"].as_str().unwrap();
    bench.goto(&format!("/homes/{home}/rounds/{round}")).await;
    // The address of a round leads to its setup.
    bench.see_in("h1", "Rounds, setup B").await;
    bench.press("Repeat…").await;
    bench.choose("In setup", "C tri-band, pottery wired").await;
    bench.see("Did it take effect? Changed since setup B").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.find("[aria-label='The same round again'] input[type='checkbox']").await.click().await.unwrap();
    bench.press("Begin it").await;
    bench.see_in("h1", "Rounds, setup C").await;
    bench.see("changes not seen to have taken effect before this round").await;
    let next = bench
        .wait("the new round", || async {
            let now = bench.path().await.rsplit('/').next()?.to_owned();
            (now != round).then_some(now)
        })
        .await;
    let after = bench.ask(&format!("/api/rounds/{next}")).await;
    for same in ["spots", "client", "band", "doors", "runs_per_spot", "kind"] {
        assert_eq!(after["round"][same], before["round"][same], "{same}");
    }
    let seen: Vec<bool> =
        after["round"]["confirmed"].as_array().unwrap().iter().map(|own| own["seen"] == true).collect();
    assert!(seen[0] && seen.iter().filter(|seen| **seen).count() == 1, "{seen:?}");
    bench.close().await;
}

#[tokio::test]
async fn readings_of_another_test_are_pasted_and_the_unit_is_asked_for() {
    let bench = Bench::demo(DESK).await;
    let round = begin_round(&bench, "local", 2).await;
    let home = bench.ask(&format!("/api/rounds/{round}")).await["home_id"].as_str().unwrap().to_owned();
    let page = format!("/homes/{home}/rounds/{round}");
    bench.goto(&page).await;
    bench.press("Paste a table…").await;
    let table = bench.find("textarea").await;
    table.send_keys("Room;Down;Up;Ping\nStudy;12,5;2;14\nPottery;;;\n").await.unwrap();
    bench.see("megabits or megabytes: choose").await;
    // Half-typed, it survives a reload.
    bench.driver.refresh().await.unwrap();
    bench.press("Paste a table…").await;
    bench.see("megabits or megabytes: choose").await;
    bench.choose("Speeds are in", "MB/s, megabytes: 8 times as many").await;
    bench.see("Study 100 / 16 Mb/s").await;
    bench.see("Pottery no connection").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.fill("What tested", "the old test page").await;
    bench.press("Keep 2 readings").await;
    bench.see_in("table", "the old test page").await;
    let runs = bench.ask(&format!("/api/rounds/{round}/runs")).await;
    assert_eq!((number_of(&runs), &runs[0]["under"]["tool"]), (2, &json!("the old test page")));
    bench.press("Paste a table…").await;
    let table = bench.find("textarea").await;
    table.send_keys("Room;Down;Up;Ping\nCellar;12,5;2;14\n").await.unwrap();
    // What the columns and the unit were is remembered by the headings.
    bench.see("this round has no spot “Cellar”").await;
    bench.close().await;
}
