//! The page in a real browser, by the W3C WebDriver protocol.
//!
//! Skipped, with a word, where there is no Chromium with its driver. With
//! `RASANT_SHOTS=DIR` it leaves pictures of what it saw there.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::actions::{InputSource, KeyAction, KeyActions, MouseActions, PointerAction};
use fantoccini::{Client, ClientBuilder, Locator};
use serde_json::{Value, json};

use super::{TUNING, Tool};

/// A browser and its driver, ended with the test.
pub struct Browser {
    _driver: Driver,
    pub client: Client,
    _profile: tempfile::TempDir,
}

/// A driver, and the session to be ended with it: killed by itself it would leave its
/// browser behind.
struct Driver {
    child: Child,
    port: String,
    session: Option<String>,
}

impl Drop for Driver {
    fn drop(&mut self) {
        if let Some(session) = &self.session
            && let Ok(mut stream) = TcpStream::connect(format!("127.0.0.1:{}", self.port))
        {
            let _ = stream.set_read_timeout(Some(Duration::from_secs(10)));
            let _ = write!(stream, "DELETE /session/{session} HTTP/1.1\r\nHost: 127.0.0.1\r\n\r\n");
            let _ = stream.read(&mut [0; 64]);
        }
        let _ = self.child.kill();
        let _ = self.child.wait();
    }
}

impl Browser {
    /// Nothing where there is none.
    pub async fn start() -> Option<Self> {
        let found = |names: &[&str]| {
            let folders: Vec<_> = std::env::split_paths(&std::env::var_os("PATH")?).collect();
            names
                .iter()
                .flat_map(|name| folders.iter().map(move |folder| folder.join(name)))
                .find(|path| path.is_file())
        };
        let driver = found(&["chromedriver"]);
        let chromium = found(&["chromium", "chromium-browser", "google-chrome"]);
        let (Some(driver), Some(chromium)) = (driver, chromium) else {
            println!("skipped: no chromium with chromedriver here");
            return None;
        };
        let child = Command::new(driver)
            .arg("--port=0")
            .stdout(Stdio::piped())
            .stderr(Stdio::null())
            .spawn()
            .unwrap();
        let mut driver = Driver { child, port: String::new(), session: None };
        let mut lines = BufReader::new(driver.child.stdout.take().unwrap()).lines();
        let port = loop {
            let line = lines.next().expect("a line with the driver's port").unwrap();
            if let Some(port) = line.split("successfully on port ").nth(1) {
                break port.trim_end_matches('.').to_owned();
            }
        };
        std::thread::spawn(move || lines.for_each(drop));
        let profile = tempfile::tempdir().unwrap();
        let data = format!("--user-data-dir={}", profile.path().display());
        let capabilities = json!({ "goog:chromeOptions": { "binary": chromium, "args": [
            "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
            "--disable-background-networking", "--disable-component-update", "--disable-sync",
            "--window-size=1280,800", "--enable-unsafe-swiftshader", data,
        ] } });
        let client = ClientBuilder::new(hyper_util::client::legacy::connect::HttpConnector::new())
            .capabilities(capabilities.as_object().unwrap().clone())
            .connect(&format!("http://127.0.0.1:{port}"))
            .await
            .unwrap();
        driver.port = port;
        driver.session = client.session_id().await.unwrap();
        Some(Self { _driver: driver, client, _profile: profile })
    }

    pub async fn open(&self, tool: &Tool) {
        self.client.goto(&tool.address).await.unwrap();
        // So that the page itself is of this size.
        self.client.set_window_size(1280, 800).await.unwrap();
        let frame = self.number("return 800 - innerHeight").await as u32;
        self.client.set_window_size(1280, 800 + frame).await.unwrap();
        self.until("return !!window.rasant?.frame", "the first frame").await;
    }

    pub async fn value(&self, script: &str) -> Value {
        self.client.execute(script, vec![]).await.unwrap()
    }

    pub async fn number(&self, script: &str) -> f64 {
        self.value(script).await.as_f64().unwrap_or_else(|| panic!("{script} is no number"))
    }

    pub async fn until(&self, script: &str, what: &str) {
        let start = Instant::now();
        while self.value(script).await != Value::Bool(true) {
            assert!(start.elapsed() < Duration::from_secs(30), "waited for {what}");
            tokio::time::sleep(Duration::from_millis(30)).await;
        }
    }

