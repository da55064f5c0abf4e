//! The output of the tool, and its failures.

use std::io::{self, IsTerminal, Write};
use std::path::{Path, PathBuf};
use std::process::ExitCode;

use annotate_snippets::{AnnotationKind, Level, Renderer, Snippet};
use comfy_table::{CellAlignment, ContentArrangement, LineStyle, Table, TableStyle};
use indicatif::{ProgressBar, ProgressStyle};
use rasant_lab::Problem;
use serde::Serialize;
use thiserror::Error;
use xmlwriter::XmlWriter;

/// Why a command did not succeed.
#[derive(Debug, Error)]
pub enum Failure {
    /// An input is invalid.
    #[error(transparent)]
    Input(#[from] Problem),
    /// Something could not be written.
    #[error("{}: cannot be written: {error}", path.display())]
    Write {
        /// The path.
        path: PathBuf,
        /// The cause.
        error: io::Error,
    },
    /// An argument is invalid.
    #[error("{0}")]
    Argument(String),
    /// Expectations of trials failed. It has been printed.
    #[error("{0}")]
    Unmet(String),
    /// A run has no meaningful result.
    #[error("{0}")]
    Broken(String),
    /// A figure could not be drawn.
    #[error("the figure could not be drawn: {0}")]
    Figure(String),
}

impl Failure {
    /// Reports the failure on standard error. Returns the exit code: 1 for a failed expectation, 2
    /// for bad input.
    pub fn report(self, as_json: bool) -> ExitCode {
        let (text, code) = match &self {
            Self::Input(problem) => (shown(problem), 2),
            Self::Unmet(summary) => (format!("{summary}\n"), 1),
            Self::Broken(what) => (format!("error: {what}\n"), 1),
            other => (format!("error: {other}\n"), 2),
        };
        complain(&text);
        // For failed expectations, the document has been printed.
        if as_json && !matches!(self, Self::Unmet(_)) {
            let document = serde_json::json!({ "error": self.fields() });
            let _ = print_json(&document);
        }
        ExitCode::from(code)
    }

    fn fields(&self) -> serde_json::Value {
        let Self::Input(problem) = self else { return serde_json::json!({ "message": self.to_string() }) };
        let (line, column) = problem.place().unzip();
        serde_json::json!({
            "message": problem.message(),
            "expected": problem.expected(),
            "file": problem.file(),
            "line": line,
            "column": column,
        })
    }
}

/// Prints to standard error. Errors are ignored, because they cannot be reported anywhere.
pub fn complain(text: &str) {
    let _ = io::stderr().lock().write_all(text.as_bytes());
}

/// A problem with the lines that it is about.
fn shown(problem: &Problem) -> String {
    let (Some(text), Some(span)) = (problem.text(), problem.span()) else {
        return format!("error: {problem}\n");
    };
    /// The maximum length of a line that is shown.
    const LONGEST: usize = 500;
    let start = text[..span.start.min(text.len())].rfind('\n').map_or(0, |newline| newline + 1);
    let line = text[start..].lines().next().unwrap_or("");
    if line.len() > LONGEST {
        let (before, after) = text[start..start + line.len()].split_at(span.start - start);
        let near: String = before.chars().rev().take(30).collect::<Vec<_>>().into_iter().rev().collect();
        let rest: String = after.chars().take(50).collect();
        return format!("error: {problem}\n  within: … {near}{rest} …\n");
    }
    let label =
        problem.expected().map_or_else(|| "here".to_owned(), |expected| format!("expected {expected}"));
    // For a whole table, the first line is marked.
    let first_line = text[span.start..].find('\n').unwrap_or(text.len() - span.start);
    let end = span.start + span.len().min(first_line);
    let lines = Snippet::source(text)
        .path(problem.file())
        .annotation(AnnotationKind::Primary.span(span.start..end).label(label));
    let report = [Level::ERROR.primary_title(problem.to_string()).element(lines)];
    let renderer = if io::stderr().is_terminal() && std::env::var_os("NO_COLOR").is_none() {
        Renderer::styled()
    } else {
        Renderer::plain()
    };
    renderer.render(&report) + "\n"
}

/// The maximum width of a table, in columns of a terminal.
const WIDTH: u16 = 100;

/// A table of text, for the terminal and for reports.
#[derive(Clone, Debug, Default)]
pub struct Grid {
    header: Vec<String>,
    rows: Vec<Vec<String>>,
    numbers: Vec<usize>,
}

impl Grid {
    /// An empty table. The columns `numbers` are aligned to the right.
    pub fn new<S: Into<String>>(
        header: impl IntoIterator<Item = S>,
        numbers: impl IntoIterator<Item = usize>,
    ) -> Self {
        let header = header.into_iter().map(Into::into).collect();
        Self { header, rows: Vec::new(), numbers: numbers.into_iter().collect() }
    }

    /// Adds a row.
    pub fn add<S: Into<String>>(&mut self, row: impl IntoIterator<Item = S>) {
        self.rows.push(row.into_iter().map(Into::into).collect());
    }

    /// Returns true if it has no rows.
    pub fn is_empty(&self) -> bool {
        self.rows.is_empty()
    }

