//! What is only drawn of a body.

use super::{Gait, Span};

/// What an animation shows of a body. It has no effect on the motion.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Gait, State};
///
/// let body = State::at(Vec2::ZERO);
/// match body.animation.gait {
///     Gait::Walk | Gait::Run => println!("feet at {:.2} of the cycle", body.animation.stride),
///     gait => println!("{gait} for {:.2} s", body.animation.gait_age.seconds()),
/// }
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Animation {
    /// The gait to show.
    pub gait: Gait,
    /// The time since the gait began.
    pub gait_age: Span,
    /// The distance walked in the current walking cycle, in metres: from 0 up to twice
    /// `walk.stride`, with a footfall at each multiple of it.
    pub stride: f32,
    /// The spin of a jump, in radians; 0 when the body is upright.
    pub spin: f32,
    /// The height above its feet at which the body is drawn, in metres (below 0 under them). It
    /// makes the drawn body follow steps smoothly.
    pub step_offset: f32,
    /// How far a ball has rolled, in radians from −π to π: to the right in a side view, else toward
    /// its facing.
    pub rolled: f32,
}

impl Animation {
    /// A falling body.
    pub(super) const FALLING: Self = Self {
        gait: Gait::Fall,
        gait_age: Span::ZERO,
        stride: 0.0,
        spin: 0.0,
        step_offset: 0.0,
        rolled: 0.0,
    };
}
