//! Tuning by evidence, from the command line: sheet, compare, vary, rates, fit,
//! new.

use std::fs;
use std::path::Path;
use std::process::Command as Process;

use assert_cmd::Command;
use serde_json::Value;
use tempfile::tempdir;

fn rasant() -> Command {
    Command::cargo_bin("rasant").unwrap()
}

/// What a command says on standard output when it succeeds in `folder`.
fn said(folder: &Path, arguments: &[&str]) -> String {
    let done = rasant().args(arguments).current_dir(folder).assert().success();
    String::from_utf8(done.get_output().stdout.clone()).unwrap()
}

fn json(arguments: &[&str]) -> Value {
    serde_json::from_str(&said(Path::new("."), arguments)).unwrap()
}

/// What a command complains of on standard error, having printed nothing else.
fn complaint(arguments: &[&str]) -> String {
    let done = rasant().args(arguments).assert().code(2);
    assert!(done.get_output().stdout.is_empty(), "{arguments:?} printed something");
    let words = String::from_utf8_lossy(&done.get_output().stderr).into_owned();
    words.split_whitespace().collect::<Vec<_>>().join(" ")
}

fn figure<'a>(sheet: &'a Value, name: &str) -> &'a Value {
    sheet["readings"].as_array().unwrap().iter().find(|reading| reading["name"] == name).unwrap()
}

#[test]
fn a_sheet_is_a_table_json_csv_and_a_page() {
    let folder = tempdir().unwrap();
    let arguments = ["sheet", "demo:porter", "--csv", "s.csv", "--report", "s.html"];
    let table = said(folder.path(), &arguments);
    assert!(
        table.contains("The porter") && table.contains("jump-height") && table.contains(" m/s "),
        "{table}"
    );
    let csv = fs::read_to_string(folder.path().join("s.csv")).unwrap();
    assert!(csv.starts_with("figure,unit,measured,target,differs\nwalk-speed,m/s,"), "{csv}");
    let page = fs::read_to_string(folder.path().join("s.html")).unwrap();
    assert!(page.starts_with("<!DOCTYPE html>") && page.contains("<td>jump-height</td>"));
    for outside in ["http://", "https://", "src=", "<script", "<link"] {
        assert!(!page.contains(outside), "the page is whole by itself, but for {outside}");
    }
    let sheet = json(&["sheet", "demo:porter,jump.height=2.5", "--json"]);
    assert!((figure(&sheet, "jump-height")["measured"].as_f64().unwrap() - 2.5).abs() < 0.003);
    assert_eq!(sheet["title"], "The porter, jump.height = 2.5");
    assert_eq!(json(&["sheet", "--json", "--dimensions", "3"])["dimensions"], 3);
}

#[test]
fn every_shipped_tuning_reaches_the_targets_of_its_sheet() {
    let folder = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/tunings"));
    for entry in fs::read_dir(folder).unwrap() {
        let name = format!("demo:{}", entry.unwrap().path().file_stem().unwrap().to_str().unwrap());
        for dimensions in ["2", "3"] {
            let sheet = json(&["sheet", &name, "--json", "--dimensions", dimensions]);
            let readings = sheet["readings"].as_array().unwrap();
            assert!(readings.len() >= 3, "{name}");
            // A round foot rolls over edges, and a round head past them.
            for reading in readings.iter().filter(|it| it["differs"] == true) {
                let known = ["step-climbed", "drop-followed", "corner-nudge"];
                assert!(known.contains(&reading["name"].as_str().unwrap()), "{name}: {reading}");
            }
        }
    }
}

