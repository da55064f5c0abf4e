//! How high the hull is.

/// How much of its own height the hull has.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Posture {
    /// How much lower than its own height the hull is, in metres.
    pub lowered: f32,
    /// The height that the move in charge asks for in the next tick, in metres; 0 for none.
    pub asked_height: f32,
}
