//! The tool, run as its users run it.

use std::fs;
use std::path::Path;

use assert_cmd::Command;
use predicates::str::contains;
use tempfile::tempdir;

fn rasant() -> Command {
    Command::cargo_bin("rasant").unwrap()
}

fn write(folder: &Path, name: &str, text: &str) {
    fs::write(folder.join(name), text).unwrap();
}

/// A folder with a trial that runs.
fn trial() -> tempfile::TempDir {
    let folder = tempdir().unwrap();
    write(folder.path(), "level.toml", "[[piece]]\nblock = [[-5, -1], [50, 0]]\n");
    write(
        folder.path(),
        "trial.toml",
        "title = \"hop\"\nlevel = \"level.toml\"\ntuning = { title = \"plain\" }\nstart = [0, 0]\nduration = 2\n\
         script = \"\"\"\nat 0 s: steer right\nat 0.5 s: press jump\n\"\"\"\n",
    );
    folder
}

#[test]
fn the_demo_works_from_any_folder_and_names_its_files() {
    let folder = tempdir().unwrap();
    let done = rasant().arg("demo").current_dir(folder.path()).assert().success();
    let said = String::from_utf8(done.get_output().stdout.clone()).unwrap();
    assert!(said.contains("demo:first-roof"), "{said}");
    let written: Vec<&str> = said.lines().filter_map(|line| line.strip_prefix("wrote ")).collect();
    assert!(written.len() >= 2);
    for file in written {
        let bytes = fs::read(folder.path().join(file)).unwrap();
        let (svg, png) = (bytes.starts_with(b"<svg"), bytes.starts_with(b"\x89PNG"));
        assert!(if file.ends_with(".svg") { svg } else { png }, "{file}");
        assert!(bytes.len() > 5000);
    }
}

#[test]
fn json_is_one_document_and_nothing_else() {
    let folder = trial();
    let done = rasant().args(["run", "trial.toml", "--json"]).current_dir(folder.path()).assert().success();
    let said: serde_json::Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
    assert_eq!(said["title"], "hop");
    assert_eq!(said["jumps"], 1);
    // 1.8 m is the default jump; the highest point is over the start's feet.
    assert!((said["highest_m"].as_f64().unwrap() - 1.8).abs() < 0.002);
    let names = said["events"].as_array().unwrap().iter().map(|event| event["name"].as_str().unwrap());
    let names: Vec<&str> = names.filter(|name| *name != "footfall").collect();
    assert_eq!(names, ["jumped", "left-ground", "apex", "landed"]);
}

#[test]
fn traces_and_figures_are_written_in_the_form_their_names_ask_for() {
    let folder = trial();
    for (option, name, start) in [
        ("--trace", "t.csv", "tick,time_s,x_m"),
        ("--trace", "t.jsonl", "{\"tick\":0,"),
        ("--figure", "f.svg", "<svg width=\"1280\" height=\"8"),
    ] {
        rasant()
            .args(["run", "trial.toml", option, name])
            .current_dir(folder.path())
            .assert()
            .success()
            .stdout(contains(format!("wrote {name}")));
        let text = fs::read_to_string(folder.path().join(name)).unwrap();
        assert!(text.starts_with(start), "{name} starts with {}", &text[..60]);
    }
    let svg = fs::read_to_string(folder.path().join("f.svg")).unwrap();
    assert!(svg.contains("height (m)") && svg.contains("speed (m/s)"));
}