#[test]
fn two_tunings_are_compared_on_the_same_inputs() {
    let folder = tempdir().unwrap();
    let (a, b) = ("demo:lamplighter", "demo:lamplighter,jump.height=2.5");
    let arguments = ["compare", a, b, "--figure", "c.svg", "--report", "c.html"];
    let words = said(folder.path(), &arguments);
    assert!(words.contains("B diverges from A at 1.717 s (A rises at"), "{words}");
    assert!(words.contains("The first different event: A landed on brick at"), "{words}");
    let row = words.lines().find(|line| line.trim_start().starts_with("jump-height")).unwrap();
    assert!(row.contains("1.9 m") && row.contains("2.5 m") && row.contains("+31.6 %"), "{row}");
    assert!(!words.contains("walk-speed"), "what is the same is left out: {words}");
    assert!(said(folder.path(), &["compare", a, b, "--all"]).contains("walk-speed"));
    assert!(fs::read_to_string(folder.path().join("c.svg")).unwrap().contains("where it diverges from A"));
    assert!(fs::read_to_string(folder.path().join("c.html")).unwrap().contains("<svg"));
    let document = json(&["compare", a, b, a, "--json"]);
    let tunings = document["tunings"].as_array().unwrap();
    assert_eq!(tunings.len(), 3);
    assert_eq!(tunings[0]["parting"], Value::Null);
    assert!(tunings[1]["parting"]["first"]["tick"].as_u64().unwrap() > 100);
    assert_eq!(tunings[2]["parting"]["first"], Value::Null, "the same tuning does not part from itself");
    assert_eq!(tunings[2]["parting"]["most_m"], 0.0);
}

#[test]
fn a_knob_is_varied_and_the_figures_answer() {
    let folder = tempdir().unwrap();
    let knob = "jump.height=1:3:0.5";
    let arguments = [
        "vary",
        "demo:lamplighter",
        "--knob",
        knob,
        "--csv",
        "v.csv",
        "--figure",
        "v.png",
        "--report",
        "v.html",
    ];
    let words = said(folder.path(), &arguments);
    assert!(words.contains("5 points over jump.height") && words.contains("jump-landing-speed"), "{words}");
    assert!(!words.contains("walk-speed"), "what does not answer is left out: {words}");
    assert!(fs::read(folder.path().join("v.png")).unwrap().starts_with(b"\x89PNG"));
    assert!(fs::read_to_string(folder.path().join("v.html")).unwrap().contains("How each figure responds"));
    let mut csv = csv::Reader::from_path(folder.path().join("v.csv")).unwrap();
    let column = csv.headers().unwrap().iter().position(|name| name == "jump-height (m)").unwrap();
    for (number, row) in csv.records().map(Result::unwrap).enumerate() {
        let target = 1.0 + 0.5 * number as f64;
        assert_eq!(row[0].parse::<f64>().unwrap(), target);
        assert!((row[column].parse::<f64>().unwrap() / target - 1.0).abs() < 0.001);
    }
    // Two knobs: the distance of a jump is v·t, whatever its height.
    let two = [
        "vary",
        "demo:lamplighter",
        "--knob",
        "walk.speed=2:4:1",
        "--knob",
        "jump.rise_time=0.3:0.4:0.1",
        "--show",
        "walking-jump-distance",
        "--json",
    ];
    let document = json(&two);
    let points = document["points"].as_array().unwrap();
    assert_eq!(points.len(), 6);
    for point in points {
        let [speed, time] = [0, 1].map(|axis| point["values"][axis].as_f64().unwrap());
        let distance = point["measured"][0].as_f64().unwrap();
        assert!((distance / (speed * 2.0 * time) - 1.0).abs() < 0.005, "{point}");
    }
    // On a trial, and drawn as a map.
    let trial = [
        "vary",
        "demo:lamplighter",
        "--knob",
        "walk.speed=3:5:1",
        "--knob",
        "jump.height=1:2:0.5",
        "--trial",
        "demo:first-roof",
        "--show",
        "highest",
        "--figure",
        "m.svg",
    ];
    assert!(said(folder.path(), &trial).contains("highest"));
    assert!(fs::read_to_string(folder.path().join("m.svg")).unwrap().contains("up: walk.speed (m/s)"));
}

