//! Timed moves that own the body: dash, roll, hop, knockback, and the host's own.
//!
//! A maneuver has a startup, in which the body stands still, an active phase, which moves it a set
//! distance, and a recovery, in which walking and gravity apply again. Each phase mutes what its
//! plan says. Then there is a cooldown, in which no other maneuver can begin.

use crate::name::named;
use crate::space::{Vector, within};
use alloc::format;
use alloc::string::String;

use crate::tuning::whole;

use super::{Name, TIME_TOLERANCE};

/// A running maneuver. Its name is the [`Mode`](super::Mode) of the body.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::state::Name;
/// use rasant::{Controller, Hull, Intent, Level, Plan, Tuning};
///
/// let level = Level::builder().build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.3, 1.7)?, Vec2::ZERO);
/// let lunge = Plan { active: 0.2, distance: 3.0, ..Plan::default() };
/// body.begin(Name::new("lunge"), lunge, Vec2::X);
/// body.tick(&Intent::default(), &level, 1.0 / 60.0);
/// let maneuver = body.state().maneuver.expect("the lunge");
/// assert_eq!(maneuver.direction, Vec2::X);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Maneuver<V> {
    /// The plan.
    pub plan: Plan,
    /// The direction of its motion, of length 1, in the world.
    pub direction: V,
    /// The position at which it began, in the world.
    pub origin: V,
    /// Seconds since it began.
    pub age: f32,
}

/// The course of a maneuver: plain data, made from knobs or by the host.
///
/// After the fraction u of its active phase it has moved distance · ((1 + c)·u − c·u²), where c is
/// the curve: the integral of a speed that falls evenly from (1 + c) to (1 − c) times the mean.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::state::Name;
/// use rasant::{Controller, Hull, Mutes, Phase, Plan, Tuning};
///
/// let lunge = Plan { startup: 0.1, active: 0.2, recovery: 0.1, distance: 3.0, ..Plan::default() };
/// let lunge = Plan { mutes: [Mutes::ALL, Mutes::ALL, Mutes::STEER], ..lunge };
/// assert_eq!(lunge.phase_at(0.15), Phase::Active);
/// assert!((lunge.duration() - 0.4).abs() < 1e-6);
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
/// body.begin(Name::new("lunge"), lunge, Vec2::X); // one of the game's own maneuvers
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Plan {
    /// Seconds of standing still.
    pub startup: f32,
    /// Seconds of motion.
    pub active: f32,
    /// Seconds of recovery.
    pub recovery: f32,
    /// Seconds before the next maneuver.
    pub cooldown: f32,
    /// The distance of the motion, in metres.
    pub distance: f32,
    /// The speed curve, −1 to 1.
    pub curve: f32,
    /// The rate at which steering turns the motion, in radians per second.
    pub turn_rate: f32,
    /// The speed that is kept at the end of the motion, in m/s.
    pub end_speed: f32,
    /// The height of the hull during the maneuver, in metres; 0 for unchanged.
    pub height: f32,
    /// The height of the drawn arc, in metres.
    pub arc: f32,
    /// True if gravity applies during startup and the active phase.
    pub gravity: bool,
    /// True if a motion that nothing stopped ends exactly `distance` from where it began, at rest.
    pub exact: bool,
    /// What startup, active phase and recovery mute.
    pub mutes: [Mutes; 3],
}

/// What a phase of a maneuver keeps the player from doing: a set.
///
/// ```
/// use rasant::Mutes;
///
/// let held = Mutes::STEER | Mutes::TURN;
/// assert!(held.contains(Mutes::TURN) && !held.contains(Mutes::JUMP));
/// ```
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq, Hash)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize), serde(try_from = "u8"))]
pub struct Mutes(u8);

/// From the sum that it is written as: 1 for steering, 2 for jumping, 4 for turning.
impl TryFrom<u8> for Mutes {
    type Error = String;

    fn try_from(sum: u8) -> Result<Self, String> {
        Self::from_bits(sum).ok_or_else(|| format!("the mutes are {sum}, expected a sum of 1, 2 and 4"))
    }
}

bitflags::bitflags! {
    impl Mutes: u8 {
        /// Walking, and control in the air.
        const STEER = 1;
        /// Jumping, which otherwise cancels the maneuver.
        const JUMP = 2;
        /// Turning.
        const TURN = 4;
    }
}

