//! `rasant check TRIAL...`.

use std::path::PathBuf;
use std::time::Instant;

use rasant_lab::{Finding, Trial, run};
use rayon::prelude::*;
use serde::Serialize;
use xmlwriter::{Options, XmlWriter};

use crate::output::{Failure, print_json, print_text, write_file};
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trials' files, or `demo:NAME` for shipped ones; all shipped ones when
    /// none is named.
    trials: Vec<String>,
    /// Writes the results as JUnit XML.
    #[arg(long, value_name = "FILE")]
    junit: Option<PathBuf>,
    /// Prints one JSON document instead of lines.
    #[arg(long)]
    json: bool,
}

#[derive(Serialize)]
struct Checked {
    trial: String,
    title: String,
    holds: bool,
    seconds: f64,
    findings: Vec<Finding>,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let names = if arguments.trials.is_empty() { files::names() } else { arguments.trials.clone() };
    // All are read before any is run: no result is half of one.
    let trials = names.iter().map(|name| files::trial(name)).collect::<Result<Vec<Trial>, _>>()?;
    let checked: Vec<Checked> =
        names.into_par_iter().zip(&trials).map(|(name, trial)| check(name, trial)).collect();
    if let Some(path) = &arguments.junit {
        write_file(path, junit(&checked).as_bytes())?;
    }
    if arguments.json {
        print_json(&checked)?
    } else {
        print_text(&in_words(&checked))?
    }
    let failed = checked.iter().filter(|one| !one.holds).count();
    match failed {
        0 => Ok(()),
        _ => Err(Failure::Unmet(format!("{failed} of {} trials are not as expected", checked.len()))),
    }
}

fn check(name: String, trial: &Trial) -> Checked {
    let start = Instant::now();
    let done = run(trial);
    let findings: Vec<Finding> = trial.expectations.iter().map(|one| one.hold_against(&done)).collect();
    Checked {
        trial: name,
        title: trial.title.clone(),
        holds: findings.iter().all(|finding| finding.holds),
        seconds: start.elapsed().as_secs_f64(),
        findings,
    }
}

fn in_words(all: &[Checked]) -> String {
    let mut text = String::new();
    let width = all.iter().map(|one| one.trial.chars().count()).max().unwrap_or(0);
    for Checked { trial, holds, findings, .. } in all {
        let word = match (holds, findings.is_empty()) {
            (true, true) => "nothing expected".to_owned(),
            (true, false) => format!("ok, {} as expected", findings.len()),
            (false, _) => "NOT AS EXPECTED".to_owned(),
        };
        text += &format!("{trial:width$}  {word}\n");
        for finding in findings.iter().filter(|finding| !finding.holds) {
            text += &format!("{:width$}  {finding}\n", "");
        }
    }
    text
}

/// The results in the XML that test runners share: a suite a trial, a case an
/// expectation.
fn junit(all: &[Checked]) -> String {
    let mut xml = XmlWriter::new(Options::default());
    xml.write_declaration();
    xml.start_element("testsuites");
    xml.write_attribute("name", "rasant");
    write_counts(&mut xml, all);
    for one in all {
        xml.start_element("testsuite");
        xml.write_attribute("name", &one.trial);
        write_counts(&mut xml, std::slice::from_ref(one));
        for finding in &one.findings {
            xml.start_element("testcase");
            xml.write_attribute("name", &finding.figure);
            xml.write_attribute("classname", &one.title);
            if !finding.holds {
                xml.start_element("failure");
                xml.write_attribute("message", &finding.to_string());
                xml.end_element();
            }
            xml.end_element();
        }
        xml.end_element();
    }
    xml.end_document()
}

fn write_counts(xml: &mut XmlWriter, all: &[Checked]) {
    let findings = || all.iter().flat_map(|one| &one.findings);
    xml.write_attribute("tests", &findings().count());
    xml.write_attribute("failures", &findings().filter(|finding| !finding.holds).count());
    xml.write_attribute("errors", &0);
    xml.write_attribute_fmt("time", format_args!("{:.3}", all.iter().map(|one| one.seconds).sum::<f64>()));
}
