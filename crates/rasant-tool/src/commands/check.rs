//! `rasant check TRIAL...`.

use std::path::{Path, PathBuf};
use std::time::Instant;

use rasant_lab::files::AnyFile;
use rasant_lab::{Finding, Shard, Trial, run};
use rayon::prelude::*;
use serde::Serialize;
use xmlwriter::{Options, XmlWriter};

use crate::output::{Failure, print_json};
use crate::outputs::Outputs;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trials' files, or `demo:NAME` for shipped ones; of a folder, all .toml files in
    /// it. Levels, tunings and bindings are only read. All shipped trials when none is
    /// named.
    trials: Vec<String>,
    /// Holds the trials against this tuning in place of their own: a file, `demo:NAME` with changes, or
    /// a folder of tunings. Once for each; may be given again.
    #[arg(long, value_name = "TUNING")]
    tuning: Vec<String>,
    /// Only every Nth of them, from the Kth: `rasant merge` puts the parts' JSON together.
    #[arg(long, value_name = "K/N")]
    shard: Option<Shard>,
    /// Writes the results as JUnit XML.
    #[arg(long, value_name = "FILE")]
    junit: Option<PathBuf>,
    /// Prints one JSON document instead of lines.
    #[arg(long)]
    json: bool,
}

/// A part of a check, as `merge` reads it.
#[derive(Serialize)]
struct Part<'a> {
    /// Which of how many: `1/2`.
    part: String,
    /// How many there are in all.
    of: usize,
    checked: &'a [Checked],
}

#[derive(Serialize)]
struct Checked {
    trial: String,
    /// What kind of file it is.
    kind: &'static str,
    title: String,
    holds: bool,
    seconds: f64,
    findings: Vec<Finding>,
}

pub fn main(arguments: &Arguments) -> Outcome {
    let mut outputs = Outputs::checked(&arguments.junit, arguments.json)?;
    let names = if arguments.trials.is_empty() { files::names() } else { arguments.trials.clone() };
    // All are read before any is run: no result is half of one.
    let shard = arguments.shard.unwrap_or(Shard::ALL);
    let mut all: Vec<(String, AnyFile)> = Vec::new();
    let paths = files::of_folders(&names)?;
    outputs.apart_from(paths.iter().map(PathBuf::as_path).chain(files::named(&arguments.tuning)))?;
    for path in paths {
        let file = files::any(&path)?;
        all.push((path.display().to_string(), file));
    }
    if !arguments.tuning.is_empty() {
        all = with_tunings(all, &arguments.tuning)?;
    }
    let whole = all.len();
    let all: Vec<(String, AnyFile)> = all
        .into_iter()
        .enumerate()
        .filter(|(number, _)| shard.contains(*number))
        .map(|(_, one)| one)
        .collect();
    let checked: Vec<Checked> = all.into_par_iter().map(|(name, file)| checked(name, &file)).collect();
    if let Some(path) = &arguments.junit {
        outputs.put(path, junit(&checked));
    }
    let written = outputs.write()?;
    if arguments.json {
        match arguments.shard {
            Some(shard) => print_json(&Part { part: shard.to_string(), of: whole, checked: &checked })?,
            None => print_json(&checked)?,
        }
    } else {
        written.say(&in_words(&checked))?
    }
    let failed = checked.iter().filter(|one| !one.holds).count();
    match failed {
        0 => Ok(()),
        _ => Err(Failure::Unmet(format!("{failed} of {} trials are not as expected", checked.len()))),
    }
}

/// Each trial with each of the tunings, which may be folders of them.
fn with_tunings(all: Vec<(String, AnyFile)>, specs: &[String]) -> Result<Vec<(String, AnyFile)>, Failure> {
    let mut tunings = Vec::new();
    for spec in specs {
        let is_folder = Path::new(spec).is_dir();
        let before = tunings.len();
        if is_folder {
            for path in files::of_folders(std::slice::from_ref(spec))? {
                // What is no tuning is left out.
                if let AnyFile::Tuning(tuning) = files::any(&path)? {
                    tunings.push((path.display().to_string(), *tuning));
                }
            }
        } else {
            tunings.push((spec.clone(), files::tuning(Some(spec))?));
        }
        if tunings.len() == before {
            return Err(Failure::Argument(format!("--tuning {spec}: there is no tuning in it")));
        }
    }
    let mut with = Vec::new();
    for (name, file) in all {
        let AnyFile::Trial(trial) = file else { continue };
        for (spec, tuning) in &tunings {
            let trial = (*trial).clone().with_tuning(tuning.clone());
            with.push((format!("{name} with {spec}"), AnyFile::Trial(Box::new(trial))));
        }
    }
    if with.is_empty() {
        return Err(Failure::Argument("--tuning: there is no trial to hold against it".to_owned()));
    }
    Ok(with)
}

fn checked(name: String, file: &AnyFile) -> Checked {
    let AnyFile::Trial(trial) = file else {
        let title = file.title().to_owned();
        return Checked {
            trial: name,
            kind: file.kind(),
            title,
            holds: true,
            seconds: 0.0,
            findings: Vec::new(),
        };
    };
    check(name, trial)
}

fn check(name: String, trial: &Trial) -> Checked {
    let start = Instant::now();
    if let Some(depth) = trial.starts_inside() {
        // With another tuning than its own the body may be larger.
        let inside = Finding {
            figure: "inside a piece at the start".to_owned(),
            measured: Some(f64::from(depth)),
            expected: "at most 0 m".to_owned(),
            unit: "m",
            holds: false,
        };
        let (title, findings) = (trial.title.clone(), vec![inside]);
        return Checked { trial: name, kind: "trial", title, holds: false, seconds: 0.0, findings };
    }
    let done = run(trial);
    let mut findings: Vec<Finding> = trial.expectations.iter().map(|one| one.hold_against(&done)).collect();
    if let Some(tick) = done.trace.first_broken() {
        findings.push(Finding {
            figure: "the first tick beyond all measure".to_owned(),
            measured: Some(tick as f64),
            expected: "none".to_owned(),
            unit: "",
            holds: false,
        });
    }
    Checked {
        trial: name,
        kind: "trial",
        title: trial.title.clone(),
        holds: findings.iter().all(|finding| finding.holds),
        seconds: start.elapsed().as_secs_f64(),
        findings,
    }
}

fn in_words(all: &[Checked]) -> String {
    let mut text = String::new();
    let width = all.iter().map(|one| one.trial.chars().count()).max().unwrap_or(0);
    for Checked { trial, kind, holds, findings, .. } in all {
        let word = match (holds, findings.is_empty()) {
            _ if *kind != "trial" => format!("ok, a {kind}"),
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
        for (number, finding) in one.findings.iter().enumerate() {
            xml.start_element("testcase");
            let same = one.findings[..number].iter().filter(|other| other.figure == finding.figure).count();
            let name = match same {
                0 => finding.figure.clone(),
                _ => format!("{} ({})", finding.figure, same + 1),
            };
            xml.write_attribute("name", &name);
            xml.write_attribute("classname", &one.trial);
            // The one run is all of them at once.
            let share = one.seconds / one.findings.len() as f64;
            xml.write_attribute_fmt("time", format_args!("{share:.3}"));
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
