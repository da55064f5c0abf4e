//! What a body knows between two hops.

/// Hops that are yet to come, or not to be.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Hops<V> {
    /// The direction of one asked for during another, in the body's frame.
    pub waits: Option<V>,
    /// Whether nothing has been steered since the hop under way began: the same way
    /// again is then another hop.
    pub let_go: bool,
    /// The direction of one that was refused and is steered still, in the body's frame.
    pub refused: Option<V>,
}

impl<V> Default for Hops<V> {
    fn default() -> Self {
        Self { waits: None, let_go: false, refused: None }
    }
}
