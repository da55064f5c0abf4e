//! The first session of a person, from the first key to an exported page.

use std::time::Duration;

use serde_json::json;

use super::driver::{Browser, CONTROL, ESCAPE, LEFT, RETURN, RIGHT, decoded, is_lamp, is_night};
use super::{TUNING, Tool};

const HEIGHT: &str = "return rasant.frame.body.feet[1]";
const STANDS: &str = "return rasant.frame.body.mode === 'grounded'";

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("watch.toml"), TUNING).unwrap();
    folder
}

#[tokio::test]
async fn keys_walk_and_jump_and_a_dragged_slider_jumps_higher() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "watch.toml"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until("return rasant.frame.body.mode === 'grounded' && rasant.frame.tick > 20", "standing").await;
    // However slowly it is drawn here: until it has walked that far.
    let from = browser.number("return rasant.frame.body.feet[0]").await;
    browser.keys(vec![fantoccini::actions::KeyAction::Down { value: RIGHT }]).await;
    browser.until(&format!("return rasant.frame.body.feet[0] > {}", from + 0.8), "the walk").await;
    browser.client.release_actions().await.unwrap();
    let jump = async |what: &str| {
        browser.until(STANDS, "standing").await;
        let ground = browser.number(HEIGHT).await;
        browser.hold(' ', Duration::from_millis(700)).await;
        browser.until(STANDS, what).await;
        // The top is in the ticks, however few frames were drawn.
        let highest =
            "return Math.max(...rasant.scene.history.ticks.slice(-120).map((tick) => tick.feet[1]))";
        browser.number(highest).await - ground
    };
    let plain = jump("a landing").await;
    assert!((plain - 1.5).abs() < 0.05, "{plain}");
    // The slider of the height is dragged to the right; the keys are the body's again at once.
    let [left, top, width, height] = browser.seen("[id='slider-jump.height']").await;
    let value = |fraction: f64| [left + 8.0 + fraction * (width - 16.0), top + 0.5 * height];
    let now = browser.number("return document.getElementById('slider-jump.height').value / 1000").await;
    browser.drag(value(now), value(now + 0.05)).await;
    let target = "rasant.values.values[rasant.hello.knobs.findIndex((knob) => knob.path === 'jump.height')]";
    browser.until(&format!("return {target} > 1.6"), "the dragged number").await;
    let chosen = browser.number(&format!("return {target}")).await;
    let higher = jump("a higher landing").await;
    assert!((higher - chosen).abs() < 0.01 * chosen, "{higher} of {chosen}");
    let figure = format!(
        "return Math.abs(parseFloat(document.querySelector('[data-figure=\"jump-height\"]')?.textContent) - {chosen}) < 0.01"
    );
    browser.until(&figure, "the figure").await;
    drop(tool);
    browser
        .until("return !document.getElementById('disconnected').hidden", "the word that the tool has ended")
        .await;
    assert_eq!(browser.number("return rasant.unknown").await, 0.0);
}

/// The second player has the arrow keys and Enter, and a key that is held with Ctrl is the game's where
/// Ctrl is bound.
#[tokio::test]
async fn two_players_share_a_keyboard_and_keys_with_ctrl_are_played() {
    use fantoccini::actions::KeyAction;
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:two-lamplighters"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until("return rasant.frame.tick > 20", "the start").await;
    browser.keys(vec![KeyAction::Down { value: 'd' }, KeyAction::Down { value: LEFT }]).await;
    let apart = "rasant.frame.others[0].body.feet[0] - rasant.frame.body.feet[0]";
    browser.until(&format!("return {apart} < 0.65"), "the two to meet").await;
    assert!(browser.number(&format!("return {apart}")).await > 0.59, "they never overlap");
    browser.client.release_actions().await.unwrap();
    assert_eq!(browser.number("return rasant.frame.others.length").await, 1.0);
    assert!(browser.is("rasant.frame.others[0].isSecondPlayer").await);
    browser.keys(vec![KeyAction::Down { value: RETURN }]).await;
    browser.until("return rasant.frame.others[0].body.feet[1] > 1", "the jump of the second").await;
    assert!(browser.is("rasant.frame.body.mode === 'grounded'").await, "the first stays on the ground");
    browser.client.release_actions().await.unwrap();
    // Crouching is on Ctrl, and walks on with A.
    let from = browser.number("return rasant.frame.body.feet[0]").await;
    browser.keys(vec![KeyAction::Down { value: CONTROL }, KeyAction::Down { value: 'a' }]).await;
    browser.until(&format!("return rasant.frame.body.feet[0] < {}", from - 0.5), "the crouched walk").await;
    assert!(browser.is("rasant.frame.body.held.includes('crouch')").await);
    browser.client.release_actions().await.unwrap();
    browser.until("return !rasant.frame.body.held.length", "the release").await;
    browser.press('?').await;
    browser
        .until("return document.getElementById('help').innerText.includes('The second player')", "its keys")
        .await;
}

