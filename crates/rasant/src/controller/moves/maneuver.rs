//! Timed moves that own the body: dash, roll, hop, knockback, and the host's
//! own.
//!
//! A maneuver goes through a windup, in which the body holds still, a drive,
//! which takes it a set distance, and a recovery, in which walking and gravity
//! are back. Each phase locks what it says. Then it rests, and no other may
//! begin.

use crate::contact::Geometry;
use crate::controller::event::{Departure, Event, Events, tell};
use crate::controller::state::{Gait, Owner, State};
use crate::space::Vector;

use super::jump::SAME;
use super::{Choice, whole};

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
    pub fn name(self) -> &'static str {
        self.gait().name()
    }

    pub(in crate::controller) fn gait(self) -> Gait {
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

/// What a phase of a maneuver keeps the player from.
#[derive(Clone, Copy, Debug, Default, PartialEq, Eq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Locks {
    /// Walking, and control aloft.
    pub steer: bool,
    /// Jumping, which otherwise breaks the maneuver off.
    pub jump: bool,
    /// Turning.
    pub turn: bool,
}

impl Locks {
    /// Everything.
    pub const ALL: Self = Self { steer: true, jump: true, turn: true };

    /// From a knob: the sum of 1 for steering, 2 for jumping, 4 for turning.
    pub(super) fn of_knob(sum: f32) -> Self {
        let bits = whole(sum);
        Self { steer: bits & 1 != 0, jump: bits & 2 != 0, turn: bits & 4 != 0 }
    }
}

/// A part of a maneuver.
#[derive(Clone, Copy, Debug, PartialEq, Eq)]
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

impl Phase {
    /// Its name, as in traces.
    #[must_use]
    pub fn name(self) -> &'static str {
        match self {
            Self::Windup => "windup",
            Self::Drive => "drive",
            Self::Recover => "recover",
            Self::Rest => "rest",
        }
    }
}

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

    fn locks_at(&self, age: f32) -> Locks {
        match self.phase(age) {
            Phase::Windup => self.locks[0],
            Phase::Drive => self.locks[1],
            Phase::Recover => self.locks[2],
            Phase::Rest => Locks::default(),
        }
    }
}

impl<V> Maneuver<V> {
    /// Its phase.
    #[must_use]
    pub fn phase(&self) -> Phase {
        self.plan.phase(self.age)
    }

    /// Whether windup or drive have the body now.
    pub(in crate::controller) fn drives(&self) -> bool {
        matches!(self.phase(), Phase::Windup | Phase::Drive)
    }
}

/// A maneuver begins in this tick.
pub(super) fn begin<V: Geometry>(choice: &mut Choice<'_, V>, kind: ManeuverKind, plan: Plan, direction: V) {
    break_off(choice.state, choice.events);
    let (direction, origin) = (choice.frame.world(direction), choice.state.position);
    choice.state.maneuver = Some(Maneuver { kind, plan, direction, origin, age: 0.0 });
    choice.state.jump_waits = 0.0;
    tell(choice.events, Event::ManeuverPhase { kind, phase: plan.phase(0.0) });
    go_on(choice);
}

/// What knockback does to who is hit: nothing but gravity and the ground for
/// `time` seconds.
pub(in crate::controller) fn knocked_back<V: Vector>(time: f32, direction: V, origin: V) -> Maneuver<V> {
    let plan = Plan { recover: time, locks: [Locks::ALL; 3], ..Plan::default() };
    Maneuver { kind: ManeuverKind::Knockback, plan, direction, origin, age: 0.0 }
}

/// Lets a maneuver under way have the tick, with the locks of its phase.
pub(super) fn go_on<V: Geometry>(choice: &mut Choice<'_, V>) {
    if choice.state.maneuver.is_some() {
        has_the_tick(choice);
    }
}

#[inline(never)]
fn has_the_tick<V: Geometry>(choice: &mut Choice<'_, V>) {
    let dt = choice.dt;
    let Some(maneuver) = &mut choice.state.maneuver else {
        return;
    };
    let turn = maneuver.plan.turn_rate * dt;
    // In a side view it turns up and down, unless it keeps to the ground.
    let side_view = V::DIMENSION == 2 && !choice.body.from_above;
    if turn > 0.0 && !(side_view && maneuver.plan.gravity) {
        let direction = choice.frame.local(maneuver.direction);
        let turns = side_view || direction.height() == 0.0 || choice.body.from_above;
        let up = if side_view { choice.intent.safe_steer().y } else { 0.0 };
        let aim = choice.body.wish + V::UP * up;
        if turns && aim != V::ZERO {
            let wanted = direction.turn_to(aim);
            choice.body.bend = wanted.clamp(-turn, turn);
            let turned = direction.turned(choice.body.bend);
            maneuver.direction = choice.frame.world(turned);
            if side_view
                && turned.height() > 0.0
                && choice.state.footing.is_firm()
                && !choice.state.left_by_jump
            {
                tell(choice.events, Event::LeftGround { by: Departure::Maneuver });
                choice.state.left_by_jump = true;
            }
        }
    }
    choice.body.locks = maneuver.plan.locks_at(maneuver.age);
    if choice.body.locks.steer {
        choice.body.wish = V::ZERO;
    }
    choice.body.in_maneuver = true;
    if maneuver.drives() || maneuver.kind == ManeuverKind::Knockback {
        choice.body.owner = Owner::Maneuver;
    }
}

/// A maneuver ends before its time.
pub(in crate::controller) fn break_off<V: Vector>(state: &mut State<V>, events: &mut Events<V>) {
    if let Some(maneuver) = state.maneuver.take() {
        state.rest = maneuver.plan.rest;
        tell(events, Event::ManeuverPhase { kind: maneuver.kind, phase: Phase::Rest });
    }
}

/// A tick of a maneuver is over: tells the phases it came into, and ends it
/// after the last.
pub(in crate::controller) fn finish<V: Vector>(state: &mut State<V>, dt: f32, events: &mut Events<V>) {
    if state.rest > 0.0 {
        state.rest = (state.rest - dt).max(0.0);
    }
    if state.maneuver.is_some() {
        come_into_phase(state, dt, events);
    }
}

#[inline(never)]
fn come_into_phase<V: Vector>(state: &mut State<V>, dt: f32, events: &mut Events<V>) {
    let Some(maneuver) = &mut state.maneuver else { return };
    let before = maneuver.phase();
    maneuver.age += dt;
    let now = maneuver.phase();
    if now == before {
        return;
    }
    if now == Phase::Rest {
        break_off(state, events);
    } else {
        tell(events, Event::ManeuverPhase { kind: maneuver.kind, phase: now });
    }
}
