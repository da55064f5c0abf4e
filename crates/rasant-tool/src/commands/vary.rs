//! `rasant vary TUNING --knob PATH=FROM:TO:STEP`.

use std::path::PathBuf;

use rasant_lab::Shard;
use rasant_lab::files::TuningFile;
use rasant_lab::sheet::{Figures, GAME_RATE, RATE, Rates};
use rasant_lab::vary::{Answer, Axis, Measuring, Variation, vary};

use super::merge;
use crate::figure::{PANELS, Picture};
use crate::files::Library;
use crate::output::{Failure, Grid, csv, number, print_json, progress};
use crate::outputs::Outputs;
use crate::report::{Pictured, Report};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The tuning: a file, or `demo:NAME`, optionally with changes, as in
    /// `demo:porter,jump.height=2`.
    tuning: String,
    /// A knob and its values, as in `jump.height=1:3:0.1`; at most two.
    #[arg(long = "knob", value_name = "PATH=FROM:TO:STEP", required = true)]
    knobs: Vec<String>,
    /// Only these figures. Without names, those that change.
    #[arg(long = "show", value_name = "NAME")]
    show: Vec<String>,
    /// Measures on this trial instead of the movement sheet.
    #[arg(long, value_name = "TRIAL")]
    trial: Option<String>,
    /// The dimension of the sheet's world: 2 or 3.
    #[arg(long, value_name = "2|3", default_value_t = 2, value_parser = clap::value_parser!(u8).range(2..=3))]
    dimensions: u8,
    /// Ticks per second of the game, for the figures in ticks.
    #[arg(long, value_name = "RATE", default_value_t = GAME_RATE, value_parser = clap::value_parser!(u32).range(10..=10_000))]
    game_rate: u32,
    /// Writes every point as CSV.
    #[arg(long, value_name = "FILE")]
    csv: Option<PathBuf>,
    /// Measures only every Nth point, from the Kth: `rasant merge` merges the parts' CSV.
    #[arg(long, value_name = "K/N", conflicts_with_all = ["figure", "report"])]
    shard: Option<Shard>,
    #[command(flatten)]
    pictured: Pictured,
    /// Prints one JSON document instead of tables.
    #[arg(long)]
    json: bool,
}

/// With more points, measuring every figure takes a while.
const MANY: usize = 400;
/// The maximum number of points that are listed in the terminal.
const LISTED: usize = 60;

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let places = arguments.csv.iter().chain(arguments.pictured.places()?);
    let mut outputs = Outputs::checked(places, arguments.json)?;
    outputs.apart_from(files::named([&arguments.tuning]).chain(files::named(&arguments.trial)))?;
    let file = library.tuning(Some(&arguments.tuning))?;
    let axes =
        arguments.knobs.iter().map(|knob| axis(&file, library, knob)).collect::<Result<Vec<_>, _>>()?;
    if axes.len() > 2 || (axes.len() == 2 && axes[0].knob == axes[1].knob) {
        return Err(Failure::Argument("--knob: expected one knob, or two that differ".to_owned()));
    }
    let count: usize = axes.iter().map(|axis| axis.values.len()).product();
    if count > Axis::MAX {
        return Err(Failure::Argument(format!("{count} points, expected at most {}", Axis::MAX)));
    }
    let trial = arguments.trial.as_deref().map(|name| library.trial(name)).transpose()?;
    if let Some(trial) = &trial {
        library.tuning_for(trial, &arguments.tuning)?;
    }
    let measuring = match &trial {
        Some(trial) => Measuring::Trial(trial),
        None => Measuring::Sheet {
            dimensions: arguments.dimensions.into(),
            rates: Rates { course: RATE, game: arguments.game_rate },
            figures: library.game.figures(),
        },
    };
    let figures = chosen(library.game.figures(), &measuring.figures(), &arguments.show)?;
    if count > MANY && trial.is_none() && arguments.show.is_empty() {
        eprintln!("every figure is measured at {count} points; `--show FIGURE` measures only that one");
    }
    let bar = progress(count);
    let shard = arguments.shard.unwrap_or(Shard::ALL);
    let variation = vary(&file, &axes, &figures, measuring, shard, &|| bar.inc(1));
    bar.finish_and_clear();
    let answers = variation.answers();
    let shown = shown(&variation, &answers, &arguments.show);
    if let Some(path) = &arguments.csv {
        outputs.put(path, csv(csv_rows(&variation, arguments.shard))?);
    }
    arguments.pictured.put(
        &mut outputs,
        || Picture::of_variation(&variation, &shown),
        |picture| page(&variation, &answers, &shown, picture),
    )?;
    let written = outputs.write()?;
    if arguments.json {
        return print_json(&variation);
    }
    let mut text = format!("{}, {}\n\n{}\n", variation.title, about(&variation), table_of(&answers).text());
    if variation.points.len() <= LISTED && !shown.is_empty() {
        text += &format!("\n{}\n", points(&variation, &shown).text());
    }
    written.say(&text)
}

