//! The tool behind the page, spoken to over plain sockets.

use std::time::Duration;

use futures_util::{SinkExt, StreamExt};
use serde_json::{Value, json};
use tokio_tungstenite::tungstenite::Message;

use super::client::{Page, get, try_connect};
use super::{TUNING, Tool};

fn folder() -> tempfile::TempDir {
    let folder = tempfile::tempdir().unwrap();
    std::fs::write(folder.path().join("watch.toml"), TUNING).unwrap();
    folder
}

#[tokio::test]
async fn requests_without_the_token_are_refused() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &[]);
    assert!(tool.host().starts_with("127.0.0.1:"), "{}", tool.address);
    let with_token = format!("/?token={}", tool.token());
    let (status, text) = get(&tool, &with_token, tool.host(), "");
    assert!(status.contains("200") && text.contains("main.js"), "{status}");
    for (path, host, more) in [
        ("/", tool.host(), ""),
        ("/?token=00000000000000000000000000000000", tool.host(), ""),
        (&*with_token, "rasant.example", ""),
        (&*with_token, "127.0.0.1", ""),
        ("/main.js", "rasant.example:80", ""),
        (&*with_token, tool.host(), "Origin: http://rasant.example\r\n"),
    ] {
        let (status, _) = get(&tool, path, host, more);
        assert!(status.contains("403"), "{path} by {host}: {status}");
    }
    for path in ["/../Cargo.toml", "/%2e%2e/%2e%2e/etc/passwd", "/nothing.js"] {
        let (status, _) = get(&tool, path, tool.host(), "");
        assert!(status.contains("404") || status.contains("400"), "{path}: {status}");
    }
    let own = format!("http://{}", tool.host());
    assert!(try_connect(&tool, tool.token(), Some(&own)).await.is_ok());
    assert!(try_connect(&tool, tool.token(), None).await.is_err(), "without an origin");
    assert!(try_connect(&tool, tool.token(), Some("http://rasant.example")).await.is_err());
    assert!(try_connect(&tool, "wrong", Some(&own)).await.is_err());
}

