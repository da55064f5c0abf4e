//! A real browser, driven by the W3C WebDriver protocol as a person drives it: the pointer is
//! moved to where a control is seen, pressed and dragged, and keys are pressed.

use std::io::{BufRead, BufReader, Read, Write};
use std::net::TcpStream;
use std::path::{Path, PathBuf};
use std::process::{Child, Command, Stdio};
use std::time::{Duration, Instant};

use fantoccini::actions::{
    InputSource, KeyAction, KeyActions, MouseActions, PointerAction, WheelAction, WheelActions,
};
use fantoccini::{Client, ClientBuilder};
use serde_json::{Value, json};

use super::Tool;

/// A generous limit for a machine ten times slower.
const LONGEST: Duration = Duration::from_secs(60);

/// A browser and its driver, ended with the test.
pub struct Browser {
    _driver: Driver,
    pub client: Client,
    profile: tempfile::TempDir,
}

/// A driver, and the session to be ended with it: a driver that is killed leaves its browser
/// behind.
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

/// A program of one of these names on the path.
fn program(names: &[&str]) -> PathBuf {
    let path = std::env::var_os("PATH").unwrap_or_default();
    let folders: Vec<_> = std::env::split_paths(&path).collect();
    names
        .iter()
        .flat_map(|name| folders.iter().map(move |folder| folder.join(name)))
        .find(|path| path.is_file())
        .unwrap_or_else(|| panic!("these tests need {}: see CONTRIBUTING.md", names.join(" or ")))
}

impl Browser {
    pub async fn start() -> Self {
        let driver = program(&["chromedriver"]);
        let chromium = program(&["chromium", "chromium-browser", "google-chrome"]);
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
        let capabilities = json!({ "goog:chromeOptions": {
            "binary": chromium,
            "args": [
                "--headless", "--no-sandbox", "--disable-gpu", "--disable-quic", "--no-first-run",
                "--disable-background-networking", "--disable-component-update", "--disable-sync",
                "--window-size=1280,800", "--enable-unsafe-swiftshader", "--enable-precise-memory-info",
                "--js-flags=--expose-gc", data,
            ],
            "prefs": { "download.default_directory": profile.path().join("saved") },
        } });
        let client = ClientBuilder::new(hyper_util::client::legacy::connect::HttpConnector::new())
            .capabilities(capabilities.as_object().unwrap().clone())
            .connect(&format!("http://127.0.0.1:{port}"))
            .await
            .unwrap();
        driver.port = port;
        driver.session = client.session_id().await.unwrap();
        Self { _driver: driver, client, profile }
    }

    pub async fn open(&self, tool: &Tool) {
        self.client.goto(&tool.address).await.unwrap();
        self.resize(1280, 800).await;
        self.until("return !!window.rasant?.frame", "the first frame").await;
    }

    /// Makes the page itself of this size.
    pub async fn resize(&self, width: u32, height: u32) {
        self.client.set_window_size(width, height).await.unwrap();
        let more = self.value("return [outerWidth - innerWidth, outerHeight - innerHeight]").await;
        let more = [0, 1].map(|axis| more[axis].as_u64().unwrap() as u32);
        self.client.set_window_size(width + more[0], height + more[1]).await.unwrap();
    }

    pub async fn value(&self, script: &str) -> Value {
        self.client.execute(script, vec![]).await.unwrap_or_else(|error| panic!("{script}: {error}"))
    }

    pub async fn number(&self, script: &str) -> f64 {
        self.value(script).await.as_f64().unwrap_or_else(|| panic!("{script} is no number"))
    }

    pub async fn is(&self, condition: &str) -> bool {
        self.value(&format!("return !!({condition})")).await == Value::Bool(true)
    }

    pub async fn until(&self, script: &str, what: &str) {
        let start = Instant::now();
        while self.value(script).await != Value::Bool(true) {
            assert!(start.elapsed() < LONGEST, "waited for {what}: {script}");
            tokio::time::sleep(Duration::from_millis(15)).await;
        }
    }

    // ---- the pointer ----

    /// The box of a control as it is seen: left, top, width, height. It is scrolled to, and
    /// must not be covered by anything else.
    pub async fn seen(&self, selector: &str) -> [f64; 4] {
        let mut last = self.seen_now(selector).await;
        loop {
            // What has just been changed may still move.
            let now = self.seen_now(selector).await;
            if now == last {
                return now;
            }
            last = now;
        }
    }

