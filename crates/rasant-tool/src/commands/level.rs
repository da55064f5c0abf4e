//! `rasant level FILE|FOLDER`.

use std::path::{Path, PathBuf};

use rasant_lab::World;
use rasant_lab::files::{UpAxis, unit_of};
use rasant_lab::files::{not_in_svg, write_svg};
use rasant_lab::survey::{Contents, Warning, contents, warnings};
use serde::Serialize;

use super::folder;
use crate::figure::Picture;
use crate::files::Library;
use crate::output::{Failure, Grid, print_json};
use crate::outputs::Outputs;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The level: a .toml, .svg, .glb, .gltf or .obj file, or `demo:NAME`; or a trial, for its
    /// level and its tuning; or a folder, whose files are all read and reported.
    file: String,
    /// Checks the level with a tuning: a file, or `demo:NAME`, optionally with changes.
    #[arg(long, value_name = "TUNING")]
    tuning: Option<String>,
    /// Writes a figure of it, SVG or PNG by its extension.
    #[arg(long, value_name = "FILE")]
    figure: Option<PathBuf>,
    /// Writes it as a drawing that reads back to the same level.
    #[arg(long, value_name = "FILE")]
    svg: Option<PathBuf>,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct LevelReport {
    #[serde(flatten)]
    contents: Contents,
    /// `None` without a tuning.
    tuning: Option<String>,
    warnings: Option<Vec<Warning>>,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    if Path::new(&arguments.file).is_dir() {
        if arguments.tuning.is_some() || arguments.figure.is_some() || arguments.svg.is_some() {
            let message =
                format!("{}: a folder is only read, expected no option except --json", arguments.file);
            return Err(Failure::Argument(message));
        }
        return folder::main(Path::new(&arguments.file), library, arguments.json);
    }
    if let Some(path) = &arguments.figure {
        Picture::check(path)?;
    }
    let mut outputs = Outputs::checked(arguments.figure.iter().chain(&arguments.svg), arguments.json)?;
    outputs.apart_from(files::named([&arguments.file]).chain(files::named(&arguments.tuning)))?;
    let (mut world, own) = library.level(&arguments.file)?;
    let tuning = match &arguments.tuning {
        Some(spec) => Some(library.tuning(Some(spec))?),
        None => own,
    };
    if let (Some(spec), Some(tuning)) = (&arguments.tuning, &tuning) {
        let suits = world.suit(tuning);
        suits.map_err(|error| {
            Failure::Argument(format!("--tuning {spec}: {error}, expected {}", error.expected()))
        })?;
    }
    let found = tuning.as_ref().map(|tuning| warnings(&world, tuning));
    let report =
        LevelReport { contents: contents(&world), tuning: tuning.map(|file| file.title), warnings: found };
    if let Some(path) = &arguments.figure {
        let line = |warning: &Warning| match warning.count {
            1 => format!("{}: {}", warning.kind, warning.what),
            count => format!("{}: {} ({count} places)", warning.kind, warning.what),
        };
        let marked = report.warnings.iter().flatten().map(|warning| (line(warning), in_space(&warning.at)));
        let picture =
            Picture::of_level(&world, &report.contents.title, &about(&report), &marked.collect::<Vec<_>>())?;
        outputs.put(path, picture.bytes(path)?);
    }
    if let Some(path) = &arguments.svg {
        let World::Plane(file) = &world else {
            let message =
                format!("--svg {}: a three-dimensional level cannot be drawn as SVG", path.display());
            return Err(Failure::Argument(message));
        };
        for lack in not_in_svg(file) {
            eprintln!("left out of {}: {lack}", path.display());
        }
        outputs.put(path, write_svg(file, &library.game.in_files()));
    }
    let written = outputs.write()?;
    if arguments.json { print_json(&report) } else { written.say(&in_words(&report)) }
}

fn in_space(at: &[f32]) -> [f32; 3] {
    std::array::from_fn(|axis| at.get(axis).copied().unwrap_or(0.0))
}