    /// Holds a key for a while.
    async fn hold(&self, key: char, time: Duration) {
        let keys = KeyActions::new("keys".to_owned())
            .then(KeyAction::Down { value: key })
            .then(KeyAction::Pause { duration: time })
            .then(KeyAction::Up { value: key });
        self.client.perform_actions(keys).await.unwrap();
    }

    async fn choose(&self, id: &str, value: &str) {
        let select = self.client.find(Locator::Id(id)).await.unwrap();
        select.select_by_value(value).await.unwrap();
    }

    pub async fn click(&self, id: &str) {
        self.client.find(Locator::Id(id)).await.unwrap().click().await.unwrap();
    }

    /// Where a point of the level in two dimensions is on the page.
    async fn on_page(&self, x: f64, y: f64) -> [f64; 2] {
        let script = format!(
            "const [x, y] = rasant.views[2].onStage([{x}, {y}]);
             const box = document.getElementById('stage').getBoundingClientRect();
             return [box.left + x, box.top + y]"
        );
        let at = self.value(&script).await;
        [0, 1].map(|axis| at[axis].as_f64().unwrap().round())
    }

    /// Presses the pointer at one point of the page and lets go at another.
    async fn pull(&self, from: [f64; 2], to: [f64; 2]) {
        let moved =
            |[x, y]: [f64; 2], ms| PointerAction::MoveTo { duration: Some(Duration::from_millis(ms)), x, y };
        let pull = MouseActions::new("mouse".to_owned())
            .then(moved(from, 0))
            .then(PointerAction::Down { button: 0 })
            .then(moved(to, 100))
            .then(PointerAction::Up { button: 0 });
        self.client.perform_actions(pull).await.unwrap();
    }

    /// Presses a button by its words.
    async fn press(&self, words: &str) {
        let find = format!(
            "[...document.querySelectorAll('#place button')].find((one) => one.textContent === '{words}').click()"
        );
        self.value(&find).await;
    }

    /// What is seen: the share of the stage's pixels that `is_so`.
    async fn seen(&self, name: &str, is_so: impl Fn([u8; 3]) -> bool) -> f64 {
        let picture = self.client.screenshot().await.unwrap();
        if let Some(folder) = std::env::var_os("RASANT_SHOTS") {
            std::fs::create_dir_all(&folder).unwrap();
            std::fs::write(std::path::Path::new(&folder).join(name).with_extension("png"), &picture).unwrap();
        }
        let mut decoder = png::Decoder::new(std::io::Cursor::new(picture));
        decoder.set_transformations(png::Transformations::EXPAND);
        let mut reader = decoder.read_info().unwrap();
        let mut pixels = vec![0; reader.output_buffer_size().unwrap()];
        let info = reader.next_frame(&mut pixels).unwrap();
        let each = info.color_type.samples();
        let (width, stage) = (info.width as usize, info.width as usize * 7 / 10);
        let rows = 60..info.height as usize - 60;
        let all = rows.len() * stage;
        let one = |row: usize, column: usize| {
            let at = (row * width + column) * each;
            [pixels[at], pixels[at + 1], pixels[at + 2]]
        };
        let count = rows.flat_map(|row| (0..stage).map(move |column| (row, column)));
        count.filter(|&(row, column)| is_so(one(row, column))).count() as f64 / all as f64
    }
}

fn is_lamp([r, g, b]: [u8; 3]) -> bool {
    r > 120 && g > 70 && r > g && f32::from(b) < 0.55 * f32::from(g)
}

fn is_night([r, g, b]: [u8; 3]) -> bool {
    r < 46 && g < 54 && b < 70
}

const RIGHT: char = '\u{e014}';
const HEIGHT: &str = "return rasant.frame.feet[1]";

