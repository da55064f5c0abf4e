//! Every control of the page, used as a person uses it, with its effect.
//!
//! The page lists its own controls: an observer records each one that ever exists. The test fails
//! for a control that no test has used, so a new control needs a test.

use std::cell::RefCell;
use std::collections::BTreeSet;
use std::time::Duration;

use serde_json::{Value, json};

use super::driver::{Browser, CONTROL, DELETE, ENTER, ESCAPE, SHIFT};
use super::{TUNING, Tool};

/// Notes every control that is ever on the page, by its id or its name.
const OBSERVE: &str = "
window.controlsSeen = new Set();
window.nameOfControl = (one) => one.id || (one.name ? `[name=\"${one.name}\"]` : one.closest('[id]')?.id + ' ' + one.tagName.toLowerCase());
const note = () => {
  for (const one of document.querySelectorAll('button, input, select, textarea, summary, canvas[tabindex], #stick, #stage')) controlsSeen.add(nameOfControl(one));
};
note();
new MutationObserver(note).observe(document, { childList: true, subtree: true, attributes: true, attributeFilter: ['id', 'name'] });";

/// A level with a part of each kind that has fields of its own.
const YARD: &str = "title = \"The yard\"
[surfaces.slate]
traction = 0.8

[[piece]]
block = [[-40, -1], [40, 0]]
";

/// A browser, and the controls that were used.
struct Controls {
    browser: Browser,
    used: RefCell<BTreeSet<String>>,
}

impl Controls {
    fn use_of(&self, name: &str) {
        self.used.borrow_mut().insert(name.to_owned());
    }

    /// Waits for an effect that was not there before.
    async fn effect(&self, name: &str, was: bool, effect: &str) {
        assert!(!was, "{name}: its effect was there before it was used: {effect}");
        self.browser.until(&format!("return !!({effect})"), name).await;
        self.use_of(name);
    }

    /// Clicks on a control; `effect` must not hold before and must hold after.
    async fn click(&self, id: &str, effect: &str) {
        let was = self.browser.is(effect).await;
        self.browser.click(&format!("[id='{id}']")).await;
        self.effect(id, was, effect).await;
    }

    /// Presses a key; the control that it stands for is not used by that.
    async fn key(&self, code: &str, held: &[char], key: char, effect: &str) {
        let was = self.browser.is(effect).await;
        self.browser.chord(held, key).await;
        self.effect(&format!("key {code}"), was, effect).await;
    }

    async fn choose(&self, id: &str, value: &str, effect: &str) {
        let was = self.browser.is(effect).await;
        self.browser.choose(&format!("[id='{id}']"), value).await;
        self.effect(id, was, effect).await;
    }

    /// Types into a field of a part.
    async fn field(&self, name: &str, text: &str, effect: &str) {
        let was = self.browser.is(effect).await;
        self.browser.type_into(&format!("#part [name='{name}']"), text).await;
        self.effect(&format!("[name=\"{name}\"]"), was, effect).await;
    }

    async fn until(&self, condition: &str) {
        self.browser.until(&format!("return !!({condition})"), condition).await;
    }

    async fn stands(&self) {
        self.until("rasant.frame.body.mode === 'grounded' && !rasant.frame.paused").await;
    }
}

/// Uses the controls part by part, and prints how long each part took.
macro_rules! sections {
    ($($name:ident($($argument:expr),*);)*) => {$(
        let began = std::time::Instant::now();
        $name($($argument),*).await;
        println!("{}: {:.1} s", stringify!($name), began.elapsed().as_secs_f64());
    )*};
}

#[tokio::test]
async fn every_control_is_used_and_has_its_effect() {
    let folder = tempfile::tempdir().unwrap();
    let write = |name: &str, text: &str| std::fs::write(folder.path().join(name), text).unwrap();
    write(
        "watch.toml",
        &format!("{TUNING}\n[dash]\ncharges = 1\n\n[roll]\naction = 0\n\n[slam]\naction = 1\n"),
    );
    write("yard.toml", YARD);
    write(
        "keys.toml",
        "[actions]\njump = [\"Space\"] # up\nown-0 = [\"KeyE\"]\n\n[steer]\nleft = [\"KeyA\"]\nright = [\"KeyD\"]\n",
    );
    let arguments = ["yard.toml", "--tuning", "watch.toml", "--bindings", "keys.toml"];
    let tool = Tool::start(folder.path(), &arguments);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.value(OBSERVE).await;
    let controls = Controls { browser, used: RefCell::default() };
    sections! {
        time(&controls);
        the_picture(&controls);
        plots(&controls);
        screen_pad(&controls);
        keys_panel(&controls, folder.path());
        comparing(&controls);
        numbers(&controls, folder.path());
        sharing(&controls, folder.path());
        place(&controls, folder.path());
        space(&controls);
        opening(&controls);
    }
    let seen = controls.browser.value("return [...controlsSeen]").await;
    let seen: BTreeSet<String> = serde_json::from_value(seen).unwrap();
    let shortcuts = controls.browser.value("return rasant.shortcuts").await;
    let shortcuts: Vec<String> = serde_json::from_value(shortcuts).unwrap();
    let used = controls.used.take();
    // Which of a game's own actions are on the pad changes with the numbers.
    let is_used = |name: &String| used.contains(name) || name.starts_with("pad-own-");
    let unused: Vec<&String> = seen.iter().filter(|name| !is_used(name)).collect();
    assert!(unused.is_empty(), "controls that no test uses: {unused:?}");
    let unused: Vec<&String> =
        shortcuts.iter().filter(|code| !used.contains(&format!("key {code}"))).collect();
    assert!(unused.is_empty(), "keys that no test presses: {unused:?}");
    assert!(seen.len() > 350, "the observer saw only {} controls", seen.len());
    assert_eq!(controls.browser.number("return rasant.unknown").await, 0.0);
}

