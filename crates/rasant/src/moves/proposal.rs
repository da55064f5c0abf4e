//! What a move proposes.

use core::cell::RefCell;

use crate::level::{CarrierId, PieceId, ZoneId};
use crate::space::Vector;
use crate::state::{Departure, Event, Gait, Mode, Mutes, Name, Owner, Plan, Refusal, State};

use super::list::Refusals;

/// The answer of a move that is consulted.
#[derive(Debug)]
pub enum Answer<V> {
    /// The move has nothing to do in this tick.
    Nothing,
    /// The player asked for something that is not possible. The next move is consulted.
    Refuses(Refusal),
    /// The move takes charge of the tick.
    Takes(Proposal<V>),
}

impl<V> From<Proposal<V>> for Answer<V> {
    fn from(proposal: Proposal<V>) -> Self {
        Self::Takes(proposal)
    }
}

/// What a move does in the tick that it takes charge of. Vectors are in the body's frame. A running
/// maneuver is cancelled.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::moves::{Fall, Law, Proposal};
/// use rasant::state::Name;
///
/// let glide = Proposal::<Vec2> {
///     law: Law::Fall(Fall { terminal_speed: Some(1.5), ..Fall::default() }),
///     ..Proposal::of(Name::new("glide"))
/// };
/// # let _ = glide;
/// ```
#[derive(Clone, Copy, Debug)]
pub struct Proposal<V> {
    /// The mode of the body after the tick.
    pub mode: Mode,
    /// What drives the velocity.
    pub owner: Owner,
    /// The motion law.
    pub law: Law<V>,
    /// The velocity in the world at the start of the tick, in m/s, if it differs from the body's:
    /// that of a take-off.
    pub velocity: Option<V>,
    /// What the player cannot do. A press of jump that is muted waits, as it does in the air.
    pub mutes: Mutes,
    /// The facing, if the move decides it: of any length but zero.
    pub facing: Option<V>,
    /// The gait for animations, if it is not the move's name.
    pub gait: Option<Gait>,
    /// The height of the hull from the next tick on, in metres.
    pub height: Option<f32>,
    /// The carrier that the body holds on to: it is carried along from the next tick on.
    pub rides: Option<CarrierId>,
    /// The reason if the feet leave the ground.
    pub leaves: Option<Departure>,
    /// The kind of jump that takes off: a word of the move.
    pub jumps: Option<Name>,
    /// True if the player's jump button started that jump, though it was not pressed in this tick:
    /// it was pressed before, or is held. Releasing it then cuts the rise short.
    pub by_key: bool,
    /// The one-way platform that the body drops through.
    pub passes: Option<PieceId>,
    /// True if the body passes every one-way platform in this tick.
    pub passes_one_way: bool,
    /// The ladder that the body holds.
    pub ladder: Option<ZoneId>,
    /// The maneuver that begins, with its direction. It has this tick and the following ones.
    pub begins: Option<(Name, Plan, V)>,
    /// Something else that the player asked for and that is refused.
    pub refused: Option<Refusal>,
}

impl<V: Vector> Proposal<V> {
    /// A move with this name: the body moves as by itself, and shows the name.
    #[must_use]
    pub fn of(name: Name) -> Self {
        Self { gait: Some(Gait::Move(name)), ..Self::as_itself(Mode::Move(name), Owner::Move) }
    }

    /// A take-off with a velocity in the world, in m/s: a jump out of the move with this name. If
    /// the player pressed jump for it in this tick, releasing jump cuts it short
    /// (`jump.cut_gravity`), as any jump; otherwise it rises to its full height.
    #[must_use]
    pub fn jump_off(name: Name, velocity: V) -> Self {
        Self {
            velocity: Some(velocity),
            leaves: Some(Departure::Jump),
            jumps: Some(name),
            ..Self::as_itself(Mode::Airborne, Owner::Jump)
        }
    }

    /// The start of the maneuver with this name, toward a unit direction in the body's frame.
    #[must_use]
    pub fn maneuver(name: Name, plan: Plan, direction: V) -> Self {
        Self { begins: Some((name, plan, direction)), ..Self::as_itself(Mode::Move(name), Owner::Maneuver) }
    }

    /// The body moves as by itself, in a mode and with an owner of its velocity.
    #[must_use]
    pub fn as_itself(mode: Mode, owner: Owner) -> Self {
        Self {
            mode,
            owner,
            law: Law::Usual,
            velocity: None,
            mutes: Mutes::NONE,
            facing: None,
            gait: None,
            height: None,
            rides: None,
            leaves: None,
            jumps: None,
            by_key: false,
            passes: None,
            passes_one_way: false,
            ladder: None,
            begins: None,
            refused: None,
        }
    }
}

