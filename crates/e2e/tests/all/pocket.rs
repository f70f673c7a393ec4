//! What a phone keeps besides its own tests: pictures, and what other tests showed.

use busy_hen_e2e::phones::{begin_round_for, pair, runs, wait_runs};
use busy_hen_e2e::{Bench, PHONE};
use serde_json::{Value, json};

/// A picture of a phone's size, made here.
fn picture(folder: &std::path::Path) -> std::path::PathBuf {
    let file = folder.join("socket.png");
    image::RgbImage::from_fn(2400, 1600, |x, _| image::Rgb([(x / 10) as u8, 90, 60])).save(&file).unwrap();
    file
}

#[tokio::test]
async fn a_picture_that_was_taken_without_a_connection_arrives_once_and_shows_at_the_bench() {
    let folder = tempfile::tempdir().unwrap();
    let bench = Bench::demo(PHONE).await;
    let round = begin_round_for(&bench, "rooms", "local", 2, &["Kitchen", "Study"]).await;
    bench.goto(&pair(&bench, &round).await).await;
    bench.see_in("h1", "Kitchen").await;
    bench.click("//summary[contains(., 'A picture for the record')]").await;
    bench.fill("Words with it", "socket behind the bench").await;
    bench.offline(true).await;
    bench.hand_over(&picture(folder.path())).await;
    bench.see("1 picture kept on this phone, not sent yet").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.offline(false).await;
    bench.no_longer("main", "not sent yet").await;
    bench.goto(&format!("/homes/{}/rounds/{round}", home_of(&bench, &round).await)).await;
    bench.see_in("section[aria-label='Pictures']", "socket behind the bench").await;
    let seen = "return document.querySelector('section[aria-label=Pictures] img')?.naturalWidth ?? 0";
    bench.wait("the picture", || async { (bench.number(seen).await > 1000.0).then_some(()) }).await;
    let home = home_of(&bench, &round).await;
    let list = bench.ask(&format!("/api/homes/{home}/pictures")).await;
    assert_eq!(list.as_array().unwrap().len(), 1, "{list}");
    bench.click("//section[@aria-label='Pictures']//button[img]").await;
    bench.press("Throw away…").await;
    bench.see("it can’t be brought back").await;
    bench.press("Throw it away").await;
    bench.wait("no picture", || async { (bench.number(seen).await < 1.0).then_some(()) }).await;
    bench.close().await;
}

async fn home_of(bench: &Bench, round: &str) -> String {
    bench.ask(&format!("/api/rounds/{round}")).await["home_id"].as_str().unwrap().to_owned()
}

#[tokio::test]
async fn what_another_test_showed_is_typed_by_a_tap_and_asked_about_when_it_can_not_be() {
    let bench = Bench::demo(PHONE).await;
    let round = begin_round_for(&bench, "rooms", "local", 2, &["Kitchen", "Study"]).await;
    bench.goto(&pair(&bench, &round).await).await;
    bench.see_in("h1", "Kitchen").await;
    bench.click("//button[small='tested by']").await;
    bench.fill("Down, Mb/s", "9000").await;
    bench.fill("Up, Mb/s", "20,5").await;
    bench.driver.refresh().await.unwrap();
    bench.see_in("h1", "Kitchen").await;
    let typed = bench.find_xpath("//label[contains(., 'Up, Mb/s')]//input").await;
    assert_eq!(typed.value().await.unwrap().as_deref(), Some("20,5"), "a reload in the middle of typing loses nothing");
    bench.press("Keep what it showed").await;
    bench.see_in("[role=alert]", "“20,5” can be 20.5 or 205: which is meant?").await;
    bench.press("20.5").await;
    bench.press("Keep what it showed").await;
    bench.see_in("[role=alert]", "is more than the plan on record gives").await;
    assert_eq!(runs(&bench, &round).await, Vec::<Value>::new());
    bench.driver.refresh().await.unwrap();
    bench.see_in("[role=alert]", "is more than the plan on record gives").await;
    bench.press("Throw it away").await;
    bench.fill("Down, Mb/s", "88").await;
    bench.fill("Up, Mb/s", "20").await;
    bench.press("Keep what it showed").await;
    let kept = wait_runs(&bench, &round, 1).await;
    assert_eq!((&kept[0]["source"], &kept[0]["under"]["tool"]), (&json!("typed"), &json!("the TV’s own test")));
    bench.see("the TV’s own test: 88 / 20 Mb/s").await;
    bench.close().await;
}