    async fn seen_now(&self, selector: &str) -> [f64; 4] {
        let script = format!(
            "const one = document.querySelector({selector:?});
             if (!one) return 'there is none';
             one.scrollIntoView({{ block: 'center' }});
             const box = one.getBoundingClientRect();
             if (box.width < 1 || box.height < 1) return 'it is not shown';
             const at = document.elementFromPoint(box.left + box.width / 2, box.top + box.height / 2);
             if (!at || !(one.contains(at) || at.contains(one) || one.labels?.[0]?.contains(at))) {{
               return 'it is covered by ' + (at?.id || at?.className || at?.tagName);
             }}
             return [box.left, box.top, box.width, box.height]"
        );
        let found = self.value(&script).await;
        assert!(found.is_array(), "{selector}: {found}");
        [0, 1, 2, 3].map(|part| found[part].as_f64().unwrap())
    }

    /// The middle of a control.
    pub async fn middle(&self, selector: &str) -> [f64; 2] {
        let [left, top, width, height] = self.seen(selector).await;
        [left + 0.5 * width, top + 0.5 * height]
    }

    pub async fn pointer(&self, actions: Vec<PointerAction>) {
        let mut all = MouseActions::new("mouse".to_owned());
        for action in actions {
            all = all.then(action);
        }
        self.client.perform_actions(all).await.unwrap();
    }

    /// Returns a movement of the pointer to a point, in milliseconds.
    pub fn to([x, y]: [f64; 2], ms: u64) -> PointerAction {
        PointerAction::MoveTo { duration: Some(Duration::from_millis(ms)), x: x.round(), y: y.round() }
    }

    /// Presses a button of the pointer at one point and releases it at another.
    pub async fn drag_button(&self, button: u64, from: [f64; 2], to: [f64; 2]) {
        let between = [0.5 * (from[0] + to[0]), 0.5 * (from[1] + to[1])];
        let (down, up) = (PointerAction::Down { button }, PointerAction::Up { button });
        self.pointer(vec![Self::to(from, 0), down, Self::to(between, 20), Self::to(to, 20), up]).await;
    }

    pub async fn drag(&self, from: [f64; 2], to: [f64; 2]) {
        self.drag_button(0, from, to).await;
    }

    pub async fn click_at(&self, at: [f64; 2]) {
        let (down, up) = (PointerAction::Down { button: 0 }, PointerAction::Up { button: 0 });
        self.pointer(vec![Self::to(at, 0), down, up]).await;
    }

    /// Clicks on a control, where it is seen.
    pub async fn click(&self, selector: &str) {
        let at = self.middle(selector).await;
        self.click_at(at).await;
    }

    /// Turns the wheel by a number of notches over a point; negative is up.
    pub async fn wheel(&self, [x, y]: [f64; 2], notches: i64) {
        let scroll = WheelAction::Scroll {
            x: x as i64,
            y: y as i64,
            delta_x: 0,
            delta_y: 100 * notches.signum(),
            duration: None,
        };
        for _ in 0..notches.abs() {
            let turn = WheelActions::new("wheel".to_owned()).then(scroll.clone());
            self.client.perform_actions(turn).await.unwrap();
        }
    }

    // ---- keys ----

    pub async fn keys(&self, actions: Vec<KeyAction>) {
        let mut all = KeyActions::new("keys".to_owned());
        for action in actions {
            all = all.then(action);
        }
        self.client.perform_actions(all).await.unwrap();
    }

    /// Presses a key and releases it after a time.
    pub async fn hold(&self, key: char, time: Duration) {
        let pause = KeyAction::Pause { duration: time };
        self.keys(vec![KeyAction::Down { value: key }, pause, KeyAction::Up { value: key }]).await;
    }

    pub async fn press(&self, key: char) {
        self.hold(key, Duration::from_millis(30)).await;
    }

    /// Presses a key while others are held.
    pub async fn chord(&self, held: &[char], key: char) {
        let mut all: Vec<KeyAction> = held.iter().map(|&value| KeyAction::Down { value }).collect();
        all.extend([KeyAction::Down { value: key }, KeyAction::Up { value: key }]);
        all.extend(held.iter().rev().map(|&value| KeyAction::Up { value }));
        self.keys(all).await;
    }

