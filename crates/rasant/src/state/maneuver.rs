//! Timed moves that own the body: dash, roll, hop, knockback, and the host's
//! own.
//!
//! A maneuver goes through a windup, in which the body holds still, a drive,
//! which takes it a set distance, and a recovery, in which walking and gravity
//! are back. Each phase locks what it says. Then it rests, and no other may
//! begin.

use crate::name::named;

use super::{Gait, Name, SAME, whole};

/// A maneuver under way.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Maneuver<V> {
    /// Which.
    pub kind: ManeuverKind,
    /// How it goes.
    pub plan: Plan,
    /// Where it drives to, of length 1, in the world.
    pub direction: V,
    /// Where it began, in the world.
    pub origin: V,
    /// Seconds since it began.
    pub age: f32,
}

/// Which maneuver.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum ManeuverKind {
    /// A dash.
    Dash,
    /// A roll along the ground.
    Roll,
    /// A whole step, or some.
    Hop,
    /// Thrown back from outside, and not in control.
    Knockback,
    /// One of the host's own.
    Own(u8),
}

impl ManeuverKind {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> Name {
        self.gait().name()
    }

    pub(crate) fn gait(self) -> Gait {
        match self {
            Self::Dash => Gait::Dash,
            Self::Roll => Gait::Roll,
            Self::Hop => Gait::Hop,
            Self::Knockback => Gait::Knockback,
            Self::Own(number) => Gait::Own(number),
        }
    }
}

/// How a maneuver goes: plain data, made from knobs or by the host.
///
/// After the share u of its drive it has gone distance · ((1 + c)·u − c·u²), c
/// being the curve: the integral of a speed that falls evenly from (1 + c) to
/// (1 − c) times the mean.
#[derive(Clone, Copy, Debug, Default, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Plan {
    /// Seconds of holding still.
    pub windup: f32,
    /// Seconds of driving.
    pub drive: f32,
    /// Seconds of coming to.
    pub recover: f32,
    /// Seconds before the next.
    pub rest: f32,
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
    /// Whether gravity works during windup and drive.
    pub gravity: bool,
    /// What windup, drive and recovery lock.
    pub locks: [Locks; 3],
}

/// What a phase of a maneuver keeps the player from: a set.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Locks(u8);

impl Locks {
    /// Nothing.
    pub const NONE: Self = Self(0);
    /// Walking, and control aloft.
    pub const STEER: Self = Self(1);
    /// Jumping, which otherwise breaks the maneuver off.
    pub const JUMP: Self = Self(2);
    /// Turning.
    pub const TURN: Self = Self(4);
    /// Everything.
    pub const ALL: Self = Self(7);

    /// These and others.
    #[must_use]
    pub const fn and(self, others: Self) -> Self {
        Self(self.0 | others.0)
    }

    /// Whether all of `others` are among these.
    #[must_use]
    pub const fn has(self, others: Self) -> bool {
        self.0 & others.0 == others.0
    }

    /// From a knob: the sum of 1 for steering, 2 for jumping, 4 for turning.
    pub(crate) fn of_knob(sum: f32) -> Self {
        Self(whole(sum) & 7)
    }
}

/// A part of a maneuver, in their order.
#[derive(Clone, Copy, Debug, PartialEq, Eq, PartialOrd, Ord)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub enum Phase {
    /// Holding still.
    Windup,
    /// Driving.
    Drive,
    /// Coming to.
    Recover,
    /// Over; no other may begin yet.
    Rest,
}

named!(Phase {
    Windup => "windup",
    Drive => "drive",
    Recover => "recover",
    Rest => "rest",
});

impl Plan {
    /// The phase at an age in seconds.
    #[must_use]
    pub fn phase(&self, age: f32) -> Phase {
        let drives = self.windup + self.drive;
        if age + SAME < self.windup {
            Phase::Windup
        } else if age + SAME < drives {
            Phase::Drive
        } else if age + SAME < drives + self.recover {
            Phase::Recover
        } else {
            Phase::Rest
        }
    }

    /// How far the drive has gone at an age, in metres.
    #[must_use]
    pub fn gone(&self, age: f32) -> f32 {
        let share = self.share(age);
        self.distance * ((1.0 + self.curve) * share - self.curve * share * share)
    }

    /// The speed of the drive at an age, in m/s.
    #[must_use]
    pub fn speed(&self, age: f32) -> f32 {
        if self.drive <= 0.0 {
            return 0.0;
        }
        self.distance / self.drive * (1.0 + self.curve - 2.0 * self.curve * self.share(age))
    }

    /// How much of the drive is done at an age, 0 to 1.
    #[must_use]
    pub fn share(&self, age: f32) -> f32 {
        if self.drive > 0.0 { ((age - self.windup) / self.drive).clamp(0.0, 1.0) } else { 1.0 }
    }

    pub(crate) fn locks_at(&self, age: f32) -> Locks {
        match self.phase(age) {
            Phase::Windup => self.locks[0],
            Phase::Drive => self.locks[1],
            Phase::Recover => self.locks[2],
            Phase::Rest => Locks::NONE,
        }
    }
}

impl<V> Maneuver<V> {
    /// What knockback does to who is hit: nothing but gravity and the ground for
    /// `time` seconds.
    pub(crate) fn knocked_back(time: f32, direction: V, origin: V) -> Self {
        let plan = Plan { recover: time, locks: [Locks::ALL; 3], ..Plan::default() };
        Self { kind: ManeuverKind::Knockback, plan, direction, origin, age: 0.0 }
    }

    /// Its phase.
    #[must_use]
    pub fn phase(&self) -> Phase {
        self.plan.phase(self.age)
    }

    /// Whether windup or drive have the body now.
    pub(crate) fn drives(&self) -> bool {
        matches!(self.phase(), Phase::Windup | Phase::Drive)
    }
}