/// Before the page's own scripts run: what is sent is answered by another server as often as the page has such answers left, and for ever where the run
/// is the one that nothing takes.
const ANOTHER_SERVER: &str = r#"
    window.others = [];
    window.stuck = undefined;
    window.stuckFirst = false;
    const real = window.fetch;
    window.fetch = (to, init) => {
        const run = String(to).includes('/api/phone/runs') ? JSON.parse(init.body) : undefined;
        if (run && window.stuckFirst && !window.stuck) window.stuck = run.id;
        const stuck = run && run.id === window.stuck;
        const answer = stuck ? [409, 'application/problem+json', '{"code":"conflict","detail":"Not now."}'] : run ? window.others.shift() : undefined;
        if (!answer) return real(to, init);
        const [status, kind, body] = answer;
        return Promise.resolve(new Response(body, { status, headers: { 'Content-Type': kind } }));
    };
"#;

#[tokio::test]
async fn a_run_leaves_the_phone_only_when_the_bench_itself_has_taken_it_and_one_that_stays_holds_up_no_other() {
    let bench = Bench::demo(PHONE).await;
    let round = begin_round_for(&bench, "rooms", "local", 2, &["Kitchen", "Study"]).await;
    bench.goto(&pair(&bench, &round).await).await;
    bench.see_in("h1", "Kitchen").await;
    bench.driver.execute(ANOTHER_SERVER, vec![]).await.unwrap();
    let script = r#"window.others = [[404, 'text/html', '<h1>Not found</h1>'], [401, 'application/json', '{"code":"faults"}'], [200, 'application/json', '{}'], [200, 'text/html', 'log in first']]"#;
    bench.driver.execute(script, vec![]).await.unwrap();
    bench.press("No connection here").await;
    bench.see("Something else than the bench answers at this address").await;
    bench.see("1 run kept on this phone, not sent yet").await;
    // Four answers of another server later it is still there, and then the bench has it.
    let kept = wait_runs(&bench, &round, 1).await;
    assert!(bench.number("return window.others.length").await < 1.0);
    assert_eq!(kept[0]["outcome"]["kind"], "no_connection");
    bench.no_longer("main", "not sent yet").await;

    bench.driver.execute("window.stuckFirst = true", vec![]).await.unwrap();
    bench.press("No connection here").await;
    bench.see("Not now. It stays on this phone.").await;
    bench.press("No connection here").await;
    assert_eq!(wait_runs(&bench, &round, 2).await.len(), 2, "the next one goes past it");
    bench.see("1 run kept on this phone, not sent yet").await;
    // Only a person throws it away, and is asked.
    bench.press("Throw it away…").await;
    bench.press("Keep").await;
    bench.see("1 run kept on this phone, not sent yet").await;
    bench.press("Throw it away…").await;
    bench.press("Throw away 1 run").await;
    bench.no_longer("main", "not sent yet").await;
    assert_eq!(runs(&bench, &round).await.len(), 2);
    bench.close().await;
}

#[tokio::test]
async fn a_phone_whose_clock_is_thirteen_hours_ahead_is_taken_at_the_benchs_time_and_a_withdrawn_code_ends() {
    let bench = Bench::demo(PHONE).await;
    let round = begin_round_for(&bench, "rooms", "local", 2, &["Kitchen", "Study"]).await;
    bench.goto(&pair(&bench, &round).await).await;
    bench.see_in("h1", "Kitchen").await;
    let ahead = "const own = Date; const by = 13 * 3600e3;
                 window.Date = class extends own { constructor(...all) { if (all.length) super(...all); else super(own.now() + by); }
                                                   static now() { return own.now() + by; } }";
    bench.driver.execute(ahead, vec![]).await.unwrap();
    bench.press("No connection here").await;
    let kept = wait_runs(&bench, &round, 1).await;
    let at: jiff::Timestamp = kept[0]["at"].as_str().unwrap().parse().unwrap();
    assert!(jiff::Timestamp::now().duration_since(at).as_secs().abs() < 60, "{at}");
    bench.no_longer("main", "not sent yet").await;

    let codes = bench.ask(&format!("/api/rounds/{round}/phones")).await;
    let code = format!("/api/rounds/{round}/phones/{}", codes[0]["id"].as_str().unwrap());
    let done = "const [path, done] = arguments; fetch(path, { method: 'DELETE' }).then((own) => done(own.status))";
    let status = bench.driver.execute_async(done, vec![json!(code)]).await.unwrap();
    assert_eq!(status.json().as_u64(), Some(204));
    bench.driver.refresh().await.unwrap();
    bench.see("has ended; scan a new one at the bench").await;
    let button = bench.find_xpath("//button[contains(., 'Test here') or contains(., 'Test on here')]").await;
    assert!(!button.is_enabled().await.unwrap(), "nothing new begins by it");
    let button = bench.find_xpath("//button[contains(., 'No connection here')]").await;
    assert!(!button.is_enabled().await.unwrap(), "nor is anything kept that would never be taken");
    bench.close().await;
}
