//! What a move asks for.

use core::cell::RefCell;

use crate::level::{CarrierId, PieceId, ZoneId};
use crate::space::Vector;
use crate::state::{Departure, Event, Gait, Locks, Mode, Name, Owner, Plan, Refusal, State};

use super::list::Refusals;

/// What a move answers when it is asked.
#[derive(Debug)]
pub enum Answer<V> {
    /// It has nothing to do with this tick.
    Nothing,
    /// What was asked of it cannot be; the next move is asked.
    Refuses(Refusal),
    /// It takes charge of the tick.
    Takes(Proposal<V>),
}

impl<V> From<Proposal<V>> for Answer<V> {
    fn from(proposal: Proposal<V>) -> Self {
        Self::Takes(proposal)
    }
}

/// What a move asks for in the tick that it takes charge of. Vectors are in the body's
/// frame. A maneuver that is under way is broken off.
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
    /// Who is in charge of the body after it.
    pub mode: Mode,
    /// Who drives the velocity.
    pub owner: Owner,
    /// How the body moves.
    pub law: Law<V>,
    /// The velocity over the world that the tick begins with, in m/s, where it is
    /// another than the body's: that of a take-off.
    pub velocity: Option<V>,
    /// What the player is kept from. A press of jump that is locked waits, as it does in
    /// the air.
    pub locks: Locks,
    /// Where the body faces, where the move decides that: of any length but zero.
    pub facing: Option<V>,
    /// What an animation shows, where it is not the move's name.
    pub gait: Option<Gait>,
    /// How high the hull is from the next tick on, in metres.
    pub height: Option<f32>,
    /// What the body holds on to: it is taken along from the next tick on.
    pub rides: Option<CarrierId>,
    /// Why the feet leave the ground, if they stand and do.
    pub leaves: Option<Departure>,
    /// The jump that takes off, by its kind: a word of the move.
    pub jumps: Option<Name>,
    /// Whether the player's jump button has started that jump, though it was not pressed in this
    /// tick: it was pressed before, or is held. Letting go of it then cuts the rise short.
    pub by_key: bool,
    /// The one-way platform that the body lets itself fall through.
    pub passes: Option<PieceId>,
    /// Whether it is let through every one-way platform in this tick.
    pub passes_one_way: bool,
    /// The ladder that it holds.
    pub ladder: Option<ZoneId>,
    /// The maneuver that begins, with its direction: it has the tick, and those to come.
    pub begins: Option<(Name, Plan, V)>,
    /// What else was asked for and is refused.
    pub refused: Option<Refusal>,
}

impl<V: Vector> Proposal<V> {
    /// A move of that name does what the body does by itself, and shows its name.
    #[must_use]
    pub fn of(name: Name) -> Self {
        Self { gait: Some(Gait::Move(name)), ..Self::as_itself(Mode::Move(name), Owner::Move) }
    }

    /// The body takes off with a velocity over the world, in m/s: a jump out of the move
    /// of that name. Where the player has pressed jump for it in this tick, letting go of jump cuts
    /// it short (`jump.cut_gravity`), as any jump; else it rises to its full height.
    #[must_use]
    pub fn jump_off(name: Name, velocity: V) -> Self {
        Self {
            velocity: Some(velocity),
            leaves: Some(Departure::Jump),
            jumps: Some(name),
            ..Self::as_itself(Mode::Airborne, Owner::Jump)
        }
    }

    /// The maneuver of that name begins, toward a direction of length 1 in the body's frame.
    #[must_use]
    pub fn maneuver(name: Name, plan: Plan, direction: V) -> Self {
        Self { begins: Some((name, plan, direction)), ..Self::as_itself(Mode::Move(name), Owner::Maneuver) }
    }

