//! One of each kind of thing is pressed by mouse, by a finger and by keys, at the three sizes: nothing comes to lie over what is acted on, and
//! what ends a form is in reach.

use busy_hen_e2e::phones::HOME;
use busy_hen_e2e::{Bench, DESK, PHONE};
use serde_json::json;
use thirtyfour::Key;

/// A tablet lying down, the narrowest bench.
const TABLET: (u32, u32) = (1024, 768);

/// How something is pressed.
#[derive(Debug, Clone, Copy)]
enum By {
    Mouse,
    Finger,
    Keys,
}

/// Finds an element by a style selector, shows it, and says where its middle is, and what lies over it there: nothing, or the other's beginning.
const LOOK: &str = "
    const own = [...document.querySelectorAll(arguments[0])].find((one) => one.getClientRects().length);
    if (!own) return null;
    own.scrollIntoView({ block: 'center', inline: 'center' });
    const box = own.getBoundingClientRect();
    const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
    const top = document.elementFromPoint(x, y);
    const clear = top && (own.contains(top) || top.contains(own));
    return { x, y, over: clear ? null : (top?.outerHTML ?? 'nothing is there').slice(0, 160) };";

/// What is seen of an element.
async fn look(bench: &Bench, css: &str) -> (f64, f64) {
    let seen = bench
        .wait(css, || async {
            let found = bench.driver.execute(LOOK, vec![json!(css)]).await.unwrap();
            Some(found.json().clone()).filter(|own| !own.is_null())
        })
        .await;
    assert!(seen["over"].is_null(), "{css} is covered by {}", seen["over"]);
    (seen["x"].as_f64().unwrap(), seen["y"].as_f64().unwrap())
}

async fn press(bench: &Bench, css: &str, by: By) {
    pressed_that_opens(bench, css, by, false).await;
}

async fn pressed_that_opens(bench: &Bench, css: &str, by: By, opens: bool) {
    let (x, y) = look(bench, css).await;
    let devtools = bench.driver.cdp();
    match by {
        By::Mouse => {
            bench.driver.action_chain().move_to(x as i64, y as i64).click().perform().await.unwrap();
        }
        By::Finger => {
            let touch = json!({ "type": "touchStart", "touchPoints": [{ "x": x, "y": y }] });
            devtools.send_raw("Input.dispatchTouchEvent", touch).await.unwrap();
            let lift = json!({ "type": "touchEnd", "touchPoints": [] });
            devtools.send_raw("Input.dispatchTouchEvent", lift).await.unwrap();
        }
        By::Keys => {
            let focus =
                "[...document.querySelectorAll(arguments[0])].find((own) => own.getClientRects().length).focus()";
            bench.driver.execute(focus, vec![json!(css)]).await.unwrap();
            bench.driver.active_element().await.unwrap().send_keys(Key::Enter + "").await.unwrap();
        }
    }
    // What it opens is shut again by one key.
    if opens {
        bench.find(".v-overlay--active .v-card").await;
        bench.key(Key::Escape + "").await;
        bench
            .wait("it shut", || async { bench.text(".v-overlay--active .v-card").await.is_none().then_some(()) })
            .await;
    }
    // It stays in sight, with no ring around it that hides others.
    look(bench, css).await;
    let outlines = "return [...document.querySelectorAll('svg *')].filter((own) => {
        const style = getComputedStyle(own);
        return style.outlineStyle !== 'none' && parseFloat(style.outlineWidth) > 4;
    }).length";
    assert!(bench.number(outlines).await < 0.5, "{css}: a ring covers a drawing");
}

async fn at(size: (u32, u32)) -> Bench {
    let bench = Bench::demo(size).await;
    let touch = json!({ "enabled": true, "maxTouchPoints": 1 });
    bench.driver.cdp().send_raw("Emulation.setTouchEmulationEnabled", touch).await.unwrap();
    bench
}

