//! Rasant's lab: movement measured instead of guessed.
//!
//! A [`Trial`] is a level, a tuning, a start and a script of inputs. [`run()`]
//! simulates it and gives a [`Trace`] of what happened, tick by tick. All of it
//! is computation: the lab prints nothing, and reads files only through
//! [`Files`].
//!
//! A game may ship it for its readers alone: [`read_level`], [`read_tuning`],
//! [`read_bindings`] and [`read_root_track`] give it the same levels, numbers, keys and
//! animations that they were tuned with, from wherever its files are.
//!
//! ```
//! use rasant_lab::{Files, Problem, World, read_level};
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

pub mod compare;
pub mod expect;
pub mod files;
pub mod fit;
mod game;
pub mod live;
pub mod rates;
pub mod run;
pub mod schema;
pub mod script;
mod shard;
pub mod sheet;
pub mod survey;
pub mod trace;
pub mod vary;
mod vocabulary;

pub use expect::{Expectation, Finding};
pub use files::{
    Files, OnDisk, Problem, Trial, World, read_bindings, read_level, read_root_track, read_trial, read_tuning,
};
pub use game::{Game, OwnFigure, base_tuning, knobs, set_game};
pub use run::{GaitTimes, Run, Summary, run, run_at};
pub use script::{Circumstance, Script};
pub use shard::{Shard, ShardError};
pub use sheet::Sheet;
pub use trace::{EventRow, Row, Trace};
pub use vocabulary::Vocabulary;

/// The knob whose path is nearest to a word that is none.
#[must_use]
pub fn nearest_knob(word: &str) -> Option<&'static str> {
    files::nearest(word, files::numbers().into_iter().map(|knob| knob.path).chain(["hull.shape"]))
}
