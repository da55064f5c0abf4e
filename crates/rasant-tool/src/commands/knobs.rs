//! `rasant knobs`.

use rasant_lab::files::{HULL_SHAPES, numbers};
use rasant_lab::schema;

use crate::Outcome;
use crate::output::{Failure, Grid, print_json, print_text};
use crate::play::messages::KnobInfo;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Only those whose path has this in it.
    filter: Option<String>,
    /// Prints the JSON Schema of a kind of file instead, for editors.
    #[arg(long, value_name = "FILE KIND", value_enum, num_args = 0..=1, default_missing_value = "tuning",
          conflicts_with = "filter")]
    schema: Option<Schema>,
    /// Prints one JSON document instead of a table.
    #[arg(long)]
    json: bool,
}

/// A kind of file that has a schema.
#[derive(Clone, Copy, Debug, clap::ValueEnum)]
enum Schema {
    Tuning,
    Level,
    Trial,
}

pub fn main(arguments: &Arguments) -> Outcome {
    if let Some(kind) = arguments.schema {
        return print_json(&match kind {
            Schema::Tuning => schema::tuning(),
            Schema::Level => schema::level(),
            Schema::Trial => schema::trial(),
        });
    }
    let filter = arguments.filter.as_deref().unwrap_or("");
    let rows = rows(filter);
    if rows.is_empty() {
        let near = rasant_lab::nearest_knob(filter).map(|near| format!(", expected `{near}`?"));
        let message = format!("no knob has `{filter}` in its path{}", near.unwrap_or_default());
        return Err(Failure::Argument(message));
    }
    if arguments.json {
        return print_json(&rows);
    }
    let mut table = Grid::new(["knob", "unit", "range", "default", "meaning"], [2, 3]);
    for row in &rows {
        let unit = if row.unit.is_empty() { "-" } else { row.unit };
        table.add([
            row.path.to_owned(),
            unit.to_owned(),
            format!("{} to {}", row.min, row.max),
            row.default.to_string(),
            row.meaning.to_owned(),
        ]);
    }
    let shapes = if "hull.shape".contains(filter) {
        format!("`hull.shape` is {}: it says which sizes a hull has.\n", HULL_SHAPES.join(", "))
    } else {
        String::new()
    };
    print_text(&format!("{}\n{shapes}", table.text()))
}

/// Every knob whose path has this in it, the sizes of hulls first.
fn rows(part: &str) -> Vec<KnobInfo> {
    numbers().into_iter().filter(|knob| knob.path.contains(part)).map(KnobInfo::of).collect()
}