/// Presses things of each kind in the views of a home.
async fn pressed(size: (u32, u32), ways: &[By]) {
    let bench = at(size).await;
    for by in ways.iter().copied() {
        println!("{size:?} {by:?}");
        bench.goto("/").await;
        bench.open_home(HOME, "Setups").await;
        bench.find("[data-device='Router']").await;
        // A room of the map, a device, a row of the ledger, a tab; after each the map is there with what stands in it.
        for thing in [
            "[role='button'][aria-label^='Kitchen']",
            "[data-device='Router']",
            "[aria-label='The dock'] [role='tab']:nth-of-type(2)",
            "[aria-label='The dock'] [role='tab']:nth-of-type(1)",
        ] {
            press(&bench, thing, by).await;
            look(&bench, "[data-device='Router']").await;
            look(&bench, "[role='button'][aria-label^='Front room']").await;
        }
        press(&bench, "aside[aria-label='Room ledger'] tbody button", by).await;
        bench.open_stop("Rounds").await;
        bench.see_in("table.sheet tbody", "Kitchen").await;
        pressed_that_opens(&bench, "svg .spot[role='button']", by, true).await;
        look(&bench, "svg .spot[role='button']").await;
        bench.open_stop("House").await;
        press(&bench, "[aria-label='The level as drawn'] [role='button']", by).await;
        bench.open_stop("Compare").await;
        press(
            &bench,
            "[aria-label='Rooms, setup by setup'] tbody th button, [aria-label='Rooms, setup by setup'] tbody td",
            by,
        )
        .await;
    }
    bench.close().await;
}

#[tokio::test]
async fn a_press_covers_nothing_on_a_laptop() {
    pressed(DESK, &[By::Mouse, By::Keys]).await;
}

#[tokio::test]
async fn a_press_covers_nothing_on_a_tablet() {
    pressed(TABLET, &[By::Finger, By::Mouse]).await;
}

#[tokio::test]
async fn a_press_covers_nothing_on_a_phone() {
    pressed(PHONE, &[By::Finger]).await;
}

#[tokio::test]
async fn what_ends_a_form_is_in_reach() {
    for size in [DESK, TABLET, PHONE] {
        let bench = at(size).await;
        println!("{size:?}");
        bench.press("New home").await;
        look(&bench, "[aria-label='New home'] button[type='submit']").await;
        bench.press("Cancel").await;
        bench.press("Network").await;
        for own in
            ["[aria-label='Network'] form button[type='submit']", "[aria-label='Network'] .row:last-child button"]
        {
            look(&bench, own).await;
        }
        bench.press("Done").await;
        bench.click("//button[@aria-label='Delete Lock house']").await;
        look(&bench, "[aria-label='Delete the home'] .buttons button:last-child").await;
        bench.press("Keep it").await;

        bench.open_home(HOME, "Rounds").await;
        bench.find("#begin-round").await.click().await.unwrap();
        bench.see("to walk with the stairs").await;
        look(&bench, ".v-dialog form button[type='submit']").await;
        for field in [".v-dialog form input", ".v-dialog form svg .spot"] {
            look(&bench, field).await;
        }
        bench.press("Cancel").await;
        bench.press("Pair a phone").await;
        look(&bench, "[aria-label='Pair a phone'] form button[type='submit']").await;
        look(&bench, "[aria-label='Pair a phone'] .buttons:last-child button").await;
        bench.press("Close").await;
        bench.press("Paste a table…").await;
        look(&bench, ".v-dialog textarea").await;
        look(&bench, ".v-dialog .end button:last-child").await;
        bench.press("Close").await;

        bench.open_stop("Compare").await;
        bench.find("[aria-label='Which to keep']").await;
        look(&bench, "[aria-label='Which to keep'] label:last-of-type input[type='range']").await;
        bench.press("Decide, also otherwise …").await;
        look(&bench, "[aria-label='Which to keep'] form button[type='submit']").await;
        bench.close().await;
    }
}
