//! `rasant merge FILE...`.

use std::path::{Path, PathBuf};

use rasant_lab::Shard;
use serde::Deserialize;

use crate::Outcome;
use crate::output::{Failure, csv, ending};
use crate::outputs::Outputs;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// What all parts 1/N to N/N wrote, in any order: CSV of `vary --shard --csv`, or JSON of
    /// `check --shard --json`.
    #[arg(required = true, num_args = 1..)]
    parts: Vec<PathBuf>,
    /// The file to write; `-` is standard output.
    #[arg(long, value_name = "FILE", default_value = "-")]
    out: PathBuf,
}

/// The name of the column with the indices of a part's rows in the whole: `part 1/3 of 11`.
pub fn column(shard: Shard, whole: usize) -> String {
    format!("part {shard} of {whole}")
}

/// The part and the total number of rows in the name of a column.
fn of_column(name: &str) -> Option<(Shard, usize)> {
    let (part, whole) = name.strip_prefix("part ")?.split_once(" of ")?;
    Some((part.parse().ok()?, whole.parse().ok()?))
}

pub fn main(arguments: &Arguments) -> Outcome {
    let mut outputs = Outputs::checked([&arguments.out], false)?;
    outputs.apart_from(arguments.parts.iter().map(PathBuf::as_path))?;
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

/// One part: its source, its number, and its rows.
struct Part<'a, T> {
    path: &'a Path,
    shard: Shard,
    /// The total number of rows.
    whole: usize,
    pieces: Vec<T>,
}

/// The rows of all parts in the order of the whole. Each part must occur once.
fn in_order<T>(parts: Vec<Part<'_, T>>) -> Result<Vec<T>, Failure> {
    let (of, whole) = (parts[0].shard.part_of().1, parts[0].whole);
    let mut from: Vec<Option<&Path>> = vec![None; of];
    for part in &parts {
        let (number, count) = part.shard.part_of();
        if count != of || part.whole != whole {
            let found = format!("found part {} of {} rows", part.shard, part.whole);
            return Err(wrong(
                part.path,
                format!("{found}, expected a part of {of} with {whole} rows in all, as the first"),
            ));
        }
        if let Some(other) = from[number - 1].replace(part.path) {
            let found = format!("found part {} again, which is also in {}", part.shard, other.display());
            return Err(wrong(part.path, found));
        }
    }
    let missing = (1..=of).filter(|number| from[number - 1].is_none()).map(|number| format!("{number}/{of}"));
    let missing: Vec<String> = missing.collect();
    if !missing.is_empty() {
        return Err(Failure::Argument(format!("part {} is missing", missing.join(", "))));
    }
    let mut numbered = Vec::with_capacity(whole);
    for part in parts {
        let count = part.pieces.len();
        if (0..whole).filter(|number| part.shard.contains(*number)).count() != count {
            return Err(wrong(part.path, format!("found {count} rows of {whole} in all: some are missing")));
        }
        let shard = part.shard;
        numbered.extend(
            part.pieces.into_iter().enumerate().map(|(place, piece)| (shard.number_at(place), piece)),
        );
    }
    numbered.sort_by_key(|(number, _)| *number);
    Ok(numbered.into_iter().map(|(_, piece)| piece).collect())
}

fn merged_csv(texts: &[(&Path, String)]) -> Result<Vec<u8>, Failure> {
    let mut header: Option<Vec<String>> = None;
    let mut parts = Vec::new();
    for (path, text) in texts {
        let path = *path;
        let mut reader = csv::ReaderBuilder::new().from_reader(text.as_bytes());
        let names = reader.headers().map_err(|error| wrong(path, error))?;
        let (shard, whole) = names.get(0).and_then(of_column).ok_or_else(|| {
            wrong(path, "found no column `part K/N`, expected CSV that `vary --shard K/N --csv` wrote")
        })?;
        let names: Vec<String> = names.iter().skip(1).map(str::to_owned).collect();
        if header.get_or_insert_with(|| names.clone()) != &names {
            return Err(wrong(path, "its columns differ from those of the first part"));
        }
        let mut pieces: Vec<Vec<String>> = Vec::new();
        for record in reader.records() {
            let record = record.map_err(|error| wrong(path, error))?;
            let number = record.get(0).and_then(|number| number.parse::<usize>().ok());
            if number != Some(shard.number_at(pieces.len())) {
                let found = format!("row {} has the number `{}`", pieces.len() + 1, &record[0]);
                return Err(wrong(path, format!("{found}, expected {}", shard.number_at(pieces.len()))));
            }
            pieces.push(record.iter().skip(1).map(str::to_owned).collect());
        }
        parts.push(Part { path, shard, whole, pieces });
    }
    csv(header.into_iter().chain(in_order(parts)?))
}

/// A part as printed by `check --shard --json`.
#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct Checked {
    part: String,
    of: usize,
    checked: Vec<serde_json::Value>,
}

fn merged_json(texts: &[(&Path, String)]) -> Result<Vec<u8>, Failure> {
    let parts = texts.iter().map(|(path, text)| {
        let expected = "expected what `check --shard K/N --json` printed";
        let read: Result<Checked, _> = serde_json::from_str(text);
        let read = read.map_err(|error| wrong(path, format!("{error}, {expected}")))?;
        let shard = read.part.parse::<Shard>().map_err(|error| wrong(path, error))?;
        Ok(Part { path, shard, whole: read.of, pieces: read.checked })
    });
    let all = in_order(parts.collect::<Result<Vec<_>, Failure>>()?)?;
    let mut text = serde_json::to_vec_pretty(&all).map_err(|error| Failure::Argument(error.to_string()))?;
    text.push(b'\n');
    Ok(text)
}
