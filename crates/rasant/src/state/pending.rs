//! What the next tick has to apply.

use crate::level::{PieceId, ZoneId};
use crate::space::Vector;

use super::Name;

/// What the host did to a body since the last tick. The next tick applies it and emits its events.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pending<V> {
    /// The displacement by which the host leads the body, in the world, in metres, if
    /// [`Changes::LED`] is set.
    pub displacement: V,
    /// What ended or began since the last tick.
    pub changes: Changes,
    /// The move or the maneuver that was in charge and ended.
    pub ended: Option<Name>,
    /// The ladder that was released.
    pub ladder: Option<ZoneId>,
}

/// What the host did between two ticks: a set.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Changes(u8);

bitflags::bitflags! {
    impl Changes: u8 {
        /// The host leads the body in the next tick.
        const LED = 1;
        /// A maneuver ended, not another move.
        const MANEUVER_ENDED = 1 << 1;
        /// The feet left the ground.
        const THROWN = 1 << 2;
        /// The running maneuver was begun.
        const BEGUN = 1 << 3;
        /// The body was against a wall.
        const OFF_THE_WALL = 1 << 4;
        /// It crouched.
        const STOOD_UP = 1 << 5;
        /// It was returned to its checkpoint.
        const RESPAWNED = 1 << 6;
        /// It was teleported.
        const TELEPORTED = 1 << 7;
    }
}

impl<V: Vector> Pending<V> {
    /// Nothing.
    pub(crate) fn none() -> Self {
        Self { displacement: V::ZERO, changes: Changes::empty(), ended: None, ladder: None }
    }

    /// The displacement by which the host leads the body in the next tick, in the world, in metres.
    #[must_use]
    pub fn root_motion(&self) -> Option<V> {
        self.changes.contains(Changes::LED).then_some(self.displacement)
    }

    /// Returns true if there are no events to emit.
    #[must_use]
    pub fn is_quiet(&self) -> bool {
        (self.changes - Changes::LED).is_empty() && self.ended.is_none() && self.ladder.is_none()
    }

    /// The same without what events are emitted for.
    pub(crate) fn without_events(&self) -> Self {
        Self { displacement: self.displacement, changes: self.changes & Changes::LED, ..Self::none() }
    }

    /// Records that a maneuver ended. One that began since the last tick has no event yet, and
    /// needs none.
    pub(crate) fn end_maneuver(&mut self, name: Name) {
        if self.changes.contains(Changes::BEGUN) {
            self.changes -= Changes::BEGUN;
        } else {
            self.changes |= Changes::MANEUVER_ENDED;
            self.ended = Some(name);
        }
    }

    /// Records that a move ended.
    pub(crate) fn end_move(&mut self, name: Option<Name>) {
        self.ended = self.ended.or(name);
    }
}

/// What one tick stores for the next.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CarryOver {
    /// The one-way platform that the body drops through, if any.
    pub(crate) passed: PieceId,
    pub(crate) is_passing: bool,
    /// How far a step has put the feet ahead of the distance walked, in metres. They walk that much
    /// less afterwards.
    pub step_lead: f32,
    /// The part of the time of all ticks that no [`Span`](super::Span) has counted yet, in units of
    /// a span's resolution.
    pub uncounted: f32,
    /// What crushed the body, until it is free.
    pub crushed: Option<Crushed>,
    /// True if the body entered a checkpoint without footing: the next firm ground that does not
    /// move becomes the checkpoint.
    pub checkpoint_pending: bool,
}

impl CarryOver {
    /// The one-way platform that the body drops through.
    #[must_use]
    pub fn passing(&self) -> Option<PieceId> {
        self.is_passing.then_some(self.passed)
    }

    pub(crate) fn set_passing(&mut self, piece: Option<PieceId>) {
        (self.passed, self.is_passing) = (piece.unwrap_or_default(), piece.is_some());
    }
}

/// What has crushed a body.
#[derive(Clone, Copy, Debug, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Crushed {
    /// Something that does not move: the body was put there.
    Stuck,
    /// Something that moves. The body is held where it is until that has left.
    Held,
}
