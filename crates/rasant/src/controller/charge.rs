//! The decision about a tick, read by all later stages.

use crate::contact::Geometry;
use crate::level::PieceId;
use crate::moves::{self, Chosen, Jump, Law, Sensed, UnderWay};
use crate::state::{Departure, Mode, Mutes, Name, Owner, Refusal, WALL_SLIDE, WallKick};

/// The mode of a wall slide.
pub(super) const SLIDING: Mode = Mode::Move(WALL_SLIDE);

/// The decision about a tick.
pub(super) struct Charge<'a, V> {
    /// The mode.
    pub mode: Mode,
    /// What drives the velocity.
    pub owner: Owner,
    /// The motion law.
    pub law: Law<V>,
    /// The velocity at the start of the tick, in the body's frame.
    pub velocity: V,
    /// The steering, if it is not muted.
    pub steer: V,
    /// What the player cannot do.
    pub mutes: Mutes,
    /// The maneuver that is running or begins.
    pub under_way: Option<&'a UnderWay<V>>,
    /// True if it begins.
    pub begins: bool,
    /// True if a rise continues with jump released.
    pub cut: bool,
    /// The reason if the feet leave the ground at the start.
    pub leaves: Option<Departure>,
    /// The jump that takes off.
    pub jumps: Option<Name>,
    /// True if the player's jump button started it.
    pub by_key: bool,
    /// The proposal of the move that takes charge, with its number in the list.
    pub chosen: Option<&'a Chosen<V>>,
    /// The refusals of moves that were consulted before it.
    pub refused: &'a [Refusal],
}

impl<'a, V: Geometry> Charge<'a, V> {
    /// No move takes charge: the body moves by itself.
    #[inline(always)] // called once
    pub fn by_itself(sensed: &'a Sensed<'_, V>) -> Self {
        let standing = sensed.standing();
        Self {
            mode: if standing { Mode::Grounded } else { Mode::Airborne },
            owner: if standing { Owner::Walk } else { Owner::Air },
            law: Law::Usual,
            velocity: sensed.velocity,
            steer: sensed.steer,
            mutes: sensed.mutes,
            under_way: sensed.under_way,
            begins: false,
            cut: sensed.cut,
            leaves: None,
            jumps: None,
            by_key: false,
            chosen: None,
            refused: &[],
        }
    }

    /// Returns true if a maneuver or the host controls the body, at least in part.
    pub fn in_maneuver(&self, sensed: &Sensed<'_, V>) -> bool {
        self.under_way.is_some() || sensed.led.is_some()
    }

    /// The last jump off a wall, including one in this tick, with its normal in the body's frame.
    pub fn kick(&self, sensed: &Sensed<'_, V>) -> Option<WallKick<V>> {
        let now = || Some(moves::kicked(sensed.tuning, &sensed.wall?, sensed.kick));
        let kick = if self.jumps == Some(Jump::WALL) { now() } else { sensed.kick };
        kick.map(|kick| WallKick { normal: sensed.frame.local(kick.normal), ..kick })
    }

    /// The one-way platform that the body passes.
    pub fn passes(&self) -> Option<PieceId> {
        self.chosen.and_then(|chosen| chosen.proposal.passes)
    }

    /// Returns true if a move or a maneuver drives the body.
    pub fn in_charge(&self) -> bool {
        self.chosen.is_some() || self.drives().is_some()
    }

    /// Returns true if the body passes every one-way platform.
    pub fn passes_one_way(&self) -> bool {
        self.chosen.is_some_and(|chosen| chosen.proposal.passes_one_way)
    }

    /// Returns true if the motion is a fall, or lets the body stand at its end: it is over as soon
    /// as the feet are on the ground.
    pub fn ends_by_standing(&self) -> bool {
        matches!(self.law, Law::Fall(_) | Law::Hold { lands: true, .. })
    }

    /// The maneuver that drives the body.
    pub fn drives(&self) -> Option<&'a UnderWay<V>> {
        self.under_way.filter(|under_way| under_way.maneuver.drives())
    }
}
