//! Being in the air.

use super::{Departure, Span};

/// The state of a body in the air.
#[derive(Clone, Copy, Debug, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Air {
    /// What took it off the ground, or carried it on last.
    pub by: Departure,
    /// Whether it is rising from a jump.
    pub rise: Rise,
    /// The time since the feet left the ground, or since it was placed there.
    pub time: Span,
}

/// The rise of a jump.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Rise {
    /// With jump held since the take-off.
    Held,
    /// Jump has been released.
    Cut,
    /// The rise is over, or there was none.
    Over,
}

impl Air {
    /// A departure at this moment.
    #[must_use]
    pub fn left(by: Departure) -> Self {
        Self { by, rise: Rise::Over, time: Span::ZERO }
    }
}
