//! A house typed by somebody who has never seen it: how many actions that takes, and what is drawn and dragged becomes lines.

use std::cell::Cell;

use busy_hen_e2e::{Bench, DESK, PHONE};
use serde_json::Value;
use thirtyfour::prelude::*;

/// The lines of a two-storey home in feet, as paced: an L-shaped kitchen-diner, a bay, a garage down the garden.
const GROUND: [&str; 9] = [
    "Hall 6'6 x 14'; door north",
    "Living room 12' x 14' + bay 6' x 2' north centred east of Hall; door to Hall; window west",
    "- chimney 4' x 1'4 east",
    "Kitchen-diner 18'6 x 10' + 8' x 9' south flush east south of Hall; door to Hall; window south",
    "Garden 18'6 x 40' south of Kitchen-diner outdoors",
    "- hedge south 6' high",
    "Garage 10' x 18' 30' east of Living room; door west",
    "Hall: stairs 3' x 8' south west; power socket west at 2' circuit downstairs",
    "Living room: line entry north at 1'",
];
const FIRST: [&str; 5] = [
    "Landing 6'6 x 14' above Hall",
    "Front bedroom 12' x 14' east of Landing; door to Landing",
    "Back bedroom 11'6 x 10' south of Front bedroom flush east; door to Front bedroom",
    "Bathroom 7' x 10' west of Back bedroom; door to Landing",
    "- window south",
];

/// Actions of a person, counted: a press, a choice from a list, a line typed.
struct Person<'a> {
    bench: &'a Bench,
    actions: Cell<u32>,
}

impl Person<'_> {
    fn did(&self, actions: u32) {
        self.actions.set(self.actions.get() + actions);
    }

    async fn press(&self, name: &str) {
        self.bench.press(name).await;
        self.did(1);
    }

    async fn choose(&self, list: &str, what: &str) {
        self.bench.choose(list, what).await;
        self.did(2);
    }

    async fn fill(&self, field: &str, text: &str) {
        self.bench.fill(field, text).await;
        self.did(1);
    }

    async fn stop(&self, name: &str) {
        self.bench.click(&format!("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='{name}']]")).await;
        self.did(1);
    }

    async fn type_lines(&self, lines: &[&str]) {
        let editor = self.bench.find("#house-lines").await;
        for line in lines {
            editor.send_keys(*line).await.unwrap();
            editor.send_keys(Key::Enter + "").await.unwrap();
            self.did(1);
        }
    }
}

async fn home_of(bench: &Bench) -> Value {
    let path = bench.path().await.replace("/homes/", "/api/homes/").replace("/house", "");
    bench.ask(&path).await
}

/// The typed lines as they stand in the editor.
async fn typed_lines(bench: &Bench) -> Vec<String> {
    let script =
        "return [...document.querySelectorAll('#house-lines .cm-line')].map((own) => own.textContent).join('\\n')";
    let text: String = bench.driver.execute(script, vec![]).await.unwrap().convert().unwrap();
    text.split('\n').map(str::to_owned).collect()
}

#[tokio::test]
async fn enter_begins_a_line_while_words_are_offered_and_takes_one_only_when_an_arrow_chose_it() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Gasworks flat", "House").await;
    let editor = bench.find("#house-lines").await;
    let offered = || async { bench.driver.find(By::Css(".cm-tooltip-autocomplete li")).await.ok().map(|_| ()) };
    editor.send_keys(Key::Control + Key::End).await.unwrap();
    let before = typed_lines(&bench).await.len();
    editor.send_keys(Key::Enter + "").await.unwrap();
    editor.send_keys("Shed 2 x 2 ea").await.unwrap();
    bench.wait("words", offered).await;
    editor.send_keys(Key::Enter + "").await.unwrap();
    let now = typed_lines(&bench).await;
    assert_eq!((now.len(), now[before].as_str()), (before + 2, "Shed 2 x 2 ea"), "a new line, and nothing was put in");
    editor.send_keys("Loft 2 x 2 ea").await.unwrap();
    bench.wait("words", offered).await;
    let taken = || async { typed_lines(&bench).await.last()?.starts_with("Loft 2 x 2 east").then_some(()) };
    let choose = || async {
        editor.send_keys(Key::Down + "").await.ok()?;
        editor.send_keys(Key::Enter + "").await.ok()?;
        taken().await
    };
    bench.wait("the chosen word", choose).await;
    editor.send_keys(Key::Enter + "Yard 2 x 2 ea").await.unwrap();
    bench.wait("words", offered).await;
    editor.send_keys(Key::Escape + "").await.unwrap();
    editor.send_keys(Key::Tab + "").await.unwrap();
    let left = "return document.activeElement.id !== 'house-lines'";
    assert!(bench.driver.execute(left, vec![]).await.unwrap().convert::<bool>().unwrap(), "Escape, then Tab, leaves");
    bench.close().await;
}