fn axis(file: &TuningFile, library: Library, text: &str) -> Result<Axis, Failure> {
    let (path, range) = library.knob_and(text, "FROM:TO:STEP")?;
    Axis::parse(file, path, range).map_err(|error| Failure::Argument(format!("--knob {text}: {error}")))
}

/// The named figures, or all.
fn chosen(
    figures: Figures,
    all: &[(&'static str, &'static str)],
    named: &[String],
) -> Result<Vec<(&'static str, &'static str)>, Failure> {
    if named.is_empty() {
        return Ok(all.to_vec());
    }
    let find = |name: &String| {
        all.iter().find(|(known, _)| known == name).copied().ok_or_else(|| {
            let names: Vec<&str> = all.iter().map(|(name, _)| *name).collect();
            let near = figures.nearest(name).filter(|near| names.contains(near));
            let expected =
                near.map_or_else(|| format!("one of {}", names.join(", ")), |it| format!("`{it}`?"));
            Failure::Argument(format!("--show {name}: there is no such figure, expected {expected}"))
        })
    };
    named.iter().map(find).collect()
}

/// The indices of the figures that are drawn and listed point by point: the requested ones, or
/// those that change most.
fn shown(variation: &Variation, answers: &[Answer], named: &[String]) -> Vec<usize> {
    let place = |name: &str| variation.figures.iter().position(|(known, _)| *known == name);
    if !named.is_empty() {
        return named.iter().filter_map(|name| place(name)).collect();
    }
    let fraction = |answer: &Answer| (answer.most - answer.least) / answer.most.abs().max(1e-9);
    let mut most: Vec<&Answer> = answers.iter().collect();
    most.sort_by(|a, b| fraction(b).total_cmp(&fraction(a)));
    most.truncate(PANELS);
    let mut places: Vec<usize> = most.iter().filter_map(|answer| place(answer.name)).collect();
    places.sort_unstable();
    places
}

fn about(variation: &Variation) -> String {
    let knobs: Vec<&str> = variation.axes.iter().map(|axis| axis.knob.as_str()).collect();
    format!("{} points over {}", variation.points.len(), knobs.join(" and "))
}

fn table_of(answers: &[Answer]) -> Grid {
    let mut grid = Grid::new(["figure", "at the first", "at the last", "least", "most"], 1..5);
    for Answer { name, unit, first, last, least, most } in answers {
        let shown = |it: &Option<f64>| it.map_or("-".to_owned(), |it| number(it, unit));
        grid.add([(*name).to_owned(), shown(first), shown(last), number(*least, unit), number(*most, unit)]);
    }
    if answers.is_empty() {
        grid.add(["no figure changes", "", "", "", ""]);
    }
    grid
}

/// Each point with these figures.
fn points(variation: &Variation, places: &[usize]) -> Grid {
    let knobs = variation.axes.iter().map(|axis| axis.knob.clone());
    let names = places.iter().map(|&place| variation.figures[place].0.to_owned());
    let columns = variation.axes.len() + places.len();
    let mut grid = Grid::new(knobs.chain(names), 0..columns);
    for point in &variation.points {
        let values =
            variation.axes.iter().zip(&point.values).map(|(axis, it)| number((*it).into(), axis.unit));
        let measured = places.iter().map(|&place| {
            let (_, unit) = variation.figures[place];
            point.measured[place].map_or("-".to_owned(), |it| number(it, unit))
        });
        grid.add(values.chain(measured));
    }
    grid
}

fn page(variation: &Variation, answers: &[Answer], shown: &[usize], picture: &Picture) -> String {
    let mut report = Report::new(&variation.title, &about(variation));
    report.picture(picture);
    report.table("How each figure responds", &table_of(answers));
    report.table("Every point", &points(variation, shown));
    report.page()
}

/// The points as rows. Those of a part start with their index in the whole, for `merge`.
fn csv_rows(variation: &Variation, shard: Option<Shard>) -> impl Iterator<Item = Vec<String>> {
    let with_unit = |name: &str, unit: &str| match unit {
        "" => name.to_owned(),
        _ => format!("{name} ({unit})"),
    };
    let whole = variation.axes.iter().map(|axis| axis.values.len()).product();
    let part = shard.map(|shard| merge::column(shard, whole));
    let knobs = variation.axes.iter().map(move |axis| with_unit(&axis.knob, axis.unit));
    let figures = variation.figures.iter().map(move |(name, unit)| with_unit(name, unit));
    let header = part.into_iter().chain(knobs).chain(figures).collect();
    let rows = variation.points.iter().enumerate().map(move |(place, point)| {
        let number = shard.map(|shard| shard.number_at(place).to_string());
        let values = point.values.iter().map(f32::to_string);
        let measured = point.measured.iter().map(|it| it.map_or(String::new(), |it| it.to_string()));
        number.into_iter().chain(values).chain(measured).collect()
    });
    std::iter::once(header).chain(rows)
}
