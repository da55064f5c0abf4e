//! `rasant level FILE|FOLDER`.

use std::path::{Path, PathBuf};

use rasant_lab::World;
use rasant_lab::files::write_svg;
use rasant_lab::survey::{Contents, Warning, contents, warnings};
use serde::Serialize;

use super::folder;
use crate::figure::Picture;
use crate::output::{Failure, Grid, print_json};
use crate::outputs::Outputs;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The level: a .toml, .svg, .glb, .gltf or .obj file, or `demo:NAME`; or a trial, for its
    /// level and its tuning. Of a folder, all in it are read, and what became of each is said.
    file: String,
    /// Holds it against a tuning: a file, or `demo:NAME`, and changes to it.
    #[arg(long, value_name = "TUNING")]
    tuning: Option<String>,
    /// Writes a figure of it, SVG or PNG by the name's ending.
    #[arg(long, value_name = "FILE")]
    figure: Option<PathBuf>,
    /// Writes it as a drawing, from which the same level is read again.
    #[arg(long, value_name = "FILE")]
    svg: Option<PathBuf>,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct Told {
    #[serde(flatten)]
    contents: Contents,
    /// Nothing where no tuning is given.
    tuning: Option<String>,
    warnings: Option<Vec<Warning>>,
}

pub fn main(arguments: &Arguments) -> Outcome {
    if Path::new(&arguments.file).is_dir() {
        if arguments.tuning.is_some() || arguments.figure.is_some() || arguments.svg.is_some() {
            let message = format!("{}: a folder is only read, expected no option but --json", arguments.file);
            return Err(Failure::Argument(message));
        }
        return folder::main(Path::new(&arguments.file), arguments.json);
    }
    if let Some(path) = &arguments.figure {
        Picture::check(path)?;
    }
    let mut outputs = Outputs::checked(arguments.figure.iter().chain(&arguments.svg), arguments.json)?;
    outputs.apart_from(files::named([&arguments.file]).chain(files::named(&arguments.tuning)))?;
    let (world, own) = files::level(&arguments.file)?;
    let tuning = match &arguments.tuning {
        Some(spec) => Some(files::tuning(Some(spec))?),
        None => own,
    };
    let found = tuning.as_ref().map(|tuning| warnings(&world, tuning));
    let told = Told { contents: contents(&world), tuning: tuning.map(|file| file.title), warnings: found };
    if let Some(path) = &arguments.figure {
        let line = |warning: &Warning| match warning.count {
            1 => format!("{}: {}", warning.kind, warning.what),
            count => format!("{}: {} ({count} places)", warning.kind, warning.what),
        };
        let marked = told.warnings.iter().flatten().map(|warning| (line(warning), in_space(&warning.at)));
        let picture =
            Picture::of_level(&world, &told.contents.title, &about(&told), &marked.collect::<Vec<_>>())?;
        outputs.put(path, picture.bytes(path)?);
    }
    if let Some(path) = &arguments.svg {
        let World::Plane(file) = &world else {
            let message = format!("--svg {}: a level of three dimensions is no drawing", path.display());
            return Err(Failure::Argument(message));
        };
        outputs.put(path, write_svg(file));
    }
    let written = outputs.write()?;
    if arguments.json { print_json(&told) } else { written.say(&in_words(&told)) }
}

fn in_space(at: &[f32]) -> [f32; 3] {
    std::array::from_fn(|axis| at.get(axis).copied().unwrap_or(0.0))
}

/// What it is, in a line.
fn about(told: &Told) -> String {
    let Contents { min, max, pieces, .. } = &told.contents;
    let size: Vec<String> = min.iter().zip(max).map(|(min, max)| format!("{:.2}", max - min)).collect();
    let pieces: Vec<String> = pieces.iter().map(|(kind, count)| plural(*count, kind)).collect();
    let held = match (&told.tuning, &told.warnings) {
        (Some(tuning), Some(warnings)) => {
            format!(" · held against {tuning}: {}", plural(warnings.len(), "warning"))
        }
        _ => String::new(),
    };
    format!("{} m · {}{held}", size.join(" x "), pieces.join(", "))
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

fn in_words(told: &Told) -> String {
    let Contents { title, dimensions, min, max, surfaces, layers, zones, carriers, start, left_out, .. } =
        &told.contents;
    let mut text = format!("{title}  ({dimensions} dimensions, {})\n\n", about(told));
    text += &format!("  from {} to {} m\n", point(min), point(max));
    if let Some(start) = start {
        text += &format!("  start {} m\n", point(start));
    }
    let mut named = Grid::new(["what", "name", "pieces"], [2]);
    for (what, list) in [("surface", surfaces), ("layer", layers)] {
        for (name, count) in list {
            named.add([what.to_owned(), name.clone(), count.to_string()]);
        }
    }
    let mut spaces = Grid::new(["zone", "effects", "from", "to (m)"], []);
    for zone in zones {
        spaces.add([zone.name.clone(), zone.effects.join(", "), point(&zone.min), point(&zone.max)]);
    }
    let mut moving = Grid::new(["carrier", "pieces", "way", "time", "at the end"], [1, 2, 3]);
    for carrier in carriers {
        moving.add([
            carrier.name.clone(),
            carrier.pieces.to_string(),
            format!("{:.2} m", carrier.way_m),
            format!("{:.2} s", carrier.time_s),
            carrier.end.unwrap_or("set by the host").to_owned(),
        ]);
    }
    let mut missing = Grid::new(["left out", "times"], [1]);
    for (what, count) in left_out {
        missing.add([what.clone(), count.to_string()]);
    }
    let mut odd = Grid::new(["", "warning", "what", "at (m)", "places"], [0, 4]);
    for (number, warning) in told.warnings.iter().flatten().enumerate() {
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
    match &told.warnings {
        Some(warnings) if warnings.is_empty() => text += "\nnothing of it is odd to this tuning\n",
        None => text += "\n(--tuning holds it against a tuning)\n",
        _ => {}
    }
    text
}
