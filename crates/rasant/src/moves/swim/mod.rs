//! Swimming: in water that is deep enough to float in.

pub(crate) mod knobs;

use crate::contact::Geometry;
use crate::input::Actions;
use crate::kinematics::{Brake, approach_speed};
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::state::{Gait, Mode, Name, Rise};
use crate::thresholds::{moves, steering};
use crate::tuning::{Steering, Tuning};

use super::{Answer, KnobsIn, Law, Move, Proposal, Senses, SetMotion, Words};

pub use knobs::Swim;

const NAME: Name = Name::new("swim");

impl<V: Geometry> Move<V> for Swim {
    const NAME: Name = NAME;
    const WORDS: Words = Words::MODE.gaits(&["dive"]).jumps(&["swim"]);
    const KNOBS_IN: KnobsIn<Self> = KnobsIn::Field(|tuning| &tuning.swim);
    type Memory = ();

    fn is_enabled(&self) -> bool {
        self.enabled >= 0.5
    }

    #[inline(always)] // into the list
    fn propose(&self, senses: &Senses<'_, V>, (): &()) -> Answer<V> {
        match senses.water {
            Some(depth) if senses.tuning.swim.speed > 0.0 && !senses.from_above => in_water(senses, depth),
            _ => Answer::Nothing,
        }
    }
}

#[inline(never)]
fn in_water<V: Geometry>(senses: &Senses<'_, V>, depth: f32) -> Answer<V> {
    let name = NAME;
    let swim = &senses.tuning.swim;
    let height = senses.hull.height();
    // The distance up to the floating position.
    let up = depth - swim.float * height;
    let swims = senses.state.mode == Mode::Move(name);
    let deep = if senses.standing() || !swims { up > 0.0 } else { up > -moves::OUT_OF_WATER * height };
    let jumps_out =
        senses.state.air.is_some_and(|air| air.rise != Rise::Over) && up < moves::OUT_OF_WATER * height;
    if !deep || jumps_out || senses.maneuver().is_some() {
        return Answer::Nothing;
    }
    if senses.intent.pressed.contains(Actions::JUMP)
        && swim.jump_height > 0.0
        && up < moves::OUT_OF_WATER * height
    {
        let rise = V::UP * senses.tuning.speed_to_rise(swim.jump_height);
        let velocity = senses.velocity_in_world().flat() + rise;
        return Proposal::jump_off(name, velocity).into();
    }
    let (along, steered_up) = steered(senses, up);
    let dives = steered_up < 0.0;
    let rise = if dives {
        steered_up
    } else if steered_up > 0.0 && up > 0.0 {
        steered_up.min(stopping_speed(senses, up))
    } else {
        floating(senses, up)
    };
    let target = along + senses.push * swim.reach_time + V::UP * rise;
    let velocity = senses.velocity_in_world();
    // Feet find ground where they could stand with the head above water.
    let lands = up <= moves::OUT_OF_WATER * height && !dives;
    let gait = dives.then_some(Gait::Move(Name::new("dive")));
    let swimming = Proposal::of(name);
    let gait = gait.or(swimming.gait);
    // While it falls, it has passed the point where braking begins.
    let down = -velocity.height();
    let has_come_in = !swims && up > 0.0 && up <= down * senses.dt;
    let swum = swum(senses, velocity, target, if has_come_in { up } else { 0.0 });
    let displacement = swum.displacement - if senses.standing() { senses.carried_by() } else { V::ZERO };
    let law = if lands {
        Law::Set(SetMotion { displacement, from: velocity, to: swum.velocity, gravity: false })
    } else {
        Law::Hold { displacement, velocity: swum.velocity, lands: false }
    };
    Proposal { law, gait, ..swimming }.into()
}

/// The velocity that is steered for, horizontally, and the vertical speed (below 0 for down): by
/// the stick in a side view, by the look in three dimensions, by crouch and jump in both.
fn steered<V: Geometry>(senses: &Senses<'_, V>, up: f32) -> (V, f32) {
    let swim = &senses.tuning.swim;
    let speed = swim.speed * senses.pace;
    let held = senses.intent.held;
    let mut along = senses.steer * speed;
    let mut rise = senses.steered_up() * speed;
    let pitch = senses.intent.look.pitch;
    let by_look = V::DIMENSION == 3
        && matches!(senses.tuning.steering.in_dimension(3), Steering::View | Steering::Gaze)
        && pitch.is_finite()
        && pitch.abs() >= swim.pitch;
    if by_look {
        let ahead = V::FORWARD.turned(senses.intent.look.yaw);
        let forward = along.dot(ahead);
        // Swimming up out of the water is horizontal.
        let leads_out = pitch * forward > 0.0 && up <= moves::THERE * senses.hull.clearance();
        if !leads_out {
            rise = forward * libm::sinf(pitch);
            along -= ahead * (forward * (1.0 - libm::cosf(pitch)));
        }
    }
    if held.contains(Actions::CROUCH) {
        rise = -swim.dive_speed;
    } else if held.contains(Actions::JUMP) && up > moves::OUT_OF_WATER * senses.hull.height() {
        rise = swim.dive_speed;
    }
    if rise.abs() < steering::IN_WATER * speed { (along, 0.0) } else { (along, rise) }
}

