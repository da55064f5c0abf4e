//! What is drawn.

use glam::{Quat, Vec2};

use crate::animation::{Overlay, PoseMemory, Shown, motion};
use crate::contact::Hull;
use crate::space::{Vector, between, within};
use crate::state::{Footing, Gait, Mode, Name, Phase, State};
use crate::tuning::Tuning;

/// What to draw between two ticks.
///
/// ```
/// use rasant::glam::Vec2;
/// use rasant::{Clock, Controller, Hull, Intent, Tuning};
/// use std::time::Duration;
///
/// # let mut builder = rasant::Level::builder();
/// # builder.add(rasant::Piece::block(Vec2::new(-9.0, -1.0), Vec2::new(9.0, 0.0))?);
/// # let level = builder.build()?;
/// let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
/// let mut clock = Clock::new(60)?;
/// let frame = clock.frame(Duration::from_millis(21));
/// for _ in 0..frame.ticks {
///     body.tick(&Intent::default(), &level, clock.dt());
/// }
/// let pose = body.pose(frame.blend); // between the last two ticks
/// println!("{} at {}", pose.gait, pose.position);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Pose<V> {
    /// The position of the drawn underside. On firm footing it touches the ground, without the
    /// clearance. It follows steps smoothly, with the half-life `slope.soften_time`.
    pub position: V,
    /// The direction of the body's up, of length 1. Where gravity changes it rotates from one tick
    /// to the next.
    pub up: V,
    /// The facing, of length 1.
    pub facing: V,
    /// The gait to show.
    pub gait: Gait,
    /// Seconds since the gait began.
    pub gait_age: f32,
    /// The velocity in the world, in m/s, including that of the ground: for leaning, and for
    /// blending by speed and direction.
    pub velocity: V,
    /// The phase of the walking cycle, from 0 up to 1. The left foot comes down at 0, the right one
    /// at 0.5, each with [`Event::Footfall`](crate::Event::Footfall). 0 off the ground, and if
    /// `walk.stride` is 0.
    pub stride: f32,
    /// The running maneuver, if there is one.
    pub maneuver: Option<ManeuverPose>,
    /// The spin of a jump, in radians.
    pub spin: f32,
    /// How far a ball has rolled, in radians: to the right in a side view, else toward its facing.
    /// 0 for other hulls.
    pub rolled: f32,
    /// The velocity along the ground as the body sees it, as a fraction of its top speed: x toward
    /// its right, y forward. The point of a directional blend; its length is the fraction of the top
    /// speed. The top speed is that of running, or of walking if that is higher or running is
    /// switched off, and that of crouching for a crouched body. In a side view x is 0.
    pub motion: Vec2,
    /// 1 to show a sprite as it was drawn, facing right; -1 to mirror it. Kept where the body faces
    /// straight up or down the screen, or toward or away from it.
    pub mirror: f32,
    /// The rate at which the body turns about its up, in radians per second; above 0 to its left. 0 in
    /// a side view.
    pub turn_rate: f32,
    /// How far to lean, in radians: x toward its right, y forward. The body leans into turns, forward
    /// as it speeds up and back as it brakes. The angle is atan(a/g) for a horizontal acceleration a,
    /// at most 45°, and follows with the half-life `walk.lean_time`.
    pub lean: Vec2,
    /// The strength of the last landing, from 0 to 1: the speed of the touch as a fraction of the
    /// terminal speed, fading with the half-life `fall.landing_time`.
    pub landing: f32,
    /// The orientation of a ball that rolls without slipping, in the world; the identity for other
    /// hulls. In a side view it turns about z.
    pub orientation: Quat,
    /// The running overlay, if there is one.
    pub overlay: Option<ManeuverPose>,
    /// The height above its position at which it is drawn: the arc of a hop.
    pub lift: f32,
    /// The distance from the middle of the underside down to the ground, in metres along `up`: 0 on
    /// level ground and in the air. A hull that is wide at its underside touches a slope, or the
    /// edge of a step, beside its middle. For placing feet on the ground.
    pub hover: f32,
}

/// A maneuver or an overlay, as an animation shows it.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct ManeuverPose {
    /// Its name.
    pub name: Name,
    /// The current phase. [`Phase::Cooldown`] does not occur.
    pub phase: Phase,
    /// The fraction of that phase that has passed, from 0 to 1.
    pub progress: f32,
}

