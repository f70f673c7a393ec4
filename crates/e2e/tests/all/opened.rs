//! The opened house: all storeys lit at once, words that never lie over one another, findings that are mended by a press.

use busy_hen_e2e::{Bench, DESK};
use thirtyfour::prelude::*;

const HOME: &str = "Canal terrace with pottery";

/// How many pairs of words, or of words and devices, lie over one another, or reach out of the map.
const CLASHES: &str = "const map = document.querySelector('.map').getBoundingClientRect();
    const of = (css) => [...document.querySelectorAll(css)].map((own) => [own.textContent.trim(), own.getBoundingClientRect()]);
    const words = of('svg[aria-label^=Map] [data-label]');
    const all = [...words, ...of('svg[aria-label^=Map] [data-device]')];
    let clashes = words.length ? 0 : 1;
    const told = [];
    for (const [i, [text, a]] of words.entries()) {
        if (a.left < map.left - 1 || a.right > map.right + 1 || a.top < map.top - 1 || a.bottom > map.bottom + 1) told.push('out: ' + text);
        for (const [other, b] of all.slice(i + 1)) {
            const apart = a.right <= b.left + 2 || b.right <= a.left + 2 || a.bottom <= b.top + 2 || b.bottom <= a.top + 2;
            if (!apart) told.push(text + ' over ' + other);
        }
    }
    return told.join('; ')";

/// A villa of 200 m2 on two levels, a bungalow with much ground, and one room.
const VILLA: &str = "Hall 3 x 6\nLiving room 7 x 6 east of Hall\nDining room 5 x 5 south of Living room\n\
                     Kitchen 5 x 5 west of Dining room\nStudy 4 x 4 west of Hall\nUtility 2 x 2 south of Study\n\
                     Terrace 12 x 4 south of Dining room outdoors\nlevel First, 2.6 high, timber floor\n\
                     Landing 3 x 6 above Hall\nMain bedroom 7 x 6 east of Landing\nBath 3 x 3 south of Landing\n\
                     Guest room 4 x 5 west of Landing\nNursery 4 x 4 south of Main bedroom";
const LOCK_HOUSE: &str = "Hall 2.2 x 3\nParlour 4.6 x 4.4 east of Hall\nBedroom 4.2 x 4.4 west of Hall\n\
                          Scullery 2.2 x 1.4 south of Hall\nLockside 11 x 7 south of Scullery centred outdoors";

async fn asked(bench: &Bench, script: &str) -> String {
    bench.driver.execute(script, vec![]).await.unwrap().convert::<String>().unwrap()
}

/// What has the focus by keys and shows it by an outline, which a drawing's scale makes huge.
const FOCUS_WRONG: &str = "const told = [];
    for (const own of document.querySelectorAll('svg [tabindex=\"0\"]')) {
        own.focus();
        const name = own.getAttribute('aria-label') ?? own.outerHTML.slice(0, 60);
        if (!own.matches(':focus-visible')) told.push('not by keys: ' + name);
        if (getComputedStyle(own).outlineStyle !== 'none') told.push('outline: ' + name);
        own.blur();
    }
    return told.join('; ')";

#[tokio::test]
async fn what_has_the_focus_in_a_drawing_hides_it_behind_no_outline() {
    let bench = Bench::demo(DESK).await;
    for (stop, there) in [("Setups", "svg .room"), ("House", "svg [role=button]"), ("Rounds", "svg .spot")] {
        bench.open_home(HOME, stop).await;
        bench.find(there).await;
        bench.driver.find(By::Css("body")).await.unwrap().send_keys(Key::Tab + "").await.unwrap();
        assert_eq!(asked(&bench, FOCUS_WRONG).await, "", "{stop}");
    }
    bench.close().await;
}

#[tokio::test]
async fn nothing_overlaps_or_is_cut_and_the_map_has_its_share_at_every_size() {
    let bench = Bench::demo(DESK).await;
    for (name, lines) in [("Villa", VILLA), ("Lock house by hand", LOCK_HOUSE), ("Bedsit", "Bedsit 5 x 4")] {
        let new = serde_json::json!({ "name": name, "region": "GB", "units": "m", "lines": lines });
        bench.send("/api/homes", &new).await;
    }
    for (width, height) in [(1280, 800), (1024, 768), (1920, 1080)] {
        bench.driver.set_window_rect(0, 0, width, height).await.unwrap();
        for home in [HOME, "Gasworks flat", "Villa", "Lock house by hand", "Bedsit"] {
            bench.open_home(home, "Setups").await;
            let looked = || async {
                let dock = bench.text(".dock").await?;
                (dock.contains("put aside") || dock.contains("Nothing wrong was found")).then_some(())
            };
            bench.wait("what was found", looked).await;
            bench.find("svg [data-label]").await;
            for dock_up in [true, false] {
                let clashes = asked(&bench, CLASHES).await;
                assert_eq!(clashes, "", "{home} at {width} x {height}");
                let share = "const map = document.querySelector('.map').getBoundingClientRect();
                             return map.width * map.height / innerWidth / innerHeight";
                let share = bench.number(share).await;
                assert!(share >= if dock_up { 1.0 / 3.0 } else { 0.5 }, "{share} of {width} x {height}");
                assert!(!bench.scrolls_sideways().await, "{home} at {width} x {height}");
                bench.key("d").await;
                // The map is drawn anew in its new size.
                bench
                    .wait("the map in its new size", || async {
                        Some(asked(&bench, CLASHES).await).filter(String::is_empty)
                    })
                    .await;
            }
        }
    }
    bench.close().await;
}

