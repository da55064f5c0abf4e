//! The example without a window: a tape in, a picture out.

use std::path::{Path, PathBuf};
use std::process::{Command, Output};

fn example(arguments: &[&str]) -> Output {
    Command::new(env!("CARGO_BIN_EXE_rasant-window")).args(arguments).output().unwrap()
}

fn said(output: &Output) -> String {
    String::from_utf8_lossy(&output.stdout).into_owned()
}

fn scratch(name: &str) -> PathBuf {
    Path::new(env!("CARGO_TARGET_TMPDIR")).join(name)
}

#[test]
fn the_trials_own_inputs_end_where_they_always_do_and_are_drawn() {
    let pictures = [scratch("a.png"), scratch("b.png")];
    let runs = pictures.each_ref().map(|picture| {
        let output = example(&["--frames", "250", "--png", picture.to_str().unwrap()]);
        assert!(output.status.success(), "{output:?}");
        said(&output).split("; wrote").next().unwrap().to_owned()
    });
    assert_eq!(runs[0], runs[1]);
    // Over both gutters, with a dash each.
    let at: f32 = runs[0].split("at ").nth(1).unwrap().split(',').next().unwrap().parse().unwrap();
    assert!(at > 33.0, "{}", runs[0]);
    let bytes = pictures.map(|picture| std::fs::read(picture).unwrap());
    assert!(bytes[0].starts_with(b"\x89PNG") && bytes[0].len() > 5_000);
    assert_eq!(bytes[0], bytes[1]);
}

#[test]
fn a_tape_is_replayed_instead_and_a_broken_one_refused() {
    let (tape, picture) = (scratch("left.tape"), scratch("left.png"));
    std::fs::write(&tape, "rasant-tape 1\n60 ticks a second\n60 -1 0 0 0 - - -\n").unwrap();
    let arguments = ["--frames", "90", "--png", picture.to_str().unwrap(), "--tape", tape.to_str().unwrap()];
    let output = example(&arguments);
    assert!(output.status.success(), "{output:?}");
    let at: f32 = said(&output).split("at ").nth(1).unwrap().split(',').next().unwrap().parse().unwrap();
    assert!(at < 8.0, "{}", said(&output));
    std::fs::write(&tape, "rasant-tape 1\n60 ticks a second\n60 -1 0 0 0 - -\n").unwrap();
    let output = example(&arguments);
    assert_eq!(output.status.code(), Some(2));
    assert!(String::from_utf8_lossy(&output.stderr).contains("line 3"), "{output:?}");
}

#[test]
fn a_trial_in_space_is_drawn_from_behind_and_ends_where_the_tool_says() {
    let picture = scratch("space.png");
    let trial = concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/trials/stair-tower.toml");
    let output = example(&["--trial", trial, "--frames", "360", "--png", picture.to_str().unwrap()]);
    assert!(output.status.success(), "{output:?}");
    let read = rasant_lab::read_trial(&rasant_lab::OnDisk, Path::new(trial)).unwrap();
    let run = rasant_lab::run(&read);
    let last = run.trace.rows.last().unwrap();
    let at = last.position.map(|part| format!("{part:.3}")).join(", ");
    assert!(said(&output).contains(&at), "{at}: {}", said(&output));
    assert!(std::fs::read(picture).unwrap().len() > 5_000);
}
