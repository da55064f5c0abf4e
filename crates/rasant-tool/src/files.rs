//! Files on the disk, and those shipped inside the tool.

use std::path::{Component, Path, PathBuf};

use include_dir::{Dir, include_dir};
use rasant_lab::files::{
    AnyFile, GameFiles, Place, TuningFile, edit_tuning, read_any, read_place, read_tuning, write_tuning,
};
use rasant_lab::{Files, Game, OnDisk, Problem, Trial, World, read_trial};

use crate::output::Failure;

static SHIPPED: Dir<'_> = include_dir!("$CARGO_MANIFEST_DIR/demo");

/// The prefix of a shipped file on the command line.
const PREFIX: &str = "demo:";

/// The files inside the tool.
#[derive(Clone, Copy, Debug)]
pub struct Shipped;

impl Files for Shipped {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let no_text = |_| Problem::unreadable(path, "it is not UTF-8 text");
        String::from_utf8(self.read_bytes(path)?).map_err(no_text)
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        let inside = flattened(path.strip_prefix(PREFIX).unwrap_or(path));
        SHIPPED.get_file(&inside).map(|file| file.contents().to_vec()).ok_or_else(|| {
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
        .map(|file| file.path())
        // Drawings and models belong to a level.
        .filter(|path| path.extension().is_some_and(|ending| ending == "toml"))
        .filter_map(Path::file_stem)
        .map(|stem| format!("{PREFIX}{}", stem.to_string_lossy()))
        .collect();
    names.sort();
    names
}

/// The files that the tool reads: on the disk and inside the tool, for a game.
#[derive(Clone, Copy, Debug, Default)]
pub struct Library {
    /// The game that the tool is for.
    pub game: Game,
}

/// Checks that a tuning is one of a trial's world.
pub fn suits(trial: &Trial, file: &TuningFile) -> Result<(), String> {
    let suits = trial.world.clone().suit(file);
    suits.map_err(|error| format!("{error}, expected {}", error.expected()))
}

impl Library {
    /// Files on the disk.
    pub fn on_disk(self) -> GameFiles<OnDisk> {
        self.game.on_disk()
    }

    /// Files inside the tool.
    fn shipped(self) -> GameFiles<Shipped> {
        GameFiles { files: Shipped, game: self.game.in_files() }
    }

    /// Reads a tuning with changes: `FILE`, or `demo:NAME`, then any number of `,PATH=VALUE`.
    /// Without a file, the default tuning.
    pub fn tuning(self, spec: Option<&str>) -> Result<TuningFile, Failure> {
        let Some(spec) = spec else { return Ok(self.game.in_files().tuning_file()) };
        let mut parts = spec.split(',');
        let name = parts.next().unwrap_or("");
        let mut file = match name.strip_prefix(PREFIX) {
            Some(shipped) => {
                read_tuning(&self.shipped(), &Path::new(TUNINGS).join(shipped).with_extension("toml"))?
            }
            None => read_tuning(&self.on_disk(), Path::new(name)).map_err(|problem| hinted(problem, name))?,
        };
        for change in parts {
            let (path, value) = change
                .split_once('=')
                .ok_or_else(|| Failure::Argument(format!("{spec}: found `{change}`, expected PATH=VALUE")))?;
            let (path, value) = (path.trim(), value.trim());
            file.set_text(path, value)
                .map_err(|error| Failure::Argument(format!("{spec}: {error}{}", self.near(path))))?;
            file.title = format!("{}, {path} = {value}", file.title);
        }
        Ok(file)
    }

    /// As [`Self::tuning`], for the body of a trial: it must be one of the trial's world.
    pub fn tuning_for(self, trial: &Trial, spec: &str) -> Result<TuningFile, Failure> {
        let file = self.tuning(Some(spec))?;
        suits(trial, &file).map_err(|why| Failure::Argument(format!("{spec}: {why}")))?;
        Ok(file)
    }

    /// The text of a tuning's file with the numbers of another tuning. Comments and everything else
    /// stay. For a shipped tuning, and for none, a new text.
    pub fn tuning_text(self, spec: &str, numbers: &TuningFile) -> Result<String, Failure> {
        match named([&spec.to_owned()]).next() {
            Some(path) => Ok(edit_tuning(&self.on_disk().read(path)?, numbers)?),
            None => Ok(write_tuning(numbers)),
        }
    }

    /// As [`Self::tuning`] for a plain name, with an error as a problem of a file.
    pub fn tuning_or_problem(self, spec: &str) -> Result<TuningFile, Problem> {
        self.tuning(Some(spec)).map_err(|failure| match failure {
            Failure::Input(problem) => problem,
            other => Problem::unreadable(Path::new(spec), &other.to_string()),
        })
    }

    /// Splits `PATH=MORE`.
    pub fn knob_and<'a>(self, text: &'a str, more: &str) -> Result<(&'static str, &'a str), Failure> {
        let (path, rest) = text.split_once('=').ok_or_else(|| {
            Failure::Argument(format!("found `{text}`, expected PATH={}", more.to_uppercase()))
        })?;
        Ok((self.knob(path)?, rest))
    }

    /// The knob, or the size of a hull, with this path.
    pub fn knob(self, path: &str) -> Result<&'static str, Failure> {
        let path = path.trim();
        let found = self.game.in_files().tuning_file().knob(path);
        found.map(|knob| knob.path).map_err(|error| Failure::Argument(format!("{error}{}", self.near(path))))
    }