/// Hold, step, restart, speed, scrub, loop.
async fn time(controls: &Controls) {
    let browser = &controls.browser;
    controls.stands().await;
    let was = browser.is("document.activeElement.id === 'stage' && rasant.frame.body.steer[0] === 1").await;
    browser.keys(vec![fantoccini::actions::KeyAction::Down { value: 'd' }]).await;
    controls.effect("stage", was, "rasant.frame.body.steer[0] === 1").await;
    browser.client.release_actions().await.unwrap();
    controls.until("rasant.frame.tick > 60").await;
    controls.click("pause", "rasant.frame.paused").await;
    controls.key("KeyP", &[], 'p', "!rasant.frame.paused").await;
    controls.until("rasant.frame.tick > 80").await;
    browser.click("#pause").await;
    controls.until("rasant.frame.paused").await;
    let at = browser.number("return rasant.frame.tick").await;
    controls.click("back", &format!("rasant.frame.tick === {}", at - 1.0)).await;
    controls.key("Comma", &[], ',', &format!("rasant.frame.tick === {}", at - 2.0)).await;
    controls.click("on", &format!("rasant.frame.tick === {}", at - 1.0)).await;
    controls.key("Period", &[], '.', &format!("rasant.frame.tick === {at}")).await;
    // Past the end of the attempt, a tick on is a new one.
    let length = browser.number("return rasant.frame.length").await;
    while browser.number("return rasant.frame.tick").await < length {
        browser.press('.').await;
    }
    browser.press('.').await;
    controls.until(&format!("rasant.frame.length === {}", length + 1.0)).await;
    let [left, top, width, height] = browser.seen("#scrub").await;
    let thumb = [left + width - 8.0, top + 0.5 * height];
    let was = browser.is("Math.abs(rasant.frame.tick / rasant.frame.length - 0.5) < 0.1").await;
    browser.drag(thumb, [left + 0.5 * width, thumb[1]]).await;
    controls.effect("scrub", was, "Math.abs(rasant.frame.tick / rasant.frame.length - 0.5) < 0.1").await;
    assert!(browser.is("document.activeElement.id === 'stage'").await, "the keys are the body's again");
    controls.click("loop-from", "document.getElementById('stretch').textContent.endsWith('to … s')").await;
    browser.press('.').await;
    for _ in 0..9 {
        browser.press('.').await;
    }
    controls.click("loop-to", "/^\\d.*to \\d/.test(document.getElementById('stretch').textContent)").await;
    controls
        .click("loop", "rasant.frame.stretch && rasant.frame.stretch[1] - rasant.frame.stretch[0] === 10")
        .await;
    controls.key("KeyL", &[], 'l', "!rasant.frame.stretch").await;
    let marked =
        "document.getElementById('stretch').textContent.startsWith((rasant.frame.tick / 60).toFixed(2))";
    controls.key("BracketLeft", &[], '[', marked).await;
    for _ in 0..3 {
        browser.press('.').await;
    }
    controls
        .key("BracketRight", &[], ']', "/^\\d.*to \\d/.test(document.getElementById('stretch').textContent)")
        .await;
    browser.click("#pause").await;
    controls.until("!rasant.frame.paused").await;
    controls.click("restart", "rasant.frame.tick < 30").await;
    controls.until("rasant.frame.tick > 60").await;
    controls.key("KeyR", &[], 'r', "rasant.frame.tick < 30").await;
    // A tenth of the speed: a tick takes ten times as long.
    controls.choose("speed", "0.05", "document.getElementById('speed').value === '0.05'").await;
    let ticks = "const [done] = arguments, from = rasant.frame.tick;
        setTimeout(() => done(rasant.frame.tick - from), 1000)";
    let slow = browser.client.execute_async(ticks, vec![]).await.unwrap().as_f64().unwrap();
    assert!(slow < 12.0, "{slow} ticks in a second at a twentieth of the speed");
    browser.choose("#speed", "1").await;
}

