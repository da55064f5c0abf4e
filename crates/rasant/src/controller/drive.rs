//! From what is wished to the way of the tick.
//!
//! Velocities change at uniform rates between moments that are worked out
//! exactly: when the wished speed is reached, when a turn back passes through
//! standing, the top of a rise, the terminal speed. The way is the integral of
//! the velocity over those parts, so it does not depend on the tick rate.

use smallvec::SmallVec;

use crate::input::Intent;
use crate::space::{Bounds, Vector};
use crate::travel::{Leg, turned_onto};
use crate::tuning::Tuning;

use super::local::{Local, around_feet, room_aside};
use super::state::{FootingKind, Mode, State};

/// What a tick sets out to do.
pub(super) enum Drive<V> {
    /// Along the ground.
    Walk { way: V, velocity: V },
    /// Through the air, leg by leg.
    Fly { legs: SmallVec<[Leg<V>; 2]> },
}

impl<V: Vector> Drive<V> {
    /// Bounds of the displacements on the way that is set out, with some room
    /// to be turned aside.
    pub(super) fn reach(&self, tuning: &Tuning) -> Bounds<V> {
        let mut at = V::ZERO;
        let mut straight = Bounds { min: at, max: at };
        for way in self.ways() {
            at += way;
            straight = straight.joined(Bounds { min: at, max: at });
        }
        around_feet(straight.widened(V::splat(room_aside(self.length()))), tuning)
    }

    /// Bounds of every displacement that this can lead to: sliding and turning
    /// onto slopes shorten a way, but can point it anywhere.
    pub(super) fn furthest(&self, tuning: &Tuning) -> Bounds<V> {
        let anywhere = V::splat(self.length());
        around_feet(Bounds { min: -anywhere, max: anywhere }, tuning)
    }

    fn length(&self) -> f32 {
        self.ways().map(V::length).sum()
    }

    fn ways(&self) -> impl Iterator<Item = V> {
        let (walk, legs) = match self {
            Self::Walk { way, .. } => (Some(*way), &[][..]),
            Self::Fly { legs } => (None, &legs[..]),
        };
        walk.into_iter().chain(legs.iter().map(|leg| leg.way))
    }
}

/// Where the player wants to go, in the body's frame, of length 0 to 1.
pub(super) fn wish<V: Vector>(intent: &Intent) -> V {
    let steer = intent.safe_steer();
    if V::DIMENSION == 2 {
        return V::RIGHT * steer.x;
    }
    let ahead = V::RIGHT * steer.x + V::FORWARD * steer.y;
    let yaw = intent.look.yaw;
    if yaw == 0.0 || !yaw.is_finite() { ahead } else { ahead.turned(yaw) }
}

/// Sets out the way of the tick for the mode in charge.
pub(super) fn drive<V: Vector>(
    tuning: &Tuning,
    state: &State<V>,
    body: &Local<V>,
    wish: V,
    dt: f32,
) -> Drive<V> {
    match body.mode {
        Mode::Afoot => drive_afoot(tuning, body, wish, dt),
        Mode::Aloft => drive_aloft(tuning, state, body, wish, dt),
    }
}

fn drive_afoot<V: Vector>(tuning: &Tuning, body: &Local<V>, wish: V, dt: f32) -> Drive<V> {
    let walk = &tuning.walk;
    let surface = &body.surface;
    // Speeds are along the surface, directions as seen from above.
    let level = level_of(body.velocity);
    let grip = |time: f32| time / surface.traction.max(f32::MIN_POSITIVE);
    let times = Times {
        speed: walk.speed.abs(),
        reach: grip(walk.reach_time),
        stop: grip(walk.stop_time),
        turn: grip(walk.turn_time),
    };
    let (velocity, way) = times.approach(level, wish * (walk.speed * surface.pace), dt);
    let normal = body.ground.normal;
    let drift = if surface.drift == V::ZERO { V::ZERO } else { turned_onto(surface.drift, normal) * dt };
    Drive::Walk { way: turned_onto(way, normal) + drift, velocity: turned_onto(velocity, normal) }
}

/// A velocity along the ground, turned level without losing speed.
fn level_of<V: Vector>(velocity: V) -> V {
    match velocity.flat().direction() {
        Some(direction) => direction * velocity.length(),
        None => V::ZERO,
    }
}

fn drive_aloft<V: Vector>(tuning: &Tuning, state: &State<V>, body: &Local<V>, wish: V, dt: f32) -> Drive<V> {
    let wish = if state.footing.kind == FootingKind::Steep {
        without_climbing(wish, body.ground.normal)
    } else {
        wish
    };
    let times = Times {
        speed: tuning.walk.speed.abs(),
        reach: tuning.air.reach_time,
        stop: tuning.air.stop_time,
        turn: tuning.air.turn_time,
    };
    let target = wish * tuning.walk.speed;
    let mut level = body.velocity.flat();
    let mut legs = SmallVec::new();
    for part in fall(body.velocity.height(), &Weights::of(tuning, state.jump_cut), dt) {
        let (next, way) = times.approach(level, target, part.time);
        legs.push(Leg {
            way: way + V::UP * part.way,
            from: level + V::UP * part.from,
            to: next + V::UP * part.to,
        });
        level = next;
    }
    Drive::Fly { legs }
}

