//! Intents that walk to a point.

#[cfg(not(feature = "std"))]
use crate::real::Real as _;
use glam::Vec2;

use crate::contact::Geometry;
use crate::input::{Intent, Look};
use crate::tuning::Steering;

use super::Controller;

/// The last metres to a point are walked at no more than the distance per this many seconds.
const SETTLE_TIME: f32 = 0.15;
/// A body that is nearer to the point than this fraction of its height has arrived.
const ARRIVED: f32 = 0.005;
/// A body that steers by turning walks only while it faces the point within about this angle, and
/// turns at full rate beyond it, in radians.
const TURN_ANGLE: f32 = 0.5;

impl Intent {
    /// The intent that walks straight to a point, whatever the body's [`Steering`], and stops
    /// there. It looks to the point as well. There is no path finding: walls and gaps on the line
    /// are not seen, and the height of the point counts only for a body seen from above.
    ///
    /// Near the point the steering gets shorter, so that the body arrives without passing it (at 20
    /// ticks per second or more). By [`Steering::Gaze`] and [`Steering::Hop`], which have no slow
    /// walk, it stops within the braking distance and within half a hop.
    ///
    /// ```
    /// use rasant::glam::Vec3;
    /// use rasant::{Controller, Hull, Intent, Level, Piece, Tuning};
    ///
    /// # let mut builder = Level::builder();
    /// # builder.add(Piece::block(Vec3::new(-20.0, -1.0, -20.0), Vec3::new(20.0, 0.0, 20.0))?);
    /// # let level = builder.build()?;
    /// let mut guard = Controller::new(Tuning::default(), Hull::capsule(0.35, 1.8)?, Vec3::ZERO);
    /// let post = Vec3::new(3.0, 0.0, -4.0);
    /// for _ in 0..150 {
    ///     guard.tick(&Intent::toward(post, &guard), &level, 1.0 / 60.0);
    /// }
    /// assert!(guard.position().distance(post) < 0.02);
    /// # Ok::<(), Box<dyn std::error::Error>>(())
    /// ```
    #[must_use]
    pub fn toward<V: Geometry>(point: V, body: &Controller<V>) -> Self {
        let (state, tuning) = (body.state(), &body.tuning);
        let steering = tuning.steering.in_dimension(V::DIMENSION);
        let local = state.frame().local(point - state.position);
        let level = if steering.is_from_above(V::DIMENSION) { local } else { local.with_height(0.0) };
        let distance = level.length();
        if distance <= ARRIVED * body.hull.height() || !distance.is_finite() {
            return Self::default();
        }
        let [x, y, z] = level.to_array();
        let along = Vec2::new(x, if V::DIMENSION == 2 { y } else { -z }) * (1.0 / distance);
        let look = Look { yaw: libm::atan2f(-along.x, along.y), pitch: 0.0 };
        let top = tuning.walk.speed.abs();
        let braking = (2.0 * distance / (top * tuning.walk.stop_time).max(1e-6)).sqrt();
        let fraction = braking.min(distance / (top * SETTLE_TIME).max(1e-6)).min(1.0);
        let steer = match steering {
            Steering::Usual | Steering::Side => Vec2::new(along.x.signum() * fraction, 0.0),
            Steering::Plan => along * fraction,
            Steering::View => Vec2::Y * fraction,
            Steering::Body => {
                let angle = state.frame().local(state.facing).turn_to(level);
                let ahead = 1.0 - (angle / TURN_ANGLE).abs();
                Vec2::new(-(angle / TURN_ANGLE).clamp(-1.0, 1.0), ahead.max(0.0) * fraction)
            }
            Steering::Gaze => {
                let is_far = distance > 0.5 * top * tuning.walk.stop_time;
                let pitch = if is_far { tuning.turn.gaze } else { 0.0 };
                return Self { look: Look { pitch, ..look }, ..Self::default() };
            }
            Steering::Hop => {
                let step = 0.5 * tuning.hop.length;
                if (along.x * distance).abs() > step {
                    Vec2::new(along.x.signum(), 0.0)
                } else if (along.y * distance).abs() > step {
                    Vec2::new(0.0, along.y.signum())
                } else {
                    Vec2::ZERO
                }
            }
        };
        // In two dimensions only this steering has a look.
        let look = if V::DIMENSION == 2 && steering != Steering::View { Look::default() } else { look };
        Self { steer, look, ..Self::default() }
    }
}