async fn the_picture(controls: &Controls) {
    let browser = &controls.browser;
    controls.click("show-debug", "rasant.frame.debug && document.getElementById('steer')").await;
    controls.key("KeyB", &[], 'b', "!rasant.frame.debug").await;
    controls.click("show-figure", "rasant.scene.figure").await;
    controls.key("KeyN", &[], 'n', "!rasant.scene.figure").await;
    controls.click("sound", "rasant.sounds.on").await;
    browser.hold(' ', Duration::from_millis(80)).await;
    controls.until("rasant.sounds.played > 0").await;
    browser.click("#sound").await;
    controls.click("help-open", "document.getElementById('help').open").await;
    controls.click("help-close", "!document.getElementById('help').open").await;
    controls.key("Slash", &[], '?', "document.getElementById('help').open").await;
    browser.press('?').await;
    controls.until("!document.getElementById('help').open").await;
    // The wheel over the stage brings it nearer.
    let at = browser.middle("#stage").await;
    browser.wheel(at, -2).await;
    controls.until("rasant.scene.zoom > 1.2").await;
    browser.wheel(at, 2).await;
    for (tab, panel) in [
        ("figures", "figures"),
        ("ghosts", "ghosts"),
        ("place", "place"),
        ("keys", "keys"),
        ("numbers", "numbers"),
    ] {
        controls.click(&format!("tab-{tab}"), &format!("!document.getElementById('{panel}').hidden")).await;
    }
    // The arrow keys go along the tabs.
    browser.press('\u{e014}').await;
    controls.until("!document.getElementById('figures').hidden").await;
    browser.press('\u{e012}').await;
    controls.until("!document.getElementById('numbers').hidden").await;
}

async fn plots(controls: &Controls) {
    let browser = &controls.browser;
    controls.click("show-plot", "!document.getElementById('plots').hidden").await;
    let drawn = |name: &str| format!("rasant.plot.drawn.lanes.some(({{ name }}) => name === '{name}')");
    controls.until(&drawn("y_m")).await;
    controls.choose("column", "gait", &drawn("gait")).await;
    controls.click("unplot-gait", &format!("!{}", drawn("gait"))).await;
    controls.click("unplot-y_m", &format!("!{}", drawn("y_m"))).await;
    controls.click("unplot-speed_m_per_s", &format!("!{}", drawn("speed_m_per_s"))).await;
    // Every column can be plotted, by its name, four at a time.
    let all = browser.value("return rasant.place.columns.map(({ name }) => name)").await;
    let all: Vec<String> = serde_json::from_value(all).unwrap();
    for name in &all {
        browser.choose("#column", name).await;
        controls.until(&drawn(name)).await;
        controls.click(&format!("unplot-{name}"), &format!("!{}", drawn(name))).await;
    }
    for name in ["y_m", "speed_m_per_s"] {
        browser.choose("#column", name).await;
        controls.until(&drawn(name)).await;
    }
    browser.hold(' ', Duration::from_millis(80)).await;
    browser
        .until("return rasant.plot.drawn.events.includes('jumped ground')", "an event with its name")
        .await;
    controls.click("plot-out", "rasant.plot.seconds > 12").await;
    controls.click("plot-in", "rasant.plot.seconds < 11").await;
    browser.click("#plot-in").await;
    controls.click("plot-follow", "rasant.plot.seconds === 10 && rasant.plot.last === null").await;
    // On the plot itself, the wheel zooms, a drag moves, and a click goes to a time.
    let at = browser.middle("#plot").await;
    browser.wheel(at, -3).await;
    controls.until("rasant.plot.seconds < 6").await;
    browser.drag(at, [at[0] + 160.0, at[1]]).await;
    controls.until("rasant.plot.last !== null").await;
    let was = browser.is("rasant.frame.paused").await;
    browser.click_at(at).await;
    controls.effect("plot", was, "rasant.frame.paused && rasant.frame.tick < rasant.frame.length").await;
    browser.press('0').await;
    controls.until("rasant.plot.seconds === 10").await;
    browser.click("#pause").await;
    controls.key("KeyM", &[], 'm', "document.getElementById('plots').hidden").await;
}