#[test]
fn bad_input_says_where_and_what_and_exits_with_2() {
    let folder = trial();
    let good = fs::read_to_string(folder.path().join("trial.toml")).unwrap();
    write(folder.path(), "key.toml", &good.replace("duration", "duratoin"));
    write(folder.path(), "nan.toml", &good.replace("duration = 2", "duration = nan"));
    write(folder.path(), "broken.toml", "title = \"hop\nlevel");
    write(folder.path(), "wall.toml", &good.replace("[0, 0]", "[0, -1]"));
    write(folder.path(), "void.toml", &good.replace("level.toml", "empty.toml"));
    write(folder.path(), "empty.toml", "title = \"nothing\"\n");
    write(folder.path(), "negative.toml", &good.replace("level.toml", "thin.toml"));
    write(folder.path(), "thin.toml", "[[piece]]\nblock = [[0, 0], [-1, 1]]\n");
    for (name, words) in [
        ("missing.toml", "missing.toml: cannot be read"),
        ("key.toml", "`duration`?"),
        ("nan.toml", "nan.toml:5:12: found nan"),
        ("broken.toml", "broken.toml:1:13: not valid TOML"),
        ("wall.toml", "would start 1.000 m inside"),
        ("void.toml", "there is nothing to stand on"),
        ("negative.toml", "a size is -1"),
    ] {
        let done = rasant().args(["run", name, "--json"]).current_dir(folder.path()).assert().code(2);
        let output = done.get_output();
        let said = String::from_utf8_lossy(&output.stderr);
        // The report may wrap its lines.
        let flat: String = said.split_whitespace().collect::<Vec<_>>().join(" ");
        assert!(flat.contains(words), "{name}: {said}");
        let document: serde_json::Value = serde_json::from_slice(&output.stdout).unwrap();
        assert!(document["error"]["message"].is_string() && !said.contains("panicked"), "{name}: {said}");
    }
}

#[test]
fn a_recorded_tape_replays_to_the_same_trace() {
    let folder = trial();
    let path = folder.path();
    let run = |arguments: &[&str]| {
        rasant().arg("run").args(arguments).current_dir(path).assert().success();
    };
    run(&["trial.toml", "--tape", "t.tape", "--trace", "a.csv"]);
    let text = fs::read_to_string(path.join("trial.toml")).unwrap();
    let start = text.find("script").unwrap();
    write(path, "taped.toml", &format!("{}tape = \"t.tape\"\n", &text[..start]));
    run(&["taped.toml", "--trace", "b.csv"]);
    assert_eq!(fs::read(path.join("a.csv")).unwrap(), fs::read(path.join("b.csv")).unwrap());
    // A broken line is shown where it stands.
    write(path, "t.tape", "rasant-tape 1\n60 ticks a second\n9 1 0 0 0 jmup - -\n");
    rasant().args(["run", "taped.toml"]).current_dir(path).assert().code(2).stderr(contains("t.tape:3"));
}

#[test]
fn a_form_that_cannot_be_written_is_refused_before_anything_runs() {
    let folder = trial();
    for arguments in [["--trace", "t.xml"], ["--figure", "f.gif"]] {
        rasant()
            .args(["run", "trial.toml"])
            .args(arguments)
            .current_dir(folder.path())
            .assert()
            .code(2)
            .stderr(contains("expected the extension"));
        assert!(!folder.path().join(arguments[1]).exists());
    }
}

#[test]
fn an_unknown_shipped_trial_names_those_there_are() {
    rasant().args(["run", "demo:nowhere"]).assert().code(2).stderr(contains("demo:first-roof"));
}

/// A shipped trial's events as (name, detail), and its trace's rows.
fn shipped(name: &str) -> (Vec<(String, String)>, Vec<serde_json::Value>) {
    let folder = tempdir().unwrap();
    let done = rasant()
        .args(["run", &format!("demo:{name}"), "--json", "--trace", "t.jsonl"])
        .current_dir(folder.path())
        .assert()
        .success();
    let said: serde_json::Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
    let word = |event: &serde_json::Value, key: &str| event[key].as_str().unwrap_or("").to_owned();
    let events = said["events"].as_array().unwrap().iter();
    let events = events.map(|event| (word(event, "name"), word(event, "detail"))).collect();
    let trace = fs::read_to_string(folder.path().join("t.jsonl")).unwrap();
    (events, trace.lines().map(|line| serde_json::from_str(line).unwrap()).collect())
}

fn time(row: &serde_json::Value) -> f64 {
    row["time"].as_f64().unwrap()
}

