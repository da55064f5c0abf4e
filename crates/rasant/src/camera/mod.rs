//! Cameras that follow a body: from the side, from above, on an arm behind it, and from its eyes.
//!
//! A [`Camera`] is plain data. It is ticked with the body, after it, and read as often as a frame is
//! drawn, at any time between two ticks. What it shows does not depend on the rate of the frames.
//!
//! ```
//! use rasant::camera::Camera;
//! use rasant::glam::Vec2;
//! use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
//!
//! # let mut builder = Level::builder();
//! # builder.add(Piece::block(Vec2::new(-50.0, -1.0), Vec2::new(50.0, 0.0))?);
//! # let level = builder.build()?;
//! let mut body = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec2::ZERO);
//! let mut camera = Camera::new(body.tuning.camera, &body);
//! for _ in 0..120 {
//!     body.tick(&Intent::steering(1.0, 0.0), &level, 1.0 / 60.0);
//!     camera.tick(&body, 1.0 / 60.0);
//! }
//! // In each frame: the point that is in the middle of the picture.
//! let middle = camera.focus(0.25);
//! assert!(middle.x > body.position().x, "it looks ahead");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub(crate) mod knobs;
mod spring;

use glam::Vec3;

use crate::contact::{Geometry, Hull, Queries};
use crate::controller::Controller;
use crate::input::Look;
use crate::level::{Layers, Surroundings};
use crate::space::{Bounds, Vector};
use crate::state::Event;

pub use knobs::CameraKnobs;
use spring::Spring;

/// A camera that follows a body: see the [module](self).
#[derive(Clone, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Camera<V> {
    /// How it follows.
    pub knobs: CameraKnobs,
    /// The bounds that the picture stays in, if any: see [`Camera::limited`].
    pub limits: Option<Limits<V>>,
    /// The length of the last tick, in seconds. The springs are as they were at its start.
    tick: f32,
    across: Spring<V>,
    up: Spring<V>,
    /// The points that the springs followed, at the start of the tick and at its end.
    target: [V; 2],
    /// The point that the dead zone is around, without the lead.
    held: V,
    lead: Spring<V>,
    /// The direction along which heights are measured.
    along_up: V,
    /// The height of the followed point over the last ground, along up.
    ground: f32,
    /// The height of the eyes, and the height that it follows.
    eyes: Spring<V>,
    eyes_target: f32,
    /// The length of the arm.
    arm: Spring<V>,
    /// Seconds since the shake began.
    time: f32,
    shake: [f32; 2],
}

/// The bounds of a picture.
#[derive(Clone, Copy, Debug, PartialEq)]
#[cfg_attr(feature = "serde", derive(serde::Serialize, serde::Deserialize))]
pub struct Limits<V> {
    /// The region that is shown, as a room of a level.
    pub bounds: Bounds<V>,
    /// Half the width and height (and depth) of what the picture shows, in metres.
    pub half_view: V,
}

/// The place and the direction of a camera in three dimensions.
#[derive(Clone, Copy, Debug, PartialEq)]
pub struct View {
    /// Where the camera is.
    pub eye: Vec3,
    /// The direction in which it looks, of length 1.
    pub ahead: Vec3,
    /// The up of the picture, of length 1 and perpendicular to `ahead`.
    pub up: Vec3,
}

impl<V: Geometry> Camera<V> {
    /// A camera that has followed a body that stood where it is.
    #[must_use]
    pub fn new(knobs: CameraKnobs, body: &Controller<V>) -> Self {
        let mut camera = Self {
            knobs,
            limits: None,
            tick: 0.0,
            across: Spring::at(V::ZERO),
            up: Spring::at(V::ZERO),
            target: [V::ZERO; 2],
            held: V::ZERO,
            lead: Spring::at(V::ZERO),
            along_up: V::UP,
            ground: 0.0,
            eyes: Spring::at(V::ZERO),
            eyes_target: 0.0,
            arm: Spring::at(V::ZERO),
            time: 0.0,
            shake: [0.0; 2],
        };
        camera.cut(body);
        camera
    }