async fn screen_pad(controls: &Controls) {
    let browser = &controls.browser;
    controls.stands().await;
    controls.click("show-pad", "!document.getElementById('pad').hidden").await;
    let actions = browser.value("return rasant.values.actions").await;
    assert_eq!(actions, json!(["jump", "dash", "run", "crouch", "own-0", "own-1"]));
    for action in actions.as_array().unwrap() {
        let action = action.as_str().unwrap();
        controls.until("rasant.frame.body.mode === 'grounded'").await;
        let at = browser.middle(&format!("#pad-{action}")).await;
        let held = format!("rasant.frame.body.held.includes('{action}')");
        let was = browser.is(&held).await;
        browser
            .pointer(vec![Browser::to(at, 0), fantoccini::actions::PointerAction::Down { button: 0 }])
            .await;
        controls.effect(&format!("pad-{action}"), was, &held).await;
        browser.pointer(vec![fantoccini::actions::PointerAction::Up { button: 0 }]).await;
        controls.until(&format!("!{held}")).await;
    }
    let at = browser.middle("#stick").await;
    let was = browser.is("rasant.frame.body.steer[0] < -0.9").await;
    let down = fantoccini::actions::PointerAction::Down { button: 0 };
    browser.pointer(vec![Browser::to(at, 0), down, Browser::to([at[0] - 57.0, at[1]], 30)]).await;
    controls.effect("stick", was, "rasant.frame.body.steer[0] < -0.9").await;
    browser.client.release_actions().await.unwrap();
    controls.until("rasant.frame.body.steer[0] === 0").await;
    browser.click("#show-pad").await;
}

async fn keys_panel(controls: &Controls, folder: &std::path::Path) {
    let browser = &controls.browser;
    browser.click("#tab-keys").await;
    let meanings = browser.value("return rasant.keys.bindings.bindings.map(({ meaning }) => meaning)").await;
    let meanings: Vec<String> = serde_json::from_value(meanings).unwrap();
    assert!(meanings.contains(&"own-1".to_owned()), "what the tuning has a use for: {meanings:?}");
    for meaning in &meanings {
        let slug = meaning.replace(' ', "-");
        let chords =
            format!("rasant.keys.bindings.bindings.find(({{ meaning }}) => meaning === '{meaning}').chords");
        let count = browser.number(&format!("return {chords}.length")).await;
        // A key is bound by pressing it and removed by its ×; Escape binds nothing.
        browser.click(&format!("#bind-{slug}")).await;
        controls.until(&format!("rasant.keys.binding === '{meaning}'")).await;
        browser.press(ESCAPE).await;
        controls.until("rasant.keys.binding === null").await;
        browser.click(&format!("#bind-{slug}")).await;
        controls.until(&format!("rasant.keys.binding === '{meaning}'")).await;
        let was = browser.is(&format!("{chords}.includes('KeyQ')")).await;
        browser.press('q').await;
        controls.effect(&format!("bind-{slug}"), was, &format!("{chords}.includes('KeyQ')")).await;
        for number in (0..=count as usize).rev() {
            controls
                .click(&format!("unbind-{slug}-{number}"), &format!("{chords}.length === {number}"))
                .await;
        }
    }
    controls.click("keys-reset", "!rasant.keys.bindings.changed").await;
    // A button of the pointer is bound on the stage.
    browser.click("#bind-own-1").await;
    let at = browser.middle("#stage").await;
    browser.drag_button(2, at, at).await;
    controls.until("rasant.keys.chordsOf('own-1').includes('right button')").await;
    controls.click("keys-save", "!rasant.keys.bindings.changed").await;
    let text = std::fs::read_to_string(folder.join("keys.toml")).unwrap();
    assert!(text.contains("# up") && text.contains("own-1 = [\"pointer:secondary\"]"), "{text}");
    browser.click("#keys-save-as").await;
    controls.until("document.getElementById('naming').open").await;
    browser.type_into("#naming-name", "evening keys").await;
    let path = folder.join("rasant-out/evening keys.bindings.toml");
    controls.until("rasant.keys.bindings.source.endsWith('evening keys.bindings.toml')").await;
    assert!(path.exists());
    controls.use_of("keys-save-as");
    browser.click("#tab-numbers").await;
}

async fn comparing(controls: &Controls) {
    let browser = &controls.browser;
    browser.click("#tab-ghosts").await;
    browser.click("#restart").await;
    controls.stands().await;
    browser.hold(' ', Duration::from_millis(400)).await;
    controls.stands().await;
    controls.click("ghost", "rasant.scene.ghosts.length === 1").await;
    controls.key("KeyG", &[], 'g', "rasant.scene.ghosts.length === 2").await;
    controls.click("forget-1", "rasant.scene.ghosts.length === 1").await;
    controls.click("replay", "rasant.scene.replays").await;
    browser.click("#tab-numbers").await;
    browser.type_into("[id='knob-jump.height']", "3").await;
    controls.until("rasant.scene.replayed?.summary.highest_m > 2.8").await;
    browser.click("#tab-ghosts").await;
    controls.until("/diverge after/.test(document.getElementById('ghosts').textContent)").await;
    browser.click("#replay").await;
    controls.until("!rasant.scene.replays").await;
    controls.click("forget-0", "rasant.scene.ghosts.length === 0").await;
    browser.click("#tab-numbers").await;
    browser.click("#undo").await;
    controls.until("rasant.values.undo === 0").await;
}

/// The value of a number, as the tool has it.
fn target(path: &str) -> String {
    format!("rasant.values.values[rasant.hello.knobs.findIndex((knob) => knob.path === '{path}')]")
}