#[test]
fn the_shipped_roofs_are_walked_at_one_speed_and_slid_down_where_too_steep() {
    let (_, rows) = shipped("roofs-of-many-pitches");
    for row in rows.iter().filter(|row| (0.5..5.5).contains(&time(row))) {
        assert_eq!(row["footing"], "firm", "{row}");
        assert!((row["speed"].as_f64().unwrap() - 4.5).abs() < 1e-3, "{row}");
    }
    let steep: Vec<_> = rows.iter().filter(|row| row["footing"] == "steep").collect();
    assert!(!steep.is_empty());
    assert!(steep.iter().all(|row| row["slope_deg"].as_f64().unwrap() > 46.0 && row["mode"] == "airborne"));
}

#[test]
fn the_shipped_steps_and_barge_keep_the_feet_on_the_ground_until_the_jump() {
    let (events, rows) = shipped("canal-steps");
    let departures: Vec<_> = events.iter().filter(|event| event.0 == "left-ground").collect();
    assert_eq!(departures, [&("left-ground".to_owned(), "jump".to_owned())]);
    // While idle on the barge, the body moves with it: 7 m in 4.4 s.
    let riding = |row: &&serde_json::Value| (6.0..7.4).contains(&time(row));
    for row in rows.iter().filter(riding) {
        assert!((row["velocity"][0].as_f64().unwrap() - 7.0 / 4.4).abs() < 1e-3, "{row}");
    }
}

#[test]
fn the_shipped_runner_jumps_late_again_and_early() {
    let (events, rows) = shipped("late-and-again");
    let kinds: Vec<&str> = events.iter().filter(|event| event.0 == "jumped").map(|event| &*event.1).collect();
    assert_eq!(kinds, ["late", "air", "ground", "ground"]);
    // The tap at the end rises less than the jump's 2.1 m.
    let last = rows.iter().filter(|row| time(row) > 3.2);
    let highest = last.map(|row| row["position"][1].as_f64().unwrap()).fold(0.0, f64::max);
    assert!((1.5..3.0).contains(&highest), "{highest} m, from 1.2 m");
}

/// The details of a shipped trial's events of one name.
fn details(events: &[(String, String)], name: &str) -> Vec<String> {
    events.iter().filter(|event| event.0 == name).map(|event| event.1.clone()).collect()
}

fn modes(rows: &[serde_json::Value]) -> Vec<&str> {
    let mut modes: Vec<&str> = rows.iter().map(|row| row["mode"].as_str().unwrap()).collect();
    modes.dedup();
    modes
}

#[test]
fn the_shipped_sweep_climbs_its_shaft_and_dashes_over_gutters_once_a_jump() {
    let (events, rows) = shipped("chimney-shaft");
    assert_eq!(details(&events, "jumped"), ["wall", "wall", "wall", "ground"]);
    assert!(modes(&rows).contains(&"wall-slide"));
    assert_eq!(details(&events, "maneuver-phase"), ["dash active", "dash cooldown"]);
    let (events, _) = shipped("gutters");
    assert_eq!(details(&events, "jumped"), ["ground", "ground"]);
    assert_eq!(details(&events, "refused"), ["dash empty"]);
    assert_eq!(details(&events, "landed").len(), 2);
}

#[test]
fn the_shipped_scaffold_is_climbed_and_dropped_through_twice() {
    let (events, rows) = shipped("scaffold");
    assert_eq!(
        modes(&rows),
        ["grounded", "ladder", "grounded", "airborne", "grounded", "airborne", "grounded"]
    );
    assert_eq!(details(&events, "left-ground"), ["ladder", "drop", "drop"]);
    let top = rows.iter().map(|row| row["position"][1].as_f64().unwrap()).fold(0.0, f64::max);
    assert!((top - 6.005).abs() < 1e-3, "{top} m, the landing is 6 m up");
}

