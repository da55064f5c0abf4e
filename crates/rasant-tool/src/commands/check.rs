//! `rasant check TRIAL...`.

use std::path::{Path, PathBuf};
use std::time::Instant;

use rasant_lab::files::AnyFile;
use rasant_lab::{Finding, Shard, Trial, run};
use rayon::prelude::*;
use serde::Serialize;
use xmlwriter::{Options, XmlWriter};

use crate::files::Library;
use crate::output::{Failure, print_json};
use crate::outputs::Outputs;
use crate::{Outcome, files};

#[derive(Debug, clap::Args)]
pub struct Arguments {
    /// The trials' files, or `demo:NAME` for shipped ones, or folders of .toml files. Levels,
    /// tunings and bindings are only read. Without names, all shipped trials.
    trials: Vec<String>,
    /// Uses this tuning instead of the trials' own: a file, `demo:NAME` with changes, or a folder
    /// of tunings. Runs each trial once for each; may be given again.
    #[arg(long, value_name = "TUNING")]
    tuning: Vec<String>,
    /// Runs only every Nth trial, from the Kth: `rasant merge` merges the parts' JSON.
    #[arg(long, value_name = "K/N")]
    shard: Option<Shard>,
    /// Writes the results as JUnit XML.
    #[arg(long, value_name = "FILE")]
    junit: Option<PathBuf>,
    /// Prints one JSON document instead of lines.
    #[arg(long)]
    json: bool,
}

/// A part of a check, for `merge`.
#[derive(Serialize)]
struct Part<'a> {
    /// The part and the number of parts: `1/2`.
    part: String,
    /// The total number of trials.
    of: usize,
    checked: &'a [Checked],
}

#[derive(Serialize)]
struct Checked {
    trial: String,
    /// The kind of file.
    kind: &'static str,
    title: String,
    holds: bool,
    seconds: f64,
    findings: Vec<Finding>,
}

pub fn main(arguments: &Arguments, library: Library) -> Outcome {
    let mut outputs = Outputs::checked(&arguments.junit, arguments.json)?;
    let names = if arguments.trials.is_empty() { files::names() } else { arguments.trials.clone() };
    // All are read before any is run, so that no result is incomplete.
    let shard = arguments.shard.unwrap_or(Shard::ALL);
    let mut all: Vec<(String, AnyFile)> = Vec::new();
    let paths = files::of_folders(&names)?;
    outputs.apart_from(paths.iter().map(PathBuf::as_path).chain(files::named(&arguments.tuning)))?;
    for path in paths {
        let file = library.any(&path)?;
        all.push((path.display().to_string(), file));
    }
    if !arguments.tuning.is_empty() {
        all = with_tunings(library, all, &arguments.tuning)?;
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
        _ => Err(Failure::Unmet(format!("{failed} of {} trials failed their expectations", checked.len()))),
    }
}

/// Each trial with each of the tunings.
fn with_tunings(
    library: Library,
    all: Vec<(String, AnyFile)>,
    specs: &[String],
) -> Result<Vec<(String, AnyFile)>, Failure> {
    let mut tunings = Vec::new();
    for spec in specs {
        let is_folder = Path::new(spec).is_dir();
        let before = tunings.len();
        if is_folder {
            for path in files::of_folders(std::slice::from_ref(spec))? {
                // Files that are not tunings are left out.
                if let AnyFile::Tuning(tuning) = library.any(&path)? {
                    tunings.push((path.display().to_string(), *tuning));
                }
            }
        } else {
            tunings.push((spec.clone(), library.tuning(Some(spec))?));
        }
        if tunings.len() == before {
            return Err(Failure::Argument(format!("--tuning {spec}: it contains no tuning")));
        }
    }
    let mut with = Vec::new();
    for (name, file) in all {
        let AnyFile::Trial(trial) = file else { continue };
        for (spec, tuning) in &tunings {
            files::suits(&trial, tuning)
                .map_err(|why| Failure::Argument(format!("{name}, {spec}: {why}")))?;
            let trial = (*trial).clone().with_tuning(tuning.clone());
            with.push((format!("{name} with {spec}"), AnyFile::Trial(Box::new(trial))));
        }
    }
    if with.is_empty() {
        return Err(Failure::Argument("--tuning: there is no trial to run with it".to_owned()));
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
    if let Some((depth, what)) = trial.starts_inside() {
        // With another tuning the body may be larger.
        let inside = Finding {
            figure: format!("inside {what} at the start"),
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
    if let Some(tick) = done.bodies().find_map(|(_, run)| run.trace.first_broken()) {
        findings.push(Finding {
            figure: "the first tick with an implausible position or velocity".to_owned(),
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

/// The results in the XML format of test runners: a suite per trial, a case per expectation.
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
            // All expectations share one run.
            let fraction = one.seconds / one.findings.len() as f64;
            xml.write_attribute_fmt("time", format_args!("{fraction:.3}"));
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