#[tokio::test]
async fn a_finding_is_mended_by_one_press_or_in_a_copy_and_undone() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "Setups").await;
    bench.see("Router stands in a metal cabinet.").await;
    let workroom = || async { bench.ledger("Workroom", 1).await.parse::<f64>().ok() };
    let before = bench.wait("a prediction", workroom).await;
    bench.press("try it in a copy").await;
    bench.see_in("nav[aria-label='Setups']", "take it out").await;
    bench.wait("more in the copy", || async { workroom().await.filter(|now| *now > 2.0 * before) }).await;
    bench.key("A").await;
    bench.wait("A as it was", || async { workroom().await.filter(|now| (*now - before).abs() < 0.5) }).await;
    bench.press("take it out").await;
    bench.wait("more in A", || async { workroom().await.filter(|now| *now > 2.0 * before) }).await;
    bench.no_longer(".dock", "stands in a metal cabinet").await;
    bench.undo().await;
    bench.wait("A as it was", || async { workroom().await.filter(|now| (*now - before).abs() < 0.5) }).await;
    bench.close().await;
}

/// From the demo's house without kit to every need met, by hand; what is pressed, dragged or typed is counted.
#[tokio::test]
async fn every_need_is_met_by_hand_in_under_forty_actions() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    let mut actions = 0;
    let mut press = async |words: &str| {
        actions += 1;
        bench.click(words).await;
    };
    press("//button[@id='new-setup']").await;
    bench.fill("What is different in it", "by hand").await;
    press("//label[contains(., 'Begin with the devices')]").await;
    press("//button[normalize-space(.)='Make it']").await;
    let room = |name: &str| format!("//aside//button[normalize-space(.)='{name}']");
    for (kit, name) in [("node_ax_tri", "Front room"), ("node_ax_tri", "Landing"), ("ap_ax", "Pottery")] {
        press(&room(name)).await;
        if bench.driver.find(By::Id("kit")).await.is_ok() {
            press("//button[@id='kit']").await;
        }
        press(&format!("//button[@data-kit='{kit}']")).await;
        bench.see_in("section[aria-label^='Settings']", "Mode").await;
        bench.saved().await;
    }
    let verdicts =
        "return [...document.querySelectorAll('aside tbody td:last-child')].map((own) => own.innerText).join('|')";
    bench
        .wait("every need met", || async {
            let verdicts = asked(&bench, verdicts).await;
            (verdicts.contains("met") && !verdicts.contains("not met")).then_some(())
        })
        .await;
    actions += 1; // the name
    println!("{actions} actions");
    assert!(actions < 40, "{actions} actions");
    bench.close().await;
}

#[tokio::test]
async fn the_keyboard_alone_places_moves_between_storeys_wires_and_removes() {
    let bench = Bench::demo(DESK).await;
    bench.open_home(HOME, "Setups").await;
    // Beside a router of its family a node goes by air; beside another's it would be an access point.
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'dual-band pair')]").await;
    bench.find(".dock ol li").await;
    bench.key("a").await;
    let kit = bench.find("[data-kit=node_ax_dual]").await;
    kit.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Enter + "").perform().await.unwrap();
    bench.see_in("section[aria-label='Settings of Node']", "Backhaul").await;
    bench.key("a").await;
    let node = bench.find("[data-device=Node]").await;
    node.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::PageUp + "").perform().await.unwrap();
    bench
        .wait("the storey above", || async { node.attr("aria-label").await.ok()??.contains("on First").then_some(()) })
        .await;
    bench.saved().await;
    // By cable: the list takes keys as well.
    let by = "//*[contains(@class,'v-select')][.//label[normalize-space(.)='By']]//input[@type='text']";
    let by = bench.driver.find(By::XPath(by)).await.unwrap();
    bench.driver.execute("arguments[0].focus()", vec![by.to_json().unwrap()]).await.unwrap();
    bench.driver.action_chain().send_keys(Key::Enter + "").perform().await.unwrap();
    bench.find(".v-overlay--active .v-list").await;
    bench.driver.action_chain().send_keys("cable").send_keys(Key::Enter + "").perform().await.unwrap();
    bench.saved().await;
    bench.wait("a cable", || async { bench.driver.find(By::Css("svg .hop path.cable")).await.ok().map(|_| ()) }).await;
    let node = bench.find("[data-device=Node]").await;
    node.focus().await.unwrap();
    bench.driver.action_chain().send_keys(Key::Delete + "").perform().await.unwrap();
    bench
        .wait("the node to go", || async {
            bench.driver.find_all(By::Css("[data-device=Node]")).await.ok()?.is_empty().then_some(())
        })
        .await;
    bench.close().await;
}

#[tokio::test]
async fn a_links_figure_on_the_map_is_asked_why_by_mouse_and_by_key() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Canal terrace with pottery", "Setups").await;
    bench.click("//nav[@aria-label='Setups']//button[contains(., 'dual-band pair')]").await;
    let why = "//*[@role='button'][starts-with(@aria-label, 'Why')][contains(@aria-label, 'Landing node')]";
    bench.click(why).await;
    bench.see_in("section[aria-label='Settings of Landing node']", "Backhaul:").await;
    bench.see_in("section[aria-label='Settings of Landing node']", "GHz").await;
    bench.dock("Findings").await;
    bench.find_xpath(why).await.send_keys(Key::Enter + "").await.unwrap();
    bench.see_in("section[aria-label='Settings of Landing node']", "Backhaul:").await;
    assert_eq!(bench.serious_faults().await, Vec::<String>::new());
    bench.close().await;
}