#[tokio::test]
async fn unknown_messages_do_not_end_the_session() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &[]);
    let mut page = Page::open(&tool).await;
    page.receive("frame").await;
    for nonsense in [
        "",
        "{}",
        "[1]",
        "{\"request\":\"fly\"}",
        "{\"request\":\"frame\",\"ms\":\"soon\",\"events\":[]}",
        "{\"request\":\"frame\",\"ms\":16,\"events\":[{\"input\":\"key\",\"at\":1,\"code\":3,\"down\":true}]}",
        "{\"request\":\"turn\",\"knob\":\"jump.heigth\",\"value\":2,\"drag\":null}",
        "{\"request\":\"turn\",\"knob\":\"jump.height\",\"value\":-2,\"drag\":null}",
        "{\"request\":\"turn\",\"knob\":\"jump.height\",\"value\":1e999,\"drag\":null}",
        "{\"request\":\"open\",\"trial\":\"/etc/passwd\",\"tuning\":null}",
        "{\"request\":\"open\",\"trial\":\"demo:nowhere\",\"tuning\":null}",
        "{\"request\":\"open\",\"trial\":\"demo:first-roof\",\"tuning\":\"/etc/passwd\"}",
        "{\"request\":\"save\",\"name\":\"../outside\"}",
        "{\"request\":\"save\",\"name\":\"\"}",
        "{\"request\":\"save\",\"name\":null}",
        // Fields that no request has, also where a request has none at all.
        "{\"request\":\"undo\",\"twice\":true}",
        "{\"request\":\"pause\",\"on\":true,\"now\":1}",
        "{\"request\":\"frame\",\"ms\":16,\"events\":[{\"input\":\"away\",\"at\":1,\"far\":2}]}",
        "{\"request\":\"turn\",\"knob\":\"hull.rounding\",\"value\":0.1,\"drag\":null}",
        "{\"request\":\"turn\",\"knob\":\"hull.radius\",\"value\":50,\"drag\":null}",
        "{\"request\":\"hull-shape\",\"shape\":\"cone\"}",
        "{\"request\":\"columns\",\"columns\":[\"z_m\"]}",
        "{\"request\":\"columns\",\"columns\":[\"events\"]}",
        "{\"request\":\"bind\",\"meaning\":\"fly\",\"chord\":\"KeyA\"}",
        "{\"request\":\"bind\",\"meaning\":\"jump\",\"chord\":\"KeyÄ\"}",
        "{\"request\":\"bind\",\"meaning\":\"jump\",\"chord\":\"KeyA + KeyB + KeyC + KeyD\"}",
        "{\"request\":\"save-bindings\",\"name\":null}",
        "{\"request\":\"export\",\"name\":\"../outside\"}",
        "{\"request\":\"open-link\",\"trial\":\"/etc/passwd\",\"tuning\":null,\"shape\":null,\"numbers\":{},\"tape\":null,\"tick\":0}",
        "{\"request\":\"open-link\",\"trial\":\"demo:first-roof\",\"tuning\":null,\"shape\":null,\"numbers\":{\"jump.hight\":2},\"tape\":null,\"tick\":0}",
        "{\"request\":\"open-link\",\"trial\":\"demo:first-roof\",\"tuning\":null,\"shape\":null,\"numbers\":{},\"tape\":\"nonsense\",\"tick\":0}",
    ] {
        page.say(nonsense).await;
        let received = page.receive("problem").await;
        assert!(received["text"].as_str().unwrap().len() > 10, "{nonsense}: {received}");
    }
    // Numbers that are none, keys that there are not, ticks that are beyond.
    for odd in [
        json!({ "request": "frame", "ms": -5.0, "events": [{ "input": "key", "at": -1.0, "code": "NoSuchKey", "down": true }] }),
        json!({ "request": "frame", "ms": 1e300, "events": [{ "input": "pad-axis", "at": 1e300, "pad": 0, "axis": "left-x", "value": 7.0 }] }),
        json!({ "request": "seek", "tick": 1_000_000_000u64 }),
    ] {
        page.ask(odd).await;
        page.receive("frame").await;
    }
    page.ask(json!({ "request": "pause", "on": false })).await;
    let before = page.receive("frame").await["tick"].as_u64().unwrap();
    // A flood is cut off, and the session lives on.
    for _ in 0..6000 {
        page.line.feed(Message::text("{\"request\":\"speed\",\"factor\":1.0}")).await.unwrap();
    }
    page.line.flush().await.unwrap();
    page.receive("problem").await;
    tokio::time::sleep(Duration::from_millis(1200)).await;
    let after = page.play(3, json!([])).await["tick"].as_u64().unwrap();
    assert!(after > before, "{before} {after}");
    // A message that is too long closes this page's connection and no other.
    let mut other = Page::open(&tool).await;
    other.receive("frame").await;
    let _ = page.line.send(Message::text("x".repeat(200_000))).await;
    let ended = tokio::time::timeout(Duration::from_secs(10), async {
        while let Some(Ok(message)) = page.line.next().await {
            if matches!(message, Message::Close(_)) {
                break;
            }
        }
    });
    assert!(ended.await.is_ok());
    assert!(other.play(2, json!([])).await["tick"].as_u64().unwrap() > 0);
    assert!(!folder.path().parent().unwrap().join("outside.toml").exists());
    assert!(!folder.path().join("rasant-out").exists());
}

#[tokio::test]
async fn two_pages_do_not_disturb_each_other() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &[]);
    let (mut one, mut other) = (Page::open(&tool).await, Page::open(&tool).await);
    let start = other.receive("frame").await;
    one.receive("frame").await;
    one.ask(json!({ "request": "turn", "knob": "walk.speed", "value": 9.0, "drag": null })).await;
    one.receive("numbers").await;
    let went = one.play(60, json!([{ "input": "key", "at": 0.0, "code": "ArrowRight", "down": true }])).await;
    assert!(
        went["body"]["feet"][0].as_f64().unwrap() > start["body"]["feet"][0].as_f64().unwrap() + 1.0,
        "{went}"
    );
    let stayed = other.play(60, json!([])).await;
    assert_eq!(stayed["body"]["feet"], start["body"]["feet"]);
    drop(one);
    assert_eq!(other.play(10, json!([])).await["body"]["feet"], start["body"]["feet"]);
}