impl Mutes {
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

/// A phase of a maneuver. The phases are ordered.
///
/// ```
/// use rasant::{Event, Phase};
///
/// fn is_hit_window<V>(event: &Event<V>) -> bool {
///     matches!(event, Event::ManeuverPhase { phase: Phase::Active, .. })
/// }
/// # let _ = is_hit_window::<rasant::glam::Vec2>;
/// ```
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Phase {
    /// Standing still.
    Startup,
    /// Moving.
    Active,
    /// Recovering.
    Recovery,
    /// Over, but no other maneuver can begin yet.
    Cooldown,
}

named!(Phase {
    Startup => "startup",
    Active => "active",
    Recovery => "recovery",
    Cooldown => "cooldown",
});

/// The durations of three phases, one after the other, in seconds.
#[derive(Clone, Copy)]
pub(crate) struct Phases {
    pub startup: f32,
    pub active: f32,
    pub recovery: f32,
}

impl Phases {
    /// The phase at an age in seconds. [`Phase::Cooldown`] after the last one.
    pub fn at(self, age: f32) -> Phase {
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

    /// The fraction of the phase at an age that has passed, from 0 to 1. 1 after the last one.
    pub fn progress_at(self, age: f32) -> f32 {
        let Self { startup, active, recovery } = self;
        let (start, length) = match self.at(age) {
            Phase::Startup => (0.0, startup),
            Phase::Active => (startup, active),
            Phase::Recovery => (startup + active, recovery),
            Phase::Cooldown => return 1.0,
        };
        if length > 0.0 { within((age - start) / length) } else { 1.0 }
    }
}

impl Plan {
    /// The phase at an age in seconds.
    #[must_use]
    pub fn phase_at(&self, age: f32) -> Phase {
        self.phases().at(age)
    }

    /// The durations of its phases.
    pub(crate) fn phases(&self) -> Phases {
        let Self { startup, active, recovery, .. } = *self;
        Phases { startup, active, recovery }
    }

    /// Returns the plan with NaN, infinities, and negative times and lengths replaced by 0. Plans
    /// of a game's own maneuvers are sanitised so.
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

    /// The plan with the speed that is kept at the end of the motion, in m/s, limited to the
    /// highest speed of the motion.
    #[must_use]
    pub fn ending_at(self, speed: f32) -> Self {
        let greatest = self.distance / self.active * (1.0 + self.curve.abs());
        Self { end_speed: speed.min(greatest), ..self }
    }

    /// The duration without the cooldown, in seconds.
    #[must_use]
    pub fn duration(&self) -> f32 {
        self.startup + self.active + self.recovery
    }

    /// The distance moved at an age, in metres.
    #[must_use]
    pub fn distance_at(&self, age: f32) -> f32 {
        let fraction = self.progress(age);
        self.distance * ((1.0 + self.curve) * fraction - self.curve * fraction * fraction)
    }

    /// The speed at an age, in m/s.
    #[must_use]
    pub fn speed_at(&self, age: f32) -> f32 {
        if self.active <= 0.0 {
            return 0.0;
        }
        self.distance / self.active * (1.0 + self.curve - 2.0 * self.curve * self.progress(age))
    }

    /// The fraction of the motion that is done at an age, 0 to 1.
    #[must_use]
    pub fn progress(&self, age: f32) -> f32 {
        if self.active > 0.0 { ((age - self.startup) / self.active).clamp(0.0, 1.0) } else { 1.0 }
    }

    pub(crate) fn mutes_at(&self, age: f32) -> Mutes {
        match self.phase_at(age) {
            Phase::Startup => self.mutes[0],
            Phase::Active => self.mutes[1],
            Phase::Recovery => self.mutes[2],
            Phase::Cooldown => Mutes::NONE,
        }
    }
}

impl<V> Maneuver<V> {
    /// A knockback: for `time` seconds the body only follows gravity and the ground.
    pub(crate) fn knocked_back(time: f32, direction: V, origin: V) -> Self {
        let plan = Plan { recovery: time, mutes: [Mutes::ALL; 3], ..Plan::default() };
        Self { plan, direction, origin, age: 0.0 }
    }

    /// The name of the knockback maneuver.
    pub const KNOCKBACK: Name = Name::new("knockback");

    /// The current phase.
    #[must_use]
    pub fn phase(&self) -> Phase {
        self.plan.phase_at(self.age)
    }

    /// Returns true during startup and the active phase.
    pub(crate) fn drives(&self) -> bool {
        matches!(self.phase(), Phase::Startup | Phase::Active)
    }

    /// Returns true if its motion starts in the coming tick of `dt` seconds.
    pub(crate) fn sets_out(&self, dt: f32) -> bool {
        self.age <= self.plan.startup && self.plan.phase_at(self.age + dt) > Phase::Startup
    }

    /// Returns true if it moves the body up, off its ground, in such a tick. The direction is in
    /// the body's frame. With gravity it does so only as its motion starts: a body that has come
    /// down continues along the ground.
    pub(crate) fn leads_off(&self, direction: V, dt: f32) -> bool
    where
        V: Vector,
    {
        let moves = self.drives() && self.plan.phase_at(self.age + dt) > Phase::Startup;
        direction.height() > 0.0 && moves && (!self.plan.gravity || self.sets_out(dt))
    }
}
