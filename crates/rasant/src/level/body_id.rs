//! Ids of bodies that other bodies meet.

use super::carrier::CarrierId;
use super::piece::PieceId;

/// The id of a body in a [`Crowd`](crate::crowd::Crowd). It stays the same while the body is in the
/// crowd. It is used again only after 65,535 other bodies have been in the same place.
///
/// Other bodies meet a body as a piece: events and the state name it by a [`PieceId`], from which
/// [`PieceId::body`] returns the id.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash, PartialOrd, Ord)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct BodyId(u32);

/// The bit that tells the pieces of bodies from those of levels.
const PIECE: u32 = 1 << 31;
/// The bit that tells the carriers that are bodies from those of levels.
const CARRIER: u16 = 1 << 15;
/// The number of bits for the place in the crowd.
const PLACE_BITS: u32 = 15;

impl BodyId {
    /// The number of bodies that fit into a crowd.
    pub const MAX: usize = 1 << PLACE_BITS;

    /// An id for a body that is in no crowd, for [`WithBodies`](crate::crowd::WithBodies). `None` for
    /// numbers from [`Self::MAX`] on.
    #[must_use]
    pub fn numbered(number: u16) -> Option<Self> {
        (usize::from(number) < Self::MAX).then(|| Self::new(number, 0))
    }

    pub(crate) fn new(place: u16, generation: u16) -> Self {
        Self(u32::from(generation) << PLACE_BITS | u32::from(place))
    }

    /// The place in the crowd.
    pub(crate) fn place(self) -> u16 {
        (self.0 & (Self::MAX as u32 - 1)) as u16
    }

    /// The piece as which others meet the body.
    #[must_use]
    pub fn piece(self) -> PieceId {
        PieceId(PIECE | self.0)
    }

    /// The carrier as which others ride on the body.
    pub(crate) fn carrier(self) -> CarrierId {
        CarrierId(CARRIER | self.place())
    }
}

impl PieceId {
    /// The body, if this is one and not a piece of a level.
    ///
    /// ```
    /// use rasant::PieceId;
    ///
    /// assert_eq!(PieceId(3).body(), None);
    /// ```
    #[must_use]
    pub fn body(self) -> Option<BodyId> {
        (self.0 & PIECE != 0).then_some(BodyId(self.0 & !PIECE))
    }
}

impl CarrierId {
    /// The place in the crowd of the body that is this carrier.
    pub(crate) fn body_place(self) -> Option<u16> {
        (self.0 & CARRIER != 0).then_some(self.0 & !CARRIER)
    }
}