    /// The camera, with a picture that shows only what is within `bounds`. `half_view` is half of what
    /// the picture shows, in metres. Where it shows more than the bounds have, it is centred in them.
    #[must_use]
    pub fn limited(self, bounds: Bounds<V>, half_view: V) -> Self {
        Self { limits: Some(Limits { bounds, half_view }), ..self }
    }

    /// Goes to the body at once, as after a change of the level. A teleport and a respawn do so
    /// by themselves.
    pub fn cut(&mut self, body: &Controller<V>) {
        let anchor = self.anchor(body);
        self.along_up = body.state().up;
        self.ground = anchor.dot(self.along_up);
        self.held = anchor;
        self.lead = Spring::at(self.wanted_lead(body));
        let target = anchor + self.lead.at;
        self.target = [target; 2];
        (self.across, self.up) = (Spring::at(target), Spring::at(target));
        self.eyes_target = self.eye_height(body);
        self.eyes = Spring::at(V::UP * self.eyes_target);
        self.arm = Spring::at(V::UP * self.knobs.arm);
        self.tick = 0.0;
    }

    /// Follows the body through a tick of `dt` seconds. Call it after the tick of the body.
    pub fn tick(&mut self, body: &Controller<V>, dt: f32) {
        if !(dt > 0.0 && dt.is_finite() && body.position().is_finite()) {
            return;
        }
        if body.events().iter().any(Event::is_elsewhere) {
            self.cut(body);
        }
        // What was between the two ticks is now the past.
        self.across = self.followed(self.across, self.knobs.settle_time, self.tick);
        self.up = self.followed(self.up, self.knobs.settle_time_up, self.tick);
        self.eyes = self.followed_eyes(self.tick);
        self.arm = self.extended(self.tick);
        self.shake[0] = self.shake[1];
        // Small numbers, so that the sines stay smooth in a long game.
        self.time = if self.shake[0] > 0.0 { self.time + self.tick } else { 0.0 };
        self.shake[1] = (self.shake[1] - dt / self.knobs.shake_time).max(0.0);
        self.tick = dt;
        self.along_up = body.state().up;
        self.hold(body);
        let wanted = self.wanted_lead(body);
        self.lead = self.lead.after(dt, self.knobs.lead_settle_time, (wanted, V::ZERO));
        self.target = [self.target[1], self.held + self.lead.at];
        self.eyes_target = self.eye_height(body);
    }

    /// Shakes the picture with a strength of 0 to 1. A stronger one that has not ended goes on.
    pub fn shake(&mut self, strength: f32) {
        if strength > 0.0 {
            self.shake[1] = self.shake[1].max(strength.min(1.0));
            self.shake[0] = self.shake[0].max(self.shake[1]);
        }
    }

    /// The point in the middle of the picture, at a fraction `blend` of the time from the last tick but
    /// one (0) to the last tick (1), as in [`Controller::pose`].
    #[must_use]
    pub fn focus(&self, blend: f32) -> V {
        self.within_limits(self.smooth(blend) + self.shaken(blend))
    }

    /// The focus without limits and shaking.
    fn smooth(&self, blend: f32) -> V {
        let time = self.time_of(blend);
        let across = self.followed(self.across, self.knobs.settle_time, time).at;
        let up = self.followed(self.up, self.knobs.settle_time_up, time).at;
        across.slid_along(self.along_up) + self.along_up * up.dot(self.along_up)
    }

    fn time_of(&self, blend: f32) -> f32 {
        within_tick(blend) * self.tick
    }

    /// A spring after some of the last tick.
    fn followed(&self, spring: Spring<V>, settle_time: f32, time: f32) -> Spring<V> {
        if self.tick <= 0.0 {
            return spring;
        }
        let [from, to] = self.target;
        spring.after(time, settle_time, (from, (to - from) * (1.0 / self.tick)))
    }

    fn followed_eyes(&self, time: f32) -> Spring<V> {
        self.eyes.after(time, self.knobs.eyes_settle_time, (V::UP * self.eyes_target, V::ZERO))
    }

