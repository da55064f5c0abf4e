//! `rasant sheet [TUNING]`.

use std::path::PathBuf;

use rasant_lab::sheet::{
    FigureKind, GAME_RATE, RATE, Rates, Reading, Sheet, figure_kind, nearest_figure, sheet_of,
};

use crate::output::{Failure, Grid, csv, number, print_json};
use crate::outputs::Outputs;
use crate::report::Report;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The tuning: a file, or `demo:NAME`, and changes to it, as in
    /// `demo:porter,jump.height=2`. The default tuning when there is none.
    tuning: Option<String>,
    /// In a world of two dimensions or of three.
    #[arg(long, value_name = "2|3", default_value_t = 2, value_parser = clap::value_parser!(u8).range(2..=3))]
    dimensions: u8,
    /// Ticks a second on the courses.
    #[arg(long, value_name = "RATE", default_value_t = RATE, value_parser = clap::value_parser!(u32).range(10..=10_000))]
    rate: u32,
    /// Ticks per second of the game, for the figures in ticks.
    #[arg(long, value_name = "RATE", default_value_t = GAME_RATE, value_parser = clap::value_parser!(u32).range(10..=10_000))]
    game_rate: u32,
    /// Measures only these figures; several with commas between them.
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

pub fn main(arguments: &Arguments) -> Outcome {
    let mut outputs = Outputs::checked(arguments.csv.iter().chain(&arguments.report), arguments.json)?;
    outputs.apart_from(files::named(&arguments.tuning))?;
    let tuning = files::tuning(arguments.tuning.as_deref())?;
    let rates = Rates { course: arguments.rate, game: arguments.game_rate };
    let shown = shown(&arguments.show)?;
    let wanted = |kind: &FigureKind| shown.is_empty() || shown.contains(&kind.name);
    let sheet = sheet_of(&tuning, usize::from(arguments.dimensions), rates, &wanted);
    if let Some(path) = &arguments.csv {
        outputs.put(path, csv(csv_rows(&sheet))?);
    }
    if let Some(path) = &arguments.report {
        outputs.put(path, page(&sheet));
    }
    let written = outputs.write()?;
    if arguments.json { print_json(&sheet) } else { written.say(&in_words(&sheet)) }
}

/// The names of the figures that are asked for.
fn shown(names: &[String]) -> Result<Vec<&'static str>, Failure> {
    let find = |name: &String| {
        figure_kind(name).map(|kind| kind.name).ok_or_else(|| {
            let near = nearest_figure(name)
                .map_or_else(|| "a name from `rasant list figures`".to_owned(), |near| format!("`{near}`?"));
            Failure::Argument(format!("--show {name}: there is no such figure, expected {near}"))
        })
    };
    names.iter().map(find).collect()
}

/// What stands beside a figure that is not what the tuning asks for.
const PARTS: &str = "≠";

fn in_words(sheet: &Sheet) -> String {
    format!("{}  ({})\n\n{}\n{}", sheet.title, about(sheet), grid(sheet).text(), note(sheet))
}

fn page(sheet: &Sheet) -> String {
    let mut report = Report::new(&sheet.title, &about(sheet));
    report.table("The movement sheet", &grid(sheet));
    report.words(&note(sheet));
    report.page()
}

fn about(sheet: &Sheet) -> String {
    let Sheet { dimensions, rate, game_rate, .. } = sheet;
    format!("in {dimensions} dimensions, measured at {rate} ticks/s, for a game at {game_rate} ticks/s")
}

fn grid(sheet: &Sheet) -> Grid {
    let mut table = Grid::new(["figure", "measured", "asked", "", "what it is"], [1, 2]);
    for reading in &sheet.readings {
        let Reading { name, unit, measured, asked, parts } = reading;
        table.add([
            (*name).to_owned(),
            number(*measured, unit),
            asked.map_or(String::new(), |asked| number(asked, unit)),
            if *parts { PARTS } else { "" }.to_owned(),
            figure_kind(name).map_or("", |kind| kind.meaning).to_owned(),
        ]);
    }
    table
}

fn note(sheet: &Sheet) -> String {
    match sheet.readings.iter().any(|reading| reading.parts) {
        true => format!("\n{PARTS} differs from what the tuning asks for by more than 0.5 %\n"),
        false => String::new(),
    }
}

fn csv_rows(sheet: &Sheet) -> impl Iterator<Item = Vec<String>> {
    let header = ["figure", "unit", "measured", "asked", "parts"].map(str::to_owned).to_vec();
    let rows = sheet.readings.iter().map(|Reading { name, unit, measured, asked, parts }| {
        let asked = asked.map_or(String::new(), |asked| asked.to_string());
        vec![(*name).to_owned(), (*unit).to_owned(), measured.to_string(), asked, parts.to_string()]
    });
    std::iter::once(header).chain(rows)
}
