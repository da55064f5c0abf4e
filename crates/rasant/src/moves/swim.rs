//! Swimming: in water that is deep enough to float in.

use crate::contact::Geometry;
use crate::input::Actions;
#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use crate::state::{Gait, Mode, Name, Rise};
use crate::tuning::{Steering, Tuning};

use super::{Answer, Law, Move, Proposal, Senses, SetWay, no_knobs};

/// Floats at the surface, swims where it is steered or looks, dives, and jumps out where it floats.
/// Water brakes what falls into it.
#[derive(Clone, Copy, Debug)]
pub struct Swim;

no_knobs!(Swim);

/// Higher than this above where it floats, as a fraction of the hull's height, it is out of
/// the water.
const OUT: f32 = 0.1;
/// How long it takes to come to the place where it floats from nearby, in seconds.
const SETTLING: f32 = 0.15;
/// How much of what the water slows it by it counts on to stop where it floats.
const SLOWS: f32 = 0.6;
/// Nearer than this to where it floats, in clearances, the body is there.
const THERE: f32 = 0.02;
/// Less steering up or down than this, of 1, is none.
const LEVEL: f32 = 0.1;

impl<V: Geometry> Move<V> for Swim {
    const NAME: Name = Name::new("swim");
    type Memory = ();

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
    let name = <Swim as Move<V>>::NAME;
    let swim = &senses.tuning.swim;
    let height = senses.hull.height();
    // How far up it is to where it floats.
    let up = depth - swim.float * height;
    let swims = senses.state.mode == Mode::Move(name);
    let deep = if senses.standing() || !swims { up > 0.0 } else { up > -OUT * height };
    let jumps_out = senses.state.air.is_some_and(|air| air.rise != Rise::Over) && up < OUT * height;
    if !deep || jumps_out || senses.maneuver().is_some() {
        return Answer::Nothing;
    }
    if senses.intent.pressed.has(Actions::JUMP) && swim.jump_height > 0.0 && up < OUT * height {
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
    // Feet find ground where they could stand with the head out.
    let lands = up <= OUT * height && !dives;
    let gait = dives.then_some(Gait::Move(Name::new("dive")));
    let swimming = Proposal::of(name);
    let gait = gait.or(swimming.gait);
    // Falling, it has come further than to where the braking begins.
    let down = -velocity.height();
    let has_come_in = !swims && up > 0.0 && up <= down * senses.dt;
    let swum = swum(senses, velocity, target, if has_come_in { up } else { 0.0 });
    let way = swum.displacement - if senses.standing() { senses.carried_by() } else { V::ZERO };
    let law = if lands {
        Law::Set(SetWay { way, from: velocity, to: swum.velocity, gravity: false })
    } else {
        Law::Hold { way, velocity: swum.velocity, lands: false }
    };
    Proposal { law, gait, ..swimming }.into()
}

/// The velocity along that is steered for, level, and how fast it is steered up, below 0 for down: by
/// the stick in a side view, by the look in space, by crouch and jump in both.
fn steered<V: Geometry>(senses: &Senses<'_, V>, up: f32) -> (V, f32) {
    let swim = &senses.tuning.swim;
    let speed = swim.speed * senses.pace;
    let held = senses.intent.held;
    let mut along = senses.wish * speed;
    let mut rise = senses.steered_up() * speed;
    let pitch = senses.intent.look.pitch;
    let by_look = V::DIMENSION == 3
        && matches!(senses.tuning.steering.in_dimension(3), Steering::View | Steering::Gaze)
        && pitch.is_finite()
        && pitch.abs() >= swim.pitch;
    if by_look {
        let ahead = V::FORWARD.turned(senses.intent.look.yaw);
        let forward = along.dot(ahead);
        // Up out of the water is level.
        let leads_out = pitch * forward > 0.0 && up <= THERE * senses.hull.clearance();
        if !leads_out {
            rise = forward * libm::sinf(pitch);
            along -= ahead * (forward * (1.0 - libm::cosf(pitch)));
        }
    }
    if held.has(Actions::CROUCH) {
        rise = -swim.dive_speed;
    } else if held.has(Actions::JUMP) && up > OUT * senses.hull.height() {
        rise = swim.dive_speed;
    }
    if rise.abs() < LEVEL * speed { (along, 0.0) } else { (along, rise) }
}

/// The speed up from which the water stops it where it floats.
fn stopping_speed<V: Geometry>(senses: &Senses<'_, V>, up: f32) -> f32 {
    let swim = &senses.tuning.swim;
    let slows = if swim.reach_time > 0.0 { SLOWS * swim.speed / swim.reach_time } else { f32::INFINITY };
    (up.abs() / SETTLING.max(senses.dt)).min((2.0 * slows * up.abs()).sqrt())
}

/// The speed up with which it comes to where it floats, by itself: none below the neutral depth.
fn floating<V: Geometry>(senses: &Senses<'_, V>, up: f32) -> f32 {
    let swim = &senses.tuning.swim;
    let is_neutral = swim.neutral_depth > 0.0 && up > swim.neutral_depth;
    if is_neutral {
        return 0.0;
    }
    if up.abs() < THERE * senses.hull.clearance() {
        // Who comes down past it is braked as who is past it.
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

/// Brings a velocity toward another, exactly at any tick rate; up and down by itself, so that a wall
/// that is steered into does not keep the body from coming to rest where it floats.
///
/// Who floats up is braked from any speed down, others from what is faster than they swim: at a rate of
/// a + k·v², where a is gravity over `swim.sink` and k is `swim.drag`. After a fall of height h it
/// comes as deep as ln(1 + 2·g·h·k/a) / 2k, about `swim.sink` × h for a low one. Sideways a speed above
/// that of swimming falls off by e^(−t/`swim.reach_time`). The body is `past` metres past the place
/// where it would have begun to brake.
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
        // As fast as it was there, and the time since.
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
    let (end, up) = approach(rise, target.height(), rate(tuning), left);
    displacement += V::UP * up;
    // Sideways.
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
    let (done, along) = approach(0.0, length, rate(tuning), left);
    let direction = change.direction().unwrap_or(V::ZERO);
    displacement += level * left + direction * along;
    Swum { displacement, velocity: level + direction * done + V::UP * end }
}

/// How quickly swimming changes a velocity, in m/s².
fn rate(tuning: &Tuning) -> f32 {
    let swim = &tuning.swim;
    if swim.reach_time > 0.0 { swim.speed / swim.reach_time } else { f32::INFINITY }
}

/// The speed after `time` seconds at a uniform rate from one to another, and the distance.
fn approach(from: f32, to: f32, rate: f32, time: f32) -> (f32, f32) {
    let needed = (to - from).abs() / rate;
    if needed <= time {
        return (to, 0.5 * (from + to) * needed + to * (time - needed));
    }
    let end = from + (to - from).signum() * rate * time;
    (end, 0.5 * (from + end) * time)
}

/// A speed that falls off by rate + drag × speed².
struct Brake {
    /// In m/s².
    rate: f32,
    /// A metre.
    drag: f32,
}

impl Brake {
    /// The speed after at most `time` seconds, down to `least`, the distance, and the seconds it took.
    ///
    /// With c = √(drag / rate), the angle tan⁻¹(c·v) falls evenly, by √(rate·drag) a second; a change
    /// of the speed from v to w takes ln((1 + c²v²) / (1 + c²w²)) / 2·drag metres.
    fn slowed(&self, from: f32, least: f32, time: f32) -> (f32, f32, f32) {
        let Self { rate, drag } = *self;
        let is_even = drag * from * from < 1e-4 * rate;
        let c = (drag / rate).sqrt();
        let angle = |speed: f32| if is_even { 0.0 } else { libm::atanf(c * speed) };
        let needed =
            if is_even { (from - least) / rate } else { (angle(from) - angle(least)) / (rate * drag).sqrt() };
        let took = needed.min(time);
        let to = if needed <= time {
            least
        } else if is_even {
            from - rate * took
        } else {
            libm::tanf(angle(from) - (rate * drag).sqrt() * took) / c
        };
        let distance = if is_even {
            0.5 * (from + to) * took
        } else {
            let grows = (drag * (from * from - to * to)) / (rate + drag * to * to);
            libm::log1pf(grows) / (2.0 * drag)
        };
        (to, distance, took)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    /// One long tick is many short ones, each by Euler's rule in doubles.
    #[test]
    fn a_brake_is_the_same_in_one_tick_or_many() {
        for (rate, drag) in [(20.0, 0.0), (27.0, 0.2), (5.0, 1.0), (90.0, 1e-5)] {
            for (from, least, time) in [(20.0, 0.0, 0.1), (8.0, 2.0, 1.0), (3.0, 0.0, 0.05)] {
                let (to, distance, took) = Brake { rate, drag }.slowed(from, least, time);
                let (mut speed, mut way, mut passed) = (f64::from(from), 0.0, 0.0);
                let step = 1e-6;
                while speed > f64::from(least) && passed < f64::from(time) {
                    way += speed * step;
                    speed -= (f64::from(rate) + f64::from(drag) * speed * speed) * step;
                    passed += step;
                }
                assert!((f64::from(to) - speed).abs() < 1e-3, "{rate} {drag} {from}: {to}, {speed}");
                assert!((f64::from(distance) - way).abs() < 1e-3, "{rate} {drag} {from}: {distance}, {way}");
                assert!((f64::from(took) - passed).abs() < 1e-4, "{rate} {drag} {from}: {took}, {passed}");
            }
        }
    }
}
