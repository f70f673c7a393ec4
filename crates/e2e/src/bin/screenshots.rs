//! Takes the screenshots of the docs from the demo data: `cargo xtask screenshots`.

use std::path::Path;

use busy_hen_e2e::phones::{begin_round, behind, far_end, line, pair, see_in_time};
use busy_hen_e2e::{Bench, DESK, PHONE};

#[tokio::main]
async fn main() {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../docs/screenshots");
    std::fs::create_dir_all(&folder).expect("the folder of the docs");
    let home = "Canal terrace with pottery";

    let bench = Bench::demo(DESK).await;
    bench.see(home).await;
    bench.picture(&folder.join("homes.png")).await;

    bench.open_home(home, "Brief").await;
    bench.see("Everything at once needs").await;
    bench.see_in("aside", "Pottery").await;
    bench.picture(&folder.join("brief.png")).await;

    bench.open_home(home, "House").await;
    bench.click("//aside//button[normalize-space(.)='Kitchen']").await;
    bench.see("Sides of Kitchen").await;
    bench.see_in("aside", "Pottery").await;
    bench.picture(&folder.join("house.png")).await;

    bench.open_home(home, "Setups").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.click("//aside//button[normalize-space(.)='Garden']").await;
    bench.see("limiting link").await;
    bench.see_in("svg[aria-label^='Map']", "Mb/s").await;
    bench.picture(&folder.join("setups.png")).await;
    bench.press("Ground").await;
    bench.click("//*[@data-device='Router']").await;
    bench.see("At the line").await;
    bench.picture(&folder.join("setups-device.png")).await;

    bench.open_home(home, "Rounds").await;
    bench.see("median down").await;
    bench.see_in("aside", "Pottery").await;
    bench.picture(&folder.join("rounds.png")).await;
    bench.press("Pair a phone").await;
    bench.see("It lets this phone test").await;
    bench.picture(&folder.join("pair.png")).await;
    bench.press("Close").await;

    bench.open_home(home, "Compare").await;
    bench.click("//nav[@aria-label='Setups']/button[contains(., 'dual-band pair')]").await;
    bench.see("change of down").await;
    bench.see_in("aside", "B measured").await;
    bench.picture(&folder.join("compare.png")).await;
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
    phone.close().await;
}