    /// The table for a terminal.
    pub fn text(&self) -> String {
        let mut table = Table::new();
        let line = LineStyle::none().fill('─').junction('─');
        table.load_style(TableStyle::new().header_separator(line));
        let width = width();
        table.set_content_arrangement(ContentArrangement::Dynamic).set_width(width);
        table.set_header(self.header_for(width.into()));
        table.add_rows(self.rows.iter());
        for number in &self.numbers {
            if let Some(column) = table.column_mut(*number) {
                column.set_cell_alignment(CellAlignment::Right);
            }
        }
        table.to_string()
    }

    /// The header. If the table would be too wide, the headers of columns of numbers have line
    /// breaks after hyphens, dots and underscores.
    fn header_for(&self, width: usize) -> Vec<String> {
        /// The space between two columns.
        const GAP: usize = 3;
        let needed = |column: usize| {
            let cells = self.rows.iter().filter_map(|row| row.get(column));
            let longest = cells.chain(self.header.get(column)).map(|cell| cell.chars().count());
            longest.max().unwrap_or(0) + GAP
        };
        let is_wide = (0..self.header.len()).map(needed).sum::<usize>() > width;
        let header = self.header.iter().enumerate();
        header
            .map(|(column, word)| match is_wide && self.numbers.contains(&column) {
                true => broken(word),
                false => word.clone(),
            })
            .collect()
    }

    /// Writes the table as HTML.
    pub fn write_html(&self, page: &mut XmlWriter) {
        let row = |page: &mut XmlWriter, kind: &str, cells: &[String]| {
            page.start_element("tr");
            for (column, word) in cells.iter().enumerate() {
                page.start_element(kind);
                if self.numbers.contains(&column) {
                    page.write_attribute("class", "number");
                }
                page.write_text(word);
                page.end_element();
            }
            page.end_element();
        };
        page.start_element("table");
        page.start_element("thead");
        row(page, "th", &self.header);
        page.end_element();
        page.start_element("tbody");
        self.rows.iter().for_each(|cells| row(page, "td", cells));
        page.end_element();
        page.end_element();
    }
}

/// Rows of text as CSV.
pub fn csv(rows: impl IntoIterator<Item = Vec<String>>) -> Result<Vec<u8>, Failure> {
    let mut csv = csv::Writer::from_writer(Vec::new());
    let written = rows.into_iter().try_for_each(|row| csv.write_record(row));
    written.map_err(|error| Failure::Argument(error.to_string()))?;
    csv.into_inner().map_err(|error| Failure::Argument(error.to_string()))
}

/// A number with its unit, for people: at most four digits after the point, without trailing zeros.
pub fn number(value: f64, unit: &str) -> String {
    let digits = match value.abs() {
        large if large >= 100.0 => 1,
        usual if usual >= 10.0 => 2,
        _ => 3,
    };
    let text = format!("{value:.digits$}");
    let text = if text.contains('.') { text.trim_end_matches('0').trim_end_matches('.') } else { &text };
    let text = if text == "-0" { "0" } else { text };
    match unit {
        "" => text.to_owned(),
        "°" | "°/s" => format!("{text}{unit}"),
        _ => format!("{text} {unit}"),
    }
}

/// A progress bar on standard error, if that is a terminal.
pub fn progress(count: usize) -> ProgressBar {
    let bar = ProgressBar::new(count as u64);
    let style = ProgressStyle::with_template("{wide_bar} {pos} of {len}, {eta} left");
    if let Ok(style) = style {
        bar.set_style(style);
    }
    bar
}

/// The width of a table: that of the terminal, if it is narrower than usual.
fn width() -> u16 {
    /// The smallest readable width.
    const LEAST: u16 = 30;
    let terminal = console::Term::stdout();
    let columns = terminal.is_term().then(|| terminal.size_checked()).flatten().map(|(_, columns)| columns);
    columns.map_or(WIDTH, |columns| columns.clamp(LEAST, WIDTH))
}

/// A name with line breaks after hyphens, dots and underscores, in lines as long as its longest
/// part.
fn broken(name: &str) -> String {
    let parts: Vec<&str> = name.split_inclusive(['-', '.', '_']).collect();
    let longest = parts.iter().map(|part| part.chars().count()).max().unwrap_or(0);
    let mut lines: Vec<String> = Vec::new();
    for part in parts {
        match lines.last_mut() {
            Some(line) if line.chars().count() + part.chars().count() <= longest => *line += part,
            _ => lines.push(part.to_owned()),
        }
    }
    lines.join("\n")
}

/// A counter for work of unknown amount, shown on a terminal.
pub fn spinner(what: &str) -> ProgressBar {
    let bar = ProgressBar::new_spinner();
    if let Ok(style) = ProgressStyle::with_template(&format!("{{spinner}} {{pos}} {what}, {{elapsed}}")) {
        bar.set_style(style);
    }
    bar
}

/// Prints one JSON document on standard output.
pub fn print_json(value: &impl Serialize) -> Result<(), Failure> {
    let text = serde_json::to_string_pretty(value).map_err(|error| Failure::Argument(error.to_string()))?;
    print_text(&format!("{text}\n"))
}

/// Prints to standard output. A closed pipe is not a failure.
pub fn print_text(text: &str) -> Result<(), Failure> {
    match io::stdout().lock().write_all(text.as_bytes()) {
        Err(error) if error.kind() != io::ErrorKind::BrokenPipe => {
            Err(Failure::Write { path: PathBuf::from("standard output"), error })
        }
        _ => Ok(()),
    }
}

/// The extension of a path, in lower case.
pub fn ending(path: &Path) -> String {
    path.extension().map(|ending| ending.to_string_lossy().to_lowercase()).unwrap_or_default()
}
