//! Files that change while a game runs.

use std::fs::{self, File};
use std::path::Path;
use std::time::{Duration, SystemTime};

use rasant_files::{Problem, TuningFile, Watched, World};

/// Writes a file and makes its time another than before, however coarse the file system's times are.
fn write(path: &Path, text: &str, second: u64) {
    fs::write(path, text).unwrap();
    let time = SystemTime::UNIX_EPOCH + Duration::from_secs(1_700_000_000 + second);
    File::options().write(true).open(path).unwrap().set_modified(time).unwrap();
}

fn speed(text: f32) -> String {
    format!("title = \"A walker\"\n[walk]\nspeed = {text}\n")
}

/// What a poll answers, in words.
fn polled(watched: &mut Watched<TuningFile>) -> String {
    match watched.poll() {
        None => "-".to_owned(),
        Some(Ok(file)) => format!("{}", file.tuning.walk.speed),
        Some(Err(problem)) => format!("{problem}").lines().next().unwrap_or_default().to_owned(),
    }
}

#[test]
fn a_tuning_is_read_again_when_its_file_is_whole() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("walker.toml");
    assert!(Watched::tuning(&path).is_err(), "there is no file yet");
    write(&path, &speed(3.0), 0);
    let mut walker = Watched::tuning(&path).unwrap();
    assert_eq!((walker.tuning.walk.speed, polled(&mut walker)), (3.0, "-".to_owned()));
    write(&path, &speed(5.0), 1);
    assert_eq!([polled(&mut walker), polled(&mut walker), polled(&mut walker)], ["-", "5", "-"]);
    // While it is being written, each poll finds another file: none is read.
    for step in 0..5 {
        write(&path, &"title = \"A walker\"\n[walk]\nspeed = 7.5\n"[..10 + 5 * step], 2 + step as u64);
        assert_eq!(polled(&mut walker), "-");
    }
    write(&path, &speed(7.5), 9);
    assert_eq!([polled(&mut walker), polled(&mut walker)], ["-", "7.5"]);
}

#[test]
fn the_last_good_value_stays_while_a_file_has_an_error() {
    let folder = tempfile::tempdir().unwrap();
    let path = folder.path().join("walker.toml");
    write(&path, &speed(3.0), 0);
    let mut walker = Watched::tuning(&path).unwrap();
    write(&path, "[walk]\nspeeed = 4\n", 1);
    assert_eq!(polled(&mut walker), "-");
    let said = polled(&mut walker);
    assert!(said.contains("speeed"), "{said}");
    assert!(walker.problem().is_some_and(|problem: &Problem| problem.to_string().contains("speed")));
    assert_eq!((walker.tuning.walk.speed, polled(&mut walker)), (3.0, "-".to_owned()), "said once");
    // Removed, and back.
    fs::remove_file(&path).unwrap();
    assert_eq!(polled(&mut walker), "-");
    assert!(polled(&mut walker).contains("cannot be read"));
    write(&path, &speed(4.0), 2);
    assert_eq!([polled(&mut walker), polled(&mut walker)], ["-", "4"]);
    assert!(walker.problem().is_none());
}

#[test]
fn a_level_is_read_again_when_its_drawing_changes() {
    let folder = tempfile::tempdir().unwrap();
    let (level, drawing) = (folder.path().join("yard.toml"), folder.path().join("yard.svg"));
    let svg = |rectangles: &str| {
        format!("<svg xmlns=\"http://www.w3.org/2000/svg\" viewBox=\"0 0 100 100\">{rectangles}</svg>")
    };
    let one = "<rect class=\"solid\" x=\"0\" y=\"90\" width=\"100\" height=\"10\"/>";
    write(&drawing, &svg(one), 0);
    write(&level, "[[geometry]]\nfile = \"yard.svg\"\nscale = 0.1\n", 0);
    let pieces = |world: &World| match world {
        World::Plane(file) => file.level.len(),
        World::Space(file) => file.level.len(),
    };
    let mut yard = Watched::level(&level).unwrap();
    assert_eq!(pieces(&yard), 1);
    let two = one.replace("y=\"90\"", "y=\"50\"");
    write(&drawing, &svg(&format!("{one}{two}")), 1);
    assert!(yard.poll().is_none());
    assert_eq!(pieces(yard.poll().unwrap().unwrap()), 2);
    // A drawing that is named only while there is an error is watched as well.
    let other = folder.path().join("other.svg");
    write(&level, "[[geometry]]\nfile = \"other.svg\"\nscale = 0.1\n", 2);
    yard.poll();
    assert!(yard.poll().unwrap().is_err());
    write(&other, &svg(one), 3);
    yard.poll();
    assert_eq!(pieces(yard.poll().unwrap().unwrap()), 1);
}