#[test]
fn the_shipped_beam_is_crouched_under_and_the_roll_is_low_and_locked() {
    let (events, rows) = shipped("under-the-beam");
    let names: Vec<&str> = events.iter().map(|event| &*event.0).filter(|name| *name != "footfall").collect();
    assert!(names.starts_with(&["crouched", "refused", "stood-up", "maneuver-phase"]), "{names:?}");
    let rolling: Vec<_> = rows.iter().filter(|row| row["gait"] == "roll" && time(row) > 3.23).collect();
    assert!(rolling.len() > 20);
    for row in rolling {
        assert_eq!(row["hull_height"], 0.9, "{row}");
        assert!(time(row) > 3.68 || row["driven_by"] == "maneuver", "{row}");
    }
}

#[test]
fn the_shipped_quay_throws_blows_slows_and_puts_back_at_the_checkpoint() {
    let (events, rows) = shipped("windy-quay");
    let zones = details(&events, "zone-entered");
    assert_eq!(zones, ["wind", "checkpoint", "mud", "the canal", "checkpoint", "mud", "goal"]);
    assert_eq!(details(&events, "respawned").len(), 1);
    assert_eq!(details(&events, "bounced").len(), 1);
    let in_mud = rows.iter().filter(|row| row["mode"] == "grounded" && (3.8..3.9).contains(&time(row)));
    assert!(in_mud.clone().count() > 3);
    for row in in_mud {
        assert!((row["speed"].as_f64().unwrap() - 0.4 * 4.5).abs() < 1e-3, "{row}");
    }
}

#[test]
fn the_shipped_trials_from_above_touch_no_ground_and_the_frog_keeps_to_its_stones() {
    let (events, rows) = shipped("market-square");
    assert_eq!(modes(&rows), ["grounded", "dash", "grounded"]);
    assert!(events.iter().all(|event| event.0 != "landed" && event.0 != "jumped"));
    let (events, rows) = shipped("paving-stones");
    assert_eq!(details(&events, "refused").len(), 2);
    // Between hops it stands on whole steps from its start.
    for row in rows.iter().filter(|row| row["mode"] == "grounded") {
        let steps = row["position"][0].as_f64().unwrap() + 6.5;
        assert!((steps - steps.round()).abs() < 1e-6, "{row}");
    }
}

#[test]
fn the_shipped_guide_faces_the_look_and_the_cart_drives_along_its_facing() {
    let (_, rows) = shipped("stair-tower");
    let backwards = rows.iter().filter(|row| (3.45..3.58).contains(&time(row)));
    for row in backwards {
        assert!((row["speed"].as_f64().unwrap() - 0.7 * 4.0).abs() < 1e-3, "{row}");
    }
    let (_, rows) = shipped("hand-cart");
    for row in rows.iter().filter(|row| row["speed"].as_f64().unwrap() > 0.5 && time(row) < 1.4) {
        let along: f64 = (0..3)
            .map(|axis| row["velocity"][axis].as_f64().unwrap() * row["facing"][axis].as_f64().unwrap())
            .sum();
        let speed = row["speed"].as_f64().unwrap();
        assert!(along > 0.98 * speed, "{along} of {speed} m/s where it points: {row}");
    }
}

#[test]
fn the_shipped_trials_are_as_they_expect() {
    let done = rasant().arg("check").assert().success();
    let said = String::from_utf8(done.get_output().stdout.clone()).unwrap();
    assert!(said.contains("demo:chimney-shaft") && said.contains("ok, 2 as expected"), "{said}");
    assert!(!said.contains("NOT"), "{said}");
}

