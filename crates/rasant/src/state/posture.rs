//! The height of the hull.

/// How the height of the hull differs from its own.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Posture {
    /// How much lower than its own height the hull is, in metres.
    pub lowered: f32,
    /// The height that the move in charge requests for the next tick, in metres; 0 for none.
    pub target_height: f32,
}