#[tokio::test]
async fn every_view_draws_the_level_with_hull_and_with_figure() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &[]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    for (trial, name) in [
        ("demo:first-roof", "play-side"),
        ("demo:market-square", "play-plan"),
        ("demo:fairground", "play-fairground"),
        ("demo:stair-tower", "play-follow"),
    ] {
        browser.choose("#trial", trial).await;
        let shown = format!("return rasant.place.trial === '{trial}' && rasant.frame.tick > 40");
        browser.until(&shown, trial).await;
        let lamp = browser.pixels(name, is_lamp).await;
        let ground = browser.pixels(name, |pixel| !is_night(pixel) && !is_lamp(pixel)).await;
        assert!(lamp > 2e-4, "{trial}: the body is {lamp} of the picture");
        assert!(ground > 0.05, "{trial}: the place is {ground} of the picture");
        browser.click("#show-figure").await;
        browser.until("return rasant.scene.figure", "the figure").await;
        tokio::time::sleep(Duration::from_millis(200)).await;
        let figure = browser.pixels(&format!("{name}-figure"), is_lamp).await;
        assert!(figure > 5e-5 && figure != lamp, "{trial}: the figure is {figure}, the hull {lamp}");
        browser.click("#show-figure").await;
        if name == "play-follow" {
            // The wheel makes the arm of the camera longer; the direction stays.
            let away =
                "Math.hypot(...rasant.views.deep.eye.map((part, i) => part - rasant.frame.camera.focus[i]))";
            let aim = "return rasant.views.deep.aim";
            let (near, ahead) = (browser.number(&format!("return {away}")).await, browser.value(aim).await);
            browser.wheel([400.0, 300.0], 3).await;
            browser.until(&format!("return {away} > {}", 1.2 * near), "a longer arm").await;
            assert_eq!(browser.value(aim).await, ahead);
            browser.wheel([400.0, 300.0], -3).await;
            browser.until(&format!("return Math.abs({away} - {near}) < 0.01"), "the arm as it was").await;
            // In first person the body is not seen, and the place is.
            browser.click("#eye").await;
            browser.until("return rasant.scene.firstPerson", "first person").await;
            tokio::time::sleep(Duration::from_millis(300)).await;
            let own = browser.pixels("play-first-person", is_lamp).await;
            let place = browser.pixels("play-first-person", |pixel| !is_night(pixel)).await;
            assert!(own < 0.2 * lamp, "{own} of {lamp}");
            assert!(place > 0.1, "{place}");
        }
    }
}

