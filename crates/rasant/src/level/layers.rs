//! Layers: which hulls are stopped by which pieces.

/// A set of layers, at most 32.
///
/// A piece is on some layers; a hull has a mask of layers. The piece is solid to the hull where the
/// two sets intersect.
///
/// ```
/// use rasant::{Hull, Layers};
///
/// let glass = Layers::only(5);
/// let ghost = Hull::ball(0.4)?.with_mask(Layers::GROUND); // is not stopped by glass
/// assert!(!ghost.mask().intersects(glass));
/// # Ok::<(), rasant::contact::HullError>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Layers(u32);

bitflags::bitflags! {
    impl Layers: u32 {
        /// The default layer of a piece.
        const GROUND = 1;
        /// The other layers.
        const _ = !0;
    }
}

impl Layers {
    /// No layer: solid to no hull.
    pub const NONE: Self = Self::empty();
    /// Every layer.
    pub const ALL: Self = Self::all();

    /// Layer `index`, 0 to 31. Layer 0 is [`Layers::GROUND`].
    ///
    /// # Panics
    /// If `index` is 32 or more.
    #[must_use]
    pub const fn only(index: u32) -> Self {
        assert!(index < 32, "there are 32 layers, 0 to 31");
        Self(1 << index)
    }

    /// The numbers of the layers in the set, 0 to 31.
    pub fn numbers(self) -> impl Iterator<Item = u32> {
        (0..32).filter(move |number| self.0 >> number & 1 == 1)
    }
}

impl Default for Layers {
    fn default() -> Self {
        Self::GROUND
    }
}