#[test]
fn a_trial_at_many_rates_reports_the_causes_of_differences() {
    let document = json(&["rates", "demo:first-roof", "--json"]);
    assert_eq!(document["fine"], 480);
    for row in document["rows"].as_array().unwrap() {
        assert!(row["all"]["path_m"].as_f64().unwrap() < 0.3, "{row}");
        let highest = row["by_motion"]["highest_m"].as_f64().unwrap();
        assert!(highest < 0.005, "heights do not depend on the rate: {row}");
        assert!(row["all"]["events_s"].as_f64().unwrap() < 0.07, "{row}");
    }
    let words = said(Path::new("."), &["rates", "demo:first-roof", "--rates", "30,60,100"]);
    assert!(words.contains("each compared with 300 ticks/s"), "{words}");
    assert!(complaint(&["rates", "demo:first-roof", "--rates", "59,61,127"]).contains("no common multiple"));
    let folder = tempdir().unwrap();
    let tape = folder.path().join("t.tape");
    rasant().args(["run", "demo:first-roof", "--tape"]).arg(&tape).assert().success();
    let trial = folder.path().join("trial.toml");
    fs::write(folder.path().join("level.toml"), "[[piece]]\nblock = [[-5, -1], [50, 0]]\n").unwrap();
    fs::write(&trial, "level = \"level.toml\"\ntuning = {}\nstart = [0, 0]\ntape = \"t.tape\"\n").unwrap();
    assert!(complaint(&["rates", trial.to_str().unwrap()]).contains("a tape, which has a fixed rate"));
}

#[test]
fn target_figures_are_fitted_or_said_to_be_out_of_reach() {
    let folder = tempdir().unwrap();
    let arguments = [
        "fit",
        "demo:lamplighter",
        "--target",
        "jump-height=3.2",
        "--target",
        "walking-jump-distance=7 m",
        "--target",
        "walk-stop-distance=0.12",
        "--turn",
        "jump.height,jump.rise_time,walk.stop_time",
        "--out",
        "new.toml",
    ];
    let words = said(folder.path(), &arguments);
    assert!(words.contains("solved") && words.contains("searched"), "{words}");
    // The sheet of the written tuning has the reached figures.
    let new = folder.path().join("new.toml");
    let sheet = json(&["sheet", new.to_str().unwrap(), "--json"]);
    for (name, chosen) in [("jump-height", 3.2), ("walking-jump-distance", 7.0), ("walk-stop-distance", 0.12)]
    {
        let measured = figure(&sheet, name)["measured"].as_f64().unwrap();
        assert!((measured / chosen - 1.0).abs() < 0.005, "{name} is {measured}");
    }
    // A jump's height and times leave no choice of both landing speed and gravity.
    let torn = [
        "fit",
        "demo:lamplighter",
        "--target",
        "jump-height=2",
        "--target",
        "jump-landing-speed=5",
        "--target",
        "jump-fall-time=0.3",
        "--turn",
        "jump.height,fall.gravity",
        "--json",
    ];
    let done = rasant().args(torn).assert().code(1);
    let document: Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
    let endings: Vec<&str> =
        document["targets"].as_array().unwrap().iter().map(|it| it["ending"].as_str().unwrap()).collect();
    assert!(endings.contains(&"not-together"), "{endings:?}");
    let cannot =
        ["fit", "demo:lamplighter", "--target", "slope-climbed=30", "--turn", "jump.height", "--json"];
    let done = rasant().args(cannot).assert().code(1);
    let document: Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
    assert_eq!(document["targets"][0]["ending"], "out-of-reach");
    assert!(document["targets"][0]["nearest"].as_f64().unwrap() > 30.0);
    // Nothing is written if a target is missed, unless requested.
    let cannot = [
        "fit",
        "demo:lamplighter",
        "--target",
        "slope-climbed=30",
        "--turn",
        "jump.height",
        "--out",
        "missed.toml",
    ];
    let mut missed = rasant();
    missed.current_dir(folder.path()).args(cannot).assert().code(1);
    assert!(!folder.path().join("missed.toml").exists());
    missed.arg("--out-anyway").assert().code(1);
    assert!(folder.path().join("missed.toml").exists());
}

