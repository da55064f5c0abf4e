//! Levels made up of odd parts and odder numbers, in every format, read by the tool under a limit of
//! memory and time. `RASANT_FUZZ` is how many folders of files are read; one in an ordinary run.

use std::fmt::Write as _;
use std::fs;
use std::time::Duration;

use assert_cmd::Command;
use fastrand::Rng;
use serde_json::Value;
use tempfile::tempdir;

/// Files of a folder.
const FILES: u64 = 400;
/// Bytes that the tool may take.
const MEMORY: u64 = 1_000_000_000;
/// Seconds that a file may take.
const TIME: f64 = 10.0;

/// A number as none, few or many would write it.
fn number(dice: &mut Rng) -> String {
    const ODD: [&str; 16] = [
        "0",
        "-0",
        "1e-45",
        "1e-30",
        "1e9",
        "1e10",
        "9e18",
        "1e30",
        "3.4e38",
        "-3.4e38",
        "1e300",
        "1e-300",
        "1e999",
        "-1",
        "1e6",
        "4294967297",
    ];
    match dice.u8(..20) {
        0 => ODD[dice.usize(..ODD.len())].to_owned(),
        1 => format!("{}", dice.i32(-1000..1000)),
        _ => format!("{:.3}", 40.0 * dice.f64() - 10.0),
    }
}

fn numbers(dice: &mut Rng, count: usize) -> String {
    (0..count).map(|_| number(dice)).collect::<Vec<_>>().join(" ")
}

/// A word that some program might give, or this one has.
fn name(dice: &mut Rng) -> String {
    const NAMES: [&str; 14] = [
        "wind turbine",
        "wind",
        "Ladder.001",
        "platform",
        "start",
        "surface-ice",
        "layer-roofs",
        "on-barge",
        "gravity",
        "water",
        "own",
        "Körper",
        "ignore",
        "a",
    ];
    match dice.u8(..12) {
        0 => "n".repeat(dice.usize(1..200_000)),
        _ => NAMES[dice.usize(..NAMES.len())].to_owned(),
    }
}

fn path(dice: &mut Rng) -> String {
    let mut path = format!("M {}", numbers(dice, 2));
    for _ in 0..dice.usize(..12) {
        let (letter, count) =
            [("L", 2), ("h", 1), ("V", 1), ("C", 6), ("s", 4), ("Q", 4), ("t", 2), ("z", 0)][dice.usize(..8)];
        match dice.u8(..4) {
            0 => write!(
                path,
                " A {} 0 {} {} {}",
                numbers(dice, 2),
                dice.u8(..2),
                dice.u8(..2),
                numbers(dice, 2)
            )
            .unwrap(),
            _ => write!(path, " {letter} {}", numbers(dice, count)).unwrap(),
        }
    }
    path
}

fn element(dice: &mut Rng, depth: usize) -> String {
    let id = name(dice);
    let beside = [
        format!("id=\"{id}\""),
        format!("class=\"{}\"", name(dice)),
        format!("transform=\"scale({})\"", number(dice)),
        format!("transform=\"matrix({})\"", numbers(dice, 6)),
        format!("data-push=\"{}\"", numbers(dice, 2)),
        format!("data-keyframes=\"0 0 0; {}\"", numbers(dice, 3)),
        "fill=\"none\"".to_owned(),
        String::new(),
    ];
    let beside = &beside[dice.usize(..beside.len())];
    let mut n = || number(dice);
    let shape = match depth % 7 {
        0 => format!("<circle cx=\"{}\" r=\"{}\" {beside}/>", n(), n()),
        1 => format!("<ellipse rx=\"{}\" ry=\"{}\" {beside}/>", n(), n()),
        2 => format!("<rect width=\"{}\" height=\"{}\" rx=\"{}\" {beside}/>", n(), n(), n()),
        3 => format!("<line x1=\"{}\" y2=\"{}\" {beside}/>", n(), n()),
        4 => format!("<polygon points=\"{}\" {beside}/>", numbers(dice, 2 * (3 + depth % 9))),
        _ => format!("<path d=\"{}\" {beside}/>", path(dice)),
    };
    match dice.u8(..10) {
        0 if depth < 40 => format!("<g {beside}>{}</g>", element(dice, depth + 1)),
        1 => format!(
            "<symbol id=\"s{depth}\" viewBox=\"{}\">{shape}</symbol><use href=\"#s{depth}\" width=\"{}\" height=\"3\"/>",
            numbers(dice, 4),
            number(dice)
        ),
        2 => format!(
            "<style>.a {{ fill: none }} rect > * {{ transform: rotate({}deg) }}</style>{shape}",
            number(dice)
        ),
        _ => shape,
    }
}

fn drawing(dice: &mut Rng) -> String {
    let inside: String = (0..dice.usize(1..6))
        .map(|_| {
            let kind = dice.usize(..7);
            element(dice, kind)
        })
        .collect();
    format!(
        "<!DOCTYPE svg><svg xmlns=\"http://www.w3.org/2000/svg\">{inside}<rect width=\"4\" height=\"1\"/></svg>"
    )
}

