//! Damaged files: thousands of them, made from the shipped ones, read by every reader. Each is
//! accepted or refused with its place, and the schemas agree with the readers.

use std::collections::BTreeMap;
use std::fs;
use std::path::{Path, PathBuf};

use fastrand::Rng;
use rasant::Tape;
use rasant_lab::files::{AnyFile, Game, read_any, read_level, read_root_track, write_svg};
use rasant_lab::{Circumstance, Files, OnDisk, Problem, Script, World, run, schema};

use crate::common::Bytes;
use crate::common::glb::container;
use crate::schemas::{Validator, validator};

/// Files tried in an ordinary run; `RASANT_DAMAGED` is another number.
const COUNT: usize = 3_000;

/// The shipped files, with one of them another.
struct Damaged {
    path: PathBuf,
    text: String,
}

impl Files for Damaged {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        if path == self.path { Ok(self.text.clone()) } else { OnDisk.read(path) }
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        if path == self.path { Ok(self.text.clone().into_bytes()) } else { OnDisk.read_bytes(path) }
    }
}

/// What stands in place of a number, a word or a line.
const ODD: [&str; 26] = [
    "-1",
    "0",
    "1e30",
    "-1e30",
    "1e-30",
    "nan",
    "inf",
    "-inf",
    "1.7",
    "99999999999999999999",
    "0x10",
    "1_000",
    "true",
    "\"\"",
    "\"ü\\u00e9\\\"\"",
    "[]",
    "[[]]",
    "{}",
    "[0, 0]",
    "[1, 2, 3, 4]",
    "1979-05-27",
    "'''",
    "#",
    "\u{feff}",
    "\r\n",
    "at 1e30 s: press jump",
];

fn damage(text: &str, rng: &mut Rng) -> String {
    let mut damaged = text.to_owned();
    for _ in 0..=rng.usize(..3) {
        let boundaries: Vec<usize> = damaged.char_indices().map(|(at, _)| at).collect();
        let Some(&at) = boundaries.get(rng.usize(..boundaries.len().max(1))) else { return damaged };
        let odd = ODD[rng.usize(..ODD.len())];
        let mut lines: Vec<String> = damaged.split_inclusive('\n').map(str::to_owned).collect();
        let line = rng.usize(..lines.len());
        match rng.u8(..8) {
            0 => damaged.truncate(at),
            1 => drop(damaged.remove(at)),
            2 => damaged.insert(at, ['"', '[', '=', '\\', 'ß', '\0', '\n', '9'][rng.usize(..8)]),
            3 => drop(lines.remove(line)),
            4 => lines.insert(line, lines[rng.usize(..lines.len())].clone()),
            5 => lines.swap(line, 0),
            // A value for another.
            6 => {
                let value = damaged[at..].find(|c: char| c.is_ascii_digit()).map(|start| at + start);
                if let Some(start) = value {
                    let length = damaged[start..].find(|c: char| !c.is_ascii_digit() && c != '.');
                    damaged.replace_range(start..length.map_or(damaged.len(), |it| start + it), odd);
                }
            }
            _ => {
                if let Some((key, _)) = lines[line].clone().split_once('=') {
                    lines[line] = format!("{key}= {odd}\n");
                }
            }
        }
        if matches!(lines.len().cmp(&damaged.split_inclusive('\n').count()), std::cmp::Ordering::Equal) {
            continue;
        }
        damaged = lines.concat();
    }
    damaged
}

fn shipped() -> Vec<(&'static str, PathBuf)> {
    let demo = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo"));
    let mut all = Vec::new();
    for folder in ["trials", "levels", "tunings", "bindings"] {
        let mut files: Vec<PathBuf> =
            fs::read_dir(demo.join(folder)).unwrap().map(|entry| entry.unwrap().path()).collect();
        files.retain(|file| file.extension().is_some_and(|ending| ending == "toml"));
        files.sort();
        all.extend(files.into_iter().map(|file| (folder, file)));
    }
    all
}