#[test]
fn a_failed_expectation_prints_the_measurement_and_exits_with_1() {
    let folder = trial();
    let good = fs::read_to_string(folder.path().join("trial.toml")).unwrap();
    let wrong = "[[expect]]\nfigure = \"highest\"\nis = 3.2\nwithin = 0.01\n[[expect]]\ncount = \"jumped\"\nis = 1\n\
                 [[expect]]\ntime_to = \"bounced\"\nat_most = 2\n";
    write(folder.path(), "wrong.toml", &format!("{good}{wrong}"));
    let arguments = ["check", "trial.toml", "wrong.toml", "--junit", "r.xml"];
    let done = rasant().args(arguments).current_dir(folder.path()).assert().code(1);
    let said = String::from_utf8(done.get_output().stdout.clone()).unwrap();
    // The jump is the default one, 1.8 m.
    assert!(said.contains("highest is 1.80") && said.contains("expected 3.19 to 3.21 m"), "{said}");
    assert!(said.contains("time to bounced never happened, expected at most 2 s"), "{said}");
    assert!(said.contains("trial.toml  nothing expected"), "{said}");
    let xml = fs::read_to_string(folder.path().join("r.xml")).unwrap();
    assert!(xml.contains("failures=\"2\"") && xml.contains("tests=\"3\""), "{xml}");
    // A broken one runs nothing and writes nothing.
    write(folder.path(), "broken.toml", &format!("{good}[[expect]]\ncount = \"jumpt\"\nis = 1\n"));
    let arguments = ["check", "trial.toml", "broken.toml", "--junit", "none.xml"];
    let done = rasant().args(arguments).current_dir(folder.path()).assert().code(2);
    let said: String =
        String::from_utf8_lossy(&done.get_output().stderr).split_whitespace().collect::<Vec<_>>().join(" ");
    assert!(said.contains("there is no event") && said.contains("`jumped`?"), "{said}");
    assert!(!folder.path().join("none.xml").exists());
}

#[test]
fn knobs_are_listed_with_unit_range_and_meaning() {
    let done = rasant().args(["knobs", "jump.height", "--json"]).assert().success();
    let said: serde_json::Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
    assert_eq!((&said[0]["path"], &said[0]["unit"]), (&"jump.height".into(), &"m".into()));
    let done = rasant().arg("knobs").assert().success();
    let said = String::from_utf8(done.get_output().stdout.clone()).unwrap();
    assert!(rasant_knobs().all(|path| said.contains(path)));
}

#[test]
fn trials_are_held_against_other_tunings() {
    let folder = tempfile::tempdir().unwrap();
    let path = |name: &str| folder.path().join(name).display().to_string();
    std::fs::write(path("weak.toml"), "[jump]\nheight = 0.1\n").unwrap();
    std::fs::write(path("usual.toml"), "title = \"usual\"\n").unwrap();
    std::fs::write(path("level.toml"), "[[piece]]\nblock = [[-9, -1], [9, 0]]\n").unwrap();
    let trial = "level = \"level.toml\"\ntuning = \"usual.toml\"\nstart = [0, 0]\nduration = 2\n\
                 script = \"at 0.1 s: press jump for 1 s\"\n[[expect]]\nfigure = \"highest\"\nat_least = 1\n";
    std::fs::write(path("trial.toml"), trial).unwrap();
    let trial = path("trial.toml");
    rasant().args(["check", &trial]).assert().success();
    rasant().args(["check", &trial, "--tuning", &path("usual.toml")]).assert().success();
    // A folder of tunings, one of which is too weak. Other files in it are ignored.
    let done = rasant().args(["check", &trial, "--json", "--tuning", &path("")]).assert().failure();
    let rows: Vec<serde_json::Value> = serde_json::from_slice(&done.get_output().stdout).unwrap();
    let held: Vec<_> =
        rows.iter().map(|row| (row["trial"].as_str().unwrap(), row["holds"] == true)).collect();
    assert_eq!(held.len(), 2, "{held:?}");
    assert!(held[0].0.ends_with("usual.toml") && held[0].1, "{held:?}");
    assert!(held[1].0.ends_with("weak.toml") && !held[1].1, "{held:?}");
    let wrong = rasant().args(["check", &trial, "--tuning", &path("none.toml")]).assert().failure();
    assert!(String::from_utf8_lossy(&wrong.get_output().stderr).contains("none.toml"));
    let none =
        rasant().args(["check", &path("level.toml"), "--tuning", &path("usual.toml")]).assert().failure();
    assert!(String::from_utf8_lossy(&none.get_output().stderr).contains("no trial"));
}

