//! What is decided of a tick: read by all stages after it.

use crate::contact::Geometry;
use crate::level::PieceId;
use crate::moves::{self, Chosen, Jump, Law, Sensed, UnderWay};
use crate::state::{Departure, Locks, Mode, Name, Owner, Refusal, WALL_SLIDE, WallKick};

/// The mode of a slide down a wall.
pub(super) const SLIDING: Mode = Mode::Move(WALL_SLIDE);

/// What is decided of a tick.
pub(super) struct Charge<'a, V> {
    /// Who is in charge of it.
    pub mode: Mode,
    /// Who drives the velocity.
    pub owner: Owner,
    /// The motion law.
    pub law: Law<V>,
    /// The velocity that it begins with, in the body's frame.
    pub velocity: V,
    /// Where the player wants to go, if that counts.
    pub wish: V,
    /// What the player is kept from.
    pub locks: Locks,
    /// The maneuver that is under way or begins.
    pub under_way: Option<&'a UnderWay<V>>,
    /// Whether it begins.
    pub begins: bool,
    /// Whether a rise goes on with jump let go.
    pub cut: bool,
    /// Why the feet leave the ground before it.
    pub leaves: Option<Departure>,
    /// The jump that takes off.
    pub jumps: Option<Name>,
    /// Whether the player's key for jumps has started it.
    pub by_key: bool,
    /// What the move that takes charge proposes, and its place in the list.
    pub taken: Option<&'a Chosen<V>>,
    /// What other moves refused before it.
    pub refused: &'a [Refusal],
}

impl<'a, V: Geometry> Charge<'a, V> {
    /// The body does what it does by itself.
    #[inline(always)] // called once
    pub fn by_itself(sensed: &'a Sensed<'_, V>) -> Self {
        let standing = sensed.standing();
        Self {
            mode: if standing { Mode::Grounded } else { Mode::Airborne },
            owner: if standing { Owner::Walk } else { Owner::Air },
            law: Law::Usual,
            velocity: sensed.velocity,
            wish: sensed.wish,
            locks: sensed.locks,
            under_way: sensed.under_way,
            begins: false,
            cut: sensed.cut,
            leaves: None,
            jumps: None,
            by_key: false,
            taken: None,
            refused: &[],
        }
    }

    /// Whether a maneuver or the host has the body, in part at least.
    pub fn in_maneuver(&self, sensed: &Sensed<'_, V>) -> bool {
        self.under_way.is_some() || sensed.led.is_some()
    }

    /// The last jump off a wall, this tick's among them, with its normal in the body's
    /// frame.
    pub fn kick(&self, sensed: &Sensed<'_, V>) -> Option<WallKick<V>> {
        let now = || Some(moves::kicked(sensed.tuning, &sensed.wall?, sensed.kick));
        let kick = if self.jumps == Some(Jump::WALL) { now() } else { sensed.kick };
        kick.map(|kick| WallKick { normal: sensed.frame.local(kick.normal), ..kick })
    }

    /// The one-way platform that the body is let through.
    pub fn passes(&self) -> Option<PieceId> {
        self.taken.and_then(|taken| taken.proposal.passes)
    }

    /// Whether a move or a maneuver drives the body.
    pub fn in_charge(&self) -> bool {
        self.taken.is_some() || self.drives().is_some()
    }

    /// Whether the body is let through every one-way platform.
    pub fn passes_one_way(&self) -> bool {
        self.taken.is_some_and(|taken| taken.proposal.passes_one_way)
    }

    /// Whether what has charge falls, or lets the body stand at its end: it is
    /// over as soon as the feet are on the ground.
    pub fn ends_by_standing(&self) -> bool {
        matches!(self.law, Law::Fall(_) | Law::Hold { lands: true, .. })
    }

    /// The maneuver that drives the body.
    pub fn drives(&self) -> Option<&'a UnderWay<V>> {
        self.under_way.filter(|under_way| under_way.maneuver.drives())
    }
}
