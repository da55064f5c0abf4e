//! The words of moves, for scripts, expectations, traces and documents.

use crate::state::{Name, Refusal};

/// The words of a move beside its name. Each has 1 to 11 bytes.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Words {
    /// True if it has a mode with its name.
    pub is_mode: bool,
    /// True if that mode begins and ends with the events `move-began` and `move-ended`.
    pub is_announced: bool,
    /// True if it begins maneuvers with its name, whose phases are the events `maneuver-phase`.
    pub is_maneuver: bool,
    /// The gaits of the move for animations, if they are not its name.
    pub gaits: &'static [&'static str],
    /// The kinds of jump that it takes off with: details of the event `jumped`.
    pub jumps: &'static [&'static str],
    /// True if it takes feet off the ground in its name: a detail of the event `left-ground`.
    pub leaves_ground: bool,
    /// What it refuses, and why: details of the event `refused`.
    pub refusals: &'static [Refusal],
}

impl Words {
    /// No word beside its name.
    pub const NONE: Self = Self {
        is_mode: false,
        is_announced: false,
        is_maneuver: false,
        gaits: &[],
        jumps: &[],
        leaves_ground: false,
        refusals: &[],
    };

    /// A move with a mode of its name, which begins and ends with the events `move-began` and
    /// `move-ended`. [`Proposal::of`](super::Proposal::of) makes such a mode.
    pub const MODE: Self = Self { is_mode: true, is_announced: true, ..Self::NONE };

    /// These words, with these gaits.
    #[must_use]
    pub const fn gaits(self, gaits: &'static [&'static str]) -> Self {
        Self { gaits, ..self }
    }

    /// These words, with these kinds of jump.
    #[must_use]
    pub const fn jumps(self, jumps: &'static [&'static str]) -> Self {
        Self { jumps, ..self }
    }

    /// These words, with these refusals.
    #[must_use]
    pub const fn refusals(self, refusals: &'static [Refusal]) -> Self {
        Self { refusals, ..self }
    }

    /// These words, for a move that begins maneuvers with its name.
    #[must_use]
    pub const fn maneuver(self) -> Self {
        Self { is_maneuver: true, ..self }
    }

    /// These words, for a move that takes feet off the ground in its name.
    #[must_use]
    pub const fn leaving_ground(self) -> Self {
        Self { leaves_ground: true, ..self }
    }
}

/// A move of a list with its words.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct MoveWords {
    /// Its name.
    pub name: Name,
    /// Its other words.
    pub words: Words,
}
