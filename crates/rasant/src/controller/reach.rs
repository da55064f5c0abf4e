//! The region of the surroundings that a tick gathers.

use crate::space::{Bounds, Vector};
use crate::tuning::Tuning;

/// Bounds of displacement with a margin for a step up and a step down.
pub(super) fn around_feet<V: Vector>(reach: Bounds<V>, tuning: &Tuning) -> Bounds<V> {
    let slope = &tuning.slope;
    Bounds {
        min: reach.min - V::UP * slope.ground_snap.max(slope.step_height),
        max: reach.max + V::UP * slope.step_height,
    }
}

/// How far to each side of a displacement with this `length`, in metres, pieces are gathered for a
/// hull with this `height`. If the body is deflected further, more is gathered then.
pub(super) fn room_aside(length: f32, height: f32) -> f32 {
    0.5 * length.min(height)
}