    /// Replaces the text of a field, and leaves the field with Enter.
    pub async fn type_into(&self, selector: &str, text: &str) {
        self.click(selector).await;
        self.chord(&[CONTROL], 'a').await;
        let typed = text.chars().chain([ENTER]);
        let each = typed.flat_map(|value| [KeyAction::Down { value }, KeyAction::Up { value }]);
        self.keys(each.collect()).await;
    }

    /// Chooses a value of a menu, with the keys: menus of browsers are not part of the page.
    pub async fn choose(&self, selector: &str, value: &str) {
        self.seen(selector).await;
        let find = fantoccini::Locator::Css(selector);
        self.client.find(find).await.unwrap().select_by_value(value).await.unwrap();
    }

    // ---- reading the page ----

    /// Waits for a file saved by the browser whose name has this ending, and returns its bytes.
    pub async fn saved(&self, ending: &str) -> Vec<u8> {
        let folder = self.profile.path().join("saved");
        let start = Instant::now();
        loop {
            let files = std::fs::read_dir(&folder).into_iter().flatten().flatten().map(|entry| entry.path());
            let named = |path: &PathBuf| path.to_string_lossy().ends_with(ending);
            if let Some(path) = files.into_iter().find(named) {
                return std::fs::read(path).unwrap();
            }
            assert!(start.elapsed() < LONGEST, "waited for a saved file: {ending}");
            tokio::time::sleep(Duration::from_millis(30)).await;
        }
    }

    /// Where a point of the level in two dimensions is on the page.
    pub async fn on_page(&self, x: f64, y: f64) -> [f64; 2] {
        let script = format!(
            "const [x, y] = rasant.views.flat.onStage([{x}, {y}]);
             const box = document.getElementById('stage').getBoundingClientRect();
             return [box.left + x, box.top + y]"
        );
        let at = self.value(&script).await;
        [0, 1].map(|axis| at[axis].as_f64().unwrap())
    }

    /// The fraction of the stage's pixels that `is_so`. With `RASANT_SHOTS=DIR`, the picture is
    /// written there.
    pub async fn pixels(&self, name: &str, is_so: impl Fn([u8; 3]) -> bool) -> f64 {
        let picture = self.client.screenshot().await.unwrap();
        if let Some(folder) = std::env::var_os("RASANT_SHOTS") {
            std::fs::create_dir_all(&folder).unwrap();
            std::fs::write(Path::new(&folder).join(name).with_extension("png"), &picture).unwrap();
        }
        let (width, height, pixels) = decoded(&picture);
        let (stage, rows) = (width * 7 / 10, 60..height - 60);
        let all = rows.len() * stage;
        let places = rows.flat_map(|row| (0..stage).map(move |column| row * width + column));
        places.filter(|&at| is_so(pixels[at])).count() as f64 / all as f64
    }
}

/// A picture's width, height and colours, row by row.
pub fn decoded(picture: &[u8]) -> (usize, usize, Vec<[u8; 3]>) {
    let mut decoder = png::Decoder::new(std::io::Cursor::new(picture));
    decoder.set_transformations(png::Transformations::EXPAND);
    let mut reader = decoder.read_info().unwrap();
    let mut bytes = vec![0; reader.output_buffer_size().unwrap()];
    let info = reader.next_frame(&mut bytes).unwrap();
    let pixels = bytes.chunks(info.color_type.samples()).map(|one| [one[0], one[1], one[2]]).collect();
    (info.width as usize, info.height as usize, pixels)
}

pub fn is_lamp([r, g, b]: [u8; 3]) -> bool {
    r > 120 && g > 70 && r > g && f32::from(b) < 0.55 * f32::from(g)
}

pub fn is_night([r, g, b]: [u8; 3]) -> bool {
    r < 46 && g < 54 && b < 70
}

pub const RETURN: char = '\u{e006}';
pub const LEFT: char = '\u{e012}';
pub const RIGHT: char = '\u{e014}';
pub const CONTROL: char = '\u{e009}';
pub const SHIFT: char = '\u{e008}';
pub const ENTER: char = '\u{e007}';
pub const ESCAPE: char = '\u{e00c}';
pub const DELETE: char = '\u{e017}';