    fn extended(&self, time: f32) -> Spring<V> {
        self.arm.after(time, self.knobs.arm_extend_time, (V::UP * self.knobs.arm, V::ZERO))
    }

    /// Moves the point that the dead zone is around, if the body has left the zone.
    fn hold(&mut self, body: &Controller<V>) {
        let CameraKnobs { dead_zone, dead_zone_up, jump_zone, .. } = self.knobs;
        let (up, anchor) = (self.along_up, self.anchor(body));
        let stands = body.state().footing.is_firm() || body.state().from_above;
        let height = anchor.dot(up);
        if stands || jump_zone <= 0.0 {
            self.ground = height;
        }
        // In the air the height of the last ground counts.
        let height = beyond(self.ground, height, if stands { 0.0 } else { jump_zone });
        let held_height = beyond(self.held.dot(up), height, dead_zone_up);
        let offset = (anchor - self.held).slid_along(up);
        let length = offset.length();
        let moved = if length > dead_zone { offset * (1.0 - dead_zone / length) } else { V::ZERO };
        self.held = self.held.slid_along(up) + moved + up * held_height;
    }

    /// The point of the body that is followed.
    fn anchor(&self, body: &Controller<V>) -> V {
        let up = if body.state().from_above { V::ZERO } else { body.state().up };
        body.position() + up * (self.knobs.height * body.hull.height())
    }

    fn wanted_lead(&self, body: &Controller<V>) -> V {
        let state = body.state();
        let velocity = body.velocity();
        let across = if state.from_above { velocity } else { velocity.slid_along(state.up) };
        (state.facing * self.knobs.lead + across * self.knobs.lead_time).capped(self.knobs.lead_most)
    }

    fn eye_height(&self, body: &Controller<V>) -> f32 {
        self.knobs.eyes * body.present_hull().height()
    }

    /// The displacement of the picture by shaking.
    fn shaken(&self, blend: f32) -> V {
        let strength = self.shake_at(blend);
        let length = self.knobs.shake_length * strength * strength;
        V::from_array(self.wobble(blend).map(|part| part * length))
    }

    fn shake_at(&self, blend: f32) -> f32 {
        let [from, to] = self.shake;
        from + (to - from) * within_tick(blend)
    }

    /// Three numbers from −1 to 1 that change smoothly and do not repeat soon.
    fn wobble(&self, blend: f32) -> [f32; 3] {
        let time = self.time + self.time_of(blend);
        [(31.0, 47.0), (37.0, 53.0), (29.0, 43.0)]
            .map(|(slow, fast)| 0.6 * libm::sinf(slow * time + slow) + 0.4 * libm::sinf(fast * time))
    }

    fn within_limits(&self, focus: V) -> V {
        let Some(Limits { bounds, half_view }) = self.limits else { return focus };
        let (low, high) = (bounds.min + half_view, bounds.max - half_view);
        let middle = (bounds.min + bounds.max) * 0.5;
        focus.max(low.min(middle)).min(high.max(middle))
    }
}

impl Camera<Vec3> {
    /// Follows the body through a tick, as [`tick`](Self::tick), and retracts the arm at once where
    /// something that is solid to `mask` is between the body and the camera.
    pub fn tick_on_arm(
        &mut self,
        body: &Controller<Vec3>,
        dt: f32,
        look: Look,
        surroundings: &impl Surroundings<Vec3>,
        mask: Layers,
    ) {
        self.tick(body, dt);
        let long = self.extended(self.tick).at.y;
        let free = self.free_length(body, look, 1.0, (surroundings, mask)).1;
        if free < long {
            // At the end of the tick it is no longer than that; it extends from there.
            self.arm = Spring::at(Vec3::Y * free);
        }
    }

