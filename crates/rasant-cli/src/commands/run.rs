//! `rasant run TRIAL`.

use std::path::PathBuf;

use comfy_table::Table;
use rasant_lab::files::Inputs;
use rasant_lab::{EventRow, Row, Run, Summary, Trial, run};
use serde::Serialize;

use crate::figure::Figure;
use crate::output::{Failure, align_right, ending, print_json, print_text, table, write_file};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trial's file, or `demo:NAME` for a shipped one.
    trial: String,
    /// Writes what happened tick by tick, as .csv or .jsonl.
    #[arg(long, value_name = "FILE")]
    trace: Option<PathBuf>,
    /// Records the inputs, tick by tick, for a trial's `tape`.
    #[arg(long, value_name = "FILE")]
    tape: Option<PathBuf>,
    /// Draws the run, as .svg or .png.
    #[arg(long, value_name = "FILE")]
    figure: Option<PathBuf>,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

/// What `--json` prints.
#[derive(Serialize)]
struct Report<'a> {
    #[serde(flatten)]
    summary: &'a Summary,
    /// The lines of the script that never began.
    never_began: &'a [usize],
    events: Vec<TimedEvent<'a>>,
}

#[derive(Serialize)]
struct TimedEvent<'a> {
    tick: usize,
    time_s: f64,
    #[serde(flatten)]
    event: &'a EventRow,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let trace_form = arguments.trace.as_ref().map(|path| TraceForm::of(path)).transpose()?;
    let figure_form = arguments.figure.as_ref().map(|path| Figure::check(path)).transpose()?;
    let trial = files::trial(&arguments.trial)?;
    if arguments.tape.is_some()
        && let Inputs::Script(script) = &trial.inputs
        && let Some((line, doing)) = script.first_of_the_host()
    {
        return Err(Failure::Argument(format!(
            "--tape: a tape holds what the player does, and line {line} of the script is the game's: `{doing}`"
        )));
    }
    let done = run(&trial);
    let mut written = Vec::new();
    if let (Some(path), Some(form)) = (&arguments.trace, trace_form) {
        write_file(path, &form.bytes(&done)?)?;
        written.push(path);
    }
    if let Some(path) = &arguments.tape {
        write_file(path, done.tape.to_text(trial.rate).as_bytes())?;
        written.push(path);
    }
    if let (Some(path), Some(())) = (&arguments.figure, figure_form) {
        Figure::of(&trial, &done).write(path)?;
        written.push(path);
    }
    if arguments.json {
        return print_json(&report(&done));
    }
    let mut text = format!("{}\n", in_words(&trial, &done));
    for path in written {
        text += &format!("wrote {}\n", path.display());
    }
    print_text(&text)
}

enum TraceForm {
    Csv,
    JsonLines,
}

impl TraceForm {
    fn of(path: &std::path::Path) -> Result<Self, Failure> {
        match ending(path).as_str() {
            "csv" => Ok(Self::Csv),
            "jsonl" => Ok(Self::JsonLines),
            _ => Err(Failure::Argument(format!(
                "--trace {}: expected a name that ends in .csv or .jsonl",
                path.display()
            ))),
        }
    }

    fn bytes(&self, run: &Run) -> Result<Vec<u8>, Failure> {
        let mut bytes = Vec::new();
        let written = match self {
            Self::Csv => run.trace.write_csv(&mut bytes),
            Self::JsonLines => run.trace.write_json_lines(&mut bytes),
        };
        written.map_err(|error| Failure::Write { path: PathBuf::from("the trace"), error })?;
        Ok(bytes)
    }
}

fn report(run: &Run) -> Report<'_> {
    let events =
        run.trace.events().map(|(row, event)| TimedEvent { tick: row.tick, time_s: row.time, event });
    Report { summary: &run.summary, never_began: &run.never_began, events: events.collect() }
}

/// Too many to be listed one by one.
const FOOTFALL: &str = "footfall";

/// The summary and the events as people read them.
fn in_words(trial: &Trial, run: &Run) -> String {
    let summary = &run.summary;
    let end: Vec<String> = summary.end_m.iter().map(|part| format!("{part:.3}")).collect();
    let mut lines = vec![
        format!(
            "{}  ({}, {} ticks/s, {:.2} s)",
            summary.title, trial.tuning.title, summary.rate, summary.duration_s
        ),
        String::new(),
        format!("  ended at              {} m", end.join(", ")),
        format!("  distance              {:.3} m", summary.distance_m),
        format!("  highest above start   {:.3} m", summary.highest_m),
        format!("  greatest speed        {:.3} m/s", summary.fastest_m_per_s),
        format!("  time aloft            {:.3} s", summary.aloft_s),
        format!("  jumps, landings       {}, {}", summary.jumps, summary.landings),
        format!("  hardest landing       {:.3} m/s", summary.hardest_landing_m_per_s),
        String::new(),
    ];
    let footfalls = run.trace.events().filter(|(_, event)| event.name == FOOTFALL).count();
    if !run.never_began.is_empty() {
        let which: Vec<String> = run.never_began.iter().map(usize::to_string).collect();
        let say = format!("  never begun           line {} of the script", which.join(", "));
        lines.insert(lines.len() - 1, say);
    }
    if footfalls > 0 {
        lines.insert(lines.len() - 1, format!("  footfalls             {footfalls}"));
    }
    lines.push(event_table(run.trace.events(), run.trace.dimensions).to_string());
    lines.join("\n")
}

fn event_table<'a>(events: impl Iterator<Item = (&'a Row, &'a EventRow)>, dimensions: usize) -> Table {
    let mut table = table(&["time", "event", "at", "speed", "more"]);
    for (row, event) in events.filter(|(_, event)| event.name != FOOTFALL) {
        let at: Vec<String> = event.position[..dimensions].iter().map(|part| format!("{part:.3}")).collect();
        table.add_row([
            format!("{:.3} s", row.time),
            event.name.to_owned(),
            format!("{} m", at.join(", ")),
            event.speed.map(|speed| format!("{speed:.2} m/s")).unwrap_or_default(),
            event.detail.clone().unwrap_or_default(),
        ]);
    }
    align_right(&mut table, [0, 2, 3]);
    table
}