/// A wish without what pushes up a slope that is too steep to walk.
fn without_climbing<V: Vector>(wish: V, ground: V) -> V {
    match ground.flat().direction() {
        Some(away) if wish.dot(away) < 0.0 => wish.slid_along(away),
        _ => wish,
    }
}

/// A part of a tick's rise or fall in which the acceleration is uniform.
#[derive(Clone, Copy, Debug, PartialEq)]
struct Part {
    time: f32,
    way: f32,
    from: f32,
    to: f32,
}

/// The accelerations downward, in m/s², and the speed that ends them.
struct Weights {
    rising: f32,
    falling: f32,
    terminal: f32,
}

impl Weights {
    fn of(tuning: &Tuning, jump_cut: bool) -> Self {
        let gravity = tuning.gravity();
        Self {
            rising: if jump_cut { gravity * tuning.jump.cut_gravity } else { gravity },
            falling: gravity * tuning.fall.gravity,
            terminal: -tuning.fall.terminal_speed,
        }
    }
}

/// The rise and fall of a tick that begins with an upward speed: cut at the
/// top, and at most at the terminal speed.
fn fall(speed: f32, weights: &Weights, dt: f32) -> SmallVec<[Part; 2]> {
    let mut parts = SmallVec::new();
    let (mut from, mut left) = (speed, dt);
    if from > 0.0 {
        let time = (from / weights.rising).min(dt);
        let to = if time < dt { 0.0 } else { from - weights.rising * dt };
        parts.push(Part { time, way: 0.5 * (from + to) * time, from, to });
        (from, left) = (to, dt - time);
    }
    if left > 0.0 {
        parts.push(sink(from.max(weights.terminal), weights, left));
    }
    parts
}

/// The part of a tick on the way down.
fn sink(from: f32, weights: &Weights, time: f32) -> Part {
    let Weights { falling, terminal, .. } = *weights;
    let to = from - falling * time;
    if to >= terminal {
        return Part { time, way: 0.5 * (from + to) * time, from, to };
    }
    let faster = (from - terminal) / falling;
    let way = 0.5 * (from + terminal) * faster + terminal * (time - faster);
    Part { time, way, from, to: terminal }
}

/// How quickly a velocity follows a wish: times from and to `speed`.
struct Times {
    speed: f32,
    reach: f32,
    stop: f32,
    turn: f32,
}

impl Times {
    /// The velocity after `dt` on the way from `from` to `target`, and the
    /// displacement.
    fn approach<V: Vector>(&self, from: V, target: V, dt: f32) -> (V, V) {
        let against = from.dot(target);
        if against < 0.0 {
            // Turning back: at the turning rate until nothing is left of the
            // old direction, and at the reaching rate from there.
            let change = target - from;
            let share = -against / change.dot(target);
            let standing = from + change * share;
            let (velocity, way, left) = ramp(from, standing, self.rate(self.turn), dt);
            if left <= 0.0 {
                return (velocity, way);
            }
            let (velocity, more, left) = ramp(standing, target, self.rate(self.reach), left);
            return (velocity, way + more + velocity * left);
        }
        let slower = target.length_squared() < from.length_squared();
        let time = if slower { self.stop } else { self.reach };
        let (velocity, way, left) = ramp(from, target, self.rate(time), dt);
        (velocity, way + velocity * left)
    }

    fn rate(&self, time: f32) -> f32 {
        if time > 0.0 { self.speed / time } else { f32::INFINITY }
    }
}

/// Changes a velocity evenly toward `to` for at most `dt`: the velocity, the
/// way, and the time left when `to` is reached.
fn ramp<V: Vector>(from: V, to: V, rate: f32, dt: f32) -> (V, V, f32) {
    let change = to - from;
    let needed = change.length() / rate;
    if needed.is_nan() || needed <= dt {
        let time = if needed.is_nan() { 0.0 } else { needed };
        (to, (from + to) * (0.5 * time), dt - time)
    } else {
        let reached = from + change * (dt / needed);
        (reached, (from + reached) * (0.5 * dt), 0.0)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use glam::Vec2;

    /// The way of one tick is that of many short ones.
    #[test]
    fn a_way_is_the_integral_whatever_the_tick() {
        let times = Times { speed: 4.0, reach: 0.13, stop: 0.07, turn: 0.05 };
        for (from, target) in [(0.0, 4.0), (4.0, 0.0), (4.0, -4.0), (-1.0, 2.5), (3.0, 1.0)] {
            let (whole, way) = times.approach(Vec2::X * from, Vec2::X * target, 0.1);
            let (mut velocity, mut sum) = (Vec2::X * from, Vec2::ZERO);
            for _ in 0..1000 {
                let (next, step) = times.approach(velocity, Vec2::X * target, 1e-4);
                velocity = next;
                sum += step;
            }
            assert!((whole - velocity).length() < 1e-3, "{from} to {target}");
            assert!((way - sum).length() < 1e-4, "{from} to {target}: {way} {sum}");
        }
    }

    #[test]
    fn a_fall_ends_at_the_terminal_speed() {
        let mut tuning = Tuning::default();
        tuning.fall.terminal_speed = 3.0;
        let parts = fall(-1.0, &Weights::of(&tuning, false), 1.0);
        assert_eq!(parts.len(), 1);
        assert_eq!(parts[0].to, -3.0);
        assert!(parts[0].way > -3.0 && parts[0].way < -2.9);
    }
}
