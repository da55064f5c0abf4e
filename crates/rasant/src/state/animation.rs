//! What is only drawn of a body.

use super::{Gait, Span};

/// What an animation shows of a body. No tick moves the body differently for it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Animation {
    /// What an animation should show.
    pub gait: Gait,
    /// How long ago the gait began.
    pub gait_age: Span,
    /// The distance walked in the present walking cycle, in metres: from 0 up to twice
    /// `walk.stride`, with a footfall at each multiple of it.
    pub stride: f32,
    /// The spin of a jump, in radians; 0 when the body is flat.
    pub spin: f32,
    /// How far above its feet the body is drawn, in metres, below 0 under them: what is drawn
    /// follows steps softly.
    pub step_offset: f32,
    /// How far a ball has rolled, in radians from −π to π: to the right in a side view, else
    /// toward where it faces.
    pub rolled: f32,
}

impl Animation {
    /// A body that falls.
    pub(super) const FALLING: Self = Self {
        gait: Gait::Fall,
        gait_age: Span::ZERO,
        stride: 0.0,
        spin: 0.0,
        step_offset: 0.0,
        rolled: 0.0,
    };
}
