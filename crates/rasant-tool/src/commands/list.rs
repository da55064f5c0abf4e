//! `rasant list [KIND]`.

use clap::ValueEnum;
use rasant_lab::expect::MEASURES;
use serde::Serialize;

use crate::files::Library;
use crate::output::{Grid, print_json, print_text};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Lists only these; all without a kind.
    kind: Option<Kind>,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

/// Kinds of things with names.
#[derive(Clone, Copy, Debug, PartialEq, Eq, ValueEnum)]
enum Kind {
    /// Shipped trials.
    Trials,
    /// Shipped tunings.
    Tunings,
    /// Shipped levels.
    Levels,
    /// Figures of the sheet, and of runs.
    Figures,
}

#[derive(Serialize)]
struct Thing {
    kind: &'static str,
    name: String,
    #[serde(skip_serializing_if = "Option::is_none")]
    unit: Option<&'static str>,
    what: String,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let chosen = |kind: Kind| arguments.kind.is_none_or(|only| only == kind);
    let mut things = Vec::new();
    let shipped = [
        (Kind::Trials, "trial", files::names()),
        (Kind::Tunings, "tuning", files::tuning_names()),
        (Kind::Levels, "level", files::level_names()),
    ];
    for (_, kind, names) in shipped.into_iter().filter(|(kind, ..)| chosen(*kind)) {
        let titled = |name: String| Thing { kind, what: library.title(&name, kind), name, unit: None };
        things.extend(names.into_iter().map(titled));
    }
    if chosen(Kind::Figures) {
        things.extend(library.game.figures().kinds().map(|figure| Thing {
            kind: "figure of the sheet",
            name: figure.name.to_owned(),
            unit: Some(figure.unit),
            what: figure.meaning.to_owned(),
        }));
        things.extend(MEASURES.iter().map(|measure| Thing {
            kind: "figure of a run",
            name: measure.name.to_owned(),
            unit: Some(measure.unit),
            what: measure.meaning.to_owned(),
        }));
    }
    if arguments.json { print_json(&things) } else { print_text(&in_words(&things)) }
}

fn in_words(things: &[Thing]) -> String {
    let mut table = Grid::new(["what", "name", "unit", "meaning"], []);
    for Thing { kind, name, unit, what } in things {
        table.add([*kind, name, unit.unwrap_or(""), what]);
    }
    table.text() + "\n"
}
