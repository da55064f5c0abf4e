//! `rasant knobs`.

use rasant_lab::files::{Game, HULL_SHAPES};
use rasant_lab::schema;

use crate::Outcome;
use crate::files::Library;
use crate::output::{Failure, Grid, print_json, print_text};
use crate::play::messages::KnobInfo;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// Only knobs with this in their path. If there are none, those that this word means, such as
    /// `floaty`, `friction` or `stairs`, or whose meaning contains it.
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

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let game = library.game.in_files();
    if let Some(kind) = arguments.schema {
        return print_json(&match kind {
            Schema::Tuning => schema::tuning(&game),
            Schema::Level => schema::level(&game),
            Schema::Trial => schema::trial(&game),
        });
    }
    let filter = arguments.filter.as_deref().unwrap_or("");
    let rows = rows(&game, filter);
    if rows.is_empty() {
        let near = game.nearest_number(filter).or_else(|| nearest_word(filter));
        let near = near.map(|near| format!(", expected `{near}`?"));
        let message = format!("no knob has `{filter}` in its path or meaning{}", near.unwrap_or_default());
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

/// Words that people use for movement, with the prefixes of the related knobs.
const WORDS: &[(&str, &[&str])] = &[
    ("acceleration", &["walk.reach_time", "air.reach_time", "swim.reach_time"]),
    ("braking", &["walk.stop_time", "walk.turn_time", "air.stop_time"]),
    ("control", &["air."]),
    ("deceleration", &["walk.stop_time", "walk.turn_time", "air.stop_time"]),
    ("double", &["jump.air_"]),
    (
        "floaty",
        &["jump.rise_time", "jump.gravity", "fall.gravity", "fall.terminal_speed", "fall.apex_", "glide."],
    ),
    (
        "friction",
        &["walk.stop_time", "walk.turn_time", "slope.max_angle", "slope.slide_", "wall.slide_speed"],
    ),
    ("grace", &["jump.coyote_time", "jump.buffer_time", "wall.grace_time"]),
    ("heavy", &["jump.gravity", "jump.rise_time", "fall.gravity", "fall.terminal_speed", "fall.fast_"]),
    ("inertia", &["walk.reach_time", "walk.stop_time", "walk.turn_time", "air."]),
    ("momentum", &["air.keep", "air.stop_time", "dash.end_speed", "roll.end_speed"]),
    ("slippery", &["walk.stop_time", "walk.turn_time", "walk.reach_time", "slope.slide_"]),
    (
        "snappy",
        &[
            "walk.reach_time",
            "walk.stop_time",
            "walk.turn_time",
            "jump.rise_time",
            "jump.cut_gravity",
            "fall.gravity",
        ],
    ),
    ("sprint", &["run."]),
    ("stairs", &["slope.step_height", "slope.ground_snap", "slope.soften_time"]),
    ("steep", &["slope.max_angle", "slope.slide_", "slope.uphill", "slope.downhill"]),
    ("triple", &["jump.air_"]),
    ("variable", &["jump.cut_gravity"]),
    ("weight", &["jump.gravity", "jump.rise_time", "fall.gravity", "fall.terminal_speed"]),
];

/// The word of the list that is spelled most like another.
fn nearest_word(text: &str) -> Option<&'static str> {
    rasant_lab::files::nearest(text, WORDS.iter().map(|(word, _)| *word))
}

/// Every knob with this in its path, the sizes of hulls first. If there are none, the knobs that
/// the word means, then those whose meaning contains it.
fn rows(game: &Game, part: &str) -> Vec<KnobInfo> {
    let part = part.trim().to_lowercase();
    let by_path: Vec<_> = game.numbers().into_iter().filter(|knob| knob.path.contains(&*part)).collect();
    if !by_path.is_empty() {
        return by_path.into_iter().map(|knob| KnobInfo::of(knob, 1.0)).collect();
    }
    let starts = WORDS.iter().find(|(word, _)| *word == part).map_or(&[][..], |(_, starts)| starts);
    let is_meant = |path: &str| starts.iter().any(|start| path.starts_with(start));
    let says_it = |meaning: &str| meaning.to_lowercase().contains(&*part);
    let mut rows: Vec<KnobInfo> = game
        .numbers()
        .into_iter()
        .filter(|knob| is_meant(knob.path))
        .map(|knob| KnobInfo::of(knob, 1.0))
        .collect();
    let others = game.numbers().into_iter().filter(|knob| !is_meant(knob.path) && says_it(knob.meaning));
    rows.extend(others.map(|knob| KnobInfo::of(knob, 1.0)));
    rows
}
