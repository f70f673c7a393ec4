//! A person at the bench: one server, one browser, one window.

use std::future::Future;
use std::path::Path;
use std::process::Command;
use std::time::{Duration, Instant};

use serde_json::{Value, json};
use thirtyfour::prelude::*;
use thirtyfour::{ChromeCapabilities, ChromiumLikeCapabilities, TypingData};

use crate::alone::{Beside, beside};
use crate::process::{Process, chromedriver, program};

/// Size of a laptop's window, pixels.
pub const DESK: (u32, u32) = (1280, 800);
/// Size of a phone's window, pixels.
pub const PHONE: (u32, u32) = (390, 844);

/// Longest that the page may take to show what is expected.
const PATIENCE: Duration = Duration::from_secs(40);
/// Pause between two looks at the page.
const GLANCE: Duration = Duration::from_millis(40);

/// A server, a browser, and the window a person looks at.
pub struct Bench {
    // Ends first: a test that failed would wait for minutes until the window is given up.
    _chromedriver: Process,
    /// The window.
    pub driver: WebDriver,
    /// Address of the server.
    pub address: String,
    server: Process,
    folder: tempfile::TempDir,
    _beside: Beside,
}

impl Bench {
    /// A bench with an empty database.
    pub async fn empty(size: (u32, u32)) -> Self {
        Self::start(size, &[], &[]).await
    }

    /// A bench with the demo homes.
    pub async fn demo(size: (u32, u32)) -> Self {
        Self::demo_with(size, &[]).await
    }

    /// A bench with the demo homes, and with these words to the program.
    pub async fn demo_with(size: (u32, u32), more: &[&str]) -> Self {
        Self::demo_in(size, more, &[]).await
    }

    /// The same in a browser that was started with these flags too.
    pub async fn demo_in(size: (u32, u32), more: &[&str], flags: &[&str]) -> Self {
        Self::start(size, &[&["--demo"], more].concat(), flags).await
    }

    async fn start((width, height): (u32, u32), words: &[&str], flags: &[&str]) -> Self {
        let beside = beside().await;
        let folder = tempfile::tempdir().expect("a folder for the test");
        let (server, address) = serve(&folder.path().join("bench.db"), words);
        let (chromedriver, port) = chromedriver();
        let mut capabilities = ChromeCapabilities::new();
        let profile = format!("--user-data-dir={}", folder.path().join("profile").display());
        let window = format!("--window-size={width},{height}");
        for flag in [
            "--headless=new",
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync",
            "--hide-scrollbars",
            "--force-device-scale-factor=1",
            "--force-prefers-reduced-motion",
            profile.as_str(),
            window.as_str(),
        ]
        .iter()
        .chain(flags)
        {
            capabilities.add_arg(flag).expect("flags are text");
        }
        let driver = WebDriver::new(format!("http://127.0.0.1:{port}"), capabilities).await.expect("a browser");
        driver
            .cdp()
            .send_raw(
                "Emulation.setDeviceMetricsOverride",
                json!({ "width": width, "height": height, "deviceScaleFactor": 1, "mobile": width < 500 }),
            )
            .await
            .expect("a window of this size");
        let bench = Self { driver, address, server, _chromedriver: chromedriver, folder, _beside: beside };
        bench.goto("/").await;
        bench
    }

    /// Opens an address of the server.
    pub async fn goto(&self, path: &str) {
        self.driver.goto(format!("{}{path}", self.address)).await.expect("the page opens");
    }

    /// Kills the server as a power cut would, starts it again on the same database, and opens the page where it was.
    pub async fn power_cut(&mut self) {
        self.server.kill();
        let path = self.path().await;
        (self.server, self.address) = serve(&self.folder.path().join("bench.db"), &[]);
        self.goto(&path).await;
    }

    /// Path of the page that is open.
    pub async fn path(&self) -> String {
        self.driver.current_url().await.expect("a page is open").path().to_owned()
    }