/// A level in pixels with y down is seen upright, and edited in its own numbers.
#[tokio::test]
async fn a_level_with_y_down_is_played_and_edited_upright() {
    let folder = folder();
    let level = "up = \"-y\"\nscale = 32\nstart = [64, 0]\n[[piece]]\nblock = [[-320, 0], [640, 32]]\n";
    std::fs::write(folder.path().join("cellar.toml"), level).unwrap();
    let tool = Tool::start(folder.path(), &["cellar.toml"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until(STANDS, "standing").await;
    let [floor, above] = [browser.on_page(64.0, 0.0).await, browser.on_page(64.0, -64.0).await];
    assert!(above[1] < floor[1] - 20.0, "up is up: {above:?} over {floor:?}");
    // The figure stands on the floor, and jumps away from it.
    browser.hold(' ', Duration::from_millis(300)).await;
    browser.until("return rasant.frame.body.feet[1] < -32", "the jump").await;
    browser.until(STANDS, "the landing").await;
    browser.click("#tab-place").await;
    browser.click("#add-ramp").await;
    let point = |number: u32, axis: &str| {
        format!("Number(document.querySelector('#part [name=\"point {number} {axis}\"]')?.value)")
    };
    browser.until(&format!("return {} === -32", point(3, "y")), "a ramp, a metre high").await;
    let [x, y] = [browser.number(&format!("return {}", point(3, "x"))).await, -32.0];
    // Its tip is dragged up by a metre.
    browser.drag(browser.on_page(x, y).await, browser.on_page(x, y - 32.0).await).await;
    browser.until(&format!("return {} === -64", point(3, "y")), "the higher tip").await;
    browser.click("#tool-measure").await;
    browser.drag(browser.on_page(0.0, 0.0).await, browser.on_page(32.0, -16.0).await).await;
    let measured =
        "return document.getElementById('measured').textContent.includes('32.00 across, 16.00 up')";
    browser.until(measured, "the measurement").await;
    browser.click("#save-place").await;
    browser.until("return document.getElementById('save-place').disabled", "saving").await;
    let saved = std::fs::read_to_string(folder.path().join("cellar.toml")).unwrap();
    assert!(saved.contains("up = \"-y\"") && saved.contains(", -64]"), "{saved}");
}

#[tokio::test]
async fn the_path_is_drawn_from_every_tick_however_few_frames_arrive() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &[]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until(STANDS, "standing").await;
    // A busy machine: every frame takes a seventh of a second.
    browser
        .value("rasant.slow = setInterval(() => { const end = performance.now() + 140; while (performance.now() < end); }, 0)")
        .await;
    browser.hold('d', Duration::from_millis(600)).await;
    browser.hold(' ', Duration::from_millis(600)).await;
    browser.value("clearInterval(rasant.slow)").await;
    let ticks = browser.value("return rasant.scene.history.ticks.map(({ tick }) => tick)").await;
    let ticks: Vec<u64> = serde_json::from_value(ticks).unwrap();
    assert!(ticks.len() > 60, "{} ticks", ticks.len());
    assert!(ticks.windows(2).all(|pair| pair[1] == pair[0] + 1), "{ticks:?}");
}

#[tokio::test]
async fn a_games_own_actions_have_keys_that_can_be_changed_saved_and_started_with() {
    let folder = folder();
    let tuning = format!("{TUNING}\n[roll]\naction = 0\n\n[slam]\naction = 7\n");
    std::fs::write(folder.path().join("own.toml"), tuning).unwrap();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "own.toml"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until(STANDS, "standing").await;
    browser.press('e').await;
    let rolled = "return rasant.scene.history.ticks.some((tick) => tick.events.some((event) => event.detail?.startsWith('roll')))";
    browser.until(rolled, "the roll").await;
    browser.until(STANDS, "standing again").await;
    // The slam has no key, and the help says so. A chord is bound to it.
    browser.press('?').await;
    let help = browser.value("return document.getElementById('help-tables').textContent").await;
    assert!(help.as_str().unwrap().contains("slamno key"), "{help}");
    browser.press(ESCAPE).await;
    browser.until("return !document.getElementById('help').open", "the closed help").await;
    browser.click("#tab-keys").await;
    browser.click("#bind-own-7").await;
    browser.chord(&['t'], 'y').await;
    let bound = "return rasant.keys.chordsOf('own-7').includes('T + Y')";
    browser.until(bound, "the bound chord").await;
    browser.click("#stage").await;
    let slammed = "return rasant.frame.body.gait === 'slam'";
    browser.hold(' ', Duration::from_millis(120)).await;
    browser.until("return rasant.frame.body.mode === 'airborne'", "the jump").await;
    browser.chord(&['t'], 'y').await;
    browser.until(slammed, "the slam").await;
    browser.click("#keys-save-as").await;
    browser.type_into("#naming-name", "my keys").await;
    let path = folder.path().join("rasant-out/my keys.bindings.toml");
    browser.until("return !rasant.keys.bindings.changed", "the saved keys").await;
    assert!(std::fs::read_to_string(&path).unwrap().contains("own-7 = [\"KeyT + KeyY\"]"));
    // Started with that file, and without the default keys that it does not have.
    let keys = "[actions]\njump = [\"KeyU\", \"wheel:up\"] # up\n";
    std::fs::write(folder.path().join("keys.toml"), keys).unwrap();
    let other = Tool::start(folder.path(), &["demo:first-roof", "--bindings", "keys.toml"]);
    browser.open(&other).await;
    browser.until(STANDS, "standing").await;
    let ticks = "return rasant.scene.history.ticks.filter((tick) => tick.events.some(({ name }) => name === 'jumped')).length";
    browser.press(' ').await;
    browser.press('u').await;
    browser.until(&format!("{ticks} === 1"), "one jump").await;
    browser.until(STANDS, "a landing").await;
    browser.wheel(browser.middle("#stage").await, -1).await;
    browser.until(&format!("{ticks} === 2"), "a jump by the wheel").await;
    assert_eq!(browser.number("return rasant.scene.zoom").await, 1.0, "what is bound does not zoom");
}

#[tokio::test]
async fn the_pointers_buttons_play_and_its_lock_looks() {
    let folder = folder();
    let tuning = format!("{TUNING}\n[dash]\ncharges = 1\n");
    std::fs::write(folder.path().join("dash.toml"), tuning).unwrap();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "dash.toml"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until(STANDS, "standing").await;
    let at = browser.middle("#stage").await;
    browser.drag_button(2, at, at).await;
    let dashed = "return rasant.scene.history.ticks.some((tick) => tick.maneuver)";
    browser.until(dashed, "a dash by the right button").await;
    browser.choose("#trial", "demo:stair-tower").await;
    browser.until("return rasant.place.dimensions === 3 && rasant.frame.tick > 5", "three dimensions").await;
    browser.click("#lock").await;
    browser.until("return document.pointerLockElement?.id === 'stage'", "the lock").await;
    let yaw = browser.number("return rasant.frame.body.look[0]").await;
    browser.pointer(vec![Browser::to(at, 0), Browser::to([at[0] + 120.0, at[1]], 60)]).await;
    browser.until(&format!("return Math.abs(rasant.frame.body.look[0] - {yaw}) > 0.05"), "the look").await;
    browser.press(ESCAPE).await;
    browser
        .until(
            "return !document.pointerLockElement && !document.getElementById('lock').checked",
            "the end of the lock",
        )
        .await;
}

#[tokio::test]
async fn a_link_opens_the_same_moment_and_a_page_plays_without_the_tool() {
    let folder = folder();
    for (trial, keys) in [("demo:first-roof", ['d', ' ']), ("demo:stair-tower", ['w', ' '])] {
        let tool = Tool::start(folder.path(), &[trial]);
        let browser = Browser::start().await;
        browser.open(&tool).await;
        browser.until(STANDS, "standing").await;
        browser.click("#group-hull summary").await;
        browser.type_into("[id='knob-hull.height']", "1.5").await;
        browser.type_into("[id='knob-jump.height']", "2.75").await;
        browser.until("return rasant.values.undo === 2", "two changes").await;
        // The link has the present numbers from the start.
        let before = browser.number("return rasant.frame.tick").await;
        browser.click("#restart").await;
        // However late it is looked at.
        browser.until(&format!("return rasant.frame.tick < {before}"), "the start").await;
        for key in keys {
            browser.hold(key, Duration::from_millis(400)).await;
        }
        browser.click("#pause").await;
        browser.until("return rasant.frame.paused", "a hold").await;
        let state =
            "return [rasant.frame.tick, rasant.frame.length, rasant.frame.body.feet, rasant.values.values]";
        let held = browser.value(state).await;
        browser.click("#share summary").await;
        browser.click("#link").await;
        browser.until("return rasant.kept.link.includes('#play=')", "the link").await;
        let link = browser.value("return rasant.kept.link").await.as_str().unwrap().to_owned();
        // A ghost, and the whole as one page.
        browser.press('g').await;
        browser.until("return rasant.scene.ghosts.length === 1", "the ghost").await;
        let name = trial.trim_start_matches("demo:");
        browser.click("#share summary").await;
        browser.click("#export").await;
        browser.type_into("#naming-name", name).await;
        let file = folder.path().join(format!("rasant-out/{name}.html"));
        browser
            .until("return /written to/.test(document.getElementById('words').textContent)", "the page")
            .await;
        // The running tool opens the link, and so does a later one that gets it as an argument.
        for tool in [&tool, &Tool::start(folder.path(), &[trial, "--link", &link])] {
            let fragment = link.split_once('#').unwrap().1;
            let address = if tool.address.contains('#') {
                tool.address.clone()
            } else {
                format!("{}#{fragment}", tool.address)
            };
            browser.client.goto("about:blank").await.unwrap();
            browser.client.goto(&address).await.unwrap();
            let opened = format!(
                "return !!window.rasant?.frame && rasant.frame.paused && rasant.frame.length === {}",
                held[1]
            );
            browser.until(&opened, "the moment of the link").await;
            assert_eq!(browser.value(state).await, held, "{trial}");
            browser.until("return rasant.scene.history.ticks.length > 20", "its path").await;
        }
        drop(tool);
        // Without any tool, from the disk.
        browser.client.goto(&format!("file://{}", file.display())).await.unwrap();
        browser.until("return !!window.rasant && rasant.attempt.moments.length > 30", "the attempt").await;
        let last = browser.value("return rasant.attempt.moments.at(-1).body.feet").await;
        assert_eq!(last, held[2], "{trial}");
        browser.click("#pause").await;
        browser.until("return rasant.time > 5", "it plays").await;
        browser.click("#pause").await;
        browser.until("return !rasant.plays", "it holds").await;
        let [left, top, width, height] = browser.seen("#scrub").await;
        browser.click_at([left + 0.5 * width, top + 0.5 * height]).await;
        let half = browser.number("return rasant.time / (rasant.attempt.moments.length - 1)").await;
        assert!((half - 0.5).abs() < 0.1, "{half}");
        browser.choose("#speed", "0.1").await;
        let before = browser.number("return rasant.time").await;
        browser.click("#on").await;
        browser.until(&format!("return rasant.time === {}", before.floor() + 1.0), "a tick on").await;
        browser.click("#back").await;
        browser.until(&format!("return rasant.time === {}", before.floor()), "a tick back").await;
        browser.click("#show-figure").await;
        browser.click("#show-ghosts").await;
        browser
            .until("return rasant.scene.figure && rasant.scene.ghosts.length === 0", "figure, no ghost")
            .await;
        browser.click("#show-ghosts").await;
        let table = browser.value("return document.getElementById('ghosts').textContent").await;
        assert!(table.as_str().unwrap().contains("this attempt"), "{table}");
        let lamp = browser.pixels(&format!("exported-{name}"), is_lamp).await;
        assert!(lamp > 5e-5, "{trial}: the body is {lamp} of the picture");
        let requests = "return performance.getEntriesByType('resource').filter(({ name }) => !name.startsWith('data:')).length";
        assert_eq!(browser.number(requests).await, 0.0, "it makes no requests");
    }
}

#[tokio::test]
async fn a_picture_and_a_clip_show_the_stage() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:stair-tower"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    browser.until(STANDS, "standing").await;
    browser.click("#share summary").await;
    browser.click("#picture").await;
    let picture = browser.saved(".png").await;
    let (width, height, pixels) = decoded(&picture);
    assert!(width > 600 && height > 400, "{width} x {height}");
    let lamp = pixels.iter().filter(|&&pixel| is_lamp(pixel)).count() as f64 / pixels.len() as f64;
    let place = pixels.iter().filter(|&&pixel| !is_night(pixel)).count() as f64 / pixels.len() as f64;
    assert!(lamp > 2e-4 && place > 0.1, "{lamp}, {place}");
    browser.click("#share summary").await;
    browser.click("#clip").await;
    browser.hold('w', Duration::from_millis(900)).await;
    browser.click("#share summary").await;
    browser.click("#clip").await;
    let clip = browser.saved(".webm").await;
    // The first bytes of EBML, which WebM begins with.
    assert_eq!(clip[..4], [0x1a, 0x45, 0xdf, 0xa3]);
    assert!(clip.len() > 5000, "{} bytes", clip.len());
    browser.until("return document.getElementById('recording').hidden", "the end of the clip").await;
}