#[tokio::test]
async fn any_tick_is_restored_to_the_same_bits() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &[]);
    for trial in ["demo:first-roof", "demo:canal-steps", "demo:fairground", "demo:stair-tower"] {
        let mut page = Page::open(&tool).await;
        page.ask(json!({ "request": "open", "trial": trial, "tuning": null })).await;
        page.receive("place").await;
        page.receive("frame").await;
        page.ask(json!({ "request": "debug", "on": true })).await;
        let arcs = loop {
            let frame = page.receive("frame").await;
            if frame["debug"]["arcs"].is_array() {
                break frame["debug"]["arcs"].clone();
            }
        };
        assert!(arcs[0].as_array().unwrap().len() >= arcs[1].as_array().unwrap().len(), "{trial}: {arcs}");
        let mut seen = Vec::new();
        for round in 0..60 {
            let said = match round % 12 {
                0 => json!([{ "input": "key", "at": 1.0, "code": "KeyD", "down": true }]),
                4 => {
                    json!([{ "input": "key", "at": 3.0, "code": "Space", "down": true }, { "input": "key", "at": 9.0, "code": "KeyA", "down": true }])
                }
                8 => {
                    json!([{ "input": "key", "at": 0.0, "code": "Space", "down": false }, { "input": "key", "at": 2.0, "code": "KeyD", "down": false }])
                }
                _ => json!([]),
            };
            if round == 30 {
                page.ask(json!({ "request": "turn", "knob": "jump.height", "value": 2.6, "drag": null }))
                    .await;
                page.receive("numbers").await;
            }
            seen.push(page.play(3, said).await);
        }
        for of in [59, 3, 41, 30, 29, 0, 58, 17] {
            let was = &seen[of];
            page.ask(json!({ "request": "seek", "tick": was["tick"] })).await;
            let is = page.receive("frame").await;
            for part in ["body", "debug", "carried"] {
                // Between two ticks it is drawn elsewhere.
                let (mut is, mut was) = (is[part].clone(), was[part].clone());
                for drawn in [
                    "at", "velocity", "stride", "spin", "rolled", "lift", "hover", "facing", "up", "motion",
                    "lean", "landing", "turnRate",
                ] {
                    for one in [&mut is, &mut was] {
                        one.as_object_mut().map(|one| one.remove(drawn));
                    }
                }
                assert_eq!(is, was, "{trial}: {part} of tick {}", seen[of]["tick"]);
            }
        }
        // Continuing from an earlier tick discards the ticks after it.
        page.ask(json!({ "request": "pause", "on": false })).await;
        page.receive("frame").await;
        let from = seen[17]["tick"].as_u64().unwrap();
        let on = page.play(4, json!([])).await;
        assert_eq!(on["tick"], on["length"]);
        assert!(on["tick"].as_u64().unwrap() <= from + 5, "{trial}: {on}");
    }
}

