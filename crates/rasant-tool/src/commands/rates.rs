//! `rasant rates TRIAL`.

use rasant_lab::rates::{Apart, Rates, USUAL, rates};

use crate::output::{Failure, Grid, number, print_json, print_text};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trial's file, or `demo:NAME` for a shipped one.
    trial: String,
    /// The rates, in ticks a second.
    #[arg(long, value_name = "RATE,RATE…", value_delimiter = ',', default_values_t = USUAL,
          value_parser = clap::value_parser!(u32).range(1..=9600))]
    rates: Vec<u32>,
    /// Prints one JSON document instead of a table.
    #[arg(long)]
    json: bool,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let trial = files::trial(&arguments.trial)?;
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
        "{}  (each held against {} ticks/s)\n\n{}\n\n\
         apart by: how far from that way it is at most, at one moment, and when\n\
         by inputs: what changes at {} ticks/s when inputs are seen as rarely as at that rate\n\
         by motion: what is left when inputs are seen at the same instants\n\
         the same: apart by less than a millimetre, and told the same to within a tick\n",
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
