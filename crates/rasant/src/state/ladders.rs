//! What a body knows between two ladders.

/// How long none is taken.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct LadderRest {
    /// Seconds for which it takes hold of no ladder.
    pub left: f32,
}