#[tokio::test]
async fn numbers_are_turned_undone_kept_and_measured() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "watch.toml"]);
    let mut page = Page::open(&tool).await;
    let hello = page.receive("hello").await;
    let place =
        |path: &str| hello["knobs"].as_array().unwrap().iter().position(|knob| knob["path"] == path).unwrap();
    let height = place("jump.height");
    let numbers = page.receive("numbers").await;
    assert_eq!(numbers["values"][height], 1.5);
    let figure = |received: &Value, name: &str, of: &str| {
        let all = received["figures"].as_array().unwrap();
        all.iter().find(|figure| figure["name"] == name).unwrap()[of].as_f64().unwrap()
    };
    let figures = page.receive("figures").await;
    assert!((figure(&figures, "jump-height", "value") - 1.5).abs() < 0.01);
    // A drag is one step of undo.
    for value in [1.7, 1.9, 2.25] {
        page.ask(json!({ "request": "turn", "knob": "jump.height", "value": value, "drag": 1 })).await;
        page.receive("numbers").await;
    }
    let figures = loop {
        let figures = page.receive("figures").await;
        if (figure(&figures, "jump-height", "value") - 2.25).abs() < 0.01 {
            break figures;
        }
    };
    assert!((figure(&figures, "jump-height", "file") - 1.5).abs() < 0.01);
    page.ask(json!({ "request": "keep", "slot": 1 })).await;
    assert_eq!(page.receive("numbers").await["kept"], json!([false, true]));
    page.ask(json!({ "request": "undo" })).await;
    assert_eq!(page.receive("numbers").await["values"][height], 1.5);
    page.ask(json!({ "request": "redo" })).await;
    assert_eq!(page.receive("numbers").await["values"][height], 2.25);
    page.ask(json!({ "request": "reset", "knobs": ["jump.height"] })).await;
    assert_eq!(page.receive("numbers").await["values"][height], 1.5);
    page.ask(json!({ "request": "take", "slot": 1 })).await;
    assert_eq!(page.receive("numbers").await["values"][height], 2.25);
    // Another tuning, and back to what the tool was started with.
    page.ask(json!({ "request": "open", "trial": "demo:first-roof", "tuning": "demo:porter" })).await;
    let porter = page.receive("numbers").await;
    assert!(porter["values"][height] != 1.5 && porter["source"].is_null(), "{porter}");
    page.ask(json!({ "request": "open", "trial": "demo:first-roof", "tuning": null })).await;
    let own = page.receive("numbers").await;
    assert_eq!((&own["values"][height], &own["source"]), (&json!(1.5), &json!("watch.toml")));
}

#[tokio::test]
async fn saving_keeps_comments_and_order_and_a_broken_file_changes_nothing() {
    let folder = folder();
    let path = folder.path().join("watch.toml");
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "watch.toml"]);
    let mut page = Page::open(&tool).await;
    page.receive("frame").await;
    for (knob, value) in [("jump.height", 2.25), ("fall.gravity", 1.4)] {
        page.ask(json!({ "request": "turn", "knob": knob, "value": value, "drag": null })).await;
        page.receive("numbers").await;
    }
    page.ask(json!({ "request": "save", "name": null })).await;
    let note = page.receive("note").await;
    assert!(note["text"].as_str().unwrap().contains("watch.toml"), "{note}");
    page.receive("numbers").await;
    let saved = std::fs::read_to_string(&path).unwrap();
    let expected = TUNING.replace("height = 1.5 ", "height = 2.25 ");
    assert!(saved.starts_with(expected.trim_end()), "{saved}");
    assert!(saved.contains("[fall]\ngravity = 1.4"), "{saved}");
    // Read again it is the same: nothing differs from the file.
    page.ask(json!({ "request": "undo" })).await;
    let numbers = page.receive("numbers").await;
    assert_ne!(numbers["values"], numbers["file"]);
    page.ask(json!({ "request": "redo" })).await;
    let numbers = page.receive("numbers").await;
    assert_eq!(numbers["values"], numbers["file"]);
    // An edit by another program is loaded, a broken one is not.
    std::fs::write(&path, saved.replace("2.25", "1.25")).unwrap();
    page.receive("note").await;
    let numbers = page.receive("numbers").await;
    let has = |numbers: &Value, value: f64| {
        numbers["values"].as_array().unwrap().iter().any(|one| one.as_f64() == Some(value))
    };
    assert!(has(&numbers, 1.25));
    std::fs::write(&path, saved.replace("height", "heigth")).unwrap();
    let received = page.receive("problem").await["text"].as_str().unwrap().to_owned();
    assert!(
        received.contains("watch.toml:5:1") && received.contains("heigth") && received.contains("height"),
        "{received}"
    );
    page.ask(json!({ "request": "keep", "slot": 0 })).await;
    assert!(has(&page.receive("numbers").await, 1.25), "the last good numbers stay");
    // A new name is written to the folder for that, and only there.
    page.ask(json!({ "request": "save", "name": "late watch" })).await;
    page.receive("note").await;
    assert!(folder.path().join("rasant-out/late watch.toml").exists());
    page.ask(json!({ "request": "save", "name": "late watch" })).await;
    page.receive("problem").await;
}

