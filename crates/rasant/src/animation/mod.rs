//! What an animation needs beside the gait, and actions that play over the motion.
//!
//! An [`Animator`] keeps what a single state cannot tell: which side a sprite was last mirrored to,
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
/// use rasant::animation::Animator;
/// use rasant::glam::Vec2;
/// use rasant::{Hull, Intent, Level, Piece, Pose, State, Tuning, tick};
///
/// let mut builder = Level::builder();
/// builder.add(Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// let level = builder.build()?;
/// let (tuning, hull) = (Tuning::default(), Hull::capsule(0.35, 1.8)?);
/// let mut now = State::at(Vec2::Y * 2.0);
/// let (mut before, mut animator) = (now, Animator::new(&now));
/// for _ in 0..60 {
///     before = now;
///     let steer = Intent::steering(-1.0, 0.0);
///     let events = tick(&tuning, &hull, &mut now, &steer, &level, 1.0 / 60.0);
///     animator.tick(&before, &now, &events, &tuning, &hull, 1.0 / 60.0);
/// }
/// let pose = Pose::between(&before, &now, &animator, &tuning, &hull, 0.5);
/// assert_eq!(pose.mirror, -1.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Animator {
    before: Shown,
    now: Shown,
    /// True if both are the same.
    is_settled: bool,
}

/// The values after a tick.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
struct Shown {
    mirror: f32,
    turn_rate: f32,
    /// The horizontal acceleration that the lean follows, as a multiple of gravity: toward the right
    /// of the player, and forward.
    lean: Vec2,
    landing: f32,
    orientation: Quat,
}

/// The values between two ticks, as [`Pose`](crate::Pose) has them.
pub(crate) struct Blended {
    pub mirror: f32,
    pub turn_rate: f32,
    pub lean: Vec2,
    pub landing: f32,
    pub orientation: Quat,
}

impl Animator {
    /// The values of a body that has been as it is for a long time.
    #[must_use]
    pub fn new<V: Vector>(state: &State<V>) -> Self {
        let mirror = if state.facing.dot(state.right) < -drawing::MIRRORS { -1.0 } else { 1.0 };
        let shown =
            Shown { mirror, turn_rate: 0.0, lean: Vec2::ZERO, landing: 0.0, orientation: Quat::IDENTITY };
        Self { before: shown, now: shown, is_settled: true }
    }

    /// Follows a tick of `dt` seconds from one state to the next. Call it after each tick, with the
    /// events of that tick.
    #[inline]
    pub fn tick<V: Vector>(
        &mut self,
        before: &State<V>,
        now: &State<V>,
        events: &[Event<V>],
        tuning: &Tuning,
        hull: &Hull,
        dt: f32,
    ) {
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
            self.follow(before, now, events, tuning, hull, dt);
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
    fn follow<V: Vector>(
        &mut self,
        before: &State<V>,
        now: &State<V>,
        events: &[Event<V>],
        tuning: &Tuning,
        hull: &Hull,
        dt: f32,
    ) {
        let was = self.now;
        if events.iter().any(Event::is_elsewhere) {
            *self = Self::new(now);
            (self.now.orientation, self.now.mirror) = (was.orientation, was.mirror);
            self.before = self.now;
            return;
        }
        self.before = was;
        let side = now.facing.dot(now.right);
        self.now = Shown {
            mirror: if side.abs() > drawing::MIRRORS { side.signum() } else { was.mirror },
            turn_rate: turn_rate(before, now, dt),
            lean: lean(was.lean, before, now, tuning, dt),
            landing: landing(was.landing, events, tuning, dt),
            orientation: match hull.shape() {
                HullShape::Ball { radius } => rolled(was.orientation, before, now, radius, dt),
                _ => Quat::IDENTITY,
            },
        };
    }

    /// The values at a fraction `blend` of the last tick, for a body that faces `facing`.
    pub(crate) fn at<V: Vector>(&self, now: &State<V>, facing: V, blend: f32) -> Blended {
        let Self { before, now: after, .. } = self;
        let lean = before.lean.lerp(after.lean, blend);
        let lean = in_view_of_body(now, facing, lean);
        Blended {
            mirror: after.mirror,
            turn_rate: before.turn_rate + (after.turn_rate - before.turn_rate) * blend,
            lean: Vec2::new(libm::atanf(lean.x), libm::atanf(lean.y)),
            landing: before.landing + (after.landing - before.landing) * blend,
            orientation: before.orientation.lerp(after.orientation, blend),
        }
    }
}

/// The rate of the last turn, in radians per second: 0 in a side view, which turns at once.
fn turn_rate<V: Vector>(before: &State<V>, now: &State<V>, dt: f32) -> f32 {
    if before.facing == now.facing || (V::DIMENSION == 2 && !now.from_above) {
        return 0.0;
    }
    let frame = now.frame();
    frame.local(before.facing).turn_to(frame.local(now.facing)) / dt
}

/// Follows the horizontal acceleration with a half-life, in multiples of gravity, at most 1.
fn lean<V: Vector>(was: Vec2, before: &State<V>, now: &State<V>, tuning: &Tuning, dt: f32) -> Vec2 {
    let change = (now.velocity + now.ground_velocity) - (before.velocity + before.ground_velocity);
    let target = across(now, change) * (1.0 / (dt * tuning.gravity()));
    let target = target.clamp_length_max(1.0);
    let half_life = tuning.walk.lean_time;
    let kept = if half_life > 0.0 { libm::exp2f(-dt / half_life) } else { 0.0 };
    let lean = target + (was - target) * kept;
    if lean.length_squared() < drawing::LEANS * drawing::LEANS { Vec2::ZERO } else { lean }
}

/// The strength of the last landing, which fades.
fn landing<V>(was: f32, events: &[Event<V>], tuning: &Tuning, dt: f32) -> f32 {
    let half_life = tuning.fall.landing_time;
    let faded = if half_life > 0.0 { was * libm::exp2f(-dt / half_life) } else { 0.0 };
    let faded = if faded < drawing::LANDS { 0.0 } else { faded };
    events.iter().fold(faded, |strength, event| match event {
        Event::Landed { speed, .. } => strength.max((speed / tuning.fall.terminal_speed).clamp(0.0, 1.0)),
        _ => strength,
    })
}

/// The orientation of a ball that rolls without slipping.
fn rolled<V: Vector>(was: Quat, before: &State<V>, now: &State<V>, radius: f32, dt: f32) -> Quat {
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
