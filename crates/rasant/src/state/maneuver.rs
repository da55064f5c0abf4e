//! Timed moves that own the body: dash, roll, hop, knockback, and the host's
//! own.
//!
//! A maneuver goes through its startup, in which the body holds still, its active phase,
//! which takes it a set distance, and a recovery, in which walking and gravity
//! are back. Each phase locks what it says. Then it rests, and no other may
//! begin.

use crate::name::named;
use crate::space::Vector;
use alloc::format;
use alloc::string::String;

use crate::tuning::whole;

use super::{Name, TIME_TOLERANCE};

/// A maneuver under way. Its name is the [`Mode`](super::Mode) of the body.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Maneuver<V> {
    /// How it goes.
    pub plan: Plan,
    /// Where it drives to, of length 1, in the world.
    pub direction: V,
    /// Where it began, in the world.
    pub origin: V,
    /// Seconds since it began.
    pub age: f32,
}

/// How a maneuver goes: plain data, made from knobs or by the host.
///
/// After the share u of its drive it has gone distance · ((1 + c)·u − c·u²), c
/// being the curve: the integral of a speed that falls evenly from (1 + c) to
/// (1 − c) times the mean.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::state::Name;
/// use rasant::{Controller, Hull, Locks, Phase, Plan, Tuning};
///
/// let lunge = Plan { startup: 0.1, active: 0.2, recovery: 0.1, distance: 3.0, ..Plan::default() };
/// let lunge = Plan { locks: [Locks::ALL, Locks::ALL, Locks::STEER], ..lunge };
/// assert_eq!(lunge.phase_at(0.15), Phase::Active);
/// assert!((lunge.duration() - 0.4).abs() < 1e-6);
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
/// body.begin(Name::new("lunge"), lunge, Vec2::X); // one of the game's own maneuvers
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Plan {
    /// Seconds of holding still.
    pub startup: f32,
    /// Seconds of driving.
    pub active: f32,
    /// Seconds of coming to.
    pub recovery: f32,
    /// Seconds before the next.
    pub cooldown: f32,
    /// How far the drive goes, in metres.
    pub distance: f32,
    /// How the speed falls off, −1 to 1.
    pub curve: f32,
    /// How quickly steering turns the drive, in radians a second.
    pub turn_rate: f32,
    /// The speed kept at the end of the drive, in m/s.
    pub end_speed: f32,
    /// How high the hull is meanwhile, in metres; 0 for as it is.
    pub height: f32,
    /// How high its arc is drawn, in metres.
    pub arc: f32,
    /// Whether gravity works during startup and the active phase.
    pub gravity: bool,
    /// Whether a drive that met nothing ends exactly `distance` from where it began, at rest.
    pub exact: bool,
    /// What startup, active phase and recovery lock.
    pub locks: [Locks; 3],
}

/// What a phase of a maneuver keeps the player from: a set.
///
/// ```
/// use rasant::Locks;
///
/// let held = Locks::STEER | Locks::TURN;
/// assert!(held.contains(Locks::TURN) && !held.contains(Locks::JUMP));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize), serde(try_from = "u8"))]
pub struct Locks(u8);

/// From the sum that it is written as: 1 for steering, 2 for jumping, 4 for turning.
impl TryFrom<u8> for Locks {
    type Error = String;

    fn try_from(sum: u8) -> Result<Self, String> {
        Self::from_bits(sum).ok_or_else(|| format!("locks are {sum}, expected a sum of 1, 2 and 4"))
    }
}

bitflags::bitflags! {
    impl Locks: u8 {
        /// Walking, and control airborne.
        const STEER = 1;
        /// Jumping, which otherwise breaks the maneuver off.
        const JUMP = 2;
        /// Turning.
        const TURN = 4;
    }
}

impl Locks {
    /// Nothing.
    pub const NONE: Self = Self::empty();
    /// Everything.
    pub const ALL: Self = Self::all();

    /// From a knob: the sum of 1 for steering, 2 for jumping, 4 for turning.
    #[must_use]
    pub fn of_knob(sum: f32) -> Self {
        Self::from_bits_truncate(whole(sum))
    }
}

/// A part of a maneuver, in their order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Phase {
    /// Holding still.
    Startup,
    /// Driving.
    Active,
    /// Coming to.
    Recovery,
    /// Over; no other may begin yet.
    Cooldown,
}

named!(Phase {
    Startup => "startup",
    Active => "active",
    Recovery => "recovery",
    Cooldown => "cooldown",
});