async fn numbers(controls: &Controls, folder: &std::path::Path) {
    let browser = &controls.browser;
    let height = target("jump.height");
    browser.type_into("[id='knob-jump.height']", "2.5").await;
    controls.until(&format!("{height} === 2.5")).await;
    controls.click("keep-a", "rasant.values.kept[0]").await;
    controls.click("undo", &format!("{height} === 1.5")).await;
    controls.click("redo", &format!("{height} === 2.5")).await;
    controls.key("KeyZ", &[CONTROL], 'z', &format!("{height} === 1.5")).await;
    controls.key("KeyY", &[CONTROL], 'y', &format!("{height} === 2.5")).await;
    browser.chord(&[CONTROL], 'z').await;
    controls.until(&format!("{height} === 1.5")).await;
    browser.chord(&[CONTROL, SHIFT], 'z').await;
    controls.until(&format!("{height} === 2.5")).await;
    browser.chord(&[CONTROL], 'z').await;
    controls.until(&format!("{height} === 1.5")).await;
    controls.click("keep-b", "rasant.values.kept[1]").await;
    controls.click("take-a", &format!("{height} === 2.5")).await;
    controls.click("take-b", &format!("{height} === 1.5")).await;
    controls.key("Digit1", &[], '1', &format!("{height} === 2.5")).await;
    controls.key("Digit2", &[], '2', &format!("{height} === 1.5")).await;
    browser.press('1').await;
    controls.until(&format!("{height} === 2.5")).await;
    controls
        .click("save", "JSON.stringify(rasant.values.values) === JSON.stringify(rasant.values.file)")
        .await;
    let text = std::fs::read_to_string(folder.join("watch.toml")).unwrap();
    assert!(text.contains("height = 2.5   # not too high"), "{text}");
    // A dialog that is cancelled writes nothing.
    browser.click("#save-as").await;
    controls.until("document.getElementById('naming').open").await;
    controls.click("naming-cancel", "!document.getElementById('naming').open").await;
    assert!(!folder.join("rasant-out/my-tuning.toml").exists());
    browser.click("#save-as").await;
    controls.until("document.getElementById('naming').open").await;
    let was = browser.is("document.getElementById('naming-name').value === 'late watch'").await;
    browser.click("#naming-name").await;
    browser.chord(&[CONTROL], 'a').await;
    let typed = "late watch".chars().flat_map(|value| {
        [fantoccini::actions::KeyAction::Down { value }, fantoccini::actions::KeyAction::Up { value }]
    });
    browser.keys(typed.collect()).await;
    controls
        .effect("naming-name", was, "document.getElementById('naming-name').value === 'late watch'")
        .await;
    controls.click("naming-ok", "rasant.values.source?.endsWith('late watch.toml')").await;
    controls.use_of("save-as");
    assert!(folder.join("rasant-out/late watch.toml").exists());
    let found = "document.getElementById('group-walk').hidden && document.getElementById('knob-fall.gravity').checkVisibility()";
    let was = browser.is(found).await;
    browser.type_into("#find", "gravity").await;
    controls.effect("find", was, found).await;
    browser.click("#find").await;
    browser.chord(&[CONTROL], 'a').await;
    browser.press(DELETE).await;
    browser.click("#stage").await;
    controls.until("!document.getElementById('group-hull').hidden").await;
    every_number(controls).await;
    // A group, and all of them.
    for (group, id) in [("jump", "jump.height"), ("walk", "walk.speed")] {
        open_group(controls, group).await;
        browser.type_into(&format!("[id='knob-{id}']"), "3.25").await;
        controls.until(&format!("{} === 3.25", target(id))).await;
    }
    controls
        .click("reset-all", &format!("{} === 2.5 && {} === 3.5", target("jump.height"), target("walk.speed")))
        .await;
}

/// Each slider is dragged, each field typed into, each put back; of hulls in every shape.
async fn every_number(controls: &Controls) {
    let browser = &controls.browser;
    let knobs: Vec<Value> = serde_json::from_value(browser.value("return rasant.hello.knobs").await).unwrap();
    let mut group = String::new();
    let shown = |path: &str| format!("return document.getElementById('knob-{path}').checkVisibility()");
    open_group(controls, "hull").await;
    // The file's hull is a capsule.
    for shape in ["ball", "box"] {
        choose_shape(controls, shape).await;
        for knob in knobs.iter().filter(|knob| knob["path"].as_str().unwrap().starts_with("hull.")) {
            let path = knob["path"].as_str().unwrap();
            if browser.value(&shown(path)).await == json!(true) {
                one_number(controls, path, false, Some(shape)).await;
            }
        }
    }
    let reset = "document.querySelectorAll('#group-hull .knob.other').length === 0";
    controls.click("reset-hull", &format!("rasant.values.shape === 'capsule' && {reset}")).await;
    for path in ["hull.radius", "hull.height", "hull.clearance"] {
        one_number(controls, path, false, None).await;
        controls.click("reset-hull", reset).await;
    }
    for knob in &knobs {
        let path = knob["path"].as_str().unwrap();
        let own = path.split('.').next().unwrap();
        if own == "hull" {
            continue;
        }
        if own != group {
            group = own.to_owned();
            open_group(controls, own).await;
        }
        let switch = knob["whole"] == json!(true) && knob["min"] == json!(0.0) && knob["max"] == json!(1.0);
        one_number(controls, path, switch, None).await;
        // The button of a group restores the typed number.
        let next = knobs.iter().skip_while(|one| one["path"] != knob["path"]).nth(1);
        if next.is_none_or(|next| !next["path"].as_str().unwrap().starts_with(&format!("{own}."))) {
            let changed = format!("document.querySelectorAll('#group-{own} .knob.other').length");
            controls.click(&format!("reset-{own}"), &format!("{changed} === 0")).await;
            browser.click(&format!("#group-{own} summary")).await;
        }
    }
}

