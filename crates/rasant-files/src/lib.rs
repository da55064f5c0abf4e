//! Tunings, levels, bindings and animations of models as files, read strictly: what a game ships.
//!
//! Levels are TOML, SVG, glTF 2.0 or OBJ; the others are TOML. Whatever is wrong is a [`Problem`] that
//! says in which file, where in it, what was found and what was expected. An unknown key names the
//! nearest known one.
//!
//! ```
//! use rasant_files::{Files, Problem, World, read_level};
//! use std::path::Path;
//!
//! /// A game's own archive.
//! struct Archive;
//!
//! impl Files for Archive {
//!     fn read(&self, path: &Path) -> Result<String, Problem> {
//!         match path.to_str() {
//!             Some("yard.toml") => Ok("[[piece]]\nblock = [[0, -1], [9, 0]]\n".to_owned()),
//!             _ => Err(Problem::unreadable(path, "it is not in the archive")),
//!         }
//!     }
//! }
//!
//! let World::Plane(yard) = read_level(&Archive, "yard.toml".as_ref())? else { unreachable!() };
//! assert_eq!(yard.level.len(), 1);
//! # Ok::<(), Problem>(())
//! ```
//!
//! # Features
//! `drawings` reads and writes SVG, `models` reads glTF, OBJ and the animations in models. Both are on
//! by default. Without them a level that names such a file is a [`Problem`] that says so.

#![warn(missing_debug_implementations)]
// What only drawings or models use is there without them, too.
#![cfg_attr(not(all(feature = "drawings", feature = "models")), allow(dead_code, unused_imports))]

mod attached;
mod bindings;
mod draft;
#[cfg(feature = "drawings")]
mod drawing;
mod entry;
mod game;
pub mod geometry;
mod level;
mod making;
mod numbers;
mod problem;
mod renamed;
mod start;
pub mod table;
mod tiles;
mod tuning;

use std::io::Read;
use std::path::{Path, PathBuf};

pub use bindings::{edit_bindings, read_bindings, write_bindings};
pub use draft::{Change, LevelDraft, Packed, Part, Parts, Way};
#[cfg(feature = "drawings")]
pub use drawing::write_svg;
pub use entry::{Entry, Fields};
pub use game::{Game, base_tuning, game, knobs, set_game};
#[cfg(feature = "models")]
pub use geometry::{RootTrack, read_root_track};
pub use level::{LevelFile, World, level_from, level_source, read_level, zone_fields};
pub use making::{LeftOut, Look, PATH_ENDS, zone_names};
pub use numbers::{HULL_KNOBS, HULL_SHAPES, NumberError, number_of, numbers, shape_name};
pub use problem::{Problem, Source};
pub use renamed::{RENAMED, renamed};
pub use start::{found_start, overlap_at};
pub use table::nearest;
pub use tuning::{TuningFile, edit_tuning, read_tuning, tuning_of, write_tuning};

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
#[must_use]
pub fn beside(file: &Path, named: &str) -> PathBuf {
    file.parent().unwrap_or(Path::new("")).join(named)
}
