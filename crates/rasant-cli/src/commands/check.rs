//! `rasant check TRIAL...`.

use std::path::PathBuf;
use std::time::Instant;

use quick_junit::{NonSuccessKind, Report, TestCase, TestCaseStatus, TestSuite};
use rasant_lab::{Finding, Trial, run};
use rayon::prelude::*;
use serde::Serialize;

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
        let xml = junit(&checked).to_string().map_err(|error| Failure::Argument(error.to_string()))?;
        write_file(path, xml.as_bytes())?;
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

fn junit(all: &[Checked]) -> Report {
    let mut report = Report::new("rasant");
    for one in all {
        let mut suite = TestSuite::new(one.trial.as_str());
        for finding in &one.findings {
            let mut status = TestCaseStatus::success();
            if !finding.holds {
                status = TestCaseStatus::non_success(NonSuccessKind::Failure);
                status.set_message(finding.to_string());
            }
            let mut case = TestCase::new(finding.figure.as_str(), status);
            case.set_classname(one.title.as_str());
            suite.add_test_case(case);
        }
        report.add_test_suite(suite);
    }
    report
}
