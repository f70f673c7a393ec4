//! Rounds at the bench: planned on the drawing, repeated in another setup, filled from the table of another test.

use busy_hen_e2e::phones::{HOME, begin_round, begin_round_for, pair};
use busy_hen_e2e::{Bench, DESK};
use busy_hen_testkit::raw::test_of;
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

#[tokio::test]
async fn what_a_screen_did_is_typed_and_judged_and_its_half_survives_a_reload() {
    let bench = Bench::demo(DESK).await;
    let round = begin_round_for(&bench, "application_check", "internet", 1, &["Front room"]).await;
    let home = bench.ask(&format!("/api/rounds/{round}")).await["home_id"].as_str().unwrap().to_owned();
    bench.goto(&format!("/homes/{home}/rounds/{round}")).await;
    bench.see("not checked yet").await;
    bench.click("//button[@aria-label='Another screen at Front room']").await;
    bench.fill("Which screen", "TV in the corner").await;
    bench.press("Keep it").await;
    bench.see("Seconds to the picture, how often it stood still").await;
    bench.fill("Picture after, s (needed)", "7,5").await;
    bench.driver.refresh().await.unwrap();
    bench.click("//button[@aria-label='Another screen at Front room']").await;
    bench.fill("Stood still, times", "2").await;
    bench.fill("Stood still in all, s", "9").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.press("Keep it").await;
    bench.see_in("[role=alert]", "“7,5” can be 7.5 or 75: which is meant?").await;
    bench.press("7.5").await;
    bench.press("Keep it").await;
    bench.see("film at 25 Mb/s: picture after 7.5 s; stood still 2 times, 9.0 s of 60.0 s").await;
    bench.see("“TV in the corner”").await;
    bench.see_in("table", "does not hold").await;
    bench.see("A film holds when it starts and seeks within 5 s").await;
    bench.close().await;
}

#[tokio::test]
async fn firmware_is_noted_at_a_device_and_stands_on_record_of_the_next_round() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.click("//*[@data-device='Router']").await;
    bench.fill("Firmware", "2.4.1").await;
    let home = bench.path().await.replace("/homes/", "/api/homes/").replace("/setups", "");
    let noted = || async {
        let view = bench.ask(&home).await;
        let devices = view["home"]["setups"][1]["devices"].as_array()?.clone();
        devices.iter().any(|device| device["firmware"]["version"] == "2.4.1").then_some(())
    };
    bench.wait("the firmware to be stored", noted).await;
    let round = begin_round(&bench, "local", 2).await;
    let page = home.replace("/api", "");
    bench.goto(&format!("{page}/rounds/{round}")).await;
    bench.click("//summary[normalize-space(.)='On record as it began']").await;
    bench.see("Router 2.4.1").await;
    bench.see("5 GHz as ax").await;
    bench.close().await;
}

#[tokio::test]
async fn phones_that_began_together_are_shown_with_their_shares() {
    let bench = Bench::demo(DESK).await;
    let round = begin_round_for(&bench, "family_rush", "local", 1, &["Study", "Hall"]).await;
    let view = bench.ask(&format!("/api/rounds/{round}")).await;
    bench.goto(&format!("/homes/{}/rounds/{round}", view["home_id"].as_str().unwrap())).await;
    bench.see("press “Begin with the others” on each within ten seconds").await;
    let token = pair(&bench, &round).await.split_once('#').unwrap().1.to_owned();
    let client = reqwest::Client::builder().no_proxy().build().unwrap();
    let together = "6a1f0c52-7d0e-4d0f-9a43-0c5b1d3c6e11";
    for (spot, down) in [(0, 60.0), (1, 20.0)] {
        let run = json!({
            "id": uuid::Uuid::new_v4(), "spot_id": view["spots"][spot]["spot_id"], "at": jiff::Timestamp::now().to_string(),
            "result": { "kind": "tested", "test": uuid::Uuid::new_v4(), "raw": test_of(down, 10.0) },
            "details": { "together": together }
        });
        let sent = client.post(format!("{}/api/phone/runs", bench.address)).header("busy-hen-phone", &token).json(&run);
        sent.send().await.unwrap().error_for_status().unwrap();
    }
    // It fills in live.
    bench.see("2 phones, 80 / 20 Mb/s together").await;
    bench.see("Shared 80 % evenly").await;
    bench.see("75 %").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.close().await;
}
