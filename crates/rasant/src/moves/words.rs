//! The words of moves, for scripts, expectations, traces and documents.

use crate::state::{Name, Refusal};

/// What a move says beside its name. Each word has 1 to 11 bytes.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub struct Words {
    /// Whether a body can be in it for a while: a mode of its name.
    pub is_mode: bool,
    /// Whether that mode begins and ends with the events `move-began` and `move-ended`.
    pub is_announced: bool,
    /// Whether it begins maneuvers of its name, whose phases are the events `maneuver-phase`.
    pub is_maneuver: bool,
    /// What an animation shows of it, where that is another word than its name.
    pub gaits: &'static [&'static str],
    /// The kinds of jump that it takes off with: the event `jumped`.
    pub jumps: &'static [&'static str],
    /// Whether it takes feet off the ground in its name: the event `left-ground`.
    pub leaves_ground: bool,
    /// What it refuses, and why: the event `refused`.
    pub refusals: &'static [Refusal],
}

impl Words {
    /// Nothing beside its name.
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
    /// `move-ended`. This is what [`Proposal::of`](super::Proposal::of) does.
    pub const MODE: Self = Self { is_mode: true, is_announced: true, ..Self::NONE };

    /// These words, and other gaits.
    #[must_use]
    pub const fn gaits(self, gaits: &'static [&'static str]) -> Self {
        Self { gaits, ..self }
    }

    /// These words, and kinds of jump.
    #[must_use]
    pub const fn jumps(self, jumps: &'static [&'static str]) -> Self {
        Self { jumps, ..self }
    }

    /// These words, and what is refused.
    #[must_use]
    pub const fn refusals(self, refusals: &'static [Refusal]) -> Self {
        Self { refusals, ..self }
    }

    /// These words, of a move that begins maneuvers of its name.
    #[must_use]
    pub const fn maneuver(self) -> Self {
        Self { is_maneuver: true, ..self }
    }

    /// These words, of a move that takes feet off the ground in its name.
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
    /// The others.
    pub words: Words,
}
