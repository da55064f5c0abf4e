//! `rasant sheet [TUNING]`.

use std::path::PathBuf;

use rasant_lab::sheet::{FigureKind, Figures, GAME_RATE, RATE, Rates, Reading, Sheet};

use crate::files::Library;
use crate::output::{Failure, Grid, csv, number, print_json};
use crate::outputs::Outputs;
use crate::report::Report;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The tuning: a file, or `demo:NAME`, optionally with changes, as in
    /// `demo:porter,jump.height=2`. The default tuning if none is given.
    tuning: Option<String>,
    /// The dimension of the world: 2 or 3.
    #[arg(long, value_name = "2|3", default_value_t = 2, value_parser = clap::value_parser!(u8).range(2..=3))]
    dimensions: u8,
    /// Ticks per second on the courses.
    #[arg(long, value_name = "RATE", default_value_t = RATE, value_parser = clap::value_parser!(u32).range(10..=10_000))]
    rate: u32,
    /// Ticks per second of the game, for the figures in ticks.
    #[arg(long, value_name = "RATE", default_value_t = GAME_RATE, value_parser = clap::value_parser!(u32).range(10..=10_000))]
    game_rate: u32,
    /// Measures only these figures; several separated by commas.
    #[arg(long = "show", value_name = "FIGURE,…", value_delimiter = ',')]
    show: Vec<String>,
    /// Writes the figures as CSV.
    #[arg(long, value_name = "FILE")]
    csv: Option<PathBuf>,
    /// Writes it as one HTML page, readable offline and printable.
    #[arg(long, value_name = "FILE")]
    report: Option<PathBuf>,
    /// Prints one JSON document instead of a table.
    #[arg(long)]
    json: bool,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let mut outputs = Outputs::checked(arguments.csv.iter().chain(&arguments.report), arguments.json)?;
    outputs.apart_from(files::named(&arguments.tuning))?;
    let tuning = library.tuning(arguments.tuning.as_deref())?;
    let rates = Rates { course: arguments.rate, game: arguments.game_rate };
    let figures = library.game.figures();
    let shown = shown(figures, &arguments.show)?;
    let chosen = |kind: &FigureKind| shown.is_empty() || shown.contains(&kind.name);
    let sheet = figures.sheet_of(&tuning, usize::from(arguments.dimensions), rates, &chosen);
    if let Some(path) = &arguments.csv {
        outputs.put(path, csv(csv_rows(&sheet))?);
    }
    if let Some(path) = &arguments.report {
        outputs.put(path, page(figures, &sheet));
    }
    let written = outputs.write()?;
    if arguments.json { print_json(&sheet) } else { written.say(&in_words(figures, &sheet)) }
}

/// The names of the requested figures.
fn shown(figures: Figures, names: &[String]) -> Result<Vec<&'static str>, Failure> {
    let find = |name: &String| {
        figures.kind(name).map(|kind| kind.name).ok_or_else(|| {
            let near = figures
                .nearest(name)
                .map_or_else(|| "a name from `rasant list figures`".to_owned(), |near| format!("`{near}`?"));
            Failure::Argument(format!("--show {name}: there is no such figure, expected {near}"))
        })
    };
    names.iter().map(find).collect()
}

/// The mark of a figure that differs from the number that sets it.
const PARTS: &str = "≠";

fn in_words(figures: Figures, sheet: &Sheet) -> String {
    format!("{}  ({})\n\n{}\n{}", sheet.title, about(sheet), grid(figures, sheet).text(), note(sheet))
}

fn page(figures: Figures, sheet: &Sheet) -> String {
    let mut report = Report::new(&sheet.title, &about(sheet));
    report.table("The movement sheet", &grid(figures, sheet));
    report.words(&note(sheet));
    report.page()
}

fn about(sheet: &Sheet) -> String {
    let Sheet { dimensions, rate, game_rate, .. } = sheet;
    format!("in {dimensions} dimensions, measured at {rate} ticks/s, for a game at {game_rate} ticks/s")
}

fn grid(figures: Figures, sheet: &Sheet) -> Grid {
    let mut table = Grid::new(["figure", "measured", "target", "", "meaning"], [1, 2]);
    for reading in &sheet.readings {
        let Reading { name, unit, measured, target, differs } = reading;
        table.add([
            (*name).to_owned(),
            number(*measured, unit),
            target.map_or(String::new(), |target| number(target, unit)),
            if *differs { PARTS } else { "" }.to_owned(),
            figures.kind(name).map_or("", |kind| kind.meaning).to_owned(),
        ]);
    }
    table
}

fn note(sheet: &Sheet) -> String {
    match sheet.readings.iter().any(|reading| reading.differs) {
        true => format!("\n{PARTS} differs from the number that the tuning sets by more than 0.5 %\n"),
        false => String::new(),
    }
}

fn csv_rows(sheet: &Sheet) -> impl Iterator<Item = Vec<String>> {
    let header = ["figure", "unit", "measured", "target", "differs"].map(str::to_owned).to_vec();
    let rows = sheet.readings.iter().map(|Reading { name, unit, measured, target, differs }| {
        let target = target.map_or(String::new(), |target| target.to_string());
        vec![(*name).to_owned(), (*unit).to_owned(), measured.to_string(), target, differs.to_string()]
    });
    std::iter::once(header).chain(rows)
}
