//! Files from the disk, and those shipped inside the tool.

use std::path::{Component, Path, PathBuf};

use include_dir::{Dir, include_dir};
use rasant_lab::files::{Place, TuningFile, read_place, read_tuning};
use rasant_lab::{Files, OnDisk, Problem, Trial, read_trial};

use crate::output::Failure;

static SHIPPED: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/../../demo");

/// What a shipped file's path begins with on the command line.
const PREFIX: &str = "demo:";

/// The files inside the tool.
#[derive(Clone, Copy, Debug)]
pub struct Shipped;

impl Files for Shipped {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let inside = flattened(path.strip_prefix(PREFIX).unwrap_or(path));
        SHIPPED.get_file(&inside).and_then(|file| file.contents_utf8()).map(str::to_owned).ok_or_else(|| {
            let folder = if inside.starts_with(TUNINGS) { TUNINGS } else { TRIALS };
            Problem::unreadable(
                path,
                &format!("no such shipped file; there are {}", names_in(folder).join(", ")),
            )
        })
    }
}

const TRIALS: &str = "trials";
const TUNINGS: &str = "tunings";
const LEVELS: &str = "levels";

/// The names of the shipped trials, as `run` takes them.
pub fn names() -> Vec<String> {
    names_in(TRIALS)
}

fn names_in(folder: &str) -> Vec<String> {
    let mut names: Vec<String> = SHIPPED
        .get_dir(folder)
        .into_iter()
        .flat_map(Dir::files)
        .filter_map(|file| file.path().file_stem())
        .map(|stem| format!("{PREFIX}{}", stem.to_string_lossy()))
        .collect();
    names.sort();
    names
}

/// Reads a tuning and its changes: `FILE`, or `demo:NAME`, then any number of
/// `,PATH=VALUE`. Without any, the default tuning.
pub fn tuning(spec: Option<&str>) -> Result<TuningFile, Failure> {
    let Some(spec) = spec else { return Ok(TuningFile::default()) };
    let mut parts = spec.split(',');
    let name = parts.next().unwrap_or("");
    let mut file = match name.strip_prefix(PREFIX) {
        Some(shipped) => read_tuning(&Shipped, &Path::new(TUNINGS).join(shipped).with_extension("toml"))?,
        None => read_tuning(&OnDisk, Path::new(name))?,
    };
    for change in parts {
        let (path, value) = knob_and(change, "value")?;
        let value: f32 = value.trim().parse().map_err(|_| {
            Failure::Argument(format!("{spec}: `{change}`: found `{value}`, expected a number"))
        })?;
        let turned = file.tuning.set(path, value);
        turned.map_err(|error| Failure::Argument(format!("{spec}: {error}")))?;
        file.title = format!("{}, {path} = {value}", file.title);
    }
    Ok(file)
}

/// The names of the shipped levels, as [`place`] takes them.
pub fn level_names() -> Vec<String> {
    let in_folder = |name: String| name.replace(PREFIX, &format!("{PREFIX}{LEVELS}/"));
    names_in(LEVELS).into_iter().map(in_folder).collect()
}

/// The names of the shipped tunings.
pub fn tuning_names() -> Vec<String> {
    names_in(TUNINGS)
}

/// The same as [`tuning`] for a plain name, with what is wrong as a problem of a file.
pub fn tuning_or_problem(spec: &str) -> Result<TuningFile, Problem> {
    tuning(Some(spec)).map_err(|failure| match failure {
        Failure::Input(problem) => problem,
        other => Problem::unreadable(Path::new(spec), &other.to_string()),
    })
}

/// Splits `PATH=MORE`.
pub fn knob_and<'a>(text: &'a str, more: &str) -> Result<(&'static str, &'a str), Failure> {
    let (path, rest) = text
        .split_once('=')
        .ok_or_else(|| Failure::Argument(format!("found `{text}`, expected PATH={}", more.to_uppercase())))?;
    Ok((knob(path)?, rest))
}

/// The knob of that path.
pub fn knob(path: &str) -> Result<&'static str, Failure> {
    let path = path.trim();
    rasant_lab::base_tuning().knob(path).map(|knob| knob.path).map_err(|error| {
        Failure::Argument(match rasant_lab::nearest_knob(path) {
            Some(near) => format!("{error}, expected `{near}`?"),
            None => format!("{error}; `rasant knobs` lists them"),
        })
    })
}

/// Reads a trial: `demo:NAME` is a shipped one, anything else a path.
pub fn trial(name: &str) -> Result<Trial, Problem> {
    match name.strip_prefix(PREFIX) {
        Some(shipped) => read_trial(&Shipped, &Path::new(TRIALS).join(shipped).with_extension("toml")),
        None => read_trial(&OnDisk, Path::new(name)),
    }
}

/// Reads what is to be played: a trial or a level. Of what is shipped, `demo:NAME` is a
/// trial, or a level where there is no such trial; `demo:levels/NAME` is a level.
pub fn place(name: &str) -> Result<Place, Problem> {
    let Some(shipped) = name.strip_prefix(PREFIX) else { return read_place(&OnDisk, Path::new(name)) };
    let in_folder = |folder: &str| Path::new(folder).join(shipped).with_extension("toml");
    let (trial, level) = (in_folder(TRIALS), in_folder(LEVELS));
    let named = in_folder("");
    let is_there = |path: &PathBuf| SHIPPED.get_file(path).is_some();
    let path = [named, trial.clone(), level].into_iter().find(is_there).unwrap_or(trial);
    read_place(&Shipped, &path)
}

/// A path without its `..`.
fn flattened(path: &Path) -> PathBuf {
    let mut flat = PathBuf::new();
    for part in path.components() {
        match part {
            Component::ParentDir => {
                flat.pop();
            }
            Component::CurDir => {}
            other => flat.push(other),
        }
    }
    flat
}