fn mesh(dice: &mut Rng) -> String {
    let mut text = format!("o {}\n", name(dice));
    let count = dice.usize(3..9);
    for _ in 0..count {
        writeln!(text, "v {}", numbers(dice, 3)).unwrap();
    }
    for _ in 0..dice.usize(1..6) {
        let corners: Vec<String> = (0..dice.usize(3..6)).map(|_| dice.usize(1..=count).to_string()).collect();
        writeln!(text, "f {}", corners.join(" ")).unwrap();
    }
    text
}

fn table(dice: &mut Rng) -> String {
    let mut text = String::new();
    for _ in 0..dice.usize(1..5) {
        let mut n = || number(dice);
        let piece = match n().len() % 5 {
            0 => format!("block = [[{}, {}], [{}, {}]]", n(), n(), n(), n()),
            1 => format!("ball = {{ centre = [{}, {}], radius = {} }}", n(), n(), n()),
            2 => format!("polygon = [[{}, {}], [{}, {}], [{}, {}]]", n(), n(), n(), n(), n(), n()),
            3 => format!("segment = [[{}, {}], [{}, {}]]", n(), n(), n(), n()),
            _ => format!("block = [[0, 0], [{}, 1]]\nturn_deg = {}", n(), n()),
        };
        writeln!(text, "[[piece]]\n{piece}").unwrap();
    }
    if dice.bool() {
        let mut n = || number(dice);
        writeln!(text, "[[zone]]\nbox = [[{}, {}], [{}, {}]]\nkind = \"ladder\"", n(), n(), n(), n())
            .unwrap();
    }
    text
}

fn model(dice: &mut Rng) -> String {
    let mut n = || number(dice);
    format!(
        "{{\"asset\":{{\"version\":\"2.0\"}},\"scene\":0,\"scenes\":[{{\"nodes\":[0]}}],\"nodes\":[{{\"name\":\"{}\",\"scale\":[{},{},{}],\
         \"translation\":[{},0,0],\"mesh\":0}}],\"meshes\":[{{\"primitives\":[{{\"attributes\":{{\"POSITION\":0}}}}]}}],\
         \"accessors\":[{{\"componentType\":5126,\"count\":{},\"type\":\"VEC3\",\"bufferView\":0,\"min\":[0,0,0],\"max\":[1,1,1]}}],\
         \"bufferViews\":[{{\"buffer\":0,\"byteLength\":{}}}],\
         \"buffers\":[{{\"byteLength\":36,\"uri\":\"data:application/octet-stream;base64,AAAAAAAAAAAAAAAAAACAPwAAAAAAAAAAAAAAAAAAgD8AAAAA\"}}]}}",
        "a",
        n(),
        n(),
        n(),
        n(),
        [3, 6, 4_000_000_000u64][n().len() % 3],
        [36u64, 12, 4_000_000_000][n().len() % 3],
    )
}

#[test]
fn made_up_levels_of_every_format_take_little_memory_and_time() {
    let rounds: u64 = std::env::var("RASANT_FUZZ").ok().and_then(|text| text.parse().ok()).unwrap_or(1);
    for round in 0..rounds {
        let folder = tempdir().unwrap();
        for number in 0..FILES {
            let mut dice = Rng::with_seed(1_000_000 * round + number);
            let (ending, text) = match number % 8 {
                0..=3 => ("svg", drawing(&mut dice)),
                4 => ("obj", mesh(&mut dice)),
                5 => ("gltf", model(&mut dice)),
                _ => ("toml", table(&mut dice)),
            };
            fs::write(folder.path().join(format!("{number:03}.{ending}")), text).unwrap();
        }
        let mut command = Command::cargo_bin("rasant").unwrap();
        command.args(["level", "--json"]).arg(folder.path()).timeout(Duration::from_secs(600));
        let done = command.assert().success();
        let summary: Value = serde_json::from_slice(&done.get_output().stdout).unwrap();
        let files = summary["files"].as_array().unwrap();
        assert_eq!(files.len() as u64, FILES, "round {round}");
        assert!(summary["read"].as_u64().unwrap() > FILES / 8, "round {round}: {}", summary["read"]);
        // Of each format some are sound: not all is refused before it is looked at.
        for ending in [".svg", ".obj", ".gltf", ".toml"] {
            let is_read =
                |file: &&Value| file["error"].is_null() && file["file"].as_str().unwrap().ends_with(ending);
            assert!(files.iter().filter(is_read).count() >= 3, "round {round}: hardly any {ending} is read");
        }
        let slowest = files.iter().map(|file| file["seconds"].as_f64().unwrap()).fold(0.0, f64::max);
        assert!(slowest < TIME, "round {round}: {slowest} s");
        let peak = summary["peak_bytes"].as_u64().unwrap_or(0);
        assert!(peak < MEMORY, "round {round}: {peak} bytes");
        // Every error says what was expected, or that a rule of the format is broken.
        for file in files.iter().filter(|file| !file["error"].is_null()) {
            let why = file["error"].as_str().unwrap();
            assert!(
                why.contains("expected") || why.contains("not valid") || why.contains("no path"),
                "{why}"
            );
        }
    }
}
