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