#[test]
fn errors_say_what_was_expected_and_nothing_is_written() {
    let folder = tempdir().unwrap();
    let out = folder.path().join("out.csv");
    let out = out.to_str().unwrap();
    for (arguments, expected) in [
        (&["sheet", "demo:portr"][..], "no such shipped file; there are demo:chimney-sweep"),
        (&["sheet", "demo:porter,jump.hight=2"], "there is no knob `jump.hight`, expected `jump.height`?"),
        (&["sheet", "demo:porter,jump.height=-2"], "`jump.height` is -2, expected 0.01 to 100 m"),
        (&["sheet", "demo:porter,jump.height=high"], "`jump.height` is `high`, expected 0.01 to 100 m"),
        (&["sheet", "demo:porter,jump.height"], "found `jump.height`, expected PATH=VALUE"),
        (
            &["compare", "demo:porter", "demo:porter", "--figure", "c.jpg"],
            "expected the extension .svg or .png",
        ),
        (&["compare", "demo:porter", "demo:porter", "--trial", "demo:moon"], "no such shipped file"),
        (&["vary", "demo:porter", "--knob", "jump.height=1:3", "--csv", out], "expected FROM:TO:STEP"),
        (
            &["vary", "demo:porter", "--knob", "jump.height=3:1:0.5", "--csv", out],
            "the step 0.5 does not lead from 3 to 1",
        ),
        (&["vary", "demo:porter", "--knob", "jump.height=1:3:0", "--csv", out], "the step 0 does not lead"),
        (&["vary", "demo:porter", "--knob", "jump.height=1:300:1", "--csv", out], "expected 0.01 to 100 m"),
        (&["vary", "demo:porter", "--knob", "jump.air_count=0:3:0.5", "--csv", out], "whole"),
        (&["vary", "demo:porter", "--knob", "jump.height=1:2:0.0000001"], "expected at most 100000"),
        (
            &["vary", "demo:porter", "--knob", "jump.height=1:2:1", "--show", "jump-hight"],
            "expected `jump-height`?",
        ),
        (
            &[
                "vary",
                "demo:porter",
                "--knob",
                "jump.height=1:2:1",
                "--trial",
                "demo:first-roof",
                "--show",
                "tap-height",
            ],
            "expected one of distance",
        ),
        (
            &["fit", "demo:porter", "--target", "jump-hight=2", "--turn", "jump.height"],
            "expected `jump-height`?",
        ),
        (
            &["fit", "demo:porter", "--target", "jump-height=high", "--turn", "jump.height"],
            "expected FIGURE=NUMBER",
        ),
        (
            &["fit", "demo:porter", "--target", "jump-height=7mm", "--turn", "jump.height"],
            "expected FIGURE=NUMBER",
        ),
        (
            &["fit", "demo:porter", "--target", "jump-height=2", "--turn", "jmp.height"],
            "expected `jump.height`?",
        ),
        (
            &["sheet", "demo:lamplighter,hull.rounding=0.1"],
            "a capsule has no `hull.rounding`, expected one of hull.radius, hull.height",
        ),
        (&["sheet", "demo:lamplighter,hull.with=1"], "expected `hull.width`?"),
        (&["sheet", "demo:lamplighter,hull.shape=cone"], "expected capsule, ball, box"),
        (&["sheet", "demo:lamplighter,hull.radius=0.9"], "`hull.radius`: height is 1.7, expected 1.8"),
        (&["vary", "demo:lamplighter", "--knob", "hull.radius=0.2:1:0.2"], "height is 1.7"),
        (
            &["fit", "demo:lamplighter", "--target", "step-climbed=0.4", "--turn", "hull.rounding"],
            "a capsule has no `hull.rounding`",
        ),
        (&["run", "demo:fairground", "--tape", out], "line 2 of the script is done by the game: `throw`"),
    ] {
        let words = complaint(arguments);
        assert!(words.contains(expected), "{arguments:?}: {words}\nexpected {expected}");
    }
    assert_eq!(fs::read_dir(folder.path()).unwrap().count(), 0, "nothing is written");
}

