//! `rasant compare A B`.

use rasant_lab::compare::{Parting, SameInputs, compare, parting};
use rasant_lab::files::unit_in;
use rasant_lab::sheet::{Figures, RATE, Rates, Sheet};
use rasant_lab::{Run, Summary, Trial};
use rayon::prelude::*;
use serde::Serialize;

use crate::figure::{Picture, letter};
use crate::files::Library;
use crate::output::{Failure, Grid, number, print_json};
use crate::outputs::Outputs;
use crate::report::{Pictured, Report};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The tunings: files, or `demo:NAME`, optionally with changes, as in
    /// `demo:porter,jump.height=2`.
    #[arg(required = true, num_args = 2.., value_name = "TUNING")]
    tunings: Vec<String>,
    /// The trial whose inputs all of them get.
    #[arg(long, value_name = "TRIAL", default_value = "demo:first-roof")]
    trial: String,
    /// Plays the trial's script to each by its own circumstances, instead of the first one's inputs
    /// tick by tick.
    #[arg(long)]
    by_script: bool,
    /// Lists all figures, not only those that differ.
    #[arg(long)]
    all: bool,
    #[command(flatten)]
    pictured: Pictured,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

/// Tunings with the same inputs.
struct Compared {
    runs: Vec<(Trial, Run)>,
    /// Where each later run diverges from the first.
    partings: Vec<Parting>,
    sheets: Vec<Sheet>,
    /// The available figures.
    kinds: Figures,
    /// True if figures that are the same are listed too.
    all: bool,
}

#[derive(Serialize)]
struct Document<'a> {
    trial: &'a str,
    tunings: Vec<Tuned<'a>>,
}

#[derive(Serialize)]
struct Tuned<'a> {
    title: &'a str,
    summary: &'a Summary,
    /// Where it diverges from the first run; `None` for the first itself.
    parting: Option<&'a Parting>,
    sheet: &'a Sheet,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let mut outputs = Outputs::checked(arguments.pictured.places()?, arguments.json)?;
    outputs.apart_from(files::named(&arguments.tunings).chain(files::named([&arguments.trial])))?;
    let trial = library.trial(&arguments.trial)?;
    let tunings = arguments
        .tunings
        .iter()
        .map(|spec| library.tuning_for(&trial, spec))
        .collect::<Result<Vec<_>, _>>()?;
    for (tuning, spec) in tunings.iter().zip(&arguments.tunings) {
        if let Some((depth, what)) = trial.with_tuning(tuning.clone()).starts_inside() {
            return Err(Failure::Argument(format!(
                "{spec}: its body would start {depth:.3} m inside {what} of {}",
                arguments.trial
            )));
        }
    }
    let inputs = if arguments.by_script { SameInputs::Script } else { SameInputs::Tape };
    let runs = compare(&trial, &tunings, inputs);
    runs.iter().try_for_each(|(_, run)| super::run::sound(run))?;
    let partings = runs[1..].iter().map(|(_, run)| parting(&runs[0].1, run)).collect();
    let rates = Rates { course: RATE, game: trial.rate };
    let kinds = library.game.figures();
    let sheets = tunings.par_iter().map(|tuning| kinds.sheet(tuning, trial.dimensions(), rates)).collect();
    let compared = Compared { runs, partings, sheets, kinds, all: arguments.all };
    arguments.pictured.put(
        &mut outputs,
        || Picture::of_comparison(&compared.runs, &compared.partings),
        |picture| compared.page(picture),
    )?;
    let written = outputs.write()?;
    if arguments.json {
        return print_json(&compared.document());
    }
    written.say(&compared.in_words())
}