/// The upward speed from which the water stops the body at its floating position.
fn stopping_speed<V: Geometry>(senses: &Senses<'_, V>, up: f32) -> f32 {
    let swim = &senses.tuning.swim;
    let slows =
        if swim.reach_time > 0.0 { moves::SLOWS * swim.speed / swim.reach_time } else { f32::INFINITY };
    (up.abs() / moves::SETTLING.max(senses.dt)).min((2.0 * slows * up.abs()).sqrt())
}

/// The upward speed with which the body reaches its floating position by itself: none below the
/// neutral depth.
fn floating<V: Geometry>(senses: &Senses<'_, V>, up: f32) -> f32 {
    let swim = &senses.tuning.swim;
    let is_neutral = swim.neutral_depth > 0.0 && up > swim.neutral_depth;
    if is_neutral {
        return 0.0;
    }
    if up.abs() < moves::THERE * senses.hull.clearance() {
        // A body that sinks past it is braked as if it were already past.
        let sinks = senses.velocity.height() < 0.0 && swim.float_speed > 0.0;
        return if sinks { f32::MIN_POSITIVE } else { 0.0 };
    }
    // Heavy bodies sink where they are under water.
    if swim.float_speed < 0.0 {
        return if up > 0.0 { swim.float_speed } else { -stopping_speed(senses, up) };
    }
    up.signum() * swim.float_speed.min(stopping_speed(senses, up))
}

/// The displacement of a tick in water, and the velocity at its end.
struct Swum<V> {
    displacement: V,
    velocity: V,
}

/// Changes a velocity toward another, exactly at any tick rate. The vertical component is separate,
/// so that a wall that is steered into does not keep the body from coming to rest at its floating
/// position.
///
/// A body that floats is braked from any downward speed; others are braked from speeds above that
/// of swimming. The rate is a + k·v², where a is gravity over `swim.sink` and k is `swim.drag`.
/// After a fall of height h it reaches a depth of ln(1 + 2·g·h·k/a) / 2k, about `swim.sink` × h for
/// a low fall. Horizontally, a speed above that of swimming decays by e^(−t/`swim.reach_time`). The
/// body is `past` metres past the point where it would have begun to brake.
#[inline(never)]
fn swum<V: Geometry>(senses: &Senses<'_, V>, velocity: V, target: V, past: f32) -> Swum<V> {
    let (tuning, dt) = (senses.tuning, senses.dt);
    let swim = &tuning.swim;
    let (mut displacement, mut left) = (V::ZERO, dt);
    let mut rise = velocity.height();
    let least = (-target.height()).max(0.0);
    let fastest = if target.height() > 0.0 { 0.0 } else { swim.speed.max(swim.dive_speed) };
    if -rise > fastest.max(least) {
        let gravity = tuning.gravity() * tuning.fall.gravity;
        let speed = -rise;
        // The speed that it had there, and the time since.
        let (began, since) = if speed >= tuning.fall.terminal_speed {
            (speed, past / speed)
        } else {
            let began = (speed * speed - 2.0 * gravity * past).max(0.0).sqrt();
            (began, (speed - began) / gravity)
        };
        let brake = Brake { rate: gravity / swim.sink, drag: swim.drag };
        let (end, down, time) = brake.slowed(began.max(least), least, since + dt);
        displacement -= V::UP * (down - past);
        rise = -end;
        left = (since + dt - time).min(dt);
    }
    let (end, up) = approach_speed(rise, target.height(), rate(tuning), left);
    displacement += V::UP * up;
    // The horizontal component.
    let mut level = velocity.flat();
    let speed = level.length();
    let most = swim.speed.max(target.flat().length());
    let mut left = dt;
    if speed > most && most > 0.0 && swim.reach_time > 0.0 {
        let time = (swim.reach_time * libm::logf(speed / most)).min(dt);
        let fraction = libm::expf(-time / swim.reach_time);
        displacement += level * (swim.reach_time * (1.0 - fraction));
        level *= fraction;
        left -= time;
    }
    let change = target.flat() - level;
    let length = change.length();
    let (done, along) = approach_speed(0.0, length, rate(tuning), left);
    let direction = change.direction().unwrap_or(V::ZERO);
    displacement += level * left + direction * along;
    Swum { displacement, velocity: level + direction * done + V::UP * end }
}

/// The acceleration of swimming, in m/s².
fn rate(tuning: &Tuning) -> f32 {
    let swim = &tuning.swim;
    if swim.reach_time > 0.0 { swim.speed / swim.reach_time } else { f32::INFINITY }
}