    /// Waits until `look` finds something.
    ///
    /// # Panics
    /// When it does not in time.
    pub async fn wait<T, F: Future<Output = Option<T>>>(&self, what: &str, look: impl Fn() -> F) -> T {
        let begun = Instant::now();
        loop {
            if let Some(found) = look().await {
                return found;
            }
            if begun.elapsed() > PATIENCE {
                panic!("never saw {what}; the page says:\n{}", self.text("body").await.unwrap_or_default());
            }
            tokio::time::sleep(GLANCE).await;
        }
    }

    /// Waits for a displayed element by CSS.
    pub async fn find(&self, css: &str) -> WebElement {
        self.wait(css, || async {
            let found = self.driver.find(By::Css(css)).await.ok()?;
            found.is_displayed().await.ok()?.then_some(found)
        })
        .await
    }

    /// Waits for a displayed element by XPath.
    pub async fn find_xpath(&self, xpath: &str) -> WebElement {
        self.wait(xpath, || async {
            for found in self.driver.find_all(By::XPath(xpath)).await.ok()? {
                if found.is_displayed().await.ok()? {
                    return Some(found);
                }
            }
            None
        })
        .await
    }

    /// Presses a button by its words.
    pub async fn press(&self, words: &str) {
        let xpath = format!("//button[normalize-space(.)='{words}'] | //a[normalize-space(.)='{words}']");
        self.click(&xpath).await;
    }

    /// Clicks what an XPath finds; tries again while something passes over it.
    pub async fn click(&self, xpath: &str) {
        self.wait(xpath, || async {
            for found in self.driver.find_all(By::XPath(xpath)).await.ok()? {
                if found.is_displayed().await.ok()? && found.click().await.is_ok() {
                    return Some(());
                }
            }
            None
        })
        .await;
    }

    /// Types into the field of this label, in place of what it held.
    pub async fn fill(&self, label: &str, text: &str) {
        let field = self
            .find_xpath(&format!(
                "//*[self::input or self::textarea][@aria-label=\"{label}\" or @id=//label[normalize-space(.)=\"{label}\"]/@for \
                 or ancestor::label[normalize-space(text())=\"{label}\"]]"
            ))
            .await;
        field.click().await.expect("the field takes the focus");
        field.send_keys(Key::Control + "a").await.expect("the field takes keys");
        field.send_keys(Key::Delete + "").await.expect("the field takes keys");
        field.send_keys(text).await.expect("the field takes keys");
    }

    /// Types into the field of several lines that is named so, in place of what it held.
    pub async fn fill_area(&self, name: &str, text: &str) {
        let area = self.find(&format!("textarea[aria-label='{name}']")).await;
        area.clear().await.expect("it is emptied");
        area.send_keys(text).await.expect("it takes what is typed");
    }

    /// Chooses from the list of this label.
    pub async fn choose(&self, label: &str, item: &str) {
        self.click(&format!(
            "//*[contains(@class,'v-select')][.//*[@aria-label=\"{label}\"] or .//label[normalize-space(.)=\"{label}\"]]//*[contains(@class,'v-field__input')]"
        ))
        .await;
        // Inches stand in the names of what a home in feet is made of.
        let quote = if item.contains('"') { '\'' } else { '"' };
        let wanted = format!(
            "//*[contains(@class,'v-overlay--active')]//*[contains(@class,'v-list-item-title')][normalize-space(.)={quote}{item}{quote}]"
        );
        // A long list draws only what is in sight: it is leafed through, and anew from its top.
        let leaf = "const list = document.querySelector('.v-overlay--active .v-list');
                    if (!list) return;
                    const end = list.scrollTop + list.clientHeight >= list.scrollHeight - 1;
                    list.scrollTop = end ? 0 : list.scrollTop + list.clientHeight / 2;";
        self.wait(&wanted, || async {
            for found in self.driver.find_all(By::XPath(&wanted)).await.ok()? {
                if found.is_displayed().await.ok()? && found.click().await.is_ok() {
                    return Some(());
                }
            }
            self.driver.execute(leaf, vec![]).await.ok()?;
            None
        })
        .await;
        self.wait("the list to close", || async {
            let open = self.driver.find_all(By::Css(".v-overlay--active .v-list")).await.ok()?;
            open.is_empty().then_some(())
        })
        .await;
    }