#[test]
fn a_new_project_builds_runs_and_passes_its_test() {
    let folder = tempdir().unwrap();
    let project = folder.path().join("lantern");
    said(folder.path(), &["new", "lantern"]);
    let manifest = fs::read_to_string(project.join("Cargo.toml")).unwrap();
    assert!(
        manifest.contains("name = \"lantern\"") && manifest.matches(", path = '").count() == 3,
        "{manifest}"
    );
    // It finds the packages that this workspace was built from.
    let workspace = Path::new(env!("CARGO_MANIFEST_DIR")).join("../..");
    fs::copy(workspace.join("Cargo.lock"), project.join("Cargo.lock")).unwrap();
    let cargo = |arguments: &[&str]| {
        let done = Process::new(env!("CARGO"))
            .args(arguments)
            .current_dir(&project)
            .env("CARGO_TARGET_DIR", workspace.join("target/starter"))
            .output()
            .unwrap();
        let errors = String::from_utf8_lossy(&done.stderr);
        assert!(done.status.success(), "cargo {arguments:?}: {errors}");
        assert!(!errors.contains("warning"), "{errors}");
        String::from_utf8_lossy(&done.stdout).into_owned()
    };
    let ran = cargo(&["run", "--quiet"]);
    assert!(ran.contains("jumped") && ran.contains("landed") && ran.contains("frame 150"), "{ran}");
    assert!(cargo(&["test", "--quiet"]).contains("1 passed"));
    said(&project, &["check", "data/first-steps.toml"]);
    // An existing folder is not overwritten.
    let again = rasant().args(["new", "lantern"]).current_dir(folder.path()).assert().code(2);
    assert!(String::from_utf8_lossy(&again.get_output().stderr).contains("not empty"));
    assert!(complaint(&["new", "9 lives"]).contains("expected a letter"));
    assert!(fs::read_to_string(project.join(".gitignore")).unwrap().contains("target/"));
    // Another name than the folder's, and nothing left behind where it fails.
    said(folder.path(), &["new", "deep/er/9 lives", "--name", "cat"]);
    assert!(
        fs::read_to_string(folder.path().join("deep/er/9 lives/Cargo.toml")).unwrap().contains("\"cat\"")
    );
    let inside: Vec<_> = fs::read_dir(folder.path().join("deep/er")).unwrap().collect();
    assert_eq!(inside.len(), 1, "{inside:?}");
    // In one folder with Rasant, the project names its crates relatively, and finds them.
    let inside = workspace.join("target/tmp");
    fs::create_dir_all(&inside).unwrap();
    let beside = tempfile::tempdir_in(&inside).unwrap();
    said(beside.path(), &["new", "barge"]);
    let manifest = fs::read_to_string(beside.path().join("barge/Cargo.toml")).unwrap();
    assert_eq!(manifest.matches(", path = '../").count(), 3, "{manifest}");
    fs::copy(workspace.join("Cargo.lock"), beside.path().join("barge/Cargo.lock")).unwrap();
    let found = Process::new(env!("CARGO"))
        .args(["metadata", "--format-version", "1", "--offline", "--quiet"])
        .current_dir(beside.path().join("barge"))
        .output()
        .unwrap();
    assert!(found.status.success(), "{}", String::from_utf8_lossy(&found.stderr));
    assert!(complaint(&["new", "elsewhere-x", "--crates", "/nowhere"]).contains("there is no crate"));
}

/// The games with a window are built and played by `.ci/run`, because windows need system libraries.
#[test]
fn a_new_project_with_a_view_has_its_files_and_reads_them() {
    let folder = tempdir().unwrap();
    for (view, dimensions) in [("side", 2), ("above", 2), ("third", 3), ("first", 3)] {
        let name = format!("{view}-game");
        said(folder.path(), &["new", &name, "--view", view]);
        let project = folder.path().join(&name);
        let mut files: Vec<String> = Vec::new();
        for entry in walk(&project) {
            let text = fs::read_to_string(&entry).unwrap();
            assert!(!text.contains("{from") && !text.contains("{name}"), "{}: {text}", entry.display());
            files.push(entry.strip_prefix(&project).unwrap().to_string_lossy().replace('\\', "/"));
        }
        files.sort();
        let expected = [
            ".gitignore",
            "Cargo.toml",
            "README.md",
            "data/bindings.toml",
            "data/level.toml",
            "data/tuning.toml",
            "rustfmt.toml",
            "src/main.rs",
            "src/view.rs",
        ];
        assert_eq!(files, expected, "{view}");
        said(&project, &["sheet", "data/tuning.toml"]);
        let level = said(&project, &["level", "data/level.toml"]);
        assert!(!level.is_empty(), "{level}");
        let text = fs::read_to_string(project.join("src/view.rs")).unwrap();
        assert!(text.contains(&format!("type V = Vec{dimensions};")), "{view}");
    }
    let wrong = rasant().args(["new", "x", "--view", "sideways"]).current_dir(folder.path()).assert().code(2);
    assert!(String::from_utf8_lossy(&wrong.get_output().stderr).contains("side, above, third, first"));
}

