//! Files whose kind is found out from their keys.

use std::path::Path;

use rasant_files::table::parse;
use rasant_files::{Files, Problem, TuningFile, World, level_from, level_source, read_bindings, read_tuning};

use crate::trial::{PARTS, Trial, read_trial};

/// A file of any kind.
#[derive(Clone, Debug)]
pub enum AnyFile {
    /// A trial, with the files that it refers to.
    Trial(Box<Trial>),
    /// A level.
    Level(Box<World>),
    /// A tuning.
    Tuning(Box<TuningFile>),
    /// Bindings.
    Bindings(Box<rasant::Bindings>),
}

impl AnyFile {
    /// The kind, in a word.
    #[must_use]
    pub fn kind(&self) -> &'static str {
        match self {
            Self::Trial(_) => "trial",
            Self::Level(_) => "level",
            Self::Tuning(_) => "tuning",
            Self::Bindings(_) => "binding file",
        }
    }

    /// The title; empty for bindings.
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

/// Reads a file of any kind. Its keys tell the kind.
///
/// # Errors
/// A [`Problem`] with the file, or with those that it refers to.
pub fn read_any(files: &dyn Files, path: &Path) -> Result<AnyFile, Problem> {
    let source = level_source(files, path)?;
    let kinds: [&[&str]; 3] =
        [&["level", "script", "tape", "expect"], &PARTS, &["actions", "steer", "look", "opposites"]];
    let kind = parse(&source, |mut table| {
        Ok(kinds.iter().position(|keys| keys.iter().any(|key| table.get(key).is_some())))
    })?;
    match kind {
        Some(0) => read_trial(files, path).map(|trial| AnyFile::Trial(Box::new(trial))),
        Some(1) => level_from(&source, files, path).map(|world| AnyFile::Level(Box::new(world))),
        Some(_) => read_bindings(files, path).map(|bindings| AnyFile::Bindings(Box::new(bindings))),
        None => read_tuning(files, path).map(|file| AnyFile::Tuning(Box::new(file))),
    }
}
