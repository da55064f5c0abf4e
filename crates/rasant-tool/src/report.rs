//! A self-contained HTML page: readable offline, printable.

use std::path::PathBuf;

use xmlwriter::{Indent, Options, XmlWriter};

use crate::figure::Picture;
use crate::output::{Failure, Grid};
use crate::outputs::Outputs;

/// The places for a command's picture and page.
#[derive(Debug, clap::Args)]
pub struct Pictured {
    /// Draws a figure, as .svg or .png.
    #[arg(long, value_name = "FILE")]
    figure: Option<PathBuf>,
    /// Writes everything as one HTML page, readable offline and printable.
    #[arg(long, value_name = "FILE")]
    report: Option<PathBuf>,
}

impl Pictured {
    /// The places. Fails for a format that cannot be drawn, before anything is run.
    pub fn places(&self) -> Result<impl Iterator<Item = &PathBuf>, Failure> {
        self.figure.as_deref().map_or(Ok(()), Picture::check)?;
        Ok(self.figure.iter().chain(&self.report))
    }

    /// Draws the requested figures.
    pub fn put(
        &self,
        outputs: &mut Outputs,
        draw: impl FnOnce() -> Result<Picture, Failure>,
        page: impl FnOnce(&Picture) -> String,
    ) -> Result<(), Failure> {
        if self.figure.is_none() && self.report.is_none() {
            return Ok(());
        }
        let picture = draw()?;
        if let Some(path) = &self.figure {
            outputs.put(path, picture.bytes(path)?);
        }
        if let Some(path) = &self.report {
            outputs.put(path, page(&picture));
        }
        Ok(())
    }
}

/// A page that is being written.
pub struct Report {
    title: String,
    heading: String,
    /// The content below the heading, as HTML.
    parts: String,
}

/// The colours are those of the figures.
const STYLE: &str = "\
    body { font: 15px/1.5 Roboto, Helvetica, Arial, sans-serif; color: #232c3a; background: #f6f3ec;\
           max-width: 1280px; margin: 0 auto; padding: 24px 24px 64px; }\
    h1 { font-size: 26px; margin: 0; } h2 { font-size: 18px; margin: 32px 0 8px; }\
    p.heading { margin: 4px 0 16px; } svg { width: 100%; height: auto; }\
    table { border-collapse: collapse; } th, td { text-align: left; padding: 3px 18px 3px 0; vertical-align: top; }\
    thead th { border-bottom: 1px solid #6e7682; } tbody tr + tr td { border-top: 1px solid #dfdcd3; }\
    .number { text-align: right; font-variant-numeric: tabular-nums; } td.number { white-space: nowrap; }\
    div.table { overflow-x: auto; }\
    @media print { body { background: none; padding: 0; } h2, tr, svg { break-inside: avoid; } }";

impl Report {
    /// An empty page.
    pub fn new(title: &str, heading: &str) -> Self {
        Self { title: title.to_owned(), heading: heading.to_owned(), parts: String::new() }
    }

    /// Adds a picture.
    pub fn picture(&mut self, picture: &Picture) {
        self.parts += picture.svg();
    }

    /// Adds a table under a heading.
    pub fn table(&mut self, heading: &str, grid: &Grid) {
        self.parts += &element("h2", heading);
        let mut table = writer();
        table.start_element("div");
        table.write_attribute("class", "table");
        grid.write_html(&mut table);
        self.parts += &table.end_document();
    }

    /// Adds a paragraph per line.
    pub fn words(&mut self, text: &str) {
        for line in text.lines().filter(|line| !line.trim().is_empty()) {
            self.parts += &element("p", line);
        }
    }

    /// The finished page.
    pub fn page(self) -> String {
        let (title, above) = (element("title", &self.title), element("h1", &self.title));
        let mut heading = writer();
        heading.start_element("p");
        heading.write_attribute("class", "heading");
        heading.write_text(&self.heading);
        format!(
            "<!DOCTYPE html><html lang=\"en\"><head><meta charset=\"utf-8\">\
             <meta name=\"viewport\" content=\"width=device-width, initial-scale=1\">{title}\
             <style>{STYLE}</style></head><body>{above}{}{}</body></html>",
            heading.end_document(),
            self.parts
        )
    }
}

fn writer() -> XmlWriter {
    XmlWriter::new(Options { indent: Indent::None, ..Options::default() })
}

/// An element with a text.
fn element(name: &str, text: &str) -> String {
    let mut element = writer();
    element.start_element(name);
    element.write_text(text);
    element.end_document()
}
