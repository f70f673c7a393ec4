//! Takes the screenshots of the docs from the demo data: `cargo xtask screenshots`.

use std::path::Path;

use busy_hen_e2e::phones::{begin_round, begin_round_for, behind, far_end, line, pair, see_in_time};
use busy_hen_e2e::{Bench, DESK, PHONE};
use serde_json::{Value, json};

#[tokio::main]
async fn main() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    std::fs::create_dir_all(&folder).expect("the folder of the docs");
    let home = "Canal terrace with pottery";

    let bench = Bench::demo(DESK).await;
    bench.see(home).await;
    bench.picture(&folder.join("homes.png")).await;

    bench.open_home(home, "Brief").await;
    bench.see("Busy evening").await;
    bench.see_in("aside", "Pottery").await;
    bench.picture(&folder.join("brief.png")).await;

    bench.open_home(home, "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Pottery").await;
    bench.click("//*[name()='g'][starts-with(@aria-label,'Kitchen,')]").await;
    bench.see("matters most").await;
    bench.picture(&folder.join("house.png")).await;

    bench.open_home(home, "Setups").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.click("//aside//button[normalize-space(.)='Garden']").await;
    bench.see("limiting link").await;
    bench.see_in("svg[aria-label^='Map']", "Mb/s").await;
    bench.picture(&folder.join("setups.png")).await;
    bench.click("//*[@data-device='Router']").await;
    bench.see("At the line").await;
    bench.picture(&folder.join("setups-device.png")).await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'tri-band')]").await;
    bench.find("[data-device='Pottery point']").await;
    bench.dock("Parts").await;
    bench.see_in("section[aria-label='Parts']", "drip loop").await;
    bench.find(".ways path.under").await;
    bench.picture(&folder.join("setups-parts.png")).await;
    bench.dock("Busy evening").await;
    bench.see_in("section[aria-label='Busy evening']", "of its time").await;
    bench.find("#kit").await.click().await.expect("the kit comes out");
    bench.click("//button[starts-with(@aria-label,'more about tri-band ax node, radio')]").await;
    bench.see_in(".drawer", "In the box").await;
    bench.picture(&folder.join("setups-kit.png")).await;

    bench.open_home(home, "Rounds").await;
    bench.see("median down").await;
    bench.see_in("aside", "Pottery").await;
    bench.picture(&folder.join("rounds.png")).await;
    bench.press("Pair a phone").await;
    bench.press("Only on this computer").await;
    bench.see("It lets this phone test").await;
    bench.picture(&folder.join("pair.png")).await;
    bench.press("Close").await;
    bench.find("#begin-round").await.click().await.expect("the form opens");
    bench.see("12 spots, about").await;
    bench.picture(&folder.join("round-new.png")).await;
    bench.press("Cancel").await;
    let trial = begin_round_for(&bench, "placement_trial", "local", 2, &["Attic bedroom"]).await;
    let places = [("stairs", 310.0, 44.0, "good"), ("landing", 190.0, 71.0, "fair"), ("attic", 38.0, 35.0, "poor")];
    for (name, beside, weak, status) in places {
        marked(&bench, &trial, json!({ "name": name, "beside_node": true }), beside, Some(status)).await;
        marked(&bench, &trial, json!({ "name": name }), weak, None).await;
    }
    let view = bench.ask(&format!("/api/rounds/{trial}")).await;
    bench.goto(&format!("/homes/{}/rounds/{trial}", view["home_id"].as_str().expect("as the rig made it"))).await;
    bench.see("most in the weak room").await;
    bench.see_in("aside", "Pottery").await;
    bench.picture(&folder.join("trial.png")).await;

    bench.open_home(home, "Setups").await;
    bench.dock("Learnt").await;
    bench.see("off in the middle").await;
    bench.press("how well places are known").await;
    bench.see("sure to 2.5 dB").await;
    bench.picture(&folder.join("learnt.png")).await;

    bench.open_home(home, "Compare").await;
    bench.see("What counts how much").await;
    bench.see_in("main table", "beyond the noise").await;
    bench.picture(&folder.join("compare.png")).await;

    bench.open_home(home, "Fit").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'pottery wired')]").await;
    bench.click("//nav[@aria-label='Steps']//button[contains(., 'Lay Cat 6')]").await;
    bench.see("drip loop").await;
    bench.picture(&folder.join("fit.png")).await;
    bench.open_home(home, "Drills").await;
    bench.see_in(".cards", "Pull the cable that feeds Pottery point").await;
    bench.picture(&folder.join("drills.png")).await;
    bench.open_home(home, "Watch").await;
    bench.see("drops at 19 to 21 h").await;
    bench.picture(&folder.join("watch.png")).await;
    bench.close().await;

    let phone = Bench::demo(PHONE).await;
    phone.open_home(home, "Rounds").await;
    phone.see("Type in").await;
    phone.picture(&folder.join("rounds-phone.png")).await;
    phone.close().await;

    // A real test, through stand-in lines.
    let (_far, address) = far_end(line(45.0, 12.0, 9.0, 60.0, false)).await;
    let phone = Bench::demo_with(PHONE, &["--far-end", &address]).await;
    let reached = behind(&phone, line(310.0, 140.0, 2.0, 15.0, true)).await;
    let page = pair(&phone, &begin_round(&phone, "internet", 1).await).await;
    phone.driver.goto("about:blank").await.expect("an empty page");
    phone.driver.goto(format!("{reached}{page}")).await.expect("the phone's page");
    phone.press("Test here").await;
    see_in_time(&phone, "The slow part is").await;
    phone.picture(&folder.join("phone.png")).await;

    let walk = begin_round_for(&phone, "range_walk", "local", 1, &["Garden"]).await;
    for (far, down, returning) in
        [(5, 210.0, false), (15, 96.0, false), (25, 31.0, false), (30, 0.0, false), (20, 40.0, true)]
    {
        let mark = json!({ "distance_m": far, "returning": returning });
        marked(&phone, &walk, mark, down, None).await;
    }
    let page = pair(&phone, &walk).await;
    phone.driver.goto("about:blank").await.expect("an empty page");
    phone.driver.goto(format!("{reached}{page}")).await.expect("the phone's page");
    phone.see("lost at 30 m").await;
    phone.find("[aria-label='5 m farther']").await.click().await.expect("a step");
    phone.picture(&folder.join("phone-range.png")).await;
    phone.close().await;
}

/// Types a made-up run in at a mark; no speed is no connection.
async fn marked(bench: &Bench, round: &str, mark: Value, down: f64, status: Option<&str>) {
    let view = bench.ask(&format!("/api/rounds/{round}")).await;
    let outcome = if down > 0.0 {
        json!({ "kind": "measured", "down_mbps": down, "up_mbps": down / 4.0, "idle_ms": 8.0, "loaded_ms": 31.0 })
    } else {
        json!({ "kind": "no_connection" })
    };
    let run = json!({
        "spot_id": view["spots"][0]["spot_id"], "source": "typed", "carried_by": "home_wifi", "outcome": outcome,
        "mark": mark, "kit_status": status
    });
    bench.send(&format!("/api/rounds/{round}/runs"), &json!({ "runs": [run] })).await;
}