/// How a body moves in a tick: a motion law, exact at any tick rate.
#[derive(Clone, Copy, Debug, PartialEq)]
#[non_exhaustive]
pub enum Law<V> {
    /// As by itself: walking where it stands, else falling.
    Usual,
    /// A fall with its own gravity and limits.
    Fall(Fall),
    /// Toward a velocity in any direction, without gravity.
    Toward(Toward<V>),
    /// A given displacement, along the ground where the body stands and the displacement does not
    /// rise from it.
    Set(SetMotion<V>),
    /// A given displacement past any ground: the body stands on none.
    Hold {
        /// The displacement.
        displacement: V,
        /// The velocity in the world afterwards, in m/s.
        velocity: V,
        /// True if the body may stand on ground at the end.
        lands: bool,
    },
}

/// A fall: factors and limits relative to the usual ones.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fall {
    /// A factor on gravity while falling.
    pub gravity: f32,
    /// The highest speed, in m/s, if it differs from the tuning's.
    pub terminal_speed: Option<f32>,
    /// The deceleration of a faster fall, in m/s²; infinite for at once.
    pub brake: f32,
    /// A factor on the speed that steering reaches.
    pub pace: f32,
    /// A factor on the times of steering: slower above 1.
    pub times: f32,
}

impl Default for Fall {
    fn default() -> Self {
        Self { gravity: 1.0, terminal_speed: None, brake: f32::INFINITY, pace: 1.0, times: 1.0 }
    }
}

/// An approach to a velocity.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Toward<V> {
    /// The target velocity, in m/s.
    pub velocity: V,
    /// The time from rest to `speed`, and back, in seconds.
    pub time: f32,
    /// The speed for which the time is given, in m/s.
    pub speed: f32,
    /// True if feet that come down on ground stand on it.
    pub lands: bool,
}

/// A given displacement.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SetMotion<V> {
    /// The displacement.
    pub displacement: V,
    /// The velocity at its start, in m/s.
    pub from: V,
    /// The velocity at its end, in m/s.
    pub to: V,
    /// True if gravity applies meanwhile.
    pub gravity: bool,
}

/// The outcome of a tick.
#[derive(Debug)]
pub struct Outcome<'a, V> {
    /// The state after the tick. Its memories are still those from before.
    pub state: &'a State<V>,
    /// The events of the tick.
    pub events: &'a [Event<V>],
    /// The number in the list, from 0, of the move that took charge, if any.
    pub(crate) by: Option<u8>,
    /// The number of the move that reads this.
    pub(crate) own: u8,
    /// True if a maneuver began in the tick.
    pub began: bool,
    /// True if no move was consulted, because the host led the body or something held it fast.
    pub(crate) none_consulted: bool,
    /// Seconds since the feet last landed within the tick; 0 if they did not.
    pub landed_for: f32,
    /// True if the move or the maneuver in charge kept the player from jumping.
    pub mutes_jump: bool,
    pub(crate) refused: &'a RefCell<Refusals>,
}

impl<V> Outcome<'_, V> {
    /// Returns true if the move that reads this had charge of the tick.
    #[must_use]
    pub fn is_mine(&self) -> bool {
        self.by == Some(self.own)
    }

    /// Returns true if the move was consulted in this tick: no move before it took charge.
    #[must_use]
    pub fn was_consulted(&self) -> bool {
        !self.none_consulted && self.by.is_none_or(|by| by >= self.own)
    }

    /// Reports a refusal of something that the player asked for in this tick, if the move could not
    /// answer so itself because another move before it had taken charge.
    pub fn refuse(&self, what: Refusal) {
        self.refused.borrow_mut().push(what);
    }

    /// Returns true if the ground bounced the body back up.
    #[must_use]
    pub fn bounced(&self) -> bool {
        self.events.iter().any(|event| matches!(event, Event::Bounced { .. }))
    }

    /// Returns true if a jump took off.
    #[must_use]
    pub fn took_off(&self) -> bool {
        self.events.iter().any(|event| matches!(event, Event::Jumped { .. }))
    }

    /// Returns true if a jump of this kind took off.
    #[must_use]
    pub fn jumped(&self, kind: Name) -> bool {
        self.events.iter().any(|event| matches!(event, Event::Jumped { kind: other } if *other == kind))
    }
}
