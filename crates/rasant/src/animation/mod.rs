//! What an animation needs beside the gait, and actions that play over the motion.
//!
//! An [`PoseMemory`] keeps what a single state cannot tell: which side a sprite was last mirrored to,
//! how the body leans, how hard it has landed. [`Controller`](crate::Controller) has one, and puts
//! its values into the [`Pose`](crate::Pose). It has no effect on the motion.
//!
//! An [`Overlay`] is an action of the upper body (an attack, a wave, a load that is carried) with
//! phases, during which the legs go on as they are, or more slowly.

pub(crate) mod overlay;

use glam::{Quat, Vec2, Vec3};

use crate::contact::{Hull, HullShape};
use crate::space::Vector;
use crate::state::{Event, State};
use crate::thresholds::drawing;
use crate::tuning::Tuning;

pub use overlay::{Overlay, OverlayPlan, knobs::OverlayKnobs};

/// The values of an animation that depend on earlier ticks: plain data.
///
/// A host that calls [`tick`](crate::tick()) on its own states keeps one for each body.
///
/// ```
/// use rasant::animation::{PoseMemory, Step};
/// use rasant::glam::Vec2;
/// use rasant::{Hull, Intent, Level, Piece, Pose, State, Tuning, tick};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// let level = builder.build()?;
/// let (tuning, hull) = (Tuning::default(), Hull::capsule(0.35, 1.8)?);
/// let mut now = State::at(Vec2::Y * 2.0);
/// let (mut before, mut memory) = (now, PoseMemory::new(&now));
/// for _ in 0..60 {
///     before = now;
///     let steer = Intent::steering(-1.0, 0.0);
///     let events = tick(&tuning, &hull, &mut now, &steer, &level, 1.0 / 60.0);
///     let step = Step { before: &before, now: &now, events: &events, dt: 1.0 / 60.0 };
///     memory.tick(&step, &tuning, &hull);
/// }
/// let pose = Pose::between(&before, &now, &memory, &tuning, &hull, 0.5);
/// assert_eq!(pose.mirror, -1.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct PoseMemory {
    before: Shown,
    now: Shown,
    /// True if both are the same.
    is_settled: bool,
}

/// The values at one time, as in [`Pose`](crate::Pose).
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub(crate) struct Shown {
    pub mirror: f32,
    pub turn_rate: f32,
    /// The tangents of the lean: the smoothed horizontal acceleration as a multiple of gravity. After a
    /// tick toward the right of the player and forward, in a pose as the body sees it.
    pub lean: Vec2,
    pub landing: f32,
    pub orientation: Quat,
}

/// A tick that is over, for a host that keeps its own states.
#[derive(Clone, Copy, Debug)]
pub struct Step<'a, V> {
    /// The state before the tick.
    pub before: &'a State<V>,
    /// The state after it.
    pub now: &'a State<V>,
    /// The events of the tick.
    pub events: &'a [Event<V>],
    /// The length of the tick in seconds.
    pub dt: f32,
}

impl PoseMemory {
    /// The values of a body that has been as it is for a long time.
    #[must_use]
    pub fn new<V: Vector>(state: &State<V>) -> Self {
        let mirror = if state.facing.dot(state.right) < -drawing::MIRRORS { -1.0 } else { 1.0 };
        let shown =
            Shown { mirror, turn_rate: 0.0, lean: Vec2::ZERO, landing: 0.0, orientation: Quat::IDENTITY };
        Self { before: shown, now: shown, is_settled: true }
    }

    /// Follows a tick. Call it after each one.
    #[inline]
    pub fn tick<V: Vector>(&mut self, step: &Step<'_, V>, tuning: &Tuning, hull: &Hull) {
        let Step { before, now, events, dt } = *step;
        let still = before.facing == now.facing
            && before.velocity == now.velocity
            && before.ground_velocity == now.ground_velocity
            && before.right == now.right;
        let rolls = matches!(hull.shape(), HullShape::Ball { .. }) && before.position != now.position;
        if still && !rolls && events.is_empty() && self.is_quiet() {
            // The values go on as they are.
            if !self.is_settled {
                (self.before, self.is_settled) = (self.now, true);
            }
        } else if dt > 0.0 {
            self.is_settled = false;
            self.follow(step, tuning, hull);
        }
    }

    /// Takes back the last tick.
    pub(crate) fn undo(&mut self) {
        self.now = self.before;
    }

    /// Returns true if a tick of a body at rest changes nothing.
    pub(crate) fn is_at_rest(&self) -> bool {
        self.is_settled && self.is_quiet()
    }

    /// Returns true if a body that does not move changes nothing.
    fn is_quiet(&self) -> bool {
        let Shown { turn_rate, lean, landing, .. } = self.now;
        turn_rate == 0.0 && lean == Vec2::ZERO && landing == 0.0
    }

    #[inline(never)]
    fn follow<V: Vector>(&mut self, step: &Step<'_, V>, tuning: &Tuning, hull: &Hull) {
        let (was, now) = (self.now, step.now);
        if step.events.iter().any(Event::is_elsewhere) {
            *self = Self::new(now);
            (self.now.orientation, self.now.mirror) = (was.orientation, was.mirror);
            self.before = self.now;
            return;
        }
        self.before = was;
        let side = now.facing.dot(now.right);
        self.now = Shown {
            mirror: if side.abs() > drawing::MIRRORS { side.signum() } else { was.mirror },
            turn_rate: step.turn_rate(),
            lean: step.lean(was.lean, tuning),
            landing: step.landing(was.landing, tuning),
            orientation: match hull.shape() {
                HullShape::Ball { radius } => step.rolled(was.orientation, radius),
                _ => Quat::IDENTITY,
            },
        };
    }