/// Whether a file is as its schema says; nothing where it is no TOML at all.
fn is_valid(validator: &Validator, text: &str) -> Option<bool> {
    let table: toml::Table = toml::from_str(text).ok()?;
    // JSON has no NaN and no infinity: the schema does not see them.
    if text.contains("nan") || text.contains("inf") {
        return None;
    }
    Some(validator.is_valid(&serde_json::to_value(table).ok()?))
}

#[test]
fn damaged_files_are_accepted_or_refused_with_their_place_and_schemas_agree() {
    let count =
        std::env::var("RASANT_DAMAGED").map_or(COUNT, |number| number.replace('_', "").parse().unwrap());
    let schemas = BTreeMap::from([
        ("trials", validator(&schema::trial(&Game::default()))),
        ("levels", validator(&schema::level(&Game::default()))),
        ("tunings", validator(&schema::tuning(&Game::default()))),
    ]);
    let files = shipped();
    let (mut taken, mut wrong) = (0, Vec::new());
    for number in 0..count {
        let mut rng = Rng::with_seed(number as u64);
        let (kind, path) = &files[rng.usize(..files.len())];
        let text = damage(&fs::read_to_string(path).unwrap(), &mut rng);
        let damaged = Damaged { path: path.clone(), text };
        let read = read_any(&damaged, path);
        let valid = schemas.get(kind).and_then(|validator| is_valid(validator, &damaged.text));
        match &read {
            Ok(file) => {
                taken += 1;
                // What became a file of another kind has another schema.
                let same = file.kind() == kind.trim_end_matches('s');
                if same && valid == Some(false) {
                    wrong.push(format!("{number}, {}: taken, and no file of its schema", path.display()));
                }
                if let AnyFile::Trial(trial) = file
                    && trial.duration * trial.rate as f32 <= 300.0
                {
                    assert!(!run(trial).trace.rows.is_empty());
                }
            }
            Err(problem) => {
                let said = problem.to_string();
                let span = problem.span().unwrap_or(0..0);
                let text = problem.text().unwrap_or("");
                assert!(text.get(span.start..span.end.min(text.len())).is_some(), "{number}: {said}");
                assert!(said.len() > 10 && said.len() < 2_000, "{number}: {said}");
                // A schema can say all of tunings but how hulls hang together; of the others what
                // keys there are and must be.
                let by_keys =
                    ["has no shape", " figures, expected", " is missing", "needs one bound", "unknown key"];
                let can_say = match *kind {
                    "tunings" => !said.contains("hull"),
                    "trials" | "levels" => {
                        by_keys.iter().any(|words| said.contains(words))
                            && !said.contains("`start` is missing")
                    }
                    _ => false,
                };
                if can_say && valid == Some(true) {
                    wrong.push(format!("{number}, {}: {said}, which its schema takes", path.display()));
                }
            }
        }
    }
    assert!(wrong.is_empty(), "{} of {count}:\n{}", wrong.len(), wrong.join("\n"));
    assert!(taken > count / 20 && taken < count, "{taken} of {count} are taken");
}

#[test]
fn damaged_tapes_scripts_and_circumstances_are_accepted_or_refused_within_their_text() {
    let script = "at 0.5 s + 1 s: steer right until x > 3 and not airborne # so\n\
        whenever on zone-entered \"für alle\" + 0.2 s: press jump for 0.3 s\non refused dash empty: look 90 deg -10 deg\n\
        every 2 s: press own-3\nat 3 s: throw 3 8\nthen: knock -4 3 for 0.5 s\n";
    let tape = "rasant-tape 1\n60 ticks a second\n12 1 0 0.5 -0.25 jump+run jump -\n3 0 0 - - - - run\n";
    for number in 0..COUNT as u64 {
        let mut rng = Rng::with_seed(number);
        let text = damage(script, &mut rng);
        if let Err(error) = text.parse::<Script>() {
            let (span, message, expected) = error.into_parts();
            assert!(span.start <= text.len() && !message.is_empty() && !expected.is_empty(), "{text}");
            assert!(text.is_char_boundary(span.start), "{text}: {span:?}");
        }
        let line = text.lines().next().unwrap_or("");
        if let Ok(circumstance) = line.parse::<Circumstance>() {
            assert_eq!(
                circumstance.to_string().parse::<Circumstance>().as_ref(),
                Ok(&circumstance),
                "{line}"
            );
        }
        let text = damage(tape, &mut rng);
        match Tape::from_text(&text) {
            Ok((tape, rate)) => assert!(tape.len() <= 4_000_000 && (1..=10_000).contains(&rate)),
            Err(error) => assert!(error.line >= 1 && !error.expected.is_empty()),
        }
    }
}