/// A summary in a line.
fn about(report: &LevelReport) -> String {
    let Contents { min, max, pieces, scale, .. } = &report.contents;
    let size: Vec<String> = min.iter().zip(max).map(|(min, max)| format!("{:.2}", max - min)).collect();
    let pieces: Vec<String> = pieces.iter().map(|(kind, count)| plural(*count, kind)).collect();
    let held = match (&report.tuning, &report.warnings) {
        (Some(tuning), Some(warnings)) => {
            format!(" · with the tuning {tuning}: {}", plural(warnings.len(), "warning"))
        }
        _ => String::new(),
    };
    format!("{} {} · {}{held}", size.join(" x "), unit_of(*scale), pieces.join(", "))
}

fn plural(count: usize, kind: &str) -> String {
    match kind.split_once(' ') {
        _ if count == 1 => format!("1 {kind}"),
        Some((first, rest)) => format!("{count} {first}s {rest}"),
        None => format!("{count} {kind}s"),
    }
}

fn point(at: &[f32]) -> String {
    at.iter().map(|part| format!("{part:.2}")).collect::<Vec<_>>().join(", ")
}

fn in_words(report: &LevelReport) -> String {
    let Contents {
        title,
        dimensions,
        up,
        scale,
        min,
        max,
        surfaces,
        layers,
        zones,
        carriers,
        start,
        left_out,
        ..
    } = &report.contents;
    let unit = unit_of(*scale);
    let mut text = format!("{title}  ({dimensions} dimensions, {})\n\n", about(report));
    text += &format!("  from {} to {} {unit}\n", point(min), point(max));
    if *scale != 1.0 {
        text += &format!("  {scale} units are a metre; what the warnings say is in metres\n");
    }
    if *up != UpAxis::Y.name() {
        text += &format!("  {up} is up\n");
    }
    if let Some(start) = start {
        text += &format!("  start {} {unit}\n", point(start));
    }
    let mut named = Grid::new(["what", "name", "pieces"], [2]);
    for (what, list) in [("surface", surfaces), ("layer", layers)] {
        for (name, count) in list {
            named.add([what.to_owned(), name.clone(), count.to_string()]);
        }
    }
    let mut spaces = Grid::new(["zone", "effects", "from", &format!("to ({unit})")], []);
    for zone in zones {
        spaces.add([zone.name.clone(), zone.effects.join(", "), point(&zone.min), point(&zone.max)]);
    }
    let mut moving = Grid::new(["carrier", "pieces", "path", "time", "at the end"], [1, 2, 3]);
    for carrier in carriers {
        moving.add([
            carrier.name.clone(),
            carrier.pieces.to_string(),
            format!("{:.2} {unit}", carrier.distance_m),
            format!("{:.2} s", carrier.time_s),
            carrier.end.unwrap_or("placed by the host").to_owned(),
        ]);
    }
    let mut missing = Grid::new(["left out", "times"], [1]);
    for (what, count) in left_out {
        missing.add([what.clone(), count.to_string()]);
    }
    let mut odd = Grid::new(["", "warning", "what", &format!("at ({unit})"), "places"], [0, 4]);
    for (number, warning) in report.warnings.iter().flatten().enumerate() {
        odd.add([
            (number + 1).to_string(),
            warning.kind.to_owned(),
            warning.what.clone(),
            point(&warning.at),
            warning.count.to_string(),
        ]);
    }
    for table in [named, spaces, moving, missing, odd].iter().filter(|table| !table.is_empty()) {
        text += &format!("\n{}", table.text());
        if !text.ends_with('\n') {
            text.push('\n');
        }
    }
    match &report.warnings {
        Some(warnings) if warnings.is_empty() => text += "\nno warnings for this tuning\n",
        None => text += "\n(--tuning checks it with a tuning)\n",
        _ => {}
    }
    text
}
