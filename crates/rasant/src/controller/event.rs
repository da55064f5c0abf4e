//! What happened in a tick.

use smallvec::SmallVec;

use crate::level::{PieceId, SurfaceId};

/// Something that happened in a tick, for sounds, animations and measures.
#[derive(Clone, Copy, Debug, PartialEq)]
pub enum Event<V> {
    /// A jump took off.
    Jumped {
        /// Which jump.
        kind: JumpKind,
    },
    /// The feet left the ground.
    LeftGround {
        /// Why.
        by: Departure,
    },
    /// A rise ended: the exact top, which may lie between two ticks.
    Apex {
        /// Where the underside was.
        position: V,
    },
    /// The feet came down on walkable ground.
    Landed {
        /// The speed downward at the touch, in m/s.
        speed: f32,
        /// What the ground is made of.
        surface: SurfaceId,
        /// Which piece.
        piece: PieceId,
    },
    /// The head met an underside on the way up.
    BumpedHead {
        /// The speed upward at the touch, in m/s.
        speed: f32,
    },
    /// The body came against a wall that it was not against a tick before.
    WallMet {
        /// From the wall to the body, of length 1.
        normal: V,
        /// The speed into the wall, in m/s.
        speed: f32,
    },
    /// Something holds the body from several sides and leaves no way out.
    Crushed,
}

/// Which jump took off.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum JumpKind {
    /// From firm footing.
    Ground,
    /// Within the coyote time after walking off an edge.
    Late,
    /// In the air.
    Air,
}

impl JumpKind {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Ground => "ground",
            Self::Late => "late",
            Self::Air => "air",
        }
    }
}

/// Why feet left the ground.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
pub enum Departure {
    /// A jump.
    Jump,
    /// The ground ended, or became too steep.
    Edge,
    /// Down through a one-way platform.
    Drop,
}

impl Departure {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Jump => "jump",
            Self::Edge => "edge",
            Self::Drop => "drop",
        }
    }
}

/// The events of one tick, in order.
pub type Events<V> = SmallVec<[Event<V>; 8]>;

impl<V> Event<V> {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(&self) -> &'static str {
        match self {
            Self::Jumped { .. } => "jumped",
            Self::LeftGround { .. } => "left-ground",
            Self::Apex { .. } => "apex",
            Self::Landed { .. } => "landed",
            Self::BumpedHead { .. } => "bumped-head",
            Self::WallMet { .. } => "wall-met",
            Self::Crushed => "crushed",
        }
    }
}
