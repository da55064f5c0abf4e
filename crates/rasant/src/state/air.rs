//! Being in the air.

use super::{Departure, Span};

/// What a body knows of its time off the ground.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Air {
    /// What took it off its feet, or carried it on last.
    pub by: Departure,
    /// Whether it is on its way up from a jump.
    pub rise: Rise,
    /// How long ago the feet left the ground, or it was put there.
    pub time: Span,
}

/// The way up from a jump.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Rise {
    /// With jump held from the take-off on.
    Held,
    /// With jump let go since.
    Cut,
    /// It is over, or there was none.
    Over,
}

impl Air {
    /// A departure just now.
    #[must_use]
    pub fn left(by: Departure) -> Self {
        Self { by, rise: Rise::Over, time: Span::ZERO }
    }
}
