//! Walls and ceilings that a body touches.

use crate::level::{PieceId, SurfaceId};
use crate::thresholds::walls;

/// The walls and ceilings that a body touches, and the walls that it touched last.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-5.0, -1.0), Vec2::new(5.0, 0.0))?);
/// builder.add(Piece::block(Vec2::new(1.0, 0.0), Vec2::new(2.0, 3.0))?);
/// let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
/// for _ in 0..60 {
///     body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
/// }
/// assert!(body.state().touching.wall);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Touching<V> {
    /// True if it touched a wall in the last tick.
    pub wall: bool,
    /// True if its head touched an underside in the last tick.
    pub ceiling: bool,
    /// The wall that it is beside, or was last beside since its feet stood.
    pub beside: Option<WallTouch<V>>,
    /// The last jump off a wall since then.
    pub kick: Option<WallKick<V>>,
    /// The time for which the body still counts as at the wall although it does not touch it, in
    /// tenths of a millisecond.
    pub(crate) lingers: u16,
}

impl<V> Touching<V> {
    /// No wall and no ceiling.
    pub const NOTHING: Self = Self { wall: false, ceiling: false, beside: None, kick: None, lingers: 0 };

    /// Returns true from [`WallMet`](crate::Event::WallMet) to [`WallLeft`](crate::Event::WallLeft).
    ///
    /// A body that is steered along a wall or pushes something loses contact for single ticks. It is at
    /// the wall until it is steered away or has not touched it for 0.06 s.
    #[must_use]
    pub const fn is_at_wall(&self) -> bool {
        self.wall || self.lingers > 0
    }

    /// Counts a tick of `dt` seconds without contact, or begins to count after the last contact.
    pub(crate) fn linger(&mut self, had_contact: bool, dt: f32) {
        self.lingers = if had_contact {
            walls::LINGERS
        } else {
            let passed = (dt * 1e4).clamp(1.0, f32::from(u16::MAX)) as u16;
            self.lingers.saturating_sub(passed)
        };
    }
}

/// The wall that a body is beside, or was last beside.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct WallTouch<V> {
    /// From the wall to the body, of length 1, in the world.
    pub normal: V,
    /// The surface of the wall.
    pub surface: SurfaceId,
    /// The piece of the wall.
    pub piece: PieceId,
    /// Seconds since the body was beside it.
    pub away_for: f32,
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) niche: Niche,
}

/// The last jump off a wall since the feet stood.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct WallKick<V> {
    /// From that wall to the body, of length 1, in the world.
    pub normal: V,
    /// The number of jumps in a row off walls that face that direction.
    pub in_a_row: u8,
    /// Seconds for which steering back to it is weak.
    pub back_for: f32,
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) niche: Niche,
}

/// Provides a niche for `Option` of a struct that has padding: with it, the option is no larger
/// than the struct.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Niche {
    #[default]
    Used,
    _Unused,
}
