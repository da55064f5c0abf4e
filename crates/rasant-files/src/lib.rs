//! Tunings, levels, bindings and animations of models as files, read strictly. A game can ship this
//! crate.
//!
//! Levels are TOML, SVG, glTF 2.0 or OBJ; the others are TOML. Every error is a [`Problem`] with
//! the file, the position in it, what was found and what was expected. An unknown key names the
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
//! `drawings` reads and writes SVG. `models` reads glTF, OBJ and the animations in models. Both are
//! on by default. Without them, a level that refers to such a file is a [`Problem`] that says so.
//! `serde` saves the changing part of [`Mechanisms`].

#![warn(missing_debug_implementations)]
// Helpers that only drawings or models use are compiled without these features, too.
#![cfg_attr(not(all(feature = "drawings", feature = "models")), allow(dead_code, unused_imports))]

mod assembly;
mod attached;
mod axes;
mod bindings;
mod chunks;
mod draft;
#[cfg(feature = "drawings")]
mod drawing;
mod entry;
mod game;
pub mod geometry;
mod level;
mod mechanisms;
mod numbers;
mod problem;
mod renamed;
mod start;
pub mod table;
mod tiles;
mod tuning;
mod watched;

use std::io::Read;
use std::path::{Path, PathBuf};

pub use assembly::{EASINGS, LeftOut, Look, PATH_ENDS};
pub use axes::{OtherWorld, UpAxis, unit_in, unit_of};
pub use bindings::{edit_bindings, read_bindings, write_bindings};
pub use chunks::PieceEdit;
pub use draft::{Change, LevelDraft, Packed, Part, Parts, PathLeg};
#[cfg(feature = "drawings")]
pub use drawing::{not_in_svg, write_svg};
pub use entry::{Entry, Fields};
pub use game::{Game, GameFiles};
#[cfg(feature = "models")]
pub use geometry::{RootTrack, read_root_track};
pub use level::{LevelFile, World, level_from, level_source, read_level, zone_fields};
#[cfg(feature = "serde")]
pub use mechanisms::SavedMechanisms;
pub use mechanisms::{Deed, Mechanisms};
pub use numbers::{HULL_KNOBS, HULL_SHAPES, NumberError, shape_name};
pub use problem::{Problem, Source};
pub use renamed::{RENAMED, renamed};
pub use start::{found_start, overlap_at};
pub use table::nearest;
pub use tuning::{TuningFile, edit_tuning, hull_of, read_tuning, tuning_of, write_tuning};
pub use watched::Watched;

/// The source of files, with what a game adds to them.
pub trait Files {
    /// Reads a file as text.
    ///
    /// # Errors
    /// A [`Problem`] if there is no such file, or it is not UTF-8.
    fn read(&self, path: &Path) -> Result<String, Problem>;

    /// Reads a file as bytes. Must be implemented for files that are not text, such as models.
    ///
    /// # Errors
    /// A [`Problem`] if there is no such file.
    fn read_bytes(&self, path: &Path) -> Result<Vec<u8>, Problem> {
        self.read(path).map(String::into_bytes)
    }

    /// What the game adds to files. Nothing by default; see [`GameFiles`].
    fn game(&self) -> Game {
        Game::default()
    }
}

/// The maximum size of a file, in bytes.
const MOST_BYTES: u64 = 256 << 20;
/// The maximum size of a text file, in bytes. Its parsed form is about forty times as large.
const MOST_TEXT: u64 = 32 << 20;

/// Files on the disk.
#[derive(Clone, Copy, Debug, Default)]
pub struct OnDisk;

impl Files for OnDisk {
    fn read(&self, path: &Path) -> Result<String, Problem> {
        let bytes = read_at_most(MOST_TEXT, path)?;
        let no_text = |error: std::string::FromUtf8Error| {
            let at = error.utf8_error().valid_up_to();
            Problem::unreadable(path, &format!("byte {at} is not UTF-8 text"))
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

/// The path of a file that another file refers to: relative to that file, unless absolute.
#[must_use]
pub fn beside(file: &Path, named: &str) -> PathBuf {
    file.parent().unwrap_or(Path::new("")).join(named)
}