    /// Where the camera is on its arm behind the body, looking along `look` in the axes of the body:
    /// third person, or from above with a look that points down. The path from the body to the focus and
    /// on to the camera is swept with a ball of `camera.arm_radius`, so that the camera is never in what
    /// is solid to `mask`.
    #[must_use]
    pub fn on_arm(
        &self,
        body: &Controller<Vec3>,
        look: Look,
        blend: f32,
        surroundings: &impl Surroundings<Vec3>,
        mask: Layers,
    ) -> View {
        let (focus, free) = self.free_length(body, look, blend, (surroundings, mask));
        let length = self.extended(self.time_of(blend)).at.y.min(free);
        let [ahead, up] = axes_of(body, look, blend);
        self.shaken_view(focus - ahead * length, [ahead, up], body.tuning.scale, blend)
    }

    /// The focus as far as it can be reached from the body, and the free length of the arm from there.
    fn free_length(
        &self,
        body: &Controller<Vec3>,
        look: Look,
        blend: f32,
        (surroundings, mask): (&impl Surroundings<Vec3>, Layers),
    ) -> (Vec3, f32) {
        let pose = body.pose(blend);
        let hull = body.present_hull();
        // A ball in the middle of the hull is free. What is between it and the focus need not be.
        let radius = self.knobs.arm_radius.min(0.95 * hull.half_width()).min(0.47 * hull.height());
        let middle = pose.position + pose.up * (0.5 * hull.height());
        let Ok(ball) = Hull::ball(radius) else { return (middle, 0.0) };
        let free = |from: Vec3, by: Vec3| {
            let length = by.length();
            let met = surroundings.sweep(&ball, from - Vec3::Y * radius, by, mask);
            let skin = SKIN * body.tuning.scale;
            met.map_or(length, |impact| (impact.distance - skin).clamp(0.0, length))
        };
        let to_focus = self.within_limits(self.smooth(blend)) - middle;
        let reached = free(middle, to_focus);
        let focus = middle + to_focus.normalize_or_zero() * reached;
        let [ahead, _] = axes_of(body, look, blend);
        (focus, free(focus, -ahead * self.knobs.arm))
    }

    /// The view from the eyes of the body along `look`. The eyes follow steps and crouching smoothly.
    #[must_use]
    pub fn from_eyes(&self, body: &Controller<Vec3>, look: Look, blend: f32) -> View {
        let pose = body.pose(blend);
        let height = self.followed_eyes(self.time_of(blend)).at.y;
        let axes = axes_of(body, look, blend);
        self.shaken_view(pose.position + pose.up * height, axes, body.tuning.scale, blend)
    }

    /// A view with the shaking, which turns it and does not move it. `ahead` and `up` are at right
    /// angles.
    fn shaken_view(&self, eye: Vec3, [ahead, up]: [Vec3; 2], scale: f32, blend: f32) -> View {
        /// The distance in metres at which a turn moves the picture as far as a displacement would.
        const AWAY: f32 = 8.0;
        let right = ahead.cross(up);
        let strength = self.shake_at(blend);
        let angle = self.knobs.shake_length * strength * strength / (AWAY * scale);
        let [x, y, roll] = self.wobble(blend).map(|part| part * angle);
        let ahead = (ahead + right * x + up * y).normalize();
        let right = (right + up * roll).normalize();
        View { eye, ahead, up: right.cross(ahead).normalize() }
    }
}

/// The direction of a look, and the up of its picture: a look is in the axes of the body.
fn axes_of(body: &Controller<Vec3>, look: Look, blend: f32) -> [Vec3; 2] {
    let up = body.pose(blend).up;
    let right = Vec3::right_for(up, body.state().right);
    let above = Look { pitch: look.pitch + core::f32::consts::FRAC_PI_2, ..look };
    [look, above].map(|look| look.direction().out_of_axes(right, up))
}

/// A blend from 0 to 1, also of one that is not a number.
fn within_tick(blend: f32) -> f32 {
    if blend > 0.0 { blend.min(1.0) } else { 0.0 }
}

/// The distance in metres at which a sweep of the camera ends before what it meets, beside the radius.
const SKIN: f32 = 1e-3;

/// A value that follows another one as far as that is further away than `zone`.
fn beyond(own: f32, other: f32, zone: f32) -> f32 {
    own.max(other - zone).min(other + zone)
}
