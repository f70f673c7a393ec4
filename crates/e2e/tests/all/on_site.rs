//! On site without a shell: the bench is opened to the network from its page, the test server is set up in a form, and phones go on.

use std::net::{IpAddr, UdpSocket};

use busy_hen_e2e::alone::alone;
use busy_hen_e2e::phones::{HOME, begin_round, far_end, known, line, pair, runs, see_in_time, wait_runs};
use busy_hen_e2e::{Bench, DESK, PHONE};
use serde_json::json;

/// Whether this machine is in a network; nothing is sent.
fn in_a_network() -> bool {
    let probe = || -> std::io::Result<IpAddr> {
        let socket = UdpSocket::bind("0.0.0.0:0")?;
        socket.connect("192.0.2.200:9")?;
        Ok(socket.local_addr()?.ip())
    };
    probe().is_ok_and(|own| !own.is_loopback() && !own.is_unspecified())
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn from_a_running_bench_to_a_phone_that_tests_takes_six_presses_and_no_shell() {
    if !in_a_network() {
        println!("not decided: this machine is in no network");
        return;
    }
    let _alone = alone().await;
    let bench = Bench::demo(DESK).await;
    known(&bench).await;
    let mut presses = 0;
    for what in [
        format!("//a[contains(., '{HOME}')]"),
        "//a[contains(., 'Rounds')]".into(),
        "//*[@id='begin-round']".into(),
        "//button[normalize-space(.)='Begin']".into(),
        "//button[normalize-space(.)='Pair a phone']".into(),
    ] {
        bench.click(&what).await;
        presses += 1;
    }
    bench.fill("New pass phrase, 8 characters or more", "clay, glaze and kiln").await;
    bench.fill("The same again", "clay, glaze and kiln").await;
    bench.press("Open to the network").await;
    presses += 1;
    bench.see("It lets this phone test and add readings to this round, and nothing else").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    let link = bench.find_xpath("//a[normalize-space(.)='Open the phone’s page here']").await;
    let page = link.attr("href").await.unwrap().unwrap();
    assert!(!page.contains("127.0.0.1") && !page.contains("localhost"), "{page}");
    assert_eq!(presses, 6);

    let round = bench.path().await;
    bench.driver.goto(&page).await.unwrap();
    bench.click("//label[contains(., 'Data to use')]//option[3]").await;
    bench.press("Test here").await;
    see_in_time(&bench, "Mb/s of 1 run").await;

    // The page that pressed is still in; closing says which phones may hold runs, and is asked for twice.
    bench.goto(&round).await;
    bench.press("Network open").await;
    bench.see_in("[aria-label='Open to the network']", "all sent then").await;
    bench.see_in("[aria-label='Open to the network']", HOME).await;
    bench.press("Close network access").await;
    bench.press("Close all the same").await;
    bench.see("No phone can reach this computer yet").await;
    bench.click("//summary[normalize-space(.)='Log']").await;
    bench.see_in("[aria-label='Network']", "opened to the network").await;
    let client = reqwest::Client::builder().no_proxy().build().unwrap();
    assert!(client.get(&page).send().await.is_err(), "nothing answers outside");
    assert_eq!(bench.ask("/api/homes").await.as_array().unwrap().len(), 3, "and nothing is asked here");
    bench.close().await;
}

#[tokio::test(flavor = "multi_thread", worker_threads = 2)]
async fn a_test_server_that_is_set_up_later_is_tested_to_by_a_phone_that_tested_before() {
    let _alone = alone().await;
    let (_far, address) = far_end(line(60.0, 20.0, 5.0, 50.0, true)).await;
    let bench = Bench::demo(PHONE).await;
    let round = begin_round(&bench, "internet", 2).await;
    let page = pair(&bench, &round).await;
    let phone = format!("{}{page}", bench.address);
    let at_phone = async || {
        bench.driver.goto("about:blank").await.unwrap();
        bench.driver.goto(&phone).await.unwrap();
    };
    at_phone().await;
    // Kept for where there is no connection: the page, and what tests, with the policy of today.
    let kept = "return navigator.serviceWorker?.controller && (await caches.match('/phone')) ? 1 : 0";
    bench.wait("the page kept", || async { (bench.number(kept).await > 0.5).then_some(()) }).await;
    bench.click("//label[contains(., 'Data to use')]//option[3]").await;
    bench.press("Test here").await;
    wait_runs(&bench, &round, 1).await;

    bench.goto("/").await;
    bench.press("Network").await;
    bench.fill("Address of the test server, with its token", "http://far.example").await;
    bench.press("Try it").await;
    bench.see_in("[aria-label='Test server'] [role=alert]", "The token is missing").await;
    bench.fill("Address of the test server, with its token", &address.replace('#', "#not")).await;
    bench.press("Try it").await;
    bench.see_in("[aria-label='Test server']", "refuses the token").await;
    bench.fill("Address of the test server, with its token", &address).await;
    bench.press("Use it").await;
    bench.see_in("[aria-label='Test server']", "and sees this home at 127.0.0.1").await;
    bench.press("Done").await;
    bench.open_home(HOME, "Rounds").await;
    bench.find("#begin-round").await.click().await.unwrap();
    bench.see("A phone tests two legs at each press").await;
    bench.press("Cancel").await;

    at_phone().await;
    bench.press("Test here").await;
    see_in_time(&bench, "To the far end: ").await;
    let beyond = async || {
        let own = runs(&bench, &round).await.into_iter().filter(|run| run["under"].is_null()).collect::<Vec<_>>();
        own.into_iter().next()
    };
    let taken = bench.wait("a run beyond the line", || async { beyond().await }).await;
    assert!((15.0..72.0).contains(&taken["outcome"]["down_mbps"].as_f64().unwrap()), "{taken}");
    // What was noted is there after a power cut.
    let mut bench = bench;
    bench.power_cut().await;
    assert_eq!(bench.ask("/api/far-end").await, json!({ "url": address.split('#').next().unwrap() }));
    bench.close().await;
}