#[tokio::test]
async fn every_control_is_reached_at_1024_by_700_and_by_keys_alone() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:stair-tower"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    for (width, height) in [(1280, 800), (1024, 700)] {
        browser.resize(width, height).await;
        for trial in ["demo:first-roof", "demo:stair-tower"] {
            browser.choose("#trial", trial).await;
            browser.until(&format!("return rasant.place.trial === '{trial}'"), trial).await;
            for tab in ["numbers", "figures", "ghosts", "place", "keys"] {
                browser.click(&format!("#tab-{tab}")).await;
                let outside = "const all = [...document.querySelectorAll('header *, footer *, nav *')].filter((one) => one.checkVisibility() && one.matches('button, select, input, output, summary'));
                    return all.filter((one) => { const box = one.getBoundingClientRect(); return box.left < 0 || box.right > innerWidth + 0.5 || box.bottom > innerHeight + 0.5; }).map((one) => one.id)";
                assert_eq!(browser.value(outside).await, json!([]), "{width} x {height}, {trial}");
                // No text is smaller than 12 pixels.
                let small = "return [...document.querySelectorAll('body *')].filter((one) => one.checkVisibility() && [...one.childNodes].some((node) => node.nodeType === 3 && node.textContent.trim()) && parseFloat(getComputedStyle(one).fontSize) < 12).map((one) => one.outerHTML.slice(0, 80))";
                assert_eq!(browser.value(small).await, json!([]), "{tab}");
            }
        }
    }
    // The tab key reaches every control that is shown, and each shows that it has the focus.
    browser.click("#tab-numbers").await;
    browser.value("document.querySelectorAll('#knobs details').forEach((one) => (one.open = false)); document.getElementById('trial').focus()").await;
    let shown = "return [...document.querySelectorAll('button, input, select, summary, [tabindex=\"0\"]')].filter((one) => one.checkVisibility() && !one.disabled && one.tabIndex >= 0).length";
    let shown = browser.number(shown).await as usize;
    let mut reached = std::collections::BTreeSet::new();
    for _ in 0..shown + 20 {
        browser.press('\u{e004}').await;
        let now = browser
            .value("const one = document.activeElement; return [one.id || one.textContent, getComputedStyle(one).outlineStyle]")
            .await;
        if now[0] == json!("") {
            continue;
        }
        if now[1] != json!("none") {
            reached.insert(now[0].as_str().unwrap().to_owned());
        }
    }
    assert!(reached.len() + 2 >= shown, "{} of {shown}: {reached:?}", reached.len());
}