async fn choose_shape(controls: &Controls, shape: &str) {
    controls.choose("knob-hull.shape", shape, &format!("rasant.values.shape === '{shape}'")).await;
}

async fn open_group(controls: &Controls, group: &str) {
    let browser = &controls.browser;
    let id = format!("group-{group}");
    if browser.is(&format!("document.getElementById('{id}').open")).await {
        browser.click(&format!("#{id} summary")).await;
        controls.until(&format!("!document.getElementById('{id}').open")).await;
    }
    browser.click(&format!("#{id} summary")).await;
    controls.effect(&format!("{id} summary"), false, &format!("document.getElementById('{id}').open")).await;
}

/// Drags a slider from its thumb to a quarter or three quarters of its length, whichever is
/// further; a switch to its other end.
async fn drag_slider(controls: &Controls, path: &str, switch: bool) {
    let browser = &controls.browser;
    let selector = format!("[id='slider-{path}']");
    let [left, top, width, height] = browser.seen(&selector).await;
    let place = format!(
        "const one = document.querySelector({selector:?}); return (one.value - one.min) / (one.max - one.min)"
    );
    let now = browser.number(&place).await;
    let to = match (switch, now > 0.5) {
        (true, true) => 0.0,
        (true, false) => 1.0,
        (false, true) => 0.25,
        (false, false) => 0.75,
    };
    // The thumb is 16 pixels wide and stays within the track.
    let x = |fraction: f64| left + 8.0 + fraction * (width - 16.0);
    let y = top + 0.5 * height;
    browser.drag([x(now), y], [x(to), y]).await;
}

/// The slider, the arrow back and the field of one number. Of a hull in another `shape` than the
/// file's, the arrow puts the file's shape back as well.
async fn one_number(controls: &Controls, path: &str, switch: bool, shape: Option<&str>) {
    let browser = &controls.browser;
    let value = target(path);
    let before = browser.number(&format!("return {value}")).await;
    let back = format!("Math.abs({value} - {before}) < 1e-5");
    drag_slider(controls, path, switch).await;
    controls.effect(&format!("slider-{path}"), false, &format!("{value} !== {before}")).await;
    let dragged = browser.number(&format!("return {value}")).await;
    // The number that is shown is the one that holds.
    let field = format!("Number(document.getElementById('knob-{path}').value)");
    controls.until(&format!("Math.abs({field} - {value}) <= 1e-3 * Math.max(1, Math.abs({value}))")).await;
    match shape {
        Some(shape) => {
            controls.click(&format!("undo-{path}"), "rasant.values.shape === 'capsule'").await;
            choose_shape(controls, shape).await;
        }
        None => controls.click(&format!("undo-{path}"), &back).await,
    }
    let typed = dragged as f32;
    let holds = format!("Math.abs({value} - {typed}) <= 1e-5 * Math.max(1, Math.abs({typed}))");
    let was = browser.is(&holds).await;
    browser.type_into(&format!("[id='knob-{path}']"), &typed.to_string()).await;
    controls.effect(&format!("knob-{path}"), was, &holds).await;
}

async fn sharing(controls: &Controls, folder: &std::path::Path) {
    let browser = &controls.browser;
    browser.click("#restart").await;
    browser.hold('d', Duration::from_millis(500)).await;
    let open = async || {
        let was = browser.is("document.getElementById('share').open").await;
        browser.click("#share summary").await;
        controls.effect("share summary", was, "document.getElementById('share').open").await;
    };
    open().await;
    browser.click("#record").await;
    browser.type_into("#naming-name", "evening").await;
    controls.until("/rasant check/.test(document.getElementById('words').textContent)").await;
    controls.use_of("record");
    assert!(folder.join("rasant-out/evening.toml").exists());
    open().await;
    controls.click("picture", "rasant.kept.picture > 1000").await;
    open().await;
    controls.click("clip", "!document.getElementById('recording').hidden").await;
    tokio::time::sleep(Duration::from_millis(700)).await;
    open().await;
    browser.click("#clip").await;
    controls.until("rasant.kept.clip > 1000").await;
    open().await;
    controls.click("link", "rasant.kept.link && location.hash.startsWith('#play=')").await;
    open().await;
    browser.click("#export").await;
    browser.type_into("#naming-name", "evening page").await;
    controls.until("/evening page.html/.test(document.getElementById('words').textContent)").await;
    controls.use_of("export");
    assert!(folder.join("rasant-out/evening page.html").exists());
}

