//! Tunings, levels and trials as TOML, read strictly.
//!
//! Whatever is wrong is a [`Problem`] that says in which file, where in it,
//! what was found and what was expected. An unknown key names the nearest
//! known one.

mod bindings;
mod draft;
mod level;
mod problem;
mod renamed;
mod start;
mod table;
mod tiles;
mod trial;
mod tuning;
mod words;

use std::path::{Path, PathBuf};

pub use bindings::{read_bindings, write_bindings};
pub use draft::{Change, Entry, Fields, LevelDraft, Part, Parts, Way};
pub use level::{LevelFile, Look, World, read_level, zone_fields};
pub use problem::Problem;
pub use trial::{Inputs, Place, Trial, read_place, read_trial, write_recorded_trial};
pub use tuning::{TuningFile, edit_tuning, read_tuning, write_tuning};

pub(crate) use level::{PATH_ENDS, zone_names};
pub(crate) use problem::Source;
pub use renamed::RENAMED;
pub(crate) use renamed::renamed;
pub(crate) use table::nearest;
pub(crate) use trial::MOST_TICKS;

/// A file of any kind.
#[derive(Clone, Debug)]
pub enum AnyFile {
    /// A trial, with the files that it names.
    Trial(Box<Trial>),
    /// A level.
    Level(Box<World>),
    /// A tuning.
    Tuning(Box<TuningFile>),
    /// Bindings.
    Bindings(Box<rasant::Bindings>),
}

impl AnyFile {
    /// What kind it is, in a word.
    #[must_use]
    pub fn kind(&self) -> &'static str {
        match self {
            Self::Trial(_) => "trial",
            Self::Level(_) => "level",
            Self::Tuning(_) => "tuning",
            Self::Bindings(_) => "binding file",
        }
    }

    /// What it is called; nothing for bindings.
    #[must_use]
    pub fn title(&self) -> &str {
        match self {
            Self::Trial(trial) => &trial.title,
            Self::Level(world) => match &**world {
                World::Plane(file) => &file.title,
                World::Space(file) => &file.title,
            },
            Self::Tuning(file) => &file.title,
            Self::Bindings(_) => "",
        }
    }
}

/// Reads a file of any kind: which, its keys say.
///
/// # Errors
/// A [`Problem`] with the file, or with those that it names.
pub fn read_any(files: &dyn Files, path: &Path) -> Result<AnyFile, Problem> {
    let source = Source { name: path.display().to_string().into(), text: files.read(path)?.into() };
    let kinds: [&[&str]; 3] =
        [&["level", "script", "tape", "expect"], &trial::PARTS, &["actions", "steer", "look", "opposites"]];
    let kind = table::parse(&source, |mut table| {
        Ok(kinds.iter().position(|keys| keys.iter().any(|key| table.get(key).is_some())))
    })?;
    match kind {
        Some(0) => read_trial(files, path).map(|trial| AnyFile::Trial(Box::new(trial))),
        Some(1) => level::level_from(&source).map(|world| AnyFile::Level(Box::new(world))),
        Some(_) => read_bindings(files, path).map(|bindings| AnyFile::Bindings(Box::new(bindings))),
        None => read_tuning(files, path).map(|file| AnyFile::Tuning(Box::new(file))),
    }
}

/// Where files come from.
pub trait Files {
    /// The whole text of a file.
    ///
    /// # Errors
    /// A [`Problem`] when there is no such file, or it is not UTF-8.
    fn read(&self, path: &Path) -> Result<String, Problem>;
}

/// Files on the disk.
#[derive(Clone, Copy, Debug, Default)]
pub struct OnDisk;

impl Files for OnDisk {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        std::fs::read_to_string(path).map_err(|error| Problem::unreadable(path, &error.to_string()))
    }
}

/// The path of a file that another one names: beside it, unless absolute.
fn beside(file: &Path, named: &str) -> PathBuf {
    file.parent().unwrap_or(Path::new("")).join(named)
}