    /// The values at a fraction `blend` of the last tick, for a body that faces `facing`.
    pub(crate) fn at<V: Vector>(&self, now: &State<V>, facing: V, blend: f32) -> Shown {
        let Self { before, now: after, .. } = self;
        Shown {
            mirror: after.mirror,
            turn_rate: before.turn_rate + (after.turn_rate - before.turn_rate) * blend,
            lean: in_view_of_body(now, facing, before.lean.lerp(after.lean, blend)),
            landing: before.landing + (after.landing - before.landing) * blend,
            orientation: before.orientation.lerp(after.orientation, blend),
        }
    }
}

impl<V: Vector> Step<'_, V> {
    /// The rate of the turn, in radians per second: 0 in a side view, which turns at once.
    fn turn_rate(&self) -> f32 {
        let Self { before, now, dt, .. } = *self;
        if before.facing == now.facing || (V::DIMENSION == 2 && !now.from_above) {
            return 0.0;
        }
        let frame = now.frame();
        frame.local(before.facing).turn_to(frame.local(now.facing)) / dt
    }

    /// Follows the horizontal acceleration with a half-life, in multiples of gravity, at most 1.
    fn lean(&self, was: Vec2, tuning: &Tuning) -> Vec2 {
        let Self { before, now, dt, .. } = *self;
        let change = (now.velocity + now.ground_velocity) - (before.velocity + before.ground_velocity);
        let target = across(now, change) * (1.0 / (dt * tuning.gravity()));
        let target = target.clamp_length_max(1.0);
        let lean = target + (was - target) * kept_after(dt, tuning.walk.lean_time);
        if lean.length_squared() < drawing::LEANS * drawing::LEANS { Vec2::ZERO } else { lean }
    }

    /// The strength of the last landing, which fades.
    fn landing(&self, was: f32, tuning: &Tuning) -> f32 {
        let faded = was * kept_after(self.dt, tuning.fall.landing_time);
        let faded = if faded < drawing::LANDS { 0.0 } else { faded };
        self.events.iter().fold(faded, |strength, event| match event {
            Event::Landed { speed, .. } => strength.max((speed / tuning.fall.terminal_speed).clamp(0.0, 1.0)),
            _ => strength,
        })
    }

    /// The orientation of a ball that rolls without slipping.
    fn rolled(&self, was: Quat, radius: f32) -> Quat {
        let Self { before, now, dt, .. } = *self;
        if !(now.footing.is_firm() || now.from_above) {
            return was;
        }
        let moved = (now.position - before.position) + (now.remainder - before.remainder);
        let along = moved - now.ground_velocity * dt;
        let normal = if now.from_above && V::DIMENSION == 2 { Vec3::Z } else { space(now.footing.normal) };
        let axis = normal.cross(space(along));
        let angle = axis.length() / radius;
        if angle < f32::EPSILON {
            return was;
        }
        let (sine, cosine) = (libm::sinf(0.5 * angle), libm::cosf(0.5 * angle));
        let axis = axis * (sine / (angle * radius));
        (Quat::from_xyzw(axis.x, axis.y, axis.z, cosine) * was).normalize()
    }
}

/// The part of a value that is left after a time, by its half-life; none if that is 0.
fn kept_after(time: f32, half_life: f32) -> f32 {
    if half_life > 0.0 { libm::exp2f(-time / half_life) } else { 0.0 }
}

fn space<V: Vector>(vector: V) -> Vec3 {
    let [x, y, z] = vector.to_array();
    Vec3::new(x, y, z)
}

/// The horizontal part of a vector of the world: toward the right of the player, and forward. In a
/// side view there is no forward.
fn across<V: Vector>(state: &State<V>, vector: V) -> Vec2 {
    let [x, y, z] = state.frame().local(vector).to_array();
    match V::DIMENSION {
        2 if state.from_above => Vec2::new(x, y),
        2 => Vec2::new(x, 0.0),
        _ => Vec2::new(x, -z),
    }
}

/// A horizontal vector as a body that faces `facing` sees it: toward its right, and forward. In a side
/// view all of it is forward or back.
pub(crate) fn in_view_of_body<V: Vector>(state: &State<V>, facing: V, vector: Vec2) -> Vec2 {
    let ahead = across(state, facing);
    if V::DIMENSION == 2 && !state.from_above {
        return Vec2::new(0.0, vector.x * if ahead.x < 0.0 { -1.0 } else { 1.0 });
    }
    let ahead = ahead.try_normalize().unwrap_or(Vec2::Y);
    Vec2::new(vector.dot(Vec2::new(ahead.y, -ahead.x)), vector.dot(ahead))
}

/// The velocity along the ground as the body sees it, as a fraction of `top`.
pub(crate) fn motion<V: Vector>(state: &State<V>, facing: V, velocity: V, top: f32) -> Vec2 {
    if top <= 0.0 {
        return Vec2::ZERO;
    }
    let level = in_view_of_body(state, facing, across(state, velocity));
    // Speeds are along the surface, directions as seen from above.
    let speed = if state.footing.is_firm() { velocity.length() } else { level.length() };
    level.normalize_or_zero() * (speed / top)
}