    /// The body does what it does by itself, in a mode and with an owner of its velocity.
    #[must_use]
    pub fn as_itself(mode: Mode, owner: Owner) -> Self {
        Self {
            mode,
            owner,
            law: Law::Usual,
            velocity: None,
            locks: Locks::NONE,
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
    /// As it does by itself: on foot where it stands, else it falls.
    Usual,
    /// It falls, with weights of its own.
    Fall(Fall),
    /// It goes toward a velocity in every direction, without gravity.
    Toward(Toward<V>),
    /// A way that is set, along the ground where it stands and does not rise from it.
    Set(SetWay<V>),
    /// A way that is set, past any ground: it stands on none.
    Hold {
        /// How far it goes.
        way: V,
        /// The velocity over the world that it has then, in m/s.
        velocity: V,
        /// Whether it may come to stand at the end of its way, if there is ground.
        lands: bool,
    },
}

/// A fall: factors on and bounds of what is usual.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Fall {
    /// A factor on gravity on the way down.
    pub gravity: f32,
    /// The speed that it never exceeds, in m/s, where it is another than the tuning's.
    pub terminal_speed: Option<f32>,
    /// How quickly a faster fall is slowed to that, in m/s²; without end for at once.
    pub brake: f32,
    /// A factor on the speed that steering leads to.
    pub pace: f32,
    /// A factor on the times of steering: above 1 slower.
    pub times: f32,
}

impl Default for Fall {
    fn default() -> Self {
        Self { gravity: 1.0, terminal_speed: None, brake: f32::INFINITY, pace: 1.0, times: 1.0 }
    }
}

/// Toward a velocity.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct Toward<V> {
    /// The velocity in the end, in m/s.
    pub velocity: V,
    /// The time from rest to `speed`, and back, in seconds.
    pub time: f32,
    /// The speed that the time is for, in m/s.
    pub speed: f32,
    /// Whether feet that come down on ground stand on it.
    pub lands: bool,
}

/// A way that is set.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct SetWay<V> {
    /// How far it goes.
    pub way: V,
    /// The velocity that it begins with, in m/s.
    pub from: V,
    /// The velocity that it ends with, in m/s.
    pub to: V,
    /// Whether gravity works meanwhile.
    pub gravity: bool,
}

/// What became of a tick.
#[derive(Debug)]
pub struct Outcome<'a, V> {
    /// The state after it; the memories in it are still those from before.
    pub state: &'a State<V>,
    /// What happened.
    pub events: &'a [Event<V>],
    /// Who took charge of it, by place in the list, from 0; nothing for nobody.
    pub(crate) by: Option<u8>,
    /// The place of the move that is told this.
    pub(crate) own: u8,
    /// Whether a maneuver began in it.
    pub began: bool,
    /// Whether no move was asked, because the host led the body or something held it fast.
    pub(crate) unasked: bool,
    /// Seconds since the feet last came down in the tick; 0 if they did not.
    pub landed_for: f32,
    /// Whether the move or the maneuver in charge kept the player from jumping.
    pub locks_jump: bool,
    pub(crate) refused: &'a RefCell<Refusals>,
}

impl<V> Outcome<'_, V> {
    /// Whether the move that is told this had charge of the tick.
    #[must_use]
    pub fn is_mine(&self) -> bool {
        self.by == Some(self.own)
    }

    /// Whether the move was asked in this tick: no move before it took charge.
    #[must_use]
    pub fn was_asked(&self) -> bool {
        !self.unasked && self.by.is_none_or(|by| by >= self.own)
    }

    /// Tells that something was asked for in this tick and is not done, where the move could not
    /// answer so itself because another move before it had taken charge.
    pub fn refuse(&self, what: Refusal) {
        self.refused.borrow_mut().push(what);
    }

    /// Whether the ground threw the body back up.
    #[must_use]
    pub fn bounced(&self) -> bool {
        self.events.iter().any(|event| matches!(event, Event::Bounced { .. }))
    }

    /// Whether a jump took off.
    #[must_use]
    pub fn took_off(&self) -> bool {
        self.events.iter().any(|event| matches!(event, Event::Jumped { .. }))
    }

    /// Whether a jump of that kind took off.
    #[must_use]
    pub fn jumped(&self, kind: Name) -> bool {
        self.events.iter().any(|event| matches!(event, Event::Jumped { kind: other } if *other == kind))
    }
}
