//! `rasant demo`.

use std::path::PathBuf;

use rasant_lab::{Summary, run};
use serde::Serialize;

use crate::figure::Picture;
use crate::files::Library;
use crate::output::{Failure, Grid, print_json};
use crate::outputs::Outputs;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The folder for the figures.
    #[arg(long, value_name = "DIR", default_value = "rasant-out")]
    out: PathBuf,
    /// Prints one JSON document instead of a table.
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct Done {
    trial: String,
    figures: Vec<PathBuf>,
    #[serde(flatten)]
    summary: Summary,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let folder = &arguments.out;
    std::fs::create_dir_all(folder).map_err(|error| Failure::Write { path: folder.clone(), error })?;
    let mut all = Vec::new();
    let mut outputs = Outputs::default();
    for name in files::names() {
        let trial = library.trial(&name)?;
        let done = run(&trial);
        let stem = name.trim_start_matches("demo:");
        let figure = Picture::of_run(&trial, &done)?;
        let figures: Vec<PathBuf> =
            ["svg", "png"].map(|ending| folder.join(stem).with_extension(ending)).into();
        for path in &figures {
            outputs.put(path, figure.bytes(path)?);
        }
        all.push(Done { trial: name, figures, summary: done.summary });
    }
    let written = outputs.write()?;
    if arguments.json { print_json(&all) } else { written.say(&in_words(&all)) }
}

fn in_words(all: &[Done]) -> String {
    let header = ["trial", "time", "distance", "highest", "fastest", "airborne", "jumps", "landed"];
    let mut table = Grid::new(header, 1..8);
    for Done { trial, summary, .. } in all {
        table.add([
            trial.clone(),
            format!("{:.2} s", summary.duration_s),
            format!("{:.2} m", summary.distance_m),
            summary.highest_m.map_or(String::new(), |highest| format!("{highest:.2} m")),
            format!("{:.2} m/s", summary.fastest_m_per_s),
            format!("{:.2} s", summary.airborne_s),
            summary.jumps.to_string(),
            summary.landings.to_string(),
        ]);
    }
    format!("{}\n\n", table.text())
}
