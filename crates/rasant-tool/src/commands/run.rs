//! `rasant run TRIAL`.

use std::path::PathBuf;

use rasant_lab::expect::MEASURES;
use rasant_lab::files::{Inputs, unit_in, unit_of};
use rasant_lab::{EventRow, Row, Run, Summary, Trace, Trial, run, trace};
use serde::Serialize;

use crate::figure::Picture;
use crate::files::Library;
use crate::output::{Failure, Grid, ending, number, print_json};
use crate::outputs::Outputs;
use crate::report::{Pictured, Report};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trial's file, or `demo:NAME` for a shipped one.
    trial: String,
    /// Another tuning than the trial's: a file, or `demo:NAME`, optionally with changes.
    #[arg(long, value_name = "TUNING")]
    tuning: Option<String>,
    /// Writes what happened tick by tick, as .csv or .jsonl.
    #[arg(long, value_name = "FILE")]
    trace: Option<PathBuf>,
    /// Records the inputs, tick by tick, for a trial's `tape`.
    #[arg(long, value_name = "FILE")]
    tape: Option<PathBuf>,
    #[command(flatten)]
    pictured: Pictured,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

/// The output of `--json`.
#[derive(Serialize)]
struct Document<'a> {
    #[serde(flatten)]
    summary: &'a Summary,
    /// The lines of the script that never began.
    never_began: &'a [usize],
    never_counted: &'a [usize],
    events: Vec<TimedEvent<'a>>,
    /// The other bodies of the trial.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    others: Vec<OtherDocument<'a>>,
}

#[derive(Serialize)]
struct OtherDocument<'a> {
    body: &'a str,
    #[serde(flatten)]
    document: Document<'a>,
}

#[derive(Serialize)]
struct TimedEvent<'a> {
    tick: usize,
    time_s: f64,
    #[serde(flatten)]
    event: &'a EventRow,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let trace_form = arguments.trace.as_ref().map(|path| TraceForm::of(path)).transpose()?;
    let places = arguments.trace.iter().chain(&arguments.tape).chain(arguments.pictured.places()?);
    let mut outputs = Outputs::checked(places, arguments.json)?;
    outputs.apart_from(files::named([&arguments.trial]).chain(files::named(&arguments.tuning)))?;
    let mut trial = library.trial(&arguments.trial)?;
    if let Some(spec) = &arguments.tuning {
        let tuning = library.tuning_for(&trial, spec)?;
        trial = trial.with_tuning(tuning);
        if let Some((depth, what)) = trial.starts_inside() {
            let message = format!("--tuning {spec}: its body would start {depth:.3} m inside {what}");
            return Err(Failure::Argument(message));
        }
    }
    if arguments.tape.is_some()
        && let Inputs::Script(script) = &trial.inputs
        && let Some((line, doing)) = script.first_of_the_host()
    {
        return Err(Failure::Argument(format!(
            "--tape: a tape contains only the player's inputs, but line {line} of the script is done by the game: `{doing}`"
        )));
    }
    let done = run(&trial);
    sound(&done)?;
    if let (Some(path), Some(form)) = (&arguments.trace, trace_form) {
        outputs.put(path, form.bytes(&done)?);
    }
    if let Some(path) = &arguments.tape {
        outputs.put(path, done.tape.to_text(trial.rate));
    }
    arguments.pictured.put(
        &mut outputs,
        || Picture::of_run(&trial, &done),
        |picture| page(&trial, &done, picture),
    )?;
    let written = outputs.write()?;
    if arguments.json {
        print_json(&document(&done))
    } else {
        written.say(&format!("{}\n", in_words(&trial, &done)))
    }
}

/// Fails for a run with implausible positions or velocities.
pub fn sound(done: &Run) -> Outcome {
    match done.bodies().find_map(|(_, run)| run.trace.first_broken()) {
        Some(tick) => Err(Failure::Broken(format!(
            "{}: at tick {tick} the position or velocity is implausible: more than 10,000 km, or 10,000 km/s",
            done.summary.title
        ))),
        None => Ok(()),
    }
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
            _ if Outputs::is_standard(path) => Ok(Self::Csv),
            _ => Err(Failure::Argument(format!(
                "--trace {}: expected the extension .csv or .jsonl",
                path.display()
            ))),
        }
    }

    fn bytes(&self, run: &Run) -> Result<Vec<u8>, Failure> {
        let mut bytes = Vec::new();
        let bodies: Vec<(&str, &Trace)> = run.bodies().map(|(name, run)| (name, &run.trace)).collect();
        let written = match self {
            Self::Csv => trace::write_csv(&bodies, &mut bytes),
            Self::JsonLines => trace::write_json_lines(&bodies, &mut bytes),
        };
        written.map_err(|error| Failure::Write { path: PathBuf::from("the trace"), error })?;
        Ok(bytes)
    }
}

fn document(run: &Run) -> Document<'_> {
    let events =
        run.trace.events().map(|(row, event)| TimedEvent { tick: row.tick, time_s: row.time, event });
    let Run { summary, never_began, never_counted, others, .. } = run;
    let others = others.iter().map(|(body, run)| OtherDocument { body, document: document(run) });
    Document { summary, never_began, never_counted, events: events.collect(), others: others.collect() }
}

/// Too frequent to be listed one by one.
const FOOTFALL: &str = "footfall";

