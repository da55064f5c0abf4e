//! `rasant fit TUNING --target FIGURE=NUMBER --turn KNOB`.

use std::path::PathBuf;

use rasant_lab::files::TuningFile;
use rasant_lab::fit::{Ending, Fit, Free, Goal, Reached, Target, Turned, fit};
use serde::Serialize;

use crate::Outcome;
use crate::files::Library;
use crate::output::{Failure, Grid, number, print_json, spinner};
use crate::outputs::Outputs;

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The tuning to start from: a file, or `demo:NAME`.
    tuning: String,
    /// A figure of the movement sheet with its target, as in `jump-height=3.2`.
    #[arg(long = "target", value_name = "FIGURE=NUMBER", required = true)]
    targets: Vec<String>,
    /// A knob that may be changed, optionally with its smallest and largest value, as in
    /// `fall.gravity=1.2:2`; several separated by commas.
    #[arg(long = "turn", value_name = "KNOB[=FROM:TO],…", value_delimiter = ',', required = true)]
    knobs: Vec<String>,
    /// The dimension of the sheet's world: 2 or 3.
    #[arg(long, value_name = "2|3", default_value_t = 2, value_parser = clap::value_parser!(u8).range(2..=3))]
    dimensions: u8,
    /// Writes the new tuning, if all targets are reached.
    #[arg(long, value_name = "FILE")]
    out: Option<PathBuf>,
    /// Writes it even if some are not.
    #[arg(long, requires = "out")]
    out_anyway: bool,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct Document<'a> {
    targets: &'a [Reached],
    knobs: &'a [Turned],
    /// The new tuning, as a file.
    tuning: String,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let mut outputs = Outputs::checked(&arguments.out, arguments.json)?;
    let figures = library.game.figures();
    let file = library.tuning(Some(&arguments.tuning))?;
    let bad = |error: rasant_lab::fit::FitError| Failure::Argument(error.to_string());
    let targets = arguments
        .targets
        .iter()
        .map(|text| Target::parse(figures, text))
        .collect::<Result<Vec<_>, _>>()
        .map_err(bad)?;
    let free =
        arguments.knobs.iter().map(|text| free(&file, library, text)).collect::<Result<Vec<_>, _>>()?;
    let spinner = spinner("measured");
    let goal = Goal { dimensions: arguments.dimensions.into(), figures, targets: &targets, free: &free };
    let done = fit(&file, goal, &|| spinner.inc(1)).map_err(bad)?;
    spinner.finish_and_clear();
    let tuning = library.tuning_text(&arguments.tuning, &done.file)?;
    let missed = done.reached.iter().filter(|one| one.ending != Ending::Reached).count();
    let out = arguments.out.as_ref().filter(|_| missed == 0 || arguments.out_anyway);
    if let Some(path) = out {
        outputs.put(path, tuning.as_bytes());
    }
    let written = outputs.write()?;
    if arguments.json {
        print_json(&Document { targets: &done.reached, knobs: &done.turned, tuning })?;
    } else {
        let more = match (out, &arguments.out) {
            (Some(_), _) => String::new(),
            (None, Some(path)) => {
                format!("nothing was written to {}; `--out-anyway` writes it\n", path.display())
            }
            (None, None) => format!("The new tuning:\n\n{tuning}"),
        };
        written.say(&format!("{}\n{more}", in_words(&file.title, &done)))?;
    }
    match missed {
        0 => Ok(()),
        _ => Err(Failure::Unmet(format!("{missed} of {} targets were not reached", done.reached.len()))),
    }
}

/// Parses a knob that may be changed.
fn free(file: &TuningFile, library: Library, text: &str) -> Result<Free, Failure> {
    let path = text.split('=').next().unwrap_or(text);
    // Fails with the nearest name if there is no such knob.
    library.knob(path)?;
    Free::parse(file, text).map_err(|error| Failure::Argument(format!("--turn {text}: {error}")))
}

fn in_words(title: &str, done: &Fit) -> String {
    let mut figures = Grid::new(["figure", "wanted", "reached", ""], [1, 2]);
    for Reached { figure, unit, value, measured, ending, nearest } in &done.reached {
        let reached = measured.map_or("no such figure".to_owned(), |it| number(it, unit));
        let ending = match ending {
            Ending::Reached => String::new(),
            Ending::NotTogether => "reached alone, but not together with the others".to_owned(),
            Ending::OutOfReach => match nearest {
                Some(nearest) => {
                    format!("out of reach: the nearest value found is {}", number(*nearest, unit))
                }
                None => "out of reach: these knobs give no such figure".to_owned(),
            },
        };
        figures.add([(*figure).to_owned(), number(*value, unit), reached, ending]);
    }
    let mut knobs = Grid::new(["knob", "was", "is", ""], [1, 2]);
    for Turned { knob, unit, before, after, solved } in &done.turned {
        let how = match (before == after, solved) {
            (true, _) => "not turned",
            (false, true) => "solved",
            (false, false) => "searched",
        };
        let (before, after) = (number((*before).into(), unit), number((*after).into(), unit));
        knobs.add([(*knob).to_owned(), before, after, how.to_owned()]);
    }
    format!("{title}\n\n{}\n\n{}\n", figures.text(), knobs.text())
}