impl<V: Vector> Pose<V> {
    /// The pose between two states that are one tick apart, with the memory that has followed that
    /// tick. `blend` is 0 for `before` and 1 for `now`; values outside that range are clamped. It has
    /// no overlay.
    #[must_use]
    pub fn between(
        before: &State<V>,
        now: &State<V>,
        memory: &PoseMemory,
        tuning: &Tuning,
        hull: &Hull,
        blend: f32,
    ) -> Self {
        let blend = within(blend);
        let position = drawn(before, hull).lerp(drawn(now, hull), blend);
        let facing = before.facing.lerp(now.facing, blend).direction().unwrap_or(now.facing);
        let Shown { mirror, turn_rate, lean, landing, orientation } = memory.at(now, facing, blend);
        let relative = before.velocity.lerp(now.velocity, blend);
        Self {
            position,
            up: between(before.up, now.up, now.right, blend),
            facing,
            motion: motion(now, facing, relative, top_speed(now, tuning)),
            mirror,
            turn_rate,
            lean: Vec2::new(libm::atanf(lean.x), libm::atanf(lean.y)),
            landing,
            orientation,
            overlay: None,
            gait: now.animation.gait,
            gait_age: now.animation.gait_age.seconds(),
            velocity: in_world(before) + (in_world(now) - in_world(before)) * blend,
            stride: stride(before, now, tuning.walk.stride, blend),
            maneuver: maneuver(now),
            spin: if now.animation.spin == 0.0 {
                0.0
            } else {
                before.animation.spin + (now.animation.spin - before.animation.spin) * blend
            },
            rolled: before.animation.rolled
                + nearest_turn(now.animation.rolled - before.animation.rolled) * blend,
            hover: if before.footing.is_firm() {
                hover(before, hull) + (hover(now, hull) - hover(before, hull)) * blend
            } else {
                hover(now, hull)
            },
            lift: arc(before) + (arc(now) - arc(before)) * blend,
        }
    }
}

/// The speed that `Pose::motion` is relative to.
fn top_speed<V>(state: &State<V>, tuning: &Tuning) -> f32 {
    if state.crouched {
        return tuning.crouch.speed;
    }
    let run = if tuning.run.enabled >= 0.5 { tuning.run.speed } else { 0.0 };
    run.max(tuning.walk.speed.abs())
}

/// An overlay, as an animation shows it.
pub(super) fn overlay(overlay: &Overlay) -> ManeuverPose {
    ManeuverPose { name: overlay.name, phase: overlay.phase(), progress: overlay.progress() }
}

fn drawn<V: Vector>(state: &State<V>, hull: &Hull) -> V {
    let exact = state.position + state.remainder;
    let drawn = exact + state.up * state.animation.step_offset;
    if state.footing.is_firm() { drawn - state.footing.normal * hull.clearance() } else { drawn }
}

/// The distance from the drawn feet down to the ground.
fn hover<V: Vector>(state: &State<V>, hull: &Hull) -> f32 {
    let Footing { normal, point, .. } = state.footing;
    let above = -point.dot(normal) - hull.clearance();
    let origin = state.hull(hull).origin();
    if state.footing.is_firm() { (above / normal.dot(state.up) - origin).max(0.0) } else { 0.0 }
}

fn in_world<V: Vector>(state: &State<V>) -> V {
    state.velocity + state.ground_velocity
}

/// The phase of the walking cycle between two states. `length` is that of a stride.
fn stride<V>(before: &State<V>, now: &State<V>, length: f32, blend: f32) -> f32 {
    let phase = |state: &State<V>| within(0.5 * state.animation.stride / length);
    if length <= 0.0 || now.mode != Mode::Grounded {
        return 0.0;
    }
    let (from, to) = (phase(before), phase(now));
    // It only runs forward: a smaller value has passed 1.
    let advance = if to < from { to + 1.0 - from } else { to - from };
    let between = from + advance * blend;
    if between >= 1.0 { between - 1.0 } else { between }
}

fn maneuver<V>(state: &State<V>) -> Option<ManeuverPose> {
    let maneuver = state.maneuver.as_ref()?;
    let (phases, age) = (maneuver.plan.phases(), maneuver.age);
    let shown =
        ManeuverPose { name: state.mode.name(), phase: phases.at(age), progress: phases.progress_at(age) };
    (shown.phase != Phase::Cooldown).then_some(shown)
}

/// An angle without whole turns.
fn nearest_turn(angle: f32) -> f32 {
    angle - libm::roundf(angle / core::f32::consts::TAU) * core::f32::consts::TAU
}

/// The height of a maneuver's arc: a parabola over its active phase.
fn arc<V>(state: &State<V>) -> f32 {
    state.maneuver.as_ref().map_or(0.0, |maneuver| {
        let fraction = maneuver.plan.progress(maneuver.age);
        4.0 * maneuver.plan.arc * fraction * (1.0 - fraction)
    })
}