#[tokio::test]
async fn keys_walk_and_jump_and_a_turned_knob_jumps_higher() {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("watch.toml"), TUNING).unwrap();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "watch.toml"]);
    let Some(browser) = Browser::start().await else { return };
    browser.open(&tool).await;
    browser.until("return rasant.frame.mode === 'grounded' && rasant.frame.tick > 20", "feet").await;
    // However slowly it is drawn here: until it has gone that far.
    let from = browser.number("return rasant.frame.feet[0]").await;
    let right = KeyActions::new("keys".to_owned()).then(KeyAction::Down { value: RIGHT });
    browser.client.perform_actions(right).await.unwrap();
    browser.until(&format!("return rasant.frame.feet[0] > {}", from + 0.8), "the walk").await;
    browser.client.release_actions().await.unwrap();
    let jump = async |most: &str| {
        browser.until("return rasant.frame.mode === 'grounded'", "feet").await;
        let ground = browser.number(HEIGHT).await;
        let watch = "window.top_ = -1e9; window.watch_ = setInterval(() => { top_ = Math.max(top_, rasant.frame.feet[1]) }, 3)";
        browser.value(watch).await;
        browser.hold(' ', Duration::from_millis(700)).await;
        browser.until("return rasant.frame.mode === 'grounded'", most).await;
        let top = browser.number("clearInterval(watch_); return top_").await;
        top - ground
    };
    let plain = jump("a landing").await;
    assert!((plain - 1.5).abs() < 0.15, "{plain}");
    // In the field as a user would, then by a glance at the figures.
    let field = browser.client.find(Locator::Id("knob-jump.height")).await.unwrap();
    field.clear().await.unwrap();
    field.send_keys("2.5\u{e007}").await.unwrap();
    browser
        .until(
            "return document.querySelector('[data-figure=\"jump-height\"]')?.textContent.startsWith('2.5')",
            "the figure",
        )
        .await;
    browser.client.find(Locator::Id("stage")).await.unwrap().click().await.unwrap();
    let higher = jump("a higher landing").await;
    assert!((higher - 2.5).abs() < 0.2, "{higher}");
    browser.click("tab-figures").await;
    browser.seen("play-figures", |_| true).await;
    // Rewound, it stands where it stood.
    browser.click("pause").await;
    browser.until("return rasant.frame.paused", "holding").await;
    let at = browser.value("return [rasant.frame.tick, rasant.frame.feet]").await;
    browser.client.find(Locator::Id("stage")).await.unwrap().click().await.unwrap();
    browser.hold(',', Duration::from_millis(20)).await;
    browser
        .until(&format!("return rasant.frame.tick === {}", at[0].as_u64().unwrap() - 1), "a tick back")
        .await;
    browser.hold('.', Duration::from_millis(20)).await;
    browser.until(&format!("return rasant.frame.tick === {}", at[0]), "a tick on").await;
    assert_eq!(browser.value("return rasant.frame.feet").await, at[1]);
    // A ghost, and the same inputs under other numbers, drawn.
    browser.click("tab-ghosts").await;
    browser.click("ghost").await;
    browser.until("return rasant.scene.ghosts.length === 1", "the ghost").await;
    browser.click("replay").await;
    browser.click("undo").await;
    browser.until("return (rasant.scene.replayed?.sums.highest_m ?? 9) < 2.3", "the bent path").await;
    browser.seen("play-compare", |_| true).await;
    drop(tool);
    browser.until("return !document.getElementById('gone').hidden", "the word that the tool has gone").await;
}

#[tokio::test]
async fn every_view_draws_what_is_there() {
    let folder = tempfile::tempdir().unwrap();
    let tool = Tool::start(folder.path(), &[]);
    let Some(browser) = Browser::start().await else { return };
    browser.open(&tool).await;
    for (trial, name) in [
        ("demo:first-roof", "play-side"),
        ("demo:market-square", "play-plan"),
        ("demo:fairground", "play-fairground"),
        ("demo:stair-tower", "play-follow"),
    ] {
        browser.choose("trial", trial).await;
        browser
            .until(&format!("return rasant.place.trial === '{trial}' && rasant.frame.tick > 40"), trial)
            .await;
        let lamp = browser.seen(name, is_lamp).await;
        let ground = browser.seen(name, |pixel| !is_night(pixel) && !is_lamp(pixel)).await;
        assert!(lamp > 2e-4, "{trial}: the body is {lamp} of the picture");
        assert!(ground > 0.05, "{trial}: the place is {ground} of the picture");
        if name == "play-follow" {
            // In first person the body is not seen, and the place is.
            browser.click("eye").await;
            tokio::time::sleep(Duration::from_millis(400)).await;
            let own = browser.seen("play-first-person", is_lamp).await;
            let place = browser.seen("play-first-person", |pixel| !is_night(pixel)).await;
            assert!(own < 0.2 * lamp, "{own} of {lamp}");
            assert!(place > 0.1, "{place}");
            // The pointer is the page's own there.
            browser.value("document.getElementById('eye').click()").await;
            // A ramp before the body, in the picture and under the pointer.
            browser.click("tab-place").await;
            let parts = browser.number("return rasant.place.parts.length").await;
            browser.click("add-ramp").await;
            browser.until(&format!("return rasant.place.parts.length === {}", parts + 1.0), "the ramp").await;
            browser.seen("play-shape-in-space", |_| true).await;
            browser.click("part-delete").await;
            browser.until(&format!("return rasant.place.parts.length === {parts}"), "its end").await;
            browser.click("tab-numbers").await;
        }
    }
    browser.choose("trial", "demo:canal-steps").await;
    browser.until("return rasant.place.trial === 'demo:canal-steps'", "canal steps").await;
    for id in ["show-inside", "show-plot", "show-pad"] {
        browser.click(id).await;
    }
    browser.client.find(Locator::Id("stage")).await.unwrap().click().await.unwrap();
    browser.hold(RIGHT, Duration::from_millis(900)).await;
    browser.seen("play-inside", |_| true).await;
}