/// All files in a folder and below.
fn walk(folder: &Path) -> Vec<std::path::PathBuf> {
    let inside = fs::read_dir(folder).unwrap().map(|entry| entry.unwrap().path());
    inside.flat_map(|path| if path.is_dir() { walk(&path) } else { vec![path] }).collect()
}

#[test]
fn a_run_makes_a_page_of_its_own() {
    let folder = tempdir().unwrap();
    said(folder.path(), &["run", "demo:late-and-again", "--report", "r.html"]);
    let page = fs::read_to_string(folder.path().join("r.html")).unwrap();
    for part in ["<svg", "Results", "Expectations", "as expected", "Events", "jumped"] {
        assert!(page.contains(part), "{part}");
    }
}

#[test]
fn sizes_of_the_hull_are_compared_varied_and_fitted_like_knobs() {
    let json = |arguments: &[&str]| -> serde_json::Value {
        let done = rasant().args(arguments).arg("--json").assert().success();
        serde_json::from_slice(&done.get_output().stdout).unwrap()
    };
    let rows = json(&["knobs", "hull"]);
    let paths: Vec<&str> = rows.as_array().unwrap().iter().map(|row| row["path"].as_str().unwrap()).collect();
    assert!(paths.contains(&"hull.radius") && paths.contains(&"hull.clearance"), "{paths:?}");
    // A box has a radius too: half of its width.
    let box_of = |spec: &str| {
        json(&["compare", "demo:porter,hull.width=0.8,hull.depth=0.8", spec])["tunings"][1]["parting"]["first"].clone()
    };
    assert!(box_of("demo:porter,hull.radius=0.4").is_null(), "the same box");
    assert!(!box_of("demo:porter,hull.radius=0.3").is_null(), "another box");
    // A wider capsule stops that much sooner at the last wall.
    let compared = json(&[
        "compare",
        "demo:lamplighter",
        "demo:lamplighter,hull.radius=0.4",
        "--trial",
        "demo:first-roof",
    ]);
    let end = |number: usize| compared["tunings"][number]["summary"]["end_m"][0].as_f64().unwrap();
    assert!((end(0) - end(1) - 0.1).abs() < 2e-3, "{} {}", end(0), end(1));
    // A wider foot follows a deeper drop; the fit finds a radius that follows it again.
    let step = ["--show", "drop-followed"];
    let varied =
        json(&[&["vary", "demo:lamplighter", "--knob", "hull.radius=0.3:0.4:0.1"], &step[..]].concat());
    let at = |point: usize| varied["points"][point]["measured"][0].as_f64().unwrap();
    assert!(at(1) > at(0) + 0.02, "{varied}");
    let target = format!("drop-followed={}", at(1));
    let fitted = json(&["fit", "demo:lamplighter", "--target", &target, "--turn", "hull.radius"]);
    assert_eq!(fitted["targets"][0]["ending"], "reached", "{fitted}");
    let after = fitted["knobs"][0]["after"].as_f64().unwrap();
    assert!(after > 0.3, "{fitted}");
    assert!(fitted["tuning"].as_str().unwrap().contains(&format!("radius = {}", after as f32)), "{fitted}");
}

/// The table of questions: each command is run, and says what the table says.
#[test]
fn the_questions_of_the_guide_have_its_answers() {
    let text = fs::read_to_string(concat!(env!("CARGO_MANIFEST_DIR"), "/../../docs/tuning.md")).unwrap();
    let rows = text.lines().filter_map(|line| line.split_once("| `rasant sheet "));
    let mut count = 0;
    for (question, row) in rows {
        let (command, answer) = row.split_once("` | ").unwrap();
        let arguments: Vec<&str> = std::iter::once("sheet").chain(command.split(' ')).collect();
        let words = said(Path::new("."), &arguments);
        let words = words.split_whitespace().collect::<Vec<_>>().join(" ");
        for figure in answer.trim_end_matches(" |").split(", ") {
            let expected = figure.replace('`', "");
            assert!(words.contains(&expected), "{question}: {expected}\n{words}");
            count += 1;
        }
    }
    assert!(count > 50, "{count}");
}