#[tokio::test]
async fn a_two_storey_home_in_feet_takes_fewer_than_45_actions() {
    let bench = Bench::empty(DESK).await;
    let person = Person { bench: &bench, actions: Cell::new(0) };
    person.press("New home").await;
    person.fill("Name of the job", "Mill bank").await;
    person.choose("Lengths in", "feet").await;
    person.press("Make it").await;
    bench.see("No one’s needs are noted yet").await;
    person.stop("House").await;
    person.press("Begin with an empty level").await;
    person.type_lines(&GROUND).await;
    bench.see_in("svg[aria-label='The level as drawn']", "Garage").await;
    person.press("+ level").await;
    // Until the new level is open, the lines are those of the one before.
    bench.see("First: ").await;
    person.type_lines(&FIRST).await;
    bench.see_in("svg[aria-label='The level as drawn']", "Bathroom").await;
    person.press("Made of").await;
    person.choose("By the look and age of the house", "brick with a cavity, 1930 to 1970").await;
    bench.saved().await;
    let actions = person.actions.get();
    println!("{actions} actions");
    assert!(actions < 45, "{actions} actions");

    let view = home_of(&bench).await;
    assert_eq!(view["drawing"]["faults"].as_array().unwrap().len(), 0, "{}", view["drawing"]["faults"]);
    let lacks: Vec<&str> =
        view["drawing"]["lacks"].as_array().unwrap().iter().map(|lack| lack["told"].as_str().unwrap()).collect();
    assert_eq!(lacks, [""; 0], "nothing is left to say");
    let room = |name: &str| {
        let rooms = view["drawing"]["rooms"].as_array().unwrap();
        rooms.iter().find(|room| room["name"] == name).unwrap_or_else(|| panic!("{name}")).clone()
    };
    let feet = |value: &Value| (value.as_f64().unwrap() / 0.3048 * 12.0).round() / 12.0;
    assert_eq!(room("Kitchen-diner")["parts"].as_array().unwrap().len(), 2, "one room of two parts");
    assert!((feet(&room("Kitchen-diner")["area_m2"]) * 0.3048 - (185.0 + 72.0) * 0.3048 * 0.3048).abs() < 0.02);
    assert!((feet(&room("Garage")["x_m"]) - 48.5).abs() < 0.01, "thirty feet east of the living room");
    assert_eq!(view["home"]["house"]["outer_wall"], "cavity");
    bench.close().await;
}

/// The text of the lines on the bench.
async fn lines(bench: &Bench) -> String {
    bench.find("#house-lines").await.text().await.unwrap()
}

/// What can be taken hold of; a side is a line, which has no width that a browser would call visible.
async fn grip(bench: &Bench, css: &str) -> WebElement {
    bench.wait(css, || async { bench.driver.find(By::Css(css)).await.ok() }).await
}

/// Drags from the middle of an element by so many pixels.
async fn drag(bench: &Bench, css: &str, (x, y): (i64, i64)) {
    let element = grip(bench, css).await;
    let chain = bench.driver.action_chain();
    chain
        .move_to_element_center(&element)
        .click_and_hold()
        .move_by_offset(x / 2, y / 2)
        .move_by_offset(x - x / 2, y - y / 2)
        .release()
        .perform()
        .await
        .unwrap();
}

#[tokio::test]
async fn what_is_dragged_and_drawn_stands_in_the_lines_and_is_taken_back_step_by_step() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Lock house", "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Parlour").await;
    let typed = lines(&bench).await;
    drag(&bench, "[aria-label^='Scullery,']", (0, 40)).await;
    bench.wait("the room to move", || async { (lines(&bench).await != typed).then_some(()) }).await;
    let moved = lines(&bench).await;
    assert!(moved.contains("Scullery 2.2 x 1.4") && moved.contains("south of Hall"), "{moved}");

    // A side of the chosen room, by mouse and by key.
    bench.click("//*[name()='g'][starts-with(@aria-label,'Parlour,')]").await;
    drag(&bench, "[aria-label='east side of Parlour']", (30, 0)).await;
    bench
        .wait("the wall to move", || async { (!lines(&bench).await.contains("Parlour 4.6 x 4.4")).then_some(()) })
        .await;
    let side = grip(&bench, "[aria-label='east side of Parlour']").await;
    let wider = lines(&bench).await;
    bench.driver.execute("arguments[0].focus()", vec![side.to_json().unwrap()]).await.unwrap();
    bench.driver.action_chain().send_keys(Key::Left + "").perform().await.unwrap();
    bench.wait("the wall to move back", || async { (lines(&bench).await != wider).then_some(()) }).await;

    // Undo goes back through them one by one, and only then to the home's own steps.
    for expected in [&wider, &moved, &typed] {
        bench.driver.action_chain().key_down(Key::Control).send_keys("z").key_up(Key::Control).perform().await.unwrap();
        bench
            .wait("one step back", || async {
                (lines(&bench).await == *expected || lines(&bench).await == typed).then_some(())
            })
            .await;
    }
    bench.wait("all of it taken back", || async { (lines(&bench).await == typed).then_some(()) }).await;
    bench.saved().await;
    bench.driver.action_chain().key_down(Key::Control).send_keys("z").key_up(Key::Control).perform().await.unwrap();
    bench.see("Nothing is left to take back").await;

    // A room drawn becomes a line; its size is typed in its place.
    bench.press("Draw a room").await;
    let paper = bench.find("svg[aria-label='The level as drawn']").await;
    let chain = bench.driver.action_chain();
    chain
        .move_to_element_with_offset(&paper, -300, -150)
        .click_and_hold()
        .move_by_offset(60, 50)
        .release()
        .perform()
        .await
        .unwrap();
    bench.wait("a line for it", || async { lines(&bench).await.contains("\nRoom ").then_some(()) }).await;
    bench.press("Choose, drag").await;
    let room = grip(&bench, "[aria-label^='Room,']").await;
    bench.driver.execute("arguments[0].focus()", vec![room.to_json().unwrap()]).await.unwrap();
    bench.driver.action_chain().send_keys(Key::Enter + "").perform().await.unwrap();
    let field = bench.find("figure form input").await;
    field.send_keys(Key::Control + "a").await.unwrap();
    field.send_keys("2.5 x wide").await.unwrap();
    field.send_keys(Key::Enter + "").await.unwrap();
    bench.see_in("figure", "No size here").await;
    field.send_keys(Key::Control + "a").await.unwrap();
    field.send_keys("250 cm x 2 m").await.unwrap();
    field.send_keys(Key::Enter + "").await.unwrap();
    bench
        .wait("the size in its line", || async { lines(&bench).await.contains("Room 250 cm x 2 m").then_some(()) })
        .await;
    bench.close().await;
}

