//! Walls and ceilings that a body touches.

use crate::level::SurfaceId;

/// The walls and ceilings that a body touches, and the walls that it touched last.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Touching<V> {
    /// Whether it came against a wall in the last tick.
    pub wall: bool,
    /// Whether its head came against an underside in the last tick.
    pub ceiling: bool,
    /// The wall that it is beside, or was last since its feet stood.
    pub beside: Option<WallTouch<V>>,
    /// The last jump off a wall since then.
    pub kick: Option<WallKick<V>>,
}

impl<V> Touching<V> {
    /// It touches nothing.
    pub const NOTHING: Self = Self { wall: false, ceiling: false, beside: None, kick: None };
}

/// The wall that a body is beside, or was last.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct WallTouch<V> {
    /// From the wall to the body, of length 1, in the world.
    pub normal: V,
    /// What the wall is made of.
    pub surface: SurfaceId,
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
    /// Jumps in a row off walls that face that way.
    pub in_a_row: u8,
    /// Seconds for which steering back to it is weak.
    pub back_for: f32,
    #[cfg_attr(feature = "serde", serde(skip))]
    pub(crate) niche: Niche,
}

/// Room for the tag of an `Option` around a struct that has padding: with it, the option is no larger
/// than the struct.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
pub(crate) enum Niche {
    #[default]
    Used,
    _Unused,
}
