//! What a body has left to dash with.

use crate::tuning::Tuning;

use super::{Span, whole};

/// The store of dashes.
#[derive(Clone, Copy, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Dashes {
    /// How many of `dash.charges` are used up.
    pub spent: u8,
    /// How many were made since the feet left the ground.
    pub airborne: u8,
    /// How long ago the next began to come back.
    pub recharged_for: Span,
}

impl Dashes {
    /// How many are left.
    #[must_use]
    pub fn left(&self, tuning: &Tuning) -> u8 {
        whole(tuning.dash.charges).saturating_sub(self.spent)
    }
}