#[tokio::test]
async fn a_page_loaded_anew_in_mid_typing_goes_on_and_saves() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Lock house", "House").await;
    let editor = bench.find("#house-lines").await;
    editor.send_keys(Key::Control + Key::End).await.unwrap();
    editor.send_keys("\nShed 2 x 2 east of Par").await.unwrap();
    bench.driver.refresh().await.unwrap();
    bench.see_in("#house-lines", "Shed 2 x 2 east of Par").await;
    bench.saved().await;
    let kept =
        async || home_of(&bench).await["home"]["house"]["levels"][0]["lines"].as_str()?.contains("Shed").then_some(());
    bench.wait("the server to have it", kept).await;
    bench.find("#house-lines").await.send_keys(Key::Control + Key::End).await.unwrap();
    bench.find("#house-lines").await.send_keys("lour").await.unwrap();
    bench.see_in("svg[aria-label='The level as drawn']", "Shed").await;
    bench.saved().await;
    bench.close().await;
}

#[tokio::test]
async fn two_hundred_steps_are_taken_back_one_by_one() {
    let bench = Bench::demo(DESK).await;
    bench.open_home("Lock house", "House").await;
    bench.see_in("svg[aria-label='The level as drawn']", "Parlour").await;
    let typed = lines(&bench).await;
    let room = grip(&bench, "[aria-label^='Lockside,']").await;
    bench.driver.execute("arguments[0].focus()", vec![room.to_json().unwrap()]).await.unwrap();
    let down = (Key::Down + "").to_string();
    // Steps of five centimetres, as many at a time as a slow machine rewrites while a test waits.
    for reached in ["2.5", "5", "7.5", "10"] {
        bench.driver.action_chain().send_keys(down.repeat(50)).perform().await.unwrap();
        let there = format!("11 x 7 {reached} south of");
        bench.wait(&there, || async { lines(&bench).await.contains(&there).then_some(()) }).await;
    }
    let undo = || bench.driver.action_chain().key_down(Key::Control).send_keys("z".repeat(199)).key_up(Key::Control);
    undo().perform().await.unwrap();
    bench
        .wait("all but one taken back", || async { lines(&bench).await.contains("11 x 7 0.05 south").then_some(()) })
        .await;
    bench.driver.action_chain().key_down(Key::Control).send_keys("z").key_up(Key::Control).perform().await.unwrap();
    bench.wait("the first too", || async { (lines(&bench).await == typed).then_some(()) }).await;
    bench.close().await;
}

#[tokio::test]
async fn a_house_is_paced_on_a_phone_without_a_keyboard() {
    let bench = Bench::demo(PHONE).await;
    bench.open_home("Lock house", "House").await;
    bench.press("+ level").await;
    let keys = async |words: &[&str]| {
        for word in words {
            let names = format!("(//div[contains(@class,'pocket')]//button[normalize-space(.)=\"{word}\"])[last()]");
            bench.click(&names).await;
        }
    };
    let line = bench.find("input.line").await;
    line.send_keys("Loft ").await.unwrap();
    keys(&["4", ".", "5", "x", "3", "above", "Hall", "Next room"]).await;
    bench.find("input.line").await.send_keys("Store ").await.unwrap();
    keys(&["2", "x", "2", "east of", "Loft"]).await;
    bench.see_in("svg[aria-label='The level as drawn']", "Store").await;
    bench.saved().await;
    let view = home_of(&bench).await;
    assert_eq!(
        view["home"]["house"]["levels"][1]["lines"].as_str().unwrap().trim(),
        "Loft 4.5x3 above Hall \nStore 2x2 east of Loft"
    );
    bench.close().await;
}
