//! `rasant merge FILE...`.

use std::collections::VecDeque;
use std::path::{Path, PathBuf};

use crate::Outcome;
use crate::output::{Failure, csv, ending};
use crate::outputs::Outputs;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// What the parts 1/N to N/N wrote, in this order: CSV of `vary --csv`, or JSON of
    /// `check --json`.
    #[arg(required = true, num_args = 1..)]
    parts: Vec<PathBuf>,
    /// Where it goes; `-` is standard output.
    #[arg(long, value_name = "FILE", default_value = "-")]
    out: PathBuf,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let mut outputs = Outputs::checked([&arguments.out], false)?;
    let texts = arguments.parts.iter().map(|path| {
        std::fs::read_to_string(path)
            .map(|text| (path.as_path(), text))
            .map_err(|error| Failure::Argument(format!("{}: cannot be read: {error}", path.display())))
    });
    let texts = texts.collect::<Result<Vec<_>, _>>()?;
    let merged = match ending(&arguments.parts[0]).as_str() {
        "json" => merged_json(&texts)?,
        _ => merged_csv(&texts)?,
    };
    outputs.put(&arguments.out, merged);
    outputs.write()?.say("")
}

fn wrong(path: &Path, what: impl std::fmt::Display) -> Failure {
    Failure::Argument(format!("{}: {what}", path.display()))
}

/// Takes from each in turn: what was dealt out so is in its old order.
fn in_turn<T>(parts: Vec<Vec<T>>) -> Vec<T> {
    let mut parts: Vec<VecDeque<T>> = parts.into_iter().map(VecDeque::from).collect();
    let mut all = Vec::new();
    while parts.iter().any(|part| !part.is_empty()) {
        all.extend(parts.iter_mut().filter_map(VecDeque::pop_front));
    }
    all
}

fn merged_csv(texts: &[(&Path, String)]) -> Result<Vec<u8>, Failure> {
    let mut header: Option<Vec<String>> = None;
    let mut parts = Vec::new();
    for (path, text) in texts {
        let mut rows = Vec::new();
        let mut reader = csv::ReaderBuilder::new().has_headers(false).from_reader(text.as_bytes());
        for record in reader.records() {
            let record = record.map_err(|error| wrong(path, error))?;
            rows.push(record.iter().map(str::to_owned).collect::<Vec<_>>());
        }
        if rows.is_empty() {
            return Err(wrong(path, "found nothing, expected a line of names and rows"));
        }
        let names = rows.remove(0);
        if header.get_or_insert_with(|| names.clone()) != &names {
            return Err(wrong(path, "its columns are others than those of the first part"));
        }
        parts.push(rows);
    }
    csv(header.into_iter().chain(in_turn(parts)))
}

fn merged_json(texts: &[(&Path, String)]) -> Result<Vec<u8>, Failure> {
    let parts = texts.iter().map(|(path, text)| {
        let part: Result<Vec<serde_json::Value>, _> = serde_json::from_str(text);
        part.map_err(|error| wrong(path, format!("{error}, expected a list, as `check --json` prints")))
    });
    let all = in_turn(parts.collect::<Result<Vec<_>, _>>()?);
    let mut text = serde_json::to_vec_pretty(&all).map_err(|error| Failure::Argument(error.to_string()))?;
    text.push(b'\n');
    Ok(text)
}