#[tokio::test]
async fn a_ghost_stays_and_the_same_inputs_bend_under_other_numbers() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:first-roof", "--tuning", "watch.toml"]);
    let mut page = Page::open(&tool).await;
    page.receive("frame").await;
    page.play(30, json!([{ "input": "key", "at": 0.0, "code": "Space", "down": true }])).await;
    page.play(40, json!([{ "input": "key", "at": 0.0, "code": "Space", "down": false }])).await;
    page.ask(json!({ "request": "keep-ghost" })).await;
    let ghosts = page.receive("ghosts").await;
    let ghost = &ghosts["ghosts"][0]["summary"];
    assert!((ghost["highest_m"].as_f64().unwrap() - 1.5).abs() < 0.03, "{ghost}");
    assert_eq!(ghost["jumps"], 1);
    page.ask(json!({ "request": "replay-inputs", "on": true })).await;
    page.ask(json!({ "request": "turn", "knob": "jump.height", "value": 3.0, "drag": null })).await;
    let replayed = loop {
        let received = page.receive("replayed").await;
        if received["summary"]["highest_m"].as_f64().unwrap() > 2.9 {
            break received;
        }
    };
    // They part with the take-off, which is some ticks after the thirtieth, or before.
    assert!(replayed["parts"].as_u64().is_some_and(|tick| tick < 40), "{replayed}");
    assert!((replayed["before"]["highest_m"].as_f64().unwrap() - 1.5).abs() < 0.03, "{replayed}");
    page.ask(json!({ "request": "forget-ghost", "ghost": 0 })).await;
    assert_eq!(page.receive("ghosts").await["ghosts"], json!([]));
}

#[tokio::test]
async fn an_attempt_is_recorded_with_a_trial_that_passes_and_notices() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:canal-steps", "--tuning", "watch.toml"]);
    let mut page = Page::open(&tool).await;
    page.receive("frame").await;
    page.ask(json!({ "request": "record", "name": "nothing yet" })).await;
    page.receive("problem").await;
    page.play(50, json!([{ "input": "key", "at": 2.0, "code": "KeyD", "down": true }])).await;
    page.play(60, json!([{ "input": "key", "at": 5.0, "code": "Space", "down": true }])).await;
    page.play(40, json!([{ "input": "key", "at": 0.0, "code": "Space", "down": false }, { "input": "key", "at": 1.0, "code": "KeyD", "down": false }]))
        .await;
    page.ask(json!({ "request": "record", "name": "evening" })).await;
    let note = page.receive("note").await;
    assert!(note["text"].as_str().unwrap().contains("rasant check"), "{note}");
    let trial = folder.path().join("rasant-out/evening.toml");
    let check = || {
        let mut command = assert_cmd::Command::new(env!("CARGO_BIN_EXE_rasant"));
        command.current_dir(folder.path()).arg("check").arg(&trial).assert()
    };
    check().success();
    // Under other numbers it is another attempt, and that is noticed.
    let tuning = folder.path().join("rasant-out/evening.tuning.toml");
    let text = std::fs::read_to_string(&tuning).unwrap();
    std::fs::write(&tuning, text.replace("height = 1.5", "height = 1.8")).unwrap();
    check().code(1);
}

const YARD: &str = "# Behind the mill.
[[piece]]
block = [[-10, -1], [10, 0]] # the ground
";