impl Compared {
    fn document(&self) -> Document<'_> {
        let tunings = self.runs.iter().zip(&self.sheets).enumerate();
        let tunings = tunings.map(|(number, ((trial, run), sheet))| Tuned {
            title: &trial.tuning.title,
            summary: &run.summary,
            parting: number.checked_sub(1).map(|later| &self.partings[later]),
            sheet,
        });
        Document { trial: &self.runs[0].0.title, tunings: tunings.collect() }
    }

    fn in_words(&self) -> String {
        let mut text = format!("{}\n\n", self.runs[0].0.title);
        for (number, (trial, _)) in self.runs.iter().enumerate() {
            text += &format!("  {}  {}\n", letter(number), trial.tuning.title);
        }
        text += "\n";
        for line in self.partings_in_words() {
            text += &format!("{line}\n");
        }
        text += &format!("\nOn the trial\n\n{}\n", self.summaries().text());
        let (sheets, title) = (self.figures(), self.title_of_figures());
        if sheets.is_empty() {
            return text + &format!("\n{title}: none\n");
        }
        text + &format!("\n{title}\n\n{}\n", sheets.text())
    }

    fn title_of_figures(&self) -> &'static str {
        if self.all { "The movement sheets" } else { "The movement sheets, where they differ" }
    }

    fn page(&self, picture: &Picture) -> String {
        let titles: Vec<&str> = self.runs.iter().map(|(trial, _)| trial.tuning.title.as_str()).collect();
        let mut report = Report::new(&titles.join(" · "), &self.runs[0].0.title);
        report.picture(picture);
        report.words(&self.partings_in_words().join("\n"));
        report.table("On the trial", &self.summaries());
        report.table(self.title_of_figures(), &self.figures());
        report.page()
    }

    /// Where each later run diverges from the first, in words.
    fn partings_in_words(&self) -> Vec<String> {
        let partings_in_words = |(later, parting): (usize, &Parting)| {
            let name = letter(later + 1);
            let Some(place) = &parting.first else { return vec![format!("{name} does not diverge from A.")] };
            let (speeds, rises) = (place.speeds_m_per_s, place.rises_m_per_s);
            let why = match &place.modes {
                [a, b] if a != b => format!("A is {a}, {name} {b}"),
                _ if (speeds[0] - speeds[1]).abs() >= (rises[0] - rises[1]).abs() => {
                    format!("A at {}, {name} at {}", in_m_per_s(speeds[0]), in_m_per_s(speeds[1]))
                }
                _ => format!("A rises at {}, {name} at {}", in_m_per_s(rises[0]), in_m_per_s(rises[1])),
            };
            let mut lines = vec![format!(
                "{name} diverges from A at {:.3} s ({why}): at most {} apart, {} at the end.",
                place.time_s,
                number(parting.most_m.into(), "m"),
                number(parting.end_m.into(), "m"),
            )];
            if let Some(events) = &parting.event {
                let say = |moment: &Option<rasant_lab::compare::Moment>| match moment {
                    Some(moment) => format!("{} at {:.3} s", moment.what, moment.time_s),
                    None => "nothing more".to_owned(),
                };
                lines.push(format!(
                    "  The first different event: A {}, {name} {}.",
                    say(&events.first),
                    say(&events.second)
                ));
            }
            lines
        };
        self.partings.iter().enumerate().flat_map(partings_in_words).collect()
    }

    fn header(&self) -> Vec<String> {
        let mut header = vec!["figure".to_owned(), "A".to_owned()];
        for number in 1..self.runs.len() {
            header.extend([letter(number), String::new()]);
        }
        header
    }

    /// A row of measured numbers, each later one with its difference to the first. `None` if all
    /// are the same and only differences are listed.
    fn row(&self, name: &str, unit: &str, numbers: &[Option<f64>]) -> Option<Vec<String>> {
        let shown = |it: &Option<f64>| it.map_or("-".to_owned(), |it| number(it, unit));
        let first = numbers[0];
        let mut row = vec![name.to_owned(), shown(&first)];
        let mut differs = false;
        for it in &numbers[1..] {
            let by = difference(first, *it, unit);
            differs |= !by.is_empty();
            row.extend([shown(it), by]);
        }
        (differs || self.all).then_some(row)
    }

    /// Units of length per metre.
    fn scale(&self) -> f32 {
        self.runs.first().map_or(1.0, |(_, run)| run.summary.scale)
    }

    fn summaries(&self) -> Grid {
        let mut grid = Grid::new(self.header(), 1..2 * self.runs.len());
        let scale = self.scale();
        for measure in rasant_lab::expect::MEASURES {
            let numbers: Vec<_> = self
                .runs
                .iter()
                .map(|(_, run)| Some(measure.of(&run.summary)).filter(|it| it.is_finite()))
                .collect();
            if let Some(row) = self.row(measure.name, unit_in(measure.unit, scale), &numbers) {
                grid.add(row);
            }
        }
        for (name, count) in
            [("jumps", (|it: &Summary| it.jumps) as fn(&Summary) -> usize), ("landings", |it| it.landings)]
        {
            let numbers: Vec<_> = self.runs.iter().map(|(_, run)| Some(count(&run.summary) as f64)).collect();
            if let Some(row) = self.row(name, "", &numbers) {
                grid.add(row);
            }
        }
        grid
    }

    fn figures(&self) -> Grid {
        let mut grid = Grid::new(self.header(), 1..2 * self.runs.len());
        let scale = self.scale();
        for kind in self.kinds.kinds() {
            let numbers: Vec<_> = self.sheets.iter().map(|sheet| sheet.get(kind.name)).collect();
            if numbers.iter().all(Option::is_none) {
                continue;
            }
            if let Some(row) = self.row(kind.name, unit_in(kind.unit, scale), &numbers) {
                grid.add(row);
            }
        }
        grid
    }
}

fn in_m_per_s(speed: f32) -> String {
    number(speed.into(), "m/s")
}

/// The difference of a number to the first; empty if it is less than a thousandth.
fn difference(first: Option<f64>, other: Option<f64>, unit: &str) -> String {
    match (first, other) {
        (Some(first), Some(other))
            if (other - first).abs() <= 1e-3 * first.abs().max(other.abs()).max(1e-3) =>
        {
            String::new()
        }
        (Some(first), Some(other)) if first.abs() > 1e-6 && !unit.is_empty() => {
            format!("{:+.1} %", 100.0 * (other - first) / first.abs())
        }
        (Some(first), Some(other)) => format!("{:+}", (other - first) as f32),
        (None, Some(_)) => "new".to_owned(),
        (Some(_), None) => "none".to_owned(),
        (None, None) => String::new(),
    }
}
