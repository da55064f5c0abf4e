//! Rasant's lab: movement measured instead of guessed.
//!
//! A [`Trial`] is a level, a tuning, a start and a script of inputs. [`run()`]
//! simulates it and gives a [`Trace`] of what happened, tick by tick. All of it
//! is computation: the lab prints nothing, and reads files only through
//! [`Files`].
//!
//! Files are read by the crate `rasant-files`, which a game may ship without the lab.
//!
//! In layers, from below to above: traces and the words of moves; scripts, expectations and trials,
//! which are read from files; [`run()`], which plays a trial; what is measured ([`sheet`], [`compare`],
//! [`vary`], [`fit`], [`rates`], [`survey`]); and [`live`], a session that is played.

mod any_file;
pub mod compare;
pub mod expect;
pub mod fit;
mod game;
pub mod live;
mod played;
pub mod rates;
pub mod run;
pub mod schema;
pub mod script;
mod shard;
pub mod sheet;
pub mod survey;
pub mod trace;
pub mod trial;
pub mod vary;
mod vocabulary;

pub use expect::{Expectation, Finding};
pub use game::{Game, OwnFigure, set_game};
pub use played::{GaitTimes, Run, Summary};
pub use rasant_files::{
    Files, OnDisk, Problem, World, base_tuning, knobs, read_bindings, read_level, read_root_track,
    read_tuning,
};
pub use run::{run, run_at};
pub use script::{Circumstance, Script};
pub use shard::{Shard, ShardError};
pub use sheet::Sheet;
pub use trace::{EventRow, Row, Trace};
pub use trial::{Trial, read_trial};
pub use vocabulary::Vocabulary;

/// Files of all kinds, trials among them: those of [`rasant_files`], and what the lab adds.
pub mod files {
    pub use crate::any_file::{AnyFile, read_any};
    pub use crate::trial::{Inputs, Place, Trial, read_place, read_trial, write_recorded_trial};
    pub use rasant_files::*;
}

/// The knob whose path is nearest to a word that is none.
#[must_use]
pub fn nearest_knob(word: &str) -> Option<&'static str> {
    files::nearest(word, files::numbers().into_iter().map(|knob| knob.path).chain(["hull.shape"]))
}