#[tokio::test]
async fn a_level_is_edited_measured_saved_and_reloaded() {
    let folder = folder();
    let path = folder.path().join("yard.toml");
    std::fs::write(&path, YARD).unwrap();
    let tool = Tool::start(folder.path(), &["yard.toml", "--tuning", "watch.toml"]);
    let mut page = Page::open(&tool).await;
    let place = page.receive("place").await;
    assert_eq!((place["parts"].as_array().unwrap().len(), &place["changed"]), (1, &json!(false)));
    page.play(30, json!([])).await;
    // A block under the feet lifts the body onto it; a wrong one is refused by name.
    let feet = page.play(1, json!([])).await["body"]["feet"].clone();
    let x = feet[0].as_f64().unwrap();
    let add = |y: f64| {
        let block = json!([[x - 1.0, y], [x + 1.0, y + 0.5]]);
        json!({ "request": "change-place", "change": { "do": "add", "of": "piece", "fields": { "block": block } } })
    };
    page.ask(add(2.5)).await;
    // Only the new piece is sent.
    let pieces = page.receive("pieces").await;
    assert_eq!((&pieces["changed"], pieces["edits"].as_array().unwrap().len()), (&json!(true), 1));
    let edit = &pieces["edits"][0];
    assert_eq!((&edit["number"], &edit["before"]), (&json!(1), &json!(0)));
    assert_eq!(edit["shape"]["outline"]["points"].as_array().unwrap().len(), 4);
    assert_eq!(edit["part"]["fields"]["block"][0][1], 2.5);
    page.ask(json!({ "request": "start", "at": [x, 3.2] })).await;
    page.receive("frame").await;
    let feet = page.play(40, json!([])).await["body"]["feet"].clone();
    assert!((feet[1].as_f64().unwrap() - 3.005).abs() < 0.01, "{feet}");
    let wrong = json!({ "request": "change-place", "change": { "do": "set", "part": { "of": "piece", "number": 1 },
        "fields": { "block": [[0, 0], [0, 1]] } } });
    page.ask(wrong).await;
    let why = page.receive("problem").await["text"].as_str().unwrap().to_owned();
    assert!(why.contains("the place:") && why.contains("unchanged"), "{why}");
    // How far it is, against the jump of the numbers.
    page.ask(json!({ "request": "measure", "from": [0.0, 0.0], "to": [1.5, 0.0] })).await;
    let tape = page.receive("measurement").await;
    assert_eq!((&tape["across"], &tape["up"]), (&json!(1.5), &json!(0.0)));
    assert!(tape["reach"].as_f64().unwrap() > 1.5, "{tape}");
    for wrong in [json!([[0.0], [1.0, 2.0]]), json!([[0.0, 0.0], [1.0, 2.0, 3.0]])] {
        page.ask(json!({ "request": "measure", "from": wrong[0], "to": wrong[1] })).await;
        page.receive("problem").await;
    }
    // Away from under the feet, undone, and as it was again.
    page.ask(json!({ "request": "change-place", "change": { "do": "delete", "part": { "of": "piece", "number": 1 } } }))
        .await;
    let feet = page.play(50, json!([])).await["body"]["feet"].clone();
    assert!(feet[1].as_f64().unwrap() < 0.01, "{feet}");
    page.ask(json!({ "request": "undo" })).await;
    assert_eq!(page.receive("place").await["shapes"].as_array().unwrap().len(), 2);
    // Saved to its file it keeps the comments; recorded it passes its check.
    page.ask(json!({ "request": "save-place", "name": null })).await;
    page.receive("note").await;
    assert_eq!(page.receive("place").await["changed"], false);
    let saved = std::fs::read_to_string(&path).unwrap();
    assert!(saved.starts_with(YARD) && saved.matches("[[piece]]").count() == 2, "{saved}");
    page.ask(json!({ "request": "record", "name": "in the yard" })).await;
    let words = page.receive("note").await["text"].as_str().unwrap().to_owned();
    assert!(words.contains("changed meanwhile"), "{words}");
    let check = |name: &str| {
        let mut command = assert_cmd::Command::new(env!("CARGO_BIN_EXE_rasant"));
        command.current_dir(folder.path()).arg("check").arg(format!("rasant-out/{name}.toml")).assert()
    };
    check("in the yard").success();
    // An edit by another program is loaded, a broken one is not.
    std::fs::write(&path, YARD.replace("10, 0", "12, 0")).unwrap();
    page.receive("note").await;
    assert_eq!(page.receive("place").await["max"][0], 12.0);
    std::fs::write(&path, "[[piece]]\nblok = 3\n").unwrap();
    let why = page.receive("problem").await["text"].as_str().unwrap().to_owned();
    assert!(why.contains("yard.toml") && why.contains("last valid place"), "{why}");
    // A change on the page is not written over a change of the file.
    page.ask(add(4.0)).await;
    page.receive("pieces").await;
    std::fs::write(&path, YARD).unwrap();
    page.ask(json!({ "request": "save-place", "name": null })).await;
    let why = page.receive("problem").await["text"].as_str().unwrap().to_owned();
    assert!(why.contains("another name"), "{why}");
    page.ask(json!({ "request": "save-place", "name": "my yard" })).await;
    page.receive("note").await;
    assert!(folder.path().join("rasant-out/my yard.level.toml").exists());
    assert_eq!(std::fs::read_to_string(&path).unwrap(), YARD);
}