    /// The known path that is spelled most like a wrong one, as a part of an error message. Empty
    /// for a known path.
    fn near(self, path: &str) -> String {
        if path == "hull.shape" || self.game.in_files().tuning_file().knob(path).is_ok() {
            return String::new();
        }
        match self.game.in_files().nearest_number(path) {
            Some(near) => format!(", expected `{near}`?"),
            None => "; `rasant knobs` lists them".to_owned(),
        }
    }

    /// Reads a trial: `demo:NAME` is a shipped one, anything else a path.
    pub fn trial(self, name: &str) -> Result<Trial, Problem> {
        match name.strip_prefix(PREFIX) {
            Some(shipped) => {
                read_trial(&self.shipped(), &Path::new(TRIALS).join(shipped).with_extension("toml"))
            }
            None => read_trial(&self.on_disk(), Path::new(name)).map_err(|problem| {
                self.of_another_kind(name, "a trial").unwrap_or_else(|| hinted(problem, name))
            }),
        }
    }

    /// The problem for a file that is valid, but not of the expected kind.
    fn of_another_kind(self, name: &str, expected: &str) -> Option<Problem> {
        let found = read_any(&self.on_disk(), Path::new(name)).ok()?.kind();
        (!expected.contains(found)).then(|| {
            Problem::unreadable(Path::new(name), &format!("it is a {found}; {expected} was expected"))
        })
    }

    /// Reads a trial or a level for playing. `demo:NAME` is a shipped trial, or a shipped level if
    /// there is no such trial; `demo:levels/NAME` is a shipped level.
    pub fn place(self, name: &str) -> Result<Place, Problem> {
        let Some(shipped) = name.strip_prefix(PREFIX) else {
            let read = read_place(&self.on_disk(), Path::new(name));
            return read
                .map_err(|problem| self.of_another_kind(name, "a trial or a level").unwrap_or(problem));
        };
        let in_folder = |folder: &str| Path::new(folder).join(shipped).with_extension("toml");
        let (trial, level) = (in_folder(TRIALS), in_folder(LEVELS));
        let named = in_folder("");
        let is_there = |path: &PathBuf| SHIPPED.get_file(path).is_some();
        let path = [named, trial.clone(), level].into_iter().find(is_there).unwrap_or(trial);
        read_place(&self.shipped(), &path)
    }

    /// Reads a level, or the level and tuning of a trial. The names are those of [`Self::place`].
    pub fn level(self, name: &str) -> Result<(World, Option<TuningFile>), Problem> {
        let read = match name.strip_prefix(PREFIX) {
            Some(shipped) => {
                let folders = ["", LEVELS, TRIALS].map(|folder| Path::new(folder).join(shipped));
                let paths = folders.iter().flat_map(|path| [path.with_extension("toml"), path.clone()]);
                let path = paths.into_iter().find(|path| SHIPPED.get_file(path).is_some());
                read_any(&self.shipped(), &path.unwrap_or_else(|| Path::new(LEVELS).join(shipped)))?
            }
            None => read_any(&self.on_disk(), Path::new(name)).map_err(|problem| hinted(problem, name))?,
        };
        match read {
            AnyFile::Level(world) => Ok((*world, None)),
            AnyFile::Trial(trial) => Ok((trial.world, Some(trial.tuning))),
            other => {
                let found = format!("it is a {}; a level or a trial was expected", other.kind());
                Err(Problem::unreadable(Path::new(name), &found))
            }
        }
    }

    /// Reads a file of any kind: `demo:NAME` is a shipped trial.
    pub fn any(self, path: &Path) -> Result<AnyFile, Problem> {
        match path.to_str() {
            Some(name) if name.starts_with(PREFIX) => {
                self.trial(name).map(|trial| AnyFile::Trial(Box::new(trial)))
            }
            name => read_any(&self.on_disk(), path).map_err(|problem| hinted(problem, name.unwrap_or(""))),
        }
    }