#[test]
fn damaged_drawings_and_models_are_accepted_or_refused() {
    let count =
        std::env::var("RASANT_DAMAGED").map_or(COUNT, |number| number.replace('_', "").parse().unwrap());
    let demo = Path::new(concat!(env!("CARGO_MANIFEST_DIR"), "/../../demo/levels"));
    let drawings: Vec<String> = ["first-roofs", "canal-steps", "windy-quay"]
        .iter()
        .map(|name| match read_level(&OnDisk, &demo.join(name).with_extension("toml")).unwrap() {
            World::Plane(file) => write_svg(&file, &Game::default()),
            World::Space(_) => unreachable!("it is flat"),
        })
        .chain([r##"<svg xmlns="http://www.w3.org/2000/svg" data-scale="0.5"><defs><path id="w" d="M 0 0 C 1 2 3 4 5 6 q 1 1 2 2"/>
            <g id="g"><rect width="3mm" height="2" rx="1"/><use href="#g2" x="1"/></g><g id="g2"/></defs>
            <g transform="rotate(20) scale(2 1)" class="surface-felt layer-a"><use href="#g"/><circle r="2"/></g>
            <ellipse class="platform" data-path="w" data-seconds="3" rx="3" ry="1"/>
            <path fill-rule="evenodd" d="M 0 0 h 9 v 9 h -9 z m 3 3 a 1 2 30 1 0 3 3 z M 1 1 t 4 4"/></svg>"##
            .to_owned()])
        .collect();
    let glb = fs::read(demo.join("bell-loft.glb")).unwrap();
    let length = u32::from_le_bytes(glb[12..16].try_into().unwrap()) as usize;
    let (json, data) = (std::str::from_utf8(&glb[20..20 + length]).unwrap(), &glb[28 + length..]);
    // One value per line, so that lines are dropped and swapped as well.
    let json = json.replace(',', ",\n");
    let obj =
        "o yard\nv 0 0 0\nv 0 0 4\nv 4 0 4\nv 4 0 0\nv 2 0 1\nf 1//1 2/2/2 3 4 5\ng ladder\nf -3 -2 -1\n";
    let mut taken = 0;
    for number in 0..count as u64 {
        let mut rng = Rng::with_seed(number);
        let (name, bytes) = match number % 5 {
            0 | 1 => ("a.svg", damage(&drawings[rng.usize(..drawings.len())], &mut rng).into_bytes()),
            2 => {
                let mut bytes = glb.clone();
                for _ in 0..=rng.usize(..4) {
                    let at = rng.usize(..bytes.len());
                    match rng.u8(..3) {
                        0 => bytes[at] = rng.u8(..),
                        1 => bytes.truncate(at.max(1)),
                        _ => bytes[at] ^= 1 << rng.u8(..8),
                    }
                }
                ("a.glb", bytes)
            }
            3 => {
                let text = damage(&json, &mut rng);
                let parsed = serde_json::from_str(&text);
                parsed.map_or(("a.gltf", text.into_bytes()), |model| ("a.glb", container(&model, data)))
            }
            _ => ("a.obj", damage(obj, &mut rng).into_bytes()),
        };
        let files = Bytes::of(name, bytes);
        match read_level(&files, Path::new(name)) {
            Ok(_) => taken += 1,
            Err(problem) => {
                let said = problem.to_string();
                assert!(said.starts_with(name) && said.len() > 10 && said.len() < 2_000, "{number}: {said}");
            }
        }
        if name != "a.svg" {
            // Any result is finite and without a panic.
            if let Ok(track) = read_root_track(&files, Path::new(name), "Bow") {
                assert!(track.duration().is_finite() && track.place(0.5).is_finite(), "{number}");
            }
        }
    }
    assert!(taken > count / 10 && taken < count, "{taken} of {count} are taken");
}