    /// Chooses another word of the question over the map.
    pub async fn word(&self, label: &str, item: &str) {
        self.click(&format!("//button[starts-with(@aria-label,\"{label}:\")]")).await;
        self.click(&format!("//*[@role='menuitemradio'][normalize-space(.)=\"{item}\"]")).await;
    }

    /// Opens what the dock under the map has under this title.
    pub async fn dock(&self, title: &str) {
        self.click(&format!(
            "//*[@aria-label='The dock']//*[@role='tab'][starts-with(normalize-space(.),\"{title}\")]"
        ))
        .await;
    }

    /// Pulls the kit out over the map and puts one of it into the chosen room.
    pub async fn place(&self, kit: &str) {
        if self.driver.find(By::Id("kit")).await.is_ok() {
            self.click("//button[@id='kit']").await;
        }
        let own = self.find(&format!("[data-kit={kit}]")).await;
        own.send_keys(Key::Enter + "").await.expect("the kit takes keys");
    }

    /// Hands a file to the page's file chooser.
    ///
    /// # Panics
    /// When the page has none.
    pub async fn hand_over(&self, file: &Path) {
        let input = self.driver.find(By::Css("input[type=file]")).await.expect("a file chooser");
        input.send_keys(file.display().to_string()).await.expect("the chooser takes the file");
    }

    /// Waits until the page shows these words.
    pub async fn see(&self, words: &str) {
        self.see_in("body", words).await;
    }

    /// Waits until what a CSS selector finds shows these words.
    pub async fn see_in(&self, css: &str, words: &str) {
        self.wait(&format!("“{words}” in {css}"), || async { self.text(css).await?.contains(words).then_some(()) })
            .await;
    }

    /// Text that what a CSS selector finds shows; of all it finds, one a line. None when it finds nothing.
    /// What a CSS selector finds says; nothing where it finds none.
    pub async fn text(&self, css: &str) -> Option<String> {
        // Asked of the page itself: the driver's own way takes seconds on a large page.
        let script = "const found = [...document.querySelectorAll(arguments[0])];
                      return found.length ? found.map(one => one.innerText ?? one.textContent).join('\\n') : null";
        let answer = self.driver.execute(script, vec![css.into()]).await.ok()?;
        answer.convert::<Option<String>>().ok()?
    }

    /// Waits until these words are gone from what a CSS selector finds.
    pub async fn no_longer(&self, css: &str, words: &str) {
        self.wait(&format!("“{words}” to go from {css}"), || async {
            (!self.text(css).await?.contains(words)).then_some(())
        })
        .await;
    }

    /// Waits until everything typed is stored.
    pub async fn saved(&self) {
        self.wait("everything saved", || async {
            let waits = |line: &str| line.starts_with("Saving") || line.starts_with("Not saved");
            (!self.text("[role=status]").await?.lines().any(waits)).then_some(())
        })
        .await;
    }

    /// Presses undo.
    pub async fn undo(&self) {
        self.click("//button[@id='undo' and not(@disabled)]").await;
    }

    /// Presses a key on the page itself, outside of any field.
    pub async fn key(&self, keys: impl Into<TypingData>) {
        self.driver.execute("document.activeElement?.blur()", vec![]).await.expect("the focus goes");
        let page = self.driver.active_element().await.expect("a page");
        page.send_keys(keys.into()).await.expect("the page takes keys");
    }

    /// Text of a cell of the ledger: the row of this room, the column counted from 0 after its name.
    pub async fn ledger(&self, room: &str, column: usize) -> String {
        let xpath = format!("//aside//tr[th/button[normalize-space(.)='{room}']]/td[{}]", column + 1);
        let cell = self.find_xpath(&xpath).await;
        cell.text().await.unwrap_or_default().lines().next().unwrap_or_default().to_owned()
    }