/// The summary and the events for people.
fn in_words(trial: &Trial, run: &Run) -> String {
    let lines: Vec<String> =
        facts(run).into_iter().map(|(what, number)| format!("  {what:<22}{number}")).collect();
    let events = event_table(run.trace.events(), run);
    let title = &run.summary.title;
    let gaits = gait_table(run).text();
    let others = match body_table(run) {
        Some(table) => format!("\n\n{}", table.text()),
        None => String::new(),
    };
    format!(
        "{title}  ({})\n\n{}\n\n{gaits}{others}\n\n{}",
        about(trial, run),
        lines.join("\n"),
        events.text()
    )
}

/// The other bodies of a run; `None` if there are none.
fn body_table(run: &Run) -> Option<Grid> {
    if run.others.is_empty() {
        return None;
    }
    let mut table = Grid::new(["body", "end", "travelled", "landings", "script"], [1, 2, 3]);
    for (name, other) in &run.others {
        let &Summary { ref end_m, travelled_m, landings, scale, .. } = &other.summary;
        let end: Vec<String> = end_m.iter().map(|part| format!("{part:.3}")).collect();
        let lines = |what: &str, lines: &[usize]| {
            let which: Vec<String> = lines.iter().map(usize::to_string).collect();
            (!lines.is_empty()).then(|| format!("{what}: line {}", which.join(", ")))
        };
        let script =
            [lines("never begun", &other.never_began), lines("without effect", &other.never_counted)];
        table.add([
            name.to_string(),
            format!("{} {}", end.join(", "), unit_of(scale)),
            format!("{travelled_m:.3} {}", unit_of(scale)),
            landings.to_string(),
            script.into_iter().flatten().collect::<Vec<_>>().join("; "),
        ]);
    }
    Some(table)
}

/// The times for which each gait was shown.
fn gait_table(run: &Run) -> Grid {
    let mut table = Grid::new(["gait", "times", "in all", "shortest"], [1, 2, 3]);
    for gait in &run.summary.gaits {
        table.add([
            gait.gait.to_string(),
            gait.times.to_string(),
            format!("{:.3} s", gait.all_s),
            gait.shortest_s.map(|shortest| format!("{shortest:.3} s")).unwrap_or_default(),
        ]);
    }
    table
}

/// The tuning, the rate and the duration.
fn about(trial: &Trial, run: &Run) -> String {
    let Summary { rate, duration_s, .. } = &run.summary;
    format!("{}, {rate} ticks/s, {duration_s:.2} s", trial.tuning.title)
}

/// The results of a run, one by one.
fn facts(run: &Run) -> Vec<(&'static str, String)> {
    let summary = &run.summary;
    // With the names that expectations use.
    let measures = MEASURES.iter().filter(|measure| measure.is_in(run.trace.dimensions));
    let mut facts: Vec<(&str, String)> = measures
        .map(|measure| (measure, measure.of(summary)))
        .filter(|(_, value)| value.is_finite())
        .map(|(measure, value)| {
            (measure.name, format!("{value:.3} {}", unit_in(measure.unit, summary.scale)))
        })
        .collect();
    facts.push(("jumps, landings", format!("{}, {}", summary.jumps, summary.landings)));
    for (what, lines) in [("never begun", &run.never_began), ("begun, without effect", &run.never_counted)] {
        if !lines.is_empty() {
            let which: Vec<String> = lines.iter().map(usize::to_string).collect();
            facts.push((what, format!("line {} of the script", which.join(", "))));
        }
    }
    let footfalls = run.trace.events().filter(|(_, event)| event.name == FOOTFALL).count();
    if footfalls > 0 {
        facts.push(("footfalls", footfalls.to_string()));
    }
    facts
}

fn page(trial: &Trial, run: &Run, picture: &Picture) -> String {
    let mut numbers = Grid::new(["", ""], [1]);
    facts(run).into_iter().for_each(|(what, number)| numbers.add([what.to_owned(), number]));
    let mut report = Report::new(&run.summary.title, &about(trial, run));
    report.picture(picture);
    report.table("Results", &numbers);
    if !trial.expectations.is_empty() {
        let mut expected = Grid::new(["figure", "expected", "measured", ""], [2]);
        for finding in trial.expectations.iter().map(|one| one.hold_against(run)) {
            let measured = finding.measured.map_or("never".to_owned(), |it| number(it, finding.unit));
            let mark = if finding.holds { "as expected" } else { "NOT AS EXPECTED" };
            expected.add([finding.figure, finding.expected, measured, mark.to_owned()]);
        }
        report.table("Expectations", &expected);
    }
    report.table("Gaits", &gait_table(run));
    if let Some(table) = body_table(run) {
        report.table("Other bodies", &table);
    }
    report.table("Events", &event_table(run.trace.events(), run));
    report.page()
}

/// The number of an event, with its unit.
fn how_much(event: &EventRow, scale: f32) -> String {
    match (event.speed, event.seconds) {
        (Some(speed), _) => format!("{speed:.2} {}", unit_in("m/s", scale)),
        (None, Some(seconds)) => format!("{seconds:.2} s"),
        _ => String::new(),
    }
}

fn event_table<'a>(events: impl Iterator<Item = (&'a Row, &'a EventRow)>, run: &Run) -> Grid {
    let (dimensions, scale) = (run.trace.dimensions, run.summary.scale);
    let mut table = Grid::new(["time", "event", "at", "with", "more"], [0, 2, 3]);
    for (row, event) in events.filter(|(_, event)| event.name != FOOTFALL) {
        let at: Vec<String> = event.position[..dimensions].iter().map(|part| format!("{part:.3}")).collect();
        table.add([
            format!("{:.3} s", row.time),
            event.name.to_owned(),
            format!("{} {}", at.join(", "), unit_of(scale)),
            how_much(event, scale),
            event.detail.clone().unwrap_or_default(),
        ]);
    }
    table
}