#[test]
fn knobs_are_found_by_the_words_that_people_use() {
    let found = |word: &str| {
        let done = rasant().args(["knobs", word, "--json"]).assert().success();
        let rows: Vec<serde_json::Value> = serde_json::from_slice(&done.get_output().stdout).unwrap();
        rows.iter().map(|row| row["path"].as_str().unwrap().to_owned()).collect::<Vec<_>>()
    };
    for (word, knob) in [
        ("floaty", "fall.gravity"),
        ("snappy", "walk.reach_time"),
        ("friction", "walk.stop_time"),
        ("stairs", "slope.step_height"),
        ("double", "jump.air_count"),
        ("Acceleration", "walk.reach_time"),
        ("umbrella", ""),
    ] {
        let done = rasant().args(["knobs", word]).assert();
        match knob {
            "" => {
                let said = String::from_utf8(done.failure().get_output().stderr.clone()).unwrap();
                assert!(said.contains("`umbrella` in its path or meaning"), "{said}");
            }
            knob => assert!(found(word).iter().any(|path| path == knob), "{word}: {:?}", found(word)),
        }
    }
    // A part of a path means just that.
    assert!(found("jump.").iter().all(|path| path.contains("jump.")));
    let said = rasant().args(["knobs", "floatty"]).assert().failure();
    assert!(String::from_utf8_lossy(&said.get_output().stderr).contains("expected `floaty`?"));
}

fn rasant_knobs() -> impl Iterator<Item = &'static str> {
    rasant::tuning::KNOBS.iter().map(|knob| knob.path)
}

#[test]
fn a_level_is_reported_drawn_and_written_as_a_drawing_that_is_the_same() {
    let folder = tempdir().unwrap();
    let level = |arguments: &[&str]| {
        let done = rasant().arg("level").args(arguments).current_dir(folder.path()).assert().success();
        String::from_utf8(done.get_output().stdout.clone()).unwrap()
    };
    let said = level(&[
        "demo:dye-works",
        "--tuning",
        "demo:lamplighter",
        "--figure",
        "works.png",
        "--svg",
        "works.svg",
    ]);
    for word in
        ["The dye works", "kettle", "<text>", "a step of 0.315 m", "wrote works.png", "wrote works.svg"]
    {
        assert!(said.contains(word), "{word}: {said}");
    }
    assert!(fs::read(folder.path().join("works.png")).unwrap().starts_with(b"\x89PNG"));
    let events =
        |name: &str| -> serde_json::Value { serde_json::from_str(&level(&[name, "--json"])).unwrap() };
    let (first, again) = (events("demo:dye-works"), events("works.svg"));
    for part in ["pieces", "surfaces", "zones", "carriers", "start", "min", "max"] {
        assert_eq!(first[part], again[part], "{part}");
    }
    // A trial uses its own tuning; a model has no drawing; a tuning is not a level.
    let own: serde_json::Value = serde_json::from_str(&level(&["demo:first-roof", "--json"])).unwrap();
    assert_eq!((&own["tuning"], &own["warnings"]), (&"The lamplighter".into(), &serde_json::json!([])));
    for (arguments, why) in [
        (["demo:bell-loft", "--svg=a.svg"], "a three-dimensional level cannot be drawn"),
        (["demo:tunings/porter", "--json"], "it is a tuning; a level or a trial was expected"),
        (["no-such.glb", "--json"], "no-such.glb: cannot be read"),
    ] {
        rasant()
            .arg("level")
            .args(arguments)
            .current_dir(folder.path())
            .assert()
            .code(2)
            .stderr(contains(why));
    }
    assert!(!folder.path().join("a.svg").exists());
    // A drawing is checked, exported and run like any other level.
    rasant().args(["check", "works.svg"]).current_dir(folder.path()).assert().success();
    rasant().args(["export", "bell-loft", "--out", "mine"]).current_dir(folder.path()).assert().success();
    let own = ["run", "mine/trials/bell-loft.toml", "--trace", "path.csv"];
    rasant().args(own).current_dir(folder.path()).assert().success();
}