#[tokio::test]
async fn a_block_is_added_stood_on_moved_and_kept() {
    let folder = tempfile::tempdir().unwrap();
    let tool = Tool::start(folder.path(), &["demo:first-roof"]);
    let Some(browser) = Browser::start().await else { return };
    browser.open(&tool).await;
    browser.until("return rasant.frame.mode === 'grounded' && rasant.frame.tick > 20", "feet").await;
    browser.click("tab-place").await;
    let parts = browser.number("return rasant.place.parts.length").await;
    browser.click("add-block").await;
    browser.until(&format!("return rasant.place.parts.length === {}", parts + 1.0), "the block").await;
    browser.seen("play-shape", |_| true).await;
    // Under the body: by its fields.
    let feet = browser.value("return rasant.frame.feet").await;
    let (x, y) = (feet[0].as_f64().unwrap(), feet[1].as_f64().unwrap());
    for (name, value) in [("at x", x - 1.0), ("at y", y + 3.0)] {
        let field = browser.client.find(Locator::Css(&format!("[name='{name}']"))).await.unwrap();
        field.clear().await.unwrap();
        field.send_keys(&format!("{value:.2}\u{e007}")).await.unwrap();
        let now = format!(
            "return Math.abs(rasant.place.parts.at(-1).fields.block[0][{}] - {value:.2}) < 1e-3",
            usize::from(name == "at y")
        );
        browser.until(&now, name).await;
    }
    // The body is put on it by the pointer.
    browser.press("start").await;
    let over = browser.on_page(x, y + 4.3).await;
    browser.pull(over, over).await;
    let stands = format!(
        "return rasant.frame.mode === 'grounded' && Math.abs(rasant.frame.feet[1] - {:.4}) < 0.02",
        y + 4.0
    );
    browser.until(&stands, "the body on the block").await;
    // A tape from its corner to the roof beside.
    browser.press("tape").await;
    browser.pull(browser.on_page(x + 1.0, y + 4.0).await, browser.on_page(x + 4.0, y + 1.0).await).await;
    let says = "return /across.* down.*(clears it by|too short)/.test(document.getElementById('measured').textContent)";
    browser.until(says, "what the tape says").await;
    browser.seen("play-block", is_lamp).await;
    browser.press("pick").await;
    // Pulled aside by its middle it is gone from under the feet.
    let [left, top] = browser.on_page(x, y + 3.5).await;
    browser.pull([left, top], [left - 160.0, top]).await;
    browser.until(&format!("return rasant.frame.feet[1] < {}", y + 1.0), "the fall").await;
    browser.click("undo").await;
    let back =
        format!("return Math.abs(rasant.place.parts.at(-1).fields.block[0][0] - {:.2}) < 1e-3", x - 1.0);
    browser.until(&back, "the block where it was").await;
    // A stretch of that, over and over.
    browser.click("loop").await;
    browser.until("return !!rasant.frame.stretch", "the stretch").await;
    browser.click("loop").await;
    browser.until("return !rasant.frame.stretch && rasant.frame.paused", "its end").await;
}