#[tokio::test]
async fn numbers_that_were_not_saved_are_offered_again_after_a_reload() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "watch.toml"]);
    let browser = Browser::start().await;
    browser.open(&tool).await;
    let value = "rasant.values.values[rasant.hello.knobs.findIndex((knob) => knob.path === 'jump.height')]";
    let turn = async |to: &str| {
        browser.type_into("[id='knob-jump.height']", to).await;
        browser.until(&format!("return Math.abs({value} - {to}) < 1e-6"), "the number").await;
    };
    let reload = async || {
        browser.client.refresh().await.unwrap();
        browser.until("return !!(window.rasant && rasant.values && rasant.frame)", "the page again").await;
    };
    turn("2.25").await;
    reload().await;
    // A reload begins with the file's numbers, and offers those that were left.
    browser.until(&format!("return Math.abs({value} - 1.5) < 1e-6"), "the file's number").await;
    browser.until("return !!document.getElementById('take-unsaved')", "the offer").await;
    browser.click("#take-unsaved").await;
    browser.until(&format!("return Math.abs({value} - 2.25) < 1e-6"), "the number taken back").await;
    browser.until("return !document.getElementById('take-unsaved')", "no offer any more").await;
    reload().await;
    browser.until("return !!document.getElementById('forget-unsaved')", "the offer").await;
    browser.click("#forget-unsaved").await;
    reload().await;
    let offered = "return document.getElementById('unsaved').childElementCount";
    assert_eq!(browser.number(offered).await, 0.0, "what is forgotten is not offered again");
}
