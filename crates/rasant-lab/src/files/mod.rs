//! Tunings, levels and trials as TOML, read strictly.
//!
//! Whatever is wrong is a [`Problem`] that says in which file, where in it,
//! what was found and what was expected. An unknown key names the nearest
//! known one.

mod attached;
mod bindings;
mod draft;
mod drawing;
mod geometry;
mod level;
mod making;
mod numbers;
mod problem;
mod renamed;
mod start;
mod table;
mod tiles;
mod trial;
mod tuning;
mod words;

use std::io::Read;
use std::path::{Path, PathBuf};

pub use bindings::{edit_bindings, read_bindings, write_bindings};
pub use draft::{Change, Entry, Fields, LevelDraft, Packed, Part, Parts, Way};
pub use drawing::write_svg;
pub use geometry::{RootTrack, read_root_track};
pub use level::{LevelFile, World, read_level, zone_fields};
pub use making::{LeftOut, Look};
pub use numbers::{HULL_KNOBS, HULL_SHAPES, NumberError, number_of, numbers, shape_name};
pub use problem::Problem;
pub use trial::{Inputs, Place, Trial, read_place, read_trial, write_recorded_trial};
pub use tuning::{TuningFile, edit_tuning, read_tuning, write_tuning};

pub(crate) use making::{PATH_ENDS, zone_names};
pub(crate) use problem::Source;
pub use renamed::RENAMED;
pub(crate) use renamed::renamed;
pub(crate) use start::overlap_at;
pub use table::nearest;
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
    let source = level::level_source(files, path)?;
    let kinds: [&[&str]; 3] =
        [&["level", "script", "tape", "expect"], &trial::PARTS, &["actions", "steer", "look", "opposites"]];
    let kind = table::parse(&source, |mut table| {
        Ok(kinds.iter().position(|keys| keys.iter().any(|key| table.get(key).is_some())))
    })?;
    match kind {
        Some(0) => read_trial(files, path).map(|trial| AnyFile::Trial(Box::new(trial))),
        Some(1) => level::level_from(&source, files, path).map(|world| AnyFile::Level(Box::new(world))),
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

    /// All bytes of a file: files that are no text, as models, need more than is given here.
    ///
    /// # Errors
    /// A [`Problem`] when there is no such file.
    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        self.read(path).map(String::into_bytes)
    }
}

/// Bytes of a file at most.
const MOST_BYTES: u64 = 256 << 20;
/// Bytes of a file that is text at most: what is read of it is some forty times as large.
const MOST_TEXT: u64 = 32 << 20;

/// Files on the disk.
#[derive(Clone, Copy, Debug, Default)]
pub struct OnDisk;

impl Files for OnDisk {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let bytes = read_at_most(MOST_TEXT, path)?;
        let no_text = |error: std::string::FromUtf8Error| {
            let at = error.utf8_error().valid_up_to();
            Problem::unreadable(path, &format!("byte {at} is of no UTF-8 text"))
        };
        String::from_utf8(bytes).map_err(no_text)
    }

    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        read_at_most(MOST_BYTES, path)
    }
}

fn read_at_most(most: u64, path: &Path) -> Result<Vec<u8>, Problem> {
    let failed = |error: std::io::Error| Problem::unreadable(path, &error.to_string());
    let mut bytes = Vec::new();
    let file = std::fs::File::open(path).map_err(failed)?;
    file.take(most + 1).read_to_end(&mut bytes).map_err(failed)?;
    if bytes.len() as u64 > most {
        let most = most >> 20;
        return Err(Problem::unreadable(path, "it is too long").expecting(format!("at most {most} MiB")));
    }
    Ok(bytes)
}

/// The path of a file that another one names: beside it, unless absolute.
fn beside(file: &Path, named: &str) -> PathBuf {
    file.parent().unwrap_or(Path::new("")).join(named)
}
