//! `rasant knobs`.

use rasant::{KNOBS, Knob};
use serde::Serialize;

use crate::Outcome;
use crate::output::{Grid, print_json, print_text};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Only those whose path has this in it.
    filter: Option<String>,
    /// Prints one JSON document instead of a table.
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct Row {
    path: &'static str,
    unit: &'static str,
    least: f32,
    most: f32,
    whole: bool,
    default: f32,
    meaning: &'static str,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let wanted =
        |knob: &&Knob| arguments.filter.as_ref().is_none_or(|part| knob.path.contains(part.as_str()));
    let rows: Vec<Row> = KNOBS
        .iter()
        .filter(wanted)
        .map(|knob| Row {
            path: knob.path,
            unit: knob.unit.sign(),
            least: knob.least,
            most: knob.most,
            whole: knob.unit.is_whole(),
            default: knob.default,
            meaning: knob.meaning.trim(),
        })
        .collect();
    if arguments.json {
        return print_json(&rows);
    }
    let mut table = Grid::new(["knob", "unit", "range", "default", "meaning"], [2, 3]);
    for row in &rows {
        let unit = if row.unit.is_empty() { "-" } else { row.unit };
        table.add([
            row.path.to_owned(),
            unit.to_owned(),
            format!("{} to {}", row.least, row.most),
            row.default.to_string(),
            row.meaning.to_owned(),
        ]);
    }
    print_text(&format!("{}\n", table.text()))
}
