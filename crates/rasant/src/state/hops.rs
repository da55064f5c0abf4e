//! What a body knows between two hops.

use crate::space::Vector;

/// A direction along one of the screen's axes.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Heading {
    /// Toward +x.
    Right,
    /// Toward −x.
    Left,
    /// Up the screen; −z in three dimensions.
    Forward,
    /// Down the screen.
    Back,
}

impl Heading {
    /// It as a vector of length 1.
    #[must_use]
    pub fn vector<V: Vector>(self) -> V {
        match self {
            Self::Right => V::RIGHT,
            Self::Left => -V::RIGHT,
            Self::Forward => V::FORWARD,
            Self::Back => -V::FORWARD,
        }
    }
}

/// Hops that are yet to come, or not to be.
#[derive(Clone, Copy, Debug, Default, PartialEq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Hops {
    /// The direction of one asked for during another.
    pub waits: Option<Heading>,
    /// Whether nothing has been steered since the hop under way began: the same way
    /// again is then another hop.
    pub let_go: bool,
    /// The direction of one that was refused and is steered still.
    pub refused: Option<Heading>,
}