impl Plan {
    /// The phase at an age in seconds.
    #[must_use]
    pub fn phase_at(&self, age: f32) -> Phase {
        let driven = self.startup + self.active;
        if age + TIME_TOLERANCE < self.startup {
            Phase::Startup
        } else if age + TIME_TOLERANCE < driven {
            Phase::Active
        } else if age + TIME_TOLERANCE < driven + self.recovery {
            Phase::Recovery
        } else {
            Phase::Cooldown
        }
    }

    /// It with every number made one: what is not finite, and a time or a length below 0,
    /// counts as 0. So a game's own maneuvers begin.
    #[must_use]
    pub fn sound(self) -> Self {
        let at_least_0 = |number: f32| if number.is_finite() { number.max(0.0) } else { 0.0 };
        let finite = |number: f32| if number.is_finite() { number } else { 0.0 };
        Self {
            startup: at_least_0(self.startup),
            active: at_least_0(self.active),
            recovery: at_least_0(self.recovery),
            cooldown: at_least_0(self.cooldown),
            distance: finite(self.distance),
            curve: finite(self.curve).clamp(-1.0, 1.0),
            turn_rate: at_least_0(self.turn_rate),
            end_speed: finite(self.end_speed),
            height: at_least_0(self.height),
            arc: finite(self.arc),
            ..self
        }
    }

    /// The plan with the speed that is kept at the end of the drive, in m/s: no more than the
    /// greatest speed of the drive.
    #[must_use]
    pub fn ending_at(self, speed: f32) -> Self {
        let greatest = self.distance / self.active * (1.0 + self.curve.abs());
        Self { end_speed: speed.min(greatest), ..self }
    }

    /// How long it lasts without its cooldown, in seconds.
    #[must_use]
    pub fn duration(&self) -> f32 {
        self.startup + self.active + self.recovery
    }

    /// How far the drive has gone at an age, in metres.
    #[must_use]
    pub fn distance_at(&self, age: f32) -> f32 {
        let share = self.progress(age);
        self.distance * ((1.0 + self.curve) * share - self.curve * share * share)
    }

    /// The speed of the drive at an age, in m/s.
    #[must_use]
    pub fn speed_at(&self, age: f32) -> f32 {
        if self.active <= 0.0 {
            return 0.0;
        }
        self.distance / self.active * (1.0 + self.curve - 2.0 * self.curve * self.progress(age))
    }

    /// How much of the drive is done at an age, 0 to 1.
    #[must_use]
    pub fn progress(&self, age: f32) -> f32 {
        if self.active > 0.0 { ((age - self.startup) / self.active).clamp(0.0, 1.0) } else { 1.0 }
    }

    pub(crate) fn locks_at(&self, age: f32) -> Locks {
        match self.phase_at(age) {
            Phase::Startup => self.locks[0],
            Phase::Active => self.locks[1],
            Phase::Recovery => self.locks[2],
            Phase::Cooldown => Locks::NONE,
        }
    }
}

impl<V> Maneuver<V> {
    /// A knock back: for `time` seconds the body follows gravity and the ground only.
    pub(crate) fn knocked_back(time: f32, direction: V, origin: V) -> Self {
        let plan = Plan { recovery: time, locks: [Locks::ALL; 3], ..Plan::default() };
        Self { plan, direction, origin, age: 0.0 }
    }

    /// The name of the maneuver that a knock back puts the body in.
    pub const KNOCKBACK: Name = Name::new("knockback");

    /// Its phase.
    #[must_use]
    pub fn phase(&self) -> Phase {
        self.plan.phase_at(self.age)
    }

    /// Whether its startup or active phase has the body now.
    pub(crate) fn drives(&self) -> bool {
        matches!(self.phase(), Phase::Startup | Phase::Active)
    }

    /// Whether it sets out in a tick of `dt` seconds that is to come.
    pub(crate) fn sets_out(&self, dt: f32) -> bool {
        self.age <= self.plan.startup && self.plan.phase_at(self.age + dt) > Phase::Startup
    }

    /// Whether it drives the body up, off the ground that it is on, in such a tick; its
    /// direction is as the body sees it. Against gravity it does so as it sets out only:
    /// who has come down goes on along the ground.
    pub(crate) fn leads_off(&self, direction: V, dt: f32) -> bool
    where
        V: Vector,
    {
        let moves = self.drives() && self.plan.phase_at(self.age + dt) > Phase::Startup;
        direction.height() > 0.0 && moves && (!self.plan.gravity || self.sets_out(dt))
    }
}