    /// Opens the demo home of this name at a stop of the route.
    pub async fn open_home(&self, name: &str, stop: &str) {
        self.goto("/").await;
        self.click(&format!("//a[.//h2[normalize-space(.)='{name}']]")).await;
        self.open_stop(stop).await;
    }

    /// Goes to a stop of the route, in a home that is open.
    pub async fn open_stop(&self, stop: &str) {
        self.click(&format!("//nav[@aria-label='Route of the job']//a[b[normalize-space(.)='{stop}']]")).await;
    }

    /// Asks the server's interface.
    ///
    /// # Panics
    /// When it does not answer with JSON.
    pub async fn ask(&self, path: &str) -> Value {
        let answer = reqwest::get(format!("{}{path}", self.address)).await.expect("the server answers");
        answer.json().await.expect("in JSON")
    }

    /// Sends something to the server's interface.
    ///
    /// # Panics
    /// When the server refuses it.
    pub async fn send(&self, path: &str, body: &Value) {
        let client = reqwest::Client::new();
        let answer =
            client.post(format!("{}{path}", self.address)).json(body).send().await.expect("the server answers");
        assert!(answer.status().is_success(), "{path}: {}", answer.text().await.unwrap_or_default());
    }

    /// A number that a script on the page gives back.
    ///
    /// # Panics
    /// When it gives none.
    pub async fn number(&self, script: &str) -> f64 {
        self.driver.execute(script, vec![]).await.expect("the page answers").convert().expect("a number")
    }

    /// Runs axe-core on the page and gives back its serious and critical findings.
    ///
    /// # Panics
    /// When the page can't be examined.
    pub async fn serious_faults(&self) -> Vec<String> {
        let library = Path::new(env!("CARGO_MANIFEST_DIR")).join("../../web/node_modules/axe-core/axe.min.js");
        let library = std::fs::read_to_string(library).expect("axe-core is installed with the front end");
        self.driver.execute(library, vec![]).await.expect("axe-core loads");
        let found = self
            .driver
            .execute_async(
                "const done = arguments[0];
                 axe.run({ resultTypes: ['violations'] }).then(result => done(result.violations
                    .filter(one => ['serious', 'critical'].includes(one.impact))
                    .map(one => `${one.id}: ${one.help}: ${one.nodes.map(node => node.html).join(' | ')}`)))",
                vec![],
            )
            .await
            .expect("axe-core runs");
        found.convert::<Vec<String>>().expect("a list of findings")
    }

    /// Takes the page's network away, or gives it back.
    pub async fn offline(&self, is: bool) {
        let devtools = self.driver.cdp();
        devtools.send_raw("Network.enable", json!({})).await.expect("the network is told of");
        let rates = json!({ "offline": is, "latency": 0, "downloadThroughput": -1, "uploadThroughput": -1 });
        devtools.send_raw("Network.emulateNetworkConditions", rates).await.expect("the network is set");
    }

    /// Whether the page is wider than its window.
    ///
    /// # Panics
    /// When the page can't be asked.
    pub async fn scrolls_sideways(&self) -> bool {
        let wide = "return document.documentElement.scrollWidth > window.innerWidth";
        self.driver.execute(wide, vec![]).await.expect("the page answers").convert().expect("true or false")
    }

    /// Saves a picture of the window.
    ///
    /// # Panics
    /// When it can't be saved.
    pub async fn picture(&self, file: &Path) {
        self.driver.screenshot(file).await.expect("a picture");
    }

    /// Closes the window.
    pub async fn close(self) {
        let _ = self.driver.clone().quit().await;
    }
}

fn serve(database: &Path, words: &[&str]) -> (Process, String) {
    let mut command = Command::new(program());
    command.args(["serve", "--listen", "127.0.0.1:0", "--walk-pace", "5", "--data"]).arg(database);
    command.args(words);
    Process::start(command, |line| line.strip_prefix("Busy Hen is at ").map(str::to_owned)).expect("the server starts")
}