#[tokio::test]
async fn levels_are_played_and_stretches_repeated() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:levels/courtyard"]);
    let mut page = Page::open(&tool).await;
    let hello = page.receive("hello").await;
    let levels: Vec<String> = serde_json::from_value(hello["levels"].clone()).unwrap();
    page.play(120, json!([])).await;
    for level in levels {
        page.ask(json!({ "request": "open", "trial": level, "tuning": null })).await;
        let place = page.receive("place").await;
        assert_eq!(place["trial"], level);
        page.receive("frame").await;
        let from = page.play(2, json!([])).await["body"]["feet"].clone();
        let frame = page.play(60, json!([])).await;
        let sank = from[1].as_f64().unwrap() - frame["body"]["feet"][1].as_f64().unwrap();
        assert!(frame["body"]["mode"] == "grounded" && sank < 0.1, "{level}: {from} to {frame}");
    }
    let before = page.play(40, json!([{ "input": "key", "at": 0.0, "code": "KeyD", "down": true }])).await;
    page.ask(json!({ "request": "repeat", "ticks": [80, 100] })).await;
    assert_eq!(page.receive("frame").await["stretch"], json!([80, 100]));
    for _ in 0..5 {
        let frame = page.play(9, json!([])).await;
        assert!((80..=100).contains(&frame["tick"].as_u64().unwrap()), "{}", frame["tick"]);
    }
    page.ask(json!({ "request": "repeat", "ticks": null })).await;
    let after = page.receive("frame").await;
    assert_eq!((&after["tick"], &after["body"]["feet"]), (&before["tick"], &before["body"]["feet"]));
    page.ask(json!({ "request": "repeat", "ticks": [9, 3] })).await;
    assert!(page.receive("frame").await["stretch"].is_null());
}