    /// The title of a shipped file.
    pub fn title(self, name: &str, kind: &str) -> String {
        let folder = match kind {
            "tuning" => TUNINGS,
            "level" => LEVELS,
            _ => TRIALS,
        };
        let stem = name.trim_start_matches(PREFIX).trim_start_matches("levels/");
        match read_any(&self.shipped(), &Path::new(folder).join(stem).with_extension("toml")) {
            Ok(file) => file.title().to_owned(),
            Err(problem) => problem.to_string(),
        }
    }
}

/// The files in a list of names on the command line, without changes of tunings and without shipped
/// files.
pub fn named<'a>(names: impl IntoIterator<Item = &'a String>) -> impl Iterator<Item = &'a Path> {
    let names = names.into_iter().map(|name| name.split(',').next().unwrap_or(name));
    names.filter(|name| !name.starts_with(PREFIX)).map(Path::new)
}

/// The names of the shipped levels, as [`Library::place`] takes them.
pub fn level_names() -> Vec<String> {
    let in_folder = |name: String| name.replace(PREFIX, &format!("{PREFIX}{LEVELS}/"));
    names_in(LEVELS).into_iter().map(in_folder).collect()
}

/// The names of the shipped tunings.
pub fn tuning_names() -> Vec<String> {
    names_in(TUNINGS)
}

/// The names as paths. Folders are replaced by the .toml files in them and in their subfolders.
pub fn of_folders(names: &[String]) -> Result<Vec<PathBuf>, Failure> {
    let mut all = Vec::new();
    for name in names {
        if !Path::new(name).is_dir() {
            all.push(PathBuf::from(name));
            continue;
        }
        let before = all.len();
        walk(Path::new(name), &mut all)?;
        all[before..].sort();
        if all.len() == before {
            return Err(Failure::Argument(format!("{name}: it contains no .toml file")));
        }
    }
    Ok(all)
}

fn walk(folder: &Path, all: &mut Vec<PathBuf>) -> Result<(), Failure> {
    let failed = |error: std::io::Error| Problem::unreadable(folder, &error.to_string());
    for entry in std::fs::read_dir(folder).map_err(failed)? {
        let path = entry.map_err(failed)?.path();
        // A link may lead back to a parent.
        if path.is_dir() && !path.is_symlink() {
            walk(&path, all)?;
        } else if path.extension().is_some_and(|ending| ending == "toml") {
            all.push(path);
        }
    }
    Ok(())
}

/// A problem that mentions a shipped file with the same name, if there is one.
fn hinted(problem: Problem, name: &str) -> Problem {
    let stem = name.strip_suffix(".toml").unwrap_or(name);
    let shipped = [TRIALS, TUNINGS, LEVELS].iter().flat_map(|folder| names_in(folder));
    let is_shipped = shipped.into_iter().any(|known| known.strip_prefix(PREFIX) == Some(stem));
    if is_shipped && problem.text().is_none() {
        return Problem::unreadable(Path::new(name), &format!("no such file; `{PREFIX}{stem}` is shipped"));
    }
    problem
}

/// Files inside the tool, with a record of what was read.
struct Remembered(std::cell::RefCell<Vec<PathBuf>>);

impl Files for Remembered {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        self.0.borrow_mut().push(flattened(path));
        Shipped.read(path)
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        self.0.borrow_mut().push(flattened(path));
        Shipped.read_bytes(path)
    }
}

/// The paths and contents of shipped files with these names, with all files that they refer to;
/// everything if no name is given.
pub fn shipped(names: &[String]) -> Result<Vec<(PathBuf, Vec<u8>)>, Failure> {
    let remembered = Remembered(Vec::new().into());
    let folders = [TRIALS, TUNINGS, LEVELS];
    if names.is_empty() {
        let all = SHIPPED.dirs().flat_map(Dir::files);
        return Ok(all.map(|file| (file.path().to_owned(), file.contents().to_vec())).collect());
    }
    for name in names {
        let stem = name.strip_prefix(PREFIX).unwrap_or(name);
        let places = std::iter::once(PathBuf::new()).chain(folders.iter().map(PathBuf::from));
        let path = places
            .map(|folder| folder.join(stem).with_extension("toml"))
            .find(|path| SHIPPED.get_file(path).is_some());
        let path = path.ok_or_else(|| {
            Failure::Argument(format!(
                "{name}: nothing with that name is shipped; `rasant list` lists what is"
            ))
        })?;
        read_any(&remembered, &path)?;
    }
    let mut paths = remembered.0.into_inner();
    paths.sort();
    paths.dedup();
    paths.into_iter().map(|path| Ok((path.clone(), Shipped.read_bytes(&path)?))).collect()
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
