//! `rasant rates TRIAL`.

use rasant_lab::rates::{Apart, Rates, USUAL, rates};

use crate::Outcome;
use crate::files::Library;
use crate::output::{Failure, Grid, number, print_json, print_text};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trial's file, or `demo:NAME` for a shipped one.
    trial: String,
    /// The rates, in ticks per second.
    #[arg(long, value_name = "RATE,RATE…", value_delimiter = ',', default_values_t = USUAL,
          value_parser = clap::value_parser!(u32).range(1..=9600))]
    rates: Vec<u32>,
    /// Prints one JSON document instead of a table.
    #[arg(long)]
    json: bool,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let trial = library.trial(&arguments.trial)?;
    let done = rates(&trial, &arguments.rates)
        .map_err(|error| Failure::Argument(format!("{}: {error}", arguments.trial)))?;
    if arguments.json { print_json(&done) } else { print_text(&in_words(&done)) }
}

fn in_words(done: &Rates) -> String {
    let header = ["ticks/s", "highest", "apart by", "at", "by inputs", "by motion", "events off by", "it is"];
    let mut table = Grid::new(header, 0..7);
    for row in &done.rows {
        table.add([
            row.rate.to_string(),
            row.highest_m.map_or(String::new(), |highest| format!("{highest:.3} m")),
            metres(row.all.path_m),
            format!("{:.2} s", row.all.path_at_s),
            metres(row.by_inputs.path_m),
            metres(row.by_motion.path_m),
            events(&row.all),
            row.verdict().to_owned(),
        ]);
    }
    format!(
        "{}  (each compared with {} ticks/s)\n\n{}\n\n\
         apart by: the largest distance from that path, and its time\n\
         by inputs: the effect of seeing inputs as rarely as at that rate, at {} ticks/s\n\
         by motion: the rest, when inputs are seen at the same instants\n\
         the same: less than a millimetre apart, with the same events to within a tick\n",
        done.title,
        done.fine,
        table.text(),
        done.fine
    )
}

fn metres(length: f32) -> String {
    number((f64::from(length) * 1e4).round() / 1e4, "m")
}

fn events(apart: &Apart) -> String {
    apart.events_s.map_or("other events".to_owned(), |time| format!("{time:.3} s"))
}