#[tokio::test]
async fn a_drawing_is_played_shaped_and_kept_with_its_geometry() {
    let folder = folder();
    let drawing = "<svg xmlns='http://www.w3.org/2000/svg'><rect x='-9' width='30' height='1'/></svg>";
    std::fs::create_dir(folder.path().join("art")).unwrap();
    std::fs::write(folder.path().join("art/yard.svg"), drawing).unwrap();
    let tool = Tool::start(folder.path(), &["art/yard.svg"]);
    let mut page = Page::open(&tool).await;
    let place = page.receive("place").await;
    assert_eq!((place["shapes"].as_array().unwrap().len(), place["max"][0].as_f64()), (1, Some(21.0)));
    page.ask(json!({ "request": "change-place", "change":
        { "do": "add", "of": "piece", "fields": { "block": [[2, 0], [3, 1]] } } }))
        .await;
    assert_eq!(page.receive("place").await["shapes"].as_array().unwrap().len(), 2);
    // If the drawing changes during play, the parts added on the page stay.
    std::fs::write(folder.path().join("art/yard.svg"), drawing.replace("30", "40")).unwrap();
    assert!(page.receive("note").await["text"].as_str().unwrap().contains("a drawing"));
    let place = page.receive("place").await;
    assert_eq!((place["shapes"].as_array().unwrap().len(), place["max"][0].as_f64()), (2, Some(31.0)));
    std::fs::write(folder.path().join("art/yard.svg"), "<svg").unwrap();
    assert!(page.receive("problem").await["text"].as_str().unwrap().contains("last valid place"));
    std::fs::write(folder.path().join("art/yard.svg"), drawing).unwrap();
    page.receive("place").await;
    // The drawing is no place to save to.
    page.ask(json!({ "request": "save-place", "name": null })).await;
    assert!(page.receive("problem").await["text"].as_str().unwrap().contains("expected a name"));
    page.ask(json!({ "request": "save-place", "name": "my yard" })).await;
    page.receive("note").await;
    assert_eq!(std::fs::read_to_string(folder.path().join("art/yard.svg")).unwrap(), drawing);
    let kept = std::fs::read_to_string(folder.path().join("rasant-out/my yard.level.toml")).unwrap();
    assert!(kept.contains("file = \"my yard.geometry/yard.svg\""), "{kept}");
    let received = std::process::Command::new(env!("CARGO_BIN_EXE_rasant"))
        .args(["level", "rasant-out/my yard.level.toml", "--json"])
        .current_dir(folder.path())
        .output()
        .unwrap();
    let received: Value = serde_json::from_slice(&received.stdout).unwrap();
    assert_eq!(received["pieces"], json!([["polygon", 2]]));
}

#[tokio::test]
async fn ticks_carry_the_columns_that_are_plotted_and_are_repeated_alike() {
    let folder = folder();
    let tool = Tool::start(folder.path(), &["demo:stair-tower"]);
    let mut page = Page::open(&tool).await;
    let place = page.receive("place").await;
    page.receive("frame").await;
    let all: Vec<String> = serde_json::from_value(
        place["columns"].as_array().unwrap().iter().map(|column| column["name"].clone()).collect(),
    )
    .unwrap();
    assert!(all.contains(&"z_m".to_owned()) && !all.contains(&"tick".to_owned()), "{all:?}");
    page.ask(json!({ "request": "columns", "columns": all })).await;
    let mut received = Vec::new();
    for round in 0..40 {
        let key = json!([{ "input": "key", "at": 1.0, "code": "KeyW", "down": round % 3 == 0 }]);
        page.ask(json!({ "request": "frame", "ms": 40.0, "events": key })).await;
        received.extend(page.receive("frame").await["ticks"].as_array().unwrap().clone());
        tokio::time::sleep(Duration::from_millis(2)).await;
    }
    let ticks: Vec<u64> = received.iter().map(|tick| tick["tick"].as_u64().unwrap()).collect();
    assert!(ticks.windows(2).all(|pair| pair[1] == pair[0] + 1) && ticks.len() > 80, "{ticks:?}");
    assert!(received.iter().all(|tick| tick["values"].as_array().unwrap().len() == all.len()));
    // Each value is what the body had: its height is its feet's.
    let height = all.iter().position(|name| name == "y_m").unwrap();
    assert!(received.iter().all(|tick| tick["values"][height] == tick["feet"][1]));
    page.ask(json!({ "request": "series", "from": 30, "to": 60 })).await;
    let series = page.receive("series").await;
    assert_eq!(series["columns"], json!(all));
    for again in series["ticks"].as_array().unwrap() {
        let before = received.iter().find(|tick| tick["tick"] == again["tick"]).unwrap();
        assert_eq!(again, before);
    }
    assert_eq!(series["ticks"].as_array().unwrap().len(), 30);
}
