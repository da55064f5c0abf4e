//! Rasant's lab: movement measured instead of guessed.
//!
//! A [`Trial`] is a level, a tuning, a start and a script of inputs. [`run()`]
//! simulates it and gives a [`Trace`] of what happened, tick by tick. All of it
//! is computation: the lab prints nothing, and reads files only through
//! [`Files`].

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

pub use expect::{Expectation, Finding};
pub use files::{Files, OnDisk, Problem, Trial, World, read_trial};
pub use game::{Game, OwnFigure, base_tuning, knobs, set_game};
pub use run::{GaitTimes, Run, Summary, run, run_at};
pub use script::{Circumstance, Script};
pub use shard::{Shard, ShardError};
pub use sheet::Sheet;
pub use trace::{EventRow, Row, Trace};

/// The knob whose path is nearest to a word that is none.
#[must_use]
pub fn nearest_knob(word: &str) -> Option<&'static str> {
    files::nearest(word, knobs().into_iter().map(|knob| knob.path))
}