/// A field of the last part, by a path such as `block[0][1]`.
fn last(path: &str) -> String {
    format!("rasant.place.parts.at(-1).fields.{path}")
}

async fn place(controls: &Controls, folder: &std::path::Path) {
    let browser = &controls.browser;
    browser.click("#tab-place").await;
    let parts = "rasant.place.parts.length";
    let kinds =
        browser.value("return [...document.querySelectorAll('[id^=add-]')].map((one) => one.id)").await;
    let kinds: Vec<String> = serde_json::from_value(kinds).unwrap();
    assert!(kinds.len() > 12, "{kinds:?}");
    for kind in &kinds {
        let count = browser.number(&format!("return {parts}")).await;
        controls.click(kind, &format!("{parts} > {count}")).await;
        controls.until("rasant.editor.part").await;
        fields_of(controls, kind).await;
        // Delete all added parts.
        while browser.number(&format!("return {parts}")).await > count {
            let added =
                "const one = rasant.place.parts.findLast(({ fields }) => fields.block?.[0][0] !== -40);
                return `${one.part.of} ${one.part.number}`";
            let added = browser.value(added).await;
            browser.choose("#parts", added.as_str().unwrap()).await;
            let now = browser.number(&format!("return {parts}")).await;
            controls.click("part-delete", &format!("{parts} === {}", now - 1.0)).await;
        }
    }
    browser.click("#add-block").await;
    controls.until(&format!("{parts} === 2")).await;
    controls.click("part-copy", &format!("{parts} === 3")).await;
    let was = browser.is(&format!("{parts} === 2")).await;
    browser.choose("#parts", "piece 2").await;
    controls.until("rasant.editor.chosen === 'piece 2'").await;
    browser.value("document.getElementById('parts').focus()").await;
    browser.press(DELETE).await;
    controls.effect("parts", was, &format!("{parts} === 2")).await;
    controls.choose("grid", "1", "rasant.editor.grid === 1").await;
    // Drag a part with the pointer, by whole metres.
    let block = browser.value(&format!("return {}", last("block"))).await;
    let [x, y] =
        [0, 1].map(|axis| 0.5 * (block[0][axis].as_f64().unwrap() + block[1][axis].as_f64().unwrap()));
    controls.click("tool-measure", "rasant.editor.tool === 'measure'").await;
    browser.drag(browser.on_page(x - 3.0, 1.0).await, browser.on_page(x, 1.0).await).await;
    controls.until("/^3.00 m: 3.00 across/.test(document.getElementById('measured').textContent)").await;
    controls.click("tool-pick", "rasant.editor.tool === 'pick'").await;
    browser.drag(browser.on_page(x, y).await, browser.on_page(x + 2.0, y).await).await;
    controls.until(&format!("Math.abs({} - {}) < 1.01", last("block[0][0]"), x + 1.0)).await;
    browser.chord(&[CONTROL], 'z').await;
    controls.until(&format!("{} === {}", last("block[0][0]"), block[0][0])).await;
    controls.click("tool-start", "rasant.editor.tool === 'start'").await;
    browser.click_at(browser.on_page(x - 5.0, 3.0).await).await;
    controls.until(&format!("Math.abs(rasant.frame.body.feet[0] - ({})) < 1", x - 5.0)).await;
    controls.click("save-place", "!rasant.place.changed").await;
    assert_eq!(std::fs::read_to_string(folder.join("yard.toml")).unwrap().matches("[[piece]]").count(), 2);
    browser.click("#save-place-as").await;
    browser.type_into("#naming-name", "my yard").await;
    controls.until("rasant.place.source?.endsWith('my yard.level.toml')").await;
    controls.use_of("save-place-as");
    assert!(folder.join("rasant-out/my yard.level.toml").exists());
    browser.click("#tab-numbers").await;
}

