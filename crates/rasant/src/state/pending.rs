//! What the next tick has to take in.

use crate::level::{PieceId, ZoneId};
use crate::space::Vector;

use super::Name;

/// What the host did to a body since the last tick. The next tick carries it out and emits its
/// events.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pending<V> {
    /// The displacement that the host leads the body by, in the world, in metres, if
    /// [`Changes::LED`] is among the changes.
    pub displacement: V,
    /// What has ended or begun since the last tick.
    pub changes: Changes,
    /// The move or the maneuver that was in charge and has ended.
    pub ended: Option<Name>,
    /// The ladder that was let go of.
    pub ladder: Option<ZoneId>,
}

/// What the host has done between two ticks: a set.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Changes(u8);

bitflags::bitflags! {
    impl Changes: u8 {
        /// The host leads the body in the next tick.
        const LED = 1;
        /// What has ended is a maneuver.
        const MANEUVER_ENDED = 1 << 1;
        /// The feet left the ground.
        const THROWN = 1 << 2;
        /// The maneuver under way was begun.
        const BEGUN = 1 << 3;
        /// The body was against a wall.
        const OFF_THE_WALL = 1 << 4;
        /// It crouched.
        const STOOD_UP = 1 << 5;
        /// It was put back at its checkpoint.
        const RESPAWNED = 1 << 6;
    }
}

impl<V: Vector> Pending<V> {
    /// Nothing.
    pub(crate) fn none() -> Self {
        Self { displacement: V::ZERO, changes: Changes::empty(), ended: None, ladder: None }
    }

    /// The displacement that the host leads the body by in the next tick, in the world, in metres.
    #[must_use]
    pub fn root_motion(&self) -> Option<V> {
        self.changes.contains(Changes::LED).then_some(self.displacement)
    }

    /// Returns true if there is nothing to emit events for.
    #[must_use]
    pub fn is_quiet(&self) -> bool {
        (self.changes - Changes::LED).is_empty() && self.ended.is_none() && self.ladder.is_none()
    }

    /// The same without what events are emitted for.
    pub(crate) fn without_events(&self) -> Self {
        Self { displacement: self.displacement, changes: self.changes & Changes::LED, ..Self::none() }
    }

    /// Notes that a maneuver has ended. One that was begun since the last tick has no event yet,
    /// and needs none.
    pub(crate) fn end_maneuver(&mut self, name: Name) {
        if self.changes.contains(Changes::BEGUN) {
            self.changes -= Changes::BEGUN;
        } else {
            self.changes |= Changes::MANEUVER_ENDED;
            self.ended = Some(name);
        }
    }

    /// Notes that a move has ended.
    pub(crate) fn end_move(&mut self, name: Option<Name>) {
        self.ended = self.ended.or(name);
    }
}

/// What one tick leaves for the next to go on with.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct CarryOver {
    /// The one-way platform that the body lets itself fall through, if it does.
    pub(crate) passed: PieceId,
    pub(crate) is_passing: bool,
    /// How far a step has put the feet ahead of the distance walked, in metres. They walk that
    /// much less afterwards.
    pub step_lead: f32,
    /// The part of the time of all ticks that no [`Span`](super::Span) counts yet, in parts of
    /// one.
    pub uncounted: f32,
    /// What has crushed the body, while there is no way out.
    pub crushed: Option<Crushed>,
    /// Whether the body has come into a checkpoint without footing: the next firm ground that does
    /// not move becomes the checkpoint.
    pub checkpoint_pending: bool,
}

impl CarryOver {
    /// The one-way platform that the body lets itself fall through.
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
    /// Something that stands still: it was put there.
    Stuck,
    /// Something that moves. The body is held where it is until that thing has left.
    Held,
}
