//! Rasant's lab: measures movement.
//!
//! A [`Trial`] is a level, a tuning, a start and a script of inputs. [`run()`] simulates it and
//! returns a [`Trace`] of what happened, tick by tick. The lab only computes: it prints nothing,
//! and reads files only through [`Files`].
//!
//! The crate `rasant-files`, which a game can ship without the lab, reads the files.
//!
//! The layers, from the lowest to the highest: traces and the words of moves; scripts, expectations
//! and trials, which are read from files; [`run()`], which simulates a trial; measures ([`sheet`],
//! [`compare`], [`vary`], [`fit`], [`rates`], [`survey`]); and [`live`], a session that is played
//! by hand.

mod any_file;
mod cast;
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
pub use game::Game;
pub use played::{GaitTimes, Run, Summary};
pub use rasant_files::{
    Files, OnDisk, Problem, World, read_bindings, read_level, read_root_track, read_tuning,
};
pub use run::{run, run_at};
pub use script::{Circumstance, Script};
pub use shard::{Shard, ShardError};
pub use sheet::{OwnFigure, Sheet};
pub use trace::{EventRow, Row, Trace};
pub use trial::{Trial, read_trial};
pub use vocabulary::Vocabulary;

/// Files of all kinds: those of [`rasant_files`], and trials.
pub mod files {
    pub use crate::any_file::{AnyFile, read_any};
    pub use crate::trial::{
        Inputs, Meets, OtherBody, Place, Trial, read_place, read_trial, write_recorded_trial,
    };
    pub use rasant_files::*;
}