/// The fields of the part that was added last and is chosen.
async fn fields_of(controls: &Controls, kind: &str) {
    let browser = &controls.browser;
    let names = browser
        .value("return [...document.querySelectorAll('#part input, #part select')].map((one) => [one.name, one.type, one.value])")
        .await;
    for one in names.as_array().unwrap() {
        let (name, form, value) =
            (one[0].as_str().unwrap(), one[1].as_str().unwrap(), one[2].as_str().unwrap());
        // The fields of places and names are the same for all kinds.
        if controls.used.borrow().contains(&format!("[name=\"{name}\"]")) {
            continue;
        }
        // A part that no longer moves has no fields for that.
        if !browser.is(&format!("document.querySelector(`#part [name='{name}']`)")).await {
            assert!(name.starts_with("moves by") || name == "seconds", "{kind}: {name}");
            continue;
        }
        let whole = "JSON.stringify(rasant.editor.part)";
        let before = browser.value(&format!("return {whole}")).await;
        let changed = format!("{whole} !== {before}");
        match (form, name) {
            ("number", _) => {
                // A turned block has no corners: from and to are tried in an order that works.
                let number: f64 = value.parse().unwrap();
                let other = match name {
                    "turn" => number + 10.0,
                    "number" => number + 3.0,
                    _ => number + 0.25,
                };
                controls.field(name, &format!("{}", other as f32), &changed).await;
                if name.starts_with("turn") {
                    controls.browser.chord(&[CONTROL], 'z').await;
                }
            }
            ("text", _) => controls.field(name, &format!("the {kind}"), &changed).await,
            ("checkbox", _) => {
                browser.click(&format!("#part [name='{name}']")).await;
                controls.effect(&format!("[name=\"{name}\"]"), false, &changed).await;
                if name == "rides" && browser.is("rasant.editor.part.ride").await {
                    for field in ["moves by x", "seconds"] {
                        let before = browser.value(&format!("return {whole}")).await;
                        controls.field(field, "4.5", &format!("{whole} !== {before}")).await;
                    }
                    for axis in browser.value("return [...document.querySelectorAll('#part [name^=\"moves by\"]')].map((one) => one.name)").await.as_array().unwrap() {
                        let before = browser.value(&format!("return {whole}")).await;
                        controls.field(axis.as_str().unwrap(), "2.75", &format!("{whole} !== {before}")).await;
                    }
                }
            }
            _ => {
                if browser.is("rasant.place.surfaces.length > 1").await {
                    let surface = browser.value("return rasant.place.surfaces[1]").await;
                    browser.choose("#part [name='surface']", surface.as_str().unwrap()).await;
                    controls.effect("[name=\"surface\"]", false, &changed).await;
                }
            }
        }
    }
}

/// What there is in three dimensions only.
async fn space(controls: &Controls) {
    let browser = &controls.browser;
    browser.choose("#trial", "demo:stair-tower").await;
    controls.until("rasant.place.dimensions === 3 && rasant.frame.tick > 5").await;
    controls.click("lock", "document.pointerLockElement?.id === 'stage'").await;
    browser.press(ESCAPE).await;
    controls.until("!document.pointerLockElement").await;
    // Browsers allow another pointer lock only after a delay.
    tokio::time::sleep(Duration::from_millis(1600)).await;
    controls.click("eye", "rasant.scene.firstPerson").await;
    controls.until("document.pointerLockElement").await;
    browser.press(ESCAPE).await;
    controls.until("!document.pointerLockElement").await;
    browser.click("#eye").await;
    controls.until("!rasant.scene.firstPerson").await;
    // Dragging turns the look, without the lock.
    let at = browser.middle("#stage").await;
    let yaw = browser.number("return rasant.frame.body.look[0]").await;
    browser.drag(at, [at[0] + 140.0, at[1]]).await;
    controls.until(&format!("Math.abs(rasant.frame.body.look[0] - {yaw}) > 0.05")).await;
    browser.click("#show-debug").await;
    controls.until("rasant.frame.debug?.contacts.length > 0 && rasant.frame.debug.normal").await;
    browser.click("#show-debug").await;
    browser.click("#show-plot").await;
    for name in ["z_m", "vz_m_per_s", "normal_z", "facing_z"] {
        let drawn = format!("rasant.plot.drawn.lanes.some(({{ name }}) => name === '{name}')");
        browser.choose("#column", name).await;
        controls.until(&drawn).await;
        controls.click(&format!("unplot-{name}"), &format!("!({drawn})")).await;
    }
    browser.click("#show-plot").await;
    browser.click("#tab-place").await;
    for kind in ["block", "ball", "ramp", "wind", "gravity"] {
        let count = browser.number("return rasant.place.parts.length").await;
        browser.click(&format!("#add-{kind}")).await;
        controls.until(&format!("rasant.place.parts.length > {count} && rasant.editor.part")).await;
        fields_of(controls, kind).await;
    }
    browser.click("#tab-numbers").await;
}

async fn opening(controls: &Controls) {
    controls.choose("trial", "demo:canal-steps", "rasant.place.trial === 'demo:canal-steps'").await;
    controls
        .choose("tuning", "demo:porter", "rasant.values.title !== '' && /orter/.test(document.title)")
        .await;
    controls.browser.press(ENTER).await;
    let count =
        controls.browser.number("return [...document.querySelectorAll('#trial option')].length").await;
    assert!(count > 20.0, "{count} trials and levels");
}
